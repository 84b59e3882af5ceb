// The checks of many rows against exact counts and published tables, and what they say.

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

constexpr Index many = 1200;  // beyond the rows whose checks are simulated

Fit mean_of(const VectorXd& y) {
  return fit(Model::written("y = m"),
             Observations::of(VectorXd::LinSpaced(y.size(), 1, static_cast<double>(y.size())), y));
}

// Chances of every number of runs of `plus` and `minus` signs drawn one after another without putting back.
std::map<int, double> chances_of_runs(int plus, int minus) {
  // By signs drawn, last sign and runs so far.
  std::map<std::pair<int, int>, std::map<std::pair<bool, int>, double>> now = {{{0, 0}, {}}};
  now[{1, 0}] = {{{true, 1}, static_cast<double>(plus) / (plus + minus)}};
  now[{0, 1}] = {{{false, 1}, static_cast<double>(minus) / (plus + minus)}};
  now.erase({0, 0});
  for (int drawn = 1; drawn < plus + minus; ++drawn) {
    decltype(now) next;
    for (const auto& [used, states] : now) {
      const int left_plus = plus - used.first;
      const int left_minus = minus - used.second;
      for (const auto& [state, chance] : states) {
        const double to_plus = static_cast<double>(left_plus) / (left_plus + left_minus);
        if (left_plus > 0) next[{used.first + 1, used.second}][{true, state.second + !state.first}] += chance * to_plus;
        if (left_minus > 0)
          next[{used.first, used.second + 1}][{false, state.second + state.first}] += chance * (1 - to_plus);
      }
    }
    now = std::move(next);
  }
  std::map<int, double> chances;
  for (const auto& [state, chance] : now.begin()->second) chances[state.second] += chance;
  return chances;
}

TEST(CheckLimits, RunsHaveTheirExactChances) {
  // A few high readings among low ones, together or apart, at an end or within.
  for (const std::vector<Index>& high : std::vector<std::vector<Index>>{
           {5, 6, 7, 8}, {0, 300, 301, 1199}, {10, 200, 500, 900}, {0, 1, 2, 3}, {0, 1, 600, 900, 901}}) {
    VectorXd y(many);
    for (Index i = 0; i < many; ++i) y[i] = -1 - 0.001 * std::sqrt(2.0 + static_cast<double>(i % 7));
    for (const Index i : high) y[i] = 300 + 0.1 * std::sqrt(static_cast<double>(i) + 3);
    int runs = 1;
    for (Index i = 1; i < many; ++i) runs += (y[i] > 0) != (y[i - 1] > 0);
    const auto plus = static_cast<int>(high.size());
    double below = 0, above = 0;
    for (const auto& [count, chance] : chances_of_runs(plus, static_cast<int>(many) - plus)) {
      if (count <= runs) below += chance;
      if (count >= runs) above += chance;
    }
    const Check found = check(mean_of(y), CheckKind::runs);
    EXPECT_EQ(found.statistic, runs);
    EXPECT_NEAR(found.p, std::min(1.0, 2 * std::min(below, above)), 1e-9) << runs << " runs";
  }
}

// Stephens (1986), table 4.7, both parameters estimated: the modified statistic against the share beyond it.
TEST(CheckLimits, NormalityHasThePublishedShares) {
  const std::vector<std::pair<double, double>> published = {{0.341, 0.50}, {0.470, 0.25}, {0.561, 0.15},
                                                            {0.631, 0.10}, {0.752, 0.05}, {0.873, 0.025},
                                                            {1.035, 0.01}, {1.159, 0.005}};
  int met = 0;
  for (std::uint64_t seed = 1; seed <= 40; ++seed) {
    RandomNumbers random(seed);
    VectorXd y(many);
    for (double& v : y) {
      v = random.normal();
      v += 0.02 * v * v * static_cast<double>(seed % 5);
    }
    const Check found = check(mean_of(y), CheckKind::normality);
    const double n = static_cast<double>(many);
    const double a = found.statistic * (1 + 0.75 / n + 2.25 / (n * n));
    for (std::size_t k = 1; k < published.size(); ++k) {
      const auto& [from, high] = published[k - 1];
      const auto& [to, low] = published[k];
      if (a < from || a > to) continue;
      ++met;
      const double p = std::exp(std::log(high) + (a - from) / (to - from) * std::log(low / high));
      EXPECT_NEAR(found.p / p, 1, 0.04) << a;
    }
    if (a < published.front().first) EXPECT_GT(found.p, 0.48);
    if (a > published.back().first) EXPECT_LT(found.p, 0.0052);
  }
  EXPECT_GT(met, 10);
}

