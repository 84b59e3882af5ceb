// Numbers as text.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/base/random.hpp>

#include <cmath>
#include <vector>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

struct Written {
  double value;
  double uncertainty;
  const char* text;
};

TEST(Numbers, AreRoundedToTwoDigitsOfTheirUncertainty) {
  for (const auto& [value, uncertainty, text] : {Written{1.86732, 0.00471, "1.8673(47)"},
                                                 {1.757142857, 0.119522861, "1.76(12)"},
                                                 {-0.1712, 0.00288, "-0.1712(29)"},
                                                 {5.0, 0.0996, "5.00(10)"},
                                                 {12.34, 4.56, "12.3(4.6)"},
                                                 {1234.5, 45.6, "1234(46)"},
                                                 {123456, 4560, "1.235(46)e5"},
                                                 {1.23e-9, 4.5e-11, "1.230(45)e-9"},
                                                 {0.0, 0.02, "0.000(20)"},
                                                 {3.5, not_a_number, "3.50000"},
                                                 {0.0002, 1.5, "0.0(1.5)"},
                                                 {-2e-16, 0.31, "0.00(31)"},
                                                 {-0.0002, 1.5, "0.0(1.5)"},
                                                 {-0.06, 1.5, "-0.1(1.5)"},
                                                 {-120, 830, "-120(830)"},
                                                 {-123, 830, "-120(830)"},
                                                 {6000, 37000, "6000(37000)"},
                                                 {-0.4, 33, "-0.4(33.0)"},
                                                 {0.6, 33, "1(33)"},
                                                 {0, 33, "0(33)"},
                                                 {4e3, 2.345e6, "0.0(2.3)e6"},
                                                 {-3e8, 4.6e8, "-3.0(4.6)e8"}}) {
    EXPECT_EQ(with_uncertainty(value, uncertainty), text);
  }
}

TEST(Numbers, KeepTheirPlacesInIntervalsAndProbabilities) {
  EXPECT_EQ(interval_text(1.85717, 1.87743, 0.0047), "1.8572 to 1.8774");
  EXPECT_EQ(interval_text(-infinity, 2.0, 0.1), "no lower limit to 2.00");
  EXPECT_EQ(limit_text(1.85717, 0.0047), "1.8572");
  EXPECT_EQ(limit_text(infinity, 0.1), "no upper limit");
  EXPECT_EQ(limit_text(0, 0.1), "0");
  EXPECT_EQ(limit_text(1.23456789, 0), "1.23457");
  EXPECT_EQ(probability_text(0.04567), "0.046");
  EXPECT_EQ(probability_text(3.2e-7), "3.2e-7");
  EXPECT_EQ(probability_text(0), "below 1e-300");
  EXPECT_EQ(rounded(1.5e-9, 2), "1.5e-9");
}

// Values of published tables of the distributions, to their printed digits.
TEST(Distributions, AgreeWithPublishedTables) {
  EXPECT_NEAR(normal_quantile(0.975), 1.959963984540054, 1e-14);
  EXPECT_NEAR(student_t_quantile(0.975, 9), 2.262, 5e-4);
  EXPECT_NEAR(student_t_quantile(0.975, infinity), 1.959963984540054, 1e-14);
  EXPECT_NEAR(chi_squared_upper(9.487729, 4), 0.05, 1e-7);
  EXPECT_NEAR(chi_squared_quantile(0.95, 4), 9.488, 5e-4);
  EXPECT_NEAR(f_upper(4.964603, 1, 10), 0.05, 1e-7);
  EXPECT_NEAR(f_quantile(0.95, 1, 10), 4.965, 5e-4);
  EXPECT_NEAR(student_t_two_sided(2.262157, 9), 0.05, 1e-7);
}

