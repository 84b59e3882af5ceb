// The entries of the catalogue: what a shape shows, and how its search begins.
#pragma once

#include <truecurve/model/shapes.hpp>

#include "shape_starts.hpp"

#include <vector>

namespace truecurve::detail {

struct CatalogueEntry {
  Shape shape;
  Propose propose = nullptr;  // of a shape that is not linear
};

/// Simplest first.
[[nodiscard]] const std::vector<CatalogueEntry>& catalogue();

}  // namespace truecurve::detail
