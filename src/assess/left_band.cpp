// From the working form: the gradient in centred columns against the inverse triangular factor.
#include "left_band.hpp"

#include "../base/matrices.hpp"
#include "../fit/column_evaluator.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/left_side.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve::detail {

using Eigen::Index;

LeftBand left_band(const EstimateParts& parts, std::span<const Vector> points) {
  const WorkingForm& working = parts.working;
  const Index p = working.parameters.size();
  const auto count = static_cast<Index>(points[0].size());
  LeftBand result{VectorXd(count), VectorXd(count)};
  ColumnEvaluator evaluator(*detail::data_of(parts.model).bound, working);
  std::vector<double> columns(static_cast<std::size_t>(p + 1) * block_rows);
  VectorXd g(p);
  // Where a counted response is separated, the information at one steepness says nothing of the curve's uncertainty.
  const bool is_step = parts.open_end && !parts.observation_model.is_measured();
  const double scale = is_step ? not_a_number : parts.scale;
  const auto total = static_cast<std::size_t>(count);
  for (std::size_t start = 0; start < total; start += block_rows) {
    const std::size_t rows = std::min(block_rows, total - start);
    std::vector<const double*> at;
    for (const Vector& x : points) at.push_back(x.data() + start);
    evaluator.run(at, rows, columns.data(), block_rows);
    for (std::size_t i = 0; i < rows; ++i) {
      for (Index j = 0; j < p; ++j) g[j] = columns[static_cast<std::size_t>(j) * block_rows + i] - working.centre[j];
      const auto row = static_cast<Index>(start + i);
      result.value[row] = columns[static_cast<std::size_t>(p) * block_rows + i] + working.parameters.dot(g);
      result.uncertainty[row] = scale * (working.inverse_factor.transpose() * g).stableNorm();
    }
  }
  return result;
}

WayBack::WayBack(const BoundModel& bound, std::span<const Vector> points) : bound_(bound) {
  for (const Vector& x : points) points_.push_back(x.data());
}

WayBack::Responses WayBack::at(const VectorXd& left) const {
  Response made = response_at(bound_, left, points_);
  return {std::move(made.value), std::move(made.slope)};
}

std::vector<Interval> WayBack::intervals(const VectorXd& low, const VectorXd& high, const VectorXd& middle,
                                         const Responses& at_middle) const {
  std::vector<Interval> result(static_cast<std::size_t>(middle.size()));
  if (!bound_.transformed) {
    for (Index i = 0; i < middle.size(); ++i) result[static_cast<std::size_t>(i)] = {low[i], high[i]};
    return result;
  }
  const VectorXd from = at(low).value;
  const VectorXd to = at(high).value;
  for (Index i = 0; i < middle.size(); ++i) {
    Interval& interval = result[static_cast<std::size_t>(i)];
    if (!std::isfinite(low[i]) || !std::isfinite(high[i])) continue;
    // Beyond a pole the inverse comes back from the other side: it must move on in its own direction.
    const auto limit = [&](double value, double sign) {
      const double onward = sign * at_middle.slope[i];
      return std::isfinite(value) && (value - at_middle.value[i]) * onward >= 0 ? value
                                                                                : std::copysign(infinity, onward);
    };
    const double one = limit(from[i], -1);
    const double other = limit(to[i], 1);
    interval = {std::min(one, other), std::max(one, other)};
  }
  return result;
}

}  // namespace truecurve::detail
