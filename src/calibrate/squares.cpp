// Mean and sum of squares of a group of readings.
#include "squares.hpp"

#include <truecurve/calibrate/readings.hpp>

#include <algorithm>
#include <cmath>

namespace truecurve::detail {

double Squares::variance() const { return degrees > 0 ? squares / degrees : not_a_number; }
double Squares::sd() const { return std::sqrt(variance()); }

Squares squares_of(const std::vector<double>& group) {
  Squares result{.degrees = static_cast<double>(group.size()) - 1};
  if (group.empty()) return result;
  for (const double y : group) result.mean += y;
  result.mean /= static_cast<double>(group.size());
  for (const double y : group) result.squares += (y - result.mean) * (y - result.mean);
  const auto [low, high] = std::minmax_element(group.begin(), group.end());
  if (*low == *high) result = {.mean = *low, .squares = 0, .degrees = result.degrees};
  return result;
}

Squares squares_of(const std::vector<Reading>& readings) {
  std::vector<double> signals;
  for (const Reading& r : readings) signals.push_back(r.signal);
  return squares_of(signals);
}

Total total_of(const std::vector<Reading>& readings) {
  Total total;
  for (const Reading& r : readings) {
    total.count += r.count();
    total.exposure += r.exposure;
  }
  return total;
}

}  // namespace truecurve::detail
