// Detection and quantitation limits of counts, exact by their distributions.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/limits.hpp>

#include "../base/count_tails.hpp"
#include "../base/roots.hpp"
#include "limit_routes.hpp"
#include "signal_parts.hpp"
#include "squares.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace detail {
namespace {

// From so many expected counts on Currie's formulas are taken: whole numbers then change them by less than 0.1 %.
constexpr double many_counts = 1e6;
// Of the distribution of a blank's counts, no more than so many are looked at, evenly spaced.
constexpr double most_blanks = 600;
constexpr double relative_uncertainty = 0.1;  // of the quantitation limit
constexpr double farthest_of_ranges = 3;

// The largest count of a sample that does not say so beside a blank of `blank` counts in q times its exposure: the
// share of the sample among both is binomial where there is no analyte.
// The search begins at a count that is none too large.
double largest_beside(double blank, double q, double alpha, double from = 0) {
  const double share = 1 / (1 + q);
  return last_whole_number(from, 1, [&](double count) { return beta_below(count, blank + 1, share) > alpha; });
}

// The net expectation that is missed with probability beta.
double detected_net(double background, double beta, const std::function<double(double)>& missed) {
  double high = 1;
  while (missed(background + high) > beta) high *= 2;
  return smooth_change_of_sign(0, high, [&](double net) { return missed(background + net) - beta; });
}

// A curve of counts near zero, seen as rising.
class RateCurve {
 public:
  RateCurve(const CalibrationCurve& curve, double exposure) : curve_(curve), exposure_(exposure) {
    const Range range = curve.estimate.ranges()[0];
    high_ = farthest_of_ranges * range.high;
    rises_ = value(range.high) >= value(range.low);
  }
  [[nodiscard]] bool rises() const { return rises_; }
  [[nodiscard]] double value(double x) const { return curve_at(curve_.estimate, x).value; }
  [[nodiscard]] UncertainCount count(double x) const { return count_at(curve_, x, exposure_); }
  [[nodiscard]] double where_it_rises_by(double rate) const {
    if (!std::isfinite(rate)) return not_a_number;
    const double zero = value(0);
    return first([&](double x) { return value(x) - zero - rate; });
  }
  [[nodiscard]] double quantitation() const {
    return first([&](double x) {
      const CurvePoint point = curve_at(curve_.estimate, x);
      const double h = 1e-6 * high_;
      const double slope = (value(x + h) - point.value) / h;
      const double own = std::sqrt(std::max(point.value, 0.0) / exposure_);
      return relative_uncertainty * x - std::hypot(own, point.standard_uncertainty) / slope;
    });
  }
  // Smallest amount at which a function is no longer negative; NaN where it stays so.
  template <typename Function>
  [[nodiscard]] double first(Function function) const {
    constexpr int steps = 100;
    double low = 0;
    if (function(0.0) >= 0) return 0;
    for (int i = 1; i <= steps; ++i) {
      const double at = high_ * std::pow(static_cast<double>(i) / steps, 2);
      if (function(at) >= 0) return smooth_change_of_sign(low, at, function);
      low = at;
    }
    return not_a_number;
  }

 private:
  const CalibrationCurve& curve_;
  double exposure_;
  double high_ = 0;
  bool rises_ = true;
};

double exposure_of(const LimitOptions& options) { return options.exposure * options.readings; }

}  // namespace

double usual_exposure(const std::vector<Reading>& used) {
  std::vector<double> exposures;
  for (const Reading& reading : used) {
    if (reading.kind == ReadingKind::standard) exposures.push_back(reading.exposure);
  }
  std::sort(exposures.begin(), exposures.end());
  return exposures[exposures.size() / 2];
}

DecisionLimits counted_decision_limits(const CalibrationCurve& curve, const LimitOptions& options) {
  const double exposure = exposure_of(options);
  if (!(exposure > 0)) return {};
  const RateCurve near_zero(curve, exposure);
  if (!near_zero.rises()) return {};  // fewer counts for more analyte: no largest count says that there is none
  DecisionLimits limits;
  limits.largest_count = near_zero.count(0).exceeded_by(options.alpha);
  limits.critical = near_zero.where_it_rises_by(limits.largest_count / exposure - near_zero.value(0));
  limits.detection =
      near_zero.first([&](double x) { return options.beta - near_zero.count(x).at_most(limits.largest_count); });
  limits.quantitation = near_zero.quantitation();
  return limits;
}

