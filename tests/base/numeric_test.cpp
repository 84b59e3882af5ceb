// Numbers as text.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/base/one_of_each.hpp>
#include <truecurve/base/random.hpp>

#include <cmath>
#include <vector>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

struct Written {
  double value, uncertainty;
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
  EXPECT_EQ(p_equals(0.04567), "p = 0.046");
  EXPECT_EQ(p_equals(0), "p below 1e-300");
  EXPECT_EQ(p_equals(not_a_number), "p = -");
  EXPECT_EQ(rounded(1.5e-9, 2), "1.5e-9");
  EXPECT_EQ(rounded(17.3, 0), "20");
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
  double mean = 0, square = 0, fourth = 0, neighbours = 0, beyond_two = 0;
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

// Each names itself, the argument and its value.
TEST(Distributions, RefuseWhatTheyCannotAnswer) {
  struct Refused {
    const char* name;
    double (*asked)(double bad);
    std::vector<double> bad;
    const char* subject;
  };
  const std::vector<double> no_probability = {0, 1, -0.1, 1.5, not_a_number, infinity};
  const std::vector<double> no_degrees = {0, -1, not_a_number};
  const std::vector<double> no_finite_degrees = {0, -1, not_a_number, 1.1e10, infinity};
  const std::vector<double> no_square = {-1e-300, not_a_number, -infinity};
  for (const Refused& refused : std::vector<Refused>{
           {"normal_quantile", [](double p) { return normal_quantile(p); }, no_probability, "p"},
           {"student_t_quantile", [](double p) { return student_t_quantile(p, 3); }, no_probability, "p"},
           {"student_t_quantile", [](double d) { return student_t_quantile(0.9, d); }, no_degrees,
            "degrees_of_freedom"},
           {"student_t_two_sided", [](double t) { return student_t_two_sided(t, 3); }, {not_a_number}, "t"},
           {"student_t_two_sided", [](double d) { return student_t_two_sided(1, d); }, no_degrees,
            "degrees_of_freedom"},
           {"noncentral_t_probability",
            [](double t) { return noncentral_t_probability(t, 3, 1); },
            {not_a_number},
            "t"},
           {"noncentral_t_probability", [](double d) { return noncentral_t_probability(1, d, 1); }, no_degrees,
            "degrees_of_freedom"},
           {"noncentral_t_probability",
            [](double delta) { return noncentral_t_probability(1, 3, delta); },
            {not_a_number, infinity},
            "delta"},
           {"chi_squared_upper", [](double x) { return chi_squared_upper(x, 3); }, no_square, "chi_squared"},
           {"chi_squared_upper", [](double d) { return chi_squared_upper(1, d); }, no_finite_degrees,
            "degrees_of_freedom"},
           {"chi_squared_quantile", [](double p) { return chi_squared_quantile(p, 3); }, no_probability, "p"},
           {"chi_squared_quantile", [](double d) { return chi_squared_quantile(0.9, d); }, no_finite_degrees,
            "degrees_of_freedom"},
           {"f_upper", [](double f) { return f_upper(f, 3, 4); }, no_square, "f"},
           {"f_upper", [](double d) { return f_upper(1, d, 4); }, no_finite_degrees, "degrees_of_freedom"},
           {"f_upper", [](double d) { return f_upper(1, 3, d); }, no_degrees, "degrees_of_freedom"},
           {"f_quantile", [](double p) { return f_quantile(p, 3, 4); }, no_probability, "p"},
           {"f_quantile", [](double d) { return f_quantile(0.9, d, 4); }, no_finite_degrees, "degrees_of_freedom"},
           {"f_quantile", [](double d) { return f_quantile(0.9, 3, d); }, no_degrees, "degrees_of_freedom"},
           {"chi-squared",
            [](double d) { return RandomNumbers(1).chi_squared(d); },
            {0, -1, not_a_number, infinity},
            "degrees_of_freedom"}}) {
    for (const double bad : refused.bad) {
      try {
        ADD_FAILURE() << refused.name << " gives " << refused.asked(bad) << " for " << bad;
      } catch (const Error& error) {
        EXPECT_EQ(error.code(), ErrorCode::bad_argument);
        EXPECT_EQ(error.message().find(refused.name), 0u) << error.message();
        EXPECT_EQ(error.subject(), refused.subject);
        EXPECT_EQ(error.value(), shortest(bad));
      }
    }
  }
}

// Whatever the arguments, the answer is a number or an Error: no exception of the library beneath, and no NaN.
TEST(Distributions, AnswerOrRefuseAtTheEndsOfTheNumbers) {
  const std::vector<double> numbers = {5e-324, 1e-300, 1e-17, 0.01, 0.5, 1, 3, 1e5, 1e15, 1e100, 1.7e308, infinity};
  const auto answers = [](const auto& asked) {
    try {
      EXPECT_FALSE(std::isnan(asked()));
    } catch (const Error&) {
    }
  };
  for (const double a : numbers) {
    for (const double b : numbers) {
      answers([&] { return student_t_quantile(a, b); });
      answers([&] { return student_t_two_sided(a, b); });
      answers([&] { return chi_squared_upper(a, b); });
      answers([&] { return chi_squared_quantile(a, b); });
      for (const double c : numbers) {
        answers([&] { return noncentral_t_probability(a, b, c); });
        answers([&] { return noncentral_t_probability(-a, b, -c); });
        answers([&] { return f_upper(a, b, c); });
        answers([&] { return f_quantile(a, b, c); });
      }
    }
  }
  // Beyond a double's range: with one degree of freedom t_p = -cot(pi p).
  EXPECT_EQ(student_t_quantile(5e-324, 1), -infinity);
  EXPECT_NEAR(student_t_quantile(1e-300, 1) * M_PI * 1e-300, -1, 1e-13);
  EXPECT_EQ(noncentral_t_probability(infinity, 3, 1), 1);
  EXPECT_EQ(noncentral_t_probability(-infinity, 3, 1), 0);
  // F with so many degrees of freedom of the denominator is chi-squared over its own.
  for (const double denominator : {1e14, 1.01e15, 1e300, infinity}) {
    EXPECT_NEAR(f_upper(2.5, 4, denominator), 6 * std::exp(-5), 1e-12 * std::exp(-5)) << denominator;
    EXPECT_NEAR(f_quantile(0.9, 2, denominator), std::log(10), 1e-13);
  }
  // Of so many the skewness sqrt(8/n) is all that tells it from a normal distribution: half less skewness/6 by the
  // density there (Edgeworth 1905).
  const double skewness = std::sqrt(8 / 1e10);
  EXPECT_NEAR(chi_squared_upper(1e10, 1e10), 0.5 - skewness / 6 / std::sqrt(2 * M_PI), 1e-10);
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

// One row of each `stride`, to the last; and where the rows repeat with any period that divides it, every place of the
// period about equally often.
TEST(OneOfEach, MeetsEveryPlaceOfWhatRepeats) {
  for (const std::size_t stride : {1u, 2u, 20u, 24u, 60u}) {
    const std::size_t rows = stride * 300;
    for (const std::size_t period : {2u, 3u, 4u, 10u, 12u, 20u, 60u}) {
      if (stride % period != 0) continue;
      std::vector<int> met(period);
      for (std::size_t place = 0; place < 300; ++place) {
        const std::size_t row = one_of_each(place, stride, rows);
        ASSERT_EQ(row / stride, place);
        ++met[row % period];
      }
      for (const int times : met) EXPECT_NEAR(times, 300.0 / static_cast<double>(period), 3) << stride << " " << period;
    }
  }
  for (std::size_t row = 0; row < 10; ++row) EXPECT_EQ(one_of_each(row, 1, 10), row);
  for (std::size_t place = 0; place < 34; ++place) EXPECT_LT(one_of_each(place, 3, 100), 100u);
}

}  // namespace
}  // namespace truecurve