// Every combination a fit may ask for gives a probability: many rows, exact data, tiny and huge statistics.
TEST(Distributions, AnswerAtEveryMagnitude) {
  for (double degrees = 1; degrees < 1e10; degrees *= 7) {
    for (double statistic = 1e-300; statistic < 1e300; statistic *= 1e7) {
      for (const double p : {chi_squared_upper(statistic, degrees), student_t_two_sided(statistic, degrees),
                             f_upper(statistic, 1, degrees), f_upper(statistic, 15, degrees)}) {
        EXPECT_TRUE(p >= 0 && p <= 1) << statistic << " " << degrees;
      }
    }
  }
}

// The series for large |z| (Abramowitz and Stegun 1964, 26.2.12), where the probability itself is below any double.
TEST(Distributions, KeepTheLogarithmOfATail) {
  for (const double z : {-1.0, 0.0, 2.5, -8.0})
    EXPECT_NEAR(log_normal_probability(z), std::log(normal_probability(z)), 1e-12);
  // 30 digits of the same series with 30 terms.
  EXPECT_NEAR(log_normal_probability(-40), -804.60844201375378816, 1e-12);
  EXPECT_NEAR(log_normal_probability(-30.000001), log_normal_probability(-29.999999) - 2e-6 * 30.0332, 1e-9);
  EXPECT_NEAR(log_normal_probability(-1e8) / (-5e15 - std::log(1e8) - std::log(2 * M_PI) / 2), 1, 1e-15);
}

// Moments, tails and neighbours of 200,000 normals, each within four of its standard errors.
TEST(RandomNumbers, FillWithStandardNormals) {
  constexpr std::size_t n = 200'001;
  std::vector<double> values(n);
  RandomNumbers(3).fill_normal(values);
  double mean = 0;
  double square = 0;
  double fourth = 0;
  double neighbours = 0;
  double beyond_two = 0;
  for (std::size_t i = 0; i < n; ++i) {
    mean += values[i] / n;
    square += values[i] * values[i] / n;
    fourth += std::pow(values[i], 4) / n;
    neighbours += i == 0 ? 0 : values[i] * values[i - 1] / n;
    beyond_two += std::abs(values[i]) > 2 ? 1.0 / n : 0;
  }
  const double root = std::sqrt(static_cast<double>(n));
  EXPECT_NEAR(mean, 0, 4 / root);
  EXPECT_NEAR(square, 1, 4 * std::sqrt(2) / root);
  EXPECT_NEAR(fourth, 3, 4 * std::sqrt(96) / root);
  EXPECT_NEAR(neighbours, 0, 4 / root);
  const double share = 2 * normal_probability(-2);
  EXPECT_NEAR(beyond_two, share, 4 * std::sqrt(share * (1 - share)) / root);
  std::vector<double> again(n);
  RandomNumbers(3).fill_normal(again);
  EXPECT_EQ(values, again);
}

TEST(Distributions, RefuseWhatTheyCannotAnswer) {
  EXPECT_THROW((void)normal_quantile(1), Error);
  EXPECT_THROW((void)student_t_quantile(0.5, 0), Error);
  EXPECT_THROW((void)chi_squared_upper(1, not_a_number), Error);
}

TEST(Numeric, CountsAsOneSaysIt) {
  EXPECT_EQ(plural(0, "row"), "0 rows");
  EXPECT_EQ(plural(1, "row"), "1 row");
  EXPECT_EQ(plural(2, "row"), "2 rows");
  EXPECT_EQ(plural(1234567, "row"), "1234567 rows");
  EXPECT_EQ(degrees_of_freedom_text(0), "0 degrees of freedom");
  EXPECT_EQ(degrees_of_freedom_text(1), "1 degree of freedom");
  EXPECT_EQ(degrees_of_freedom_text(3.7), "3.7 degrees of freedom");
  EXPECT_EQ(degrees_of_freedom_text(8.123456789), "8.12346 degrees of freedom");
  EXPECT_EQ(degrees_of_freedom_text(1234567), "1234567 degrees of freedom");
}

}  // namespace
}  // namespace truecurve
