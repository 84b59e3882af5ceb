// Leverage, standardized residuals and Cook's distance.
#include <truecurve/assess/checks.hpp>

#include "../base/matrices.hpp"
#include "../fit/weights.hpp"

#include <cmath>

namespace truecurve {

using Eigen::Index;

// A leverage this near 1 leaves no residual to speak of.
constexpr double full_leverage = 1 - 1e-9;

RowMeasures row_measures(const Fit& fit) {
  RowMeasures measures;
  measures.leverage = fit.leverage();
  const VectorXd residuals = detail::Weights(fit.left_side_observations()).standardized(as_eigen(fit.residuals()));
  const Index n = residuals.size();
  measures.standardized = VectorXd::Constant(n, not_a_number);
  measures.studentized = measures.standardized;
  measures.cook_distance = measures.standardized;
  const double dof = fit.degrees_of_freedom();
  if (!(dof > 0)) return measures;
  const bool stated = fit.estimate().has_known_scale();
  // Of a counted response the residuals are Pearson's, and their dispersion is the scale.
  const double squares = fit.is_counted() ? residuals.squaredNorm() : fit.chi_squared();
  const double variance = stated ? 1 : squares / dof;
  const auto p = static_cast<double>(fit.estimate().free_parameters());
  for (Index i = 0; i < n; ++i) {
    const double h = measures.leverage[i];
    if (h >= full_leverage || !(variance > 0)) continue;
    const double square = residuals[i] * residuals[i] / (1 - h);
    measures.standardized[i] = residuals[i] / std::sqrt(variance * (1 - h));
    measures.cook_distance[i] = square / variance * h / ((1 - h) * p);
    const double others = stated ? 1 : dof > 1 ? (squares - square) / (dof - 1) : not_a_number;
    if (others > 0) measures.studentized[i] = residuals[i] / std::sqrt(others * (1 - h));
  }
  return measures;
}

}  // namespace truecurve
