// Calibrations of counts: limits against sums over the distributions, the curve and its intervals against the
// likelihood written down again, records, refusals.
#include <truecurve/io/calibration_record.hpp>
#include <truecurve/io/csv.hpp>

#include "../../src/base/count_tails.hpp"
#include "../../src/calibrate/uncertain_count.hpp"
#include "../support.hpp"

#include <Eigen/LU>

namespace truecurve {
namespace {

Table tracer_table() { return read_csv(test::source_folder() / "demo/tracer_standards.csv"); }

Readings tracer() {
  return readings_of(tracer_table(), {.amount = "A",
                                      .signals = {"N"},
                                      .kind = "kind",
                                      .counting = {.kind = ResponseKind::counts, .size_column = "t"}});
}

// P(N <= n) by adding up, in long double.
long double poisson_at_most(double n, long double mean) {
  if (n < 0) return 0;
  long double term = std::exp(-mean);
  long double sum = term;
  for (int k = 1; k <= n; ++k) sum += term *= mean / k;
  return sum;
}

// P(X >= n) of a binomial distribution, by adding up.
long double binomial_at_least(int n, int trials, long double p) {
  long double sum = 0;
  for (int k = n; k <= trials; ++k)
    sum += std::exp(std::lgamma(trials + 1.0L) - std::lgamma(k + 1.0L) - std::lgamma(trials - k + 1.0L) +
                    k * std::log(p) + (trials - k) * std::log1p(-p));
  return sum;
}

// The published coefficients (../reference: Currie 1968) to their digits.
TEST(CountedLimits, OfManyCountsAreThePublishedFormulas) {
  for (const double blank : {50.0, 400.0, 4900.0}) {
    const CountingLimits limits = counting_limits(blank, 2, 0.05, 0.05);
    EXPECT_NEAR(limits.critical / std::sqrt(blank), 2.33, 0.005);
    EXPECT_NEAR(limits.detection, 2.71 + 4.65 * std::sqrt(blank), 0.005 * std::sqrt(blank));
    EXPECT_NEAR(limits.quantitation, 50 * (1 + std::sqrt(1 + blank / 12.5)), 1e-9 * limits.quantitation);
    // The exact ones come near them, on the safe side.
    const CountingLimits exact = counting_limits_exact(blank, 2, 0.05, 0.05);
    EXPECT_GE(exact.critical, limits.critical - 0.5);
    EXPECT_NEAR(exact.detection, limits.detection, 4);
    EXPECT_EQ(exact.quantitation, limits.quantitation);
  }
  // No counts of a known blank: exp(-S) = 0.05; of a paired one five counts are needed, as 0.5^5 < 0.05 < 0.5^4.
  EXPECT_NEAR(counting_limits_exact(0, 1, 0.05, 0.05).detection, -std::log(0.05), 1e-12);
  EXPECT_EQ(counting_limits_exact(0, 2, 0.05, 0.05).critical, 4);
  // Beside a short blank without counts N are too many where (1 - 1/ratio)^N is small; no blank is none of next to
  // nothing.
  for (const double ratio : {2.0, 1000.0, 1e6}) {
    const double most = std::floor(std::log(0.05) / std::log1p(-1 / ratio));
    EXPECT_NEAR(counting_limits_exact(0, ratio, 0.05, 0.05).critical, most, 1e-6 * most) << ratio;
    EXPECT_EQ(counting_limits_exact(1e-300, ratio, 0.05, 0.05).critical,
              counting_limits_exact(0, ratio, 0.05, 0.05).critical);
  }
  for (const double blank : {-1.0, infinity, not_a_number})
    EXPECT_EQ(test::caught([&] { (void)counting_limits_exact(blank, 2, 0.05, 0.05); }).subject(), "counts");
  for (const double ratio : {0.9, 1.1e6, infinity, not_a_number})
    EXPECT_EQ(test::caught([&] { (void)counting_limits(10, ratio, 0.05, 0.05); }).subject(), "counts");
}

TEST(CountedLimits, AreThoseOfTheDistributions) {
  struct Case {
    double blank, ratio, alpha, beta;
  };
  for (const Case& c : {Case{0.5, 1, 0.05, 0.05},
                        {7, 1, 0.01, 0.05},
                        {40, 1, 0.05, 0.1},
                        {0, 2, 0.05, 0.05},
                        {3, 2, 0.05, 0.05},
                        {3.2, 1.25, 0.05, 0.02},
                        {30, 2, 0.01, 0.05},
                        {2, 5, 0.05, 0.05}}) {
    const CountingLimits limits = counting_limits_exact(c.blank, c.ratio, c.alpha, c.beta);
    const std::string what = "blank " + std::to_string(c.blank) + ", ratio " + std::to_string(c.ratio);
    const double q = c.ratio > 1 ? 1 / (c.ratio - 1) : infinity;
    // The largest count that is not declared, beside a blank of b counts.
    const auto largest = [&](int b) {
      for (int n = 0;; ++n) {
        const long double p =
            c.ratio == 1 ? 1 - poisson_at_most(n, c.blank) : binomial_at_least(n + 1, n + 1 + b, 1 / (1 + q));
        if (p <= c.alpha) return n;
      }
    };
    const int of_blank = c.ratio == 1 ? 0 : static_cast<int>(std::round(q * c.blank));
    EXPECT_NEAR(limits.critical, largest(of_blank) - c.blank, 1e-12) << what;
    long double missed = 0;
    long double declared = 0;  // of blanks
    long double term = c.ratio == 1 ? 1 : std::exp(-static_cast<long double>(q * c.blank));
    for (int b = 0; b <= (c.ratio == 1 ? 0 : 80); ++b) {
      const int most = largest(b);
      missed += term * poisson_at_most(most, c.blank + limits.detection);
      declared += term * (1 - poisson_at_most(most, c.blank));
      term *= static_cast<long double>(q * c.blank) / (b + 1);
    }
    EXPECT_NEAR(static_cast<double>(missed), c.beta, 1e-8) << what;
    EXPECT_LE(declared, c.alpha) << what;
  }
}

// The score equations of sum N ln(t m) - t m, m = a + b A, hold; their derivative gives the covariance.
// Of more counts than an upper tail is computed for, both tails make one.
TEST(UncertainCount, HasTwoTailsThatMakeOne) {
  for (const double expected : {3.0, 400.0, 2e7}) {
    for (const double uncertainty : {0.0, 0.02 * expected}) {
      const detail::UncertainCount count(expected, uncertainty);
      for (const double at : {expected - std::floor(std::sqrt(expected)), expected, std::floor(expected * 1.02) + 1})
        EXPECT_NEAR(count.at_least(at) + count.at_most(at - 1), 1, 1e-9) << expected << " " << uncertainty << " " << at;
    }
  }
}

// The smallest number that is exceeded with a probability of no more than so much: of Poisson counts by adding up.
TEST(UncertainCount, IsExceededByItsTail) {
  for (const double expected : {0.0, 0.01, 0.06, 0.3, 1.0, 2.5, 7.0, 40.0}) {
    for (const double tail : {0.05, 0.025, 0.6}) {
      double count = 0;
      while (1 - poisson_at_most(count, expected) > tail) ++count;
      EXPECT_EQ(detail::UncertainCount(expected, 0).exceeded_by(tail), count) << expected << " " << tail;
    }
    EXPECT_EQ(detail::UncertainCount(expected, 0).at_least(0), 1);
    EXPECT_NEAR(detail::UncertainCount(expected, 0).at_least(1), -std::expm1(-expected), 1e-12);
  }
  // An uncertainty beyond a hundred times the expectation counts as that.
  EXPECT_EQ(detail::UncertainCount(1, 1e3).at_most(3), detail::UncertainCount(1, 100).at_most(3));
  EXPECT_NE(detail::UncertainCount(1, 100).at_most(3), detail::UncertainCount(1, 50).at_most(3));
}

TEST(CountedCalibration, IsTheGreatestLikelihoodWithItsExpectedInformation) {
  const Readings readings = tracer();
  const Calibration c = calibrate(readings, {.blank = BlankUse::include, .limits = {.simulations = 0}});
  const double a = c.curve.estimate.parameters()[0];
  const double b = c.curve.estimate.parameters()[1];
  double of_a = 0, of_b = 0;
  Eigen::Matrix2d information = Eigen::Matrix2d::Zero();
  double deviance = 0;
  for (const Reading& r : readings.all) {
    const double x = r.kind == ReadingKind::blank ? 0 : r.amount;
    const double m = a + b * x;
    of_a += r.count() / m - r.exposure;
    of_b += x * (r.count() / m - r.exposure);
    const Eigen::Vector2d g(1, x);
    information += r.exposure / m * g * g.transpose();
    deviance += 2 * (r.count() * std::log(r.count() / (r.exposure * m)) - (r.count() - r.exposure * m));
  }
  EXPECT_NEAR(of_a, 0, 1e-5);
  EXPECT_NEAR(of_b, 0, 1e-5);
  EXPECT_TRUE(as_eigen(c.curve.estimate.covariance()).isApprox(information.inverse(), 1e-9));
  EXPECT_NEAR(c.chi_squared, deviance, 1e-9);
  EXPECT_EQ(c.degrees_of_freedom, 11);
  // A level is its counts over their time; the replicates' index of dispersion, (n1 - n2)²/(n1 + n2) for equal times.
  EXPECT_NEAR(c.levels[1].mean, 135.0 / 40, 1e-12);
  double dispersion = 0;
  for (const auto& [n1, n2] : {std::pair{68, 67}, {107, 110}, {97, 114}, {159, 157}, {160, 165}})
    dispersion += std::pow(n1 - n2, 2) / (n1 + n2);
  for (const double n : {24.0, 32.0, 30.0}) dispersion += std::pow(n - 86.0 / 3, 2) / (86.0 / 3);
  EXPECT_NEAR(c.counted_scatter.statistic, dispersion, 1e-9);
  EXPECT_EQ(c.counted_scatter.degrees_of_freedom, 7);
  EXPECT_GT(c.counted_scatter.p, 0.05);
  // The lack of fit is the deviance less that of the levels' own rates.
  double within = 0;
  for (const CalibrationLevel& level : c.levels) {
    for (const Reading& r : level.readings) within += 2 * r.count() * std::log(r.count() / (r.exposure * level.mean));
  }
  EXPECT_NEAR(c.linearity.lack_of_fit_f, deviance - within, 1e-8);
  EXPECT_EQ(c.options.limits.exposure, 10) << "the middle one of the standards";
  EXPECT_EQ(c.options.scatter.kind, SignalScatter::Kind::counted);
}

// P(N <= n) of Poisson whose expectation has a gamma distribution, by integrating over it.
double mixed_at_most(double n, double mean, double u) {
  const double shape = std::pow(mean / u, 2);
  const double scale = mean / shape;
  constexpr int steps = 1500;
  const double high = mean + 12 * u;
  long double sum = 0;
  for (int i = 0; i < steps; ++i) {
    const double m = high * (i + 0.5) / steps;
    const double density = std::exp((shape - 1) * std::log(m / scale) - m / scale - std::lgamma(shape)) / scale;
    sum += density * poisson_at_most(n, m) * high / steps;
  }
  return static_cast<double>(sum);
}

TEST(CountedCalibration, ReadsAmountsByTheTailsOfCounts) {
  const Calibration c = calibrate(tracer(), {.blank = BlankUse::include, .limits = {.simulations = 0}});
  // One count of 63 in 20 min; the same as two of 30 and 33 in 10 min each.
  const Amount one = amount_of(c.curve, {.signals = {63.0 / 20}, .exposures = {20}});
  const Amount two = amount_of(c.curve, {.signals = {3.0, 3.3}, .exposures = {10, 10}});
  EXPECT_NEAR(one.amount, two.amount, 1e-12);
  EXPECT_NEAR(one.interval.low, two.interval.low, 1e-9);
  const auto at = [&](double x) { return curve_at(c.curve.estimate, x); };
  EXPECT_NEAR(at(one.amount).value, 63.0 / 20, 1e-12);
  const CurvePoint low = at(one.interval.low);
  const CurvePoint high = at(one.interval.high);
  EXPECT_NEAR(1 - mixed_at_most(62, 20 * low.value, 20 * low.standard_uncertainty), 0.025, 1e-6);
  EXPECT_NEAR(mixed_at_most(63, 20 * high.value, 20 * high.standard_uncertainty), 0.025, 1e-6);
  const double slope = c.curve.estimate.parameters()[1];
  EXPECT_NEAR(one.budget.readings, std::sqrt(63.0) / 20 / slope, 1e-6);
  EXPECT_NEAR(one.budget.curve, at(one.amount).standard_uncertainty / slope, 1e-6);
  // Within the standards, and beyond either end of them.
  const Range standards = c.curve.estimate.ranges()[0];
  for (const auto& [amount, outside] : {std::pair{0.9 * standards.high, false},
                                        {0.5 * standards.high, false},
                                        {1.1 * standards.high, true},
                                        {standards.high + 0.498 * (standards.high - standards.low), true},
                                        {standards.low - 0.1 * standards.high, true}}) {
    const Amount read =
        amount_of(c.curve, {.signals = {std::round(2000 * at(amount).value) / 2000}, .exposures = {2000}});
    EXPECT_NEAR(read.amount, amount, 0.01 * standards.high);
    EXPECT_EQ(read.outside_standards, outside) << amount;
  }
  // No counts: the uncertainty is that of one, and there is a result. Diluted: scaled.
  const Amount none = amount_of(c.curve, {.signals = {0}, .exposures = {20}});
  EXPECT_NEAR(none.budget.readings, 1.0 / 20 / slope, 1e-6);
  EXPECT_LT(none.interval.high, 0);
  EXPECT_EQ(none.interval.low, -infinity);
  EXPECT_NEAR(amount_of(c.curve, {.signals = {3.15}, .exposures = {20}, .dilution = 5}).amount, 5 * one.amount, 1e-9);
  const auto refused = [&c](const std::vector<double>& exposures) {
    const Error error = test::caught([&] { (void)amount_of(c.curve, {.signals = {3.15, 3}, .exposures = exposures}); });
    EXPECT_EQ(error.code(), ErrorCode::bad_argument);
    EXPECT_EQ(error.remedy(), "give each count its exposure, greater than 0");
    return error.message();
  };
  EXPECT_EQ(refused({}), "2 counts have 0 exposures");
  EXPECT_EQ(refused({20}), "2 counts have 1 exposure");
  EXPECT_EQ(refused({0, 20}), "the exposure of count 1 is 0");
  EXPECT_EQ(refused({20, -1}), "the exposure of count 2 is -1");
  EXPECT_EQ(refused({20, infinity}), "the exposure of count 2 is inf");
  EXPECT_EQ(refused({20, not_a_number}), "the exposure of count 2 is nan");
  EXPECT_EQ(test::caught([&] { (void)amount_of(c.curve, {.signals = {3.15}}); }).message(), "1 count has 0 exposures");
  // A count scatters as its root, and the blanks among themselves as they do.
  for (const double rate : {0.25, 1.0, 16.0}) EXPECT_NEAR(c.curve.scatter.at(rate), std::sqrt(rate), 1e-12);
  double sum = 0, squares = 0, blanks = 0;
  for (const Reading& r : tracer().of(ReadingKind::blank)) {
    sum += r.signal;
    squares += r.signal * r.signal;
    ++blanks;
  }
  EXPECT_NEAR(c.blank.sd, std::sqrt((squares - sum * sum / blanks) / (blanks - 1)), 1e-12);

  // The decision: the smallest count that a blank of uncertain expectation exceeds in at most alpha.
  const DecisionLimits limits = decision_limits(c.curve, {.exposure = 20});
  const CurvePoint zero = at(0);
  const auto exceeds = [&](double n) { return 1 - mixed_at_most(n, 20 * zero.value, 20 * zero.standard_uncertainty); };
  EXPECT_EQ(decision_limits(c.curve, {.readings = 2, .exposure = 10}).largest_count, limits.largest_count);
  EXPECT_LE(exceeds(limits.largest_count), 0.05);
  EXPECT_GT(exceeds(limits.largest_count - 1), 0.05);
  EXPECT_NEAR(at(limits.critical).value, limits.largest_count / 20, 1e-9);
  const CurvePoint detected = at(limits.detection);
  EXPECT_NEAR(mixed_at_most(limits.largest_count, 20 * detected.value, 20 * detected.standard_uncertainty), 0.05, 1e-6);
  const CurvePoint tenth = at(limits.quantitation);
  EXPECT_NEAR(std::hypot(std::sqrt(tenth.value / 20), tenth.standard_uncertainty) / slope, 0.1 * limits.quantitation,
              1e-6);
  EXPECT_TRUE(std::isnan(decision_limits(c.curve, {}).critical)) << "without an exposure";
  EXPECT_EQ(test::caught([&] { (void)decision_limits(c.curve, {.alpha = 1e-300}); }).subject(), "alpha");
  EXPECT_EQ(test::caught([&] { (void)decision_limits(c.curve, {.beta = not_a_number}); }).subject(), "beta");

  // The band of new counts holds whole numbers over the exposure, that of their mean is the gamma distribution's.
  const SignalBand band = signal_at(c.curve, 5, 20);
  const double shape = std::pow(at(5).value / at(5).standard_uncertainty, 2);
  const auto below = [&](double rate) { return detail::gamma_below(shape, rate * shape / at(5).value); };
  EXPECT_NEAR(below(band.confidence.low), 0.025, 1e-9);
  EXPECT_NEAR(below(band.confidence.high), 0.975, 1e-9);
  const double fewest = band.prediction.low * 20;
  const double most = band.prediction.high * 20;
  EXPECT_NEAR(fewest, std::round(fewest), 1e-9);
  EXPECT_LE(1 - mixed_at_most(most, 20 * at(5).value, 20 * at(5).standard_uncertainty), 0.025);
  EXPECT_LE(mixed_at_most(fewest - 1, 20 * at(5).value, 20 * at(5).standard_uncertainty), 0.025);
}

// The mean of a level is all its counts over all their exposure.
TEST(CountedCalibration, LevelsWeighCountsByTheirExposure) {
  const std::vector<Reading> readings = {{.amount = 1, .signal = 30.0 / 10, .exposure = 10, .row = 1},
                                         {.amount = 1, .signal = 260.0 / 100, .exposure = 100, .row = 2}};
  const CalibrationLevel level = levels_of(readings).at(0);
  EXPECT_NEAR(level.mean, 290.0 / 110, 1e-12);
  EXPECT_NEAR(level.sd, 0.4 / std::sqrt(2.0), 1e-12);
  const Interval interval = exact_interval(ResponseKind::counts, 290, 110, 0.95);
  EXPECT_EQ(level.interval.low, interval.low);
  EXPECT_EQ(level.interval.high, interval.high);
}

// A blank of N counts is known to their root, and of none to one.
TEST(CountedCalibration, KnowsItsBlankByItsCounts) {
  for (const double many : {0.0, 9.0}) {
    const std::vector<double> amounts = {0, 0, 1, 2, 4, 8};
    const std::vector<double> counts = {many, many + 7 * (many > 0), 120, 210, 405, 822};
    const Table table =
        Table::from_columns({{"A", "", amounts}, {"N", "", counts}, {"t", "", {20, 20, 10, 10, 10, 10}}});
    Readings readings = readings_of(
        table, {.amount = "A", .signals = {"N"}, .counting = {.kind = ResponseKind::counts, .size_column = "t"}});
    for (std::size_t i = 0; i < 2; ++i) readings.all[i].kind = ReadingKind::blank;
    const double total = 2 * many + 7 * (many > 0);
    const BlankSummary blank = calibrate(readings, {.limits = {.simulations = 0}}).blank;
    EXPECT_NEAR(blank.mean, total / 40, 1e-12);
    EXPECT_NEAR(blank.mean_uncertainty, std::sqrt(std::max(1.0, total)) / 40, 1e-12);
  }
}

TEST(CountedCalibration, RoutesOfCountsStateTheirErrors) {
  for (const BlankUse blank : {BlankUse::include, BlankUse::none}) {
    const Calibration c = calibrate(tracer(), {.blank = blank, .limits = {.simulations = 0}});
    EXPECT_TRUE(has(c.cautious_limit, "is that of the route"));
    EXPECT_FALSE(has(c.cautious_limit, "no stated error rates"));
  }
}

// In other units of the amount, and of time, the limits are the same amounts.
TEST(CountedLimits, AreTheSameInAnyUnit) {
  const auto made = [](double of_amount, double of_time) {
    Readings readings = tracer();
    for (Reading& r : readings.all) {
      r.amount *= of_amount;
      r.signal /= of_time;
      r.exposure *= of_time;
    }
    return calibrate(readings, {.limits = {.exposure = 20 * of_time, .simulations = 0}}).limits;
  };
  const std::vector<LimitRoute> plain = made(1, 1);
  ASSERT_EQ(plain.size(), 3u);
  for (const auto& [of_amount, of_time] : {std::pair{1e6, 1.0}, {1e-6, 1.0}, {1.0, 60.0}}) {
    const std::vector<LimitRoute> other = made(of_amount, of_time);
    for (std::size_t i = 0; i < plain.size(); ++i) {
      SCOPED_TRACE(fmt::format("{} {} {}", name(plain[i].route), of_amount, of_time));
      EXPECT_NEAR(other[i].critical / of_amount / plain[i].critical, 1, 1e-6);
      EXPECT_NEAR(other[i].detection / of_amount / plain[i].detection, 1, 1e-6);
      EXPECT_NEAR(other[i].quantitation / of_amount / plain[i].quantitation, 1, 1e-5);
    }
  }
  EXPECT_EQ(
      plain[0].rests_on,
      "86 counts of blanks in an exposure of 60: 28.7 expected in the exposure of the sample, each sample beside a "
      "blank of the same exposure; net counts 15.3 and 31.6 (Currie's formulas: 12.5 and 27.6)");
  EXPECT_TRUE(has(plain[2].rests_on,
                  fmt::format("analyte is declared from {} counts on; nominal errors",
                              decision_limits(calibrate(tracer()).curve, {.exposure = 20}).largest_count + 1)));
}

// What further counts lie between, and their expectation: the quantiles of a distribution that knows how uncertain its
// expectation is.
TEST(CountedCalibration, PredictsFurtherCountsByTheirDistribution) {
  const Calibration c = calibrate(tracer(), {.blank = BlankUse::include, .limits = {.simulations = 0}});
  for (const double amount : {0.0, 0.5, 3.0}) {
    for (const double exposure : {5.0, 60.0}) {
      const SignalBand band = signal_at(c.curve, amount, exposure);
      const CurvePoint point = curve_at(c.curve.estimate, amount);
      const detail::UncertainCount count(exposure * point.value, exposure * point.standard_uncertainty);
      double low = 0;
      while (count.at_most(low) < 0.025) ++low;
      double high = low;
      while (count.at_most(high) < 0.975) ++high;
      EXPECT_NEAR(band.prediction.low * exposure, low, 1e-9) << amount << " " << exposure;
      EXPECT_NEAR(band.prediction.high * exposure, high, 1e-9) << amount << " " << exposure;
      EXPECT_NEAR(band.confidence.low * exposure, count.expectation_quantile(0.025), 1e-9);
      EXPECT_NEAR(band.confidence.high * exposure, count.expectation_quantile(0.975), 1e-9);
    }
  }
}

TEST(CountedCalibration, QuantifiesDecidesAndKeepsItsRecord) {
  const ReadingColumns columns{
      .amount = "A", .signals = {"N"}, .kind = "kind", .counting = {.kind = ResponseKind::counts, .size_column = "t"}};
  const Calibration c = calibrate(readings_of(tracer_table(), columns),
                                  {.blank = BlankUse::include, .limits = {.exposure = 20, .simulations = 40}});
  ASSERT_EQ(c.limits.size(), 3U);
  for (const LimitRoute& route : c.limits) {
    EXPECT_LT(route.critical, route.detection);
    EXPECT_LT(route.detection, route.quantitation);
    EXPECT_GT(route.detection_uncertainty, 0);
  }
  const CountingLimits paired = counting_limits_exact(86.0 / 60 * 20, 2, 0.05, 0.05);
  EXPECT_NEAR(curve_at(c.curve.estimate, c.limits[0].detection).value - curve_at(c.curve.estimate, 0).value,
              paired.detection / 20, 1e-9);
  const StoredCalibration stored = read_calibration_record(calibration_record(c, columns, ""), "memory");
  EXPECT_TRUE(stored.curve.are_counts);
  EXPECT_EQ(stored.columns.counting.size_column, "t");
  EXPECT_EQ(stored.signal.unit, "1/min");
  const Readings samples = readings_of(
      read_csv(test::source_folder() / "demo/tracer_samples.csv"),
      {.signals = {"N"}, .sample = "sample", .otherwise = ReadingKind::sample, .counting = stored.columns.counting});
  const Quantities found = quantify(stored.curve, samples);
  std::vector<std::string_view> flags;
  for (const Quantified& q : found.unknowns) flags.push_back(name(q.flag));
  EXPECT_EQ(flags, (std::vector<std::string_view>{"", "below the quantitation limit", "not detected", "not detected",
                                                  "above the range"}));
  EXPECT_NEAR(found.unknowns[0].amount.net_signal, (135 + 123) / 20.0, 1e-12);
  EXPECT_NEAR(found.unknowns[0].sd_p, std::erfc(std::sqrt(std::pow(12, 2) / 258.0 / 2)), 1e-12) << "Fisher's index";
  // A count of exactly the largest that does not speak is not detected; one more is.
  const DecisionLimits limits = decision_limits(stored.curve, {.exposure = 20});
  for (const double more : {0.0, 1.0}) {
    const Reading reading{.kind = ReadingKind::sample, .signal = (limits.largest_count + more) / 20, .exposure = 20};
    EXPECT_EQ(
        quantify(stored.curve, {.all = {reading}, .are_counts = true}).unknowns[0].flag == AmountFlag::not_detected,
        more == 0);
  }
  EXPECT_THROW((void)quantify(stored.curve, {.all = {{.kind = ReadingKind::sample, .signal = 1}}}), Error);
}

TEST(CountedCalibration, RefusesByNameWhatCountsCantBe) {
  const auto message_of = [](const std::function<void()>& action) {
    try {
      action();
    } catch (const Error& error) {
      return std::string(error.what());
    }
    return std::string("nothing was refused");
  };
  const auto with = [&](double count, double time, Counting counting) {
    const auto table = Table::from_columns(
        {{"A", "", {1, 2, 3}}, {"t", "min", {5, 5, time}}, {"N", "", {10, 20, count}}, {"u", "", {1, 1, 1}}});
    return message_of([&] { (void)readings_of(table, {.amount = "A", .signals = {"N"}, .counting = counting}); });
  };
  const Counting counts{.kind = ResponseKind::counts, .size_column = "t"};
  EXPECT_TRUE(has(with(2.5, 5, counts), "row 3, column 'N': 2.5 is not a whole number"));
  EXPECT_TRUE(has(with(-1, 5, counts), "row 3"));
  EXPECT_TRUE(has(with(30, 0, counts), "row 3, column 'N': an exposure of 0"));
  EXPECT_TRUE(has(with(30, not_a_number, counts), "its exposure is missing"));
  EXPECT_TRUE(has(with(1, 5, {.kind = ResponseKind::events}), "events among trials"));
  const auto refused = [&](CalibrationOptions options) {
    return message_of([&] { (void)calibrate(tracer(), options); });
  };
  EXPECT_TRUE(has(refused({.blank = BlankUse::subtract}), "can't be subtracted from counts"));
  EXPECT_TRUE(has(refused({.scatter = {SignalScatter::Kind::both}}), "spread is given"));
  EXPECT_TRUE(has(refused({.limits = {.exposure = 0}}), "to be counted for 0"));
  EXPECT_TRUE(has(refused({.limits = {.exposure = infinity}}), "to be counted for inf"));
  Readings uncertain = tracer();
  uncertain.all[0].amount_uncertainty = 0.1;
  EXPECT_TRUE(has(message_of([&] { (void)calibrate(uncertain); }), "uncertain amounts of the standards"));
  EXPECT_TRUE(has(message_of([&] { (void)standard_additions(tracer(), {}); }), "measured signals"));
  Readings measured = tracer();
  measured.are_counts = false;
  EXPECT_TRUE(has(message_of([&] { (void)joined(measured, tracer()); }), "are counts"));
  EXPECT_TRUE(has(message_of([&] { (void)calibrate(measured, {.scatter = {SignalScatter::Kind::counted}}); }),
                  "given as counts"));
}

// Cochran's rule: at most a fifth of the expected numbers below 5, of readings for their scatter, of levels for the
// line.
TEST(CountedCalibration, TestsWhereCountsAreLargeEnough) {
  struct Case {
    double first, second;
    bool scatter, lack;
  };
  for (const Case& c : {Case{3, 8, true, true}, Case{3, 4, false, true}, Case{2, 8, true, true}, Case{1, 8, true, true},
                        Case{5, 5, true, true}, Case{1, 2, false, false}}) {
    SCOPED_TRACE(fmt::format("{} and {} counts", c.first, c.second));
    Readings readings{.amount = {"x", ""}, .signal = {"N", ""}, .are_counts = true};
    for (const double count : {c.first, c.second, 16.0, 30.0, 62.0}) {
      for (int replicate = 0; replicate < 2; ++replicate)
        add_to(readings, {.amount = count, .signal = count / 4, .exposure = 4});
    }
    const Calibration made =
        calibrate(readings, {.model = Model::written("N = b*x", {"x"}), .limits = {.simulations = 0}});
    EXPECT_EQ(std::isfinite(made.counted_scatter.p), c.scatter);
    EXPECT_EQ(std::isfinite(made.linearity.lack_of_fit_p), c.lack);
    if (c.lack)
      EXPECT_DOUBLE_EQ(made.linearity.lack_of_fit_p,
                       chi_squared_upper(made.linearity.lack_of_fit_f, static_cast<double>(made.levels.size()) - 1));
  }
}

// Without blanks the curve says at amount 0 what a blank would count.
TEST(CountedLimits, WithoutBlanksAreThoseOfTheCurve) {
  Readings readings = tracer();
  std::erase_if(readings.all, [](const Reading& r) { return r.kind == ReadingKind::blank; });
  for (Reading& reading : readings.all) reading.signal += 3;  // a background
  const Calibration c = calibrate(readings, {.limits = {.exposure = 5, .simulations = 0}});
  const double a = c.parameters[0].value;
  const double b = c.parameters[1].value;
  ASSERT_GT(a, 1);
  for (const auto& [kind, ratio] :
       {std::pair{LimitRouteKind::counts_paired_blank, 2.0}, {LimitRouteKind::counts_known_blank, 1.0}}) {
    const auto route =
        std::find_if(c.limits.begin(), c.limits.end(), [k = kind](const LimitRoute& r) { return r.route == k; });
    ASSERT_NE(route, c.limits.end());
    const CountingLimits counts = counting_limits_exact(5 * a, ratio, 0.05, 0.05);
    EXPECT_NEAR(route->critical / (counts.critical / 5 / b), 1, 1e-6);
    EXPECT_NEAR(route->detection / (counts.detection / 5 / b), 1, 1e-6);
    EXPECT_EQ(route->rests_on.substr(0, 47), "the curve at amount 0, as there are no blanks: ");
    EXPECT_TRUE(has(route->rests_on, rounded(5 * a, 3) + " expected"));
  }
}

// Replicates, and the readings of a sample, that scatter more than counts do: chi-squared of their rates.
// A curve from amount 0 on is not extrapolated there; one that begins above it is, with blanks that are no part of it
// or without any.
TEST(CountedLimits, SayWhetherTheCurveIsExtrapolatedToZero) {
  const auto said = [](const std::vector<double>& amounts) {
    Readings readings{.amount = {"x", ""}, .signal = {"N", ""}, .are_counts = true};
    for (std::size_t i = 0; i < amounts.size(); ++i)
      add_to(readings, {.amount = amounts[i],
                        .signal = std::round(40 + 90 * amounts[i]) + static_cast<double>(i % 3),
                        .exposure = 1});
    bool found = false;
    for (const LimitRoute& route : calibrate(readings, {.limits = {.simulations = 0}}).limits) {
      for (const std::string& remark : route.remarks)
        found = found || remark.find("extrapolated to amount 0") != std::string::npos;
    }
    return found;
  };
  EXPECT_FALSE(said({0, 0, 1, 1, 2, 2, 4, 4}));
  EXPECT_TRUE(said({0.5, 0.5, 1, 1, 2, 2, 4, 4}));
}

TEST(CountedCalibration, SaysWhereCountsScatterMoreThanCounts) {
  for (const double spread : {0.6, 2.0}) {  // of pairs about their mean, in roots of that
    Readings readings{.amount = {"x", ""}, .signal = {"N", ""}, .are_counts = true};
    for (const double root : {10.0, 15.0, 20.0, 25.0}) {
      for (const double off : {-spread, spread})
        add_to(readings, {.amount = root * root / 4, .signal = root * (root + off) / 4, .exposure = 4});
    }
    const Calibration c =
        calibrate(readings, {.model = Model::written("N = b*x", {"x"}), .limits = {.simulations = 0}});
    EXPECT_NEAR(c.counted_scatter.statistic, 8 * spread * spread, 1e-9);
    EXPECT_EQ(c.counted_scatter.degrees_of_freedom, 4);
    EXPECT_FALSE(c.readings_tested);
    EXPECT_NEAR(c.counted_scatter.p, chi_squared_upper(c.counted_scatter.statistic, 4), 1e-12);
    const bool more = spread > 1;
    const std::string said = c.suggestion.text();
    EXPECT_EQ(said.starts_with("The replicates scatter more than counts do (chi-squared "), more) << said;
    EXPECT_EQ(said.starts_with("No scatter beyond that of counts is detected (chi-squared "), !more) << said;
    const auto sample = [](double off) {
      return Readings{.all = {{.kind = ReadingKind::sample, .signal = 50 - off / 4, .exposure = 4, .sample = "B1"},
                              {.kind = ReadingKind::sample, .signal = 50 + off / 4, .exposure = 4, .sample = "B1"}},
                      .signal = {"N", ""},
                      .are_counts = true};
    };
    for (const double off : {15.0, 60.0}) {
      const Quantities q = quantify(c.curve, sample(off));
      EXPECT_NEAR(q.unknowns[0].sd_p, chi_squared_upper(2 * off * off / 200, 1), 1e-9);
      const auto names = [](const std::string& remark) {
        return remark.starts_with("The counts of 'B1' scatter more than counts do (p = ");
      };
      EXPECT_EQ(std::count_if(q.remarks.begin(), q.remarks.end(), names), off > 20 ? 1 : 0);
    }
  }
}

// A limit is given up to three times the standards' range: beyond it the curve is not known.
TEST(CountedCalibration, HasNoLimitFarBeyondItsStandards) {
  for (const double seconds : {1.0, 2000.0}) {
    Readings readings{.amount = {"x", ""}, .signal = {"N", ""}, .are_counts = true};
    for (int row = 0; row < 220; ++row)
      add_to(readings,
             {.amount = static_cast<double>(row % 11), .signal = 1000.0 + 3 * (row % 11), .exposure = seconds});
    const Calibration made = calibrate(readings, {.limits = {.simulations = 0}});
    const LimitRoute& limits = made.limits.back();
    // Currie: 2 k sqrt(b) where the background b is known, and more where it is not.
    const double least = 3.29 * std::sqrt(1000 / seconds) / 3;
    EXPECT_EQ(std::isfinite(limits.detection), seconds > 1) << limits.detection;
    if (seconds > 1) EXPECT_TRUE(limits.detection > least && limits.detection < 2 * least) << limits.detection;
  }
}

// A pole below the standards is no amount.
TEST(CountedCalibration, ReadsNothingAtAPole) {
  Readings readings{.amount = {"x", ""}, .signal = {"N", ""}, .are_counts = true};
  for (int x = 0; x <= 10; ++x)
    add_to(readings, {.amount = 1.0 * x, .signal = std::round(4e4 * (x + 1) / (x + 3)) / 40, .exposure = 40});
  const Calibration c =
      calibrate(readings, {.model = Model::written("N = a*(x + c)/(x + k)"), .limits = {.simulations = 0}});
  ASSERT_NEAR(c.fit.parameter("k").value, 3, 0.1);
  const Amount read = amount_of(c.curve, {.signals = {300}, .exposures = {40}});
  EXPECT_NEAR(read.amount, -1.0 / 7, 0.01);
  EXPECT_TRUE(read.other_amounts.empty());
}

// Few counts, none, equal ones, no replicates: numbers or words, never a fault.
TEST(CountedCalibration, HoldsOnDegenerateCounts) {
  const auto of = [](const std::vector<double>& amounts, const std::vector<double>& counts, const char* model) {
    Readings readings{.amount = {"x", ""}, .signal = {"N", ""}, .are_counts = true};
    for (std::size_t i = 0; i < amounts.size(); ++i)
      add_to(readings, {.amount = amounts[i], .signal = counts[i] / 4, .exposure = 4});
    CalibrationOptions options{.limits = {.simulations = 20}};
    if (model != nullptr) options.model = Model::written(model, {"x"});
    return calibrate(readings, options);
  };
  const Calibration few = of({0, 1, 2, 3}, {0, 1, 0, 8}, nullptr);
  EXPECT_TRUE(std::isnan(few.counted_scatter.p));
  EXPECT_TRUE(std::isnan(few.linearity.lack_of_fit_p)) << "too few counts for a chi-squared distribution";
  EXPECT_TRUE(has(few.suggestion.text(), "Without replicates"));
  const Calibration origin = of({1, 2, 4, 8}, {4, 8, 16, 32}, "N = b*x");
  EXPECT_NEAR(origin.chi_squared, 0, 1e-9);
  EXPECT_EQ(origin.limits.back().critical, 0) << "nothing is expected at amount 0: one count speaks";
  EXPECT_NEAR(amount_of(origin.curve, {.signals = {0}, .exposures = {4}}).amount, 0, 1e-9);
  const Calibration falling = of({0, 1, 2, 3}, {90, 60, 40, 30}, "N = A*exp(-b*x)");
  EXPECT_TRUE(falling.limits.empty());
  EXPECT_NEAR(amount_of(falling.curve, {.signals = {12.0}, .exposures = {4}}).amount, 1.6, 0.2);
  EXPECT_THROW((void)of({0, 1, 2, 3}, {0, 0, 0, 0}, nullptr), Error);
  EXPECT_THROW((void)of({1, 1, 1, 1}, {4, 5, 6, 7}, nullptr), Error);
  EXPECT_THROW((void)of({0, 1, 2, 3}, {5, 5, 5, 5}, nullptr), Error) << "a slope of zero";
}

// Counts far beyond those whose sums can be written down: intervals and limits are those of the normal distribution.
TEST(CountedCalibration, HoldsForVeryManyCounts) {
  for (const double count : {3e6, 3e8, 4e15}) {
    const Interval interval = exact_interval(ResponseKind::counts, count, 2, 0.95);
    const double half = 1.9599639845400545 * std::sqrt(count);
    EXPECT_NEAR((interval.low * 2 - count) / half, -1, 3 / std::sqrt(count) + 1e-6) << count;
    EXPECT_NEAR((interval.high * 2 - count) / half, 1, 3 / std::sqrt(count) + 1e-6) << count;
    const Interval share = exact_interval(ResponseKind::events, count / 4, count, 0.95);
    const double sd = std::sqrt(0.25 * 0.75 / count);
    EXPECT_NEAR((share.high - 0.25) / (1.9599639845400545 * sd), 1, 3 / std::sqrt(count) + 1e-6) << count;
    EXPECT_NEAR((share.low - 0.25) / (1.9599639845400545 * sd), -1, 3 / std::sqrt(count) + 1e-6) << count;
  }
  // Of very many trials with few events the interval is that of counts, and of few without the mirror image.
  EXPECT_NEAR(exact_interval(ResponseKind::events, 3, 1e12, 0.95).high * 1e12,
              exact_interval(ResponseKind::counts, 3, 1, 0.95).high, 1e-6);
  EXPECT_NEAR((1 - exact_interval(ResponseKind::events, 1e12 - 3, 1e12, 0.95).low) * 1e12,
              exact_interval(ResponseKind::counts, 3, 1, 0.95).high, 1e-3);
  Readings readings{.amount = {"x", ""}, .signal = {"N", ""}, .are_counts = true};
  RandomNumbers random(3);
  const ObservationModel counts = ObservationModel::counts();
  for (const double amount : {0.0, 1.0, 2.0, 4.0})
    add_to(readings,
           {.amount = amount, .signal = counts.kernel().draw(1e12 * (1 + amount), 100, random), .exposure = 100});
  const Calibration c = calibrate(readings, {.limits = {.simulations = 0}});
  const Amount found = amount_of(c.curve, {.signals = {3e12}, .exposures = {100}});
  const double u =
      std::hypot(std::sqrt(3e12 / 100), curve_at(c.curve.estimate, found.amount).standard_uncertainty) / 1e12;
  EXPECT_NEAR(found.interval.high - found.amount, 1.96 * u, 0.001 * u);
  EXPECT_NEAR(found.amount - found.interval.low, 1.96 * u, 0.001 * u);
  const CountingLimits many = counting_limits_exact(2e6, 2, 0.05, 0.05);
  EXPECT_EQ(many.detection, counting_limits(2e6, 2, 0.05, 0.05).detection);
  // A blank counted almost without an end is a known one.
  EXPECT_NEAR(counting_limits_exact(20, 1 + 1e-9, 0.05, 0.05).detection,
              counting_limits_exact(20, 1, 0.05, 0.05).detection, 1e-9);
  // Draws of very many trials and counts have their mean and scatter.
  double sum = 0, squares = 0;
  constexpr int draws = 2000;
  for (int i = 0; i < draws; ++i) {
    const double z =
        (ObservationModel::events().kernel().draw(0.25, 1e10, random) - 0.25) / std::sqrt(0.25 * 0.75 / 1e10);
    sum += z;
    squares += z * z;
  }
  EXPECT_NEAR(sum / draws, 0, 4 / std::sqrt(draws));
  EXPECT_NEAR(squares / draws, 1, 4 * std::sqrt(2.0 / draws));
}

}  // namespace
}  // namespace truecurve
