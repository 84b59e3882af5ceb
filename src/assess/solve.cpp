// Scans the range for changes of sign, closes in by bisection, and does the same for the limits of the interval.
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/error.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

// So fine a scan finds roots that are a two-thousandth of the range apart.
constexpr Index scan_points = 2001;
// A limit is looked for as far as this many ranges beyond the search.
constexpr double farthest = 1e6;
constexpr int bisections = 200;  // more than the digits of a double

class Distance {
 public:
  Distance(const Estimate& estimate, double response, const SolveOptions& options)
      : estimate_(estimate),
        response_(response),
        own_(options.response_uncertainty),
        level_(options.level),
        factor_(estimate.coverage_factor(options.level)) {}

  [[nodiscard]] BandPoint point(double x) const { return band_at(estimate_, VectorXd::Constant(1, x), level_)[0]; }
  [[nodiscard]] double signed_at(double x) const { return point(x).value - response_; }
  /// Positive where the response is compatible with the curve at x.
  [[nodiscard]] double compatible_at(double x) const {
    const BandPoint at = point(x);
    return factor_ * std::hypot(at.standard_uncertainty, own_) - std::abs(at.value - response_);
  }
  [[nodiscard]] bool has_interval() const { return std::isfinite(factor_); }
  [[nodiscard]] double uncertainty_at(double x) const { return std::hypot(point(x).standard_uncertainty, own_); }

 private:
  const Estimate& estimate_;
  double response_;
  double own_;
  double level_;
  double factor_;
};

template <typename Function>
double bisect(double low, double high, Function function) {
  double at_low = function(low);
  for (int i = 0; i < bisections; ++i) {
    const double middle = low + (high - low) / 2;
    if (middle == low || middle == high) break;
    const double at_middle = function(middle);
    if (at_middle == 0) return middle;
    if ((at_middle > 0) == (at_low > 0)) {
      low = middle;
      at_low = at_middle;
    } else {
      high = middle;
    }
  }
  return low + (high - low) / 2;
}

// From the root outwards until the response is no longer compatible; infinite where it stays so.
double limit_from(const Distance& distance, double root, double step, double range) {
  double inside = root;
  for (double reach = step; std::abs(reach) <= farthest * range; reach *= 1.5) {
    double compatible = 0;
    try {
      compatible = distance.compatible_at(root + reach);
    } catch (const Error&) {
      return inside;  // the model ends here, as 1/x does at zero
    }
    if (compatible < 0) return bisect(inside, root + reach, [&](double x) { return distance.compatible_at(x); });
    inside = root + reach;
  }
  return std::copysign(infinity, step);
}

// Curve less response at many points; NaN where the model is not defined.
VectorXd distances(const Estimate& estimate, const VectorXd& x, double response, double level) {
  VectorXd result(x.size());
  const auto fill = [&](const VectorXd& points, Index start) {
    const std::vector<BandPoint> band = band_at(estimate, points, level);
    for (std::size_t i = 0; i < band.size(); ++i) result[start + static_cast<Index>(i)] = band[i].value - response;
  };
  try {
    fill(x, 0);
  } catch (const Error&) {
    for (Index i = 0; i < x.size(); ++i) {
      try {
        fill(VectorXd::Constant(1, x[i]), i);
      } catch (const Error&) {
        result[i] = not_a_number;
      }
    }
  }
  return result;
}

}  // namespace

std::vector<Root> solve(const Estimate& estimate, double response, const SolveOptions& options) {
  const EstimateParts& parts = estimate.parts();
  if (parts.predictors.size() != 1) {
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = fmt::format("solving needs a model with one predictor, and this has {}", parts.predictors.size()),
         .subject = "solve",
         .remedy = "fit a model in one predictor"});
  }
  const double low = std::isnan(options.low) ? parts.ranges[0].low : options.low;
  const double high = std::isnan(options.high) ? parts.ranges[0].high : options.high;
  if (!(low < high) || !std::isfinite(low) || !std::isfinite(high) || !std::isfinite(response) ||
      !(options.response_uncertainty >= 0)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a response of {} ± {} between {} and {} can't be looked for", response,
                                        options.response_uncertainty, low, high),
                 .subject = "solve",
                 .remedy = "give finite numbers, the lower end of the range first, the uncertainty not negative"});
  }
  const Distance distance(estimate, response, options);
  // A straight line crosses once, however few points are looked at.
  const Index looked_at = parts.model.is_straight_line() ? 3 : scan_points;
  const VectorXd x = VectorXd::LinSpaced(looked_at, low, high);
  const VectorXd scan = distances(estimate, x, response, options.level);
  const double range = high - low;
  std::vector<Root> roots;
  for (Index i = 0; i + 1 < looked_at; ++i) {
    const double here = scan[i];
    const double next = scan[i + 1];
    if (std::isnan(here) || std::isnan(next)) continue;
    const bool last_point = i + 2 == looked_at && next == 0;
    if (!(here == 0 || last_point || (here < 0) != (next < 0)) || (next == 0 && !last_point)) continue;
    Root root;
    root.value = here == 0    ? x[i]
                 : last_point ? x[i + 1]
                              : bisect(x[i], x[i + 1], [&](double at) { return distance.signed_at(at); });
    // A pole changes sign too, but the curve does not come near the response there.
    if (!(std::abs(distance.signed_at(root.value)) <= std::max(std::abs(here), std::abs(next)))) continue;
    const double h = range * 1e-6;
    const double slope = (distance.signed_at(root.value + h) - distance.signed_at(root.value - h)) / (2 * h);
    const double u = distance.uncertainty_at(root.value);
    if (slope != 0) root.standard_uncertainty = u / std::abs(slope);
    if (distance.has_interval()) {
      const double first_step = std::isfinite(root.standard_uncertainty) && root.standard_uncertainty > 0
                                    ? root.standard_uncertainty / 4
                                    : range / 1000;
      root.interval = {limit_from(distance, root.value, -first_step, range),
                       limit_from(distance, root.value, first_step, range)};
    }
    root.outside = distance.point(root.value).outside;
    roots.push_back(root);
  }
  return roots;
}

}  // namespace truecurve
