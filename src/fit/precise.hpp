// Linear least squares in double-double arithmetic.
#pragma once

#include "linear_factor.hpp"

namespace truecurve::detail {

/// Columns, factor and residuals with 32 digits. Throws Error (rank_deficient).
[[nodiscard]] LinearSolution solve_precisely(const Problem& problem);

}  // namespace truecurve::detail
