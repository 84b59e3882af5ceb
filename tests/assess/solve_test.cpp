// Curves read backwards, against published cases and closed forms.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

#include <stdexcept>

namespace truecurve {
namespace {

using Eigen::Index;

// ISO/TS 28037: x = 4.913 with u = 0.322 for a reading of 10.5 with u = 0.5; and Fieller's limits in closed form.
TEST(Solve, ReadsALineBackwards) {
  const auto iso = test::reference_case("metrology", "ISO28037-equal-u");
  const Fit line = test::case_fit(iso);
  const auto roots = solve(line.estimate(), 10.5, {.response_uncertainty = 0.5});
  ASSERT_EQ(roots.size(), 1u);
  EXPECT_TRUE(test::prints_as(roots[0].value, iso["certified"]["derived"]["x_from_y_10.5"]["value"]));
  EXPECT_TRUE(
      test::prints_as(roots[0].standard_uncertainty, iso["certified"]["derived"]["x_from_y_10.5"]["standard_error"]));

  const Fit scatter = fit(shape_model("line"), test::line_rows(12, 3));
  const auto c = as_eigen(scatter.estimate().covariance());
  const double k = scatter.estimate().coverage_factor(0.95);
  const double a = scatter.parameter("a").value - 12;
  const double b = scatter.parameter("b").value;
  // (a + b x)² <= k² (c00 + 2 c01 x + c11 x²)
  const double p = b * b - k * k * c(1, 1);
  const double q = a * b - k * k * c(0, 1);
  const double r = a * a - k * k * c(0, 0);
  const auto back = solve(scatter.estimate(), 12, {.low = 0, .high = 10});
  ASSERT_EQ(back.size(), 1u);
  EXPECT_NEAR(back[0].interval.low, (-q - std::sqrt(q * q - p * r)) / p, 1e-9);
  EXPECT_NEAR(back[0].interval.high, (-q + std::sqrt(q * q - p * r)) / p, 1e-9);
}

TEST(Solve, FindsEveryRootAndSaysWhereThereIsNone) {
  const VectorXd x = VectorXd::LinSpaced(21, -5, 5);
  VectorXd y = x.array().square();
  for (Index i = 0; i < 21; ++i) y[i] += i % 2 == 0 ? 0.1 : -0.1;
  const Fit parabola = fit(shape_model("polynomial(2)"), Observations::of(x, y));
  const auto two = solve(parabola.estimate(), 9);
  ASSERT_EQ(two.size(), 2u);
  EXPECT_NEAR(two[0].value, -3, 0.05);
  EXPECT_NEAR(two[1].value, 3, 0.05);
  EXPECT_TRUE(solve(parabola.estimate(), -4).empty());
  EXPECT_EQ(solve(parabola.estimate(), -0.03).size(), 1u);
  EXPECT_TRUE(solve(parabola.estimate(), -0.03, {.nearest_places = false}).empty());
  const Root beyond = solve(parabola.estimate(), 100, {.low = 0, .high = 20})[0];
  EXPECT_NEAR(beyond.outside, (beyond.value - 5) / 10, 1e-12);
  EXPECT_THROW((void)solve(parabola.estimate(), 9, {.low = 3, .high = 1}), Error);
  // A pole is no root, and a slope that may be zero gives no limit.
  const Fit pole = fit(Model::written("y = a + b/x"), Observations::of(x.array() + 0.01, y));
  for (const Root& root : solve(pole.estimate(), 8.4, {.low = -5, .high = 5})) EXPECT_GT(std::abs(root.value), 1e-6);
  RandomNumbers random(4);
  VectorXd noise(21);
  for (double& v : noise) v = random.normal();
  const Fit flat = fit(shape_model("line"), Observations::of(x, noise));
  const auto anywhere = solve(flat.estimate(), flat.parameter("a").value);
  ASSERT_EQ(anywhere.size(), 1u);
  EXPECT_TRUE(std::isinf(anywhere[0].interval.low) || std::isinf(anywhere[0].interval.high));
}

// A reading that belongs to a place somewhat beyond the data has that place, on either side, while the end of the data
// is compatible with it; farther off it has none but where it is asked for.
TEST(Solve, FindsThePlaceBesideTheData) {
  VectorXd x(12), y(12);
  for (Index i = 0; i < 12; ++i) {
    x[i] = static_cast<double>(i);
    y[i] = 1 + 2 * x[i] + (i % 3 == 0 ? 0.5 : -0.25);
  }
  const Fit line = fit(shape_model("line"), Observations::of(x, y));
  const auto b = as_eigen(line.estimate().parameters());
  for (const double beyond : {-0.1, 11.1}) {
    const std::vector<Root> roots = solve(line.estimate(), b[0] + b[1] * beyond);
    ASSERT_EQ(roots.size(), 1u);
    EXPECT_NEAR(roots[0].value, beyond, 1e-9);
    EXPECT_FALSE(roots[0].is_nearest);
    EXPECT_NEAR(roots[0].outside, 0.1 / 11, 1e-9);
  }
  for (const double far : {-3.0, 14.0}) {
    EXPECT_TRUE(solve(line.estimate(), b[0] + b[1] * far).empty());
    EXPECT_NEAR(solve(line.estimate(), b[0] + b[1] * far, {.low = -5, .high = 20})[0].value, far, 1e-9);
  }
}

// A bend that lies just between two of the 2001 places looked at, which are then equally near.
TEST(Solve, FindsABendBetweenTwoPlaces) {
  const Fit bend =
      fit(Model::written("y = a + b*x^2"), Observations::of({-2, -1, 0, 1, 2}, {4.9, 2.2, 1.05, 1.9, 5.1}));
  const double lowest = bend.parameter("a").value;
  for (const double shift : {-0.001, 0.0, 0.0003, 0.001}) {
    const auto roots = solve(bend.estimate(), lowest - 0.01, {.low = -2 + shift, .high = 2 + shift});
    ASSERT_EQ(roots.size(), 1u) << shift;
    EXPECT_TRUE(roots[0].is_nearest);
    EXPECT_NEAR(roots[0].value, 0, 1e-4) << shift;
  }
}

// The top of a bend below the response, and the limits of what has no value everywhere.
TEST(Solve, GivesTheNearestPlaceOfABend) {
  const VectorXd x = VectorXd::LinSpaced(21, -5, 5);
  VectorXd y = (3 - (x.array() - 1).square() / 10).matrix();
  for (Index i = 0; i < 21; ++i) y[i] += i % 2 == 0 ? 0.05 : -0.05;
  const Fit bend = fit(shape_model("polynomial(2)"), Observations::of(x, y));
  const auto b = as_eigen(bend.estimate().parameters());
  const double top = b[0] - b[1] * b[1] / (4 * b[2]);
  const auto roots = solve(bend.estimate(), top + 0.01);
  ASSERT_EQ(roots.size(), 1u);
  EXPECT_TRUE(roots[0].is_nearest);
  EXPECT_NEAR(roots[0].value, -b[1] / (2 * b[2]), 1e-4);
  // A root of what may be negative ends at 0, its logarithm nowhere.
  const Estimate& line = bend.estimate();
  const double u = line.standard_uncertainties()[1];
  const std::string shifted = fmt::format("b1 - {:.17g}", b[1] - u);
  const DerivedQuantity root = derive(line, "sqrt(" + shifted + ")", 0.95);
  EXPECT_NEAR(root.without_value, student_t_two_sided(1, 18) / 2, 0.01);
  EXPECT_NEAR(root.monte_carlo.low, 0, 1e-6);
  EXPECT_TRUE(std::isinf(derive(line, "ln(" + shifted + ")", 0.95).monte_carlo.low));
}

// An asymptote is approached and not reached: compatible from where its uncertainty reaches the response, on one side.
TEST(Solve, KnowsAnAsymptote) {
  const std::string decay = "x,y\n0,10.02\n1,7.39\n2,5.4\n3,4.1\n4,2.99\n5,2.3\n6,1.66\n8,1.02\n10,0.61\n";
  test::TemporaryFolder folder;
  const std::string record = (folder / "fit.json").string();
  ASSERT_EQ(
      test::run_command({"fit", "-", "exponential-offset", "--x", "x", "--y", "y", "--output", record}, decay).code, 0);
  const Estimate curve = read_fit_record(test::file_text(record), "record");
  const double c = curve.parameters()[curve.index_of("c")];
  const double k = curve.coverage_factor(0.95);
  const auto excess = [&](double x, double y) {
    const BandPoint at = band_at(curve, VectorXd::Constant(1, x), 0.95)[0];
    return std::abs(at.value - y) - k * at.standard_uncertainty;
  };
  for (const double below : {0.04, 0.09, 1e-14, 1e-17}) {
    SCOPED_TRACE(below);
    const auto roots = solve(curve, c - below, {.low = 0, .high = 100});
    ASSERT_EQ(roots.size(), 1u);
    EXPECT_TRUE(roots[0].is_nearest);
    EXPECT_EQ(roots[0].value, 100);
    EXPECT_TRUE(std::isinf(roots[0].interval.high));
    EXPECT_NEAR(excess(roots[0].interval.low, c - below), 0, 1e-9);
    EXPECT_GT(roots[0].interval.low, 10);
  }
  EXPECT_TRUE(solve(curve, c - 0.2, {.low = 0, .high = 100}).empty());
  // The same towards the other end, where the search begins on the asymptote.
  const std::string other = (folder / "turned.json").string();
  std::string turned;
  for (const char symbol : decay) turned += symbol == '\n' && turned.size() > 4 ? "\n-" : std::string(1, symbol);
  turned.pop_back();
  ASSERT_EQ(
      test::run_command({"fit", "-", "exponential-offset", "--x", "x", "--y", "y", "--output", other}, turned).code, 0);
  const Estimate back = read_fit_record(test::file_text(other), "record");
  for (const double below : {0.04, 1e-14}) {
    const auto roots = solve(back, back.parameters()[back.index_of("c")] - below, {.low = -100, .high = 0});
    ASSERT_EQ(roots.size(), 1u);
    EXPECT_TRUE(roots[0].is_nearest);
    EXPECT_EQ(roots[0].value, -100);
    EXPECT_TRUE(std::isinf(roots[0].interval.low));
  }
  // On it from the first point on: reached nowhere.
  for (const double far : {40.0, 100.0, 700.0}) {
    const Estimate exact = fit(Model::written("y = c + a*exp(x)", {"x"}),
                               Observations::of({-2, -1, 0, 1, 2}, {3 + std::exp(-2.0), 3 + std::exp(-1.0), 4,
                                                                    3 + std::exp(1.0), 3 + std::exp(2.0) + 1e-3}))
                               .estimate();
    for (const Root& root : solve(exact, exact.parameters()[0], {.low = -far, .high = 2}))
      EXPECT_TRUE(root.is_nearest) << far;
  }
  // Just above it the root lies anywhere beyond the limit; farther above it is a place.
  const auto near = solve(curve, c + 1e-4, {.low = 0, .high = 100});
  ASSERT_EQ(near.size(), 1u);
  EXPECT_FALSE(near[0].is_nearest);
  EXPECT_TRUE(std::isnan(near[0].standard_uncertainty));
  EXPECT_NEAR(excess(near[0].interval.low, c + 1e-4), 0, 1e-9);
  const auto turned_near = solve(back, back.parameters()[back.index_of("c")] + 1e-4, {.low = -100, .high = 0});
  ASSERT_EQ(turned_near.size(), 1u);
  EXPECT_TRUE(std::isnan(turned_near[0].standard_uncertainty));
  EXPECT_NEAR(turned_near[0].interval.high, -near[0].interval.low, 1e-4);
  const auto place = solve(curve, 2, {.low = 0, .high = 100});
  ASSERT_EQ(place.size(), 1u);
  EXPECT_NEAR(place[0].standard_uncertainty, (place[0].interval.high - place[0].interval.low) / 2 / k, 1e-3);
  const auto page = test::run_command({"solve", record, "--for", "y=0.15", "--between", "0..100"}).out;
  EXPECT_TRUE(
      has(page, "y = 0.15 is not reached; the curve comes near it, within their uncertainty, from x = 15.84 on."));
}

// Where an asymptote wavers by rounding, the nearest place is the farthest that was looked at.
TEST(Solve, TakesNoRoundingForABend) {
  const VectorXd x = VectorXd::LinSpaced(12, 1, 12);
  for (const double sign : {1.0, -1.0}) {
    VectorXd y(12);
    for (Index i = 0; i < 12; ++i) y[i] = 7 * x[i] / (3 + x[i]) + 0.1 * std::sin(static_cast<double>(7 * i));
    const Fit result =
        fit(Model::written(sign > 0 ? "y = a*x/(k + x)" : "y = a*x/(x - k)"), Observations::of(sign * x, y));
    const double a = result.estimate().parameters()[0];
    for (const double far : {1e13, 1e14, 1e15, 1e16}) {
      const Range range = sign > 0 ? Range{1, far} : Range{-far, -1};
      const auto roots = solve(result.estimate(), a + 0.05, {.low = range.low, .high = range.high});
      ASSERT_EQ(roots.size(), 1u);
      EXPECT_EQ(roots[0].value, sign * far);
      EXPECT_TRUE(roots[0].is_nearest);
    }
  }
}

// Where the slope is not significant, a probability is compatible with the curve as far as it comes near 0 or 1.
TEST(Solve, GoesOnToTheEndsOfProbabilities) {
  for (const bool rising : {true, false}) {
    const double one = rising ? 1 : 0;
    const Table table = Table::from_columns(
        {{"x", "", {1, 2, 3, 4, 5, 6, 7, 8}}, {"p", "", {1 - one, one, 1 - one, 1 - one, one, 1 - one, one, one}}});
    const Fit result =
        fit(Model::written("ln(p/(1 - p)) = a + b*x"),
            Observations(table, {.response = "p", .predictors = {"x"}, .counting = {.kind = ResponseKind::events}}));
    // With logits the band's edge is (a + b*x - logit)^2 = k^2 (u_a^2 + 2 x cov + x^2 u_b^2), a parabola in x.
    const Estimate& e = result.estimate();
    const double k2 = std::pow(e.coverage_factor(0.95), 2);
    const double a = e.parameters()[0] - std::log(9.0);
    const double b = e.parameters()[1];
    const double square = b * b - k2 * e.covariance()(1, 1);
    const double half = a * b - k2 * e.covariance()(0, 1);
    const double root = std::sqrt(half * half - square * (a * a - k2 * e.covariance()(0, 0)));
    const double low = std::min((-half - root) / square, (-half + root) / square);
    const double high = std::max((-half - root) / square, (-half + root) / square);
    ASSERT_LT(square, 0);
    const auto roots = solve(e, 0.9, {.low = -20, .high = 20});
    ASSERT_EQ(roots.size(), 2u);
    EXPECT_EQ(roots[0].interval.low, -infinity);
    EXPECT_NEAR(roots[0].interval.high, low, 1e-6);
    EXPECT_NEAR(roots[1].interval.low, high, 1e-6);
    EXPECT_EQ(roots[1].interval.high, infinity);
  }
}

// Where a curve ends, as that of a root does, the interval of a place ends there, too: exactly, and it is not said once
// more as a place that is nearest.
TEST(Solve, ReachesToWhereTheModelEnds) {
  for (const double end : {0.0, 3.0}) {
    std::vector<double> x, y;
    for (int i = 0; i < 10; ++i) {
      x.push_back(end + i);
      y.push_back(2 + std::sqrt(static_cast<double>(i)) + 0.5 * ((i * 7) % 5 - 2));
    }
    const Fit made =
        fit(Model::written(end == 0 ? "y = a + b*sqrt(x)" : "y = a + b*sqrt(x - 3)"), Observations::of(x, y));
    const double k = made.estimate().coverage_factor(0.95);
    for (const double response : {1.6, 2.0, 2.5}) {
      const std::vector<Root> roots = solve(made.estimate(), response);
      ASSERT_EQ(roots.size(), 1u) << response;
      EXPECT_NEAR(curve_at(made.estimate(), roots[0].value).value, response, 1e-9);
      EXPECT_EQ(roots[0].interval.low, end);
      const CurvePoint high = curve_at(made.estimate(), roots[0].interval.high);
      EXPECT_NEAR(high.value - k * high.standard_uncertainty, response, 1e-6);
    }
    // Above the end as the response is, the interval is one that does not reach it.
    const std::vector<Root> above = solve(made.estimate(), 4.5);
    ASSERT_EQ(above.size(), 1u);
    const CurvePoint low = curve_at(made.estimate(), above[0].interval.low);
    EXPECT_NEAR(low.value + k * low.standard_uncertainty, 4.5, 1e-6);
  }
  // Where a logarithm ends the curve has long left the response.
  std::vector<double> x, y;
  for (int i = 1; i < 9; ++i) {
    x.push_back(i);
    y.push_back(2 + std::log(static_cast<double>(i)) + 0.1 * ((i * 7) % 5 - 2));
  }
  const Fit logarithm = fit(Model::written("y = a + b*ln(x)"), Observations::of(x, y));
  const double low = solve(logarithm.estimate(), 3)[0].interval.low;
  ASSERT_GT(low, 0);
  const CurvePoint at = curve_at(logarithm.estimate(), low);
  EXPECT_NEAR(at.value + logarithm.estimate().coverage_factor(0.95) * at.standard_uncertainty, 3, 1e-6);
}

// Code that throws at some places has no roots there, and keeps its others.
// A hyperbola crosses each response but one once, however it is written and wherever its pole lies.
TEST(Solve, PassesOverPoles) {
  const VectorXd x = VectorXd::LinSpaced(12, 0, 22);
  VectorXd y = 10 * (x.array() + 3) / (x.array() + 43);
  for (Index i = 0; i < 12; ++i) y[i] += 0.01 * std::sin(7.0 * static_cast<double>(i));
  std::vector<Fit> same;
  for (const char* text : {"y = m*(x + c)/(k + x + c)", "y = a + b/(x + c)", "y = (p + q*x)/(x + r)"})
    same.push_back(fit(Model::written(text), Observations::of(x, y)));
  const double end = same[1].parameter("a").value, b = same[1].parameter("b").value, c = same[1].parameter("c").value;
  for (const double response : {-5.0, 0.0, 1.0, 20.0, 400.0}) {
    for (const double low : {-60.0, -200.0, -1000.0}) {
      for (const Fit& made : same) {
        const std::vector<Root> roots = solve(made.estimate(), response, {.nearest_places = false, .low = low});
        const double at = b / (response - end) - c;
        ASSERT_EQ(roots.size(), at > low ? 1u : 0u) << made.model().text() << " " << response << " " << low;
        if (at > low) EXPECT_NEAR(roots[0].value, at, 1e-5);
      }
    }
  }
}

TEST(Solve, LooksOnlyWhereTheCodeHasAValue) {
  const Model guarded = Model::function({"a", "b"}, [](double x, std::span<const double> p) {
    if (x > 6) throw std::domain_error("beyond the table of values");
    return p[0] + p[1] * x * x;
  });
  std::vector<double> x, y;
  for (int i = 0; i <= 10; ++i) {
    x.push_back(0.6 * i - 1);
    y.push_back(1 + 0.5 * x.back() * x.back() + (i % 2 == 0 ? 0.05 : -0.05));
  }
  const Fit made = fit(guarded, Observations::of(x, y), {.starts = {{"a", 1}, {"b", 1}}});
  const std::vector<Root> roots = solve(made.estimate(), 9, {.low = -3, .high = 12});
  ASSERT_EQ(roots.size(), 1u);
  EXPECT_NEAR(roots[0].value, std::sqrt((9 - made.parameter("a").value) / made.parameter("b").value), 1e-9);
}

// A root that is an end of the search is found there: what a curve through the origin reaches only in it.
TEST(Solve, FindsARootAtTheEnd) {
  const Fit made = fit(Model::written("y = b*x + c*x^2"), test::saturation_rows());
  for (const auto& [low, high] : {std::pair{0.0, 3.0}, {-1.0, 0.0}}) {
    const std::vector<Root> roots = solve(made.estimate(), 0, {.low = low, .high = high});
    ASSERT_EQ(roots.size(), 1u) << low;
    EXPECT_EQ(roots[0].value, 0);
  }
}

TEST(Solve, RefusesByName) {
  const Fit line = fit(shape_model("line"), Observations::of({1, 2, 3, 4}, {2.1, 3.9, 6.2, 7.8}));
  const auto refused = [](const Estimate& estimate, double response, const SolveOptions& options) {
    return test::caught([&] { (void)solve(estimate, response, options); }).message();
  };
  const std::string no_place = " can't be looked for";
  EXPECT_EQ(refused(line.estimate(), 4, {.low = 3, .high = 3}), "a response of 4 ± 0 between 3 and 3" + no_place);
  EXPECT_EQ(refused(line.estimate(), 4, {.low = 3, .high = 2}), "a response of 4 ± 0 between 3 and 2" + no_place);
  EXPECT_EQ(refused(line.estimate(), 4, {.high = infinity}), "a response of 4 ± 0 between 1 and inf" + no_place);
  EXPECT_EQ(refused(line.estimate(), 4, {.low = -infinity}), "a response of 4 ± 0 between -inf and 4" + no_place);
  EXPECT_EQ(refused(line.estimate(), infinity, {}), "a response of inf ± 0 between 1 and 4" + no_place);
  EXPECT_EQ(refused(line.estimate(), 4, {.response_uncertainty = -1}),
            "a response of 4 ± -1 between 1 and 4" + no_place);
  const Observations two = Observations::of_columns({"y", "", {2.1, 3.9, 6.2, 7.8, 9}},
                                                    {{"x", "", {1, 2, 3, 4, 5}}, {"z", "", {1, 0, 2, 1, 1}}});
  EXPECT_EQ(refused(fit(Model::written("y = a + b*x + c*z"), two).estimate(), 4, {}),
            "solving needs a model with one predictor, and this has 2");
  const Fit share =
      fit(shape_model("share-logistic"),
          Observations::counted({0, 1, 2, 3, 4}, {1, 3, 5, 7, 10}, {10, 10, 10, 10, 10}, ResponseKind::events));
  for (const double p : {0.0, 1.0, 1.5})
    EXPECT_EQ(refused(share.estimate(), p, {}),
              share.observations().response().name + " = " + shortest(p) + " is no probability that a curve passes");
  EXPECT_EQ(solve(share.estimate(), 0.5, {}).size(), 1u);
  const Fit rate = fit(Model::written("y = a*exp(-k*x)", {"x"}),
                       Observations::counted({1, 2, 3, 4}, {40, 25, 12, 8}, {1, 1, 1, 1}, ResponseKind::counts));
  EXPECT_EQ(refused(rate.estimate(), 0, {}), rate.observations().response().name + " = 0 is no mean count");
}

}  // namespace
}  // namespace truecurve
