// The level of an interval and the seed of random numbers: numbers that are checked once, where they are given.
//
// Example:
//     const truecurve::Level level = 0.99;
//     EXPECT_EQ(level.value(), 0.99);
//     EXPECT_THROW((void)truecurve::Level(99), truecurve::Error);
//     EXPECT_THROW((void)truecurve::Seed(-1), truecurve::Error);
#pragma once

#include <truecurve/base/error.hpp>

#include <concepts>
#include <cstdint>

namespace truecurve {

/// The probability with which an interval covers what it is of, over many measurements: between 0 and 1, 0.95 for 95 %.
/// JCGM 100:2008, 6.2. Given as a number: `band(estimate, points, 0.95)`.
class Level {
 public:
  /// Throws Error: bad_argument (not between 0 and 1).
  Level(double value);  // NOLINT: a number is a level
  [[nodiscard]] constexpr double value() const noexcept { return value_; }
  constexpr operator double() const noexcept { return value_; }  // NOLINT: a level is a number

 private:
  double value_;
};

/// Where a sequence of random numbers begins: a whole number that is not negative. The same seed gives the same
/// numbers.
class Seed {
 public:
  /// Throws Error: bad_argument (a negative number).
  template <std::integral Whole>
  Seed(Whole value) : value_(static_cast<std::uint64_t>(value)) {  // NOLINT: a number is a seed
    if (value < Whole{0}) refuse(static_cast<std::int64_t>(value));
  }
  [[nodiscard]] constexpr std::uint64_t value() const noexcept { return value_; }
  constexpr operator std::uint64_t() const noexcept { return value_; }  // NOLINT

 private:
  [[noreturn]] static void refuse(std::int64_t value);
  std::uint64_t value_;
};

}  // namespace truecurve
