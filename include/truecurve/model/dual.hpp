// A number that carries its derivatives: what a C++ model computes with to get exact derivatives.
// None of these throws an Error of its own.
//
// Example:
//     const truecurve::Dual tau = truecurve::Dual::variable(2, 0);
//     const truecurve::Dual y = 3 * exp(-1 / tau);
//     EXPECT_NEAR(y.value, 3 * std::exp(-0.5), 1e-15);
//     EXPECT_NEAR(y.slope[0], 3 * std::exp(-0.5) / 4, 1e-15);
#pragma once

#include <array>
#include <cmath>
#include <cstddef>

namespace truecurve {

// The same names on double, so that code written for any scalar finds both in one place: truecurve::exp(x).
using std::abs, std::acos, std::asin, std::atan, std::atan2, std::cbrt, std::cos, std::cosh, std::erf, std::erfc,
    std::exp, std::expm1, std::fabs, std::hypot, std::log, std::log10, std::log1p, std::log2, std::pow, std::sin,
    std::sinh, std::sqrt, std::tan, std::tanh;

/// A value and its derivatives by four variables at once, by the rules of differentiation (forward mode; Wengert 1964).
/// Comparisons look at the value alone. Functions are found by their plain names: exp(x), or truecurve::exp(x).
struct Dual {
  static constexpr std::size_t width = 4;

  double value = 0;
  std::array<double, width> slope{};

  Dual() = default;
  Dual(double number) : value(number) {}  // NOLINT: a plain number is a constant
  Dual(double number, const std::array<double, width>& slopes) : value(number), slope(slopes) {}

  /// The variable by which slope[which] is the derivative. Requires which < width.
  [[nodiscard]] static Dual variable(double number, std::size_t which) {
    Dual x(number);
    x.slope[which] = 1;
    return x;
  }

  /// f(x) from its value and its derivative at x.
  [[nodiscard]] static Dual chained(const Dual& x, double f, double f_slope) {
    Dual result(f);
    for (std::size_t k = 0; k < width; ++k) result.slope[k] = f_slope * x.slope[k];
    return result;
  }
  /// f(x, y) from its value and its partial derivatives.
  [[nodiscard]] static Dual chained(const Dual& x, const Dual& y, double f, double by_x, double by_y) {
    Dual result(f);
    for (std::size_t k = 0; k < width; ++k) result.slope[k] = by_x * x.slope[k] + by_y * y.slope[k];
    return result;
  }

  /// The same where a partial derivative may be infinite, as that of a power at 0: a part that does not move counts
  /// nothing.
  [[nodiscard]] static Dual chained_where_it_moves(const Dual& x, double f, double f_slope) {
    Dual result(f);
    for (std::size_t k = 0; k < width; ++k) result.slope[k] = x.slope[k] == 0 ? 0 : f_slope * x.slope[k];
    return result;
  }
  [[nodiscard]] static Dual chained_where_they_move(const Dual& x, const Dual& y, double f, double by_x, double by_y) {
    const Dual one = chained_where_it_moves(x, f, by_x);
    Dual result = chained_where_it_moves(y, f, by_y);
    for (std::size_t k = 0; k < width; ++k) result.slope[k] += one.slope[k];
    return result;
  }

  Dual& operator+=(const Dual& y) { return *this = *this + y; }
  Dual& operator-=(const Dual& y) { return *this = *this - y; }
  Dual& operator*=(const Dual& y) { return *this = *this * y; }
  Dual& operator/=(const Dual& y) { return *this = *this / y; }

