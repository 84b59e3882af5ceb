// Variance table, derived quantities, hypotheses, solving, residual checks: against definitions and simulation.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/assess/smooth.hpp>
#include <truecurve/assess/solve.hpp>
#include <truecurve/assess/straighten.hpp>
#include <truecurve/assess/variance.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/model/shapes.hpp>

#include "../support.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

Observations line_data(Index n, std::uint64_t seed, double curvature = 0, double fan = 0) {
  RandomNumbers random(seed);
  const VectorXd x = VectorXd::LinSpaced(n, 0, 10);
  VectorXd y(n);
  for (Index i = 0; i < n; ++i) y[i] = 3 + 2 * x[i] + curvature * x[i] * x[i] + (1 + fan * x[i]) * random.normal();
  return Observations::of(x, y);
}

nlohmann::json reference(const std::string& folder, const std::string& name) {
  for (const auto& one : test::reference_cases(folder)) {
    if (one["name"] == name) return one;
  }
  throw std::runtime_error(name);
}

// Each term's share is the drop of the residual sum of squares when the term joins those before it.
TEST(VarianceTable, SplitsTheTotalTermByTerm) {
  const Fit hald = test::case_fit(reference("metrology", "Hald-cement"));
  const VarianceTable table = variance_table(hald);
  EXPECT_NEAR(table.explained.sum_of_squares + table.residual.sum_of_squares, table.total.sum_of_squares, 1e-9);
  EXPECT_EQ(table.explained.degrees_of_freedom, 4);
  const Table data = test::case_table(reference("metrology", "Hald-cement"));
  double before = table.total.sum_of_squares;
  std::string text = "y = b0";
  std::vector<std::string> predictors;
  for (std::size_t k = 0; k < 4; ++k) {
    text += fmt::format(" + b{}*x{}", k + 1, k + 1);
    predictors.push_back(fmt::format("x{}", k + 1));
    const double after =
        fit(Model::written(text), Observations(data, {.response = "y", .predictors = predictors})).chi_squared();
    EXPECT_NEAR(table.sequential[k].sum_of_squares / (before - after), 1, 1e-9) << k;
    before = after;
  }
  EXPECT_NEAR(table.sequential[3].f, std::pow(parameter_intervals(hald.estimate(), 0.95)[4].t, 2), 1e-9);
  EXPECT_NEAR(table.sequential[3].p, parameter_intervals(hald.estimate(), 0.95)[4].p, 1e-12);
}

TEST(LackOfFit, ComparesWithPureError) {
  const VectorXd x = (VectorXd(6) << 1, 1, 2, 2, 3, 3).finished();
  const VectorXd y = (VectorXd(6) << 1.0, 1.2, 3.1, 2.9, 4.0, 4.4).finished();
  const Fit line = fit(shape_model("line"), Observations::of(x, y));
  const auto split = lack_of_fit(line);
  ASSERT_TRUE(split);
  EXPECT_NEAR(split->pure_error.sum_of_squares, 0.02 + 0.02 + 0.08, 1e-12);  // half the squared difference of each pair
  EXPECT_EQ(split->pure_error.degrees_of_freedom, 3);
  EXPECT_NEAR(split->lack_of_fit.sum_of_squares, line.chi_squared() - 0.12, 1e-12);
  EXPECT_EQ(split->lack_of_fit.degrees_of_freedom, 1);
  EXPECT_FALSE(lack_of_fit(fit(shape_model("line"), line_data(8, 1))));
}

TEST(Derive, PropagatesByExactDerivatives) {
  const Fit line = fit(shape_model("line"), line_data(200, 2));
  const auto c = as_eigen(line.estimate().covariance());
  const double a = line.parameter("a").value;
  const double b = line.parameter("b").value;
  const DerivedQuantity ratio = derive(line.estimate(), "x_0 = -a/b", 0.95);
  const double variance = (c(0, 0) - 2 * a / b * c(0, 1) + a * a / (b * b) * c(1, 1)) / (b * b);
  EXPECT_EQ(ratio.name, "x_0");
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
  EXPECT_THROW((void)derive(line.estimate(), "q = k*2", 0.95), Error);
  EXPECT_THROW((void)derive(line.estimate(), "q = ln(a - a)", 0.95), Error);
  EXPECT_THROW((void)derive(line.estimate(), "q = 2", 0.95), Error);
}

