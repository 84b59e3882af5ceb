// Reads amounts back.
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/calibrate/amount.hpp>

#include "../assess/curve_slopes.hpp"
#include "../base/roots.hpp"
#include "signal_parts.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <string>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

constexpr double reach_beyond = 0.5;
// A limit is looked for as far as this many ranges of the standards beyond the amount.
constexpr double farthest_in_widths = 1e6;

// Where a rate is crossed; a rate of 0, which no mean is, included.
std::vector<Root> rate_crossings(const CalibrationCurve& curve, double rate, double uncertainty, double low,
                                 double high) {
  constexpr int steps = 200;
  const auto above = [&](double x) {
    try {
      return curve_at(curve.estimate, x).value - rate;
    } catch (const Error& error) {
      if (error.code() != ErrorCode::not_finite) throw;
      return not_a_number;
    }
  };
  std::vector<Root> roots;
  const detail::CurveSlopes slopes(curve.estimate);
  const Range standards = curve.estimate.ranges()[0];
  for (int i = 0; i < steps; ++i) {
    const double from = low + (high - low) * i / steps;
    const double to = low + (high - low) * (i + 1) / steps;
    const double at_from = above(from);
    const double at_to = above(to);
    // Either end may be a root, and counts once.
    const bool crosses = (at_from <= 0 && at_to >= 0) || (at_from >= 0 && at_to <= 0);
    if (!crosses || (at_from == 0 && i > 0) || at_from == at_to) continue;
    Root root{.value = detail::smooth_change_of_sign(from, to, above)};
    if (!detail::comes_through_zero(from, to, root.value, above)) continue;
    root.standard_uncertainty = std::hypot(curve_at(curve.estimate, root.value).standard_uncertainty, uncertainty) /
                                std::abs(slopes.at(root.value));
    root.outside = std::max({0.0, standards.low - root.value, root.value - standards.high});
    roots.push_back(root);
  }
  return roots;
}

// Roots within the standards first, then within half their range on either side; where the curve reaches the signal
// nowhere, the places within the standards at which it comes near.
std::vector<Root> roots_of(const CalibrationCurve& curve, double signal, double uncertainty) {
  const Range range = curve.estimate.ranges()[0];
  const double width = range.high - range.low;
  const auto within = [&](double reach, bool nearest_places) {
    const double low = range.low - reach * width;
    const double high = range.high + reach * width;
    if (curve.are_counts) return rate_crossings(curve, signal, uncertainty, low, high);
    return solve(curve.estimate, signal,
                 {.nearest_places = nearest_places,
                  .low = low,
                  .high = high,
                  .level = curve.level,
                  .response_uncertainty = uncertainty});
  };
  for (const double reach : {0.0, reach_beyond}) {
    std::vector<Root> roots = within(reach, false);
    if (!roots.empty()) return roots;
  }
  return within(0, true);
}

// Whether a mean signal of m readings is compatible with an amount: the scatter is that of readings of this amount, not
// of the signal that happened to be measured.
class Compatible {
 public:
  Compatible(const CalibrationCurve& curve, double signal, double m) : curve_(curve), signal_(signal), m_(m) {}
  [[nodiscard]] double at(double x) const {
    if (curve_.are_counts) {
      const detail::UncertainCount count = detail::count_at(curve_, x, m_);
      const double counted = std::round(signal_ * m_);
      return std::min(count.at_most(counted), count.at_least(counted)) - (1 - curve_.level) / 2;
    }
    const detail::Mixture there = detail::mixture_of(curve_, detail::signal_parts(curve_, x), m_);
    if (const detail::Mixture::Part* part = there.only_part()) {
      // One distribution: the distance in units of its half width says the same, smoothly and at a hundredth of the
      // cost.
      const double half_width = part->u * quantile_for(part->degrees_of_freedom);
      return 1 - std::abs(signal_ - part->value) / half_width;
    }
    const double below = there.below(signal_);
    return std::min(below, 1 - below) - (1 - curve_.level) / 2;
  }
  /// From the amount outwards until the signal is no longer compatible; infinite where it stays so.
  [[nodiscard]] double limit(double amount, double step, double width) const {
    double inside = amount;
    for (double reach = step; std::abs(reach) <= farthest_in_widths * width; reach *= 1.5) {
      try {
        const double there = at(amount + reach);
        if (there >= 0) {
          inside = amount + reach;
          continue;
        }
        if (std::isnan(there)) return inside;  // numbers end here
      } catch (const Error& error) {
        if (error.code() != ErrorCode::not_finite) throw;
        return inside;  // the curve ends here
      }
      return at(inside) > 0 ? detail::smooth_change_of_sign(inside, amount + reach, [this](double x) { return at(x); })
                            : inside;
    }
    return std::copysign(infinity, step);
  }

 private:
  // The degrees of freedom are the same at every amount, unless a blank has part in them.
  [[nodiscard]] double quantile_for(double degrees) const {
    if (degrees != degrees_) {
      quantile_ = student_t_quantile((1 + curve_.level) / 2, degrees);
      degrees_ = degrees;
    }
    return quantile_;
  }

  const CalibrationCurve& curve_;
  double signal_;
  double m_;
  mutable double degrees_ = not_a_number;
  mutable double quantile_ = not_a_number;
};

