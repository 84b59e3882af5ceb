// Points that fill a space evenly.
#pragma once

namespace truecurve::detail {

/// The n-th number of van der Corput's sequence in a base, between 0 and 1; Halton (1960), Numer. Math. 2, 84, takes
/// one prime base for each dimension. Requires n >= 1.
[[nodiscard]] inline double radical_inverse(int n, int base) {
  double result = 0;
  double digit = 1.0 / base;
  for (; n > 0; n /= base, digit /= base) result += digit * (n % base);
  return result;
}

}  // namespace truecurve::detail
