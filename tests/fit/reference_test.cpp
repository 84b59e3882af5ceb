// Published results, to the digits they are published with.

#include "../support.hpp"

namespace truecurve {
namespace {

using test::digits;
using test::prints_as;

// What a program that reads the published decimals into doubles can reach is about 14 digits.
constexpr double wanted_digits = 13;

// Estimates, standard uncertainties and totals of every certified linear set; the longer oracle values serve where the
// published ones end early.
TEST(PublishedLinearSets, AreMetToThirteenDigits) {
  const auto cases = test::reference_cases("linear");
  ASSERT_GE(cases.size(), 7u);
  for (const auto& reference : cases) {
    SCOPED_TRACE(reference["name"]);
    const Fit result = test::case_fit(reference);
    for (const auto& [name, certified] : reference["certified"]["parameters"].items()) {
      const ParameterEstimate got = result.parameter(name);
      EXPECT_GE(digits(got.value, certified["value"]), wanted_digits) << name;
      if (test::number_of(certified["standard_error"].get<std::string>()) == 0) {
        EXPECT_LT(got.standard_uncertainty, 1e-12 * std::abs(got.value)) << name;
      } else {
        EXPECT_GE(digits(got.standard_uncertainty, certified["standard_error"]), wanted_digits) << name;
      }
    }
    const Quality q = quality_of(result);
    EXPECT_EQ(q.degrees_of_freedom, reference["certified"]["dof"].get<double>());
    EXPECT_GE(digits(q.r_squared, reference["certified"]["r_squared"]), wanted_digits);
    if (test::number_of(reference["certified"]["residual_sum_of_squares"].get<std::string>()) == 0) continue;
    EXPECT_GE(digits(q.residual_sum_of_squares, reference["certified"]["residual_sum_of_squares"]), wanted_digits);
    EXPECT_GE(digits(q.residual_sd, reference["certified"]["residual_sd"]), wanted_digits);
  }
}

TEST(PublishedCalibrations, AreMetToEveryPrintedDigit) {
  const auto cases = test::reference_cases("metrology");
  ASSERT_GE(cases.size(), 10u);
  for (const auto& reference : cases) {
    SCOPED_TRACE(reference["name"]);
    const Fit result = test::case_fit(reference);
    const auto& certified = reference["certified"];
    const auto& oracle = reference["oracle"];
    for (const auto& [name, printed] : certified["parameters"].items()) {
      const ParameterEstimate got = result.parameter(name);
      EXPECT_TRUE(prints_as(got.value, printed["value"])) << name;
      EXPECT_GE(digits(got.value, oracle["parameters"][name]["value"]), 12) << name;
      if (printed.contains("standard_error"))
        EXPECT_TRUE(prints_as(got.standard_uncertainty, printed["standard_error"])) << name;
      EXPECT_GE(digits(got.standard_uncertainty, oracle["parameters"][name]["standard_error"]), 12) << name;
    }
    const auto covariance = as_eigen(result.estimate().covariance());
    const Quality q = quality_of(result);
    if (certified.contains("covariance")) EXPECT_TRUE(prints_as(covariance(0, 1), certified["covariance"]));
    if (certified.contains("chi_squared")) EXPECT_TRUE(prints_as(q.chi_squared, certified["chi_squared"]));
    if (certified.contains("correlation"))
      EXPECT_TRUE(prints_as(correlation(result.estimate())(0, 1), certified["correlation"]));
    if (certified.contains("residual_sd")) EXPECT_TRUE(prints_as(q.residual_sd, certified["residual_sd"]));
    EXPECT_GE(digits(std::sqrt(q.reduced_chi_squared), oracle["residual_sd"]), 12);
    if (oracle.contains("r_squared")) EXPECT_GE(digits(q.r_squared, oracle["r_squared"]), 12);
    if (!certified.contains("derived")) continue;
    for (const auto& [name, what] : reference["derived"].items()) {
      if (what["type"] != "prediction" || what.contains("u_x0")) continue;
      const VectorXd x = VectorXd::Constant(1, test::number_of(what["x0"].get<std::string>()));
      const BandPoint at = band_at(result.estimate(), x, 0.95)[0];
      EXPECT_TRUE(prints_as(at.value, certified["derived"][name]["value"])) << name;
      EXPECT_TRUE(prints_as(at.standard_uncertainty, certified["derived"][name]["standard_error"])) << name;
    }
  }
}

// Information criteria by their definitions, from the published residual sum of squares.
TEST(Quality, FollowsItsDefinitions) {
  const auto cases = test::reference_cases("linear");
  const auto norris = std::find_if(cases.begin(), cases.end(), [](const auto& c) { return c["name"] == "Norris"; });
  const Quality q = quality_of(test::case_fit(*norris));
  const double n = 36;
  const double rss = 26.6173985294224;
  const double log_likelihood = -n / 2 * (std::log(2 * M_PI * rss / n) + 1);
  EXPECT_NEAR(q.log_likelihood, log_likelihood, 1e-10);
  EXPECT_NEAR(q.aic, 6 - 2 * log_likelihood, 1e-10);
  EXPECT_NEAR(q.aicc, 6 - 2 * log_likelihood + 24.0 / 32, 1e-10);
  EXPECT_NEAR(q.bic, 3 * std::log(n) - 2 * log_likelihood, 1e-10);
  EXPECT_NEAR(q.correlation_coefficient, std::sqrt(0.999993745883712), 1e-14);
  EXPECT_NEAR(1 - q.adjusted_r_squared, (1 - 0.999993745883712) * 35 / 34, 1e-15);
}

}  // namespace
}  // namespace truecurve
