// Where a function changes its sign: to the last double where it is smooth, and without being led astray where it is
// not.
#include "../../src/base/roots.hpp"

#include <truecurve/base/numeric.hpp>

#include <cmath>
#include <numbers>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

TEST(ChangeOfSign, IsFoundToTheLastDouble) {
  // Beside the place stand the doubles on which the function has different signs.
  const auto expect_root = [](double low, double high, const std::function<double(double)>& f) {
    const double at = detail::change_of_sign(low, high, f);
    const double below = std::nextafter(at, -infinity);
    const double above = std::nextafter(at, infinity);
    EXPECT_TRUE(f(at) == 0 || f(below) * f(at) <= 0 || f(at) * f(above) <= 0) << at;
    return at;
  };
  EXPECT_NEAR(expect_root(0, 2, [](double x) { return x * x - 2; }), std::sqrt(2.0), 3e-16);
  EXPECT_NEAR(expect_root(0, 2, [](double x) { return 2 - x * x; }), std::sqrt(2.0), 3e-16);
  EXPECT_NEAR(expect_root(1e-12, 1e12, [](double x) { return std::log(x) - 3; }), std::exp(3.0), 1e-13);
  EXPECT_NEAR(expect_root(-1e-300, 3e-300, [](double x) { return x - 1e-300; }), 1e-300, 1e-315);
  EXPECT_EQ(detail::change_of_sign(5, 7, [](double x) { return x - 5; }), 5) << "an end that is a root";
  EXPECT_EQ(detail::change_of_sign(5, 7, [](double x) { return x - 7; }), 7);
  int evaluations = 0;
  (void)detail::change_of_sign(0, 3, [&](double x) {
    ++evaluations;
    return std::exp(x) - 5;
  });
  EXPECT_LT(evaluations, 25) << "halving alone takes more than fifty";
}

// A pole wherever it lies between the ends, also one whose own value is lost, against zeros however steep.
TEST(ChangeOfSign, IsAZeroOrAPole) {
  for (const double at : {0.5, 0.001, 1e-5, 1e-8, 1 - 1e-6}) {
    EXPECT_FALSE(detail::comes_through_zero(0, 1, at, [at](double x) { return x == at ? 0 : 1 / (x - at); })) << at;
    EXPECT_TRUE(detail::comes_through_zero(0, 1, at, [at](double x) { return std::cbrt(x - at); })) << at;
    EXPECT_TRUE(detail::comes_through_zero(0, 1, at, [at](double x) { return x < at ? -2.0 : 3.0; })) << at;
  }
  EXPECT_FALSE(detail::comes_through_zero(0, 1, 0.5, [](double x) { return x == 0.5 ? not_a_number : x - 0.5; }));
  // Between ends that are nearly zeros themselves.
  EXPECT_TRUE(detail::comes_through_zero(1e-9, 2 - 1e-9, 1, [](double x) { return std::sin(std::numbers::pi * x); }));
  for (const double sign : {1.0, -1.0})  // on one side only
    EXPECT_FALSE(detail::comes_through_zero(-1, 1, 0, [sign](double x) {
      return sign * x < 0 ? 1 / x : x == 0 ? 0 : sign;
    }));
}

TEST(ChangeOfSign, StopsAtAPoleAndAtTheEndOfAFunction) {
  EXPECT_NEAR(detail::change_of_sign(0.5, 2, [](double x) { return 1 / (x - 1); }), 1, 3e-16);
  // Not defined above 2: the end of the function is where its sign is lost.
  EXPECT_NEAR(detail::change_of_sign(0, 5, [](double x) { return x <= 2 ? 1.0 : not_a_number; }), 2, 5e-16);
  EXPECT_NEAR(detail::change_of_sign(0, 5, [](double x) { return x <= 2 ? infinity : -1.0; }), 2, 5e-16);
  EXPECT_NEAR(detail::change_of_sign(0, 1, [](double x) { return x < 0.3 ? -1.0 : 1.0; }), 0.3, 1e-15) << "a step";
}

// The last number that still holds, wherever the search begins and however large its first step is.
TEST(LastWholeNumber, IsTheOneBeforeTheStatementFails) {
  for (const double last : {0.0, 1.0, 2.0, 7.0, 8.0, 1000.0, 123456789.0}) {
    for (const double step : {1.0, 3.0, 500.0}) {
      int asked = 0;
      EXPECT_EQ(detail::last_whole_number(0, step,
                                          [&](double n) {
                                            ++asked;
                                            return n <= last;
                                          }),
                last);
      EXPECT_LT(asked, 64) << last;
    }
  }
  EXPECT_EQ(detail::last_whole_number(40, 1, [](double n) { return n < 42; }), 41);
}

}  // namespace
}  // namespace truecurve
