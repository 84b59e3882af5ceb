// Finds the step of rounded readings.
#include <truecurve/data/resolution.hpp>

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace truecurve {
namespace {

// Beyond so many steps a multiple can't be told from a number that is none.
constexpr double most_steps = 1e11;
constexpr int most_digits = 11;
constexpr std::size_t values_for_twos_and_fives = 8;
constexpr std::size_t values_for_a_divisor = 4;

using Values = std::span<const double>;

bool are_multiples(Values values, double of) {
  constexpr double roundings = 8 * std::numeric_limits<double>::epsilon();
  return std::all_of(values.begin(), values.end(), [of](double value) {
    const double steps = value / of;
    return std::abs(steps) < most_steps && std::abs(steps - std::round(steps)) <= roundings * std::abs(steps);
  });
}

bool has_different(Values values, std::size_t wanted) {
  std::set<double> different;
  for (const double value : values) {
    different.insert(value);
    if (different.size() >= wanted) return true;
  }
  return false;
}

// 0 where the values have more digits than that.
double decimal_step(Values values, double largest) {
  const int highest = static_cast<int>(std::floor(std::log10(largest)));
  for (int power = highest; power > highest - most_digits; --power) {
    // The reciprocal of a power of ten that is exact is rounded once.
    const double place = power >= 0 ? std::pow(10.0, power) : 1 / std::pow(10.0, -power);
    if (!(place > 0) || !std::isfinite(place) || !are_multiples(values, place)) continue;
    for (const double times : {5.0, 2.0}) {
      if (are_multiples(values, times * place) && has_different(values, values_for_twos_and_fives))
        return times * place;
    }
    return place;
  }
  return 0;
}

// Euclid's algorithm on the differences; what is left at the end of it is rounding.
double divisor_of_differences(Values values, double largest) {
  const double rounding = 1e-12 * largest;
  double step = 0;
  for (const double v : values) {
    double a = std::abs(v - values.front());
    double b = step;
    while (b > 100 * rounding) {
      const double rest = std::abs(a - b * std::round(a / b));
      a = b;
      b = rest;
    }
    step = a > 100 * rounding ? a : step;
  }
  const bool fits = std::all_of(values.begin(), values.end(), [&values, step](double v) {
    const double steps = (v - values.front()) / step;
    return std::abs(steps - std::round(steps)) <= 1e-3;
  });
  return fits ? step : 0;
}

}  // namespace

double resolution_of(Values values) {
  double largest = 0;
  for (const double v : values) largest = std::max(largest, std::abs(v));
  if (!std::isfinite(largest) || !has_different(values, 2)) return 0;
  const double step = decimal_step(values, largest);
  return step > 0 || !has_different(values, values_for_a_divisor) ? step : divisor_of_differences(values, largest);
}

}  // namespace truecurve
