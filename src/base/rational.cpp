#include "rational.hpp"

#include <cmath>

namespace truecurve::detail {

std::optional<Rational> rational_of(double value, int largest) {
  constexpr double whole_limit = 1e6;  // beyond it every number is nearly a whole one
  if (!(std::abs(value) < whole_limit)) return {};
  for (int denominator = 1; denominator <= largest; ++denominator) {
    const double numerator = std::round(value * denominator);
    if (std::abs(value * denominator - numerator) <= 1e-12 * std::abs(numerator))
      return Rational(static_cast<long long>(numerator), denominator);
  }
  return {};
}

}  // namespace truecurve::detail
