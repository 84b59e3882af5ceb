// Derived quantities and hypotheses against definitions and simulation.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

TEST(Derive, PropagatesByExactDerivatives) {
  const Fit line = fit(shape_model("line"), test::line_rows(200, 2));
  const auto c = as_eigen(line.estimate().covariance());
  const double a = line.parameter("a").value;
  const double b = line.parameter("b").value;
  const DerivedQuantity ratio = derive(line.estimate(), "x_0 = -a/b", 0.95);
  const double variance = (c(0, 0) - 2 * a / b * c(0, 1) + a * a / (b * b) * c(1, 1)) / (b * b);
  EXPECT_EQ(ratio.name, "x_0");
  const DerivedQuantity close = derive(line.estimate(), "q=b*2", 0.95);
  EXPECT_EQ(close.name + " is " + close.expression, "q is b*2");
  EXPECT_NEAR(ratio.value, -a / b, 1e-14);
  EXPECT_NEAR(ratio.standard_uncertainty, std::sqrt(variance), 1e-13);
  EXPECT_FALSE(ratio.curved);
  EXPECT_NEAR(ratio.monte_carlo.low, ratio.interval.low, 0.1 * ratio.standard_uncertainty);
  const DerivedQuantity curved = derive(line.estimate(), "exp(10*a)", 0.95);
  EXPECT_TRUE(curved.curved);
  EXPECT_GT(curved.monte_carlo.low, 0);
  EXPECT_LT(curved.interval.low, 0);
  const HypothesisTest zero = test_hypothesis(line.estimate(), "b = 0");
  EXPECT_NEAR(zero.t, parameter_intervals(line.estimate(), 0.95)[1].t, 1e-12);
  EXPECT_NEAR(zero.p, parameter_intervals(line.estimate(), 0.95)[1].p, 1e-15);
  EXPECT_NEAR(test_hypothesis(line.estimate(), "2*b = a + 1").difference, 2 * b - a - 1, 1e-13);
  // Of an inequality the tail on its side; both sides together are certain.
  const HypothesisTest equal = test_hypothesis(line.estimate(), "b = 1.9");
  const HypothesisTest above = test_hypothesis(line.estimate(), "b > 1.9");
  const HypothesisTest below = test_hypothesis(line.estimate(), "b <= 1.9");
  EXPECT_FALSE(equal.is_one_sided);
  EXPECT_TRUE(above.is_one_sided);
  EXPECT_EQ(above.t, equal.t);
  EXPECT_NEAR(above.p + below.p, 1, 1e-15);
  EXPECT_NEAR(equal.t > 0 ? above.p : below.p, equal.p / 2, 1e-15);
  EXPECT_NEAR(test_hypothesis(line.estimate(), "1.9 < b").p, above.p, 1e-15);
  EXPECT_NEAR(test_hypothesis(line.estimate(), "(2*(b) - 1.9) - (b) > 0").p, above.p, 1e-12);
  EXPECT_NEAR(test_hypothesis(line.estimate(), "cases(0 < 1: b, otherwise: a) > 1.9").p, above.p, 1e-15);
  EXPECT_NEAR(test_hypothesis(line.estimate(), "cases(2 == 3: a, otherwise: b) < 1.9").p, below.p, 1e-15);
  EXPECT_NEAR(test_hypothesis(line.estimate(), "b >= 1.9").p, above.p, 1e-15);
  EXPECT_NEAR(test_hypothesis(line.estimate(), "1.9 >= b").p, below.p, 1e-15);
  EXPECT_THROW((void)derive(line.estimate(), "q = k*2", 0.95), Error);
  EXPECT_THROW((void)derive(line.estimate(), "q = ln(a - a)", 0.95), Error);
  EXPECT_THROW((void)derive(line.estimate(), "q = 2", 0.95), Error);
}

// What follows from one parameter alone has limits that follow from its own; drawn often enough for the level.
TEST(Derive, DrawsCurvedQuantitiesAsTheirLevelNeeds) {
  const Estimate line = fit(shape_model("line"), test::line_rows(12, 2)).estimate();
  const double u = line.standard_uncertainties()[0];
  for (const double level : {0.95, 0.999}) {
    const DerivedQuantity made = derive(line, "exp(3*a)", level);
    ASSERT_TRUE(made.curved);
    const double reach = line.coverage_factor(level) * u;
    EXPECT_NEAR(std::log(made.monte_carlo.low) / 3, line.parameters()[0] - reach, 0.02 * reach) << level;
    EXPECT_NEAR(std::log(made.monte_carlo.high) / 3, line.parameters()[0] + reach, 0.02 * reach) << level;
  }
}

