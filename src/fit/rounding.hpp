// Whether what is left of a fit is more than the rounding of its numbers.
#pragma once

#include "solve.hpp"

namespace truecurve::detail {

/// Whether the residuals are no larger than rounding makes them.
[[nodiscard]] bool are_rounding(const Solved& solved);

/// A parameter that moves the curve by no more than the rounding of the responses is 0: so the constant of points on a
/// line through the origin, which else would be some -3.7e-17; and so are parts of the sum of squares.
void take_rounding_for_zero(LinearSolution& solution, const Model& model, const Observations& left);

}  // namespace truecurve::detail
