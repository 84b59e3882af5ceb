// Bands against the formulas of the textbooks, worked by hand.

#include "../support.hpp"

namespace truecurve {
namespace {

const VectorXd places_five = test::vector({1, 2, 3, 5, 8});
const VectorXd readings_five = test::vector({2.2, 3.9, 6.1, 10.3, 15.8});
const VectorXd stated_five = test::vector({0.1, 0.2, 0.2, 0.4, 0.3});

// The sums of a weighted line.
struct WeightedLine {
  double sw, mean, sxx, a, b, chi_squared;
  explicit WeightedLine(const VectorXd& x, const VectorXd& y, const VectorXd& u) {
    const VectorXd w = u.array().square().inverse();
    sw = w.sum();
    mean = w.dot(x) / sw;
    const double mean_y = w.dot(y) / sw;
    sxx = w.dot((x.array() - mean).square().matrix());
    b = w.dot(((x.array() - mean) * (y.array() - mean_y)).matrix()) / sxx;
    a = mean_y - b * mean;
    chi_squared = w.dot((y.array() - a - b * x.array()).square().matrix());
  }
  [[nodiscard]] double u(double at) const { return std::sqrt(1 / sw + (at - mean) * (at - mean) / sxx); }
};

TEST(Bands, OfALineAreTheTextbooks) {
  const VectorXd ones = VectorXd::Ones(5);
  struct Case {
    const char* name;
    bool weighted;
    UncertaintyBasis basis;
  };
  for (const Case& c : {Case{"scatter", false, UncertaintyBasis::scatter},
                        {"stated", true, UncertaintyBasis::stated},
                        {"scaled", true, UncertaintyBasis::scatter}}) {
    SCOPED_TRACE(c.name);
    const WeightedLine line(places_five, readings_five, c.weighted ? stated_five : ones);
    const Fit made = fit(shape_model("line"),
                         c.weighted ? Observations::of(places_five, readings_five, stated_five)
                                    : Observations::of(places_five, readings_five),
                         {.uncertainty = c.basis});
    const bool stated = c.basis == UncertaintyBasis::stated;
    const double s = stated ? 1 : std::sqrt(line.chi_squared / 3);
    const double k = stated ? normal_quantile(0.95) : student_t_quantile(0.95, 3);
    // Working and Hotelling: both parameters at once.
    const double all = std::sqrt(stated ? chi_squared_quantile(0.9, 2) : 2 * f_quantile(0.9, 2, 3));
    const Vector at = {0, 2.5, 8, 11.5};
    const Vector own = {0.5, 0, 0.25, 1};
    const auto found = band_at(made.estimate(), at, 0.9, own);
    for (std::size_t i = 0; i < at.size(); ++i) {
      const double value = line.a + line.b * at[i];
      const double u = s * line.u(at[i]);
      EXPECT_NEAR(found[i].value, value, 1e-12);
      EXPECT_NEAR(found[i].standard_uncertainty, u, 1e-12);
      EXPECT_NEAR(found[i].confidence.low, value - k * u, 1e-11);
      EXPECT_NEAR(found[i].confidence.high, value + k * u, 1e-11);
      EXPECT_NEAR(found[i].simultaneous.low, value - all * u, 1e-11);
      EXPECT_NEAR(found[i].simultaneous.high, value + all * u, 1e-11);
      EXPECT_NEAR(found[i].prediction.low, value - k * std::hypot(u, own[i]), 1e-11);
      EXPECT_NEAR(found[i].prediction.high, value + k * std::hypot(u, own[i]), 1e-11);
      EXPECT_NEAR(found[i].outside, std::vector<double>({1.0 / 7, 0, 0, 0.5})[i], 1e-12);
      const CurvePoint point = curve_at(made.estimate(), at[i]);
      EXPECT_NEAR(point.value, value, 1e-12);
      EXPECT_NEAR(point.standard_uncertainty, u, 1e-12);
      EXPECT_NEAR(slopes_at(made.estimate(), {at[i]})[0], line.b, 1e-12);
    }
    const BandPoint plain = band_at(made.estimate(), {2.5}, 0.9)[0];
    if (!c.weighted) EXPECT_NEAR(plain.prediction.high, plain.value + k * s * std::hypot(line.u(2.5), 1), 1e-11);
    if (c.weighted) EXPECT_TRUE(std::isnan(plain.prediction.high)) << "no one uncertainty of a new observation";
  }
}

// A percentage of the response: weights by the readings, a new one scatters by its curve.
TEST(Bands, OfAPercentageGrowWithTheCurve) {
  const auto table = Table::from_columns({{"x", "", {1, 2, 3, 5, 8}}, {"y", "", {2.2, 3.9, 6.1, 10.3, 15.8}}});
  const Fit made =
      fit(shape_model("line"),
          Observations(table, {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::percent(5)}));
  const BandPoint low = band_at(made.estimate(), {1}, 0.95)[0];
  const BandPoint high = band_at(made.estimate(), {8}, 0.95)[0];
  const double k = normal_quantile(0.975);
  for (const BandPoint& at : {low, high})
    EXPECT_NEAR(at.prediction.high - at.value, k * std::hypot(at.standard_uncertainty, 0.05 * at.value), 1e-10);
}

TEST(Bands, OfATransformedSideComeBackThroughItsInverse) {
  const VectorXd z = readings_five.array().log();
  const WeightedLine line(places_five, z, VectorXd::Ones(5));
  const Fit made = fit(Model::written("ln(y) = a + b*x"), Observations::of(places_five, readings_five));
  const double s = std::sqrt(line.chi_squared / 3);
  const double t = student_t_quantile(0.975, 3);
  for (const double x : {0.0, 4.0}) {
    const BandPoint at = band_at(made.estimate(), {x}, 0.95)[0];
    const double left = line.a + line.b * x;
    const double u = s * line.u(x);
    EXPECT_NEAR(at.value, std::exp(left), 1e-10);
    EXPECT_NEAR(at.standard_uncertainty, std::exp(left) * u, 1e-10);
    EXPECT_NEAR(at.confidence.low, std::exp(left - t * u), 1e-9);
    EXPECT_NEAR(at.confidence.high, std::exp(left + t * u), 1e-9);
    EXPECT_NEAR(at.prediction.low, std::exp(left - t * std::hypot(u, s)), 1e-9);
    EXPECT_NEAR(at.prediction.high, std::exp(left + t * std::hypot(u, s)), 1e-8);
    // A stated uncertainty of the new reading is one of the measured response.
    const BandPoint with = band_at(made.estimate(), {x}, 0.95, {0.7})[0];
    EXPECT_NEAR(with.prediction.high, at.value + t * std::hypot(at.standard_uncertainty, 0.7), 1e-9);
  }
  // A falling inverse turns the ends round.
  const Fit inverse = fit(Model::written("1/y = a + b*x"), Observations::of(places_five, readings_five.cwiseInverse()));
  const BandPoint turned = band_at(inverse.estimate(), {4}, 0.95)[0];
  EXPECT_LT(turned.confidence.low, turned.value);
  EXPECT_GT(turned.confidence.high, turned.value);
}

// A share stays between 0 and 1: its interval is made on the scale of ln(p/(1 - p)).
TEST(Bands, OfSharesStayBetweenTheirEnds) {
  const Observations rows =
      Observations::counted({0, 1, 2, 3, 4}, {1, 3, 5, 7, 10}, {10, 10, 10, 10, 10}, ResponseKind::events);
  const Fit made = fit(shape_model("share-logistic"), rows);
  const double m = made.parameter("m").value;
  const double w = made.parameter("w").value;
  const double k = normal_quantile(0.975);
  for (const double x : {1.0, 9.0}) {
    const BandPoint at = band_at(made.estimate(), {x}, 0.95)[0];
    const double p = 1 / (1 + std::exp(-(x - m) / w));
    EXPECT_NEAR(at.value, p, 1e-12);
    // p' by m and w, and the covariance.
    const Eigen::Vector2d g(-p * (1 - p) / w, -p * (1 - p) * (x - m) / (w * w));
    const double u = std::sqrt(g.dot(as_eigen(made.estimate().covariance()) * g));
    EXPECT_NEAR(at.standard_uncertainty / u, 1, 1e-9);
    const double logit = std::log(p / (1 - p));
    const double half = k * u / (p * (1 - p));
    EXPECT_NEAR(at.confidence.low, 1 / (1 + std::exp(half - logit)), 1e-9);
    EXPECT_NEAR(at.confidence.high, 1 / (1 + std::exp(-half - logit)), 1e-9);
  }
}

TEST(Bands, RefuseWhatIsNoPoint) {
  const Fit made = fit(shape_model("line"), Observations::of(places_five, readings_five));
  const auto code = [](auto action) { return test::caught(action).code(); };
  const std::vector<Vector> two = {{1, 2}, {3, 4}};
  EXPECT_EQ(code([&] { (void)band(made.estimate(), two, 0.95); }), ErrorCode::bad_argument);
  EXPECT_EQ(code([&] { (void)band(made.estimate(), std::span<const Vector>(), 0.95); }), ErrorCode::bad_argument);
  EXPECT_EQ(code([&] { (void)band_at(made.estimate(), {1, 2}, 0.95, {0.1}); }), ErrorCode::bad_argument);
  EXPECT_EQ(code([&] { (void)band_at(made.estimate(), {1}, 0.95, {-0.1}); }), ErrorCode::bad_uncertainty);
  EXPECT_NO_THROW((void)band_at(made.estimate(), {1}, 0.95, {0.0}));
  EXPECT_EQ(code([&] { (void)band_at(made.estimate(), {1}, 1.0); }), ErrorCode::bad_argument);
  const Fit logarithm = fit(shape_model("logarithm"), Observations::of(places_five, readings_five));
  const Error error = test::caught([&] { (void)band_at(logarithm.estimate(), {1, -1}, 0.95); });
  EXPECT_EQ(error.code(), ErrorCode::not_finite);
  EXPECT_EQ(error.value(), "-1");
}

// What a new reading scatters by is known where the rows agree on a law: one number, one share, an assumed power.
TEST(NewReadings, ScatterAsTheRowsDoWhereTheyAgree) {
  using Form = Scatter::Form;
  const VectorXd x = VectorXd::LinSpaced(6, 1, 6);
  VectorXd y = 2 * x;
  y[2] += 0.3;
  y[4] -= 0.2;
  const auto law = [&](const VectorXd& u, const FitOptions& options) {
    return fit(shape_model("line"), Observations::of(x, y, u), options).estimate().new_observation();
  };
  const Scatter same = law(VectorXd::Constant(6, 0.25), {});
  EXPECT_EQ(same.form, Form::constant);
  EXPECT_EQ(same.at(9), 0.25);
  const Scatter share = law(0.05 * y, {});
  EXPECT_EQ(share.form, Form::percent);
  EXPECT_NEAR(share.at(-9), 0.45, 1e-12);
  VectorXd uneven = VectorXd::Constant(6, 0.25);
  uneven[5] = 0.26;
  EXPECT_EQ(law(uneven, {}).form, Form::by_row);
  const Fit grown = fit(shape_model("line"), Observations::of(x, y), {.spread = Spread::of_power(0.5)});
  const Scatter power = grown.estimate().new_observation();
  EXPECT_EQ(power.form, Form::power);
  EXPECT_NEAR(power.at(16), 4 * grown.estimate().scale(), 1e-12);
  // Scaled by the scatter about the curve where that is asked for.
  const Scatter scaled = law(VectorXd::Constant(6, 0.25), {.uncertainty = UncertaintyBasis::scatter});
  EXPECT_NEAR(scaled.at(9), std::sqrt(quality_of(fit(shape_model("line"), Observations::of(x, y))).chi_squared / 4),
              1e-12);
}

// How far a point lies outside the data is a share of their range; where they have none, at one place, all else is
// infinitely far.
TEST(Band, SaysHowFarOutsideTheDataAPointLies) {
  const Table table =
      Table::from_columns({{"x", "", {2, 3, 5, 6}}, {"one", "", {4, 4, 4, 4}}, {"y", "", {2.1, 2.9, 5.2, 5.8}}});
  const Fit line = fit(Model::written("y = a + b*x"), Observations(table, {.response = "y", .predictors = {"x"}}));
  const Vector at = {2, 6, 8, 1};
  const std::vector<BandPoint> points = band(line.estimate(), std::span(&at, 1), 0.95);
  const std::vector<double> outside = {0, 0, 0.5, 0.25};
  for (std::size_t i = 0; i < 4; ++i) EXPECT_EQ(points[i].outside, outside[i]) << at[i];
  const Fit slope = fit(Model::written("y = b*one"), Observations(table, {.response = "y", .predictors = {"one"}}));
  const Vector there = {4, 4.5};
  const std::vector<BandPoint> beside = band(slope.estimate(), std::span(&there, 1), 0.95);
  EXPECT_EQ(beside[0].outside, 0);
  EXPECT_EQ(beside[1].outside, infinity);
}

}  // namespace
}  // namespace truecurve
