// Averages curves by weight.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/compare/average.hpp>

#include "../assess/left_band.hpp"
#include "../base/matrices.hpp"
#include "../base/roots.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/left_side.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

// Weights that were written to a file add up to 1 but for rounding.
constexpr double rounding_of_weights = 1e-9;

void require_one_set(std::span<const WeightedEstimate> curves) {
  double sum = 0;
  for (const WeightedEstimate& curve : curves) sum += curve.weight;
  if (curves.empty() || !(std::abs(sum - 1) < rounding_of_weights)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the weights of {} curves add up to {}", curves.size(), sum),
                 .subject = "weights",
                 .value = fmt::format("{}", sum),
                 .remedy = "give at least one curve, and weights that add up to 1"});
  }
  for (const WeightedEstimate& curve : curves) {
    const auto& first = curves.front().estimate.predictors();
    const auto& these = curve.estimate.predictors();
    if (std::equal(first.begin(), first.end(), these.begin(), these.end(),
                   [](const Quantity& a, const Quantity& b) { return a.name == b.name; }))
      continue;
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("'{}' has other predictors than '{}'", curve.name, curves.front().name),
                 .subject = curve.name,
                 .remedy = "average curves of the same predictors only"});
  }
}

// What one candidate says of the curve, or of a new observation, at one point: a distribution of the response, normal
// or Student's about the curve on the scale of its left side, or on the measured scale.
struct Opinion {
  double weight = 0;
  double middle = 0;       // on the scale on which it is normal
  double uncertainty = 0;  // there
  double degrees = infinity;
  double response = 0;                       // the middle on the measured scale
  double direction = 1;                      // 1 where the left side grows with the response
  const detail::BoundModel* left = nullptr;  // null where it is normal on the measured scale
  const ResponseKernel* kernel = nullptr;    // of a counted response whose opinion is held on its open scale
  std::vector<const double*> at{};           // the point, for the left side

  // Probability of a response of at most y. Where the left side is not defined at y, or comes back from beyond a pole,
  // all of the candidate lies on the side of its middle.
  [[nodiscard]] double at_most(double y) const {
    double z = y;
    if (kernel != nullptr) {
      if (y <= kernel->lowest_mean()) return 0;
      if (y >= kernel->highest_mean()) return 1;
      z = kernel->open_scale(y);
    }
    if (left != nullptr) {
      z = detail::left_side_at(*left, VectorXd::Constant(1, y), at).value[0];
      if (!std::isfinite(z) || (z - middle) * direction * (y - response) < 0) return y < response ? 0 : 1;
    }
    if (!(uncertainty > 0)) return y >= response ? 1 : 0;
    const double t = (z - middle) / uncertainty * direction;
    const double beyond = student_t_two_sided(t, degrees) / 2;
    return t < 0 ? beyond : 1 - beyond;
  }
};

// The response below which the opinions, by weight, place a probability; infinite where they never do.
double quantile_of(const std::vector<Opinion>& opinions, double probability, double centre, double scale) {
  const auto missing = [&](double y) {
    double sum = 0;
    for (const Opinion& opinion : opinions) {
      if (opinion.weight > 0) sum += opinion.weight * opinion.at_most(y);
    }
    return sum - probability;
  };
  const bool upwards = missing(centre) < 0;
  double inside = centre;
  for (double step = scale > 0 ? scale : std::max(std::abs(centre), 1.0) * 1e-12; std::isfinite(inside + step);
       step *= 2) {
    const double outside = upwards ? inside + step : inside - step;
    if ((missing(outside) < 0) != upwards)
      return detail::change_of_sign(std::min(inside, outside), std::max(inside, outside), missing);
    inside = outside;
  }
  return upwards ? infinity : -infinity;
}

enum class Of { curve, observation };

