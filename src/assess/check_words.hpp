// What a residual check says, and advises.
#pragma once

#include <truecurve/assess/checks.hpp>

#include "residual_design.hpp"

namespace truecurve::detail {

/// Fills in the sentence, and of a significant check the advice; `checks` are judged together.
void put_into_words(Check& check, std::size_t checks, const ResidualDesign& design, const Fit& fit);

}  // namespace truecurve::detail
