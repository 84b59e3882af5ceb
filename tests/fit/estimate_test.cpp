// What an estimate says of combinations and regions: closed forms.

#include "../support.hpp"

namespace truecurve {
namespace {

const std::vector<double> seven_x = {1, 2, 3, 4, 5, 6, 7};
const std::vector<double> seven_y = {3.1, 4.9, 7.2, 8.8, 11.3, 12.7, 15.2};

// sqrt(gT C g), in every unit of the response: squares of uncertainties of 1e200 leave the range of a double.
TEST(Estimate, CombinesParametersInAnyUnit) {
  const Estimate line = fit(shape_model("line"), Observations::of(seven_x, seven_y)).estimate();
  const Matrix c = line.covariance();
  const double along = std::sqrt(c(0, 0) - 4 * c(0, 1) + 4 * c(1, 1));
  EXPECT_NEAR(line.standard_uncertainty_along({1, -2}) / along, 1, 1e-13);
  EXPECT_EQ(line.standard_uncertainty_along({0, 0}), 0);
  for (const std::size_t wrong : {0u, 1u, 3u}) {
    try {
      ADD_FAILURE() << line.standard_uncertainty_along(Vector(wrong, 1.0));
    } catch (const Error& error) {
      EXPECT_EQ(error.message(), "the estimate has 2 parameters, and the gradient is by " + std::to_string(wrong));
    }
  }
  EXPECT_FALSE(line.is_at_limit(2));
  EXPECT_FALSE(line.is_open(2));
  for (const double unit : {1e200, 1e-200}) {
    std::vector<double> scaled = seven_y;
    for (double& value : scaled) value *= unit;
    const Estimate other = fit(shape_model("line"), Observations::of(seven_x, scaled)).estimate();
    EXPECT_NEAR(other.standard_uncertainty_along({1, -2}) / unit / along, 1, 1e-12);
  }
}

// The region of one quantity is its interval; of two, chi-squared and F have quantiles in closed form.
TEST(Estimate, RegionsFollowChiSquaredAndF) {
  const Observations points = Observations::of(seven_x, seven_y);
  const Estimate scatter = fit(shape_model("line"), points).estimate();
  const Estimate stated =
      fit(shape_model("line"), Observations::of(seven_x, seven_y, std::vector<double>(7, 0.2))).estimate();
  EXPECT_FALSE(scatter.has_known_scale());
  EXPECT_TRUE(stated.has_known_scale());
  EXPECT_EQ(scatter.scale_degrees_of_freedom(), 5);
  EXPECT_TRUE(std::isinf(stated.scale_degrees_of_freedom()));
  for (const double level : {0.5, 0.95, 0.999}) {
    EXPECT_NEAR(scatter.region_factor(level, 1) / scatter.coverage_factor(level), 1, 1e-12);
    EXPECT_NEAR(stated.region_factor(level, 1) / stated.coverage_factor(level), 1, 1e-12);
    EXPECT_NEAR(stated.region_factor(level, 2), std::sqrt(-2 * std::log(1 - level)), 1e-12);
    const double f = 5.0 / 2 * (std::pow(1 - level, -2.0 / 5) - 1);
    EXPECT_NEAR(scatter.region_factor(level, 2) / std::sqrt(2 * f), 1, 1e-12);
  }
  const Estimate exact = fit(shape_model("line"), Observations::of({1, 2}, {1, 3})).estimate();
  EXPECT_TRUE(std::isnan(exact.region_factor(0.95, 2)));
}

}  // namespace
}  // namespace truecurve
