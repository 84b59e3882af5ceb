// Level statistics and the tests of ISO 5725-2.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/levels.hpp>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include <fmt/format.h>

namespace truecurve {
namespace {

constexpr double straggler = 0.05;
constexpr double outlier = 0.01;

std::string_view grade_of(double p) { return p < outlier ? "outlier" : "straggler"; }

double degrees(const Level& level) { return static_cast<double>(level.readings.size()) - 1; }

std::vector<const Level*> with_replicates(std::span<const Level> levels) {
  std::vector<const Level*> some;
  for (const Level& level : levels) {
    if (level.readings.size() > 1) some.push_back(&level);
  }
  return some;
}

const Reading& farthest(const Level& level) {
  return *std::max_element(level.readings.begin(), level.readings.end(), [&level](const Reading& a, const Reading& b) {
    return std::abs(a.signal - level.mean) < std::abs(b.signal - level.mean);
  });
}

double median_of(const Level& level) {
  std::vector<double> signals;
  for (const Reading& r : level.readings) signals.push_back(r.signal);
  std::sort(signals.begin(), signals.end());
  const std::size_t half = signals.size() / 2;
  return signals.size() % 2 == 1 ? signals[half] : (signals[half - 1] + signals[half]) / 2;
}

struct Pooled {
  double squares = 0;
  double degrees = 0;
};

Pooled pooled(std::span<const Level* const> levels) {
  Pooled sum;
  for (const Level* level : levels) {
    sum.squares += level->sd * level->sd * degrees(*level);
    sum.degrees += degrees(*level);
  }
  return sum;
}

void test_brown_forsythe(const std::vector<const Level*>& levels, EqualScatter& result) {
  double count = 0;
  double total = 0;
  std::vector<std::vector<double>> distances;
  for (const Level* level : levels) {
    const double median = median_of(*level);
    distances.emplace_back();
    for (const Reading& r : level->readings) {
      distances.back().push_back(std::abs(r.signal - median));
      total += distances.back().back();
      count += 1;
    }
  }
  double between = 0;
  double within = 0;
  for (const std::vector<double>& group : distances) {
    double mean = 0;
    for (const double z : group) mean += z / static_cast<double>(group.size());
    between += static_cast<double>(group.size()) * (mean - total / count) * (mean - total / count);
    for (const double z : group) within += (z - mean) * (z - mean);
  }
  const double first = static_cast<double>(levels.size()) - 1;
  const double second = count - static_cast<double>(levels.size());
  if (!(within > 0) || !(second > 0)) return;
  result.brown_forsythe = between / first / (within / second);
  result.brown_forsythe_p = f_upper(result.brown_forsythe, first, second);
}

void test_high_to_low(const std::vector<const Level*>& levels, EqualScatter& result) {
  const std::size_t third = std::max<std::size_t>(1, levels.size() / 3);
  const Pooled low = pooled(std::span(levels).first(third));
  const Pooled high = pooled(std::span(levels).last(third));
  if (!(low.squares > 0) || !(high.squares > 0)) return;
  result.high_to_low = high.squares / high.degrees / (low.squares / low.degrees);
  const double above = f_upper(result.high_to_low, high.degrees, low.degrees);
  result.high_to_low_p = std::min(1.0, 2 * std::min(above, 1 - above));
}

// Largest variance over their sum, and the level that has it.
std::pair<double, const Level*> cochran(const std::vector<const Level*>& levels) {
  double sum = 0;
  const Level* largest = levels.front();
  for (const Level* level : levels) {
    sum += level->sd * level->sd;
    if (level->sd > largest->sd) largest = level;
  }
  return {sum > 0 ? largest->sd * largest->sd / sum : not_a_number, largest};
}

double mean_size(const std::vector<const Level*>& levels) {
  double count = 0;
  for (const Level* level : levels) count += static_cast<double>(level->readings.size());
  return count / static_cast<double>(levels.size());
}

// Twice the negative log-likelihood of the level variances, without the terms that do not depend on the function.
double deviance(const std::vector<const Level*>& levels, double blank, double constant, double slope) {
  double sum = 0;
  for (const Level* level : levels) {
    const double signal = level->mean - blank;
    const double variance = constant * constant + slope * slope * signal * signal;
    sum += degrees(*level) * (std::log(variance) + level->sd * level->sd / variance);
  }
  return sum;
}

// For variances s0² (1 + ratio signal²) the best s0² is a mean, so only the ratio is searched for.
VarianceFunction with_ratio(const std::vector<const Level*>& levels, double blank, double ratio) {
  double sum = 0;
  double count = 0;
  for (const Level* level : levels) {
    const double signal = level->mean - blank;
    sum += degrees(*level) * level->sd * level->sd / (1 + ratio * signal * signal);
    count += degrees(*level);
  }
  const double constant = std::sqrt(sum / count);
  return {VarianceFunction::Form::both, constant, constant * std::sqrt(ratio)};
}

VarianceFunction best_of_both(const std::vector<const Level*>& levels, double blank, double largest) {
  // The scatter doubles somewhere between a thousandth and a thousandfold of the largest signal: a scan in the
  // logarithm of the ratio, then golden sections.
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
  double low = best - 2 * reach / scanned;
  double high = best + 2 * reach / scanned;
  const double golden = 1 / std::numbers::phi;
  for (int i = 0; i < 60; ++i) {
    const double a = high - golden * (high - low);
    const double b = low + golden * (high - low);
    (value(a) < value(b) ? high : low) = value(a) < value(b) ? b : a;
  }
  return with_ratio(levels, blank, std::exp((low + high) / 2));
}

}  // namespace

std::vector<Level> levels_of(std::span<const Reading> readings, double level) {
  std::map<double, Level> by_amount;
  for (const Reading& reading : readings) {
    Level& entry = by_amount[reading.amount];
    entry.amount = reading.amount;
    entry.readings.push_back(reading);
  }
  std::vector<Level> levels;
  for (auto& [amount, entry] : by_amount) {
    const auto n = static_cast<double>(entry.readings.size());
    double sum = 0;
    for (const Reading& r : entry.readings) sum += r.signal;
    entry.mean = sum / n;
    if (n > 1) {
      double squares = 0;
      for (const Reading& r : entry.readings) squares += (r.signal - entry.mean) * (r.signal - entry.mean);
      entry.sd = std::sqrt(squares / (n - 1));
      const double half = student_t_quantile((1 + level) / 2, n - 1) * entry.sd / std::sqrt(n);
      entry.interval = {entry.mean - half, entry.mean + half};
    }
    levels.push_back(std::move(entry));
  }
  return levels;
}

double grubbs_p(double statistic, double n) {
  const double square = n * (n - 2) * statistic * statistic / ((n - 1) * (n - 1) - n * statistic * statistic);
  // The statistic can't exceed (n - 1)/sqrt(n), at which all other readings agree.
  if (!(square < infinity) || square < 0) return 0;
  return std::min(1.0, n * student_t_two_sided(std::sqrt(square), n - 2));
}

double cochran_p(double statistic, double levels, double n) {
  if (!(statistic < 1)) return 0;
  const double f = (levels - 1) * statistic / (1 - statistic);
  return std::min(1.0, levels * f_upper(f, n - 1, (levels - 1) * (n - 1)));
}

std::vector<Suspicion> suspicious_readings(std::span<const Level> levels) {
  std::vector<Suspicion> found;
  for (const Level& level : levels) {
    const auto n = static_cast<double>(level.readings.size());
    if (n < 3 || !(level.sd > 0)) continue;
    const Reading& reading = farthest(level);
    const double statistic = std::abs(reading.signal - level.mean) / level.sd;
    const double p = grubbs_p(statistic, n);
    if (p < straggler) found.push_back({Suspicion::Test::grubbs, level.amount, reading, statistic, p, grade_of(p)});
  }
  const std::vector<const Level*> replicated = with_replicates(levels);
  if (replicated.size() > 1) {
    const auto [statistic, level] = cochran(replicated);
    const double p = std::isnan(statistic)
                         ? not_a_number
                         : cochran_p(statistic, static_cast<double>(replicated.size()), mean_size(replicated));
    if (p < straggler)
      found.push_back({Suspicion::Test::cochran, level->amount, farthest(*level), statistic, p, grade_of(p)});
  }
  return found;
}

EqualScatter equal_scatter(std::span<const Level> levels) {
  EqualScatter result;
  const std::vector<const Level*> replicated = with_replicates(levels);
  if (replicated.size() < 2) return result;
  test_brown_forsythe(replicated, result);
  test_high_to_low(replicated, result);
  result.cochran = cochran(replicated).first;
  if (!std::isnan(result.cochran)) {
    result.cochran_p = cochran_p(result.cochran, static_cast<double>(replicated.size()), mean_size(replicated));
  }
  result.is_equal = !(result.brown_forsythe_p < straggler) && !(result.high_to_low_p < straggler);
  return result;
}

double VarianceFunction::at(double signal) const { return std::hypot(constant, slope * signal); }

std::vector<VarianceFunction> variance_functions(std::span<const Level> levels, double blank) {
  std::vector<const Level*> usable;
  double largest = 0;
  bool scatters = false;
  for (const Level* level : with_replicates(levels)) {
    usable.push_back(level);
    scatters = scatters || level->sd > 0;
    largest = std::max(largest, std::abs(level->mean - blank));
  }
  if (!scatters || !(largest > 0)) return {};
  double count = 0;
  double relative = 0;
  bool all_above = true;
  for (const Level* level : usable) {
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
