// Derivatives by predictors, against closed forms and against curves written for every row.

#include "../../src/model/predictor_slopes.hpp"
#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;
using test::vector;

Fit fitted(const Model& model, const VectorXd& x, const VectorXd& y) { return fit(model, Observations::of(x, y)); }

TEST(Slopes, AreThoseOfTheCurveOnTheMeasuredScale) {
  const VectorXd x = VectorXd::LinSpaced(12, 1, 6);
  const auto value = [](const Fit& made, const char* name) { return made.parameter(name).value; };
  const double at = 2.7;
  const VectorXd place = VectorXd::Constant(1, at);
  const VectorXd noise = vector({1, -2, 3, -1, 2, 0, -3, 1, 1, -2, 2, -1}) / 200;

  const Fit curve = fitted(Model::written("y = a + b*exp(-k*x)"), x, 3 + 5 * (-0.4 * x.array()).exp() + noise.array());
  const double b = value(curve, "b");
  const double k = value(curve, "k");
  EXPECT_NEAR(slopes_at(curve.estimate(), place)[0], -k * b * std::exp(-k * at), 1e-13);

  const Fit straightened = fitted(Model::written("ln(y) = a + b*x"), x, (0.5 + 0.3 * x.array() + noise.array()).exp());
  const double exponent = value(straightened, "a") + value(straightened, "b") * at;
  EXPECT_NEAR(slopes_at(straightened.estimate(), place)[0], value(straightened, "b") * std::exp(exponent), 1e-13);

  // The left side holds the predictor itself: y = x (a + b x).
  const Fit ratio = fitted(Model::written("y/x = a + b*x"), x, x.array() * (2 - 0.2 * x.array() + noise.array()));
  EXPECT_NEAR(slopes_at(ratio.estimate(), place)[0], value(ratio, "a") + 2 * value(ratio, "b") * at, 1e-12);

  // A transformed polynomial, in its working form.
  const Fit bent = fitted(Model::written("ln(y) = a + b*x + c*x^2"), x,
                          (1 + 0.3 * x.array() - 0.05 * x.array().square() + noise.array()).exp());
  const double level = value(bent, "a") + value(bent, "b") * at + value(bent, "c") * at * at;
  EXPECT_NEAR(slopes_at(bent.estimate(), place)[0], std::exp(level) * (value(bent, "b") + 2 * value(bent, "c") * at),
              1e-12);

  // C++ code shows no structure: by differences.
  const Model code = Model::function({"a", "k"}, [](double t, const auto& p) { return p[0] * exp(-p[1] * t); });
  const Fit coded = fitted(code, x, 5 * (-0.4 * x.array()).exp() + noise.array());
  const double expected = -value(coded, "k") * value(coded, "a") * std::exp(-value(coded, "k") * at);
  EXPECT_NEAR(slopes_at(coded.estimate(), place)[0], expected, 1e-8 * std::abs(expected));
  // In other units as well.
  for (const double unit : {1e-6, 1e9}) {
    const Fit scaled = fit(code, Observations::of(x * unit, 5 * (-0.4 * x.array()).exp() + noise.array()),
                           {.starts = {{"a", 5}, {"k", 0.4 / unit}}});
    EXPECT_NEAR(slopes_at(scaled.estimate(), place * unit)[0] * unit, expected, 1e-7 * std::abs(expected)) << unit;
  }

  EXPECT_EQ(test::caught([&] { (void)slopes_at(coded.estimate(), VectorXd::Zero(2)); }).code(),
            ErrorCode::bad_argument);
}

// Code that is defined between two ends only: at an end the slope is the one towards the inside.
TEST(Slopes, AtTheEndsOfWhereACurveIsDefined) {
  const Model code = Model::function(
      {"a", "b"}, [](double t, const auto& p) { return t < 1 || t > 6 ? std::nan("") : exp(p[0] + p[1] * t); });
  const VectorXd x = VectorXd::LinSpaced(12, 1, 6);
  const Fit made = fit(code, Observations::of(x, (0.5 + 0.3 * x.array()).exp() + 0.01 * (7 * x.array()).sin()),
                       {.starts = {{"a", 0.5}, {"b", 0.3}}});
  for (const double at : {1.0, 3.5, 6.0}) {
    const double expected =
        made.parameter("b").value * std::exp(made.parameter("a").value + made.parameter("b").value * at);
    EXPECT_NEAR(slopes_at(made.estimate(), VectorXd::Constant(1, at))[0] / expected, 1, 1e-5) << at;
  }
}