// Of normal readings each p is as frequent as it says, up to 1: normal scores themselves have the greatest.
TEST(CheckLimits, NormalityIsUniformWhereThereIsNoDeparture) {
  RandomNumbers random(9);
  std::vector<int> tenths(10);
  constexpr int sets = 1000;
  for (int set = 0; set < sets; ++set) {
    VectorXd y(1001);
    for (double& v : y) v = random.normal();
    const double p = check(mean_of(y), CheckKind::normality).p;
    ASSERT_GT(p, 0);
    ASSERT_LT(p, 1);
    ++tenths[static_cast<std::size_t>(10 * p)];
  }
  for (const int found : tenths) EXPECT_NEAR(found, sets / 10, 4.5 * std::sqrt(sets * 0.09)) << found;
  VectorXd scores(many);
  for (Index i = 0; i < many; ++i) scores[i] = normal_quantile((static_cast<double>(i) + 0.5) / many);
  const double greatest = check(mean_of(scores), CheckKind::normality).p;
  EXPECT_GT(greatest, 0.999);
  EXPECT_LE(greatest, 1);
}

TEST(CheckLimits, CorrelationsAreNormalAndOutliersBounded) {
  RandomNumbers random(4);
  VectorXd x = VectorXd::LinSpaced(many, 0, 1);
  VectorXd y(many);
  for (Index i = 0; i < many; ++i) y[i] = 3 + x[i] + (0.9 + 0.2 * x[i]) * random.normal();
  const Fit line = fit(shape_model("line"), Observations::of(x, y));
  for (const CheckKind kind : {CheckKind::equal_variance, CheckKind::serial_correlation}) {
    const Check found = check(line, kind);
    EXPECT_NEAR(found.p, std::erfc(std::abs(found.statistic) * std::sqrt(many / 2.0)), 1e-12);
  }
  const Check outlier = check(line, CheckKind::outlier);
  Index at = 0;
  const double studentized = as_eigen(row_measures(line).studentized).cwiseAbs().maxCoeff(&at);
  EXPECT_EQ(outlier.row, static_cast<std::size_t>(at) + 1);
  EXPECT_NEAR(outlier.p / std::min(1.0, many * student_t_two_sided(studentized, many - 3)), 1, 1e-6);
  // With stated uncertainties the scale is known.
  const Fit stated = fit(shape_model("line"), Observations::of(x, y, VectorXd::Ones(many)));
  const Check known = check(stated, CheckKind::outlier);
  EXPECT_NEAR(known.p / std::min(1.0, many * std::erfc(known.statistic / std::sqrt(2.0))), 1, 1e-9);
}

// A drift along rows that were measured in the order of the predictor can't be told from the curve.
TEST(CheckLimits, DriftNeedsAnotherOrderThanThatOfThePredictor) {
  RandomNumbers random(8);
  const VectorXd x = test::vector({1, 2, 4, 8, 16, 32, 64, 128});
  VectorXd y(8);
  for (Index i = 0; i < 8; ++i) y[i] = 3 + 0.1 * x[i] + random.normal();
  EXPECT_TRUE(std::isnan(check(fit(shape_model("line"), Observations::of(x, y)), CheckKind::drift).p));
  EXPECT_TRUE(std::isnan(
      check(fit(shape_model("line"), Observations::of(x.reverse().eval(), y.reverse().eval())), CheckKind::drift).p));
  for (const Index first : {0, 6}) {  // one pair is enough
    VectorXd pair = x;
    std::swap(pair[first], pair[first + 1]);
    EXPECT_FALSE(std::isnan(check(fit(shape_model("line"), Observations::of(pair, y)), CheckKind::drift).p)) << first;
  }
  VectorXd swapped = x;
  std::swap(swapped[2], swapped[5]);
  EXPECT_FALSE(std::isnan(check(fit(shape_model("line"), Observations::of(swapped, y)), CheckKind::drift).p));
}

