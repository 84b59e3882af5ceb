// Bands from the working form: the gradient in centred columns against the inverse triangular factor, then back through
// the left side to the scale of the measured response.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>

#include "../fit/column_evaluator.hpp"
#include "../fit/left_side.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

// Nodes and weights of Gauss-Hermite quadrature for the standard normal density, ten points; Abramowitz and Stegun
// (1964), table 25.10, scaled by sqrt(2) and 1/sqrt(pi). Exact for polynomials up to degree 19.
constexpr std::array<double, 5> hermite_nodes = {0.48493570751549764, 1.4659890943911582, 2.4843258416389546,
                                                 3.5818234835519269, 4.8594628283323127};
constexpr std::array<double, 5> hermite_weights = {0.34464233493201907, 0.1354837029802677, 0.019111580500770286,
                                                   7.5807093431221767e-4, 4.3106526307182867e-6};

void require_points(const EstimateParts& parts, std::span<const VectorXd> points, const VectorXd& uncertainties) {
  const bool alike = !points.empty() && std::all_of(points.begin(), points.end(),
                                                    [&](const VectorXd& x) { return x.size() == points[0].size(); });
  if (alike && points.size() == parts.predictors.size() &&
      (uncertainties.size() == 0 || uncertainties.size() == points[0].size()))
    return;
  throw Error(
      {.code = ErrorCode::bad_argument,
       .message = fmt::format("the model has {} predictors, and {} columns of points are given or differ in length",
                              parts.predictors.size(), points.size()),
       .subject = "points",
       .remedy = "give one value of every predictor for every point"});
}

// The curve and its standard uncertainty on the scale of the left side.
struct LeftBand {
  VectorXd value;
  VectorXd uncertainty;
};

LeftBand left_band(const EstimateParts& parts, const std::vector<const double*>& predictors, Index count) {
  const WorkingForm& working = parts.working;
  const Index p = working.parameters.size();
  LeftBand result{VectorXd(count), VectorXd(count)};
  detail::ColumnEvaluator evaluator(*parts.model.data().bound, working);
  std::vector<double> columns(static_cast<std::size_t>(p + 1) * detail::block_rows);
  VectorXd g(p);
  const auto total = static_cast<std::size_t>(count);
  for (std::size_t start = 0; start < total; start += detail::block_rows) {
    const std::size_t rows = std::min(detail::block_rows, total - start);
    std::vector<const double*> at = predictors;
    for (const double*& pointer : at) pointer += start;
    evaluator.run(at, rows, columns.data(), detail::block_rows);
    for (std::size_t i = 0; i < rows; ++i) {
      for (Index j = 0; j < p; ++j)
        g[j] = columns[static_cast<std::size_t>(j) * detail::block_rows + i] - working.centre[j];
      const auto row = static_cast<Index>(start + i);
      result.value[row] = columns[static_cast<std::size_t>(p) * detail::block_rows + i] + working.parameters.dot(g);
      result.uncertainty[row] = parts.scale * (working.inverse_factor.transpose() * g).norm();
    }
  }
  return result;
}

double outside_of(const EstimateParts& parts, std::span<const VectorXd> points, Index row) {
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

// One point taken back to the response's scale.
class BackTransform {
 public:
  BackTransform(const EstimateParts& parts, std::span<const VectorXd> points)
      : bound_(*parts.model.data().bound), points_(points) {}

  [[nodiscard]] double response(double left, Index row) const { return at(left, row).first; }
  [[nodiscard]] double slope(double left, Index row) const { return at(left, row).second; }

  // The responses between two values of the left side. Where the inverse is not defined over the whole way (1/y through
  // zero), the side on which it is lost has no limit.
  [[nodiscard]] Interval interval(double low, double high, double middle, Index row) const {
    if (!bound_.transformed || !std::isfinite(low)) return {low, high};
    const double direction = slope(middle, row);
    const double centre = response(middle, row);
    // Beyond a pole the inverse comes back from the other side: it must move on in its own direction.
    const auto limit = [&](double end, double sign) {
      const double value = response(end, row);
      const bool onward = std::isfinite(value) && (value - centre) * sign * direction >= 0;
      return onward ? value : std::copysign(infinity, sign * direction);
    };
    const double from = limit(low, -1);
    const double to = limit(high, 1);
    return {std::min(from, to), std::max(from, to)};
  }

  // Expectation of the response where the left side is normal.
  [[nodiscard]] double mean(double left, double sd, Index row) const {
    if (!bound_.transformed) return left;
    double sum = 0;
    for (std::size_t k = 0; k < hermite_nodes.size(); ++k) {
      sum += hermite_weights[k] *
             (response(left + sd * hermite_nodes[k], row) + response(left - sd * hermite_nodes[k], row));
    }
    return sum;
  }

 private:
  [[nodiscard]] std::pair<double, double> at(double left, Index row) const {
    std::vector<const double*> predictors;
    for (const VectorXd& x : points_) predictors.push_back(x.data() + row);
    const detail::Response made = detail::response_at(bound_, VectorXd::Constant(1, left), predictors);
    return {made.value[0], made.slope[0]};
  }

  const detail::BoundModel& bound_;
  std::span<const VectorXd> points_;
};

}  // namespace

