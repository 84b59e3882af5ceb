// Figures of merit from their definitions.

#include "../support.hpp"

namespace truecurve {
namespace {

const double two_pi = 2 * std::acos(-1.0);
const VectorXd quality_x = test::vector({1, 2, 3, 4, 6});
const VectorXd read = test::vector({9.1, 7.3, 4.8, 3.2, -1.1});
const VectorXd sure = test::vector({0.2, 0.2, 0.3, 0.1, 0.4});

void expect_criteria(const Quality& q, double log_likelihood, double k, double n) {
  EXPECT_NEAR(q.log_likelihood, log_likelihood, 1e-10);
  EXPECT_NEAR(q.aic, 2 * k - 2 * log_likelihood, 1e-10);
  EXPECT_NEAR(q.bic, k * std::log(n) - 2 * log_likelihood, 1e-10);
  if (n - k - 1 > 0) {
    EXPECT_NEAR(q.aicc, q.aic + 2 * k * (k + 1) / (n - k - 1), 1e-10);
  } else {
    EXPECT_TRUE(std::isnan(q.aicc));
  }
}

TEST(Quality, OfAWeightedLine) {
  for (const bool stated : {true, false}) {
    const Fit made = fit(shape_model("line"), Observations::of(quality_x, read, sure),
                         {.uncertainty = stated ? UncertaintyBasis::stated : UncertaintyBasis::scatter});
    const VectorXd w = sure.array().square().inverse();
    const VectorXd r = read - as_eigen(made.fitted());
    const double chi = w.dot(r.cwiseAbs2());
    const Quality q = quality_of(made);
    EXPECT_NEAR(q.chi_squared, chi, 1e-10);
    EXPECT_EQ(q.degrees_of_freedom, 3);
    EXPECT_NEAR(q.reduced_chi_squared, chi / 3, 1e-11);
    EXPECT_NEAR(q.birge_ratio, std::sqrt(chi / 3), 1e-11);
    EXPECT_NEAR(q.residual_sum_of_squares, r.squaredNorm(), 1e-11);
    EXPECT_NEAR(q.residual_sd, std::sqrt(r.squaredNorm() / 3), 1e-11);
    const double mean = w.dot(read) / w.sum();
    const double total = w.dot((read.array() - mean).square().matrix());
    EXPECT_NEAR(q.r_squared, 1 - chi / total, 1e-12);
    EXPECT_NEAR(q.adjusted_r_squared, 1 - (chi / 3) / (total / 4), 1e-12);
    EXPECT_NEAR(q.correlation_coefficient, -std::sqrt(1 - chi / total), 1e-12) << "the line falls";
    const double plain = (read.array() - read.mean()).square().sum();
    EXPECT_NEAR(q.measured_scale.r_squared, 1 - r.squaredNorm() / plain, 1e-12);
    EXPECT_NEAR(q.measured_scale.residual_sd, q.residual_sd, 1e-12);
    const double logs = sure.array().log().sum();
    if (stated) {
      EXPECT_NEAR(q.chi_squared_p, chi_squared_upper(chi, 3), 1e-12);
      expect_criteria(q, -0.5 * chi - logs - 2.5 * std::log(two_pi), 2, 5);
    } else {
      EXPECT_TRUE(std::isnan(q.chi_squared_p));
      // With the factor to the uncertainties that maximises it.
      expect_criteria(q, -2.5 * (std::log(two_pi * chi / 5) + 1) - logs, 3, 5);
    }
  }
}

TEST(Quality, OfALineThroughTheOriginIsJudgedAboutZero) {
  const Fit made = fit(Model::written("y = b*x"), Observations::of(quality_x, quality_x * 2 + sure));
  const Quality q = quality_of(made);
  const VectorXd y = quality_x * 2 + sure;
  const double b = quality_x.dot(y) / quality_x.squaredNorm();
  const double rss = (y - b * quality_x).squaredNorm();
  EXPECT_NEAR(q.r_squared, 1 - rss / y.squaredNorm(), 1e-12);
  EXPECT_NEAR(q.adjusted_r_squared, 1 - (rss / 4) / (y.squaredNorm() / 5), 1e-12);
  EXPECT_NEAR(q.measured_scale.r_squared, q.r_squared, 1e-12);
  EXPECT_TRUE(std::isnan(q.birge_ratio)) << "without uncertainties";
}

// The density of the response is that of its logarithm over the response.
TEST(Quality, OfATransformedSideIsThatOfTheResponse) {
  const VectorXd y = test::vector({9.1, 6.8, 4.8, 3.9, 1.7});
  const Fit made = fit(Model::written("ln(y) = c - k*x"), Observations::of(quality_x, y));
  const VectorXd z = y.array().log();
  const VectorXd left = z - as_eigen(made.fitted());
  const double rss = left.squaredNorm();
  const Quality q = quality_of(made);
  EXPECT_NEAR(q.residual_sum_of_squares, rss, 1e-12);
  EXPECT_NEAR(q.r_squared, 1 - rss / (z.array() - z.mean()).square().sum(), 1e-12);
  EXPECT_NEAR(q.correlation_coefficient, -std::sqrt(q.r_squared), 1e-12) << "c - k*x falls with k above zero";
  const VectorXd measured = y.array() - as_eigen(made.fitted()).array().exp();
  EXPECT_NEAR(q.measured_scale.residual_sum_of_squares, measured.squaredNorm(), 1e-11);
  EXPECT_NEAR(q.measured_scale.residual_sd, std::sqrt(measured.squaredNorm() / 3), 1e-11);
  EXPECT_NEAR(q.measured_scale.r_squared, 1 - measured.squaredNorm() / (y.array() - y.mean()).square().sum(), 1e-11);
  expect_criteria(q, -2.5 * (std::log(two_pi * rss / 5) + 1) - z.sum(), 3, 5);
}

TEST(Quality, OfAnExactFitHasNoLikelihood) {
  const Quality q = quality_of(fit(shape_model("line"), Observations::of(quality_x, 3 * quality_x)));
  EXPECT_EQ(q.chi_squared, 0);
  EXPECT_EQ(q.r_squared, 1);
  EXPECT_FALSE(std::isfinite(q.aic));
  const Quality two = quality_of(fit(shape_model("line"), Observations::of({1, 2}, {3, 5})));
  EXPECT_EQ(two.degrees_of_freedom, 0);
  EXPECT_TRUE(std::isnan(two.residual_sd));
  EXPECT_TRUE(std::isnan(two.adjusted_r_squared));
}

double share_deviance(double events, double trials, double mean) {
  const double share = events / trials;
  double sum = 0;
  if (share > 0) sum += share * std::log(share / mean);
  if (share < 1) sum += (1 - share) * std::log((1 - share) / (1 - mean));
  return 2 * trials * sum;
}

TEST(CountedQuality, IsItsDefinitions) {
  const Vector x = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9};
  const std::vector<double> events = {6, 9, 9, 18, 21, 27, 36, 36, 45, 54};
  const std::vector<double> trials(10, 60);
  const Observations rows = Observations::counted(x, events, trials, ResponseKind::events);
  for (const auto basis : {UncertaintyBasis::automatic, UncertaintyBasis::scatter}) {
    const Fit made = fit(Model::written("ln(y/(1 - y)) = a + b*x"), rows, {.uncertainty = basis});
    const CountedQuality q = counted_quality(made);
    const double a = made.parameter("a").value;
    const double b = made.parameter("b").value;
    double deviance = 0, null_deviance = 0, pearson = 0, right = 0, log_likelihood = 0, all = 0;
    for (const double e : events) all += e;
    for (std::size_t i = 0; i < 10; ++i) {
      const double p = 1 / (1 + std::exp(-a - b * x[i]));
      deviance += share_deviance(events[i], 60, p);
      null_deviance += share_deviance(events[i], 60, all / 600);
      pearson += std::pow(events[i] - 60 * p, 2) / (60 * p * (1 - p));
      right += p > 0.5 ? events[i] : 60 - events[i];
      log_likelihood += std::lgamma(61) - std::lgamma(events[i] + 1) - std::lgamma(61 - events[i]) +
                        events[i] * std::log(p) + (60 - events[i]) * std::log(1 - p);
    }
    EXPECT_NEAR(q.deviance, deviance, 1e-9);
    EXPECT_NEAR(q.null_deviance, null_deviance, 1e-9);
    EXPECT_NEAR(q.pearson_chi_squared, pearson, 1e-9);
    EXPECT_EQ(q.degrees_of_freedom, 8);
    EXPECT_NEAR(q.dispersion, pearson / 8, 1e-10);
    EXPECT_NEAR(q.rightly_told, right / 600, 1e-12);
    EXPECT_TRUE(q.is_grouped);
    EXPECT_NEAR(q.deviance_p, chi_squared_upper(deviance, 8), 1e-9);
    EXPECT_NEAR(q.pearson_p, chi_squared_upper(pearson, 8), 1e-9);
    EXPECT_EQ(q.dependence_degrees, 1);
    const bool scaled = basis == UncertaintyBasis::scatter;
    const double fall = (null_deviance - deviance) / (scaled ? pearson / 8 : 1);
    EXPECT_NEAR(q.dependence_statistic / fall, 1, 1e-8);
    EXPECT_NEAR(q.dependence_p / (scaled ? f_upper(fall, 1, 8) : chi_squared_upper(fall, 1)), 1, 1e-5);
    // Two groups of five rows by their means.
    ASSERT_EQ(q.groups.size(), 2u);
    EXPECT_EQ(q.groups[0].size, 300);
    EXPECT_EQ(q.groups[0].observed, 63);
    EXPECT_EQ(q.groups[1].observed, 198);
    EXPECT_NEAR(q.groups[0].lowest_mean, 1 / (1 + std::exp(-a)), 1e-9);
    EXPECT_NEAR(q.groups[0].highest_mean, 1 / (1 + std::exp(-a - 4 * b)), 1e-9);
    EXPECT_NEAR(q.groups[0].expected + q.groups[1].expected, 261, 1e-8) << "the score of the constant is zero";
    const Quality plain = quality_of(made);
    if (scaled) {
      EXPECT_TRUE(std::isnan(plain.aic)) << "no likelihood of a distribution";
    } else {
      EXPECT_NEAR(plain.log_likelihood, log_likelihood, 1e-8);
      EXPECT_NEAR(plain.aicc, 4 - 2 * log_likelihood + 12.0 / 597, 1e-8) << "n is the number of trials";
    }
  }
}

// With a scale of its own the fall of the deviance is judged by F, a mean square for each parameter.
TEST(CountedQuality, JudgesTheFallOfADevianceByItsDegrees) {
  const Vector x = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9};
  const Observations rows = Observations::counted(x, {6, 9, 9, 18, 21, 27, 36, 36, 45, 54}, std::vector<double>(10, 60),
                                                  ResponseKind::events);
  const CountedQuality q = counted_quality(
      fit(Model::written("ln(y/(1 - y)) = a + b*x + c*x^2"), rows, {.uncertainty = UncertaintyBasis::scatter}));
  EXPECT_EQ(q.dependence_degrees, 2);
  EXPECT_NEAR(q.dependence_statistic, (q.null_deviance - q.deviance) / q.dispersion, 1e-9);
  EXPECT_NEAR(q.dependence_p / f_upper(q.dependence_statistic / 2, 2, 7), 1, 1e-9);
}

