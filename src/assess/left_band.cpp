// From the working form: the gradient in centred columns against the inverse triangular factor.
#include "left_band.hpp"

#include "../base/matrices.hpp"
#include "../fit/column_evaluator.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/left_side.hpp"

#include <algorithm>
#include <cmath>
#include <memory>

namespace truecurve::detail {

using Eigen::Index;

namespace {

std::size_t count_of(std::span<const Vector> points) { return points.empty() ? 1 : points[0].size(); }

// Calls use(row, g) for every point, g its columns less their centres, the offset behind them.
template <typename Use>
void for_each_point(const EstimateParts& parts, std::span<const Vector> points, Use use) {
  const WorkingForm& working = parts.working;
  const Index p = working.parameters.size();
  const std::size_t total = count_of(points);
  ColumnEvaluator evaluator(*data_of(parts.model).bound, working);
  // No more memory than the points need: most calls ask for one.
  const std::size_t stride = std::min(block_rows, total);
  const auto columns = std::make_unique_for_overwrite<double[]>(static_cast<std::size_t>(p + 1) * stride);
  std::vector<const double*> at(points.size());
  VectorXd g(p);
  for (std::size_t start = 0; start < total; start += stride) {
    const std::size_t rows = std::min(stride, total - start);
    for (std::size_t k = 0; k < points.size(); ++k) at[k] = points[k].data() + start;
    evaluator.run(at, rows, columns.get(), stride);
    for (std::size_t i = 0; i < rows; ++i) {
      for (Index j = 0; j < p; ++j) g[j] = columns[static_cast<std::size_t>(j) * stride + i] - working.centre[j];
      use(static_cast<Index>(start + i), g, columns[static_cast<std::size_t>(p) * stride + i]);
    }
  }
}

}  // namespace

LeftBand left_band(const EstimateParts& parts, std::span<const Vector> points) {
  const WorkingForm& working = parts.working;
  const auto count = static_cast<Index>(count_of(points));
  LeftBand result{VectorXd(count), VectorXd(count)};
  // Where a counted response is separated, the information at one steepness says nothing of the curve's uncertainty.
  const bool is_step = parts.open_end && !parts.observation_model.is_measured();
  const double scale = is_step ? not_a_number : parts.scale;
  VectorXd spread(working.parameters.size());
  for_each_point(parts, points, [&](Index row, const VectorXd& g, double offset) {
    result.value[row] = offset + working.parameters.dot(g);
    spread.noalias() = working.inverse_factor.transpose() * g;
    result.uncertainty[row] = scale * spread.stableNorm();
  });
  return result;
}

VectorXd left_curve(const EstimateParts& parts, std::span<const Vector> points) {
  VectorXd values(static_cast<Index>(count_of(points)));
  for_each_point(parts, points, [&](Index row, const VectorXd& g, double offset) {
    values[row] = offset + parts.working.parameters.dot(g);
  });
  return values;
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
