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
constexpr std::size_t values_for_twos_and_fives = 8;

bool are_multiples(const VectorXd& values, double of) {
  constexpr double roundings = 8 * std::numeric_limits<double>::epsilon();
  return std::all_of(values.begin(), values.end(), [of](double value) {
    const double steps = value / of;
    return std::abs(steps) < most_steps && std::abs(steps - std::round(steps)) <= roundings * std::abs(steps);
  });
}

bool has_many_values(const VectorXd& values) {
  std::set<double> different;
  for (const double value : values) {
    different.insert(value);
    if (different.size() >= values_for_twos_and_fives) return true;
  }
  return false;
}

}  // namespace

double resolution_of(const VectorXd& values) {
  const double largest = values.size() == 0 ? 0 : values.cwiseAbs().maxCoeff();
  if (!(largest > 0) || !std::isfinite(largest)) return 0;
  const int highest = static_cast<int>(std::floor(std::log10(largest)));
  for (int power = highest; power > highest - 11; --power) {
    // A quotient of powers of ten that are exact is rounded once.
    const double place = power >= 0 ? std::pow(10.0, power) : 1 / std::pow(10.0, -power);
    if (!(place > 0) || !std::isfinite(place) || !are_multiples(values, place)) continue;
    for (const double times : {5.0, 2.0}) {
      if (are_multiples(values, times * place) && has_many_values(values)) return times * place;
    }
    return place;
  }
  return 0;
}

}  // namespace truecurve
