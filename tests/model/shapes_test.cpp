// Every curved shape finds its truth in simulated data with no start given; the parametrizations of one curve agree.

#include "../../src/model/shape_starts.hpp"
#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

struct Recovery {
  const char* shape;
  std::vector<double> truth;  // in the order of the formula
  double low, high;
  Index rows;
  double scatter;
};

const std::vector<Recovery>& recoveries() {
  static const std::vector<Recovery> all = {
      {"exponential", {2.5, -0.4}, 0, 8, 20, 0.05},
      {"exponential-time-constant", {980, 41}, 0, 120, 25, 8},
      {"exponential-half-life", {5, 3}, 0, 12, 20, 0.1},
      {"exponential-base", {0.3, 1.25}, 0, 12, 20, 0.05},
      {"exponential-offset", {1, 3, -0.5}, 0, 10, 25, 0.05},
      {"exponential-offset-time-constant", {1, -3, 2.5}, 0, 10, 25, 0.05},
      {"exponential-offset-half-life", {20, 900, 28}, 0, 150, 25, 6},
      {"exponential-offset-base", {2, 4, 0.6}, 0, 9, 25, 0.05},
      {"newton-cooling", {22, 980, 41}, 0, 180, 30, 4},
      {"two-exponentials", {3, 40, 5, 4}, 0, 120, 60, 0.03},
      {"power", {3.2, 1.5}, 0.5, 20, 20, 0.8},
      {"arrhenius", {0.62, 2417}, 1300, 1600, 16, 0.03},
      {"arrhenius-rate", {1e8, 6000}, 280, 360, 16, 0.02},
      {"saturation", {12, 3}, 0.2, 20, 20, 0.2},
      {"hill", {8, 2.4, 5}, 0.2, 20, 30, 0.15},
      {"approach-to-limit", {40, 0.3}, 0, 15, 20, 0.8},
      {"stretched-exponential", {6, 12, 0.6}, 0.1, 60, 40, 0.05},
      {"logistic", {30, 0.8, 6}, 0, 14, 25, 0.5},
      {"logistic-offset", {2, 9, 1.4, 5}, 0, 10, 30, 0.1},
      {"logistic-asymmetric", {1, 6, 1.2, 3, 0.5}, -4, 12, 60, 0.01},
      {"gompertz", {25, 0.35, 5}, 0, 18, 25, 0.4},
      {"gaussian-peak", {1, 0.02, 8, 34, 4}, 0, 80, 50, 0.2},
      {"lorentzian-peak", {0.5, -0.0005, 6, 440, 3}, 420, 460, 60, 0.1},
      {"two-gaussian-peaks", {1, 0.01, 6, 30, 4, 4, 48, 5}, 0, 80, 80, 0.1},
      {"sine", {0.4, 2.2, 0.37, 0.7}, 0, 12, 40, 0.3},
      {"damped-oscillation", {0, 3, 1.4, 2.2, 0.5}, 0, 4, 100, 0.05},
  };
  return all;
}

TEST(CurvedShape, FindsItsTruthWithoutStarts) {
  EXPECT_GE(recoveries().size(), 20u);
  const int sets = test::simulated_sets(60, 200);
  for (const Recovery& r : recoveries()) {
    SCOPED_TRACE(r.shape);
    const Model model = shape_model(r.shape).with_predictors({"x"});
    ASSERT_EQ(model.parameters().size(), r.truth.size());
    const VectorXd x = VectorXd::LinSpaced(r.rows, r.low, r.high);
    RandomNumbers random(77);
    int found = 0, warned = 0;
    std::string last;
    const VectorXd curve = test::curve_values(model, r.truth, x);
    for (int set = 0; set < sets; ++set) {
      VectorXd y(r.rows);
      for (Index i = 0; i < r.rows; ++i) y[i] = curve[i] + r.scatter * random.normal();
      const Fit result = fit(model, Observations::of(x, y, VectorXd::Constant(r.rows, r.scatter)));
      bool near = result.solver().converged;
      for (std::size_t j = 0; j < r.truth.size(); ++j) {
        const ParameterEstimate p = result.parameter(model.parameters()[j]);
        near = near && std::abs(p.value - r.truth[j]) < 5 * p.standard_uncertainty;
      }
      found += near;
      warned += !result.warnings().empty();
      if (!result.warnings().empty()) last = result.warnings()[0].text;
    }
    EXPECT_GE(found, sets * 99 / 100);
    // Clean rows that tell all there is: a caution would cry wolf.
    EXPECT_LE(warned, sets / 20) << last;
  }
}

