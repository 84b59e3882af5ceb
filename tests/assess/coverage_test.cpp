// Simulated truth: 95 % intervals must cover it in 95 % of many data sets.

#include "../support.hpp"

namespace truecurve {
namespace {

struct Case {
  const char* name;
  bool weighted;
  UncertaintyBasis basis;
  double mistaken_by;  // the factor by which the stated uncertainties are off; scatter must not mind
};

class Coverage : public ::testing::TestWithParam<Case> {};

TEST_P(Coverage, IsNinetyFivePercent) {
  constexpr int sets = 5000;
  constexpr double level = 0.95;
  constexpr double a = 2.5;
  constexpr double b = -0.8;
  constexpr double at = 9.5;  // where the band is asked for
  const double sd_at = 0.4;   // of a new observation there
  const Case& c = GetParam();
  RandomNumbers random(20'261'125);
  int in_a = 0, in_b = 0, in_line = 0, in_new = 0;
  const Model model = shape_model("line").with_predictors({"x"});
  for (int set = 0; set < sets; ++set) {
    VectorXd x(9);
    VectorXd y(9);
    VectorXd u(9);
    for (Eigen::Index i = 0; i < 9; ++i) {
      x[i] = static_cast<double>(i * i) / 8;
      u[i] = c.weighted ? 0.2 + 0.05 * static_cast<double>(i) : 0.4;
      y[i] = a + b * x[i] + u[i] * random.normal();
    }
    const bool given = c.weighted || c.basis == UncertaintyBasis::stated;
    const Fit result =
        fit(model, Observations::of(x, y, given ? VectorXd(u / c.mistaken_by) : VectorXd()), {.uncertainty = c.basis});
    const auto parameters = parameter_intervals(result.estimate(), level);
    in_a += parameters[0].low <= a && a <= parameters[0].high;
    in_b += parameters[1].low <= b && b <= parameters[1].high;
    const VectorXd own =
        c.weighted ? VectorXd::Constant(1, sd_at / c.mistaken_by * result.estimate().scale()) : VectorXd();
    const BandPoint point = band_at(result.estimate(), VectorXd::Constant(1, at), level, own)[0];
    in_line += point.confidence.low <= a + b * at && a + b * at <= point.confidence.high;
    const double reading = a + b * at + sd_at * random.normal();
    in_new += point.prediction.low <= reading && reading <= point.prediction.high;
  }
  const double three_sigma = 3 * std::sqrt(sets * level * (1 - level));
  for (const int covered : {in_a, in_b, in_line, in_new}) EXPECT_NEAR(covered, sets * level, three_sigma);
}

// Curved models at few and many rows: the symmetric intervals of a decay and of a saturation curve, whose parameters
// are only approximately normal, hold within two percentage points at a moderate scatter.
TEST(NonlinearCoverage, HoldsApproximatelyForCurvedModels) {
  constexpr int sets = 800;
  struct Curved {
    const char* text;
    double a, b;
    double (*value)(double x, double a, double b);
    double scatter;
  };
  for (const auto& [text, a, b, value, scatter] :
       {Curved{"y = a*exp(-x/b)", 10, 3, [](double x, double p, double q) { return p * std::exp(-x / q); }, 0.3},
        Curved{"y = a*x/(b + x)", 8, 2, [](double x, double p, double q) { return p * x / (q + x); }, 0.2}}) {
    for (const Eigen::Index n : {8, 30}) {
      RandomNumbers random(20'261'126);
      const Model model = Model::written(text, {"x"});
      int in_a = 0, in_b = 0;
      const VectorXd x = VectorXd::LinSpaced(n, 0.5, 10);
      for (int set = 0; set < sets; ++set) {
        VectorXd y(n);
        for (Eigen::Index i = 0; i < n; ++i) y[i] = value(x[i], a, b) + scatter * random.normal();
        const Fit result = fit(model, Observations::of(x, y), {.starts = {{"a", 5}, {"b", 1}}});
        ASSERT_TRUE(result.solver().converged);
        const auto parameters = parameter_intervals(result.estimate(), 0.95);
        in_a += parameters[0].low <= a && a <= parameters[0].high;
        in_b += parameters[1].low <= b && b <= parameters[1].high;
      }
      const double allowed = 0.02 * sets + 3 * std::sqrt(sets * 0.95 * 0.05);
      EXPECT_NEAR(in_a, 0.95 * sets, allowed) << text << " n = " << n;
      EXPECT_NEAR(in_b, 0.95 * sets, allowed) << text << " n = " << n;
    }
  }
}

INSTANTIATE_TEST_SUITE_P(Lines, Coverage,
                         ::testing::Values(Case{"stated", false, UncertaintyBasis::stated, 1},
                                           Case{"scatter", false, UncertaintyBasis::scatter, 1},
                                           Case{"weighted_stated", true, UncertaintyBasis::stated, 1},
                                           Case{"weighted_scatter", true, UncertaintyBasis::scatter, 3}),
                         [](const auto& test_case) { return test_case.param.name; });

}  // namespace
}  // namespace truecurve
