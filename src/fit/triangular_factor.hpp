// The triangular factor of a linear problem, block by block and in parallel.
#pragma once

#include "../base/matrices.hpp"
#include "linear_problem.hpp"

namespace truecurve::detail {

/// Of all rows, the response as its last column. The same whatever the number of threads.
[[nodiscard]] MatrixXd triangular_factor(const Problem& problem, Scratch& scratch);

}  // namespace truecurve::detail
