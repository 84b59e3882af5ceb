// Intervals, tests and correlation from estimate and covariance.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/base/distributions.hpp>

#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "../model/model_data.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve {

using Eigen::Index;

std::vector<ParameterInterval> parameter_intervals(const Estimate& estimate, Level level) {
  const double factor = estimate.coverage_factor(level);
  std::vector<ParameterInterval> intervals;
  const double degrees = estimate.scale_degrees_of_freedom();
  for (Index j = 0; j < as_eigen(estimate.parameters()).size(); ++j) {
    ParameterInterval made;
    made.name = estimate.parameter_names()[static_cast<std::size_t>(j)];
    made.unit = estimate.unit(j);
    made.value = estimate.parameters()[j];
    const auto& parts = detail::data_of(estimate.model()).bound->parts;
    if (!parts.empty() && parts[static_cast<std::size_t>(j)] == detail::ParameterPart::base) made.null_value = 1;
    made.standard_uncertainty = estimate.standard_uncertainties()[j];
    if (estimate.is_at_limit(j)) made.standard_uncertainty = not_a_number;
    if (std::isfinite(made.standard_uncertainty)) {
      made.low = made.value - factor * made.standard_uncertainty;
      made.high = made.value + factor * made.standard_uncertainty;
      if (!estimate.limits().empty()) {
        const Range& limits = estimate.limits()[static_cast<std::size_t>(j)];
        made.low = std::max(made.low, limits.low);
        made.high = std::min(made.high, limits.high);
      }
      if (made.standard_uncertainty > 0) {
        made.t = (made.value - made.null_value) / made.standard_uncertainty;
        made.p = student_t_two_sided(made.t, degrees);
      }
    }
    intervals.push_back(std::move(made));
  }
  return intervals;
}

Matrix correlation(const Estimate& estimate) {
  const auto u = as_eigen(estimate.standard_uncertainties());
  MatrixXd result = detail::parts_of(estimate).correlation;
  for (Index i = 0; i < result.rows(); ++i) {
    for (Index j = 0; j < result.cols(); ++j) {
      if (!(u[i] > 0) || !(u[j] > 0)) result(i, j) = not_a_number;
    }
  }
  return result;
}

}  // namespace truecurve
