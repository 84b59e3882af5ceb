// One step of refinement of a linear fit.
#pragma once

#include "linear_factor.hpp"

namespace truecurve::detail {

/// Residuals in double-double arithmetic, corrected through the factor (corrected seminormal equations; Björck 1996,
/// 6.6.5). Returns chi-squared.
double refine(const Problem& problem, const DoubleDoubles& k_matrix, DoubleDoubles& theta, Scratch& scratch);

}  // namespace truecurve::detail
