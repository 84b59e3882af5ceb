// Bands from the working form: the gradient in centred columns against the inverse triangular factor.
#include "../fit/linear.hpp"

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace truecurve {

using Eigen::Index;

double new_observation_uncertainty(const Estimate& estimate, double response) {
  const NewObservation& given = estimate.parts().new_observation;
  switch (given.kind) {
    case NewObservation::Kind::constant: return given.value;
    case NewObservation::Kind::percent: return std::abs(response) * given.value / 100;
    case NewObservation::Kind::unknown: break;
  }
  return not_a_number;
}

std::vector<BandPoint> band(const Estimate& estimate, std::span<const VectorXd> points, double level,
                            const VectorXd& observation_uncertainties) {
  const EstimateParts& parts = estimate.parts();
  if (points.size() != parts.predictors.size() || points.empty() ||
      std::any_of(points.begin(), points.end(), [&](const VectorXd& x) { return x.size() != points[0].size(); }) ||
      (observation_uncertainties.size() != 0 && observation_uncertainties.size() != points[0].size())) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the model has {} predictors, and {} columns of points are given or differ in length",
                                        parts.predictors.size(), points.size()),
                 .subject = "points",
                 .remedy = "give one value of every predictor for every point"});
  }
  const double factor = estimate.coverage_factor(level);
  const WorkingForm& working = parts.working;
  const auto p = working.parameters.size();
  const auto count = static_cast<std::size_t>(points[0].size());
  detail::ColumnEvaluator evaluator(*parts.model.data().bound, working.middle, working.half_width);
  std::vector<double> columns(static_cast<std::size_t>(p + 1) * detail::block_rows);
  std::vector<BandPoint> result;
  result.reserve(count);
  VectorXd g(p);
  for (std::size_t start = 0; start < count; start += detail::block_rows) {
    const std::size_t rows = std::min(detail::block_rows, count - start);
    std::vector<const double*> at;
    for (const VectorXd& x : points) at.push_back(x.data() + start);
    evaluator.run(at, rows, columns.data(), detail::block_rows);
    for (std::size_t i = 0; i < rows; ++i) {
      for (Index j = 0; j < p; ++j) g[j] = columns[static_cast<std::size_t>(j) * detail::block_rows + i] - working.centre[j];
      BandPoint point;
      point.value = columns[static_cast<std::size_t>(p) * detail::block_rows + i] + working.parameters.dot(g);
      if (!std::isfinite(point.value)) {
        throw Error({.code = ErrorCode::not_finite,
                     .message = fmt::format("the curve is not finite at {} = {}", parts.predictors[0].name, points[0][static_cast<Index>(start + i)]),
                     .subject = parts.predictors[0].name,
                     .value = fmt::format("{}", points[0][static_cast<Index>(start + i)]),
                     .remedy = "ask for points at which the model is defined"});
      }
      point.standard_uncertainty = parts.scale * (working.inverse_factor.transpose() * g).norm();
      const double half = factor * point.standard_uncertainty;
      point.confidence = {point.value - half, point.value + half};
      const double own = observation_uncertainties.size() == 0 ? new_observation_uncertainty(estimate, point.value)
                                                              : observation_uncertainties[static_cast<Index>(start + i)];
      const double wide = factor * std::hypot(point.standard_uncertainty, own);
      point.prediction = {point.value - wide, point.value + wide};
      for (std::size_t k = 0; k < points.size(); ++k) {
        const double x = points[k][static_cast<Index>(start + i)];
        const Range& range = parts.ranges[k];
        const double width = range.high - range.low;
        const double beyond = std::max({0.0, range.low - x, x - range.high});
        if (beyond > 0) point.outside = std::max(point.outside, width > 0 ? beyond / width : infinity);
      }
      result.push_back(point);
    }
  }
  return result;
}

std::vector<BandPoint> band_at(const Estimate& estimate, const VectorXd& x, double level, const VectorXd& observation_uncertainties) {
  return band(estimate, std::span(&x, 1), level, observation_uncertainties);
}

}  // namespace truecurve