  friend Dual operator+(const Dual& x) { return x; }
  friend Dual operator-(const Dual& x) { return chained(x, -x.value, -1); }
  friend Dual operator+(const Dual& x, const Dual& y) { return chained(x, y, x.value + y.value, 1, 1); }
  friend Dual operator-(const Dual& x, const Dual& y) { return chained(x, y, x.value - y.value, 1, -1); }
  friend Dual operator*(const Dual& x, const Dual& y) { return chained(x, y, x.value * y.value, y.value, x.value); }
  friend Dual operator/(const Dual& x, const Dual& y) {
    const double quotient = x.value / y.value;
    return chained(x, y, quotient, 1 / y.value, -quotient / y.value);
  }
  friend bool operator==(const Dual& x, const Dual& y) { return x.value == y.value; }
  friend auto operator<=>(const Dual& x, const Dual& y) { return x.value <=> y.value; }
};

[[nodiscard]] inline Dual exp(const Dual& x) {
  const double f = std::exp(x.value);
  return Dual::chained(x, f, f);
}
[[nodiscard]] inline Dual log(const Dual& x) { return Dual::chained(x, std::log(x.value), 1 / x.value); }
[[nodiscard]] inline Dual log10(const Dual& x) {
  return Dual::chained(x, std::log10(x.value), 0.43429448190325182765 / x.value);
}
[[nodiscard]] inline Dual log2(const Dual& x) {
  return Dual::chained(x, std::log2(x.value), 1.4426950408889634074 / x.value);
}
[[nodiscard]] inline Dual log1p(const Dual& x) { return Dual::chained(x, std::log1p(x.value), 1 / (1 + x.value)); }
[[nodiscard]] inline Dual expm1(const Dual& x) { return Dual::chained(x, std::expm1(x.value), std::exp(x.value)); }
[[nodiscard]] inline Dual sqrt(const Dual& x) {
  const double f = std::sqrt(x.value);
  return Dual::chained_where_it_moves(x, f, 0.5 / f);
}
[[nodiscard]] inline Dual cbrt(const Dual& x) {
  const double f = std::cbrt(x.value);
  return Dual::chained_where_it_moves(x, f, 1 / (3 * f * f));
}
[[nodiscard]] inline Dual sin(const Dual& x) { return Dual::chained(x, std::sin(x.value), std::cos(x.value)); }
[[nodiscard]] inline Dual cos(const Dual& x) { return Dual::chained(x, std::cos(x.value), -std::sin(x.value)); }
[[nodiscard]] inline Dual tan(const Dual& x) {
  const double f = std::tan(x.value);
  return Dual::chained(x, f, 1 + f * f);
}
[[nodiscard]] inline Dual asin(const Dual& x) {
  return Dual::chained_where_it_moves(x, std::asin(x.value), 1 / std::sqrt(1 - x.value * x.value));
}
[[nodiscard]] inline Dual acos(const Dual& x) {
  return Dual::chained_where_it_moves(x, std::acos(x.value), -1 / std::sqrt(1 - x.value * x.value));
}
[[nodiscard]] inline Dual atan(const Dual& x) {
  return Dual::chained(x, std::atan(x.value), 1 / (1 + x.value * x.value));
}
[[nodiscard]] inline Dual atan2(const Dual& y, const Dual& x) {
  const double square = x.value * x.value + y.value * y.value;
  return Dual::chained(y, x, std::atan2(y.value, x.value), x.value / square, -y.value / square);
}
[[nodiscard]] inline Dual sinh(const Dual& x) { return Dual::chained(x, std::sinh(x.value), std::cosh(x.value)); }
[[nodiscard]] inline Dual cosh(const Dual& x) { return Dual::chained(x, std::cosh(x.value), std::sinh(x.value)); }
[[nodiscard]] inline Dual tanh(const Dual& x) {
  const double f = std::tanh(x.value);
  return Dual::chained(x, f, 1 - f * f);
}
[[nodiscard]] inline Dual erf(const Dual& x) {
  return Dual::chained(x, std::erf(x.value), 1.1283791670955126 * std::exp(-x.value * x.value));
}
[[nodiscard]] inline Dual erfc(const Dual& x) {
  return Dual::chained(x, std::erfc(x.value), -1.1283791670955126 * std::exp(-x.value * x.value));
}
[[nodiscard]] inline Dual abs(const Dual& x) { return x.value < 0 ? -x : x; }
[[nodiscard]] inline Dual fabs(const Dual& x) { return abs(x); }
[[nodiscard]] inline Dual hypot(const Dual& x, const Dual& y) {
  const double f = std::hypot(x.value, y.value);
  return f > 0 ? Dual::chained(x, y, f, x.value / f, y.value / f) : Dual(f);
}
/// x^n for a constant n; the derivative is right at x = 0 and for negative x.
[[nodiscard]] inline Dual pow(const Dual& x, double n) {
  return Dual::chained_where_it_moves(x, std::pow(x.value, n), n == 0 ? 0.0 : n * std::pow(x.value, n - 1));
}
[[nodiscard]] inline Dual pow(const Dual& x, int n) { return pow(x, static_cast<double>(n)); }
[[nodiscard]] inline Dual pow(const Dual& x, const Dual& y) {
  const double f = std::pow(x.value, y.value);
  return Dual::chained_where_they_move(x, y, f, y.value == 0 ? 0.0 : y.value * std::pow(x.value, y.value - 1),
                                       x.value == 0 && y.value > 0 ? 0.0 : f * std::log(x.value));
}
[[nodiscard]] inline Dual pow(double x, const Dual& y) { return pow(Dual(x), y); }

}  // namespace truecurve