// Cochran's rule: none below 1, a fifth at most below 5.
TEST(CountedQuality, KnowsWhetherExpectedNumbersAreLarge) {
  const auto is_grouped = [](const std::vector<double>& counts) {
    Vector x(counts.size());
    for (std::size_t i = 0; i < counts.size(); ++i) x[i] = static_cast<double>(i);
    Vector groups(counts.size());
    for (std::size_t i = 0; i < counts.size(); ++i) groups[i] = i < 2 ? 1 : 0;
    // The first two rows have a mean of their own: exactly theirs.
    const auto table = Table::from_columns({{"g", "", {groups.begin(), groups.end()}}, {"N", "", counts}});
    const Fit made =
        fit(Model::written("N = a + b*g"),
            Observations(table, {.response = "N", .predictors = {"g"}, .counting = {.kind = ResponseKind::counts}}));
    return counted_quality(made).is_grouped;
  };
  const auto with_others = [&](double first, double second, std::size_t others) {
    std::vector<double> counts(others + 2, 10);
    counts[0] = first;
    counts[1] = second;
    counts[2] = 9;
    counts[3] = 11;
    return is_grouped(counts);
  };
  EXPECT_TRUE(with_others(3, 4, 8)) << "two of ten are small";
  EXPECT_FALSE(with_others(3, 4, 7)) << "two of nine";
  EXPECT_TRUE(with_others(5, 5, 3)) << "5 is not below 5";
  EXPECT_FALSE(with_others(0, 1, 20)) << "below 1";
  EXPECT_TRUE(with_others(0, 2, 20)) << "1 is not below 1";
  // Of events those that did not happen are expected as well.
  for (const auto& [happened, large] : {std::pair{4.0, false}, {6.0, true}, {34.0, true}, {36.0, false}}) {
    const std::size_t n = 6;
    const Fit made = fit(Model::written("ln(y/(1-y)) = a + b*x"),
                         Observations::counted({1, 2, 3, 4, 5, 6}, std::vector<double>(n, happened),
                                               std::vector<double>(n, 40), ResponseKind::events));
    EXPECT_EQ(counted_quality(made).is_grouped, large) << happened;
  }
}