// ISO/TS 28037: x = 4.913 with u = 0.322 for a reading of 10.5 with u = 0.5; and Fieller's limits in closed form.
TEST(Solve, ReadsALineBackwards) {
  const auto iso = reference("metrology", "ISO28037-equal-u");
  const Fit line = test::case_fit(iso);
  const auto roots = solve(line.estimate(), 10.5, {.response_uncertainty = 0.5});
  ASSERT_EQ(roots.size(), 1u);
  EXPECT_TRUE(test::prints_as(roots[0].value, iso["certified"]["derived"]["x_from_y_10.5"]["value"]));
  EXPECT_TRUE(
      test::prints_as(roots[0].standard_uncertainty, iso["certified"]["derived"]["x_from_y_10.5"]["standard_error"]));

  const Fit scatter = fit(shape_model("line"), line_data(12, 3));
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
  EXPECT_GT(solve(parabola.estimate(), 100, {.low = 0, .high = 20})[0].outside, 0.4);
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
    EXPECT_TRUE(std::isinf(roots[0].interval.high));
    EXPECT_NEAR(excess(roots[0].interval.low, c - below), 0, 1e-9);
    EXPECT_GT(roots[0].interval.low, 10);
  }
  EXPECT_TRUE(solve(curve, c - 0.2, {.low = 0, .high = 100}).empty());
  // Just above it the root lies anywhere beyond the limit; farther above it is a place.
  const auto near = solve(curve, c + 1e-4, {.low = 0, .high = 100});
  ASSERT_EQ(near.size(), 1u);
  EXPECT_FALSE(near[0].is_nearest);
  EXPECT_TRUE(std::isnan(near[0].standard_uncertainty));
  EXPECT_NEAR(excess(near[0].interval.low, c + 1e-4), 0, 1e-9);
  const auto place = solve(curve, 2, {.low = 0, .high = 100});
  ASSERT_EQ(place.size(), 1u);
  EXPECT_NEAR(place[0].standard_uncertainty, (place[0].interval.high - place[0].interval.low) / 2 / k, 1e-3);
  const auto page = test::run_command({"solve", record, "--for", "y=0.15", "--between", "0..100"}).out;
  EXPECT_NE(page.find("y = 0.15 is not reached; the curve comes near it, within their uncertainty, from x = 15.84 on."),
            std::string::npos)
      << page;
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

// Deleting a row by hand must give what the formulas say without refitting.
TEST(RowMeasures, AreWhatDeletionGives) {
  const Observations data = line_data(14, 5);
  const Fit all = fit(shape_model("line"), data);
  const RowMeasures measures = row_measures(all);
  const double s = all.estimate().scale();
  for (const std::size_t row : {1u, 7u, 14u}) {
    const Fit without = fit(shape_model("line"), data.without(std::span(&row, 1), "test"));
    const auto i = static_cast<Index>(row - 1);
    const BandPoint at = band_at(without.estimate(), VectorXd::Constant(1, data.predictor(0)[i]), 0.95)[0];
    const double deleted =
        (data.responses()[i] - at.value) / std::hypot(without.estimate().scale(), at.standard_uncertainty);
    EXPECT_NEAR(measures.studentized[i], deleted, 1e-10);
    const VectorXd moved = as_eigen(all.fitted()) -
                           band_at(without.estimate(), VectorXd::Zero(1), 0.95)[0].value * VectorXd::Ones(14) -
                           without.parameter("b").value * as_eigen(data.predictor(0));
    EXPECT_NEAR(measures.cook_distance[i], moved.squaredNorm() / (2 * s * s), 1e-10);
  }
}