// A quotient whose divisor may be 0 has the rays that solve() finds, and no bounded interval.
TEST(Derived, QuotientsMayHaveNoBoundedInterval) {
  const VectorXd x = VectorXd::LinSpaced(12, 1, 12);
  VectorXd y(12);
  y << 3.152, 3.004, 3.13, 3.262, 2.968, 3.226, 3.171, 3.042, 3.02, 3.25, 3.048, 3.1;
  const Estimate flat = fit(shape_model("line"), Observations::of(x, y)).estimate();
  const auto rays = solve(flat, 3.4, {.low = -1000, .high = 1000});
  for (const char* text : {"(3.4 - a)/b", "-(a - 3.4)/b", "-((a - 3.4)/b)"}) {
    const DerivedQuantity q = derive(flat, text, 0.95);
    ASSERT_TRUE(q.is_unbounded) << text;
    EXPECT_TRUE(std::isinf(q.interval.low) && std::isinf(q.monte_carlo.high)) << text;
    EXPECT_FALSE(q.curved);
    ASSERT_EQ(rays.size(), 2u);
    EXPECT_NEAR(q.excluded.low, rays[0].interval.high, 1e-6) << text;
    EXPECT_NEAR(q.excluded.high, rays[1].interval.low, 1e-6) << text;
  }
  const double k = flat.coverage_factor(0.95);
  const double b = flat.parameters()[1];
  const double u = flat.standard_uncertainties()[1];
  // A known numerator: the reciprocals of the ends of the divisor.
  for (const char* text : {"2/b", "2*b^(-1)", "1/b", "b^(-1)"}) {
    const DerivedQuantity q = derive(flat, text, 0.95);
    EXPECT_TRUE(q.is_unbounded) << text;
    if (std::isnan(q.excluded.low)) continue;
    const double top = q.value * b;
    EXPECT_NEAR(q.excluded.low, top / (b - k * u), 1e-9) << text;
    EXPECT_NEAR(q.excluded.high, top / (b + k * u), 1e-9) << text;
  }
  EXPECT_EQ(rays_text({3.21042, 8.29562}), "below 3.21 or above 8.30");
  EXPECT_FALSE(std::isnan(derive(flat, "2/b", 0.95).excluded.low));
  EXPECT_FALSE(std::isnan(derive(flat, "b^(-1)", 0.95).excluded.low));
  // Nothing is excluded where numerator and divisor may both be 0, nor known of a sum.
  EXPECT_TRUE(std::isnan(derive(flat, "(3.1 - a)/b", 0.95).excluded.low));
  EXPECT_TRUE(derive(flat, "1 + a/b", 0.95).is_unbounded);
  EXPECT_TRUE(std::isnan(derive(flat, "1 + a/b", 0.95).excluded.low));
  // A divisor far from 0, or that no parameter changes.
  EXPECT_FALSE(derive(flat, "b/a", 0.95).is_unbounded);
  EXPECT_FALSE(derive(flat, "b/2", 0.95).is_unbounded);
  // At the level at which the divisor's interval ends at 0.
  const double t = std::abs(b / u);
  const double level = 1 - student_t_two_sided(t, 10);
  EXPECT_TRUE(derive(flat, "1/b", level + 0.001).is_unbounded);
  EXPECT_FALSE(derive(flat, "1/b", level - 0.001).is_unbounded);
}

// Coverage of derived and solved quantities and of the simultaneous band, weighted or not.
TEST(Coverage, HoldsForWhatIsDerivedFromTheLine) {
  const int sets = test::is_sanitized() ? 400 : 2000;
  const double expected = 0.95 * sets;
  const double three_sigma = 3 * std::sqrt(0.95 * 0.05 * sets);
  for (const bool weighted : {false, true}) {
    RandomNumbers random(77);
    int derived = 0, solved = 0, everywhere = 0;
    const VectorXd grid = VectorXd::LinSpaced(40, -20, 30);
    for (int set = 0; set < sets; ++set) {
      VectorXd x = VectorXd::LinSpaced(10, 0, 9);
      VectorXd y(10);
      VectorXd u(10);
      for (Index i = 0; i < 10; ++i) {
        u[i] = weighted ? 0.3 + 0.1 * x[i] : 0.5;
        y[i] = 10 + 2 * x[i] + u[i] * random.normal();
      }
      const Fit line =
          fit(shape_model("line").with_predictors({"x"}), Observations::of(x, y, weighted ? u : VectorXd()));
      const double k = line.estimate().coverage_factor(0.95);
      const double sum = line.parameter("a").value + 7 * line.parameter("b").value;
      const auto c = as_eigen(line.estimate().covariance());
      derived += std::abs(sum - 24) <= k * std::sqrt(c(0, 0) + 14 * c(0, 1) + 49 * c(1, 1));
      const auto roots = solve(line.estimate(), 21, {.low = 0, .high = 12});
      solved += roots.size() == 1 && roots[0].interval.low <= 5.5 && 5.5 <= roots[0].interval.high;
      bool inside = true;
      const auto band = band_at(line.estimate(), grid, 0.95);
      for (Index i = 0; i < grid.size(); ++i) {
        const double truth = 10 + 2 * grid[i];
        inside = inside && band[static_cast<std::size_t>(i)].simultaneous.low <= truth &&
                 truth <= band[static_cast<std::size_t>(i)].simultaneous.high;
      }
      everywhere += inside;
    }
    EXPECT_NEAR(derived, expected, three_sigma) << weighted;
    EXPECT_NEAR(solved, expected, three_sigma) << weighted;
    // On a grid the band may be missed a little less often than on the whole line.
    EXPECT_GE(everywhere, expected - three_sigma) << weighted;
    EXPECT_LE(everywhere, expected + three_sigma + 0.02 * sets) << weighted;
  }
}

// Whether a symmetric interval is accurate has nothing to do with the unit.
TEST(Derived, IsCurvedInEveryUnit) {
  for (const double unit : {1.0, 1e-9, 1e9}) {
    Vector x(8), y(8);
    for (std::size_t i = 0; i < 8; ++i) {
      x[i] = static_cast<double>(i);
      y[i] = unit * (0.5 + x[i] + (i % 2 == 0 ? 0.3 : -0.3) * static_cast<double>(i % 3));
    }
    const Estimate line = fit(shape_model("line"), Observations::of(x, y)).estimate();
    EXPECT_TRUE(derive(line, "a^3", 0.95).curved) << unit;
    EXPECT_FALSE(derive(line, "b^2/3", 0.95).curved) << unit;
  }
}

}  // namespace
}  // namespace truecurve
