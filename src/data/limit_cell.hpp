// Cells that hold a limit in place of a value.
#pragma once

#include <truecurve/data/censoring.hpp>

#include <optional>
#include <string>

namespace truecurve::detail {

struct LimitCell {
  Censoring censoring = Censoring::none;
  double value = 0;
};

/// "<0.05", "> 1e7", "≤ 3", "≥2": a result below or above what could be measured; a decimal comma is one.
[[nodiscard]] std::optional<LimitCell> limit_cell(std::string text);

}  // namespace truecurve::detail