double new_observation_uncertainty(const Estimate& estimate, double response) {
  const NewObservation& given = estimate.parts().new_observation;
  switch (given.kind) {
    case NewObservation::Kind::constant: return given.value;
    case NewObservation::Kind::percent: return std::abs(response) * given.value / 100;
    case NewObservation::Kind::power: return given.value * std::pow(std::abs(response), given.exponent);
    case NewObservation::Kind::left_side:
    case NewObservation::Kind::unknown: break;
  }
  return not_a_number;
}

std::vector<BandPoint> band(const Estimate& estimate, std::span<const VectorXd> points, double level,
                            const VectorXd& observation_uncertainties) {
  const EstimateParts& parts = estimate.parts();
  require_points(parts, points, observation_uncertainties);
  const double factor = estimate.coverage_factor(level);
  const auto p = static_cast<double>(estimate.free_parameters());
  const double everywhere = estimate.basis() == UncertaintyBasis::stated ? std::sqrt(chi_squared_quantile(level, p))
                            : estimate.degrees_of_freedom() > 0
                                ? std::sqrt(p * f_quantile(level, p, estimate.degrees_of_freedom()))
                                : not_a_number;
  const Index count = points[0].size();
  std::vector<const double*> predictors;
  for (const VectorXd& x : points) predictors.push_back(x.data());
  const LeftBand left = left_band(parts, predictors, count);
  const bool transformed = parts.model.is_transformed();
  const BackTransform back(parts, points);
  std::vector<BandPoint> result(static_cast<std::size_t>(count));
  for (Index row = 0; row < count; ++row) {
    BandPoint& point = result[static_cast<std::size_t>(row)];
    const double z = left.value[row];
    const double u = left.uncertainty[row];
    point.value = transformed && std::isfinite(z) ? back.response(z, row) : z;
    if (!std::isfinite(point.value)) {
      throw Error(
          {.code = ErrorCode::not_finite,
           .message = fmt::format("the curve is not finite at {} = {}", parts.predictors[0].name, points[0][row]),
           .subject = parts.predictors[0].name,
           .value = fmt::format("{}", points[0][row]),
           .remedy = "ask for points at which the model is defined"});
    }
    const double slope = transformed ? back.slope(z, row) : 1;
    point.standard_uncertainty = std::abs(slope) * u;
    point.confidence = back.interval(z - factor * u, z + factor * u, z, row);
    point.simultaneous = back.interval(z - everywhere * u, z + everywhere * u, z, row);
    // The uncertainty of a new observation on the scale of the left side.
    double own = not_a_number;
    if (observation_uncertainties.size() != 0) {
      own = observation_uncertainties[row] / std::abs(slope);
    } else if (parts.new_observation.kind == NewObservation::Kind::left_side) {
      own = parts.new_observation.value;
    } else {
      own = new_observation_uncertainty(estimate, point.value) / std::abs(slope);
    }
    const double wide = factor * std::hypot(u, own);
    point.prediction = back.interval(z - wide, z + wide, z, row);
    point.mean = transformed ? back.mean(z, own, row) : z;
    point.outside = outside_of(parts, points, row);
  }
  return result;
}

std::vector<BandPoint> band_at(const Estimate& estimate, const VectorXd& x, double level,
                               const VectorXd& observation_uncertainties) {
  return band(estimate, std::span(&x, 1), level, observation_uncertainties);
}

}  // namespace truecurve
