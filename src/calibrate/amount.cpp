// Reads amounts back.
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/amount.hpp>

#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

namespace truecurve {
namespace {

constexpr double beyond = 0.5;

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

double curve_uncertainty(const Estimate& estimate, double x) {
  return band_at(estimate, VectorXd::Constant(1, x), 0.95)[0].standard_uncertainty;
}

}  // namespace

double ReadingScatter::at(double signal) const {
  switch (form) {
    case Form::constant: return scale;
    case Form::power: return scale * std::pow(std::abs(signal), power);
    case Form::function: return scale * function.at(signal);
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
  const double whole = curve_uncertainty(curve.estimate, root.value);
  const double slope = std::hypot(whole, std::isfinite(own) ? own : 0) / root.standard_uncertainty;
  const double alone = std::min(whole, curve_uncertainty(curve.without_blank, root.value));
  const double factor = unknown.dilution / slope;
  result.amount = unknown.dilution * root.value;
  result.budget = {.readings = factor * own,
                   .curve = factor * alone,
                   .blank = factor * std::sqrt(std::max(0.0, whole * whole - alone * alone)),
                   .dilution = std::abs(result.amount) * unknown.dilution_uncertainty};
  result.standard_uncertainty = std::hypot(std::hypot(result.budget.readings, result.budget.curve),
                                           std::hypot(result.budget.blank, result.budget.dilution));
  if (!std::isfinite(own)) return result;  // without the scatter of a reading there is no interval
  const double dilution = curve.estimate.coverage_factor(curve.level) * result.budget.dilution;
  result.interval = {result.amount - std::hypot(unknown.dilution * (root.value - root.interval.low), dilution),
                     result.amount + std::hypot(unknown.dilution * (root.interval.high - root.value), dilution)};
  return result;
}

}  // namespace truecurve
