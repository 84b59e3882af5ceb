// Left-side transforms and spreads: weights, the way back, rows that can't be taken, likelihood of the measured
#include "../support.hpp"

// response.

#include <Eigen/Core>

namespace truecurve {
namespace {

using test::caught;

using Eigen::Index;

struct Decay {
  VectorXd x, y, u;
};

Decay decay(Index n, double relative) {
  RandomNumbers random(31);
  Decay d{VectorXd::LinSpaced(n, 0, 4), VectorXd(n), VectorXd(n)};
  for (Index i = 0; i < n; ++i) {
    const double truth = 50 * std::exp(-0.6 * d.x[i]);
    d.u[i] = relative * truth;
    d.y[i] = truth + d.u[i] * random.normal();
  }
  return d;
}

struct LeftSide {
  const char* text;
  double (*inverse)(double z, double x);
};

// Exact data in every left side the inverse knows: the curve must come back to the data, and the bands with it.
TEST(LeftSides, AreInvertedExactly) {
  for (const auto& [text, inverse] :
       {LeftSide{"ln(y) = a + b*x", [](double z, double) { return std::exp(z); }},
        {"log10(y) = a + b*x", [](double z, double) { return std::pow(10, z); }},
        {"log2(y) = a + b*x", [](double z, double) { return std::exp2(z); }},
        {"1/y = a + b*x", [](double z, double) { return 1 / z; }},
        {"y^-1 = a + b*x", [](double z, double) { return 1 / z; }},
        {"sqrt(y) = a + b*x", [](double z, double) { return z * z; }},
        {"y^2 = a + b*x", [](double z, double) { return std::sqrt(z); }},
        {"y^1.5 = a + b*x", [](double z, double) { return std::pow(z, 1 / 1.5); }},
        {"cbrt(y) = a + b*x", [](double z, double) { return z * z * z; }},
        {"y/x = a + b*x", [](double z, double x) { return z * x; }},
        {"x/y = a + b*x", [](double z, double x) { return x / z; }},
        {"exp(y) = a + b*x", [](double z, double) { return std::log(z); }},
        {"2^y = a + b*x", [](double z, double) { return std::log2(z); }},
        {"3 - 2*ln(y - 1)/x = a + b*x", [](double z, double x) { return 1 + std::exp((3 - z) * x / 2); }},
        {"-y = a + b*x", [](double z, double) { return -z; }}}) {
    SCOPED_TRACE(text);
    const VectorXd x = VectorXd::LinSpaced(9, 1, 5);
    VectorXd y(9);
    for (Index i = 0; i < 9; ++i) y[i] = inverse(1.5 + 0.3 * x[i], x[i]);
    const Fit result = fit(Model::written(text), Observations::of(x, y));
    EXPECT_NEAR(result.parameter("a").value, 1.5, 1e-12);
    EXPECT_NEAR(result.parameter("b").value, 0.3, 1e-12);
    EXPECT_TRUE(as_eigen(result.fitted_response()).isApprox(y, 1e-13));
    EXPECT_NEAR(band_at(result.estimate(), VectorXd::Constant(1, 2.5), 0.95)[0].value, inverse(1.5 + 0.3 * 2.5, 2.5),
                1e-11);
  }
  EXPECT_EQ(caught([] { (void)Model::written("y + ln(y) = a + b*x", {"x"}); }).code(), ErrorCode::not_supported);
  EXPECT_EQ(caught([] { (void)Model::written("sin(y) = a + b*x", {"x"}); }).code(), ErrorCode::not_supported);
  EXPECT_EQ(caught([] { (void)Model::written("y/k = a + b*x", {"x"}); }).code(), ErrorCode::syntax);
  EXPECT_EQ(Model::written("1/y = a + b*x", {"x"}).implied_scatter(), "y^2");
  EXPECT_EQ(Model::written("ln(y) = a + b*x", {"x"}).implied_scatter(), "y");
}

// To the second order ln y lies rho²/2 below ln f and has the variance rho² + 5/2 rho⁴, rho = u(y)/f (JCGM 100, 5.1.2):
// the fixed point by hand, with fits of ln y whose uncertainties are given.
TEST(StatedUncertainties, ArePropagatedThroughTheTransform) {
  const Decay d = decay(15, 0.03);
  const Fit through = fit(Model::written("ln(y) = c - k*x"), Observations::of(d.x, d.y, d.u));
  VectorXd curve = d.y;
  const auto by_hand_at = [&] {
    const VectorXd share = d.u.cwiseQuotient(curve);
    const VectorXd u = (share.array().square() + 2.5 * share.array().pow(4)).sqrt();
    return fit(Model::written("y = c - k*x"), Observations::of(d.x, d.y.array().log() + share.array().square() / 2, u));
  };
  for (int round = 0; round < 60; ++round) curve = as_eigen(by_hand_at().fitted()).array().exp();
  const Fit by_hand = by_hand_at();
  EXPECT_TRUE(as_eigen(through.estimate().parameters()).isApprox(as_eigen(by_hand.estimate().parameters()), 1e-10));
  EXPECT_TRUE(as_eigen(through.estimate().covariance()).isApprox(as_eigen(by_hand.estimate().covariance()), 1e-9));
  EXPECT_NEAR(through.chi_squared(), by_hand.chi_squared(), 1e-8);
  // Lognormal against normal density: the same likelihood but for the slope, sum ln(1/y).
  EXPECT_NEAR(quality_of(through).log_likelihood, quality_of(by_hand).log_likelihood - d.y.array().log().sum(), 1e-8);
  const Decay rough = decay(15, 0.4);
  const Fit bent = fit(Model::written("ln(y) = c - k*x"), Observations::of(rough.x, rough.y.cwiseAbs(), rough.u));
  ASSERT_FALSE(bent.warnings().empty());
  EXPECT_EQ(bent.warnings()[0].code, WarningCode::transform_bends);
}

// With the right weights the straightened fit agrees with the direct curve, here by Gauss-Newton written out.
TEST(StatedUncertainties, MakeTheLinearizedFitAgreeWithTheDirectOne) {
  const Decay d = decay(25, 0.02);
  const Fit straight = fit(shape_model("exponential", "x", "y", Route::linearized), Observations::of(d.x, d.y, d.u));
  double a = 50, b = -0.6;
  for (int round = 0; round < 50; ++round) {
    Eigen::MatrixXd jacobian(25, 2);
    VectorXd rest(25);
    for (Index i = 0; i < 25; ++i) {
      const double e = std::exp(b * d.x[i]);
      jacobian.row(i) << e / d.u[i], a * d.x[i] * e / d.u[i];
      rest[i] = (d.y[i] - a * e) / d.u[i];
    }
    const VectorXd step =
        test::inverse(jacobian.transpose().lazyProduct(jacobian)).lazyProduct(jacobian.transpose().lazyProduct(rest));
    a += step[0];
    b += step[1];
  }
  EXPECT_NEAR(straight.parameter("b").value, b, 0.1 * straight.parameter("b").standard_uncertainty);
  EXPECT_NEAR(std::exp(straight.parameter("c").value), a, 0.1 * a * straight.parameter("c").standard_uncertainty);
  // A scatter proportional to y is equal scatter of ln y, whose mean lies half the variance below ln of the mean.
  const Fit unweighted = fit(shape_model("exponential", "x", "y", Route::linearized), Observations::of(d.x, d.y));
  const Fit proportional = fit(shape_model("exponential", "x", "y", Route::linearized), Observations::of(d.x, d.y),
                               {.spread = Spread::proportional()});
  EXPECT_NEAR(unweighted.parameter("b").value, proportional.parameter("b").value, 1e-12);
  const double variance = std::pow(quality_of(unweighted).residual_sd, 2);
  const double square = (std::sqrt(1 + 10 * variance) - 1) / 5;  // s² + 5/2 s⁴ = variance
  EXPECT_NEAR(proportional.parameter("c").value - unweighted.parameter("c").value, square / 2, 1e-9);
}

// A reading of zero pins a curve whose scatter vanishes with it: refused with the row; a small reading is none.
TEST(Spread, IsRefusedWhereItPinsTheCurve) {
  const VectorXd x = VectorXd::LinSpaced(5, 0, 4);
  VectorXd y = (VectorXd(5) << 0, 2, 3, 7, 8).finished();
  for (const Spread& spread : {Spread::counts(), Spread::proportional()}) {
    const Error error =
        test::caught([&] { (void)fit(shape_model("line"), Observations::of(x, y), {.spread = spread}); });
    EXPECT_EQ(error.code(), ErrorCode::not_supported);
    EXPECT_TRUE(has(error.what(), "row 1"));
  }
  y[0] = 0.4;
  EXPECT_NO_THROW((void)fit(shape_model("line"), Observations::of(x, y), {.spread = Spread::counts()}));
}

// Where the curve itself meets zero its scatter vanishes: the row, what was stated of it, and where.
TEST(Spread, IsRefusedWhereItVanishes) {
  const VectorXd x = VectorXd::LinSpaced(4, 0, 3);
  const Vector y = {0.1, 2, 4.1, 5.9};
  const Vector gross = {2.1, 4, 6.1, 7.9};
  const auto percent = [&] {
    return Observations(Table::from_columns({{"x", "", {0, 1, 2, 3}}, {"y", "", {0.1, 2, 4.1, 5.9}}}),
                        {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::percent(5)});
  };
  struct Case {
    const char* model;
    Observations rows;
    Spread spread;
    const char* message;
  };
  for (const Case& c : {Case{"y = b*x", Observations::of(x, as_eigen(y)), Spread::proportional(),
                             "row 1: a spread of power 1 gives no scatter at y = 0"},
                        {"y = 2 + b*x", Observations::of(x, as_eigen(gross)), Spread::of_power(1.5, -2),
                         "row 1: a spread of power 1.5 gives no scatter at y = 2, from which -2 was taken off"},
                        {"y = b*x", percent(), Spread(), "row 1: an uncertainty of 5 % gives no scatter at y = 0"}}) {
    const Error error = test::caught([&] { (void)fit(Model::written(c.model), c.rows, {.spread = c.spread}); });
    EXPECT_EQ(error.message(), c.message);
    EXPECT_EQ(error.subject(), "row 1");
  }
  for (const Spread& spread : {Spread::of_power(infinity), Spread::of_power(1, not_a_number)})
    EXPECT_EQ(test::caught([&] {
                (void)fit(shape_model("line"), Observations::of(x, as_eigen(y)), {.spread = spread});
              }).subject(),
              "spread");
}

// At the end of the iteration the estimating equations hold with weights from the curve itself.
TEST(Spread, TakesItsWeightsFromTheCurve) {
  const Decay d = decay(30, 0.05);
  for (const double power : {0.0, 0.5, 1.0, 1.7}) {
    const Fit result =
        fit(Model::written("y = a + b*x + c*x^2"), Observations::of(d.x, d.y), {.spread = Spread::of_power(power)});
    const VectorXd curve = as_eigen(result.fitted());
    const VectorXd w = curve.array().abs().pow(-2 * power);
    const VectorXd score = w.cwiseProduct(d.y - curve);
    EXPECT_NEAR(score.sum() / score.cwiseAbs().sum(), 0, 1e-9) << power;
    EXPECT_NEAR(score.dot(d.x) / score.cwiseProduct(d.x).cwiseAbs().sum(), 0, 1e-9) << power;
    const BandPoint at = band_at(result.estimate(), VectorXd::Constant(1, 1.0), 0.95)[0];
    const double own = result.estimate().scale() * std::pow(at.value, power);
    EXPECT_NEAR(at.prediction.high - at.value,
                result.estimate().coverage_factor(0.95) * std::hypot(own, at.standard_uncertainty), 1e-10);
  }
  EXPECT_EQ(caught([&] {
              (void)fit(shape_model("line"), Observations::of(d.x, d.y, d.u), {.spread = Spread::counts()});
            }).code(),
            ErrorCode::bad_argument);
}

// The lognormal's closed forms: m = exp(z + s²/2), u = m sqrt(u_z² + s⁴/(2 dof)); its interval by plain simulation of
// what it is defined by.
TEST(BackTransform, NamesMedianAndMean) {
  const Decay d = decay(40, 0.1);
  const Fit result = fit(Model::written("ln(y) = c - k*x"), Observations::of(d.x, d.y));
  const double z = result.parameter("c").value - 2 * result.parameter("k").value;
  const Vector two = {2};
  const BandPoint at = band_at(result.estimate(), two, 0.95)[0];
  const double s = result.estimate().scale();
  EXPECT_NEAR(at.value, std::exp(z), 1e-10);
  const MeanPoint mean = means(result.estimate(), std::span(&two, 1), 0.95)[0];
  EXPECT_NEAR(mean.value / std::exp(z + s * s / 2), 1, 1e-12);
  const double u = at.standard_uncertainty / at.value;
  EXPECT_NEAR(mean.standard_uncertainty / (mean.value * std::sqrt(u * u + std::pow(s, 4) / 76)), 1, 1e-10);
  RandomNumbers random(3);
  std::vector<double> drawn;
  for (int i = 0; i < 200'000; ++i) {
    const double stretch = std::sqrt(38 / random.chi_squared(38));
    drawn.push_back(std::exp(z + u * stretch * random.normal() + std::pow(s * stretch, 2) / 2));
  }
  std::sort(drawn.begin(), drawn.end());
  EXPECT_NEAR((drawn[5000] - mean.value) / (mean.interval.low - mean.value), 1, 0.01);
  EXPECT_NEAR((drawn[195'000] - mean.value) / (mean.interval.high - mean.value), 1, 0.01);
  EXPECT_NEAR(std::log(at.prediction.high) + std::log(at.prediction.low), 2 * z, 1e-10);
  EXPECT_NEAR(at.standard_uncertainty,
              (std::log(at.confidence.high) - z) / result.estimate().coverage_factor(0.95) * at.value, 1e-9);
  // A reciprocal that may reach zero has no upper limit.
  const Fit reciprocal = fit(Model::written("1/y = a + b*x"),
                             Observations::of(Eigen::Vector4d(1, 2, 3, 4), Eigen::Vector4d(1.1, 1.9, 3.4, 30)));
  const Vector four = {4};
  EXPECT_TRUE(std::isinf(band_at(reciprocal.estimate(), four, 0.99)[0].prediction.high));
  EXPECT_TRUE(std::isnan(means(reciprocal.estimate(), std::span(&four, 1), 0.95)[0].value));
  // Readings that scatter on the measured scale have the curve for their mean, and bands about it.
  const Fit stated = fit(Model::written("ln(y) = c - k*x"), Observations::of(d.x, d.y, d.u));
  const BandPoint curve = band_at(stated.estimate(), two, 0.95, VectorXd::Constant(1, 0.3))[0];
  EXPECT_EQ(means(stated.estimate(), std::span(&two, 1), 0.95)[0].value, curve.value);
  EXPECT_NEAR(curve.prediction.high - curve.value, 1.959964 * std::hypot(0.3, curve.standard_uncertainty), 1e-6);
}

TEST(InvalidRows, AreNamedAndLeftOutExactly) {
  const Table table = Table::from_columns({{"t", "", {0, 1, 2, 3, 4, 5}}, {"I", "", {9, 4, 0, 2, -1, 0.8}}});
  const Observations all(table, {.response = "I", .predictors = {"t"}});
  const Error error = caught([&] { (void)fit(Model::written("ln(I) = c - k*t"), all); });
  EXPECT_EQ(error.code(), ErrorCode::unsuitable_row);
  EXPECT_EQ(error.subject(), "row 3");
  EXPECT_TRUE(has(error.message(), "ln(I) is not defined at I = 0, and row 5"));
  const auto invalid = invalid_rows(Model::written("ln(I) = c + b/t"), all);
  ASSERT_EQ(invalid.size(), 3u);
  EXPECT_EQ(invalid[0].row, 1u);
  EXPECT_EQ(invalid[0].reason, "b/t is not defined at t = 0");
  EXPECT_EQ(invalid[2].reason, "ln(I) is not defined at I = -1");
  // A row that neither side can take is named once, by its left side.
  const Table both = Table::from_columns({{"t", "", {1, 2, 0, 4, 5, 0}}, {"I", "", {9, 4, 0, 2, 1, 0.8}}});
  const auto once =
      invalid_rows(Model::written("ln(I) = c + b/t"), Observations(both, {.response = "I", .predictors = {"t"}}));
  ASSERT_EQ(once.size(), 2u);
  EXPECT_EQ(once[0].reason, "ln(I) is not defined at I = 0");
  EXPECT_EQ(once[1].reason, "b/t is not defined at t = 0");
  // What no parameter stands in is looked at too.
  const auto fixed = invalid_rows(Model::written("I = c*t + 1/(t - 3)"), all);
  ASSERT_EQ(fixed.size(), 1u);
  EXPECT_EQ(fixed[0].row, 4u);
  EXPECT_EQ(fixed[0].reason, "1/(t - 3) is not defined at t = 3");
  Observations kept = all;
  for (const LeftOut& row : invalid_rows(Model::written("ln(I) = c - k*t"), all))
    kept = kept.without(std::span(&row.row, 1), row.reason);
  EXPECT_EQ(fit(Model::written("ln(I) = c - k*t"), kept).size(), 4u);
}

// One, two and more rows that a transform can't take, and one where it is level.
TEST(InvalidRows, AreCountedInTheRefusal) {
  const auto refused = [](const char* text, Vector y) {
    const Observations rows = Observations::of(as_eigen(Vector{1, 2, 3, 4, 5, 6}), as_eigen(y));
    return test::caught([&] { (void)fit(Model::written(text), rows); }).message();
  };
  EXPECT_EQ(refused("ln(y) = a + b*x", {3, 0, 2, 1.5, 1.2, 1}), "row 2, column 'y': ln(y) is not defined at y = 0");
  EXPECT_EQ(refused("ln(y) = a + b*x", {3, 0, 2, 1.5, 0, 1}),
            "row 2, column 'y': ln(y) is not defined at y = 0, and row 5 can't be taken either");
  EXPECT_EQ(refused("ln(y) = a + b*x", {3, 0, 2, 0, 0, 1}),
            "row 2, column 'y': ln(y) is not defined at y = 0, and 2 more rows can't be taken either");
  EXPECT_EQ(refused("(y - 2)^2 = a + b*x", {3, 4, 2, 5, 6, 7}),
            "row 3, column 'y': (y - 2)^2 has no usable slope at y = 2");
}

// Where a stated uncertainty reaches over the bend of the transform that is said of its rows, eight of them at most.
TEST(Transform, SaysWhichRowsItBends) {
  for (const std::size_t wide : {1U, 3U, 8U, 11U}) {
    Vector x(12), y(12), u(12);
    std::string rows;
    for (std::size_t i = 0; i < 12; ++i) {
      x[i] = static_cast<double>(i);
      y[i] = 20 * std::exp(-0.1 * x[i]) * (i % 2 == 0 ? 1.01 : 0.99);
      u[i] = y[i] * (i < wide ? 0.5 : 0.01);
      if (i < wide && i < 8) rows += (i == 0 ? "" : ", ") + std::to_string(i + 1);
    }
    if (wide > 8) rows += " and 3 more";
    const Fit made = fit(Model::written("ln(y) = c - k*x"), Observations::of(x, y, u));
    ASSERT_FALSE(made.warnings().empty());
    EXPECT_EQ(made.warnings()[0].code, WarningCode::transform_bends);
    EXPECT_TRUE(made.warnings()[0].text.starts_with(fmt::format("In row{} {} the", wide == 1 ? "" : "s", rows)))
        << made.warnings()[0].text;
  }
}

}  // namespace
}  // namespace truecurve