std::string said(const Fit& made, CheckKind kind) {
  const std::vector<Check> checks = residual_checks(made);
  const auto found = std::find_if(checks.begin(), checks.end(), [kind](const Check& c) { return c.kind == kind; });
  return found == checks.end() ? "" : found->sentence + " | " + found->advice.text();
}

// Findings in words, each of both signs.
TEST(CheckWords, SayWhichWayItGoes) {
  const Index n = 60;
  const VectorXd x = VectorXd::LinSpaced(n, 1, 60);
  const auto made = [&](const char* shape, auto value) {
    RandomNumbers random(2);
    VectorXd y(n);
    for (Index i = 0; i < n; ++i) y[i] = value(static_cast<double>(i), random.normal());
    return fit(shape_model(shape), Observations::of(x, y));
  };
  const auto expect = [](const std::string& text, const std::string& part) { EXPECT_TRUE(has(text, part)); };
  const Fit grows = made("line", [](double i, double z) { return i + 0.05 * (1 + i) * z; });
  expect(said(grows, CheckKind::equal_variance), "The residuals grow as the fitted value rises.");
  expect(said(grows, CheckKind::equal_variance), "| give standard uncertainties");
  const Fit shrinks = made("line", [](double i, double z) { return i + 0.05 * (61 - i) * z; });
  expect(said(shrinks, CheckKind::equal_variance), "The residuals shrink as the fitted value rises.");
  const Fit up = made("line", [](double i, double z) { return 0.02 * i * i + z; });
  expect(said(up, CheckKind::curvature), "The residuals bend upwards along x. | add a quadratic term");
  expect(said(up, CheckKind::runs), "fewer than chance gives. | add a quadratic term");
  expect(said(up, CheckKind::serial_correlation), "are positively correlated. | add a quadratic term");
  const Fit down = made("line", [](double i, double z) { return -0.02 * i * i + z; });
  expect(said(down, CheckKind::curvature), "The residuals bend downwards along x. | add a quadratic term");
  const Fit cubic = made("polynomial(2)", [](double i, double z) { return -0.0005 * i * i * i + z; });
  expect(said(cubic, CheckKind::runs), "fewer than chance gives. | try the next degree");
  const Fit turns = made("line", [](double i, double z) { return i + (std::fmod(i, 2) == 0 ? 1.5 : -1.5) + 0.3 * z; });
  expect(said(turns, CheckKind::runs), "more than chance gives. | the readings alternate");
  expect(said(turns, CheckKind::serial_correlation), "are negatively correlated. | the readings alternate");
  const Fit one = made("line", [](double i, double z) { return i + 0.1 * z + (i == 20 ? 3 : 0); });
  expect(said(one, CheckKind::outlier), "Row 21 has the largest residual, ");
  expect(said(one, CheckKind::outlier), ": an outlier. | check row 21 in the notebook");
  const Fit skew = made("line", [](double i, double z) { return i + std::exp(1.2 * z); });
  expect(said(skew, CheckKind::normality), "Departure from normality. | look for outlying readings");
  RandomNumbers random(9);
  VectorXd y(n);
  for (Index i = 0; i < n; ++i) y[i] = static_cast<double>(i) + random.normal();
  for (const auto& [u, words] : {std::pair{0.3,
                                           "The residuals are larger than the stated uncertainties explain. | the "
                                           "uncertainties may be too small"},
                                 {5.0,
                                  "The residuals are smaller than the stated uncertainties explain. | the "
                                  "uncertainties may be too large"},
                                 {1.0, "Consistent with the stated uncertainties. | "}})
    expect(said(fit(shape_model("line"), Observations::of(x, y, VectorXd::Constant(n, u))), CheckKind::chi_squared),
           words);
}

}  // namespace
}  // namespace truecurve
