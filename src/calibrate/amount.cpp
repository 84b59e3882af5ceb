// Reads amounts back.
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/amount.hpp>

#include "../base/roots.hpp"
#include "signal_parts.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

namespace truecurve {
namespace {

constexpr double beyond = 0.5;
// A limit is looked for as far as this many ranges of the standards beyond the amount.
constexpr double farthest_in_widths = 1e6;

// Roots within the standards first, then within half their range on either side.
std::vector<Root> roots_of(const CalibrationCurve& curve, double signal, double uncertainty) {
  const Range range = curve.estimate.parts().ranges[0];
  const double width = range.high - range.low;
  for (const double reach : {0.0, beyond}) {
    std::vector<Root> roots = solve(curve.estimate, signal,
                                    {.low = range.low - reach * width,
                                     .high = range.high + reach * width,
                                     .level = curve.level,
                                     .response_uncertainty = uncertainty});
    if (!roots.empty()) return roots;
  }
  return {};
}

// Whether a mean signal of m readings is compatible with an amount: the scatter is that of readings of this amount, not
// of the signal that happened to be measured.
class Compatible {
 public:
  Compatible(const CalibrationCurve& curve, double signal, double m) : curve_(curve), signal_(signal), m_(m) {}
  [[nodiscard]] double at(double x) const {
    const double below = detail::mixture_of(curve_, detail::signal_parts(curve_, x), m_).below(signal_);
    return std::min(below, 1 - below) - (1 - curve_.level) / 2;
  }
  /// From the amount outwards until the signal is no longer compatible; infinite where it stays so.
  [[nodiscard]] double limit(double amount, double step, double width) const {
    double inside = amount;
    for (double reach = step; std::abs(reach) <= farthest_in_widths * width; reach *= 1.5) {
      try {
        if (at(amount + reach) >= 0) {
          inside = amount + reach;
          continue;
        }
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
  const CalibrationCurve& curve_;
  double signal_;
  double m_;
};

}  // namespace

double ReadingScatter::at(double signal) const {
  switch (form) {
    case Form::constant: return scale;
    case Form::power: return scale * std::pow(std::abs(signal + offset), power);
    case Form::function: return scale * function.at(signal + offset);
    case Form::tabulated: break;
  }
  if (table.empty()) return not_a_number;
  const auto above = std::lower_bound(table.begin(), table.end(), signal,
                                      [](const auto& entry, double value) { return entry.first < value; });
  if (above == table.begin()) return scale * above->second;
  if (above == table.end()) return scale * table.back().second;
  const auto below = std::prev(above);
  const double share = (signal - below->first) / (above->first - below->first);
  return scale * ((1 - share) * below->second + share * above->second);
}

Interval detail::compatible_amounts(const CalibrationCurve& curve, double signal, double readings, double amount,
                                    double step) {
  const Range range = curve.estimate.parts().ranges[0];
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
  const auto m = static_cast<double>(unknown.signals.size());
  Amount result;
  result.signal = std::accumulate(unknown.signals.begin(), unknown.signals.end(), 0.0) / m - curve.blank;
  const double own = curve.scatter.at(result.signal) / std::sqrt(m);
  const std::vector<Root> roots = roots_of(curve, result.signal, std::isfinite(own) ? own : 0);
  if (roots.empty()) return result;
  const Root& root = roots.front();
  for (std::size_t i = 1; i < roots.size(); ++i) result.others.push_back(unknown.dilution * roots[i].value);
  result.outside_standards = root.outside > 0;
  // The root's own uncertainty tells the slope.
  const CurvePoint at_root = curve_at(curve.estimate, root.value);
  const double slope =
      std::hypot(at_root.standard_uncertainty, std::isfinite(own) ? own : 0) / root.standard_uncertainty;
  double reading = 0;
  double alone = 0;
  double blank = 0;
  for (const detail::SignalPart& part : detail::signal_parts(curve, root.value)) {
    const double share = std::sqrt(part.weight);
    reading = std::hypot(reading, share * part.reading / std::sqrt(m));
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
  const Range range = curve.estimate.parts().ranges[0];
  const double width = range.high - range.low;
  const double u = std::hypot(reading, alone, blank) / slope;
  const double step = std::isfinite(u) && u > 0 ? u / 4 : width / 1000;
  const Interval compatible = detail::compatible_amounts(curve, result.signal, m, root.value, step);
  const double below = root.value - compatible.low;
  const double above = compatible.high - root.value;
  const double dilution = normal_quantile((1 + curve.level) / 2) * result.budget.dilution;
  result.interval = {result.amount - std::hypot(unknown.dilution * below, dilution),
                     result.amount + std::hypot(unknown.dilution * above, dilution)};
  return result;
}

}  // namespace truecurve
