// Order statistics and fences of one column.
#include <truecurve/data/resolution.hpp>
#include <truecurve/data/summary.hpp>

#include <algorithm>
#include <cmath>
#include <limits>

namespace truecurve {
namespace {

double quantile_of(const std::vector<double>& sorted, double p) {
  const double at = p * static_cast<double>(sorted.size() - 1);
  const auto below = static_cast<std::size_t>(at);
  const std::size_t above = std::min(below + 1, sorted.size() - 1);
  return std::lerp(sorted[below], sorted[above], at - static_cast<double>(below));
}

double fence_reach(double lower, double upper) {
  return 1.5 * std::min(upper - lower, std::numeric_limits<double>::max());
}

// Levels and how often each returns, of sorted numbers.
void count_levels(const std::vector<double>& sorted, ColumnSummary& s) {
  s.least_repeats = sorted.size();
  for (auto at = sorted.begin(); at != sorted.end();) {
    const auto next = std::upper_bound(at, sorted.end(), *at);
    const auto repeats = static_cast<std::size_t>(next - at);
    ++s.levels;
    s.least_repeats = std::min(s.least_repeats, repeats);
    s.most_repeats = std::max(s.most_repeats, repeats);
    at = next;
  }
}

ColumnOrder order_of(const std::vector<double>& numbers) {
  bool rises = true;
  bool falls = true;
  for (std::size_t i = 1; i < numbers.size(); ++i) {
    rises = rises && numbers[i] >= numbers[i - 1];
    falls = falls && numbers[i] <= numbers[i - 1];
  }
  return rises == falls ? ColumnOrder::none : rises ? ColumnOrder::ascending : ColumnOrder::descending;
}

// Outside the fences of the logarithms, too; of numbers that have none every one is.
bool is_far_in_logarithms(const ColumnSummary& s, double x) {
  if (!(s.minimum > 0)) return true;
  const double low = std::log(s.lower_quartile);
  const double high = std::log(s.upper_quartile);
  return std::log(x) < low - fence_reach(low, high) || std::log(x) > high + fence_reach(low, high);
}

}  // namespace

ColumnSummary summary_of(const Column& column) {
  ColumnSummary s;
  std::vector<double> sorted;
  sorted.reserve(column.numbers.size());
  for (const double x : column.numbers) {
    if (!std::isnan(x)) sorted.push_back(x);
  }
  s.count = sorted.size();
  s.order = order_of(sorted);
  s.step = resolution_of(sorted);
  s.texts = column.texts.size();
  s.missing = column.missing_count();
  if (sorted.empty()) return s;
  std::sort(sorted.begin(), sorted.end());
  // About one of them and by a power of two: no sum or square leaves the range of a double, and equal values have no
  // SD.
  const auto n = static_cast<double>(s.count);
  const double largest = std::max(std::abs(sorted.front()), std::abs(sorted.back()));
  const int power = largest > 0 ? std::ilogb(largest) : 0;
  const auto scaled = [power](double x) { return std::scalbn(x, -power); };
  const double origin = scaled(sorted[sorted.size() / 2]);
  double sum = 0;
  for (const double x : sorted) sum += scaled(x) - origin;
  const double mean = origin + sum / n;
  double squares = 0;
  for (const double x : sorted) squares += std::pow(scaled(x) - mean, 2);
  s.mean = std::scalbn(mean, power);
  if (s.count > 1) s.sd = std::scalbn(std::sqrt(squares / (n - 1)), power);
  s.minimum = sorted.front();
  s.lower_quartile = quantile_of(sorted, 0.25);
  s.median = quantile_of(sorted, 0.5);
  s.upper_quartile = quantile_of(sorted, 0.75);
  s.maximum = sorted.back();
  count_levels(sorted, s);
  const double reach = fence_reach(s.lower_quartile, s.upper_quartile);
  for (std::size_t i = 0; i < column.numbers.size(); ++i) {
    const double x = column.numbers[i];
    if (x < s.lower_quartile - reach || x > s.upper_quartile + reach) s.beyond_fences.push_back(i + 1);
  }
  for (const std::size_t row : s.beyond_fences) {
    const double x = column.numbers[row - 1];
    const auto [first, last] = std::equal_range(sorted.begin(), sorted.end(), x);
    if (s.order == ColumnOrder::none && last - first == 1 && is_far_in_logarithms(s, x)) s.unusual.push_back(row);
  }
  return s;
}

}  // namespace truecurve