// Published limits: Clopper and Pearson's of 10 of 100 (0.0490, 0.1762), Garwood's of 10 counts (4.795, 18.390).
TEST(ExactInterval, IsThePublishedOne) {
  const Interval share = exact_interval(ResponseKind::events, 10, 100, 0.95);
  EXPECT_NEAR(share.low, 0.0490, 5e-5);
  EXPECT_NEAR(share.high, 0.1762, 5e-5);
  const Interval rate = exact_interval(ResponseKind::counts, 10, 2, 0.95);
  EXPECT_NEAR(2 * rate.low, 4.795, 5e-4);
  EXPECT_NEAR(2 * rate.high, 18.390, 5e-4);
  // At the ends one-sided, in closed form.
  const Interval none = exact_interval(ResponseKind::events, 0, 12, 0.95);
  EXPECT_EQ(none.low, 0);
  EXPECT_NEAR(none.high, 1 - std::pow(0.025, 1.0 / 12), 1e-12);
  const Interval every = exact_interval(ResponseKind::events, 12, 12, 0.95);
  EXPECT_NEAR(every.low, std::pow(0.025, 1.0 / 12), 1e-12);
  EXPECT_EQ(every.high, 1);
  const Interval nothing = exact_interval(ResponseKind::counts, 0, 3, 0.9);
  EXPECT_EQ(nothing.low, 0);
  EXPECT_NEAR(nothing.high, -std::log(0.05) / 3, 1e-12);
  EXPECT_THROW((void)exact_interval(ResponseKind::measured, 1, 1, 0.9), Error);
}

TEST(CountedQuality, ToldByTheOthersIsARefitARow) {
  const Observations rows = Observations::counted({0, 1, 2, 3, 4, 5, 6, 7}, {0, 0, 1, 0, 1, 1, 0, 1},
                                                  {1, 1, 1, 1, 1, 1, 1, 1}, ResponseKind::events);
  const Model model = Model::written("ln(y/(1 - y)) = a + b*x");
  const Fit made = fit(model, rows);
  double right = 0;
  for (std::size_t i = 1; i <= 8; ++i) {
    const Fit without = fit(model, rows.without(std::span(&i, 1), "test"));
    const double z = without.parameter("a").value + without.parameter("b").value * (static_cast<double>(i) - 1);
    right += (z > 0) == (rows.responses()[i - 1] == 1);
  }
  EXPECT_EQ(rightly_told_left_out(made), right / 8);
}

}  // namespace
}  // namespace truecurve
