// Expectations of the inverse of a left side.
#include <truecurve/assess/means.hpp>
#include <truecurve/base/distributions.hpp>

#include "../base/dense.hpp"
#include "../base/halton.hpp"
#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "left_band.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve {
namespace {

using Eigen::Index;

constexpr Index nodes = 16;
constexpr int draws = 4096;

// One point of the predictors, its inverse evaluated at many values of the left side.
class InverseAtPlace {
 public:
  InverseAtPlace(const detail::EstimateParts& parts, std::span<const Vector> points, Index row)
      : bound_(*detail::data_of(parts.model).bound) {
    for (const Vector& x : points) values_.push_back(x[row]);
  }
  [[nodiscard]] detail::WayBack::Responses at(const VectorXd& left) const {
    std::vector<Vector> columns;
    for (const double value : values_) columns.push_back(Vector(static_cast<std::size_t>(left.size()), value));
    return detail::WayBack(bound_, columns).at(left);
  }

 private:
  const detail::BoundModel& bound_;
  std::vector<double> values_;
};

// Mean and its derivatives by z and s; NaN where the inverse is not defined, or turns, at some node.
struct Expectation {
  double value = 0;
  double by_curve = 0;
  double by_scatter = 0;
};

Expectation expectation_of(const detail::WayBack::Responses& at, Index first, const detail::HermiteRule& rule) {
  Expectation e;
  for (Index k = 0; k < nodes; ++k) {
    const Index i = first + k;
    const double way = k == 0 ? 1 : (at.value[i] - at.value[i - 1]) * at.slope[i];
    if (!std::isfinite(at.value[i]) || !(way >= 0)) return {not_a_number, not_a_number, not_a_number};
    e.value += rule.weights[k] * at.value[i];
    e.by_curve += rule.weights[k] * at.slope[i];
    e.by_scatter += rule.weights[k] * at.slope[i] * rule.nodes[k];
  }
  return e;
}

// The points in place of draws: a normal, and the factor of the scatter.
struct Draws {
  VectorXd normal{draws};
  VectorXd stretch{draws};
};

Draws draws_for(double degrees_of_freedom) {
  Draws made;
  for (int i = 0; i < draws; ++i) {
    made.normal[i] = normal_quantile(detail::radical_inverse(i + 1, 2));
    made.stretch[i] =
        std::sqrt(degrees_of_freedom / chi_squared_quantile(detail::radical_inverse(i + 1, 3), degrees_of_freedom));
  }
  return made;
}

Interval interval_of(const InverseAtPlace& place, double z, double u, double s, const Draws& drawn, Level level,
                     const detail::HermiteRule& rule, double direction) {
  VectorXd left(draws * nodes);
  for (Index i = 0; i < draws; ++i) {
    const double middle = z + u * drawn.stretch[i] * drawn.normal[i];
    left.segment(i * nodes, nodes) = (middle + s * drawn.stretch[i] * rule.nodes.array()).matrix();
  }
  const detail::WayBack::Responses at = place.at(left);
  std::vector<double> values;
  for (Index i = 0; i < draws; ++i) {
    // A draw without a mean lies beyond every limit, on the side on which the inverse grows out of bounds.
    const double value = expectation_of(at, i * nodes, rule).value;
    values.push_back(std::isnan(value) ? direction : value);
  }
  std::sort(values.begin(), values.end());
  const auto quantile = [&](double p) {
    const double at_rank = p * draws - 0.5;
    const auto below = static_cast<std::size_t>(std::clamp(at_rank, 0.0, draws - 2.0));
    const double share = std::clamp(at_rank - static_cast<double>(below), 0.0, 1.0);
    const double next = values[below + 1];
    return std::isinf(next) ? next : values[below] + share * (next - values[below]);
  };
  return {quantile((1 - level) / 2), quantile((1 + level) / 2)};
}

}  // namespace

std::vector<MeanPoint> means(const Estimate& estimate, std::span<const Vector> points, Level level,
                             const Vector& observation_uncertainties) {
  const std::vector<BandPoint> curve = band(estimate, points, level, observation_uncertainties);
  const detail::EstimateParts& parts = detail::parts_of(estimate);
  std::vector<MeanPoint> result;
  const bool on_the_left = parts.new_observation.form == Scatter::Form::left_side;
  if (!on_the_left) {
    for (const BandPoint& point : curve) result.push_back({point.value, point.standard_uncertainty, point.confidence});
    return result;
  }
  result.resize(curve.size());
  const double s = parts.new_observation.scale;
  const double dof = estimate.degrees_of_freedom();
  if (!std::isfinite(s) || !(dof > 0)) return result;
  const detail::HermiteRule rule = detail::hermite_rule(nodes);
  const detail::LeftBand left = detail::left_band(parts, points);
  const Draws drawn = draws_for(dof);
  for (Index row = 0; row < left.value.size(); ++row) {
    const InverseAtPlace place(parts, points, row);
    const double z = left.value[row];
    const double u = left.uncertainty[row];
    const Expectation e = expectation_of(place.at((z + s * rule.nodes.array()).matrix()), 0, rule);
    if (!std::isfinite(e.value)) continue;
    MeanPoint& point = result[static_cast<std::size_t>(row)];
    point.value = e.value;
    point.standard_uncertainty = std::hypot(e.by_curve * u, e.by_scatter * s / std::sqrt(2 * dof));
    // The mean grows out of bounds where the scatter does: on the side on which it lies from the median.
    const double direction = std::copysign(infinity, e.value - curve[static_cast<std::size_t>(row)].value);
    point.interval = interval_of(place, z, u, s, drawn, level, rule, direction);
  }
  return result;
}

}  // namespace truecurve
