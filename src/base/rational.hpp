// Fractions of whole numbers, without rounding and without overflow.
#pragma once

#include <optional>

#include <boost/multiprecision/cpp_int.hpp>

namespace truecurve::detail {

using Rational = boost::multiprecision::cpp_rational;

/// The fraction with a denominator up to `largest` that a number is, to 1e-12 of it; none where there is none.
[[nodiscard]] std::optional<Rational> rational_of(double value, int largest);

}  // namespace truecurve::detail
