// Bands on the scale of the left side, taken back to that of the measured response.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "left_band.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

void require_points(const detail::EstimateParts& parts, std::span<const Vector> points, const Vector& uncertainties) {
  const std::size_t count = points.empty() ? 1 : points[0].size();
  const bool alike = std::all_of(points.begin(), points.end(), [count](const Vector& x) { return x.size() == count; });
  if (!alike || points.size() != parts.predictors.size() ||
      (uncertainties.size() != 0 && uncertainties.size() != count)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the model has {}, and {} of points {} given or differ in length",
                                        plural(parts.predictors.size(), "predictor"), plural(points.size(), "column"),
                                        points.size() == 1 ? "is" : "are"),
                 .subject = "points",
                 .remedy = "give one value of every predictor for every point"});
  }
  for (const double u : uncertainties) {
    if (u >= 0 && std::isfinite(u)) continue;
    throw Error({.code = ErrorCode::bad_uncertainty,
                 .message = fmt::format("the standard uncertainty of a new observation is given as {}", u),
                 .subject = "observation_uncertainties",
                 .value = fmt::format("{}", u),
                 .remedy = "give a number that is not negative"});
  }
}

double outside_of(const detail::EstimateParts& parts, std::span<const Vector> points, Index row) {
  double outside = 0;
  for (std::size_t k = 0; k < points.size(); ++k) {
    const double x = points[k][row];
    const Range& range = parts.ranges[k];
    const double width = range.high - range.low;
    const double beyond = std::max({0.0, range.low - x, x - range.high});
    if (beyond > 0) outside = std::max(outside, width > 0 ? beyond / width : infinity);
  }
  return outside;
}

void require_defined(const detail::EstimateParts& parts, std::span<const Vector> points, const VectorXd& values) {
  for (Index row = 0; row < values.size(); ++row) {
    if (std::isfinite(values[row])) continue;
    if (points.empty()) {
      throw Error({.code = ErrorCode::not_finite,
                   .message = "the curve is not finite",
                   .subject = parts.response.name,
                   .remedy = "look at the estimates it is made of"});
    }
    throw Error({.code = ErrorCode::not_finite,
                 .message = fmt::format("the curve is not finite at {} = {}", parts.predictors[0].name, points[0][row]),
                 .subject = parts.predictors[0].name,
                 .value = fmt::format("{}", points[0][row]),
                 .remedy = "ask for points at which the model is defined"});
  }
}

// Shares and rates with half widths, made on the scale without ends: they stay between the ends there are.
std::vector<Interval> intervals_on_open_scale(const ResponseKernel& kernel, const VectorXd& mean,
                                              const VectorXd& half_width) {
  std::vector<Interval> intervals;
  for (Index i = 0; i < mean.size(); ++i) {
    const double at = kernel.open_scale(mean[i]);
    const double half = kernel.open_scale_slope(mean[i]) * half_width[i];
    if (std::isnan(half_width[i])) {
      intervals.emplace_back();
      continue;
    }
    const bool is_open = std::isfinite(at) && std::isfinite(half);
    intervals.push_back(is_open ? Interval{kernel.from_open_scale(at - half), kernel.from_open_scale(at + half)}
                                : Interval{mean[i], mean[i]});
  }
  return intervals;
}

}  // namespace

std::vector<BandPoint> band(const Estimate& estimate, std::span<const Vector> points, Level level,
                            const Vector& observation_uncertainties) {
  const detail::EstimateParts& parts = detail::parts_of(estimate);
  require_points(parts, points, observation_uncertainties);
  const double factor = estimate.coverage_factor(level);
  const auto p = static_cast<double>(estimate.free_parameters());
  const double everywhere = p == 0 ? factor : estimate.region_factor(level, p);
  const detail::LeftBand left = detail::left_band(parts, points);
  const VectorXd& z = left.value;
  const VectorXd& u = left.uncertainty;
  const detail::WayBack back(*detail::data_of(parts.model).bound, points);
  const detail::WayBack::Responses curve = back.at(z);
  require_defined(parts, points, curve.value);
  const bool bounded = estimate.is_counted() && !parts.model.is_transformed();
  const auto around = [&](double k) {
    return bounded ? intervals_on_open_scale(parts.observation_model.kernel(), z, k * u)
                   : back.intervals(z - k * u, z + k * u, z, curve);
  };
  const std::vector<Interval> confidence = around(factor);
  const std::vector<Interval> simultaneous = around(everywhere);
  // Readings scatter on the measured scale, unless equal scatter of a transformed left side was assumed.
  const bool on_the_left =
      parts.new_observation.form == Scatter::Form::left_side && observation_uncertainties.size() == 0;
  std::vector<Interval> prediction;
  if (on_the_left) {
    const VectorXd wide = factor * (u.array().square() + std::pow(parts.new_observation.scale, 2)).sqrt().matrix();
    prediction = back.intervals(z - wide, z + wide, z, curve);
  }
  std::vector<BandPoint> result(static_cast<std::size_t>(z.size()));
  for (Index row = 0; row < z.size(); ++row) {
    const auto at = static_cast<std::size_t>(row);
    BandPoint& point = result[at];
    point.value = curve.value[row];
    point.standard_uncertainty = std::abs(curve.slope[row]) * u[row];
    point.confidence = confidence[at];
    point.simultaneous = simultaneous[at];
    if (on_the_left) {
      point.prediction = prediction[at];
    } else {
      const double own = observation_uncertainties.size() != 0 ? observation_uncertainties[row]
                                                               : parts.new_observation.at(point.value);
      const double wide = factor * std::hypot(point.standard_uncertainty, own);
      point.prediction = {point.value - wide, point.value + wide};
    }
    point.outside = outside_of(parts, points, row);
  }
  return result;
}

CurvePoint curve_at(const Estimate& estimate, double x) {
  const Vector place = {x};
  return curve_at(estimate, std::span(&place, 1));
}

CurvePoint curve_at(const Estimate& estimate, std::span<const Vector> points) {
  const detail::EstimateParts& parts = detail::parts_of(estimate);
  require_points(parts, points, {});
  const detail::LeftBand left = detail::left_band(parts, points);
  const detail::WayBack::Responses curve = detail::WayBack(*detail::data_of(parts.model).bound, points).at(left.value);
  require_defined(parts, points, curve.value);
  return {curve.value[0], std::abs(curve.slope[0]) * left.uncertainty[0]};
}

std::vector<BandPoint> band_at(const Estimate& estimate, const Vector& x, Level level,
                               const Vector& observation_uncertainties) {
  return band(estimate, std::span(&x, 1), level, observation_uncertainties);
}

}  // namespace truecurve