// Where a shape proposes to begin, the curve resembles the rows already, wherever they lie and whichever way it turns.
TEST(CurvedShape, BeginsWhereItResemblesTheRows) {
  const std::map<std::string, double> harder = {
      {"two-gaussian-peaks", 0.15}, {"sine", 0.09}, {"damped-oscillation", 0.09}};
  // Where these begin along x does not change their form.
  const std::vector<std::string> movable = test::parted(
      "exponential; exponential-time-constant; exponential-half-life; exponential-offset; "
      "exponential-offset-time-constant; exponential-offset-half-life; newton-cooling; logistic; logistic-offset; "
      "gompertz; gaussian-peak; lorentzian-peak; two-gaussian-peaks; sine; damped-oscillation");
  for (const Recovery& r : recoveries()) {
    SCOPED_TRACE(r.shape);
    const Model model = shape_model(r.shape).with_predictors({"x"});
    const VectorXd x = VectorXd::LinSpaced(r.rows, r.low, r.high);
    const VectorXd y = test::curve_values(model, r.truth, x);
    const double about_mean = (y.array() - y.mean()).square().sum();
    const double share = harder.contains(r.shape) ? harder.at(r.shape) : 0.06;
    for (const double sign : {1.0, -1.0}) {
      for (const double ranges : {0.0, 2.0}) {
        if (ranges > 0 && std::count(movable.begin(), movable.end(), r.shape) == 0) continue;
        const VectorXd moved = x.array() + ranges * (r.high - r.low);
        const double left = preview(model, Observations::of(moved, sign * y)).chi_squared / about_mean;
        EXPECT_LT(left, share);
      }
    }
  }
}

// A share's logits lie on a straight line: where it is zero is the middle, and its slope the reciprocal of the width.
TEST(CurvedShape, BeginsAtTheLineThroughTheLogits) {
  const VectorXd x = VectorXd::LinSpaced(9, 1, 9);
  for (const double width : {1.7, -1.7}) {
    const VectorXd shares = 1 / (1 + (-(x.array() - 4.3) / width).exp());
    const std::vector<VectorXd> begun = detail::propose_share(x, shares);
    const std::vector<VectorXd> by_ln = detail::propose_share_ln(x.array().exp().matrix(), shares);
    const std::vector<double> steeper = {1, 3, 10};
    ASSERT_EQ(begun.size(), steeper.size());
    for (std::size_t i = 0; i < steeper.size(); ++i) {
      EXPECT_NEAR(begun[i][0], 4.3, 1e-12);
      EXPECT_NEAR(begun[i][1], width / steeper[i], 1e-12);
      EXPECT_NEAR(std::log(by_ln[i][0]), 4.3, 1e-12);
      EXPECT_NEAR(by_ln[i][1], width / steeper[i], 1e-12);
    }
  }
  EXPECT_TRUE(detail::propose_share_ln(x.array() - 1, x).empty()) << "0 has no logarithm";
}

// Of the many ways to write a wave the one with a positive amplitude and frequency and a phase within a turn.
TEST(CurvedShape, WritesWavesInTheUsualForm) {
  const VectorXd x = VectorXd::LinSpaced(60, 0, 12);
  for (int k = 0; k < 12; ++k) {
    const double phase = -3.1 + 0.5 * k;
    const double turned = phase > std::numbers::pi ? phase - 2 * std::numbers::pi : phase;
    SCOPED_TRACE(phase);
    const Model wave = shape_model("sine").with_predictors({"x"});
    const Fit sine =
        fit(wave, Observations::of(x, test::curve_values(wave, std::vector<double>{0.4, 2.2, 0.37, phase}, x)));
    const Model ring = shape_model("damped-oscillation").with_predictors({"x"});
    const Fit damped =
        fit(ring, Observations::of(x, test::curve_values(ring, std::vector<double>{0.4, 2.2, 9, 0.37, phase}, x)));
    for (const auto& [made, places] : {std::pair{&sine, std::array{1, 2, 3}}, {&damped, std::array{1, 3, 4}}}) {
      const auto& theta = made->estimate().parameters();
      EXPECT_NEAR(theta[static_cast<std::size_t>(places[0])], 2.2, 1e-6);
      EXPECT_NEAR(theta[static_cast<std::size_t>(places[1])], 0.37, 1e-6);
      EXPECT_NEAR(theta[static_cast<std::size_t>(places[2])], turned, 1e-6);
    }
  }
}

