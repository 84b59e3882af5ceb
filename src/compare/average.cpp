// Averages curves by weight.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/compare/average.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

// Weights that were written to a file add up to 1 but for rounding.
constexpr double rounding = 1e-9;

void require_one_set(std::span<const WeightedEstimate> curves) {
  double sum = 0;
  for (const WeightedEstimate& curve : curves) sum += curve.weight;
  if (curves.empty() || !(std::abs(sum - 1) < rounding)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the weights of {} curves add up to {}", curves.size(), sum),
                 .subject = "weights",
                 .value = fmt::format("{}", sum),
                 .remedy = "give at least one curve, and weights that add up to 1"});
  }
  for (const WeightedEstimate& curve : curves) {
    const auto& first = curves.front().estimate.parts().predictors;
    const auto& these = curve.estimate.parts().predictors;
    if (std::equal(first.begin(), first.end(), these.begin(), these.end(),
                   [](const Quantity& a, const Quantity& b) { return a.name == b.name; }))
      continue;
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("'{}' has other predictors than '{}'", curve.name, curves.front().name),
                 .subject = curve.name,
                 .remedy = "average curves of the same predictors only"});
  }
}

double half_width(const Interval& interval) { return (interval.high - interval.low) / 2; }

}  // namespace

std::vector<AveragedPoint> averaged_band(std::span<const WeightedEstimate> curves, std::span<const VectorXd> points,
                                         double level, const VectorXd& observation_uncertainties) {
  require_one_set(curves);
  std::vector<std::vector<BandPoint>> bands;
  for (const WeightedEstimate& curve : curves)
    bands.push_back(band(curve.estimate, points, level, observation_uncertainties));
  const double z = normal_quantile((1 + level) / 2);
  std::vector<AveragedPoint> result(bands.front().size());
  for (std::size_t i = 0; i < result.size(); ++i) {
    AveragedPoint& point = result[i];
    double value = 0;
    double mean = 0;
    for (std::size_t c = 0; c < curves.size(); ++c) {
      value += curves[c].weight * bands[c][i].value;
      mean += curves[c].weight * bands[c][i].mean;
      point.values.push_back(bands[c][i].value);
    }
    double between = 0;
    double uncertainty = 0;
    double confidence = 0;
    double prediction = 0;
    for (std::size_t c = 0; c < curves.size(); ++c) {
      const BandPoint& at = bands[c][i];
      const double weight = curves[c].weight;
      const double away = at.value - value;
      between += weight * away * away;
      uncertainty += weight * std::hypot(at.standard_uncertainty, away);
      confidence += weight * std::hypot(half_width(at.confidence), z * away);
      prediction += weight * std::hypot(half_width(at.prediction), z * away);
    }
    point.between = std::sqrt(between);
    point.whole = {.value = value,
                   .mean = mean,
                   .standard_uncertainty = uncertainty,
                   .confidence = {value - confidence, value + confidence},
                   .prediction = {value - prediction, value + prediction},
                   .outside = bands.front()[i].outside};
  }
  return result;
}

}  // namespace truecurve