// Years from 2000 on: the raw coefficients of a quartic cancel to nothing, its working form does not.
TEST(Slopes, OfAPolynomialFarFromTheOriginKeepTheirDigits) {
  const VectorXd years = VectorXd::LinSpaced(21, 2000, 2020);
  const VectorXd u = (years.array() - 2010) / 10;
  const VectorXd depth = 3 + u.array() - 0.5 * u.array().square() + 0.25 * u.array().pow(4);
  const Fit quartic = fitted(shape_model("polynomial(4)"), years, depth);
  for (const double year : {2001.0, 2010.0, 2017.5}) {
    const double t = (year - 2010) / 10;
    EXPECT_NEAR(slopes_at(quartic.estimate(), VectorXd::Constant(1, year))[0], (1 - t + t * t * t) / 10, 1e-11);
  }
}

TEST(Slopes, GiveTheUncertaintyOfAPlace) {
  const VectorXd x = VectorXd::LinSpaced(10, 0, 9);
  const VectorXd y = 8 * (-0.3 * x.array()).exp() + vector({2, -1, 1, -2, 0, 1, -1, 2, -1, 0}).array() / 50;
  const Fit made = fitted(Model::written("y = a*exp(-k*x)"), x, y);
  const std::vector<Root> roots = solve(made.estimate(), 2.5, {.response_uncertainty = 0.1});
  ASSERT_EQ(roots.size(), 1U);
  const double k = made.parameter("k").value;
  const double u = std::hypot(0.1, curve_at(made.estimate(), roots[0].value).standard_uncertainty);
  EXPECT_NEAR(roots[0].standard_uncertainty, u / (2.5 * k), 1e-12);
}

// Several decays that share their time constant: the height of each is a parameter of its own, bound as a column, and
// its derivative goes to the group of the row.
TEST(PredictorSlopes, GiveTheDerivativesOfParametersThatDifferFromRowToRow) {
  const Model decay = Model::written("y = A*exp(-t/tau) + c").with_predictors({"t", "A"});
  ASSERT_EQ(decay.parameters(), (std::vector<std::string>{"tau", "c"}));
  const detail::PredictorSlopes slopes(decay);
  const std::vector<double> t = {0, 1, 2, 0, 1, 2, 3};
  const std::vector<double> heights = {5, 5, 5, 9, 9, 9, 9};
  const double tau = 1.7;
  std::vector<double> value(t.size());
  std::vector<double> by_t(t.size());
  std::vector<double> by_height(t.size());
  double* outputs[] = {value.data(), by_t.data(), by_height.data()};
  const double* columns[] = {t.data(), heights.data()};
  const double parameters[] = {tau, 0.5};
  detail::Program::Workspace work;
  slopes.run(columns, t.size(), parameters, outputs, work);
  for (std::size_t i = 0; i < t.size(); ++i) {
    const double share = std::exp(-t[i] / tau);
    EXPECT_NEAR(value[i], heights[i] * share + 0.5, 1e-14);
    EXPECT_NEAR(by_height[i], share, 1e-15);
    EXPECT_NEAR(by_t[i], -heights[i] * share / tau, 1e-14);
  }
  // The same through a left side and with a parameter held.
  const Model held = Model::written("1/y = a + b*x + c*x^2").with_predictors({"x", "b"}).with_fixed({{"a", 0.5}});
  const VectorXd point = vector({2, 0.25});
  const VectorXd of_response = detail::PredictorSlopes(held).of_response(point, VectorXd::Constant(1, 0.25));
  EXPECT_NEAR(of_response[0], -0.3125, 1e-15);
  EXPECT_NEAR(of_response[1], -0.5, 1e-15);
}

}  // namespace
}  // namespace truecurve
