// Models that are not linear: certified results from every start and from none, the same inference, failures that
// speak.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

#include <cstdlib>
#include <fstream>
#include <regex>

namespace truecurve {
namespace {

using test::caught;

using Eigen::Index;
using test::digits;

Fit case_fit_from(const nlohmann::json& reference, const nlohmann::json* starts) {
  const Table table = test::case_table(reference);
  std::string text = reference["model"];
  if (const auto at = text.find("arctan"); at != std::string::npos) text.replace(at, 6, "atan");
  FitOptions options;
  std::size_t k = 0;
  for (const auto& [name, value] : reference["certified"]["parameters"].items()) {
    if (starts != nullptr) options.starts.push_back({name, test::number_of((*starts)[k++].get<std::string>())});
  }
  return fit(Model::written(text),
             Observations(table, {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::none()}),
             options);
}

// Nine of the eleven certified digits in every parameter and eight in every standard uncertainty, from both published
// starts and from none. With TRUECURVE_UPDATE_DOCS set the table in docs/methods.md is written anew.
TEST(PublishedNonlinearSets, AreMetFromEveryStartAndFromNone) {
  const auto cases = test::reference_cases("nonlinear");
  ASSERT_GE(cases.size(), 14u);
  std::string table =
      "| case | start | digits, estimates | digits, uncertainties | steps | evaluations | descents that met "
      "|\n|---|---|---|---|---|---|---|\n";
  for (const auto& reference : cases) {
    const std::size_t count = reference["starts"].size();
    for (std::size_t which = 0; which <= count; ++which) {
      SCOPED_TRACE(testing::Message() << reference["name"] << " start " << which);
      const nlohmann::json* const starts = which < count ? &reference["starts"][which] : nullptr;
      const Fit result = case_fit_from(reference, starts);
      EXPECT_TRUE(result.solver().converged);
      const bool certified =
          reference["certified"]["parameters"].begin().value()["value"].get<std::string>().size() > 12;
      double estimates = 11, uncertainties = 11;
      for (const auto& [name, want] : reference["certified"]["parameters"].items()) {
        const ParameterEstimate got = result.parameter(name);
        if (!certified) {
          EXPECT_GE(digits(got.value, reference["oracle"]["parameters"][name]["value"]), 9) << name;
          EXPECT_GE(digits(got.standard_uncertainty, reference["oracle"]["parameters"][name]["standard_error"]), 8)
              << name;
          continue;
        }
        estimates = std::min(estimates, digits(got.value, want["value"]));
        uncertainties = std::min(uncertainties, digits(got.standard_uncertainty, want["standard_error"]));
      }
      EXPECT_GE(estimates, 9);
      EXPECT_GE(uncertainties, 8);
      if (!certified) continue;
      EXPECT_GE(digits(result.chi_squared(), reference["certified"]["residual_sum_of_squares"]), 9);
      table += fmt::format(
          "| {} | {} | {:.1f} | {:.1f} | {} | {} | {} |\n", reference["name"].get<std::string>(),
          starts != nullptr ? std::to_string(which + 1) : "none", estimates, uncertainties, result.solver().iterations,
          result.solver().evaluations,
          starts != nullptr ? "" : fmt::format("{} of {}", result.solver().met_best, result.solver().descents));
    }
  }
  test::update_docs_table("<!-- certified nonlinear -->\n", table);
}

Observations cooling(double u) {
  RandomNumbers random(51);
  const VectorXd t = VectorXd::LinSpaced(20, 0, 120);
  VectorXd y(20);
  for (Index i = 0; i < 20; ++i) y[i] = 20 + 960 * std::exp(-t[i] / 41) + u * random.normal();
  return Observations::of(t, y, VectorXd::Constant(20, u));
}

// A phase is known but for whole turns, and with the sign of its amplitude but for half of one: it is the one between
// -pi and pi of a positive amplitude, unless a start or a limit says which is meant.
TEST(NonlinearFit, GivesPhasesWithinOneTurn) {
  RandomNumbers random(61);
  VectorXd t(24), y(24);
  for (int set = 0; set < 8; ++set) {
    const double phase = -std::numbers::pi + (set + 0.5) * std::numbers::pi / 4;
    for (Index i = 0; i < 24; ++i) {
      t[i] = 0.5 + 0.4 * static_cast<double>(i);
      y[i] = 0.3 + 2 * std::sin(1.5 * t[i] + phase) + 0.02 * random.normal();
    }
    const Observations rows = Observations::of(t, y);
    const auto turned = [](double angle) { return std::remainder(angle, 2 * std::numbers::pi); };
    for (const auto& [text, sign, ahead] : {std::tuple{"y = c + a*sin(w*x + p)", 1.0, 0.0},
                                            {"y = c + a*sin(w*x - p)", -1.0, 0.0},
                                            {"y = c + a*cos(w*x + p)", 1.0, -std::numbers::pi / 2},
                                            {"y = c + a*sin(w*x + p*pi/180)", 180 / std::numbers::pi, 0.0},
                                            {"y = c + a*sin(2*pi*(w*x/(2*pi) + p))", 0.5 / std::numbers::pi, 0.0},
                                            {"y = c - a*sin(w*x + p)", 1.0, std::numbers::pi}}) {
      SCOPED_TRACE(text);
      const Fit made = fit(Model::written(text), rows);
      EXPECT_NEAR(made.parameter("a").value, 2, 0.05);
      EXPECT_NEAR(made.parameter("w").value, 1.5, 0.02);
      // In radian, whatever the unit of the phase.
      const double found = made.parameter("p").value / sign;
      EXPECT_NEAR(turned(found - (phase + ahead)), 0, 0.1);
      EXPECT_LE(std::abs(found), std::numbers::pi);
      EXPECT_NEAR(made.chi_squared(), fit(shape_model("sine"), rows).chi_squared(), 1e-9);
    }
    // A place: the first from the first row on, with the uncertainty that the phase has there.
    const Fit by_phase = fit(Model::written("y = c + a*sin(w*x + p)"), rows);
    for (const char* text :
         {"y = c + a*sin(w*(x - q))", "y = c + a*sin(2*pi*f*(x - q))", "y = c + a*sin(2*pi*(x - q)/P)"}) {
      const Fit by_place = fit(Model::written(text), rows);
      const double w = by_phase.parameter("w").value;
      const double q = by_place.parameter("q").value;
      EXPECT_GT(by_place.parameter("a").value, 0);
      EXPECT_GE(q, 0.5);
      EXPECT_LT(q, 0.5 + 2 * std::numbers::pi / w);
      const double turns = std::round((q * w + by_phase.parameter("p").value) / (2 * std::numbers::pi));
      const DerivedQuantity same = derive(by_phase.estimate(), fmt::format("(2*pi*{} - p)/w", turns), 0.95);
      EXPECT_NEAR(q, same.value, 1e-7);
      EXPECT_NEAR(by_place.parameter("q").standard_uncertainty / same.standard_uncertainty, 1, 1e-5);
    }
    const double other = phase + 4 * std::numbers::pi;
    const Fit begun = fit(Model::written("y = c + a*sin(w*x + p)"), rows, {.starts = {{"w", 1.5}, {"p", other}}});
    EXPECT_NEAR(begun.parameter("p").value, other, 0.1);
    const Fit within = fit(Model::written("y = c + a*sin(w*x + p)"), rows, {.within = {{"p", 10, 10 + 7}}});
    EXPECT_GE(within.parameter("p").value, 10);
    EXPECT_NEAR(within.chi_squared(), begun.chi_squared(), 1e-9);
  }
}

// Rows that repeat fit as they do once: the search looks at some of them, not at one place again and again, and the
// factor of many is made of parts.
TEST(NonlinearFit, OfRepeatedRowsIsThatOfThemOnce) {
  const Observations once = cooling(2);
  const Model model = Model::written("y = r + a*exp(-x/tau)");
  const Fit few = fit(model, once);
  const auto t = once.predictor(0);
  for (const int times : {2, 30, 300, 900, 5000}) {
    std::vector<double> x, y;
    for (int k = 0; k < times; ++k) {
      x.insert(x.end(), t.begin(), t.end());
      y.insert(y.end(), once.responses().begin(), once.responses().end());
    }
    const auto u = std::vector<double>(x.size(), 2);
    const Fit many = fit(model, Observations::of(x, y, u));
    EXPECT_NEAR(many.chi_squared() / few.chi_squared() / times, 1, 1e-10);
    for (const char* name : {"r", "a", "tau"}) {
      EXPECT_NEAR(many.parameter(name).value / few.parameter(name).value, 1, 1e-9) << name;
      EXPECT_NEAR(many.parameter(name).standard_uncertainty / few.parameter(name).standard_uncertainty *
                      std::sqrt(static_cast<double>(times)),
                  1, 1e-8)
          << name;
    }
  }
}

// One curve in three parametrizations: the same curve, the same derived values, the same bands.
TEST(NonlinearFit, DoesNotDependOnHowTheCurveIsWritten) {
  const Observations data = cooling(2);
  const Fit constant = fit(Model::written("y = r + a*exp(-x/tau)"), data);
  const Fit rate = fit(Model::written("y = r + (p - r)*exp(-k*x)"), data);
  const Fit half = fit(Model::written("y = r + a*2^(-x/h)"), data);
  EXPECT_NEAR(constant.parameter("tau").value, 41, 3 * constant.parameter("tau").standard_uncertainty);
  for (const auto& [other, expression] : {std::pair{&rate, "tau = 1/k"}, {&half, "tau = h/ln(2)"}}) {
    EXPECT_NEAR(other->chi_squared() / constant.chi_squared(), 1, 1e-12);
    const DerivedQuantity tau = derive(other->estimate(), expression, 0.95);
    EXPECT_NEAR(tau.value / constant.parameter("tau").value, 1, 1e-10);
    EXPECT_NEAR(tau.standard_uncertainty / constant.parameter("tau").standard_uncertainty, 1, 1e-8);
    const BandPoint a = band_at(constant.estimate(), VectorXd::Constant(1, 33), 0.95)[0];
    const BandPoint b = band_at(other->estimate(), VectorXd::Constant(1, 33), 0.95)[0];
    EXPECT_NEAR(a.value, b.value, 1e-8);
    EXPECT_NEAR(a.prediction.high, b.prediction.high, 1e-7);
  }
  EXPECT_NEAR(as_eigen(constant.leverage()).sum(), 3, 1e-9);
  EXPECT_EQ(row_measures(constant).standardized.size(), 20);
}

// A stored curve is as good as a fresh one, and is solved like any other.
TEST(NonlinearFit, LivesOnInItsRecord) {
  const Fit fresh = fit(Model::written("y = r + a*exp(-x/tau)"), cooling(2));
  const Estimate stored = read_fit_record(fit_record(fresh, 0.95), "record");
  const BandPoint a = band_at(fresh.estimate(), VectorXd::Constant(1, 50), 0.95)[0];
  const BandPoint b = band_at(stored, VectorXd::Constant(1, 50), 0.95)[0];
  EXPECT_EQ(a.value, b.value);
  EXPECT_EQ(a.prediction.low, b.prediction.low);
  const auto roots = solve(stored, 500);
  ASSERT_EQ(roots.size(), 1u);
  EXPECT_NEAR(roots[0].value, 41 * std::log(960.0 / 480), 3 * roots[0].standard_uncertainty);
}

// A line in disguise: the same numbers as the linear fit.
TEST(NonlinearFit, AgreesWithTheLinearFitWhereThereIsOne) {
  const Observations data = cooling(5);
  const Fit straight = fit(shape_model("line"), data);
  const Fit disguised = fit(Model::written("y = s*(x - x_0)"), data);
  EXPECT_NEAR(disguised.chi_squared() / straight.chi_squared(), 1, 1e-12);
  EXPECT_NEAR(disguised.parameter("s").value / straight.parameter("b").value, 1, 1e-10);
  EXPECT_NEAR(disguised.parameter("s").standard_uncertainty / straight.parameter("b").standard_uncertainty, 1, 1e-9);
  EXPECT_NEAR(quality_of(disguised).aicc, quality_of(straight).aicc, 1e-9);
}

TEST(NonlinearFit, FailsWell) {
  const Observations data = cooling(2);
  const Error twins = caught([&] { (void)fit(Model::written("y = a*exp(-x/s) + b*exp(-x/s)"), data); });
  EXPECT_EQ(twins.code(), ErrorCode::rank_deficient);
  EXPECT_TRUE(has(twins.subject(), "a"));
  EXPECT_EQ(caught([&] {
              (void)fit(Model::written("y = a*exp(-x/s)"), data, {.starts = {{"tau", 3}}});
            }).code(),
            ErrorCode::bad_argument);
  EXPECT_EQ(caught([&] {
              (void)fit(Model::written("y = a*ln(x - s)"), data, {.starts = {{"a", 1}, {"s", 10}}});
            }).code(),
            ErrorCode::not_finite);
  EXPECT_EQ(caught([] {
              (void)fit(Model::written("y = a*exp(-x/s)"),
                        Observations::of(VectorXd::Constant(1, 1), VectorXd::Constant(1, 1)));
            }).code(),
            ErrorCode::too_few_observations);
  const Fit stopped = fit(Model::written("y = r + a*exp(-x/tau)"), data,
                          {.starts = {{"tau", 4000}, {"a", 1}, {"r", 0}}, .most_evaluations = 3});
  EXPECT_FALSE(stopped.solver().converged);
  ASSERT_FALSE(stopped.warnings().empty());
  EXPECT_EQ(stopped.warnings()[0].code, WarningCode::not_converged);
  const auto command = test::run_typed("fit - 'y = a*exp(-x/tau)' --start tau=x", "x,y\n0,9\n1,6\n2,4\n3,3\n");
  EXPECT_EQ(command.code, 2);
}

// A peak of which only the flank was measured is found, and that it lies outside the data is said.
// A place that a constant and a slope can stand in for: nowhere can it be told apart, and a search that ran away until
// the digits end is no result. The moves that are told leave the curve: with c the curvature, a by b dx0, b by 2 c dx0.
TEST(NonlinearFit, SaysThatParametersCanNowhereBeToldApart) {
  const Model model = Model::written("y = a + b*(x - x0) + c*(x - x0)^2");
  const Eigen::VectorXd x = Eigen::VectorXd::LinSpaced(12, 0, 11);
  for (const auto& [level, size] : {std::pair{3.0, 1.0}, {1e9, 1.0}, {-2.0, 1e-6}}) {
    Eigen::VectorXd y(12);
    for (Eigen::Index i = 0; i < 12; ++i)
      y[i] = level + size * (2 * x[i] + 0.5 * x[i] * x[i] + 0.01 * ((7 * i) % 5 - 2));
    const Error error = caught([&] { (void)fit(model, Observations::of(x, y)); });
    EXPECT_EQ(error.code(), ErrorCode::rank_deficient) << level << error.what();
    EXPECT_EQ(error.subject(), "a, b and x0") << level;
    const std::regex told("changing a by ([-+.e0-9]+), b by ([-+.e0-9]+) and x0 by ([-+.e0-9]+) together leaves");
    std::smatch moves;
    ASSERT_TRUE(std::regex_search(error.message(), moves, told)) << error.message();
    EXPECT_NEAR(std::stod(moves[2]) / std::stod(moves[3]) / size, 1, 2e-3) << error.message();
  }
}

TEST(NonlinearFit, SaysThatAPeakLiesOutsideTheData) {
  RandomNumbers random(3);
  const VectorXd x = VectorXd::LinSpaced(25, 0, 6);
  VectorXd y(25);
  for (Index i = 0; i < 25; ++i) y[i] = 5 * std::exp(-std::pow((x[i] - 8) / 3, 2) / 2) + 0.005 * random.normal();
  const Fit flank = fit(Model::written("y = h*exp(-((x - m)/w)^2/2)"), Observations::of(x, y));
  EXPECT_NEAR(flank.parameter("m").value, 8, 4 * flank.parameter("m").standard_uncertainty);
  ASSERT_EQ(flank.warnings().size(), 1u);
  EXPECT_EQ(flank.warnings()[0].code, WarningCode::place_outside_data);
  EXPECT_TRUE(flank.warnings()[0].text.starts_with("m = ")) << flank.warnings()[0].text;
  const Fit other = fit(Model::written("y = h*exp(-((x + s)/w)^2/2)"), Observations::of(x, y));
  ASSERT_EQ(other.warnings().size(), 1u);
  EXPECT_TRUE(other.warnings()[0].text.starts_with(
      fmt::format("x = -s = {:.6g} is a place outside", -other.parameter("s").value)))
      << other.warnings()[0].text;
}

// What is added to x to be divided by it, or to take its logarithm or root, is no place on the axis: a saturation is at
// its half where x is k, whatever the data reach to.
TEST(NonlinearFit, TakesNoConstantForAPlace) {
  const VectorXd x = VectorXd::LinSpaced(12, 1, 12);
  const std::vector<double> off = {3, -5, 1, 4, -2, -1, -6, 5, 2, 0, 7, -4};
  struct Case {
    const char* text;
    std::function<double(double)> truth;
  };
  for (const auto& [text, truth] :
       {Case{"y = m*x/(k + x)", [](double t) { return 3 * t / (2.5 + t); }},
        Case{"y = m/(x + k)^2", [](double t) { return 3 / std::pow(t + 2.5, 2); }},
        Case{"y = m/(2*(k + x)^3)", [](double t) { return 3 / (2 * std::pow(t + 2.5, 3)); }},
        Case{"y = a + b*ln(x + k)", [](double t) { return 1 + 3 * std::log(t + 2.5); }},
        Case{"y = a*sqrt(x + k)", [](double t) { return 3 * std::sqrt(t + 2.5); }},
        Case{"y = a*(k + x)^-1.5", [](double t) { return 3 * std::pow(t + 2.5, -1.5); }}}) {
    SCOPED_TRACE(text);
    VectorXd y(12);
    for (Index i = 0; i < 12; ++i) y[i] = truth(x[i]) * (1 + 1e-4 * off[static_cast<std::size_t>(i)]);
    const Fit made = fit(Model::written(text), Observations::of(x, y));
    EXPECT_TRUE(made.solver().converged);
    for (const Warning& warning : made.warnings())
      EXPECT_NE(warning.code, WarningCode::place_outside_data) << warning.text;
  }
}

// The flank of another curve is no flank of a peak: it would be infinitely high and far. What helps is another curve,
// and not other units, which help where the columns themselves are at the end of the numbers.
TEST(NonlinearFit, TellsRowsThatBoundNothingFromUnits) {
  const std::vector<double> x = {1, 2, 3, 4, 5, 6, 7, 8};
  const std::vector<double> y = {5, 3.1, 2.05, 1.55, 1.22, 1.04, 0.9, 0.78};
  const Model peak = Model::written("y = h*exp(-((x + s)/w)^2/2)");
  const Error unbound = test::caught([&] { (void)fit(peak, Observations::of(x, y)); });
  EXPECT_EQ(unbound.code(), ErrorCode::not_finite);
  EXPECT_TRUE(has(unbound.message(), "do not bound the parameters of 'y = h*exp"));
  EXPECT_TRUE(has(unbound.remedy(), "hold a parameter"));
  std::vector<double> large = y;
  for (double& value : large) value *= 1e200;
  const Error units = test::caught([&] { (void)fit(peak, Observations::of(x, large)); });
  EXPECT_EQ(units.code(), ErrorCode::not_finite);
  EXPECT_TRUE(has(units.remedy(), "units")) << units.what();
}

// An exact curve is found exactly and called so.
TEST(NonlinearFit, RecognisesAnExactFit) {
  const VectorXd x = VectorXd::LinSpaced(10, 0, 9);
  const VectorXd y = 3 * (-0.4 * x.array()).exp() + 1;
  const Fit exact = fit(Model::written("y = c + a*exp(-k*x)"), Observations::of(x, y));
  EXPECT_TRUE(exact.solver().converged);
  EXPECT_NEAR(exact.parameter("k").value, 0.4, 1e-12);
  EXPECT_LT(quality_of(exact).residual_sd, 1e-13);
}

// Shares of single terms are known of linear models only.
// Of two parameters the condition of the tangent plane is a matter of the angle between its columns: of the triangle
// (1, cos; 0, sin), whatever the units.
TEST(Nonlinear, HasTheConditionOfItsTangentPlane) {
  for (const double unit : {1.0, 1e-6}) {
    const Eigen::VectorXd x = Eigen::VectorXd::LinSpaced(9, 0, 8);
    Eigen::VectorXd y(9);
    for (Eigen::Index i = 0; i < 9; ++i) y[i] = unit * (5 * std::exp(-x[i] / 3) + (i % 2 == 0 ? 0.02 : -0.02));
    const Fit made = fit(Model::written("y = a*exp(-x/tau)"), Observations::of(x, y));
    const double a = made.parameter("a").value;
    const double tau = made.parameter("tau").value;
    const Eigen::VectorXd by_a = (-x / tau).array().exp();
    const Eigen::VectorXd by_tau = a / (tau * tau) * x.cwiseProduct(by_a);
    const double cosine = std::abs(by_a.dot(by_tau)) / (by_a.norm() * by_tau.norm());
    const double sine = std::sqrt(1 - cosine * cosine);
    EXPECT_NEAR(made.solver().condition / ((cosine + sine) * (cosine + 1) / sine), 1, 1e-6);
  }
}

TEST(Nonlinear, HasNoEffects) {
  const Observations rows = Observations::of(Vector{0, 1, 2, 3, 4}, Vector{9.1, 6.2, 4.1, 2.7, 1.9});
  EXPECT_EQ(fit(Model::written("y = a*exp(-k*x)"), rows).effects(), Vector(2));
  const Vector line = fit(Model::written("y = a + b*x"), rows).effects();
  EXPECT_NEAR(line[1] * line[1], 17.9 * 17.9 / 10, 1e-12);
}

// What rounding leaves of a direction that nothing determines is none.
TEST(Nonlinear, RefusesParametersThatRoundingWouldTellApart) {
  for (const double share : {0.3, 0.7, 1.0 / 3, 1e-3, 123.4}) {
    for (const char* text : {"y = exp(-(a + {0}*b)*x)", "y = exp(-(a + {0}*b)*x) + c", "y = c*exp(-(a + {0}*b)*x)"}) {
      std::vector<double> x, y;
      for (int i = 0; i < 9; ++i) {
        x.push_back(0.1 + 0.37 * i);
        y.push_back(std::exp(-0.8 * x.back()) + 0.01 * std::sin(5.0 * i));
      }
      const Model model = Model::written(fmt::format(fmt::runtime(text), share), {"x"});
      const Error error = test::caught([&] {
        (void)fit(model, Observations::of(x, y), {.starts = {{"a", 0.4}, {"b", 0.4 / share}}});
      });
      EXPECT_EQ(error.code(), ErrorCode::rank_deficient) << model.text();
    }
  }
}

}  // namespace
}  // namespace truecurve
