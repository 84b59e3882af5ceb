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
constexpr double most_steps_between = 1e7;  // where the step is no decimal
constexpr double certain = 8;               // errors of rounding
constexpr std::size_t values_for_a_divisor = 4;
// So many have a larger divisor than their step by chance in one of a hundred sets.
constexpr std::size_t values_for_a_multiple = 8;

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
    if (place > 0 && std::isfinite(place) && are_multiples(values, place)) return place;
  }
  return 0;
}

struct Length {
  double value;
  double error;  // what the rounding of the numbers may have made of it
};

// Euclid's algorithm, as far as what is left is no rounding.
Length common_divisor(Length a, Length b) {
  while (b.value > certain * b.error) {
    const double times = std::round(a.value / b.value);
    const Length rest{std::abs(a.value - b.value * times), a.error + times * b.error};
    a = b;
    b = rest;
  }
  return a;
}

double divisor_of_differences(Values values, double largest) {
  const double rounding = std::numeric_limits<double>::epsilon() * largest;
  Length step{0, 0};
  for (const double v : values) {
    const Length difference{std::abs(v - values.front()), rounding};
    if (!(difference.value > certain * rounding)) continue;
    step = common_divisor(difference, step);
    // A large difference tells the step better than a chain of remainders.
    const double times = std::round(difference.value / step.value);
    step = {difference.value / times, rounding / times};
    if (!(step.value > largest / most_steps_between)) return 0;
  }
  const bool fits = std::all_of(values.begin(), values.end(), [&values, step](double v) {
    const double steps = (v - values.front()) / step.value;
    return std::abs(steps - std::round(steps)) <= 1e-3;
  });
  return fits ? step.value : 0;
}

}  // namespace

double resolution_of(Values values) {
  double largest = 0;
  for (const double v : values) largest = std::max(largest, std::abs(v));
  if (!std::isfinite(largest) || !has_different(values, 2)) return 0;
  const double decimal = decimal_step(values, largest);
  if (!has_different(values, decimal > 0 ? values_for_a_multiple : values_for_a_divisor)) return decimal;
  const double divisor = divisor_of_differences(values, largest);
  if (!(divisor > 0 && decimal > 0)) return divisor > 0 ? divisor : decimal;
  const double times = std::round(divisor / decimal);
  return decimal < 1 ? times / std::round(1 / decimal) : times * decimal;  // rounded once
}

}  // namespace truecurve
