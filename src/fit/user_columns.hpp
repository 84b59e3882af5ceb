// From the working form of a linear fit to its parameters.
#pragma once

#include "linear_factor.hpp"

namespace truecurve::detail {

/// Undoes order, scale and centres; theta (by parameter) belongs to the centred columns. Returns by how much the
/// conversion may have magnified the rounding errors of K.
double to_user_columns(const Problem& problem, const DoubleDoubles& theta, const DoubleDoubles& k_matrix,
                       LinearSolution& solution);

}  // namespace truecurve::detail
