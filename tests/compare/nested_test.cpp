// Which curve is a special case of another, and what the other adds.
#include <truecurve/truecurve.hpp>

#include "candidates.hpp"

namespace truecurve {
namespace {

using Eigen::Index;
using test::demo_rows;
using test::fits_of;

// Within limits only where the smaller curve lies inside them.
TEST(Nested, KeepsToTheLimits) {
  const VectorXd x = VectorXd::LinSpaced(12, 1, 12);
  const VectorXd y = (2 + 10 * (-x.array() / 3).exp() + 0.1 * (7 * x.array()).sin()).matrix();
  const Observations data = Observations::of(x, y);
  const auto limited = [&](const std::string& model, const std::vector<Within>& within) {
    return fit(Model::written(model), data, {.within = within});
  };
  const Fit line = limited("y = a + b*x", {});
  const double beside = line.parameter("b").value + 0.1;
  struct Pair {
    const char *smaller, *larger, *kept;
    double beside;
  };
  for (const Pair& pair : {Pair{"y = a + b*x", "y = a + b*x + c*x^2", "b", beside},
                           {"y = a + b*x", "y = a + b*x + c*exp(-b*x)", "b", beside},
                           {"y = a*exp(-x/tau)", "y = c + a*exp(-x/tau)", "tau", 50}}) {
    SCOPED_TRACE(pair.larger);
    const Fit few = limited(pair.smaller, {});
    EXPECT_TRUE(is_special_case(few, limited(pair.larger, {{"c", -500, 500}})));
    EXPECT_FALSE(is_special_case(few, limited(pair.larger, {{"c", 0, infinity}})));
    EXPECT_FALSE(is_special_case(few, limited(pair.larger, {{"c", -infinity, -1e-3}})));
    EXPECT_TRUE(is_special_case(few, limited(pair.larger, {{pair.kept, -500, 500}})));
    const double own = few.parameter(pair.kept).value;
    EXPECT_TRUE(is_special_case(few, limited(pair.larger, {{pair.kept, own - std::abs(own) / 2, own + 100}})));
    EXPECT_FALSE(is_special_case(few, limited(pair.larger, {{pair.kept, pair.beside, infinity}})));
    // On a limit is not inside.
    EXPECT_FALSE(is_special_case(few, limited(pair.larger, {{pair.kept, own, infinity}})));
    EXPECT_FALSE(is_special_case(few, limited(pair.larger, {{pair.kept, -infinity, own}})));
  }
  // Inside limits that neither has met, on one side of 0.
  EXPECT_TRUE(is_special_case(line, limited("y = a + b*x + c*x^2", {{"b", -500, line.parameter("b").value / 2}})));
  const Fit at_limit = limited("y = a + b*x", {{"b", beside, infinity}});
  ASSERT_TRUE(at_limit.estimate().is_at_limit(1));
  EXPECT_FALSE(is_special_case(at_limit, limited("y = a + b*x + c*x^2", {{"b", beside, 9}, {"c", 0, 1}})));
  // But where both are held there, only what one adds to the other counts.
  const Fit both_held = limited("y = a + b*x + c*x^2", {{"b", 5, 9}});
  ASSERT_TRUE(both_held.estimate().is_at_limit(1));
  EXPECT_TRUE(is_special_case(limited("y = a + b*x", {{"b", 5, 9}}), both_held));
}

struct Nesting {
  const char *smaller, *larger;
  bool is_special;
};

TEST(Nested, IsFoundFromStructure) {
  const Observations rows = demo_rows("patina.csv", "years", "d");
  for (const auto& [smaller, larger, is_special] : std::vector<Nesting>{
           {"line", "polynomial(2)", true},
           {"polynomial(2)", "line", false},
           {"line-through-origin", "line", true},
           {"line", "d = p + q*years + r*ln(years)", true},
           {"logarithm", "d = p + q*years + r*ln(years)", true},
           {"square-root", "d = p + q*years + r*ln(years)", false},
           {"d = 3 + b*years", "line", true},
           {"d = a + sin(years)", "d = a + b*years + sin(years)", true},
           {"d = a + sin(years)", "d = a + b*years - sin(years)", false},
           {"line", "d = 3*years + q*ln(years) + p + r/years", false},
           {"exponential", "exponential-offset", true},
           {"d = A*exp(k*years)", "exponential-offset", true},
           {"exponential", "logistic", false},
           {"logistic", "logistic-offset", true},
           {"d = a*exp(k*years)", "d = a*exp(k*years) + p + q*years", true},
           {"d = a*exp(k*years)", "d = a*exp(k*years) + p + q*years + r*years^2", false},  // not sought
           {"power", "polynomial(2)", false},
           {"logistic-offset", "damped-oscillation", false},
           {"arrhenius", "exponential-offset", false},
           {"line", "ln(d) = a + b*years + c*years^2", false}}) {
    const std::vector<Fit> pair = fits_of(rows, {smaller, larger});
    EXPECT_EQ(is_special_case(pair[0], pair[1]), is_special) << smaller << " in " << larger;
  }
  // In any unit of the response.
  for (const double unit : {1e-9, 1e9}) {
    const Observations scaled = Observations::of(as_eigen(rows.predictor(0)), as_eigen(rows.responses()) * unit);
    const std::vector<Fit> some = fits_of(scaled, {"exponential", "exponential-offset", "y = c + m*x/(K + x)"});
    EXPECT_TRUE(is_special_case(some[0], some[1])) << unit;
    EXPECT_FALSE(is_special_case(some[0], some[2])) << unit;
  }
  // Where curves are laid side by side they are defined: there, and perhaps nowhere else, the data are.
  const VectorXd about_zero = VectorXd::LinSpaced(9, -2, 1);
  const std::vector<Fit> edged = fits_of(
      Observations::of(about_zero, VectorXd(about_zero.array().sin())),
      {"y = a + b*ln(x + 2.1)", "y = a + b*ln(x + 2.1) + c*x", "y = a + b*ln(1.1 - x)", "y = a + b*ln(1.1 - x) + c*x"});
  EXPECT_TRUE(is_special_case(edged[0], edged[1]));
  EXPECT_TRUE(is_special_case(edged[2], edged[3]));
  EXPECT_FALSE(is_special_case(edged[0], edged[3]));
  // Far from zero the powers are nearly combinations of each other, and yet a cube is no parabola.
  const std::vector<Fit> far = fits_of(Observations::of({2000, 2001, 2002, 2003, 2004}, {3.3, 5.6, 7.1, 9.3, 10.7}),
                                       {"y = a + b*x^3", "y = a + b*x + c*x^2", "y = a + b*x^2"});
  EXPECT_FALSE(is_special_case(far[0], far[1]));
  EXPECT_TRUE(is_special_case(far[2], far[1]));
  const Fit whole = fit(shape_model("power", "years", "d"), rows);
  const Fit held = fit(shape_model("power", "years", "d"), rows, {.fixed = {{"b", 1.5}}});
  EXPECT_TRUE(is_special_case(held, whole));
  EXPECT_FALSE(is_special_case(whole, held));
  // Only under one assumption of the scatter, and only of formulas.
  const auto of = [&rows](const char* text, const Spread& spread) {
    return fit(Model::written(text), rows, {.spread = spread});
  };
  EXPECT_TRUE(
      is_special_case(of("d = a + b*years", Spread::counts()), of("d = a + b*years + c*years^2", Spread::counts())));
  EXPECT_FALSE(is_special_case(of("d = a + b*years", Spread()), of("d = a + b*years + c*years^2", Spread::counts())));
  EXPECT_FALSE(is_special_case(of("d = a + b*years", Spread::counts()), of("d = a + b*years + c*years^2", Spread())));
  const auto code = [](auto years, const auto& p) { return p[0] + p[1] * years + p[2] * years * years; };
  const Model in_code = Model::function({"a", "b", "c"}, code, {.response = "d", .predictors = {"years"}});
  const Fit of_code = fit(in_code, rows, {.starts = {{"a", 1}, {"b", 1}, {"c", 0}}});
  EXPECT_FALSE(is_special_case(of("d = a + b*years", Spread()), of_code));
  // What the larger holds the smaller holds, too: the same parameter, at the same value.
  const auto cubic = [&](std::vector<FixedParameter> fixed) {
    return fit(shape_model("polynomial(3)", "years", "d"), rows, {.fixed = std::move(fixed)});
  };
  const Fit one_held = cubic({{"b0", 2}});
  EXPECT_TRUE(is_special_case(cubic({{"b0", 2}, {"b1", 0.5}}), one_held));
  EXPECT_FALSE(is_special_case(cubic({{"b0", 3}, {"b1", 0.5}}), one_held));
  EXPECT_FALSE(is_special_case(cubic({{"b1", 2}, {"b2", 0.5}}), one_held));
  // Nothing added is nothing to test, and beside an exact curve there is no scatter to test by.
  const std::vector<Fit> same = fits_of(rows, {"line", "line"});
  EXPECT_EQ(nested_test(same[0], same[1]).added, 0);
  EXPECT_TRUE(std::isnan(nested_test(same[0], same[1]).p));
  const std::vector<Fit> through =
      fits_of(Observations::of({1, 2, 3, 4}, {3, 5, 7, 9}), {"y = a + 0*x", "y = a + b*x"});
  ASSERT_EQ(through[1].chi_squared(), 0);
  EXPECT_TRUE(std::isnan(nested_test(through[0], through[1]).p));
  EXPECT_TRUE(std::isnan(nested_test(through[0], through[1]).statistic));
  // Of counts the fall of the deviance, by chi-squared.
  const Observations counts = Observations::counted({1, 2, 3, 4, 5, 6}, {12, 15, 21, 22, 30, 31},
                                                    std::vector<double>(6, 1), ResponseKind::counts);
  const Fit level = fit(Model::written("ln(y) = a", {"x"}), counts);
  const Fit growing = fit(Model::written("ln(y) = a + b*x"), counts);
  const NestedTest deviances = nested_test(level, growing);
  EXPECT_EQ(deviances.kind, NestedTest::Kind::chi_squared);
  EXPECT_NEAR(deviances.statistic, level.chi_squared() - growing.chi_squared(), 1e-12);
  EXPECT_DOUBLE_EQ(deviances.p, chi_squared_upper(deviances.statistic, 1));
  // Stated: the difference of chi-squared. Weights of a spread are those of the smaller curve.
  const Observations stated =
      Observations::of(as_eigen(rows.predictor(0)), as_eigen(rows.responses()), VectorXd::Constant(18, 0.6));
  const std::vector<Fit> ladder = fits_of(stated, {"line", "polynomial(2)"});
  const NestedTest chi = nested_test(ladder[0], ladder[1]);
  EXPECT_EQ(chi.kind, NestedTest::Kind::chi_squared);
  EXPECT_NEAR(chi.statistic, ladder[0].chi_squared() - ladder[1].chi_squared(), 1e-12);
  EXPECT_DOUBLE_EQ(chi.p, chi_squared_upper(chi.statistic, 1));
  // Of one predictor more, with the same weights; with other weights nothing is said.
  const Table two_predictors = Table::from_columns({{"y", "", {2.1, 3.9, 7.2, 8.1, 9.8}},
                                                    {"p", "", {1, 2, 3, 4, 5}},
                                                    {"q", "", {1, 4, 2, 3, 5}},
                                                    {"u(y)", "", {0.1, 0.2, 0.1, 0.3, 0.2}}});
  const Fit fewer =
      fit(Model::written("y = a + b*p"), Observations(two_predictors, {.response = "y", .predictors = {"p"}}));
  const auto with_q = [&](const Uncertainty& u) {
    return fit(Model::written("y = a + b*p + c*q"),
               Observations(two_predictors, {.response = "y", .predictors = {"p", "q"}, .response_uncertainty = u}));
  };
  const Fit wider = with_q(Uncertainty());
  EXPECT_TRUE(is_special_case(fewer, wider));
  EXPECT_FALSE(is_special_case(wider, fewer));
  const NestedTest added = nested_test(fewer, wider);
  EXPECT_NEAR(added.statistic, fewer.chi_squared() - wider.chi_squared(), 1e-12);
  EXPECT_DOUBLE_EQ(added.p, chi_squared_upper(added.statistic, 1));
  EXPECT_TRUE(std::isnan(nested_test(fewer, with_q(Uncertainty::number(0.2))).p));
  EXPECT_THROW((void)nested_test(fewer, ladder[1]), Error);
  const FitOptions spread{.spread = Spread::counts()};
  const Fit one = fit(shape_model("line-through-origin", "years", "d"), rows, spread);
  const Fit two = fit(Model::written("d = a*years + b*years^2"), rows, spread);
  const NestedTest f = nested_test(one, two);
  EXPECT_EQ(f.kind, NestedTest::Kind::f);
  EXPECT_EQ(f.added, 1);
  EXPECT_EQ(f.denominator, 16);
  // Both curves with the weights of the smaller, the larger by its normal equations.
  long double a[2][3] = {};
  long double smaller = 0, squares = 0;
  for (Eigen::Index i = 0; i < 18; ++i) {
    const long double x = rows.predictor(0)[i];
    const long double y = rows.responses()[i];
    const long double curve = one.parameter("b").value * x;
    smaller += (y - curve) * (y - curve) / curve;
    squares += y * y / curve;
    const long double columns[] = {x, x * x, y};
    for (int j = 0; j < 2; ++j) {
      for (int k = 0; k < 3; ++k) a[j][k] += columns[j] * columns[k] / curve;
    }
  }
  const long double determinant = a[0][0] * a[1][1] - a[0][1] * a[1][0];
  const long double p = (a[0][2] * a[1][1] - a[0][1] * a[1][2]) / determinant;
  const long double q = (a[0][0] * a[1][2] - a[1][0] * a[0][2]) / determinant;
  const long double larger = squares - p * a[0][2] - q * a[1][2];
  EXPECT_NEAR(f.statistic, static_cast<double>((smaller - larger) / (larger / 16)), 1e-8 * f.statistic);
  EXPECT_DOUBLE_EQ(f.p, f_upper(f.statistic, 1, 16));
}

}  // namespace
}  // namespace truecurve