// Every shape's parameters have units: as the formula says that they scale, so does the curve.
TEST(CurvedShape, KnowsTheUnitsOfItsParameters) {
  for (const Recovery& r : recoveries()) {
    SCOPED_TRACE(r.shape);
    const Model model = shape_model(r.shape).with_predictors({"x"});
    const VectorXd x = VectorXd::LinSpaced(r.rows, r.low, r.high);
    VectorXd y = test::curve_values(model, r.truth, x);
    for (Index i = 0; i < r.rows; ++i) y[i] += 0.1 * r.scatter * std::sin(2.4 * static_cast<double>(i * i));
    const Table table = Table::from_columns(
        {NamedNumbers{"x", "X", {x.begin(), x.end()}}, NamedNumbers{"y", "Y", {y.begin(), y.end()}}});
    FitOptions options;
    for (std::size_t j = 0; j < r.truth.size(); ++j) options.starts.push_back({model.parameters()[j], r.truth[j]});
    const Fit result = fit(model, Observations(table, {.response = "y", .predictors = {"x"}}), options);
    EXPECT_TRUE(unit_remarks(result.estimate()).empty());
    std::vector<double> other = r.truth;
    for (std::size_t j = 0; j < r.truth.size(); ++j) {
      const std::string unit = result.estimate().unit(j);
      if (std::string(r.shape) == "power" && unit == "Y/X^b") {
        other[j] *= 0.7 / std::pow(3, r.truth[1]);
        continue;
      }
      static const std::map<std::string, double> factors = {
          {"", 1}, {"X", 3}, {"1/X", 1 / 3.0}, {"Y", 0.7}, {"Y/X", 0.7 / 3}};
      ASSERT_TRUE(factors.contains(unit)) << model.parameters()[j] << ": " << unit;
      other[j] *= factors.at(unit);
    }
    const VectorXd curve = test::curve_values(model, r.truth, x);
    const VectorXd scaled = test::curve_values(model, other, 3 * x);
    if (std::string(r.shape).ends_with("-base")) continue;  // the base of x in X is a power, not a multiple
    EXPECT_LT((scaled - 0.7 * curve).cwiseAbs().maxCoeff(), 1e-9 * scaled.cwiseAbs().maxCoeff());
  }
}

// Rate, time constant, half-life and base are one curve, with and without an offset: the same chi-squared, and each
// gives the others as derived quantities to ten digits.
TEST(CurvedShape, ParametrizationsOfOneCurveAgree) {
  RandomNumbers random(5);
  const VectorXd x = VectorXd::LinSpaced(25, 0, 10);
  VectorXd y(25);
  for (Index i = 0; i < 25; ++i) y[i] = 4 + 7 * std::exp(-x[i] / 2.5) + 0.1 * random.normal();
  const Observations data = Observations::of(x, y);
  for (const std::string head : {"exponential", "exponential-offset"}) {
    std::map<std::string, double> values;
    double chi_squared = 0;
    for (const std::string tail : {"", "-time-constant", "-half-life", "-base"}) {
      SCOPED_TRACE(head + tail);
      const Fit result = fit(shape_model(head + tail), data);
      if (chi_squared == 0) chi_squared = result.chi_squared();
      EXPECT_NEAR(result.chi_squared() / chi_squared, 1, 1e-12);
      std::map<std::string, double> here;
      for (const DerivedQuantity& q : deduce(result.estimate(), 0.95).derived) here[q.name] = q.value;
      for (const std::string& name : result.model().parameters()) {
        const bool is_base = tail == "-base" && name == "b";  // b names the rate elsewhere
        if (!is_base) here[name] = result.parameter(name).value;
      }
      for (const auto& [name, value] : here) {
        const auto known = values.try_emplace(name, value).first;
        EXPECT_NEAR(value / known->second, 1, 1e-10) << name;
      }
    }
    EXPECT_EQ(values.count("tau") + values.count("h"), 2u);
  }
}