// The opinions of all candidates at one point.
std::vector<Opinion> opinions_at(std::span<const WeightedEstimate> curves, std::span<const Vector> points,
                                 const std::vector<detail::LeftBand>& left,
                                 const std::vector<std::vector<BandPoint>>& bands, const Vector& own, Index row,
                                 Of of) {
  std::vector<Opinion> opinions;
  for (std::size_t c = 0; c < curves.size(); ++c) {
    const Estimate& estimate = curves[c].estimate;
    const detail::EstimateParts& parts = detail::parts_of(estimate);
    const BandPoint& point = bands[c][static_cast<std::size_t>(row)];
    Opinion opinion{.weight = curves[c].weight, .response = point.value};
    opinion.degrees = estimate.scale_degrees_of_freedom();
    const bool reading_on_the_left = parts.new_observation.form == Scatter::Form::left_side && own.size() == 0;
    const bool on_the_left = parts.model.is_transformed() && (of == Of::curve || reading_on_the_left);
    opinion.middle = on_the_left ? left[c].value[row] : point.value;
    opinion.uncertainty = on_the_left ? left[c].uncertainty[row] : point.standard_uncertainty;
    if (of == Of::observation) {
      const double reading = reading_on_the_left ? parts.new_observation.scale
                             : own.size() != 0   ? own[row]
                                                 : parts.new_observation.at(point.value);
      opinion.uncertainty = std::hypot(opinion.uncertainty, reading);
    }
    if (estimate.is_counted() && !on_the_left) {
      opinion.kernel = &parts.observation_model.kernel();
      opinion.uncertainty *= opinion.kernel->open_scale_slope(point.value);
      opinion.middle = opinion.kernel->open_scale(point.value);
    }
    if (on_the_left) {
      opinion.left = detail::data_of(parts.model).bound.get();
      for (const Vector& x : points) opinion.at.push_back(x.data() + row);
      const double step = detail::left_side_at(*opinion.left, VectorXd::Constant(1, point.value), opinion.at).slope[0];
      opinion.direction = step < 0 ? -1 : 1;
    }
    opinions.push_back(std::move(opinion));
  }
  return opinions;
}

bool are_known(const std::vector<Opinion>& opinions) {
  return std::all_of(opinions.begin(), opinions.end(),
                     [](const Opinion& o) { return o.weight == 0 || (std::isfinite(o.uncertainty) && o.degrees > 0); });
}

}  // namespace

std::vector<AveragedPoint> averaged_band(std::span<const WeightedEstimate> curves, std::span<const Vector> points,
                                         Level level, const Vector& observation_uncertainties) {
  require_one_set(curves);
  std::vector<std::vector<BandPoint>> bands;
  std::vector<detail::LeftBand> left;
  for (const WeightedEstimate& curve : curves) {
    bands.push_back(band(curve.estimate, points, level, observation_uncertainties));
    left.push_back(detail::left_band(detail::parts_of(curve.estimate), points));
  }
  std::vector<AveragedPoint> result(bands.front().size());
  for (std::size_t i = 0; i < result.size(); ++i) {
    AveragedPoint& point = result[i];
    double value = 0;
    double between = 0;
    for (std::size_t c = 0; c < curves.size(); ++c) value += curves[c].weight * bands[c][i].value;
    double smallest = infinity;
    for (std::size_t c = 0; c < curves.size(); ++c) {
      const BandPoint& at = bands[c][i];
      between += curves[c].weight * std::pow(at.value - value, 2);
      point.values.push_back(at.value);
      point.confidences.push_back(at.confidence);
      if (at.standard_uncertainty > 0) smallest = std::min(smallest, at.standard_uncertainty);
    }
    point.between = std::sqrt(between);
    point.whole = {.value = value, .outside = bands.front()[i].outside};
    const double step = std::isfinite(smallest) ? std::max(smallest, point.between / 8) : point.between;
    const auto middle_of = [&](const std::vector<Opinion>& opinions, double share) -> Interval {
      if (!are_known(opinions)) return {};
      return {quantile_of(opinions, (1 - share) / 2, value, step), quantile_of(opinions, (1 + share) / 2, value, step)};
    };
    const auto row = static_cast<Index>(i);
    const std::vector<Opinion> of_curve =
        opinions_at(curves, points, left, bands, observation_uncertainties, row, Of::curve);
    point.whole.confidence = middle_of(of_curve, level);
    const Interval one = middle_of(of_curve, level_of_one_uncertainty);
    point.whole.standard_uncertainty = (one.high - one.low) / 2;
    point.whole.prediction =
        middle_of(opinions_at(curves, points, left, bands, observation_uncertainties, row, Of::observation), level);
  }
  return result;
}

}  // namespace truecurve