// The number of readings, or the whole exposure of counts.
double readings_of(const CalibrationCurve& curve, const Unknown& unknown) {
  if (!curve.are_counts) return static_cast<double>(unknown.signals.size());
  const auto fail = [](std::string message, std::string value) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = std::move(message),
                 .subject = "unknown",
                 .value = std::move(value),
                 .remedy = "give each count its exposure, greater than 0"});
  };
  if (unknown.exposures.size() != unknown.signals.size())
    fail(fmt::format("{} {} {}", plural(unknown.signals.size(), "count"), unknown.signals.size() == 1 ? "has" : "have",
                     plural(unknown.exposures.size(), "exposure")),
         "");
  for (std::size_t i = 0; i < unknown.exposures.size(); ++i) {
    const double exposure = unknown.exposures[i];
    if (!(exposure > 0) || !std::isfinite(exposure))
      fail(fmt::format("the exposure of count {} is {}", i + 1, shortest(exposure)), shortest(exposure));
  }
  return std::accumulate(unknown.exposures.begin(), unknown.exposures.end(), 0.0);
}

// The mean of the readings; of counts their sum over that of the exposures.
double mean_signal(const CalibrationCurve& curve, const Unknown& unknown, double readings) {
  double sum = 0;
  for (std::size_t i = 0; i < unknown.signals.size(); ++i)
    sum += unknown.signals[i] * (curve.are_counts ? unknown.exposures[i] : 1);
  return sum / readings;
}

}  // namespace

Interval detail::compatible_amounts(const CalibrationCurve& curve, double signal, double readings, double amount,
                                    double step) {
  const Range range = curve.estimate.ranges()[0];
  const Compatible compatible(curve, signal, readings);
  return {compatible.limit(amount, -step, range.high - range.low),
          compatible.limit(amount, step, range.high - range.low)};
}

Amount amount_of(const CalibrationCurve& curve, const Unknown& unknown) {
  const bool finite =
      std::all_of(unknown.signals.begin(), unknown.signals.end(), [](double signal) { return std::isfinite(signal); });
  if (unknown.signals.empty() || !finite || !(unknown.dilution > 0) || !(unknown.dilution_uncertainty >= 0)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("an unknown of {} readings and dilution {} can't be read",
                                        unknown.signals.size(), unknown.dilution),
                 .subject = "unknown",
                 .remedy = "give at least one finite signal and a dilution greater than 0"});
  }
  const double m = readings_of(curve, unknown);
  Amount result;
  result.net_signal = mean_signal(curve, unknown, m) - curve.blank;
  const double own = curve.are_counts ? std::sqrt(std::max(result.net_signal, 1 / m)) / std::sqrt(m)
                                      : curve.scatter.at(result.net_signal) / std::sqrt(m);
  const std::vector<Root> roots = roots_of(curve, result.net_signal, std::isfinite(own) ? own : 0);
  if (roots.empty()) return result;
  const Root& root = roots.front();
  for (std::size_t i = 1; i < roots.size(); ++i) result.other_amounts.push_back(unknown.dilution * roots[i].value);
  result.outside_standards = root.outside > 0;
  const CurvePoint at_root = curve_at(curve.estimate, root.value);
  // Where the curve only comes near, beside an asymptote and where nothing scatters a slope tells no uncertainty.
  const double slope =
      root.standard_uncertainty > 0 ? std::abs(detail::CurveSlopes(curve.estimate).at(root.value)) : not_a_number;
  double reading = 0;
  double alone = 0;
  double blank = 0;
  for (const detail::SignalPart& part : detail::signal_parts(curve, root.value)) {
    const double share = std::sqrt(part.weight);
    reading = curve.are_counts ? own : std::hypot(reading, share * part.reading / std::sqrt(m));
    blank = std::hypot(blank, share * part.blank);
    alone = std::hypot(alone, share * part.alone(), share * (part.value - at_root.value));
  }
  const double factor = unknown.dilution / slope;
  result.amount = unknown.dilution * root.value;
  result.budget = {.readings = factor * reading,
                   .curve = factor * alone,
                   .blank = factor * blank,
                   .dilution = std::abs(result.amount) * unknown.dilution_uncertainty};
  result.standard_uncertainty = std::hypot(std::hypot(result.budget.readings, result.budget.curve),
                                           std::hypot(result.budget.blank, result.budget.dilution));
  // Without the scatter of a reading there is no interval, nor where nothing scatters at all.
  if (!std::isfinite(own) || !(std::hypot(reading, alone, blank) > 0)) return result;
  const Range range = curve.estimate.ranges()[0];
  const double width = range.high - range.low;
  const double u = std::hypot(reading, alone, blank) / slope;
  const double step = std::isfinite(u) && u > 0 ? u / 4 : width / 1000;
  const Interval compatible = detail::compatible_amounts(curve, result.net_signal, m, root.value, step);
  const double below = root.value - compatible.low;
  const double above = compatible.high - root.value;
  const double dilution = normal_quantile((1 + curve.level) / 2) * result.budget.dilution;
  result.interval = {result.amount - std::hypot(unknown.dilution * below, dilution),
                     result.amount + std::hypot(unknown.dilution * above, dilution)};
  return result;
}

}  // namespace truecurve
