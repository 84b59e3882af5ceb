// Numbers of about 32 digits as unevaluated sums of two doubles, for small problems whose condition a double can't
// bear.
//
// Sources: T. J. Dekker, Numer. Math. 18 (1971) 224 (two-product by splitting); D. E. Knuth, The Art of Computer
// Programming 2, 4.2.2 (two-sum). Must be compiled without contraction and without unsafe maths.
#pragma once

#include <cmath>

namespace truecurve::detail {

struct DoubleDouble {
  double high = 0;
  double low = 0;

  constexpr DoubleDouble() = default;
  constexpr DoubleDouble(double value) : high(value) {}  // NOLINT: a double is one of these
  constexpr DoubleDouble(double h, double l) : high(h), low(l) {}
  [[nodiscard]] constexpr double value() const { return high + low; }
};

/// a + b exactly, whatever their order of magnitude.
inline DoubleDouble two_sum(double a, double b) {
  const double sum = a + b;
  const double shadow = sum - a;
  return {sum, (a - (sum - shadow)) + (b - shadow)};
}

/// a + b exactly where |a| >= |b|.
inline DoubleDouble quick_two_sum(double a, double b) {
  const double sum = a + b;
  return {sum, b - (sum - a)};
}

/// a * b exactly, barring overflow beyond 1e300.
inline DoubleDouble two_product(double a, double b) {
  constexpr double splitter = 134217729.0;  // 2^27 + 1
  const double product = a * b;
  const double at = splitter * a;
  const double ah = at - (at - a);
  const double al = a - ah;
  const double bt = splitter * b;
  const double bh = bt - (bt - b);
  const double bl = b - bh;
  return {product, ((ah * bh - product) + ah * bl + al * bh) + al * bl};
}

inline DoubleDouble operator+(DoubleDouble a, DoubleDouble b) {
  DoubleDouble high = two_sum(a.high, b.high);
  const DoubleDouble low = two_sum(a.low, b.low);
  high = quick_two_sum(high.high, high.low + low.high);
  return quick_two_sum(high.high, high.low + low.low);
}
inline DoubleDouble operator-(DoubleDouble a) { return {-a.high, -a.low}; }
inline DoubleDouble operator-(DoubleDouble a, DoubleDouble b) { return a + -b; }
inline DoubleDouble operator*(DoubleDouble a, DoubleDouble b) {
  const DoubleDouble product = two_product(a.high, b.high);
  return quick_two_sum(product.high, product.low + (a.high * b.low + a.low * b.high));
}
inline DoubleDouble operator/(DoubleDouble a, DoubleDouble b) {
  const double first = a.high / b.high;
  DoubleDouble rest = a - b * DoubleDouble(first);
  const double second = rest.high / b.high;
  rest = rest - b * DoubleDouble(second);
  return quick_two_sum(first, second) + DoubleDouble(rest.high / b.high);
}
inline DoubleDouble& operator+=(DoubleDouble& a, DoubleDouble b) { return a = a + b; }
inline DoubleDouble& operator-=(DoubleDouble& a, DoubleDouble b) { return a = a - b; }

inline DoubleDouble sqrt(DoubleDouble a) {
  if (!(a.high > 0)) return {std::sqrt(a.high), 0};
  const double root = std::sqrt(a.high);
  const DoubleDouble rest = a - two_product(root, root);
  return quick_two_sum(root, rest.high / (2 * root));
}
inline DoubleDouble abs(DoubleDouble a) { return a.high < 0 ? -a : a; }
inline bool is_finite(DoubleDouble a) { return std::isfinite(a.high); }

}  // namespace truecurve::detail
