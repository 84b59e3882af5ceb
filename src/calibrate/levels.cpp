// CalibrationLevel statistics and variance functions.
#include <truecurve/assess/counted.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/levels.hpp>

#include "../base/roots.hpp"
#include "squares.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

namespace truecurve {
namespace {

double degrees(const CalibrationLevel& level) { return static_cast<double>(level.readings.size()) - 1; }

std::vector<const CalibrationLevel*> with_replicates(std::span<const CalibrationLevel> levels) {
  std::vector<const CalibrationLevel*> some;
  for (const CalibrationLevel& level : levels) {
    if (level.readings.size() > 1) some.push_back(&level);
  }
  return some;
}

// Twice the negative log-likelihood of the level variances, without the terms that do not depend on the function.
double deviance(const std::vector<const CalibrationLevel*>& levels, double blank, double constant, double slope) {
  double sum = 0;
  for (const CalibrationLevel* level : levels) {
    const double signal = level->mean - blank;
    const double variance = constant * constant + slope * slope * signal * signal;
    sum += degrees(*level) * (std::log(variance) + level->sd * level->sd / variance);
  }
  return sum;
}

// For variances s0² (1 + ratio signal²) the best s0² is a mean, so only the ratio is searched for.
VarianceFunction with_ratio(const std::vector<const CalibrationLevel*>& levels, double blank, double ratio) {
  double sum = 0;
  double count = 0;
  for (const CalibrationLevel* level : levels) {
    const double signal = level->mean - blank;
    sum += degrees(*level) * level->sd * level->sd / (1 + ratio * signal * signal);
    count += degrees(*level);
  }
  const double constant = std::sqrt(sum / count);
  return {VarianceFunction::Form::both, constant, constant * std::sqrt(ratio)};
}

VarianceFunction best_of_both(const std::vector<const CalibrationLevel*>& levels, double blank, double largest) {
  // The scatter doubles somewhere between a thousandth and a thousandfold of the largest signal: a scan in the
  // logarithm of the ratio, then Brent's search.
  const auto value = [&](double log_ratio) {
    const VarianceFunction f = with_ratio(levels, blank, std::exp(log_ratio));
    return deviance(levels, blank, f.constant, f.slope);
  };
  const double middle = -2 * std::log(largest);
  const double reach = 2 * std::log(1000.0);
  constexpr int scanned = 120;
  double best = middle - reach;
  for (int i = 0; i <= scanned; ++i) {
    const double at = middle - reach + 2 * reach * i / scanned;
    if (value(at) < value(best)) best = at;
  }
  const double step = 2 * reach / scanned;
  return with_ratio(levels, blank, std::exp(detail::lowest_place(best - step, best + step, value)));
}

}  // namespace

std::vector<CalibrationLevel> levels_of(std::span<const Reading> readings, Level level) {
  std::map<double, CalibrationLevel> by_amount;
  for (const Reading& reading : readings) {
    CalibrationLevel& entry = by_amount[reading.amount];
    entry.amount = reading.amount;
    entry.readings.push_back(reading);
  }
  std::vector<CalibrationLevel> levels;
  for (auto& [amount, entry] : by_amount) {
    const auto n = static_cast<double>(entry.readings.size());
    const detail::Squares squares = detail::squares_of(entry.readings);
    entry.mean = squares.mean;
    if (!std::isnan(entry.readings.front().exposure)) {
      const detail::Total total = detail::total_of(entry.readings);
      entry.mean = total.rate();
      entry.interval = exact_interval(ResponseKind::counts, total.count, total.exposure, level);
      if (n > 1) entry.sd = squares.sd();
    } else if (n > 1) {
      entry.sd = squares.sd();
      const double half = student_t_quantile((1 + level) / 2, n - 1) * entry.sd / std::sqrt(n);
      entry.interval = {entry.mean - half, entry.mean + half};
    }
    levels.push_back(std::move(entry));
  }
  return levels;
}

double VarianceFunction::at(double signal) const noexcept { return GrowingScatter{constant, slope}.at(signal); }

std::vector<VarianceFunction> variance_functions(std::span<const CalibrationLevel> levels, double blank) {
  std::vector<const CalibrationLevel*> usable;
  double largest = 0;
  bool scatters = false;
  for (const CalibrationLevel* level : with_replicates(levels)) {
    usable.push_back(level);
    scatters = scatters || level->sd > 0;
    largest = std::max(largest, std::abs(level->mean - blank));
  }
  if (!scatters || !(largest > 0)) return {};
  double count = 0;
  double relative = 0;
  bool all_above = true;
  for (const CalibrationLevel* level : usable) {
    const double signal = level->mean - blank;
    count += degrees(*level);
    all_above = all_above && signal != 0;
    relative += degrees(*level) * level->sd * level->sd / (signal * signal);
  }
  VarianceFunction constant = with_ratio(usable, blank, 0);
  constant.form = VarianceFunction::Form::constant;
  std::vector<VarianceFunction> functions = {constant};
  if (all_above) functions.push_back({VarianceFunction::Form::proportional, 0, std::sqrt(relative / count)});
  if (usable.size() > 2) functions.push_back(best_of_both(usable, blank, largest));
  const auto n = static_cast<double>(usable.size());
  for (VarianceFunction& f : functions) {
    const double k = f.form == VarianceFunction::Form::both ? 2 : 1;
    f.log_likelihood = -deviance(usable, blank, f.constant, f.slope) / 2;
    f.aicc = n - k - 1 > 0 ? 2 * k - 2 * f.log_likelihood + 2 * k * (k + 1) / (n - k - 1) : not_a_number;
  }
  return functions;
}

}  // namespace truecurve
