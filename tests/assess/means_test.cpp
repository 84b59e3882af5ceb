// Means of new readings, worked in another way.

#include "../support.hpp"

namespace truecurve {
namespace {

const VectorXd twelve_places = VectorXd::LinSpaced(12, 1, 12);

MeanPoint mean_at(const Fit& made, double x) {
  const Vector at = {x};
  return means(made.estimate(), std::span(&at, 1), 0.95)[0];
}

// Curve, standard uncertainty and scatter on the left side.
struct Left {
  double z, u, s, dof;
  Left(const Fit& made, double x) : s(made.estimate().scale()), dof(made.estimate().degrees_of_freedom()) {
    z = made.estimate().parameters()[0] + made.estimate().parameters()[1] * x;
    const Eigen::Vector2d g(1, x);
    u = std::sqrt(g.dot(as_eigen(made.estimate().covariance()) * g));
  }
};

TEST(Means, OfALogarithmAndARootAreTheirClosedForms) {
  RandomNumbers random(3);
  VectorXd y(12);
  for (int i = 0; i < 12; ++i) y[i] = std::exp(0.5 + 0.1 * twelve_places[i] + 0.15 * random.normal());
  // E exp(z + s Z) = exp(z + s²/2); its derivatives by z and s are itself and s times itself.
  const Fit exponential = fit(Model::written("ln(y) = a + b*x"), Observations::of(twelve_places, y));
  for (const double x : {1.0, 6.5, 12.0}) {
    const Left left(exponential, x);
    const MeanPoint found = mean_at(exponential, x);
    const double mean = std::exp(left.z + left.s * left.s / 2);
    EXPECT_NEAR(found.value / mean, 1, 1e-12);
    EXPECT_NEAR(found.standard_uncertainty / (mean * std::hypot(left.u, left.s * left.s / std::sqrt(2 * left.dof))), 1,
                1e-11);
    EXPECT_LT(found.interval.low, mean);
    EXPECT_GT(found.interval.high, mean);
  }
  // E (z + s Z)² = z² + s², derivatives 2z and 2s.
  const Fit root = fit(Model::written("sqrt(y) = a + b*x"), Observations::of(twelve_places, y));
  const Left left(root, 6.5);
  const MeanPoint found = mean_at(root, 6.5);
  EXPECT_NEAR(found.value, left.z * left.z + left.s * left.s, 1e-12);
  EXPECT_NEAR(found.standard_uncertainty,
              std::hypot(2 * left.z * left.u, 2 * left.s * left.s / std::sqrt(2 * left.dof)), 1e-11);
  // Where readings scatter on the measured scale the mean is the curve.
  const Fit plain = fit(shape_model("line"), Observations::of(twelve_places, y));
  const BandPoint band = band_at(plain.estimate(), {6.5}, 0.95)[0];
  EXPECT_EQ(mean_at(plain, 6.5).value, band.value);
  EXPECT_EQ(mean_at(plain, 6.5).interval.high, band.confidence.high);
}

// The interval by pseudo-random draws of the same generalized pivot, half a million of them.
TEST(Means, IntervalIsThatOfItsPivot) {
  RandomNumbers random(3);
  VectorXd y(12);
  for (int i = 0; i < 12; ++i) y[i] = std::exp(0.5 + 0.1 * twelve_places[i] + 0.4 * random.normal());
  const Fit made = fit(Model::written("ln(y) = a + b*x"), Observations::of(twelve_places, y));
  const Left left(made, 12);
  const int draws = test::is_sanitized() ? 20'000 : 500'000;
  std::vector<double> drawn;
  for (int i = 0; i < draws; ++i) {
    double w = 0;
    for (int k = 0; k < 10; ++k) w += std::pow(random.normal(), 2);
    const double stretch = std::sqrt(10 / w);
    drawn.push_back(left.z + left.u * stretch * random.normal() + std::pow(left.s * stretch, 2) / 2);
  }
  std::sort(drawn.begin(), drawn.end());
  const auto at = [&](double p) { return std::exp(drawn[static_cast<std::size_t>(p * draws)]); };
  const Interval found = mean_at(made, 12).interval;
  const double tolerance = test::is_sanitized() ? 0.1 : 0.02;
  EXPECT_NEAR(found.low / at(0.025), 1, tolerance);
  EXPECT_NEAR(found.high / at(0.975), 1, tolerance);
}

// Where a greater scatter would reach where the inverse ends, no limit holds on the side on which the mean lies from
// the median: above it for a square, below it for a root.
TEST(Means, HaveNoLimitWhereTheScatterReachesTheEnd) {
  VectorXd left(12);
  for (int i = 0; i < 12; ++i) left[i] = 100 + 11 * ((i * 7) % 12 - 5.5) / 3.5;
  for (const bool is_root : {true, false}) {
    const VectorXd y = is_root ? VectorXd(left.cwiseSqrt()) : VectorXd(left.cwiseAbs2());
    const Fit made =
        fit(Model::written(is_root ? "y^2 = a + b*x" : "sqrt(y) = a + b*x"), Observations::of(twelve_places, y));
    const MeanPoint found = mean_at(made, 6.5);
    const double median = band_at(made.estimate(), {6.5}, 0.95)[0].value;
    EXPECT_EQ(found.value < median, is_root);
    EXPECT_EQ(std::isinf(found.interval.low), is_root) << found.interval.low;
    EXPECT_EQ(std::isinf(found.interval.high), !is_root) << found.interval.high;
  }
}

TEST(Means, AreAbsentWhereThereIsNone) {
  // 1/z with z within 6.6 s of zero has no mean.
  const VectorXd y = test::vector({2, 0.9, 1.3, 0.6, 0.8, 0.4, 0.5, 0.5, 0.3, 0.35, 0.3, 0.25});
  const Fit made = fit(Model::written("1/y = a + b*x"), Observations::of(twelve_places, y));
  EXPECT_TRUE(std::isnan(mean_at(made, 1).value));
  EXPECT_TRUE(std::isnan(mean_at(made, 1).interval.low));
  EXPECT_TRUE(std::isfinite(mean_at(made, 12).value));
  EXPECT_GT(mean_at(made, 12).value, band_at(made.estimate(), {12}, 0.95)[0].value) << "1/z is convex";
  // As many parameters as rows tell nothing of the scatter that a mean is over.
  const Fit two = fit(Model::written("ln(y) = a + b*x"), Observations::of({1, 3}, {2, 5}));
  EXPECT_TRUE(std::isnan(mean_at(two, 2).value));
  EXPECT_TRUE(std::isnan(mean_at(two, 2).standard_uncertainty));
}

}  // namespace
}  // namespace truecurve
