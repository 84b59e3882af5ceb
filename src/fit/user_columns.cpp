// Centres, scales and Chebyshev's columns undone.
#include "user_columns.hpp"

#include "../model/model_data.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// From Chebyshev's columns to powers of x: T_d((x - middle)/half_width) = sum_e m[e][d] x^e, by the recurrence
// T_{d+1}(t) = 2 t T_d(t) - T_{d-1}(t) on the coefficients.
double to_powers(const Problem& problem, const DoubleDoubles& theta, const DoubleDoubles& k_matrix,
                 DoubleDouble constant, const DoubleDoubles& constant_row, LinearSolution& solution) {
  const std::size_t p = problem.parameters();
  const DoubleDouble slope = DoubleDouble(1) / DoubleDouble(problem.half_width());
  const DoubleDouble shift = -DoubleDouble(problem.middle()) * slope;
  std::vector<DoubleDouble> m(p * p);
  m[0] = DoubleDouble(1);
  m[0 + p] = shift;
  m[1 + p] = slope;
  for (std::size_t d = 2; d < p; ++d) {
    for (std::size_t e = 0; e <= d; ++e) {
      DoubleDouble sum = DoubleDouble(2) * shift * m[e + (d - 1) * p];
      if (e > 0) sum += DoubleDouble(2) * slope * m[e - 1 + (d - 1) * p];
      m[e + d * p] = sum - m[e + (d - 2) * p];
    }
  }
  // by power: the parameter that multiplies it
  std::vector<std::size_t> of_power(p);
  for (std::size_t j = 0; j < p; ++j) of_power[static_cast<std::size_t>(problem.bound().powers[j])] = j;
  double magnified = 1;
  for (std::size_t e = 0; e < p; ++e) {
    const auto target = static_cast<Index>(of_power[e]);
    double parts = 0;
    DoubleDouble value;
    for (std::size_t d = e; d < p; ++d) value += m[e + d * p] * (d == 0 ? constant : theta[of_power[d]]);
    solution.parameters[target] = value.value();
    for (std::size_t k = 0; k < p; ++k) {
      DoubleDouble sum;
      for (std::size_t d = e; d < p; ++d) {
        const DoubleDouble part = m[e + d * p] * (d == 0 ? constant_row[k] : k_matrix[of_power[d] + k * p]);
        sum += part;
        parts += std::abs(part.high);
      }
      solution.spread(target, static_cast<Index>(k)) = sum.value();
    }
    magnified = std::max(magnified, parts / solution.spread.row(target).norm());
  }
  return magnified;
}

}  // namespace

double to_user_columns(const Problem& problem, const DoubleDoubles& theta, const DoubleDoubles& k_matrix,
                       LinearSolution& solution) {
  const auto p = static_cast<Index>(problem.parameters());
  solution.parameters.resize(p);
  solution.spread.resize(p, p);
  solution.working.centre.resize(p);
  solution.working.parameters.resize(p);
  solution.working.inverse_factor.resize(p, p);
  const auto k_at = [&](Index row, Index column) { return k_matrix[static_cast<std::size_t>(row + column * p)]; };
  for (Index j = 0; j < p; ++j) {
    const auto at = static_cast<std::size_t>(j);
    solution.parameters[j] = theta[at].value();
    solution.working.parameters[j] = theta[at].value();
    solution.working.centre[j] = problem.centre(at);
    for (Index k = 0; k < p; ++k) {
      solution.spread(j, k) = k_at(j, k).value();
      solution.working.inverse_factor(j, k) = k_at(j, k).value();
    }
  }
  solution.working.middle = problem.middle();
  solution.working.half_width = problem.half_width();
  if (!problem.has_constant()) return 1;
  // theta_0 f_0 + sum theta_j (f_j - c_j) = (theta_0 - sum theta_j c_j / f_0) f_0 + sum theta_j f_j
  const Index constant = problem.bound().constant_term;
  const DoubleDouble value(problem.bound().constant_value);
  DoubleDouble shifted = theta[static_cast<std::size_t>(constant)];
  DoubleDoubles row(static_cast<std::size_t>(p), DoubleDouble(), theta.get_allocator());
  for (Index k = 0; k < p; ++k) row[static_cast<std::size_t>(k)] = k_at(constant, k);
  for (Index j = 0; j < p; ++j) {
    if (j == constant) continue;
    const DoubleDouble share = DoubleDouble(problem.centre(static_cast<std::size_t>(j))) / value;
    shifted -= theta[static_cast<std::size_t>(j)] * share;
    for (Index k = 0; k < p; ++k) row[static_cast<std::size_t>(k)] -= share * k_at(j, k);
  }
  solution.parameters[constant] = shifted.value();
  for (Index k = 0; k < p; ++k) solution.spread(constant, k) = row[static_cast<std::size_t>(k)].value();
  return problem.is_polynomial() ? to_powers(problem, theta, k_matrix, shifted, row, solution) : 1;
}

}  // namespace truecurve::detail
