// Order statistics and fences of one column.
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

}  // namespace

ColumnSummary summary_of(const Column& column) {
  ColumnSummary s;
  std::vector<double> sorted;
  sorted.reserve(column.numbers.size());
  for (const double x : column.numbers) {
    if (!std::isnan(x)) sorted.push_back(x);
  }
  s.count = sorted.size();
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
  const double reach = 1.5 * std::min(s.upper_quartile - s.lower_quartile, std::numeric_limits<double>::max());
  for (std::size_t i = 0; i < column.numbers.size(); ++i) {
    const double x = column.numbers[i];
    if (x < s.lower_quartile - reach || x > s.upper_quartile + reach) s.beyond_fences.push_back(i + 1);
  }
  return s;
}

}  // namespace truecurve
