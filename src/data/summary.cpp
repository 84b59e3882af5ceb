// Order statistics and fences of one column.
#include <truecurve/data/summary.hpp>

#include <algorithm>
#include <cmath>

namespace truecurve {
namespace {

double quantile_of(const std::vector<double>& sorted, double p) {
  const double at = p * static_cast<double>(sorted.size() - 1);
  const auto below = static_cast<std::size_t>(at);
  const std::size_t above = std::min(below + 1, sorted.size() - 1);
  return sorted[below] + (at - static_cast<double>(below)) * (sorted[above] - sorted[below]);
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
  const auto n = static_cast<double>(s.count);
  s.mean = 0;
  for (const double x : sorted) s.mean += x / n;
  double squares = 0;
  for (const double x : sorted) squares += (x - s.mean) * (x - s.mean);
  if (s.count > 1) s.sd = std::sqrt(squares / (n - 1));
  s.minimum = sorted.front();
  s.lower_quartile = quantile_of(sorted, 0.25);
  s.median = quantile_of(sorted, 0.5);
  s.upper_quartile = quantile_of(sorted, 0.75);
  s.maximum = sorted.back();
  const double reach = 1.5 * (s.upper_quartile - s.lower_quartile);
  for (std::size_t i = 0; i < column.numbers.size(); ++i) {
    const double x = column.numbers[i];
    if (x < s.lower_quartile - reach || x > s.upper_quartile + reach) s.beyond_fences.push_back(i + 1);
  }
  return s;
}

}  // namespace truecurve