TEST(SmoothGuide, FollowsACurveAndNotTheNoise) {
  RandomNumbers random(8);
  const VectorXd x = VectorXd::LinSpaced(80, 0, 6);
  VectorXd y(80);
  for (Index i = 0; i < 80; ++i) y[i] = std::sin(x[i]) + 0.1 * random.normal();
  const SmoothGuide guide = smooth_guide(x, y, 61);
  EXPECT_LT((as_eigen(guide.y).array() - as_eigen(guide.x).array().sin()).abs().maxCoeff(), 0.2);
  EXPECT_LT(guide.span, 0.6);
  // A line is reproduced exactly, whatever the span.
  EXPECT_TRUE(as_eigen(smooth_guide(x, 2 * x, 31, 0.3).y).isApprox(2 * VectorXd::LinSpaced(31, 0, 6), 1e-10));
  // Numbers whose squares leave the range of doubles: the same guide to the last digit, in their units.
  for (const double unit : {std::ldexp(1, 1000), std::ldexp(1, -1000)}) {
    const SmoothGuide scaled = smooth_guide(unit * x, y / unit, 61);
    EXPECT_EQ(scaled.span, guide.span);
    for (std::size_t i = 0; i < 61; ++i) {
      EXPECT_EQ(scaled.x[i], unit * guide.x[i]);
      EXPECT_EQ(scaled.y[i], guide.y[i] / unit);
    }
  }
  EXPECT_THROW((void)smooth_guide(x, y, 61, 1.5), Error);
  EXPECT_THROW((void)smooth_guide(Eigen::Vector3d(1, 2, 3), Eigen::Vector3d(1, 2, 3), 10), Error);
}

TEST(Straightenings, RecogniseTheCurveAndNameWhatForbidsIt) {
  RandomNumbers random(9);
  const VectorXd x = VectorXd::LinSpaced(25, 0.5, 8);
  const auto best_of = [&](auto curve) {
    VectorXd y(25);
    for (Index i = 0; i < 25; ++i) y[i] = curve(x[i]) * (1 + 0.005 * random.normal());
    return straightenings(Observations::of(x, y)).front().meaning;
  };
  EXPECT_EQ(best_of([](double t) { return 3 + 2 * t; }), "a straight line");
  EXPECT_EQ(best_of([](double t) { return 3 * std::exp(-0.5 * t); }), "an exponential");
  EXPECT_EQ(best_of([](double t) { return 3 * std::pow(t, 1.7); }), "a power");
  EXPECT_EQ(best_of([](double t) { return 9 * t / (2 + t); }), "a saturation curve");
  EXPECT_EQ(best_of([](double t) { return 2 + std::log(t + 0) * 1.3; }), "a logarithm");
  VectorXd zeros = x;
  zeros[4] = 0;
  const auto remarks = look_remarks(Observations::of(x, zeros));
  ASSERT_FALSE(remarks.empty());
  EXPECT_EQ(remarks[0].text(),
            "'y' is zero or negative in row 5: a logarithm or reciprocal of it can't take it. Without this row these "
            "axes are tried as well.");
  ASSERT_EQ(remarks[0].means().size(), 1u);
  EXPECT_EQ(remarks[0].means()[0].argument, "5");
  for (const Straightening& way : straightenings(Observations::of(x, zeros)))
    EXPECT_EQ(way.model.find("ln(y)"), std::string::npos);
}

// Coverage of derived and solved quantities and of the simultaneous band, weighted or not.
TEST(Coverage, HoldsForWhatIsDerivedFromTheLine) {
  const int sets = test::is_sanitized() ? 400 : 2000;
  const double expected = 0.95 * sets;
  const double three_sigma = 3 * std::sqrt(0.95 * 0.05 * sets);
  for (const bool weighted : {false, true}) {
    RandomNumbers random(77);
    int derived = 0;
    int solved = 0;
    int everywhere = 0;
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

}  // namespace
}  // namespace truecurve