std::vector<LimitRoute> counted_limit_routes(const CoreCalibration& core, const Readings& readings,
                                             const LimitOptions& options) {
  const double exposure = exposure_of(options);
  const RateCurve curve(core.curve, exposure);
  if (!curve.rises()) return {};
  std::vector<LimitRoute> routes;
  const Total blanks = total_of(readings.of(ReadingKind::blank));
  const bool has_blanks = blanks.exposure > 0;
  const double rate = has_blanks ? blanks.rate() : std::max(curve.value(0), 0.0);
  const double expected = rate * exposure;
  const std::string what = has_blanks ? fmt::format("{} counts of blanks in an exposure of {}", shortest(blanks.count),
                                                    shortest(blanks.exposure))
                                      : std::string("the curve at amount 0, as there are no blanks");
  const auto add_route = [&](LimitRouteKind route, double ratio, const std::string& decided) {
    const CountingLimits counts = counting_limits_exact(expected, ratio, options.alpha, options.beta);
    const CountingLimits normal = counting_limits(expected, ratio, options.alpha, options.beta);
    routes.push_back({.route = route,
                      .critical = curve.where_it_rises_by(counts.critical / exposure),
                      .detection = curve.where_it_rises_by(counts.detection / exposure),
                      .quantitation = curve.where_it_rises_by(counts.quantitation / exposure),
                      .rests_on = fmt::format(
                          "{}: {} expected in the exposure of the sample, {}; net counts {} and {} (Currie's "
                          "formulas: {} and {})",
                          what, rounded(expected, 3), decided, rounded(counts.critical, 3),
                          rounded(counts.detection, 3), rounded(normal.critical, 3), rounded(normal.detection, 3))});
  };
  add_route(LimitRouteKind::counts_paired_blank, 2, "each sample beside a blank of the same exposure");
  add_route(LimitRouteKind::counts_known_blank, 1, "taken as known exactly");
  const DecisionLimits decision = counted_decision_limits(core.curve, options);
  const bool extrapolates = core.levels.front().amount > 0;
  routes.push_back(
      {.route = LimitRouteKind::critical_value_and_power,
       .critical = decision.critical,
       .detection = decision.detection,
       .quantitation = decision.quantitation,
       .rests_on = fmt::format("the curve at amount 0 with its uncertainty, and the Poisson scatter of counts: "
                               "analyte is declared from {} counts on; nominal errors of at most {:.3g}, "
                               "and of {:.3g}",
                               shortest(decision.largest_count + 1), options.alpha, options.beta)});
  if (extrapolates)
    routes.back().remarks.emplace_back(has_blanks
                                           ? "the curve is extrapolated to amount 0, and the blanks are no part of it: "
                                             "include them"
                                           : "the curve is extrapolated to amount 0: count blanks");
  return routes;
}

}  // namespace detail

CountingLimits counting_limits_exact(double blank, double ratio, double alpha, double beta) {
  CountingLimits limits = counting_limits(blank, ratio, alpha, beta);
  if (blank >= detail::many_counts) return limits;
  // A blank of so many counts is as good as known.
  constexpr double most_counts_of_blank = 1e8;
  if (ratio == 1 || blank > most_counts_of_blank * (ratio - 1)) {
    const double largest = detail::UncertainCount(blank, 0).exceeded_by(alpha);
    limits.critical = largest - blank;
    limits.detection = detail::detected_net(
        blank, beta, [&](double mean) { return detail::UncertainCount(mean, 0).at_most(largest); });
    return limits;
  }
  const double q = 1 / (ratio - 1);  // the blank's exposure over the sample's
  const double of_blank = q * blank;
  limits.critical = detail::largest_beside(std::round(of_blank), q, alpha) - blank;
  // Over all counts that the blank may have.
  constexpr double far = 1e-10;
  const detail::UncertainCount others(of_blank, 0);
  const double last = others.exceeded_by(far);
  struct Blank {
    double probability;
    double largest;
  };
  std::vector<Blank> blanks;
  const double first = others.exceeded_by(1 - far);
  const double step = std::max(1.0, std::floor((last - first) / detail::most_blanks));
  double all = 0;
  for (double b = first; b <= last; b += step) {
    const double from = blanks.empty() ? 0 : blanks.back().largest;  // it rises with the blank
    blanks.push_back(
        {of_blank > 0 ? detail::gamma_density(b + 1, of_blank) : 1.0, detail::largest_beside(b, q, alpha, from)});
    all += blanks.back().probability;
  }
  for (Blank& b : blanks) b.probability /= all;
  limits.detection = detail::detected_net(blank, beta, [&](double mean) {
    double missed = 0;
    for (const Blank& b : blanks) missed += b.probability * detail::UncertainCount(mean, 0).at_most(b.largest);
    return missed;
  });
  return limits;
}

}  // namespace truecurve
