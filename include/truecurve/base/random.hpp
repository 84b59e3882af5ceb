// Seeded random numbers by a fixed algorithm: the same on every machine and for any number of threads.
//
// Example:
//     truecurve::RandomNumbers one(7);
//     truecurve::RandomNumbers two(7);
//     EXPECT_EQ(one.normal(), two.normal());
#pragma once

#include <truecurve/base/level.hpp>

#include <cstdint>
#include <memory>
#include <span>

namespace truecurve {

/// A stream of random numbers; streams of different seeds are independent for all purposes here.
/// Source: Matsumoto and Nishimura (1998), the 64-bit Mersenne Twister as fixed by the C++ standard; normal variates by
/// inversion of their distribution.
class RandomNumbers {
 public:
  /// Equal seeds give equal streams. Throws no Error of its own.
  explicit RandomNumbers(Seed seed);
  ~RandomNumbers();
  RandomNumbers(const RandomNumbers& other);
  RandomNumbers& operator=(const RandomNumbers& other);

  /// Uniform on the open interval from 0 to 1. Throws no Error of its own.
  [[nodiscard]] double uniform();
  /// Standard normal. Throws no Error of its own.
  [[nodiscard]] double normal();
  /// Standard normals, many at a time and faster than one by one (another sequence): the polar method; Marsaglia and
  /// Bray (1964), SIAM Rev. 6, 260. Throws no Error of its own.
  void fill_normal(std::span<double> values);
  /// Chi-squared with any number of degrees of freedom above 0. Source: Marsaglia and Tsang (2000), ACM Trans. Math.
  /// Softw. 26, 363. Throws Error (bad_argument) for another number.
  [[nodiscard]] double chi_squared(double degrees_of_freedom);

 private:
  struct Engine;
  std::unique_ptr<Engine> engine_;
};

}  // namespace truecurve