// A curve that grows has a doubling time and no half-life, one that falls the other way round; the activation energy of
// a rate is positive where the rate rises with the temperature, that of a viscosity where it falls.
TEST(CurvedShape, DerivesWhatTheCurveHas) {
  const auto derived_of = [](const std::string& shape, double rate) {
    const VectorXd x = VectorXd::LinSpaced(12, 300, 340);
    const VectorXd y = shape.starts_with("arrhenius") ? VectorXd((rate / x.array()).exp() * 1e3)
                                                      : VectorXd((rate * (x.array() - 300)).exp());
    std::map<std::string, double> derived;
    for (const DerivedQuantity& q : deduce(fit(shape_model(shape), Observations::of(x, y)).estimate(), 0.95).derived)
      derived[q.name] = q.value;
    return derived;
  };
  for (const char* shape : {"exponential", "exponential-time-constant", "exponential-half-life", "exponential-base"}) {
    for (const double rate : {0.05, -0.05}) {
      std::map<std::string, double> derived = derived_of(shape, rate);
      EXPECT_EQ(derived.contains("d"), rate > 0) << shape;
      EXPECT_FALSE(derived.contains("h") && rate > 0) << shape;
      const std::string name = rate > 0 ? "d" : derived.contains("h") ? "h" : "tau";
      EXPECT_NEAR(derived[name], (name == "tau" ? 1 : std::log(2)) / 0.05, 1e-8) << shape;
    }
  }
  EXPECT_NEAR(derived_of("arrhenius", 2000)["E_a"], 8.31446261815324 * 2000, 1e-4);
  EXPECT_NEAR(derived_of("arrhenius-rate", -2000)["E_a"], 8.31446261815324 * 2000, 1e-4);
}

// Counts, too, have what follows from their curve; and a base is compared with 1, at which nothing changes.
TEST(CurvedShape, OfCountsDerivesAsWell) {
  const Fit counted =
      fit(shape_model("exponential"), Observations::counted({0, 1, 2, 3, 4, 5}, {412, 260, 181, 102, 70, 41},
                                                            std::vector<double>(6, 1), ResponseKind::counts));
  const Deductions made = deduce(counted.estimate(), 0.95);
  ASSERT_FALSE(made.derived.empty());
  EXPECT_NEAR(made.derived[0].value, std::log(2) / -counted.parameter("b").value, 0.5 * made.derived[0].value);
  const Fit base = fit(shape_model("exponential-base"), test::saturation_rows());
  const ParameterInterval b = parameter_intervals(base.estimate(), 0.95)[1];
  EXPECT_NEAR(b.t, (b.value - 1) / b.standard_uncertainty, 1e-12);
}

// The straightened sibling of every shape that has one meets the direct curve where there is hardly any scatter.
TEST(CurvedShape, MeetsItsLinearizedSibling) {
  for (const Recovery& r : recoveries()) {
    const auto shape =
        std::find_if(shapes().begin(), shapes().end(), [&r](const Shape& s) { return s.name == r.shape; });
    ASSERT_NE(shape, shapes().end());
    if (shape->linearized.empty()) continue;
    SCOPED_TRACE(r.shape);
    const Model direct = shape_model(r.shape).with_predictors({"x"});
    const VectorXd x = VectorXd::LinSpaced(20, r.low + 0.1 * (r.high - r.low), r.high);
    const VectorXd y = test::curve_values(direct, r.truth, x);
    const Fit curve = fit(direct, Observations::of(x, y));
    const Fit straight = fit(shape_model(r.shape, "x", "y", Route::linearized), Observations::of(x, y));
    EXPECT_TRUE(straight.model().is_transformed());
    for (const DerivedQuantity& q : deduce(straight.estimate(), 0.95).derived) {
      const auto& names = curve.model().parameters();
      if (std::find(names.begin(), names.end(), q.name) == names.end()) continue;
      EXPECT_NEAR(q.value / curve.parameter(q.name).value, 1, 1e-8) << q.name;
    }
  }
  EXPECT_EQ(test::caught([] { (void)shape_model("hill", "x", "y", Route::linearized); }).code(),
            ErrorCode::bad_argument);
}

}  // namespace
}  // namespace truecurve
