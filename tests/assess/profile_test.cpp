// Profile intervals and regions against independent calculations; how often intervals cover the truth.

#include "../support.hpp"

#include <cstdlib>
#include <fstream>

namespace truecurve {
namespace {

using Eigen::Index;
using test::caught;

// With k held the saturation curve is a line through the origin in x/(k + x), solved here in closed form; the limits
// are found by bisection on that.
TEST(ProfileInterval, IsWhereChiSquaredReachesTheLimit) {
  const Observations data = test::saturation_rows();
  const Fit curve = fit(shape_model("saturation"), data);
  const auto held = [&data](double k) {
    const VectorXd column = as_eigen(data.predictor(0)).array() / (k + as_eigen(data.predictor(0)).array());
    const double m = column.dot(as_eigen(data.responses())) / column.squaredNorm();
    return (as_eigen(data.responses()) - m * column).squaredNorm();
  };
  const double t = student_t_quantile(0.975, 6);
  const double limit = curve.chi_squared() * (1 + t * t / 6);
  const auto crossing = [&](double inside, double outside) {
    for (int i = 0; i < 200; ++i) {
      const double middle = (inside + outside) / 2;
      (held(middle) < limit ? inside : outside) = middle;
    }
    return inside;
  };
  const double k = curve.parameter("k").value;
  const ProfileInterval made = profile_interval(curve, "k", 0.95);
  EXPECT_NEAR(made.interval.low, crossing(k, 0), 1e-5);
  EXPECT_NEAR(made.interval.high, crossing(k, 1000), 1e-5);
  // Its own level by the profile: the tails of t beyond the roots of the rise at its limits.
  const auto tail = [&](double at) {
    return student_t_two_sided(std::sqrt((held(at) - curve.chi_squared()) / (curve.chi_squared() / 6)), 6) / 2;
  };
  EXPECT_NEAR(made.symmetric_level, 1 - tail(made.symmetric.low) - tail(made.symmetric.high), 1e-9);
  EXPECT_TRUE(std::isnan(made.lower_chi_squared));
  const Profile drawn = profile(curve, "k", 0.95);
  EXPECT_NEAR(drawn.limit, limit, 1e-12);
  EXPECT_EQ(drawn.points.size(), 41u) << "20 on each side";
  for (const ProfilePoint& point : drawn.points) EXPECT_NEAR(point.chi_squared / held(point.value), 1, 1e-9);
  // Another parametrization: the profile of 1/k is the same interval turned over.
  const ProfileInterval turned = profile_interval(fit(Model::written("y = m*x*q/(1 + x*q)"), data), "q", 0.95);
  EXPECT_NEAR(turned.interval.low * made.interval.high, 1, 1e-5);
  EXPECT_NEAR(turned.interval.high * made.interval.low, 1, 1e-5);
}

// Rows far below half saturation can't say where the limit lies: no upper limit, in words too.
TEST(ProfileInterval, ReachesInfinityWhereTheRowsDoNotBound) {
  RandomNumbers random(4);
  const VectorXd x = VectorXd::LinSpaced(10, 0.1, 1);
  VectorXd y(10);
  for (Index i = 0; i < 10; ++i) y[i] = 40 * x[i] / (8 + x[i]) + 0.1 * random.normal();
  const Fit curve = fit(shape_model("saturation"), Observations::of(x, y));
  const Trust trust = trust_of(curve, 0.95);
  ASSERT_EQ(trust.profiles.size(), 2u);
  EXPECT_FALSE(trust.profiles[1].symmetric_is_trusted);
  EXPECT_TRUE(std::isinf(trust.profiles[1].interval.high));
  EXPECT_TRUE(std::isfinite(trust.profiles[1].interval.low));
  ASSERT_FALSE(trust.sentences.empty());
  EXPECT_TRUE(has(trust.sentences[0], "no upper limit for"));
  ASSERT_FALSE(trust.pairs.empty());
  EXPECT_TRUE(trust.pairs[0].is_redundant);
  // A set limit ends the interval.
  const Fit limited = fit(shape_model("saturation"), Observations::of(x, y), {.within = {{"k", 0, 500}}});
  EXPECT_EQ(profile_interval(limited, "k", 0.95).interval.high, 500);
  EXPECT_EQ(caught([&] { (void)profile_interval(curve, "q", 0.95); }).code(), ErrorCode::unknown_name);
  EXPECT_EQ(caught([&] { (void)profile_interval(curve, "k", 95); }).code(), ErrorCode::bad_argument);
}

// A limit cuts the symmetric interval off where it stands, and that makes it no less accurate: nothing lies beyond it.
// Beyond the first row the curve is not defined: the end lies between, however near. Each held value by the sums.
TEST(ProfileInterval, EndsBeforeAnEdgeOfTheCurve) {
  const VectorXd places = test::vector({1, 1.5, 2, 3, 4, 6, 8});
  for (const auto& given : {std::pair{0.6, 1.0}, {0.9, 1.0}, {0.99, 1.0}, {0.9, 1e6}, {0.9, 1e-6}}) {
    const double shift = given.first;
    const double unit = given.second;
    const VectorXd x = unit * places;
    VectorXd y(7);
    RandomNumbers random(4);
    for (Index i = 0; i < 7; ++i) y[i] = 2 * std::log(places[i] - shift) + 0.4 * random.normal();
    const Fit made = fit(Model::written(fmt::format("y = a*ln((x - c)/{})", unit)), Observations::of(x, y),
                         {.starts = {{"a", 2}, {"c", shift * unit}}});
    const auto chi_squared = [&](double c) {
      const VectorXd column = ((x.array() - c) / unit).log();
      const double a = column.dot(y) / column.squaredNorm();
      return (y - a * column).squaredNorm();
    };
    const double t = student_t_quantile(0.975, 5);
    const double limit = made.chi_squared() * (1 + t * t / 5);
    const auto end = [&](double inside, double outside) {
      for (int k = 0; k < 200; ++k)
        (chi_squared((inside + outside) / 2) < limit ? inside : outside) = (inside + outside) / 2;
      return inside;
    };
    const double c = made.parameter("c").value;
    const Interval found = profile_interval(made, "c", 0.95).interval;
    EXPECT_NEAR((unit - found.high) / (unit - end(c, unit * (1 - 1e-15))), 1, 1e-3) << shift;
    EXPECT_NEAR(found.low, end(c, -3 * unit), 1e-3 * (c - found.low)) << shift;
  }
}

// A root has a value at its edge, and where chi-squared has not risen so far the interval ends there, in every unit.
TEST(ProfileInterval, EndsAtAnEdgeThatTheDataAllow) {
  for (const double unit : {1.0, 1e6, 1e-6}) {
    const VectorXd x = unit * test::vector({1, 1.5, 2, 3, 4, 6, 8});
    const VectorXd y = test::vector({1.4, 1.1, 2.6, 2.4, 3.9, 4.2, 5.6});
    const Fit made = fit(Model::written(fmt::format("y = a*sqrt((x - c)/{})", unit)), Observations::of(x, y),
                         {.starts = {{"a", 2}, {"c", 0.5 * unit}}});
    EXPECT_NEAR(profile_interval(made, "c", 0.95).interval.high / unit, 1, 1e-4) << unit;
  }
}

TEST(ProfileInterval, IsNotDoubtedForALimit) {
  const VectorXd x = VectorXd::LinSpaced(7, 0, 6);
  const VectorXd y{{5.1, 3.2, 1.9, 1.4, 0.7, 0.6, 0.2}};
  const Model model = Model::written("y = c + a*exp(-k*x)");
  const Fit free = fit(model, Observations::of(x, y));
  const Fit limited = fit(model, Observations::of(x, y), {.within = {{"c", -0.3, infinity}}});
  const ProfileInterval all = profile_interval(free, "c", 0.95);
  const ProfileInterval cut = profile_interval(limited, "c", 0.95);
  ASSERT_LT(all.symmetric.low, -0.4);
  EXPECT_EQ(cut.symmetric.low, -0.3);
  EXPECT_EQ(cut.interval.low, -0.3);
  EXPECT_NEAR(cut.interval.high, all.interval.high, 1e-5);
  EXPECT_TRUE(cut.symmetric_is_trusted);
  EXPECT_GE(cut.symmetric_level, all.symmetric_level);
  EXPECT_TRUE(trust_of(limited, 0.95).sentences.empty());
}

// A profile that meets a curve closer to the rows than the fit says how close it comes.
TEST(ProfileInterval, SaysWhereAnotherMinimumIsLower) {
  const VectorXd x = VectorXd::LinSpaced(7, 0, 6);
  const VectorXd y{{0.20, 1.14, -1.26, -0.34, 0.66, -1.23, 1.17}};
  const auto chi_squared = [&](double w) { return (y.array() - (w * x.array()).sin()).square().sum(); };
  double least = infinity;
  for (double w = -4; w < 4; w += 1e-4) least = std::min(least, chi_squared(w));
  const auto from = [&](double start) {
    return fit(Model::written("y = sin(w*x)"), Observations::of(x, y), {.starts = {{"w", start}}});
  };
  const Fit local = from(0.5);
  ASSERT_NEAR(local.chi_squared(), chi_squared(local.parameter("w").value), 1e-12);
  ASSERT_GT(local.chi_squared(), 1.5 * least);
  const double lower = profile_interval(local, "w", 0.95).lower_chi_squared;
  EXPECT_LT(lower, local.chi_squared());
  EXPECT_GE(lower, least * (1 - 1e-9));
  const auto says = [](const Fit& made) {
    const std::vector<std::string> sentences = trust_of(made, 0.95, Profiles::always).sentences;
    return std::any_of(sentences.begin(), sentences.end(),
                       [](const std::string& s) { return s.find("lower") != std::string::npos; });
  };
  EXPECT_TRUE(says(local));
  const Fit global = from(2.2);
  ASSERT_NEAR(global.chi_squared(), least, 1e-6);
  EXPECT_TRUE(std::isnan(profile_interval(global, "w", 0.95).lower_chi_squared));
  EXPECT_FALSE(says(global));
}

// Of a line the profile is the parabola of its covariance; the value with the slope held is that of the refit.
TEST(Profile, OfALineIsItsParabola) {
  const Observations data = test::saturation_rows();
  const Fit line = fit(shape_model("line"), data);
  const ProfileInterval symmetric = profile_interval(line, "b", 0.95);
  EXPECT_EQ(symmetric.interval.low, symmetric.symmetric.low);
  for (const ProfilePoint& point : profile(line, "b", 0.95).points) {
    const Fit held = fit(Model::written("y = a + b*x"), data, {.fixed = {{"b", point.value}}});
    EXPECT_NEAR(point.chi_squared / held.chi_squared(), 1, 1e-12);
    EXPECT_NEAR(point.parameters[0], held.parameter("a").value, 1e-10);
  }
}

TEST(ConfidenceRegion, IsTheEllipseOfALineAndTheContourOfACurve) {
  const Observations data = test::saturation_rows();
  const Fit curve = fit(shape_model("saturation"), data);
  const ConfidenceRegion region = confidence_region(curve, "m", "k", 0.95);
  const double limit = curve.chi_squared() * (1 + 2.0 / 6 * f_quantile(0.95, 2, 6));
  EXPECT_NEAR(region.limit, limit, 1e-12);
  for (const ParameterPair& point : region.contour) {
    const VectorXd at =
        point.first * as_eigen(data.predictor(0)).array() / (point.second + as_eigen(data.predictor(0)).array());
    EXPECT_NEAR((as_eigen(data.responses()) - at).squaredNorm() / limit, 1, 1e-5);
  }
  const Fit line = fit(shape_model("line"), data);
  const ConfidenceRegion straight = confidence_region(line, "a", "b", 0.95);
  const Eigen::Vector2d middle(line.parameter("a").value, line.parameter("b").value);
  const MatrixXd w = test::inverse(as_eigen(line.estimate().covariance()));
  for (const ParameterPair& point : straight.contour) {
    const Eigen::Vector2d d = Eigen::Vector2d(point.first, point.second) - middle;
    EXPECT_NEAR(d[0] * d[0] * w(0, 0) + 2 * d[0] * d[1] * w(0, 1) + d[1] * d[1] * w(1, 1), 2 * f_quantile(0.95, 2, 6),
                1e-8);
  }
  EXPECT_EQ(caught([&] { (void)confidence_region(curve, "m", "m", 0.95); }).code(), ErrorCode::bad_argument);
}

// Of a parameter and of its negative everything is the same with the sides exchanged.
TEST(Profile, OfANegativeIsTheMirrorImage) {
  RandomNumbers random(4);
  const VectorXd x = VectorXd::LinSpaced(10, 0.1, 1);
  VectorXd y(10);
  for (Index i = 0; i < 10; ++i) y[i] = 40 * x[i] / (8 + x[i]) + 0.1 * random.normal();
  const Fit above = fit(Model::written("y = m*x/(k + x)"), Observations::of(x, y));
  const Fit below = fit(Model::written("y = m*x/(x - k)"), Observations::of(x, y));
  const Profile one = profile(above, "k", 0.95);
  const Profile other = profile(below, "k", 0.95);
  ASSERT_TRUE(std::isinf(one.interval.interval.high));
  EXPECT_TRUE(std::isinf(other.interval.interval.low));
  const double half = above.estimate().coverage_factor(0.95) * above.parameter("k").standard_uncertainty;
  EXPECT_NEAR(one.points.back().value / (above.parameter("k").value + 3 * half), 1, 1e-6);
  EXPECT_NEAR(-other.points.front().value / one.points.back().value, 1, 1e-4);
}

// Within set limits a region ends at them.
TEST(ConfidenceRegion, StaysWithinSetLimits) {
  const Observations data = test::saturation_rows();
  const Fit free = fit(shape_model("saturation"), data);
  const double k = free.parameter("k").value;
  const Fit limited = fit(shape_model("saturation"), data, {.within = {{"k", 0.9 * k, 1.1 * k}}});
  double low = infinity, high = 0;
  for (const ParameterPair& point : confidence_region(limited, "m", "k", 0.95).contour) {
    low = std::min(low, point.second);
    high = std::max(high, point.second);
  }
  EXPECT_NEAR(low, 0.9 * k, 1e-9 * k);
  EXPECT_NEAR(high, 1.1 * k, 1e-9 * k);
  // One that is held at its limit goes with none.
  const Fit at_limit = fit(shape_model("saturation"), data, {.within = {{"k", 1.2 * k, 2 * k}}});
  const Matrix tied = correlation(at_limit.estimate());
  EXPECT_TRUE(std::isnan(tied(0, 1)) && std::isnan(tied(1, 0)));
  EXPECT_EQ(tied(0, 0), 1);
  const ParameterInterval made = parameter_intervals(limited.estimate(), 0.95)[1];
  EXPECT_EQ(made.low, 0.9 * k);
  EXPECT_EQ(made.high, 1.1 * k);
}

struct Covered {
  const char *name, *text;
  std::vector<double> truth;
  std::size_t watched;
  double low, high, scatter;
};

// How often symmetric and profile intervals of 95 % cover the truth of the most curved parameter; with
// TRUECURVE_UPDATE_DOCS set the table in docs/methods.md is written anew.
TEST(CoverageOfCurves, ProfileIntervalsHoldTheirLevel) {
  const std::vector<Covered> cases = {{"k of m*x/(k + x)", "y = m*x/(k + x)", {10, 3}, 1, 0.5, 6, 0.45},
                                      {"tau of a*exp(-x/tau) + c", "y = a*exp(-x/tau) + c", {5, 4, 1}, 1, 0, 10, 0.35},
                                      {"n of m*x^n/(k^n + x^n)", "y = m*x^n/(k^n + x^n)", {8, 2, 4}, 1, 0.5, 10, 0.35}};
  const int sets = test::is_sanitized() ? 10 : 1500;
  const double tolerance = 3.5 * std::sqrt(0.95 * 0.05 / sets);
  std::string table = "| parameter | n | symmetric | profile | profiles without a limit |\n|---|---|---|---|---|\n";
  for (const Covered& c : cases) {
    const Model model = Model::written(c.text, {"x"});
    const std::string& name = model.parameters()[c.watched];
    FitOptions options;
    for (std::size_t j = 0; j < c.truth.size(); ++j) options.starts.push_back({model.parameters()[j], c.truth[j]});
    for (const Index n : {8, 30}) {
      SCOPED_TRACE(testing::Message() << c.name << " n = " << n);
      const VectorXd x = VectorXd::LinSpaced(n, c.low, c.high);
      const VectorXd curve = test::curve_values(model, c.truth, x);
      RandomNumbers random(61);
      int symmetric = 0, by_profile = 0, open = 0, made = 0;
      for (int set = 0; set < sets; ++set) {
        VectorXd y(n);
        for (Index i = 0; i < n; ++i) y[i] = curve[i] + c.scatter * random.normal();
        try {
          const Fit result = fit(model, Observations::of(x, y), options);
          if (!result.solver().converged) continue;
          const ProfileInterval p = profile_interval(result, name, 0.95);
          const double truth = c.truth[c.watched];
          ++made;
          symmetric += p.symmetric.low <= truth && truth <= p.symmetric.high;
          by_profile += p.interval.low <= truth && truth <= p.interval.high;
          open += std::isinf(p.interval.low) || std::isinf(p.interval.high);
        } catch (const Error&) {  // a set that can't be fitted says so, and is counted as not made
        }
      }
      EXPECT_GE(made, sets * 97 / 100);
      // The likelihood's own error is of order 1/n: 2 percentage points at 8 rows.
      EXPECT_NEAR(static_cast<double>(by_profile) / made, 0.95, tolerance + (n == 8 ? 0.02 : 0.005));
      table += fmt::format("| {} | {} | {:.1f} % | {:.1f} % | {:.1f} % |\n", c.name, n, 100.0 * symmetric / made,
                           100.0 * by_profile / made, 100.0 * open / made);
    }
  }
  test::update_docs_table("<!-- coverage of curves -->\n", table);
}

// Counts at one place tell of no other.
// With a scale of its own the place reaches so many of its uncertainties as a level of known scale would give.
TEST(ProfilePlace, KnowsTheScale) {
  const auto made = [](UncertaintyBasis basis) {
    return fit(
        Model::written("ln(y) = a + b*x"),
        Observations::counted({0, 1, 2, 3, 4, 5}, {90, 145, 130, 230, 250, 400}, Vector(6, 1), ResponseKind::counts),
        {.uncertainty = basis});
  };
  const Fit known = made(UncertaintyBasis::stated);
  const Fit scattered = made(UncertaintyBasis::scatter);
  ASSERT_GT(scattered.estimate().scale(), 1.3);
  const double place = (std::log(200) - known.parameter("a").value) / known.parameter("b").value;
  const double reach = scattered.estimate().scale() * student_t_quantile(0.95, 4);
  const Interval one = profile_place(scattered, 200, place, 0.9);
  const Interval other = profile_place(known, 200, place, 1 - std::erfc(reach / std::sqrt(2.0)));
  EXPECT_NEAR(one.low, other.low, 1e-5);
  EXPECT_NEAR(one.high, other.high, 1e-5);
}

TEST(ProfilePlace, NeedsARangeOfPlaces) {
  const auto interval = [](const Vector& x) {
    const Fit made =
        fit(Model::written("y = a*x"), Observations::counted(x, {90, 110, 100}, Vector(3, 1), ResponseKind::counts));
    return profile_place(made, 40, 40 / made.parameter("a").value, 0.95);
  };
  EXPECT_TRUE(std::isnan(interval({2, 2, 2}).low));
  EXPECT_TRUE(std::isnan(interval({2, 2, 2}).high));
  EXPECT_LT(interval({1.9, 2, 2.1}).low, 0.8);
  EXPECT_GT(interval({1.9, 2, 2.1}).high, 0.8);
}

}  // namespace
}  // namespace truecurve
