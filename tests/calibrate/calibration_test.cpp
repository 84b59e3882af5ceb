// Calibrations against published cases, closed forms and generalised least squares written out.
#include <truecurve/io/calibration_record.hpp>
#include <truecurve/io/csv.hpp>

#include "../claims/claims.hpp"
#include "../support.hpp"

#include <Eigen/LU>

namespace truecurve {
namespace {

using Eigen::Index;

Readings readings_of_case(const std::string& name) {
  return readings_of(test::case_table(test::reference_case("metrology", name)), {.amount = "x", .signals = {"y"}});
}

Readings standards(const std::vector<std::pair<double, double>>& points) {
  Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
  for (const auto& [amount, signal] : points) add_to(readings, {.amount = amount, .signal = signal});
  return readings;
}

// Replicates of each amount.
Readings replicates(const std::vector<std::pair<double, std::vector<double>>>& levels) {
  Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
  for (const auto& [amount, signals] : levels)
    for (const double signal : signals) add_to(readings, {.amount = amount, .signal = signal});
  return readings;
}

const CalibrationOptions quick{.limits = {.simulations = 0}};

// How a scatter grows from a constant can be told by replicates that differ, at three levels, in sufficient number: of
// a line without blanks 18 readings leave the 16 degrees of freedom that are needed.
TEST(Weights, NeedReplicatesThatTell) {
  const auto message = [](int levels, int replicates, double scatter, int left_out = 0) {
    RandomNumbers random(3);
    Readings readings = standards({});
    for (int level = 1; level <= levels; ++level) {
      for (int k = 0; k < replicates; ++k)
        add_to(readings, {.amount = static_cast<double>(level), .signal = 2.0 * level + scatter * random.normal()});
    }
    readings.all.resize(readings.all.size() - static_cast<std::size_t>(left_out));
    try {
      (void)calibrate(readings, {.scatter = {SignalScatter::Kind::both}, .limits = {.simulations = 0}});
    } catch (const Error& error) {
      return std::string(error.message());
    }
    return std::string();
  };
  EXPECT_TRUE(has(message(2, 9, 0.1), "needs replicates at three levels or more"));
  EXPECT_TRUE(has(message(9, 1, 0.1), "needs replicates at three levels or more"));
  EXPECT_TRUE(has(message(4, 6, 0), "the replicates of each level are equal"));
  EXPECT_TRUE(message(3, 6, 0.1, 1)
                  .starts_with("17 readings of standards and blanks leave 15 degrees of freedom to tell how the "
                               "scatter grows from a constant, and 16 are needed (10 with 5 blanks or more)"));
  EXPECT_EQ(message(3, 6, 0.1), "");
}

// ISO 5725-2, tables of critical values at 5 % and 1 %, within one of the last printed digit.
TEST(Levels, GiveTheCriticalValuesOfTheStandard) {
  struct Grubbs {
    double n, at_5, at_1;
  };
  for (const auto& [n, at_5, at_1] : {Grubbs{4, 1.481, 1.496}, Grubbs{5, 1.715, 1.764}, Grubbs{6, 1.887, 1.973},
                                      Grubbs{8, 2.126, 2.274}, Grubbs{10, 2.290, 2.482}, Grubbs{20, 2.709, 3.001}}) {
    EXPECT_GT(grubbs_p(at_5 - 0.0011, n), 0.05) << n;
    EXPECT_LT(grubbs_p(at_5 + 0.0011, n), 0.05) << n;
    EXPECT_GT(grubbs_p(at_1 - 0.0011, n), 0.01) << n;
    EXPECT_LT(grubbs_p(at_1 + 0.0011, n), 0.01) << n;
  }
  struct Cochran {
    double levels, n, at_5;
  };
  for (const auto& [levels, n, at_5] :
       {Cochran{3, 2, 0.967}, Cochran{10, 2, 0.602}, Cochran{5, 3, 0.684}, Cochran{10, 3, 0.445}, Cochran{8, 4, 0.438},
        Cochran{4, 4, 0.684}, Cochran{6, 5, 0.480}, Cochran{10, 5, 0.331}}) {
    EXPECT_GT(cochran_p(at_5 - 0.0015, levels, n), 0.05) << levels << " " << n;
    EXPECT_LT(cochran_p(at_5 + 0.0015, levels, n), 0.05) << levels << " " << n;
  }
}

// Simulated levels, rounded or not: each test errs about as often as it says, all together no oftener, and fans are
// found.
TEST(Levels, TestsErrAsOftenAsTheySay) {
  struct Design {
    int levels, replicates;
    double step;  // of the readings, in standard deviations
  };
  const int sets = test::simulated_sets(60, 2000);
  for (const auto& [levels, replicates, step] :
       {Design{4, 2, 0}, Design{10, 2, 0}, Design{6, 3, 0}, Design{6, 5, 0}, Design{10, 5, 0}, Design{6, 2, 0.5},
        Design{6, 3, 0.5}, Design{6, 3, 2}, Design{8, 4, 1}}) {
    RandomNumbers random(6);
    test::Claims claims;
    const std::string design = fmt::format("{} x {}, step {}", levels, replicates, step);
    int found = 0;
    for (int set = 0; set < sets; ++set) {
      std::vector<Reading> equal, rising;
      for (int level = 0; level < levels; ++level) {
        for (int i = 0; i < replicates; ++i) {
          const double z = random.normal();
          const double y = 10.37 * (1 + level) + z;
          equal.push_back({.amount = 1.0 + level, .signal = step > 0 ? step * std::round(y / step) : y});
          rising.push_back({.amount = 1.0 + level, .signal = 10.0 * (1 + level) * (1 + 0.05 * z)});
        }
      }
      const LevelTests tests = test_levels(levels_of(equal));
      const EqualScatter& e = tests.equal_scatter;
      // Of rounded readings p jumps: the tests then err less often, never more.
      const double within = step > 0 ? 5 : 0.5;
      if (std::isnan(e.family_p)) continue;  // no reading of any level differs
      claims.count(design, 1, {"Cochran", 0.05, within + 1}, e.cochran_p < 0.05);
      claims.count(design, 1, {"high to low", 0.05, within}, e.high_to_low_p < 0.05);
      if (replicates > 2) claims.count(design, 1, {"Brown-Forsythe", 0.05, within}, e.brown_forsythe_p < 0.05);
      claims.count(design, 1, {"any", unequal_scatter + far_reading, 1}, !e.is_equal || !tests.suspicious.empty());
      found += !test_levels(levels_of(rising)).equal_scatter.is_equal;
    }
    claims.expect();
    if (levels * replicates >= 30) EXPECT_GT(found, 0.7 * sets) << design;
  }
}

// Numbers that must not be: three readings of which two are equal are no outlier, whatever the third; the largest
// statistic is (n - 1)/sqrt(n). A mistyped reading among duplicates is found; equal duplicates are no alarm.
TEST(Levels, TestsKnowTheStepOfTheReadings) {
  EXPECT_NEAR(resolution_of(std::vector<double>{1.2 - 1.0 / 3, 1.5 - 1.0 / 3, 2.4 - 1.0 / 3, 0.9 - 1.0 / 3}), 0.3,
              1e-12);
  EXPECT_NEAR(resolution_of(std::vector<double>{1e9, 1.02e9, 1.05e9}), 1e7, 1);
  EXPECT_LT(resolution_of(std::vector<double>{std::sqrt(2.0), std::sqrt(3.0), std::exp(1.0)}), 1e-6);
  EXPECT_EQ(resolution_of(std::vector<double>{4, 4, 4}), 0);
  const Readings two_equal = replicates({{1, {2.1, 2.1, 2.2}}, {2, {4.0, 4.2, 4.1}}, {3, {6.0, 6.2, 6.1}}});
  EXPECT_TRUE(test_levels(levels_of(two_equal.all)).suspicious.empty());
  EXPECT_GT(test_levels(levels_of(two_equal.all)).equal_scatter.family_p, 0.2);
  const Readings mistyped = replicates({{1, {2.10, 2.13}}, {2, {4.05, 4.01}}, {3, {6.02, 0.611}}, {4, {8.07, 8.11}}});
  const LevelTests tests = test_levels(levels_of(mistyped.all));
  ASSERT_EQ(tests.suspicious.size(), 1u);
  EXPECT_EQ(tests.suspicious[0].amount, 3);
  EXPECT_FALSE(tests.equal_scatter.is_equal);
  EXPECT_TRUE(std::isnan(tests.equal_scatter.brown_forsythe_p));
  const Readings equal = replicates({{1, {2.1, 2.1}}, {2, {4.0, 4.1}}, {3, {6.0, 6.0}}, {4, {8.1, 8.0}}});
  EXPECT_GT(test_levels(levels_of(equal.all)).equal_scatter.cochran_p, 0.2);
  EXPECT_TRUE(test_levels(levels_of(equal.all)).equal_scatter.is_equal);
  // In a thousandth of the unit both the scatter and the step are a thousandth.
  const Readings coarse = replicates({{1, {21, 24, 22}}, {2, {40, 49, 41}}, {3, {60, 61, 62}}});
  Readings fine = coarse;
  for (Reading& reading : fine.all) reading.signal /= 1000;
  const LevelTests as_read = test_levels(levels_of(coarse.all));
  const LevelTests in_thousandths = test_levels(levels_of(fine.all));
  EXPECT_NEAR(in_thousandths.resolution, as_read.resolution / 1000, 1e-12);
  EXPECT_NEAR(in_thousandths.equal_scatter.family_p, as_read.equal_scatter.family_p, 1e-9);
  EXPECT_NEAR(in_thousandths.equal_scatter.cochran_p, as_read.equal_scatter.cochran_p, 1e-9);
}

// The order of the levels does not matter; a statistic beyond all of the 1999 simulated ones has p = 1/2000.
TEST(Levels, AreTestedInAnyOrder) {
  const Readings unequal = replicates({{1, {2.013, 2.134, 1.988, 2.077, 2.391}}, {2, {4.02, 4.19}}, {3, {6.1, 6.35}}});
  Readings reversed = unequal;
  for (Reading& r : reversed.all) r.amount = -r.amount;
  const EqualScatter one = test_levels(levels_of(unequal.all)).equal_scatter;
  const EqualScatter other = test_levels(levels_of(reversed.all)).equal_scatter;
  EXPECT_NEAR(one.cochran, other.cochran, 1e-12);
  EXPECT_NEAR(one.cochran_p, other.cochran_p, 0.02);
  EXPECT_NEAR(one.high_to_low, 1 / other.high_to_low, 1e-12);
  EXPECT_NEAR(one.high_to_low_p, other.high_to_low_p, 1e-12);
  // Of rounded readings p is a share of the simulated ones.
  const Readings rounded = replicates({{1, {1, 2, 1}}, {2, {4, 5, 4}}, {3, {7, 12, 8}}});
  const double times = 2000 * test_levels(levels_of(rounded.all)).equal_scatter.cochran_p;
  EXPECT_NEAR(times, std::round(times), 1e-9);
  const Readings wild = replicates({{1, {1, 2, 1}}, {2, {4, 5, 4}}, {3, {7, 9000}}});
  EXPECT_NEAR(test_levels(levels_of(wild.all)).equal_scatter.cochran_p, 1.0 / 2000, 1e-12);
}

// The probability of all tests of scatter together lies between the least of them and their sum (Bonferroni).
TEST(Levels, HaveAProbabilityOfAllTests) {
  RandomNumbers random(12);
  for (int set = 0; set < 60; ++set) {
    Readings readings = standards({});
    for (int i = 0; i < 24; ++i)
      add_to(readings, {.amount = 1.0 + i / 4, .signal = i / 4 + (1 + 0.4 * (i / 4 % 3)) * random.normal()});
    const EqualScatter e = test_levels(levels_of(readings.all)).equal_scatter;
    const double least = std::min({e.cochran_p, e.brown_forsythe_p, e.high_to_low_p});
    EXPECT_GT(e.family_p, 0.8 * least - 0.01) << set;
    EXPECT_LT(e.family_p, 3.2 * least + 0.01) << set;
  }
  const Readings still = replicates({{1, {2, 2}}, {2, {4, 4.2}}, {3, {6, 6}}});
  EXPECT_TRUE(std::isnan(test_levels(levels_of(still.all)).equal_scatter.high_to_low)) << "nothing over nothing";
  const Readings one = replicates({{1, {2.013, 2.134, 1.988, 2.077, 2.391}}});
  EXPECT_TRUE(std::isnan(test_levels(levels_of(one.all)).equal_scatter.cochran));
}

// A reading below 5 % is a straggler, below 1 % an outlier (ISO 5725-2): one that is moved out in small steps.
TEST(Levels, GradeByOneAndFivePercent) {
  int just_above = 0, outliers = 0;
  for (int step = 0; step < 300; ++step) {
    const double off = 0.3 + 0.004 * step;
    const Readings moved =
        replicates({{1, {2.113, 2.047, 1.982, 2.021, 2.061}}, {2, {4.013, 3.957, 4.018, 4.066, 4.0 + off}}});
    for (const Suspicion& s : test_levels(levels_of(moved.all)).suspicious) {
      EXPECT_EQ(s.grade, s.p < 0.01 ? Grade::outlier : Grade::straggler) << s.p;
      EXPECT_LT(s.p, 0.05);
      EXPECT_LT(s.family_p, s.test == Suspicion::Test::cochran ? unequal_scatter : far_reading) << "among all tested";
      EXPECT_GT(s.family_p, 0.5 * s.p - 1e-3);
      just_above += s.p > 0.01 && s.p < 0.011;
      outliers += s.p < 0.01;
    }
  }
  EXPECT_GT(just_above, 0);
  // Bonferroni's bounds end at 1.
  EXPECT_EQ(cochran_p(0.26, 4, 3), 1);
  EXPECT_EQ(grubbs_p(0.6, 3), 1);
  // A statistic at its end, or by rounding a little beyond, has no probability.
  const double largest = 2 / std::sqrt(3.0);
  EXPECT_LT(grubbs_p(largest, 3), 1e-7);
  EXPECT_EQ(grubbs_p(largest * (1 + 1e-15), 3), 0);
  for (const double statistic : {1.0, 1 + 1e-15}) EXPECT_EQ(cochran_p(statistic, 4, 3), 0);
  EXPECT_GT(outliers, 0);
}

// The F of |y - median| between levels, from its sums; and the variance function against a fine search.
TEST(Levels, ScatterIsWhatTheFormulasSay) {
  const Readings readings = replicates({{1, {2.0, 2.3, 1.9}}, {2, {4.0, 4.9, 3.6, 4.1}}, {3, {6.5, 5.1, 6.9}}});
  const std::vector<CalibrationLevel> levels = levels_of(readings.all);
  const std::vector<std::vector<double>> z = {{0, 0.3, 0.1}, {0.05, 0.85, 0.45, 0.05}, {0, 1.4, 0.4}};
  double total = 0;
  for (const auto& group : z) total = std::accumulate(group.begin(), group.end(), total);
  double between = 0, within = 0;
  for (const auto& group : z) {
    const auto n = static_cast<double>(group.size());
    const double mean = std::accumulate(group.begin(), group.end(), 0.0) / n;
    between += n * std::pow(mean - total / 10, 2);
    for (const double value : group) within += std::pow(value - mean, 2);
  }
  EXPECT_NEAR(test_levels(levels).equal_scatter.brown_forsythe, between / 2 / (within / 7), 1e-12);
  // Of the first two levels, and where the lower of two does not scatter at all.
  const double mean_of_two = 1.8 / 7;
  const double between_two = 3 * std::pow(0.4 / 3 - mean_of_two, 2) + 4 * std::pow(0.35 - mean_of_two, 2);
  double within_two = 0;
  for (const double d : z[0]) within_two += std::pow(d - 0.4 / 3, 2);
  for (const double d : z[1]) within_two += std::pow(d - 0.35, 2);
  EXPECT_NEAR(test_levels(std::span(levels).first(2)).equal_scatter.brown_forsythe, between_two / (within_two / 5),
              1e-12);
  const Readings unequal = replicates({{1, {2, 2.3, 2.1}}, {2, {4.1, 3.5, 4, 4.4, 3.6}}});
  const std::vector<CalibrationLevel> two = levels_of(unequal.all);
  EXPECT_NEAR(test_levels(two).equal_scatter.high_to_low, std::pow(two[1].sd / two[0].sd, 2), 1e-12);
  EXPECT_TRUE(variance_functions(levels_of(standards({{1, 2}, {1, 2}, {2, 4}, {2, 4}}).all)).empty());
  const Readings exact = replicates({{1, {2, 2, 2}}, {2, {4.1, 3.9, 4}}});
  EXPECT_EQ(test_levels(levels_of(exact.all)).equal_scatter.high_to_low, infinity);
  const Readings exact_above = replicates({{1, {2.1, 2, 1.9}}, {2, {4, 4, 4}}});
  EXPECT_EQ(test_levels(levels_of(exact_above.all)).equal_scatter.high_to_low, 0);
  const VarianceFunction best = variance_functions(levels)[2];
  const auto deviance = [&levels](double s0, double k) {
    double sum = 0;
    for (const CalibrationLevel& l : levels) {
      const double v = s0 * s0 + k * k * l.mean * l.mean;
      sum += (static_cast<double>(l.readings.size()) - 1) * (std::log(v) + l.sd * l.sd / v);
    }
    return sum;
  };
  for (double s0 = 1e-3; s0 < 1; s0 *= 1.1) {
    for (double k = 1e-3; k < 1; k *= 1.1) EXPECT_GE(deviance(s0, k), -2 * best.log_likelihood - 1e-9);
  }
  EXPECT_NEAR(deviance(best.constant, best.slope), -2 * best.log_likelihood, 1e-9);
  // Above a blank the same as of levels that are lower by it.
  std::vector<CalibrationLevel> lower = levels;
  for (CalibrationLevel& l : lower) {
    l.mean -= 0.7;
    for (Reading& r : l.readings) r.signal -= 0.7;
  }
  const VarianceFunction above_blank = variance_functions(levels, 0.7)[2];
  EXPECT_NEAR(above_blank.slope, variance_functions(lower)[2].slope, 1e-9);
  EXPECT_NEAR(above_blank.log_likelihood, variance_functions(lower)[2].log_likelihood, 1e-9);
  for (const VarianceFunction& f : variance_functions(levels, levels[1].mean))
    EXPECT_NE(f.form, VarianceFunction::Form::proportional) << "a level at the blank has no share";
  // Akaike's criterion, n the number of levels, which must be more than the numbers of a function and one.
  ASSERT_EQ(variance_functions(levels).size(), 3u);
  EXPECT_NEAR(variance_functions(levels)[0].aicc, 2 - 2 * variance_functions(levels)[0].log_likelihood + 4, 1e-12);
  EXPECT_TRUE(std::isnan(best.aicc));
  const Readings five = replicates({{1, {2.0, 2.3}}, {2, {4.0, 4.9}}, {3, {6.5, 5.1}}, {4, {8.9, 7.2}}, {5, {9, 11}}});
  const VarianceFunction of_five = variance_functions(levels_of(five.all))[2];
  EXPECT_NEAR(of_five.aicc, 4 - 2 * of_five.log_likelihood + 6, 1e-12);
  // Two levels tell no function of two numbers.
  for (const VarianceFunction& f : variance_functions(std::span(levels).first(2)))
    EXPECT_NE(f.form, VarianceFunction::Form::both);
  EXPECT_EQ(variance_functions(std::span(levels).first(2)).size(), 2u);
  // The scatter, and that as a share of the signal above a blank, pooled over the levels.
  for (const double blank : {0.0, 0.7}) {
    double degrees = 0, squares = 0, shares = 0;
    for (const CalibrationLevel& l : levels) {
      const double n = static_cast<double>(l.readings.size()) - 1;
      degrees += n;
      squares += n * l.sd * l.sd;
      shares += n * std::pow(l.sd / (l.mean - blank), 2);
    }
    const std::vector<VarianceFunction> functions = variance_functions(levels, blank);
    EXPECT_NEAR(functions[0].constant, std::sqrt(squares / degrees), 1e-12);
    EXPECT_EQ(functions[0].slope, 0);
    EXPECT_EQ(functions[1].constant, 0);
    EXPECT_NEAR(functions[1].slope, std::sqrt(shares / degrees), 1e-12);
    EXPECT_NEAR(functions[1].at(3), 3 * functions[1].slope, 1e-12);
    for (const VarianceFunction& f : functions) {  // three variances
      const double k = f.form == VarianceFunction::Form::both ? 2 : 1;
      if (k < 2)
        EXPECT_NEAR(f.aicc, 2 * k - 2 * f.log_likelihood + 2 * k * (k + 1) / (3 - k - 1), 1e-12);
      else
        EXPECT_TRUE(std::isnan(f.aicc));
    }
  }
}

TEST(Amount, AgreesWithPublishedInversePredictions) {
  // EURACHEM/CITAC, example A5: 0.26 mg/L from two readings, u = 0.018.
  const Calibration cadmium = calibrate(readings_of_case("QUAM-A5-cadmium"), quick);
  const double signal = 0.0087 + 0.2410 * 0.26;
  const Amount content = amount_of(cadmium.curve, {.signals = {signal, signal}});
  EXPECT_NEAR(content.amount, 0.26, 1e-9);
  EXPECT_NEAR(content.standard_uncertainty, 0.0178455745670713981788887013701, 1e-9);
  // Miller and Miller: 0.100 and 0.600 read back.
  const Calibration miller = calibrate(readings_of_case("Miller-unweighted"), quick);
  EXPECT_TRUE(test::prints_as(amount_of(miller.curve, {.signals = {0.100}}).amount, "1.20"));
  EXPECT_TRUE(test::prints_as(amount_of(miller.curve, {.signals = {0.600}}).amount, "8.09"));
  // Fieller's interval of that reading in closed form.
  const Amount read = amount_of(miller.curve, {.signals = {0.600, 0.610, 0.590}});
  const Estimate& line = miller.curve.estimate;
  const double t = student_t_quantile(0.975, 4);
  const double s = miller.curve.scatter.scale;
  const double a = line.parameters()[0];
  const double b = line.parameters()[1];
  const auto& c = as_eigen(line.covariance());
  const double p = b * b - t * t * c(1, 1);
  const double q = b * (0.6 - a) + t * t * c(0, 1);
  const double r = (0.6 - a) * (0.6 - a) - t * t * (s * s / 3 + c(0, 0));
  EXPECT_NEAR(read.interval.low, (q - std::sqrt(q * q - p * r)) / p, 1e-9);
  EXPECT_NEAR(read.interval.high, (q + std::sqrt(q * q - p * r)) / p, 1e-9);
  EXPECT_NEAR(read.budget.readings, s / std::sqrt(3.0) / b, 1e-7);
  EXPECT_NEAR(std::hypot(read.budget.readings, read.budget.curve), read.standard_uncertainty, 1e-12);
}

// Where amounts are counted from changes nothing but the amount.
TEST(Amount, MovesWithItsAxis) {
  const double off[] = {0.3, -0.5, 0.1, 0.4, -0.2, -0.1};
  const auto read = [&off](double from, const char* shape, double signal) {
    Readings readings = standards({});
    for (std::size_t i = 0; i < 6; ++i) {
      const auto x = static_cast<double>(i);
      add_to(readings, {.amount = from + x, .signal = 3 + 2 * x + 0.05 * x * x + 0.2 * off[i]});
    }
    CalibrationOptions options{.model = shape_model(shape, "x", "y"), .limits = {.simulations = 0}};
    return amount_of(calibrate(readings, options).curve, {.signals = {signal}});
  };
  for (const char* shape : {"line", "polynomial(2)"}) {
    for (const double signal : {1.4, 3.6, 8.0, 17.0}) {
      const Amount here = read(0, shape, signal);
      for (const double from : {-2.5, 40.0}) {
        const Amount there = read(from, shape, signal);
        SCOPED_TRACE(fmt::format("{} {} {}", shape, signal, from));
        EXPECT_NEAR(there.amount - from, here.amount, 1e-7);
        EXPECT_NEAR(there.interval.low - from, here.interval.low, 1e-6);
        EXPECT_NEAR(there.interval.high - from, here.interval.high, 1e-6);
        EXPECT_EQ(there.outside_standards, signal < 2.5 || signal > 15);
      }
    }
  }
}

// A signal that falls as another rises gives the same amounts, whatever it scatters by.
TEST(Amount, IsTheSameByASignalTurnedOver) {
  const auto made = [](double sign, SignalScatter scatter) {
    Readings readings = standards({});
    RandomNumbers random(8);
    for (int i = 0; i < 24; ++i) {
      const double amount = 1 + i / 4;
      const double signal = 5 + 4 * amount + std::hypot(0.8, 0.05 * amount) * random.normal();
      add_to(readings, {.amount = amount, .signal = sign * signal});
    }
    return calibrate(readings, {.scatter = scatter, .limits = {.simulations = 0}});
  };
  const auto read = [&made](double sign, SignalScatter scatter) {
    return amount_of(made(sign, scatter).curve, {.signals = {sign * 12, sign * 12.6}});
  };
  for (const SignalScatter scatter : {SignalScatter{}, SignalScatter{SignalScatter::Kind::both}}) {
    const Amount rising = read(1, scatter);
    const Amount falling = read(-1, scatter);
    EXPECT_NEAR(falling.amount / rising.amount, 1, 1e-6);
    EXPECT_NEAR(falling.standard_uncertainty / rising.standard_uncertainty, 1, 1e-5);
    EXPECT_NEAR(falling.interval.low / rising.interval.low, 1, 1e-5);
    EXPECT_NEAR(falling.interval.high / rising.interval.high, 1, 1e-5);
    const Calibration up = made(1, scatter);
    const Calibration down = made(-1, scatter);
    for (std::size_t i = 0; i < up.limits.size(); ++i)
      EXPECT_NEAR(down.limits[i].detection / up.limits[i].detection, 1, 1e-5) << name(up.limits[i].route);
  }
}

// Above the highest point of a curve a mean of several readings is compatible with it as far as their mean scatters.
TEST(Amount, ComesNearACurveAsItsMeanScatters) {
  Readings readings = standards({});
  const double off[] = {0.2, -0.3, 0.1, 0.3, -0.2, -0.1, 0.25, -0.25};
  for (std::size_t i = 0; i < 8; ++i) {
    const auto x = static_cast<double>(i + 1);
    add_to(readings, {.amount = x, .signal = 10 * x - x * x + off[i]});
  }
  CalibrationOptions options{.model = shape_model("polynomial(2)", "x", "y"), .limits = {.simulations = 0}};
  const CalibrationCurve curve = calibrate(readings, options).curve;
  const auto c = curve.estimate.parameters();
  const double top = -c[1] / (2 * c[2]);
  const CurvePoint at = curve_at(curve.estimate, top);
  const double k = curve.estimate.coverage_factor(0.95);
  for (const std::size_t m : {1u, 4u, 16u}) {
    const double reach =
        k * std::hypot(at.standard_uncertainty, curve.scatter.scale / std::sqrt(static_cast<double>(m)));
    for (const double share : {0.97, 1.03}) {
      const Amount made = amount_of(curve, {.signals = std::vector<double>(m, at.value + share * reach)});
      EXPECT_EQ(std::isnan(made.amount), share > 1) << m;
      if (share < 1) EXPECT_NEAR(made.amount, top, 1e-4) << m;
    }
  }
}

TEST(Amount, SaysWhatCanNotBeRead) {
  // A curve that turns within the standards: the same signal twice.
  Readings readings = standards({});
  for (int i = 0; i <= 10; ++i)
    readings.all.push_back({.amount = 1.0 * i, .signal = 25 - (i - 5.0) * (i - 5.0) + (i % 2 == 0 ? 0.1 : -0.1)});
  CalibrationOptions options{.model = shape_model("polynomial(2)", "x", "y"), .limits = {.simulations = 0}};
  const Calibration curve = calibrate(readings, options);
  const Amount twice = amount_of(curve.curve, {.signals = {16}});
  EXPECT_NEAR(twice.amount, 2, 0.1);
  ASSERT_EQ(twice.other_amounts.size(), 1u);
  EXPECT_NEAR(twice.other_amounts[0], 8, 0.1);
  EXPECT_TRUE(std::isnan(amount_of(curve.curve, {.signals = {80}}).amount));
  const Amount diluted = amount_of(curve.curve, {.signals = {-4}, .dilution = 10, .dilution_uncertainty = 0.01});
  EXPECT_TRUE(diluted.outside_standards);
  EXPECT_NEAR(diluted.budget.dilution, 0.01 * std::abs(diluted.amount), 1e-12);
  for (const Unknown& none :
       {Unknown{}, Unknown{.signals = {16, not_a_number}}, Unknown{.signals = {infinity}},
        Unknown{.signals = {16}, .dilution = 0}, Unknown{.signals = {16}, .dilution = -1},
        Unknown{.signals = {16}, .dilution = not_a_number}, Unknown{.signals = {16}, .dilution_uncertainty = -0.1},
        Unknown{.signals = {16}, .dilution_uncertainty = not_a_number}})
    EXPECT_TRUE(has(test::caught([&] { (void)amount_of(curve.curve, none); }).message(), "an unknown of"));
}

// ISO/TS 28037, errors in both: every printed digit; with exact amounts the ordinary weighted line.
TEST(UncertainStandards, AgreeWithTheStandard) {
  const auto reference = test::reference_cases("calibration").at(0);
  const Table table = test::case_table(reference);
  const Readings readings =
      readings_of(table, {.amount = "x", .signals = {"y"}, .amount_uncertainty = "ux", .signal_uncertainty = "uy"});
  CalibrationOptions options{.scatter = {SignalScatter::Kind::stated}, .limits = {.simulations = 0}};
  const Calibration line = calibrate(readings, options);
  const auto& wanted = reference["certified"];
  const auto prints = [](double got, const nlohmann::json& text) {
    EXPECT_TRUE(test::prints_as(got, text.get<std::string>()));
  };
  const auto& p = wanted["parameters"];
  prints(line.reported.parameters()[0], p["a"]["value"]);
  prints(line.reported.parameters()[1], p["b"]["value"]);
  prints(std::sqrt(line.reported.covariance()(0, 0)), p["a"]["standard_error"]);
  prints(std::sqrt(line.reported.covariance()(1, 1)), p["b"]["standard_error"]);
  prints(line.reported.covariance()(0, 1), wanted["covariance"]);
  prints(line.chi_squared, wanted["chi_squared"]);
  const auto& oracle = reference["oracle"]["parameters"];
  EXPECT_GT(test::digits(line.reported.parameters()[0], oracle["a"]["value"]), 11);
  EXPECT_GT(test::digits(std::sqrt(line.reported.covariance()(1, 1)), oracle["b"]["standard_error"]), 11);
  EXPECT_TRUE(line.has_uncertain_standards);
  // Turned over it is the same line.
  Readings turned = readings;
  for (Reading& r : turned.all) r.signal = -r.signal;
  const Calibration falling = calibrate(turned, options);
  for (std::size_t j = 0; j < 2; ++j)
    EXPECT_NEAR(falling.reported.parameters()[j] / line.reported.parameters()[j], -1, 1e-11);
  EXPECT_NEAR(falling.chi_squared, line.chi_squared, 1e-11);
  const VectorXd x = VectorXd::LinSpaced(6, 1, 6);
  const VectorXd y = (VectorXd(6) << 3.2, 4.3, 7.6, 8.6, 11.7, 12.8).finished();
  const VectorXd u = (VectorXd(6) << 0.5, 0.5, 0.5, 1, 1, 1).finished();
  const auto exact = line_with_uncertain_standards({"x", ""}, {"y", ""}, x, y, VectorXd::Zero(6), u);
  const Fit plain = fit(shape_model("line"), Observations::of(x, y, u));
  EXPECT_NEAR(exact.estimate.parameters()[0], plain.parameter("a").value, 1e-12);
  EXPECT_NEAR(exact.chi_squared, plain.chi_squared(), 1e-11);
  EXPECT_EQ(exact.iterations, 1);
  EXPECT_TRUE(as_eigen(exact.estimate.covariance()).isApprox(as_eigen(plain.estimate().covariance()), 1e-11));
  EXPECT_NEAR(band_at(exact.estimate, VectorXd::Constant(1, 2.5), 0.95)[0].standard_uncertainty,
              band_at(plain.estimate(), VectorXd::Constant(1, 2.5), 0.95)[0].standard_uncertainty, 1e-12);
}

// Limits from one scatter for all levels say so where the levels are found to differ, but for those from repeated
// blanks or samples alone.
TEST(Limits, SayWhereOneScatterDoesNotHold) {
  const auto remarked = [](double growth) {
    const std::vector<double> off = {1, -1.2, 0.7, -0.9, 0.4};
    std::vector<double> amounts, signals;
    double scatter = 0.02;
    for (const double amount : {0.0, 1.0, 2.0, 4.0}) {
      for (std::size_t i = 0; i < off.size(); ++i) {
        amounts.push_back(amount);
        signals.push_back(3 + 10 * amount + scatter * off[i]);
      }
      scatter *= growth;
    }
    Readings readings =
        readings_of(Table::from_columns({{"c", "", amounts}, {"y", "", signals}}), {.amount = "c", .signals = {"y"}});
    add_blanks(readings, {2.97, 3.01, 3.03, 2.99, 3.0});
    const Calibration c = calibrate(readings);
    EXPECT_EQ(c.equal_scatter.is_equal, growth == 1);
    std::size_t count = 0;
    EXPECT_TRUE(std::any_of(c.limits.begin(), c.limits.end(),
                            [](const LimitRoute& route) { return route.route == LimitRouteKind::blank_sd; }));
    for (const LimitRoute& route : c.limits) {
      const bool is_said = std::any_of(route.remarks.begin(), route.remarks.end(), [](const std::string& remark) {
        return remark.starts_with("is based on one scatter for all levels, and the levels differ");
      });
      if (route.route == LimitRouteKind::blank_sd) EXPECT_FALSE(is_said);
      count += is_said;
    }
    return count;
  };
  EXPECT_EQ(remarked(1), 0u);
  EXPECT_GE(remarked(6), 1u);
}

// Equal uncertainties have a closed form (Deming 1943), whichever way the line runs: also where the first step changes
// the slope alone, and downwards.
TEST(UncertainStandards, OfOneUncertaintyHaveAClosedForm) {
  const VectorXd x = (VectorXd(6) << -3, -2, -0.5, 0.5, 2, 3).finished();
  const VectorXd odd = (VectorXd(6) << -3.4, -1.5, -0.9, 0.9, 1.5, 3.4).finished();
  for (const double sign : {1.0, -1.0}) {
    const VectorXd y = sign * 2 * odd;
    const double ux = 0.6, uy = 0.9, ratio = uy * uy / (ux * ux);
    const auto line =
        line_with_uncertain_standards({"x", ""}, {"y", ""}, x, y, VectorXd::Constant(6, ux), VectorXd::Constant(6, uy));
    const double sxx = x.squaredNorm(), syy = y.squaredNorm(), sxy = x.dot(y), d = syy - ratio * sxx;
    const double slope = (d + std::sqrt(d * d + 4 * ratio * sxy * sxy)) / (2 * sxy);
    EXPECT_NEAR(line.estimate.parameters()[1], slope, 1e-10);
    EXPECT_EQ(line.degrees_of_freedom, 4);
    EXPECT_EQ(line.estimate.degrees_of_freedom(), 4);
    const BandPoint at = band_at(line.estimate, Vector{0.7}, 0.95)[0];
    EXPECT_NEAR(at.prediction.high - at.value, normal_quantile(0.975) * std::hypot(at.standard_uncertainty, uy), 1e-9);
    EXPECT_NEAR(line.estimate.parameters()[0], 0, 1e-12);
    EXPECT_NEAR(line.chi_squared, (y - slope * x).squaredNorm() / (uy * uy + slope * slope * ux * ux), 1e-10);
  }
}

// Three readings of a standard share the error of its amount; of three standards they average it. Where nothing else
// matters the variances of the line are three times those of separate ones; where the amounts are known, the same.
TEST(UncertainStandards, AreOneForAllReadingsOfTheirAmountOrSeparate) {
  for (const double u_amount : {0.2, 1e-9}) {
    Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
    const std::vector<double> off = {3, -5, 1, 4, -2, -1, -6, 5, 2, 0, 7, -4};
    for (std::size_t i = 0; i < off.size(); ++i) {
      const double amount = 1 + static_cast<double>(i / 3);
      const double signal = 2 + 3 * amount + 1e-6 * off[i];
      add_to(readings,
             {.amount = amount, .signal = signal, .amount_uncertainty = u_amount, .signal_uncertainty = 1e-5});
    }
    CalibrationOptions options{.scatter = {SignalScatter::Kind::stated}, .limits = {.simulations = 0}};
    const Calibration shared = calibrate(readings, options);
    options.separate_standards = true;
    const Calibration separate = calibrate(readings, options);
    const double ratio = u_amount > 0.1 ? std::sqrt(3) : 1;
    if (u_amount < 0.1) EXPECT_NEAR(shared.chi_squared / separate.chi_squared, 1, 1e-6);
    EXPECT_EQ(shared.degrees_of_freedom, 10);
    EXPECT_EQ(separate.degrees_of_freedom, 10);
    EXPECT_EQ(shared.reported.degrees_of_freedom(), 10);
    EXPECT_EQ(separate.reported.degrees_of_freedom(), 10);
    for (std::size_t j = 0; j < 2; ++j) {
      EXPECT_NEAR(shared.reported.standard_uncertainties()[j] / separate.reported.standard_uncertainties()[j], ratio,
                  1e-7);
    }
  }
}

// An unknown read on such a line, by the law of propagation. A subtracted blank is refused by its name.
TEST(UncertainStandards, AreReadWithTheLinesOwnUncertainty) {
  Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
  const std::vector<double> off = {3, -5, 1, 4, -2, -1};
  for (std::size_t i = 0; i < off.size(); ++i) {
    const double amount = 1 + static_cast<double>(i);
    add_to(readings, {.amount = amount,
                      .signal = 2 + 3 * amount + 0.02 * off[i],
                      .amount_uncertainty = 0.05,
                      .signal_uncertainty = 0.08});
  }
  CalibrationOptions options{.scatter = {SignalScatter::Kind::stated}, .limits = {.simulations = 0}};
  const Calibration plain = calibrate(readings, options);
  const double a = plain.reported.parameters()[0];
  const double b = plain.reported.parameters()[1];
  const Matrix c = plain.reported.covariance();
  const double signal = 12;
  const double amount = (signal - a) / b;
  const double u = std::sqrt(0.08 * 0.08 / 2 + c(0, 0) + amount * amount * c(1, 1) + 2 * amount * c(0, 1)) / b;
  const Amount found = amount_of(plain.curve, {.signals = {signal - 0.1, signal + 0.1}});
  EXPECT_NEAR(found.amount, amount, 1e-9);
  EXPECT_NEAR(found.standard_uncertainty, u, 1e-9);
  EXPECT_NEAR(found.budget.readings, 0.08 / std::sqrt(2) / b, 1e-9);
  EXPECT_EQ(plain.curve.without_blank.standard_uncertainties()[1], std::sqrt(c(1, 1)));
  for (const double blank : {1.8, 2.1, 1.9}) {
    add_to(readings, {.kind = ReadingKind::blank, .signal = blank, .signal_uncertainty = 0.08});
  }
  options.blank = BlankUse::subtract;
  const Error refused = test::caught([&] { (void)calibrate(readings, options); });
  EXPECT_EQ(refused.code(), ErrorCode::not_supported);
  EXPECT_TRUE(has(refused.remedy(), "blank"));
}

// The subtracted blank against generalised least squares with the covariance s² I + u²(blank) 1 1ᵀ written out.
TEST(Blank, IsCarriedAsCovariance) {
  for (const char* shape : {"line", "line-through-origin", "polynomial(2)"}) {
    SCOPED_TRACE(shape);
    Readings readings = replicates({{1, {7.9, 8.3}}, {2, {14.6, 14.1}}, {4, {26.8, 27.4}}, {8, {52.1, 52.9}}});
    add_blanks(readings, {1.5, 2.4, 1.9, 1.7});
    CalibrationOptions options{
        .model = shape_model(shape, "x", "y"), .blank = BlankUse::subtract, .limits = {.simulations = 0}};
    const Calibration c = calibrate(readings, options);
    const bool has_constant = std::string(shape) != "line-through-origin";
    const Index p = as_eigen(c.reported.parameters()).size();
    MatrixXd design(8, p);
    VectorXd net(8);
    for (Index i = 0; i < 8; ++i) {
      const Reading& r = readings.all[static_cast<std::size_t>(i)];
      net[i] = r.signal - 1.875;
      for (Index j = 0; j < p; ++j) design(i, j) = std::pow(r.amount, has_constant ? j : j + 1);
    }
    const double mean_variance = 0.1491666666666667 / 4;  // of the four blanks
    EXPECT_NEAR(c.blank.mean_uncertainty * c.blank.mean_uncertainty, mean_variance, 1e-12);
    const double s = c.curve.estimate.scale();
    const MatrixXd v = s * s * MatrixXd::Identity(8, 8) + MatrixXd::Constant(8, 8, mean_variance);
    const MatrixXd precision = test::inverse(v);
    const MatrixXd covariance = test::inverse(design.transpose().lazyProduct(precision.lazyProduct(design)));
    const VectorXd theta = covariance.lazyProduct(design.transpose().lazyProduct(precision.lazyProduct(net)));
    EXPECT_TRUE(as_eigen(c.reported.parameters()).isApprox(theta, 1e-9)) << theta.transpose();
    for (const ParameterInterval& shown : c.parameters)
      EXPECT_NEAR(shown.t, shown.value / shown.standard_uncertainty, 1e-9 * std::abs(shown.t)) << shown.name;
    EXPECT_TRUE(as_eigen(c.reported.covariance()).isApprox(covariance, 1e-7)) << covariance;
    // A curve through the origin is tested for lack of fit with its offset left free.
    const Fit free = fit(has_constant ? c.fit.model() : shape_model("line", "x", "y"), c.fit.observations());
    EXPECT_NEAR(c.linearity.lack_of_fit_p, lack_of_fit(free)->lack_of_fit.p, 1e-9);
    const BandPoint at = band_at(c.reported, VectorXd::Constant(1, 3), 0.95)[0];
    VectorXd g(p);
    for (Index j = 0; j < p; ++j) g[j] = std::pow(3.0, has_constant ? j : j + 1);
    EXPECT_NEAR(at.standard_uncertainty, std::sqrt(g.dot(covariance.lazyProduct(g))), 1e-8);
    // An unknown read against the same blank: the joint prediction error of net reading and curve, whose covariance is
    // that of a further reading with the same offset. By the block inverse this is GLS prediction (Goldberger 1962).
    const VectorXd common = VectorXd::Constant(8, mean_variance);
    const VectorXd weights = precision.lazyProduct(common);  // best predictor of the offset
    const double offset = weights.dot(net - design.lazyProduct(theta));
    const MatrixXd spread = design.lazyProduct(covariance);
    const MatrixXd h = spread.lazyProduct(design.transpose().lazyProduct(precision));
    const VectorXd row = spread.lazyProduct(g);
    const double predicted = g.dot(theta) + offset;
    const VectorXd l = precision.lazyProduct(VectorXd(row + common - h.lazyProduct(common)));
    const double variance = mean_variance + l.dot(v.lazyProduct(l)) - 2 * l.dot(common);
    const BandPoint reading = band_at(c.curve.estimate, VectorXd::Constant(1, 3), 0.95)[0];
    EXPECT_NEAR(reading.value, predicted, 1e-7);
    EXPECT_NEAR(reading.standard_uncertainty, std::sqrt(variance), 1e-6);
  }
  // A curve that is not linear takes the same way; the offset hardly moves it here.
  Readings readings = standards({{1, 7.9}, {2, 14.6}, {4, 26.8}, {8, 52.1}, {8, 52.9}, {10, 63.9}});
  add_blanks(readings, {1.5, 2.4, 1.9, 1.7});
  CalibrationOptions options{
      .model = shape_model("power", "x", "y"), .blank = BlankUse::subtract, .limits = {.simulations = 0}};
  const Calibration power = calibrate(readings, options);
  EXPECT_GT(power.reported.covariance()(0, 0), power.fit.estimate().covariance()(0, 0));
  EXPECT_NEAR(power.reported.parameters()[1], power.fit.parameter("b").value, 0.05);
  // What takes an offset up by itself has it there, and nowhere else.
  options.model = Model::written("y = a + b*x^k", {"x"});
  const Calibration raised = calibrate(readings, options);
  const Estimate& own = raised.fit.estimate();
  EXPECT_NEAR(raised.reported.standard_uncertainties()[0],
              std::hypot(own.standard_uncertainties()[0], raised.blank.mean_uncertainty), 1e-6);
  for (const std::size_t j : {1u, 2u})
    EXPECT_NEAR(raised.reported.standard_uncertainties()[j], own.standard_uncertainties()[j], 1e-6);
  // A constant that counts in other units has its share of them.
  options.model = Model::written("y = 5*a + b*x", {"x"});
  const Calibration fivefold = calibrate(readings, options);
  EXPECT_NEAR(fivefold.reported.standard_uncertainties()[0],
              std::hypot(fivefold.fit.parameter("a").standard_uncertainty, fivefold.blank.mean_uncertainty / 5), 1e-9);
  // A transform can't carry an offset of the signal, and says so.
  options.model = Model::written("ln(y) = a + b*ln(x)", {"x"});
  EXPECT_EQ(test::caught([&] { (void)calibrate(readings, options); }).code(), ErrorCode::not_supported);
  // Included, the blanks are standards of amount 0.
  options.blank = BlankUse::include;
  options.model = shape_model("line", "x", "y");
  const Calibration included = calibrate(readings, options);
  EXPECT_EQ(included.used.size(), 10u);
  EXPECT_EQ(included.levels[0].amount, 0);
}

// With stated uncertainties every reading has its own variance, and the offset that of the mean blank.
TEST(Blank, IsSharedByReadingsOfUnequalUncertainty) {
  Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
  const std::vector<double> u = {0.1, 0.3, 0.2, 0.5, 0.4};
  for (std::size_t i = 0; i < u.size(); ++i) {
    const auto x = static_cast<double>(i + 1);
    add_to(readings, {.amount = x, .signal = 2 + 4 * x + (i % 2 == 0 ? 0.2 : -0.3), .signal_uncertainty = u[i]});
  }
  for (const double blank : {1.6, 2.3, 2.0})
    add_to(readings, {.kind = ReadingKind::blank, .signal = blank, .signal_uncertainty = 0.2});
  readings.all[1].amount = 1;  // a level of two
  for (const char* text : {"y=b*x", "y = a + b*x"}) {
    const Calibration c = calibrate(readings, {.model = Model::written(text),
                                               .blank = BlankUse::subtract,
                                               .scatter = {SignalScatter::Kind::stated},
                                               .limits = {.simulations = 0}});
    const Index p = as_eigen(c.reported.parameters()).size();
    MatrixXd v = MatrixXd::Constant(5, 5, std::pow(c.blank.mean_uncertainty, 2));
    MatrixXd design = MatrixXd::Ones(5, p);
    for (Index i = 0; i < 5; ++i) {
      v(i, i) += std::pow(u[static_cast<std::size_t>(i)], 2);
      design(i, p - 1) = readings.all[static_cast<std::size_t>(i)].amount;
    }
    const MatrixXd covariance = (design.transpose() * v.inverse() * design).inverse();
    EXPECT_TRUE(as_eigen(c.reported.covariance()).isApprox(covariance, 1e-9)) << covariance;
    EXPECT_NEAR(c.curve.scatter.at(c.levels[0].mean), (u[0] + u[1]) / 2, 1e-12);
    EXPECT_NEAR(c.curve.scatter.at(c.levels[2].mean), u[3], 1e-12);
  }
}

// However a line is written, its constant takes up the error of the blank: the same amounts, limits and test of the
// bend.
TEST(Blank, IsTheSameHoweverTheLineIsWritten) {
  Readings readings = replicates({{1, {5.1, 4.8}}, {2, {7.2, 6.9}}, {4, {11.3, 10.7}}, {8, {19.4, 18.8}}});
  for (const double signal : {1.2, 0.8, 1.1}) add_to(readings, {.kind = ReadingKind::blank, .signal = signal});
  for (Reading& r : readings.all) r.signal_uncertainty = 0.1 + 0.02 * r.signal;
  for (const auto kind : {SignalScatter::Kind::constant, SignalScatter::Kind::stated}) {
    const auto made = [&](const char* text) {
      return calibrate(readings, {.model = Model::written(text),
                                  .blank = BlankUse::subtract,
                                  .scatter = {kind},
                                  .limits = {.simulations = 0}});
    };
    const Calibration line = made("y = a + b*x");
    const Amount amount = amount_of(line.curve, {.signals = {9, 9.2}});
    for (const char* text : {"y = b*(x + c)", "y = (x + c)/d"}) {
      const Calibration other = made(text);
      const Amount read = amount_of(other.curve, {.signals = {9, 9.2}});
      EXPECT_NEAR(read.amount, amount.amount, 1e-6);
      EXPECT_NEAR(read.standard_uncertainty, amount.standard_uncertainty, 1e-6);
      EXPECT_NEAR(read.budget.blank, amount.budget.blank, 1e-6);
      EXPECT_NEAR(read.interval.low, amount.interval.low, 1e-5);
      EXPECT_NEAR(read.interval.high, amount.interval.high, 1e-5);
      EXPECT_NEAR(other.linearity.lack_of_fit_p, line.linearity.lack_of_fit_p, 1e-6);
      ASSERT_EQ(other.limits.size(), line.limits.size());
      for (std::size_t i = 0; i < line.limits.size(); ++i)
        EXPECT_NEAR(other.limits[i].detection, line.limits[i].detection, 1e-5) << name(line.limits[i].route);
    }
  }
}

// Net signals of 0 and 1 are measured ones all the same.
TEST(Blank, LeavesSignalsOfZeroAndOneNumbers) {
  Readings readings = replicates({{1, {0, 0, 0, 0, 1}}, {2, {1, 0}}, {3, {1, 1, 1, 1}}});
  add_blanks(readings, {-0.1, 0.1});
  for (const char* shape : {"line", "line-through-origin"}) {
    const Calibration c = calibrate(
        readings, {.model = shape_model(shape, "x", "y"), .blank = BlankUse::subtract, .limits = {.simulations = 0}});
    EXPECT_EQ(c.used.size(), 11u);
    EXPECT_TRUE(c.readings_tested);
  }
  const Readings many = replicates({{1, {0, 0, 0, 0, 0, 0, 1}}, {2, {0, 1, 0, 1, 0}}, {3, {1, 1, 0, 1, 1, 1, 1, 1}}});
  EXPECT_EQ(
      calibrate(many, {.scatter = {SignalScatter::Kind::both}, .limits = {.simulations = 0}}).fit.degrees_of_freedom(),
      18);
}

// A signal that is the same amount higher everywhere, also of the blanks, changes neither weights nor limits.
TEST(Blank, MayBeHoweverHigh) {
  const auto made = [](double offset, BlankUse use) {
    Readings readings = replicates({{1, {7.9, 8.3, 8.0, 8.2}},
                                    {2, {14.6, 14.1, 13.8, 14.2}},
                                    {4, {26.8, 27.4, 25.2, 26.1}},
                                    {8, {52.1, 54.9, 47.3, 50.4}}});
    add_blanks(readings, {1.5, 2.4, 1.9, 1.7, 2.0});
    for (Reading& r : readings.all) r.signal += offset;
    return calibrate(readings, {.blank = use, .scatter = {SignalScatter::Kind::both}, .limits = {.simulations = 40}});
  };
  for (const BlankUse use : {BlankUse::none, BlankUse::subtract}) {
    const Calibration low = made(0, use);
    const Calibration high = made(3000, use);
    EXPECT_NEAR(high.curve.scatter.growing.slope / low.curve.scatter.growing.slope, 1, 1e-5);
    ASSERT_EQ(high.curve.weightings.size(), low.curve.weightings.size());
    for (std::size_t i = 0; i < low.curve.weightings.size(); ++i)
      EXPECT_NEAR(high.curve.weightings[i].weight, low.curve.weightings[i].weight, 1e-5);
    EXPECT_NEAR(high.alternatives.at(0).mid_amount, 4.5, 1e-6);
    ASSERT_EQ(high.limits.size(), low.limits.size());
    for (std::size_t i = 0; i < low.limits.size(); ++i) {
      SCOPED_TRACE(name(low.limits[i].route));
      EXPECT_NEAR(high.limits[i].detection / low.limits[i].detection, 1, 1e-4);
      EXPECT_NEAR(high.limits[i].detection_uncertainty / low.limits[i].detection_uncertainty, 1, 1e-3);
    }
  }
}

// Against a parabola from three levels on.
TEST(Calibration, TestsForABendFromThreeLevelsOn) {
  Readings readings = replicates({{1, {3.1, 2.9, 3.2}}, {2, {5.0, 5.2, 4.7}}});
  EXPECT_TRUE(std::isnan(calibrate(readings, quick).linearity.mandel_p));
  for (const double y : {7.3, 6.8, 7.1}) add_to(readings, {.amount = 3, .signal = y});
  const Linearity three = calibrate(readings, quick).linearity;
  EXPECT_FALSE(std::isnan(three.mandel_p));
  EXPECT_NEAR(three.mandel_p, three.lack_of_fit_p, 1e-9) << "of three levels they are the same test";
}

// Of a scatter that is a power of the signal two blanks tell what it is at nothing; one does not.
TEST(Calibration, KnowsTheScatterOfNothingFromTwoBlanksOn) {
  const std::vector<double> blanks = {0.11, 0.13, 0.1};
  for (std::size_t count = 1; count <= blanks.size(); ++count) {
    Readings readings = replicates({{1, {2.1, 2.2}}, {2, {4.0, 4.3}}, {4, {8.5, 8.1}}, {8, {16.9, 16.1}}});
    add_blanks(readings, {blanks.begin(), blanks.begin() + static_cast<std::ptrdiff_t>(count)});
    CalibrationOptions options{.scatter = {SignalScatter::Kind::power, 0.5}, .limits = {.simulations = 0}};
    const CalibrationCurve curve = calibrate(readings, options).curve;
    if (count < 2) {
      EXPECT_TRUE(std::isnan(curve.scatter_at_zero));
      continue;
    }
    const VectorXd some = test::vector(blanks).head(static_cast<Index>(count));
    EXPECT_NEAR(curve.scatter_at_zero,
                std::sqrt((some.array() - some.mean()).square().sum() / static_cast<double>(count - 1)), 1e-12);
    EXPECT_EQ(curve.scatter_at_zero_degrees_of_freedom, static_cast<double>(count - 1));
  }
}

// Of pairs as of more replicates the scatter is the one that makes chi-squared its degrees of freedom.
TEST(Calibration, WeighsPairs) {
  Readings readings = standards({});
  RandomNumbers random(5);
  for (int level = 1; level <= 10; ++level) {
    for (int i = 0; i < 2; ++i) {
      const double net = 5.0 * level;
      add_to(readings,
             {.amount = static_cast<double>(level), .signal = 3 + net + std::hypot(0.3, 0.1 * net) * random.normal()});
    }
  }
  CalibrationOptions weighted{.scatter = {SignalScatter::Kind::both}, .limits = {.simulations = 0}};
  const CalibrationCurve curve = calibrate(readings, weighted).curve;
  std::vector<double> x, y, u;
  for (const Reading& r : readings.all) {
    x.push_back(r.amount);
    y.push_back(r.signal);
    u.push_back(0);
  }
  // Each level scatters as its mean says.
  for (std::size_t i = 0; i < x.size(); i += 2) u[i] = u[i + 1] = curve.scatter.at((y[i] + y[i + 1]) / 2);
  EXPECT_NEAR(fit(shape_model("line"), Observations::of(x, y, u)).chi_squared(), 18, 1e-8);
}

// The weights of each way to scatter give the weighted line they say.
TEST(Calibration, WeighsAsItIsTold) {
  Readings readings = standards({});
  RandomNumbers random(3);
  for (const double amount : {1.0, 2.0, 4.0, 8.0}) {
    for (int i = 0; i < 5; ++i) {
      const double net = 2 + 6 * amount;
      readings.all.push_back({.amount = amount, .signal = net + std::hypot(0.1, 0.03 * net) * random.normal()});
    }
  }
  // The most probable variance function: the restricted likelihood times Jeffreys' prior, by hand at the ratio that was
  // found and beside it; the line is that of its weights.
  const std::vector<CalibrationLevel> levels = levels_of(readings.all);
  CalibrationOptions weighted{.scatter = {SignalScatter::Kind::both}, .limits = {.simulations = 0}};
  const Calibration both = calibrate(readings, weighted);
  const GrowingScatter& found = both.curve.scatter.growing;
  Eigen::Matrix<double, 20, 2> design;
  Eigen::Matrix<double, 20, 1> y;
  Eigen::Matrix<double, 20, 1> signal;
  for (Index i = 0; i < 20; ++i) {
    design.row(i) << 1, readings.all[static_cast<std::size_t>(i)].amount;
    y[i] = readings.all[static_cast<std::size_t>(i)].signal;
  }
  const double zero = fit(shape_model("line"), Observations::of(design.col(1), y)).parameter("a").value;
  for (Index i = 0; i < 20; ++i) signal[i] = levels[static_cast<std::size_t>(i / 5)].mean - zero;
  const auto log_probability = [&](double ratio) {
    const VectorXd variances = 1 + ratio * signal.array().square();
    const MatrixXd information = design.transpose() * variances.cwiseInverse().asDiagonal() * design;
    const VectorXd line = information.inverse() * design.transpose() * variances.cwiseInverse().asDiagonal() * y;
    const double squares = ((y - design * line).array().square() / variances.array()).sum();
    const VectorXd slopes = ratio * signal.array().square() / variances.array();
    const double prior = slopes.squaredNorm() - slopes.sum() * slopes.sum() / 20;
    return std::log(prior) / 2 - variances.array().log().sum() / 2 - std::log(information.determinant()) / 2 -
           9 * std::log(squares);
  };
  const double ratio = std::pow(found.slope / found.constant, 2);
  EXPECT_GT(log_probability(ratio), log_probability(ratio * 1.02));
  EXPECT_GT(log_probability(ratio), log_probability(ratio / 1.02));
  double weights = 0;
  int growing = 0;
  for (const Weighting& w : both.curve.weightings) {
    weights += w.weight;
    // What grows is s0 and k; only what falls with the signal is a table.
    const bool grows = w.scatter.form == Scatter::Form::growing;
    EXPECT_EQ(grows, w.scatter.at(levels[3].mean) >= w.scatter.at(levels[0].mean));
    growing += grows;
    if (&w == &both.curve.weightings.front() || w.scatter.form != Scatter::Form::growing) continue;
    const Weighting& first = both.curve.weightings.back();
    const auto ratio_of = [](const Weighting& of) {
      return std::pow(of.scatter.growing.slope / of.scatter.growing.constant, 2);
    };
    EXPECT_NEAR(std::log(w.weight / first.weight), log_probability(ratio_of(w)) - log_probability(ratio_of(first)),
                1e-6);
  }
  EXPECT_NEAR(weights, 1, 1e-12);
  EXPECT_GT(growing, 5);
  // Of a scatter that may as well fall, some do: s0² (1 + r (signal/largest)²) with a negative r.
  const Readings falling = replicates({{1, {8.2, 7.6, 8.9, 8.3, 7.8, 8.6}},
                                       {2, {14.1, 14.8, 13.6, 14.3, 13.9, 14.5}},
                                       {4, {26.2, 26.5, 25.8, 26.1, 25.9, 26.4}},
                                       {8, {50.1, 50.2, 49.9, 50.0, 50.1, 49.8}}});
  int fall = 0;
  for (const Weighting& w :
       calibrate(falling, {.scatter = {SignalScatter::Kind::both}, .limits = {.simulations = 0}}).curve.weightings) {
    if (w.scatter.form == Scatter::Form::growing) continue;
    ++fall;
    const auto squared = [&w](double signal) { return std::pow(w.scatter.at(signal), 2); };
    EXPECT_GT(squared(8), 1.0001 * squared(50));
  }
  EXPECT_GT(fall, 3);
  const VectorXd u = (found.constant * found.constant + found.slope * found.slope * signal.array().square()).sqrt();
  const Fit by_hand = fit(shape_model("line"), Observations::of(design.col(1), y, u));
  EXPECT_NEAR(both.reported.parameters()[1], by_hand.parameter("b").value, 1e-12);
  EXPECT_NEAR(by_hand.chi_squared(), 18, 1e-8);  // s0 is the one that makes it so
  EXPECT_EQ(both.reported.degrees_of_freedom(), 18);
  for (const ParameterInterval& shown : both.parameters)
    EXPECT_NEAR(shown.t, shown.value / shown.standard_uncertainty, 1e-9 * std::abs(shown.t)) << shown.name;
  // Of Student's t averaged over the weightings, 2.5 % lie beyond either end of a parameter's interval.
  for (std::size_t j = 0; j < 2; ++j) {
    const auto beneath = [&](double end) {
      double sum = 0;
      for (const Weighting& w : both.curve.weightings) {
        const double t = (end - w.estimate.parameters()[j]) / w.estimate.standard_uncertainties()[j];
        const double tail = student_t_two_sided(t, 18) / 2;
        sum += w.weight * (t < 0 ? tail : 1 - tail);
      }
      return sum;
    };
    double squares = 0;
    for (const Weighting& w : both.curve.weightings)
      squares += w.weight * (std::pow(w.estimate.standard_uncertainties()[j], 2) +
                             std::pow(w.estimate.parameters()[j] - both.parameters[j].value, 2));
    EXPECT_NEAR(both.parameters[j].standard_uncertainty, std::sqrt(squares), 1e-9 * std::sqrt(squares));
    EXPECT_NEAR(beneath(both.parameters[j].low), 0.025, 1e-8);
    EXPECT_NEAR(beneath(both.parameters[j].high), 0.975, 1e-8);
  }
  // Blanks beside the line tell of the scatter at zero, four degrees of freedom more, and the line has its uncertainty
  // from both.
  Readings with_blanks = readings;
  add_blanks(with_blanks, {1.93, 2.11, 2.04, 1.87, 2.05});
  const Calibration beside = calibrate(with_blanks, weighted);
  EXPECT_EQ(beside.reported.degrees_of_freedom(), 22);
  Readings with_two = readings;
  add_blanks(with_two, {1.93, 2.11});
  EXPECT_EQ(calibrate(with_two, weighted).reported.degrees_of_freedom(), 19);
  const GrowingScatter& pooled = beside.curve.scatter.growing;
  VectorXd variances(20);
  for (Index i = 0; i < 20; ++i)
    variances[i] =
        std::pow(pooled.constant, 2) + std::pow(pooled.slope * (levels[static_cast<std::size_t>(i / 5)].mean - 2.0), 2);
  const MatrixXd covariance = (design.transpose() * variances.cwiseInverse().asDiagonal() * design).inverse();
  for (Index j = 0; j < 2; ++j)
    EXPECT_NEAR(beside.reported.standard_uncertainties()[static_cast<std::size_t>(j)], std::sqrt(covariance(j, j)),
                1e-9);
  CalibrationOptions options{.scatter = {SignalScatter::Kind::power, 1}, .limits = {.simulations = 0}};
  const Calibration proportional = calibrate(readings, options);
  EXPECT_NEAR(proportional.curve.scatter.at(10), 10 * proportional.curve.scatter.scale, 1e-12);
  for (const LimitRoute& route : calibrate(with_blanks, options).limits)
    EXPECT_NE(route.route, LimitRouteKind::counting_statistics) << "they scatter as the square root";
  options.high = 4;
  EXPECT_EQ(calibrate(readings, options).levels.size(), 3u);
  // Mandel's test is the F of line against quadratic from their residual variances (ISO 8466-1).
  const Calibration plain = calibrate(readings, quick);
  const Fit quadratic = fit(shape_model("polynomial(2)", "x", "y"), plain.fit.observations());
  const double difference = plain.fit.chi_squared() - quadratic.chi_squared();
  EXPECT_NEAR(plain.linearity.mandel, difference / (quadratic.chi_squared() / 17), 1e-9);
}

// Standard additions: u = (s/b) sqrt(1/n + mean(y)²/(b² Sxx)); Miller and Miller (2010), equation 5.13.
TEST(StandardAdditions, AgreeWithTheirFormula) {
  const Readings readings =
      standards({{0, 0.32}, {5, 0.41}, {10, 0.52}, {15, 0.60}, {20, 0.70}, {25, 0.77}, {30, 0.89}});
  const StandardAdditions found = standard_additions(readings)[0];
  EXPECT_TRUE(test::prints_as(found.amount, "17.3"));
  const Fit& line = found.calibration.fit;
  const double b = line.parameter("b").value;
  const double s = line.estimate().scale();
  const double mean = (0.32 + 0.41 + 0.52 + 0.60 + 0.70 + 0.77 + 0.89) / 7;
  EXPECT_NEAR(found.standard_uncertainty, s / b * std::sqrt(1.0 / 7 + mean * mean / (b * b * 700)), 1e-6);
  EXPECT_LT(found.interval.low, found.amount);
  const Readings falling = standards({{0, 0.9}, {5, 0.7}, {10, 0.5}, {15, 0.31}});
  EXPECT_EQ(test::caught([&] { (void)standard_additions(falling); }).code(), ErrorCode::bad_argument);
  // Each sample has its own line and its own dilution; one that holds nothing is an answer.
  Readings two = readings;
  for (Reading& r : two.all) r.sample = "A";
  for (const auto& [amount, signal] : {std::pair{0.0, -0.002}, {5, 0.101}, {10, 0.199}, {15, 0.302}})
    add_to(two, {.amount = amount, .signal = signal, .dilution = 2, .sample = "B"});
  const std::vector<StandardAdditions> both = standard_additions(two);
  ASSERT_EQ(both.size(), 2u);
  EXPECT_DOUBLE_EQ(both[0].amount, found.amount);
  const Calibration& second = both[1].calibration;
  EXPECT_NEAR(both[1].amount, 2 * second.fit.parameter("a").value / second.fit.parameter("b").value, 1e-9);
  EXPECT_LT(both[1].interval.low, 0);
  EXPECT_GT(both[1].interval.high, 0);
  two.all.back().dilution = 3;
  EXPECT_EQ(test::caught([&] { (void)standard_additions(two); }).code(), ErrorCode::bad_argument);
  // Blanks are no sample to which something was added; subtracted, their few readings count: Welch's effective degrees
  // of freedom for line (5) and mean blank (1).
  Readings with_blanks = readings;
  add_blanks(with_blanks, {0.01, 0.05});
  EXPECT_EQ(test::caught([&] { (void)standard_additions(with_blanks, {.blank = BlankUse::include}); }).code(),
            ErrorCode::bad_argument);
  const StandardAdditions net = standard_additions(with_blanks, {.blank = BlankUse::subtract})[0];
  const double blank_u = 0.04 / std::sqrt(2.0) / std::sqrt(2.0);
  const auto t_at = [&](double x) {
    const CurvePoint at = curve_at(net.calibration.fit.estimate(), x);
    const double u = std::hypot(at.standard_uncertainty, blank_u);
    const double degrees = std::pow(u, 4) / (std::pow(at.standard_uncertainty, 4) / 5 + std::pow(blank_u, 4) / 1);
    return std::abs(at.value) / u / student_t_quantile(0.975, degrees);
  };
  // However the line is written.
  for (const char* text : {"y = b*(x + c)", "y = (x + c)/d"}) {
    const StandardAdditions other =
        standard_additions(with_blanks, {.model = Model::written(text, {"x"}), .blank = BlankUse::subtract})[0];
    EXPECT_NEAR(other.amount, net.amount, 1e-6);
    EXPECT_NEAR(other.standard_uncertainty, net.standard_uncertainty, 1e-4 * net.standard_uncertainty);
    EXPECT_NEAR(other.interval.low, net.interval.low, 1e-3);
    EXPECT_NEAR(other.interval.high, net.interval.high, 1e-3);
  }
  EXPECT_NEAR(t_at(-net.interval.low), 1, 1e-6);
  EXPECT_NEAR(t_at(-net.interval.high), 1, 1e-6);
}

// A curve that meets signal 0 twice below the sample: what was in it is the nearer place, y = 2 + 4 x + 1.5 x^2.
TEST(StandardAdditions, EndAtTheNearestPlace) {
  Readings curved{.amount = {"x", "mg"}, .signal = {"y", "V"}};
  for (const auto& [added, signal] :
       {std::pair{0.0, 2.0}, {1.0, 7.51}, {2.0, 15.99}, {3.0, 27.5}, {4.0, 42.01}, {4.0, 41.99}, {0.0, 2.0}})
    add_to(curved, {.amount = added, .signal = signal});
  const StandardAdditions found =
      standard_additions(curved, {.model = Model::written("y = a + b*x + c*x^2", {"x"})})[0];
  EXPECT_NEAR(found.amount, 2.0 / 3, 0.01);
  EXPECT_NEAR(curve_at(found.calibration.fit.estimate(), -found.amount).value, 0, 1e-9);
}

// One standard beside four of another amount: without it there is no line, and the error is that of the slope.
TEST(Calibration, LooksForAFarReadingOnlyWhereALineIsLeft) {
  const Readings readings =
      readings_of(Table::from_columns({{"c", "mg/g", {1, 1, 1, 1, 2}}, {"I", "kcps", {5.0, 5.6, 4.4, 5.2, 5.1}}}),
                  {.amount = "c", .signals = {"I"}});
  const Error error = test::caught([&] { (void)calibrate(readings, quick); });
  EXPECT_EQ(error.code(), ErrorCode::rank_deficient);
  EXPECT_TRUE(error.message().starts_with("the slope 0.05")) << error.message();
}

// A signal that falls with what is added tells nothing of what was there, though it may meet 0.
TEST(StandardAdditions, NeedASignalThatRises) {
  Readings falling{.amount = {"x", "mg"}, .signal = {"y", "V"}};
  for (const auto& [added, signal] : {std::pair{0.0, 2.0}, {1.0, 1.1}, {2.0, -0.1}, {3.0, -1.0}, {4.0, -1.9}})
    add_to(falling, {.amount = added, .signal = signal});
  EXPECT_EQ(test::caught([&] { (void)standard_additions(falling); }).message(),
            "the curve does not meet signal 0 below an addition of 0");
}

// Readings on a line to the last digit: all that is uncertain of the amount is the blank.
TEST(StandardAdditions, WithoutScatterKeepTheBlanksUncertainty) {
  Readings readings{.amount = {"added", "mg"}, .signal = {"y", "V"}};
  for (const double added : {0.0, 1.0, 2.0, 3.0}) add_to(readings, {.amount = added, .signal = 4 + 2 * added});
  add_blanks(readings, {0.5, 1.0, 1.5});
  const auto found = standard_additions(readings, {.blank = BlankUse::subtract});
  ASSERT_EQ(found.size(), 1U);
  EXPECT_NEAR(found[0].amount, 1.5, 1e-12);
  EXPECT_NEAR(found[0].standard_uncertainty, 0.5 / std::sqrt(3.0) / 2, 1e-9);
}

TEST(Calibration, MeetsBadInput) {
  const auto code = [](const Readings& readings, const CalibrationOptions& options = quick) {
    return test::caught([&] { (void)calibrate(readings, options); }).code();
  };
  EXPECT_EQ(code(standards({{1, 2}, {1, 3}, {1, 4}})), ErrorCode::too_few_observations);
  EXPECT_EQ(code(standards({})), ErrorCode::too_few_observations);
  EXPECT_EQ(code(standards({{1, 2}, {2, 2.1}, {3, 1.9}, {4, 2.05}})), ErrorCode::rank_deficient);
  // Without a slope, in any unit: no reading is to blame, or the one that is.
  for (const double unit : {1.0, 1e-6, 1e6}) {
    const auto refusal = [unit](std::vector<std::pair<double, double>> points) {
      for (auto& point : points) point.second *= unit;
      const Error error = test::caught([&] { (void)calibrate(standards(points), quick); });
      return error.message() + error.remedy();
    };
    EXPECT_FALSE(has(refusal({{1, 2}, {2, 2.1}, {3, 1.9}, {4, 2.05}, {5, 1.95}, {6, 2.02}}), "look at"));
    EXPECT_TRUE(has(refusal({{1, 2}, {2, 4}, {3, 6.1}, {4, 7.9}, {5, 10}, {6, -12}}), "look at row 6 first"));
  }
  const Readings plain = standards({{1, 2}, {2, 4.1}, {3, 5.9}, {4, 8.05}});
  CalibrationOptions options{.blank = BlankUse::subtract, .limits = {.simulations = 0}};
  EXPECT_EQ(code(plain, options), ErrorCode::bad_argument);
  options = quick;
  options.scatter = {SignalScatter::Kind::both};
  EXPECT_EQ(code(plain, options), ErrorCode::bad_argument);
  // The weights of the levels need ten degrees of freedom, and sixteen where no five blanks tell the scatter at zero.
  RandomNumbers random(5);
  for (const auto& [replicates, blanks, left] : {std::tuple{4, 0, "leave 14 degrees of freedom"},
                                                 {5, 0, ""},
                                                 {3, 4, "leave 13 degrees of freedom"},
                                                 {3, 5, ""}}) {
    Readings levels = standards({});
    for (const double amount : {1.0, 2.0, 4.0, 8.0}) {
      for (int i = 0; i < replicates; ++i)
        levels.all.push_back({.amount = amount, .signal = 1 + 6 * amount + 0.3 * random.normal()});
    }
    for (int i = 0; i < blanks; ++i) add_blanks(levels, {1 + 0.3 * random.normal()});
    options.blank = blanks > 0 ? BlankUse::subtract : BlankUse::none;
    if (std::string(left).empty()) {
      EXPECT_NO_THROW((void)calibrate(levels, options)) << replicates;
      continue;
    }
    const Error error = test::caught([&] { (void)calibrate(levels, options); });
    EXPECT_TRUE(has(error.message(), left));
    EXPECT_TRUE(has(error.message(), "and 16 are needed (10 with 5 blanks or more)"));
  }
  options = quick;
  options.low = 8;
  EXPECT_EQ(code(plain, options), ErrorCode::too_few_observations);
  options = quick;
  options.limits.alpha = 0;
  EXPECT_EQ(code(plain, options), ErrorCode::bad_argument);
  Readings uncertain = plain;
  uncertain.all[0].amount_uncertainty = 0.1;
  EXPECT_EQ(code(uncertain), ErrorCode::not_supported);
  // Four levels are few, five are not.
  for (const double levels : {4.0, 5.0}) {
    Readings some = standards({});
    for (double amount = 1; amount <= levels; ++amount)
      for (const double off : {-0.1, 0.05, 0.1})
        some.all.push_back({.amount = amount, .signal = 2 * amount + off * amount});
    const std::vector<std::string> remarks = calibrate(some, quick).remarks;
    EXPECT_EQ(std::count(remarks.begin(), remarks.end(), "With only 4 levels linearity can hardly be judged."),
              levels == 4 ? 1 : 0);
  }
  // A falling line, unequal replicates and a blank above the lowest standard are said, not refused.
  Readings falling = standards({{1, 9}, {1, 9.1}, {2, 7}, {3, 5.1}, {4, 3}});
  add_blanks(falling, {8, 8.1});
  const Calibration said = calibrate(falling, quick);
  EXPECT_EQ(said.remarks.size(), 4u);
  EXPECT_LT(amount_of(said.curve, {.signals = {6}}).amount, 3);
}

// Every refusal names what is wrong, and what to do.
TEST(Calibration, RefusesByName) {
  const Readings plain = standards({{1, 2}, {2, 4.1}, {3, 5.9}, {4, 8.05}});
  Readings one_blank = plain;
  add_blanks(one_blank, {0.1});
  Readings stated = plain;
  for (Reading& reading : stated.all) reading.signal_uncertainty = 0.1;
  stated.all[2].signal_uncertainty = not_a_number;
  Readings uncertain = plain;
  for (Reading& reading : uncertain.all) reading.amount_uncertainty = 0.1;
  const SignalScatter as_stated{SignalScatter::Kind::stated};
  struct Case {
    const char *message, *remedy;
    Readings readings;
    CalibrationOptions options;
  };
  for (const Case& c :
       {Case{"the range of standards is empty", "give the lower end first", plain, {.low = 3, .high = 3}},
        {"there is no standard in the range", "widen the range", plain, {.low = 2.5, .high = 2.6}},
        {"there is no standard", "two levels or more", standards({}), {}},
        {"all standards have the same amount 2", "widen the range", plain, {.low = 1.5, .high = 2.5}},
        {"0 readings of an unknown are averaged", "give 1 or more", plain, {.limits = {.readings = 0}}},
        {"an exposure of unknowns is given", "read them as counts", plain, {.limits = {.exposure = 2}}},
        {"alpha and beta are probabilities of at least 1e-12 and less than 1, and alpha is 1",
         "such as 0.05",
         plain,
         {.limits = {.alpha = 1}}},
        {"alpha and beta are probabilities of at least 1e-12 and less than 1, and beta is 9e-13",
         "such as 0.05",
         plain,
         {.limits = {.beta = 9e-13}}},
        {"alpha and beta are probabilities", "such as 0.05", plain, {.limits = {.beta = 0}}},
        {"alpha and beta are probabilities", "such as 0.05", plain, {.limits = {.beta = 1}}},
        {"0 blank readings can't be included", "measure two blanks", plain, {.blank = BlankUse::include}},
        {"1 blank reading can't be subtracted: its scatter", "two", one_blank, {.blank = BlankUse::subtract}},
        {"row 3 has no stated uncertainty", "for every reading", stated, {.scatter = as_stated}},
        {"uncertain amounts of the standards need a straight line", "state the uncertainty", uncertain, {}}}) {
    SCOPED_TRACE(c.message);
    const Error error = test::caught([&] { (void)calibrate(c.readings, c.options); });
    EXPECT_EQ(error.message().substr(0, std::string_view(c.message).size()), c.message);
    EXPECT_TRUE(has(error.remedy(), c.remedy));
  }
  // One blank can be included, one percent of an error be made.
  EXPECT_NO_THROW((void)calibrate(one_blank, {.blank = BlankUse::include, .limits = {.simulations = 0}}));
  EXPECT_NO_THROW((void)calibrate(plain, {.limits = {.alpha = 0.01, .beta = 0.99, .simulations = 0}}));
}

// Signals without any scatter give the amounts, and nothing that would need a scatter.
TEST(Calibration, WithoutScatterHasNoLimits) {
  for (const auto& points : {std::vector<std::pair<double, double>>{{1, 5}, {2, 10}, {3, 15}, {4, 20}},
                             {{1, 5}, {1, 5}, {2, 10}, {2, 10}, {3, 15}, {3, 15}}}) {
    for (const SignalScatter scatter : {SignalScatter{}, SignalScatter{SignalScatter::Kind::power, 1}}) {
      const Calibration c = calibrate(standards(points), {.scatter = scatter});
      EXPECT_TRUE(c.limits.empty());
      EXPECT_TRUE(has(c.remarks.front(), "passes through every reading"));
      const Quantities q = quantify(c.curve, {.all = {{.kind = ReadingKind::sample, .signal = 2, .row = 1}}});
      EXPECT_NEAR(q.unknowns[0].amount.amount, 0.4, 1e-12);
      EXPECT_TRUE(std::isnan(q.unknowns[0].amount.interval.low));
      EXPECT_EQ(q.unknowns[0].flag, AmountFlag::below_range);
      Readings two;
      for (const double signal : {8.0, 9.0})
        add_to(two, {.kind = ReadingKind::sample, .signal = signal, .sample = "S"});
      EXPECT_TRUE(std::isnan(quantify(c.curve, two).unknowns[0].sd_p)) << "nothing to compare its scatter with";
      const StandardAdditions found = standard_additions(standards(points), {.scatter = scatter})[0];
      EXPECT_EQ(found.amount, 0);
      EXPECT_TRUE(std::isnan(found.interval.low));
    }
  }
}

TEST(Readings, AreTakenFromLongAndWideTables) {
  const Table wide = Table::from_columns({{"c", "mg/g", {0, 1}}, {"s1", "", {1, 3}}, {"s2", "", {1.1, not_a_number}}});
  const Readings readings = readings_of(wide, {.amount = "c", .signals = {"s1", "s2"}});
  EXPECT_EQ(readings.all.size(), 3u);
  ASSERT_EQ(readings.left_out.size(), 1u);
  EXPECT_EQ(readings.left_out[0].row, 2u);
  EXPECT_EQ(readings.signal_columns, (std::vector<std::string>{"s1", "s2"}));
  EXPECT_EQ(readings.place_of(readings.all[1]), "row 1, s2");
  EXPECT_EQ(readings.place_of({.row = 3, .table = "second.csv", .replicate = 1}), "row 3 of second.csv, s2");
  EXPECT_EQ(readings.place_of({.row = 3, .replicate = 2}), "row 3");
  const Readings of_one = readings_of(wide, {.amount = "c", .signals = {"s1"}});
  EXPECT_EQ(of_one.place_of(of_one.all[1]), "row 2");
  const Readings without_one = readings_of(wide, {.amount = "c", .signals = {"s1", "s2"}}, {{1, "", "s2"}});
  ASSERT_EQ(without_one.all.size(), 2u);
  EXPECT_EQ(without_one.all[0].signal, 1);
  for (const double u : {0.0, -0.1, not_a_number}) {
    const Table stated = Table::from_columns({{"c", "", {0, 1}}, {"s", "", {1, 3}}, {"u", "", {0.1, u}}});
    EXPECT_EQ(test::caught([&] {
                (void)readings_of(stated, {.amount = "c", .signals = {"s"}, .signal_uncertainty = "u"});
              }).code(),
              ErrorCode::bad_uncertainty)
        << u;
  }
  // A share is one of the size of the reading, whatever its sign; a column's unit counts; an amount may be exact.
  const Table ways = Table::from_columns({{"c", "mg", {0, 1}},
                                          {"s", "V", {-0.5, 3}},
                                          {"share", "%", {4, 2}},
                                          {"small", "mV", {40, 20}},
                                          {"u(c)", "mg", {0, 0.01}},
                                          {"wrong", "A", {1, 1}}});
  for (const auto& [u, first, second] : {std::tuple{Uncertainty("share"), 0.02, 0.06},
                                         {Uncertainty("small"), 0.04, 0.02},
                                         {Uncertainty::percent(2), 0.01, 0.06},
                                         {Uncertainty::number(0.3), 0.3, 0.3}}) {
    const Readings stated =
        readings_of(ways, {.amount = "c", .signals = {"s"}, .amount_uncertainty = "u(c)", .signal_uncertainty = u});
    EXPECT_NEAR(stated.all[0].signal_uncertainty, first, 1e-15);
    EXPECT_NEAR(stated.all[1].signal_uncertainty, second, 1e-15);
    EXPECT_EQ(stated.all[0].amount_uncertainty, 0);
    EXPECT_EQ(stated.all[1].amount_uncertainty, 0.01);
  }
  const Error unlike =
      test::caught([&] { (void)readings_of(ways, {.amount = "c", .signals = {"s"}, .signal_uncertainty = "wrong"}); });
  EXPECT_EQ(unlike.code(), ErrorCode::bad_uncertainty);
  EXPECT_EQ(unlike.value(), "A");
  std::istringstream text("kind,c,I,dilution\nstandard,1,<0.5,\nblank,,1,\nsmaple,,2,\nsample,,3,0\nstandard,,4,\n");
  const Table table = read_csv(text, "long.csv");
  const ReadingColumns columns{.amount = "c", .signals = {"I"}, .kind = "kind", .dilution = "dilution"};
  const auto caught = [&](const std::vector<LeftOut>& left_out) {
    return test::caught([&] { (void)readings_of(table, columns, left_out); });
  };
  EXPECT_EQ(caught({}).code(), ErrorCode::text_in_numbers);
  EXPECT_EQ(caught({}).value(), "<0.5");
  EXPECT_TRUE(has(caught({{1, ""}}).remedy(), "'sample'"));
  EXPECT_EQ(caught({{1, ""}, {3, ""}}).subject(), "dilution");
  EXPECT_EQ(caught({{1, ""}, {3, ""}, {4, ""}}).subject(), "c");
  EXPECT_EQ(readings_of(table, columns, {{1, ""}, {3, ""}, {4, ""}, {5, ""}}).all.size(), 1u);
}

TEST(Readings, AreRefusedByName) {
  const Table table =
      Table::from_columns({{"c", "mg", {1, 2}}, {"s", "V", {3, 4}}, {"again", "V", {3, 4}}, {"small", "mV", {5, 6}}});
  struct Case {
    const char *message, *subject;
    ReadingColumns columns;
    std::vector<LeftOut> left_out;
  };
  for (const Case& c :
       {Case{"no column of signals is chosen", "signal", {.amount = "c"}, {}},
        {"the replicates 's' and 'small' are in V and mV", "small", {.amount = "c", .signals = {"s", "small"}}, {}},
        {"row 2: 'c' is not a column of signals", "leave-out", {.amount = "c", .signals = {"s"}}, {{2, "", "c"}}},
        {"row 1 is a standard, and its amount is not given", "amount", {.signals = {"s"}}, {}}}) {
    const Error error = test::caught([&] { (void)readings_of(table, c.columns, c.left_out); });
    EXPECT_EQ(error.message(), c.message);
    EXPECT_EQ(error.subject(), c.subject) << c.message;
    EXPECT_FALSE(error.remedy().empty());
  }
}

// Tables of one calibration: their rows and what was left out add up, the amounts are named by whichever names them.
TEST(Readings, OfSeveralTablesAreJoined) {
  const auto table_of = [](const char* name, const char* amount, const char* signal) {
    Readings readings =
        readings_of(Table::from_columns({{amount, "mg", {1, 2, not_a_number}}, {signal, "V", {3, not_a_number, 5}}}),
                    {.amount = amount, .signals = {signal}}, {{3, "no amount"}});
    readings.source.name = name;
    return readings;
  };
  const Readings first = table_of("first.csv", "c", "s");
  const Readings both = joined(first, table_of("second.csv", "c", "s"));
  EXPECT_EQ(both.rows_read, 6u);
  EXPECT_EQ(both.left_out.size(), 2 * first.left_out.size());
  ASSERT_EQ(both.all.size(), 2u);
  EXPECT_EQ(both.all[0].table, "");
  EXPECT_EQ(both.all[1].table, "second.csv");
  Readings nameless =
      readings_of(Table::from_columns({{"s", "V", {0.1}}}), {.signals = {"s"}, .otherwise = ReadingKind::blank});
  EXPECT_EQ(joined(nameless, first).amount.name, "c");
  EXPECT_EQ(joined(nameless, first).amount.unit, "mg");
  EXPECT_EQ(joined(first, nameless).amount.name, "c");
  for (const auto& [amount, signal] : {std::pair{"c", "t"}, {"d", "s"}}) {
    const Readings other = table_of("second.csv", amount, signal);
    const Error error = test::caught([&] { (void)joined(first, other); });
    EXPECT_EQ(error.subject(), "tables");
    EXPECT_EQ(error.message(),
              fmt::format("'s' against 'c' in one table, '{}' against '{}' in the other", signal, amount));
  }
}

// Prefixes of the SI are converted and said, other quantities refused; a column without a unit is taken as it stands.
TEST(Readings, ComeInTheUnitsOfTheCalibration) {
  struct Case {
    const char *has, *wanted;
    double factor;  // 0: refused
  };
  for (const auto& [has, wanted, factor] :
       {Case{"cps", "kcps", 1e-3}, Case{"kcps", "kcps", 1}, Case{"", "kcps", 1}, Case{"ug/g", "mg/kg", 1},
        Case{"µg/g", "mg/g", 1e-3}, Case{"mol/l", "mmol/L", 1e3}, Case{"mm²", "m^2", 1e-6}, Case{"g/cm³", "kg/m³", 1e3},
        Case{"V", "kcps", 0}, Case{"mg", "mg/g", 0}, Case{"min", "s", 0}, Case{"points", "points", 1}}) {
    const Readings readings{.all = {{.amount = 1, .signal = 5}}, .amount = {"c", ""}, .signal = {"I", has}};
    const Quantity in{"I", wanted};
    if (factor == 0) {
      EXPECT_EQ(test::caught([&] {
                  (void)in_units_of(readings, {"c", "g"}, in);
                }).code(),
                ErrorCode::bad_argument)
          << has;
      continue;
    }
    const Readings made = in_units_of(readings, {"c", "g"}, in);
    EXPECT_DOUBLE_EQ(made.all[0].signal, 5 * factor) << has << " " << wanted;
    EXPECT_EQ(made.remarks.size(), factor == 1 ? 0u : 1u);
  }
  // All that stands in the units of the two columns.
  const Readings many{
      .all = {{.amount = 7, .signal = 5, .amount_uncertainty = 0.2, .signal_uncertainty = 0.3, .exposure = 4}},
      .amount = {"c", "mg"},
      .signal = {"I", "kcps"}};
  const Reading one = in_units_of(many, {"c", "g"}, {"I", "cps"}).all[0];
  EXPECT_DOUBLE_EQ(one.amount, 7e-3);
  EXPECT_DOUBLE_EQ(one.amount_uncertainty, 2e-4);
  EXPECT_DOUBLE_EQ(one.signal, 5000);
  EXPECT_DOUBLE_EQ(one.signal_uncertainty, 300);
  EXPECT_DOUBLE_EQ(one.exposure * one.signal, 20) << "the count";
  // One percent of amount 0 is an exact amount.
  const Table table = Table::from_columns({{"c", "", {0, 1}}, {"s", "", {1, 3}}});
  const Readings exact =
      readings_of(table, {.amount = "c", .signals = {"s"}, .amount_uncertainty = Uncertainty::percent(1)});
  EXPECT_EQ(exact.all[0].amount_uncertainty, 0);
  // A millikelvin is a thousandth of a degree Celsius for an uncertainty.
  const Table thermometer = Table::from_columns({{"t", "°C", {20, 30}}, {"e", "V", {2, 3}}, {"u(t)", "mK", {8, 8}}});
  const Readings in_kelvin = readings_of(thermometer, {.amount = "t", .signals = {"e"}, .amount_uncertainty = "u(t)"});
  EXPECT_DOUBLE_EQ(in_kelvin.all[1].amount_uncertainty, 0.008);
}

TEST(Quantify, GroupsFlagsAndRecoversControls) {
  Readings line = standards({{1, 3.1}, {2, 4.9}, {3, 7.2}, {4, 8.8}, {5, 11.1}});
  const Calibration c = calibrate(line, quick);
  const double a = c.reported.parameters()[0];
  const double b = c.reported.parameters()[1];
  const LimitOptions one{.readings = 1};
  const DecisionLimits of_one = decision_limits(c.curve, one);
  const DecisionLimits of_three = decision_limits(c.curve, {.readings = 3});
  EXPECT_EQ(of_one.critical, route_of(c, "critical value and power").critical);
  EXPECT_LT(of_three.critical, of_one.critical);
  Readings unknowns;
  const auto add = [&unknowns](ReadingKind kind, const char* name, double signal, double dilution = 1,
                               double amount = not_a_number) {
    add_to(unknowns, {.kind = kind, .amount = amount, .signal = signal, .dilution = dilution, .sample = name});
  };
  const auto at = [a, b](double amount) { return a + b * amount; };
  // Decided at the critical value for as many readings, in the sample's own scale.
  const double between = (of_one.critical + of_three.critical) / 2;
  const std::vector<std::tuple<const char*, double, int, const char*>> cases = {
      {"A", 3, 1, ""},
      {"once", between, 1, "not detected"},
      {"thrice", between, 3, "detected, below the detection limit"},
      {"diluted", of_one.critical * 0.99, 1, "not detected"},
      {"some", (of_one.critical + of_one.detection) / 2, 1, "detected, below the detection limit"},
      {"negative", -0.9, 1, "below zero"},
      {"at the edge", 5, 1, ""},
      {"beyond", 5.4, 1, "above the range"},
      {"far beyond", 40, 1, "above the range"}};
  for (const auto& [sample, amount, readings, flag] : cases) {
    for (int i = 0; i < readings; ++i)
      add(ReadingKind::sample, sample, at(amount), sample == std::string("diluted") ? 10 : 1);
  }
  add(ReadingKind::control, "check", 8.9, 1, 4);
  add(ReadingKind::sample, "A", at(3), 10);
  add(ReadingKind::sample, "A", at(3.05));
  add(ReadingKind::sample, "odd", at(2));
  add(ReadingKind::sample, "odd", at(2.9));
  add(ReadingKind::blank, "", 1);
  const Quantities q = quantify(c.curve, unknowns, {.dilution_uncertainty = 0.01});
  ASSERT_EQ(q.unknowns.size(), 12u);
  for (std::size_t i = 0; i < cases.size(); ++i) {
    const auto& [sample, amount, readings, flag] = cases[i];
    EXPECT_EQ(q.unknowns[i].sample, sample);
    EXPECT_EQ(name(q.unknowns[i].flag), flag) << sample;
    if (i == 0) continue;  // another reading follows
    const double dilution = q.unknowns[i].unknown.dilution;
    EXPECT_NEAR(q.unknowns[i].limits.critical, dilution * (readings == 3 ? of_three : of_one).critical, 1e-12);
  }
  EXPECT_NEAR(c.alternatives.at(0).mid_amount, 3, 1e-9);
  // From the signal of nothing on, however high that is.
  const Calibration high = calibrate(standards({{1, 52.1}, {2, 53.9}, {3, 56.2}, {4, 57.8}, {5, 60.1}}), quick);
  EXPECT_EQ(
      quantify(high.curve, {.all = {{.kind = ReadingKind::sample, .signal = 130, .row = 1}}}).unknowns[0].dilute_by,
      10);
  // To nine tenths of the highest standard, by 2, 5 or 10 times a power of ten.
  for (const auto& [times, by] : {std::pair{1.2, 2},
                                  {1.75, 2},
                                  {1.85, 5},
                                  {4.4, 5},
                                  {4.6, 10},
                                  {9.1, 20},
                                  {17, 20},
                                  {19, 50},
                                  {95, 200},
                                  {1e4, 20000}}) {
    const Reading reading{.kind = ReadingKind::sample, .signal = a + times * (at(5) - a), .row = 1};
    EXPECT_EQ(quantify(c.curve, {.all = {reading}}).unknowns[0].dilute_by, by) << times;
  }
  for (const double dilution : {1.0, 1.5, 2.0}) {
    const Reading reading{.kind = ReadingKind::sample, .signal = at(3), .dilution = dilution, .row = 1};
    const Quantities read = quantify(c.curve, {.all = {reading}}, {.dilution_uncertainty = 0.01});
    EXPECT_NEAR(read.unknowns[0].amount.budget.dilution, dilution == 1 ? 0 : 0.01 * 3 * dilution, 1e-9);
  }
  EXPECT_EQ(q.unknowns[0].rows.size(), 2u);
  EXPECT_EQ(q.unknowns[7].dilute_by, 2);
  EXPECT_EQ(q.unknowns[8].dilute_by, 10);
  EXPECT_TRUE(std::isnan(q.unknowns[8].amount.amount));
  EXPECT_GT(q.unknowns[10].amount.budget.dilution, 0);
  EXPECT_NEAR(q.unknowns[9].recovery, q.unknowns[9].amount.amount / 4, 1e-12);
  EXPECT_NEAR(q.unknowns[9].recovery_uncertainty, q.unknowns[9].amount.standard_uncertainty / 4, 1e-12);
  // The scatter of the two readings against that of the standards: F with 1 and 3 degrees of freedom.
  const double f = std::pow(0.9 * b, 2) / 2 / std::pow(c.curve.scatter.scale, 2);
  EXPECT_NEAR(q.unknowns[11].sd_p, f_upper(f, 1, 3), 1e-9);
  // Disagreeing readings, rows apart, two dilutions, a blank, one curve for the eleven that have an interval.
  ASSERT_EQ(q.remarks.size(), 5u);
  EXPECT_TRUE(has(q.remarks[1], fmt::format("'odd' scatter more than those of the standards (SD {} against {}, ",
                                            rounded(q.unknowns[11].sd, 3), rounded(c.curve.scatter.scale, 3))));
  EXPECT_TRUE(has(q.remarks[3], "blank"));
  EXPECT_NEAR(q.level_of_each, 1 - 0.05 / 11, 1e-12);
  EXPECT_TRUE(has(q.remarks[4], "Each interval has 95 % coverage on its own"));
  Readings nothing;
  add_to(nothing, {.kind = ReadingKind::control, .amount = 0, .signal = at(2), .sample = "zero"});
  EXPECT_TRUE(std::isnan(quantify(c.curve, nothing).unknowns[0].recovery)) << "of nothing there is no share";
  add(ReadingKind::control, "check", 8.9, 1, 5);
  EXPECT_EQ(test::caught([&] { (void)quantify(c.curve, unknowns); }).code(), ErrorCode::bad_argument);
  EXPECT_EQ(test::caught([&] { (void)quantify(c.curve, line); }).code(), ErrorCode::bad_argument);
}

// Where the curve has no amount for a signal it lies beyond the end of the standards whose signal is nearer; rows of
// other kinds are named.
TEST(Quantify, SaysOnWhichSideASignalLies) {
  for (const double slope : {2.0, -2.0}) {
    const Calibration c = calibrate(
        standards({{1, 20 + slope}, {2, 20.1 + 2 * slope}, {3, 19.9 + 3 * slope}, {4, 20 + 4 * slope}}), quick);
    Readings unknowns;
    for (const double signal : {-500.0, 500.0}) add_to(unknowns, {.kind = ReadingKind::sample, .signal = signal});
    for (int i = 0; i < 3; ++i) add_to(unknowns, {.kind = ReadingKind::blank, .signal = 20});
    unknowns.all.push_back({.kind = ReadingKind::standard, .amount = 1, .signal = 20, .row = 6});
    unknowns.all.push_back({.kind = ReadingKind::standard, .amount = 1, .signal = 20, .row = 6, .replicate = 1});
    const Quantities made = quantify(c.curve, unknowns);
    EXPECT_EQ(made.unknowns[0].flag, slope > 0 ? AmountFlag::below_range : AmountFlag::above_range);
    EXPECT_EQ(made.unknowns[1].flag, slope > 0 ? AmountFlag::above_range : AmountFlag::below_range);
    EXPECT_EQ(made.remarks,
              (std::vector<std::string>{
                  "Row 6 of kind standard is not used: only samples and controls are read.",
                  "Rows 3, 4, 5 of kind blank are not used: the blanks of the calibration are those that count."}));
  }
}

// A little beyond the standards is out of the range, in every unit.
TEST(Quantify, FlagsWhatLiesBeyondTheRangeInEveryUnit) {
  for (const double unit : {1.0, 1e-10, 1e10}) {
    const Readings line = standards({{unit, 3.001}, {2 * unit, 4.999}, {3 * unit, 7.002}, {4 * unit, 8.998}});
    const Calibration c = calibrate(line, quick);
    const auto flag_at = [&](double share) {
      const double signal = curve_at(c.curve.estimate, share * unit).value;
      return quantify(c.curve, {.all = {{.kind = ReadingKind::sample, .signal = signal, .row = 1}}}).unknowns[0].flag;
    };
    EXPECT_EQ(flag_at(0.999), AmountFlag::below_range) << unit;
    for (const double within : {1.0, 1.001, 3.999, 4.0}) EXPECT_EQ(flag_at(within), AmountFlag::none) << unit;
    EXPECT_EQ(flag_at(4.001), AmountFlag::above_range) << unit;
  }
}

// Replicates stand in rows one below the other.
TEST(Quantify, SaysWhereRowsOfASampleStandApart) {
  const CalibrationCurve curve = calibrate(standards({{1, 3.1}, {2, 4.9}, {3, 7.2}, {4, 8.8}, {5, 11.1}}), quick).curve;
  for (const std::size_t second : {8u, 9u}) {
    Readings sample;
    for (const std::size_t row : {std::size_t{7}, second})
      sample.all.push_back({.kind = ReadingKind::sample, .signal = 6, .sample = "S", .row = row});
    const std::vector<std::string> remarks = quantify(curve, sample).remarks;
    EXPECT_EQ(std::any_of(remarks.begin(), remarks.end(),
                          [](const std::string& r) {
                            return r.starts_with("'S' occurs in rows that are not adjacent (7 to 9)");
                          }),
              second == 9);
  }
}

// Two results of one curve share its uncertainty, one alone does not.
TEST(Quantify, SaysThatResultsOfOneCurveAreCorrelated) {
  const CalibrationCurve curve = calibrate(standards({{1, 3.1}, {2, 4.9}, {3, 7.2}, {4, 8.8}, {5, 11.1}}), quick).curve;
  Readings sample;
  for (const char* name : {"S", "T"}) {
    add_to(sample, {.kind = ReadingKind::sample, .signal = 6, .sample = name});
    const Quantities made = quantify(curve, sample);
    EXPECT_EQ(made.remarks.size(), sample.all.size() - 1);
    if (made.remarks.empty()) continue;
    EXPECT_TRUE(made.remarks[0].starts_with("2 results come from one curve"));
    EXPECT_NEAR(made.level_of_each, 0.975, 1e-12);
    EXPECT_TRUE(made.remarks[0].ends_with(fmt::format("the coverage factor {:.3f} replaces {:.3f} (Bonferroni).",
                                                      student_t_quantile(0.9875, 3), student_t_quantile(0.975, 3))))
        << made.remarks[0];
  }
}

TEST(Quantify, HasNoOneFactorForAllWeightingsOrWithABlank) {
  Readings line = replicates({{1, {6.1, 5.9, 6.0, 6.2, 5.7, 6.1}},
                              {2, {12.3, 11.8, 12.4, 11.6, 12.2, 11.9}},
                              {4, {24.9, 23.2, 24.4, 23.6, 25.1, 23.3}}});
  Readings sample;
  for (const double signal : {8.0, 9.0}) add_to(sample, {.kind = ReadingKind::sample, .signal = signal});
  add_blanks(line, {0.1, -0.1, 0.2});
  for (const auto& [blank, scatter] :
       {std::pair{BlankUse::none, SignalScatter::Kind::both}, {BlankUse::subtract, SignalScatter::Kind::constant}}) {
    const Calibration c = calibrate(line, {.blank = blank, .scatter = {scatter}, .limits = {.simulations = 0}});
    EXPECT_EQ(c.variance_functions.size(), 3u);
    const std::vector<std::string> remarks = quantify(c.curve, sample).remarks;
    EXPECT_TRUE(remarks.back().ends_with("for all at once calibrate with a level of 0.975 (Bonferroni)."))
        << remarks.back();
  }
}

// The interval of an amount ends where its signal leaves the band of the mean of as many readings (Fieller 1954),
// whatever the weights; readings of a sample that disagree are judged over all weightings.
TEST(Quantify, ReadsTheBandBackwards) {
  Readings readings = standards({});
  RandomNumbers random(8);
  for (const double amount : {1.0, 2.0, 4.0, 8.0}) {
    for (int i = 0; i < 5; ++i)
      readings.all.push_back(
          {.amount = amount, .signal = 6 * amount + std::hypot(0.2, 0.18 * amount) * random.normal()});
  }
  for (const SignalScatter scatter : {SignalScatter{}, SignalScatter{SignalScatter::Kind::both}}) {
    CalibrationOptions options{.scatter = scatter, .limits = {.simulations = 0}};
    const CalibrationCurve curve = calibrate(readings, options).curve;
    for (const std::vector<double>& signals : {std::vector<double>{20}, {19.5, 20, 20.9}}) {
      const Amount a = amount_of(curve, {.signals = signals});
      const auto m = static_cast<double>(signals.size());
      EXPECT_NEAR(signal_at(curve, a.interval.low, m).prediction.high, a.net_signal, 1e-6 * a.net_signal);
      EXPECT_NEAR(signal_at(curve, a.interval.high, m).prediction.low, a.net_signal, 1e-6 * a.net_signal);
    }
    Readings sample;
    for (const double signal : {19.5, 20.0, 20.9})
      add_to(sample, {.kind = ReadingKind::sample, .signal = signal, .sample = "S"});
    const Quantified q = quantify(curve, sample).unknowns[0];
    const double variance = (0.63333 * 0.63333 + 0.13333 * 0.13333 + 0.76667 * 0.76667) / 2;
    EXPECT_NEAR(q.sd, std::sqrt(variance), 1e-4);
    double p = 0, weights = 0;
    for (const Weighting& w : curve.weightings) {
      p += w.weight * f_upper(variance / std::pow(w.scatter.at(q.amount.net_signal), 2), 2, 18);
      weights += w.weight;
    }
    if (curve.weightings.empty()) {
      p = f_upper(variance / std::pow(curve.scatter.at(q.amount.net_signal), 2), 2, 18);
    } else {
      EXPECT_NEAR(weights, 1, 1e-12);
    }
    EXPECT_NEAR(q.sd_p, p, 1e-4);
  }
}

// A scatter that follows the gross signal has no weight to give where that is zero.
TEST(Calibration, RefusesAGrossSignalOfZero) {
  Readings readings = standards({{1, 0}, {2, 1}, {3, 2}, {4, 3}});
  add_blanks(readings, {0.02, -0.02, 0.01, -0.01});
  const Error error = test::caught([&] {
    (void)calibrate(
        readings,
        {.blank = BlankUse::subtract, .scatter = {SignalScatter::Kind::power, 1}, .limits = {.simulations = 0}});
  });
  EXPECT_EQ(error.code(), ErrorCode::unsuitable_row);
  EXPECT_EQ(error.subject(), "row 1");
  EXPECT_FALSE(error.remedy().empty());
}

// A standard of amount 0 may have the scatter of its gross signal where that is at least a tenth of the largest.
TEST(Calibration, WeighsAStandardWithoutAnalyteByItsGrossSignal) {
  for (const double nothing : {2.5, 1.9}) {
    Readings readings = replicates({{0, {nothing, nothing + 0.1}}, {1, {8, 8.2}}, {2, {14.8, 15}}, {3, {21.8, 22.2}}});
    add_blanks(readings, {1.9, 2.0, 2.1, 2.0});
    const auto make = [&] {
      (void)calibrate(
          readings,
          {.blank = BlankUse::subtract, .scatter = {SignalScatter::Kind::power, 1}, .limits = {.simulations = 0}});
    };
    if (nothing > 2.2) {
      EXPECT_NO_THROW(make());
    } else {
      EXPECT_EQ(test::caught(make).subject(), "scatter");
    }
  }
}

// An amount a little beyond the standards is read where it is, not at their end.
TEST(Quantify, ReadsBeyondTheStandardsWhereTheCurveIs) {
  RandomNumbers random(5);
  Readings readings = standards({});
  for (const double amount : {1.0, 2.0, 3.0, 4.0, 5.0}) {
    for (int k = 0; k < 3; ++k)
      readings.all.push_back({.amount = amount, .signal = 2 + 3 * amount + 0.8 * random.normal(), .row = 1});
  }
  for (const char* shape : {"line", "polynomial(2)"}) {
    CalibrationOptions options{.model = shape_model(shape, "x", "y"), .limits = {.simulations = 0}};
    const Calibration c = calibrate(readings, options);
    for (const double at : {0.7, 0.95, 1.05, 4.95, 5.05, 5.3}) {
      SCOPED_TRACE(fmt::format("{} at {}", shape, at));
      const double signal = curve_at(c.curve.estimate, at).value;
      const Amount amount = amount_of(c.curve, {.signals = {signal}});
      EXPECT_NEAR(amount.amount, at, 1e-9);
      EXPECT_EQ(amount.outside_standards, at < 1 || at > 5);
      const double slope = slopes_at(c.curve.estimate, VectorXd::Constant(1, at))[0];
      const double u = std::hypot(c.curve.scatter.scale, curve_at(c.curve.estimate, at).standard_uncertainty) / slope;
      EXPECT_NEAR(amount.standard_uncertainty, u, 1e-9 * u);
      EXPECT_LT(amount.interval.low, at);
      EXPECT_GT(amount.interval.high, at);
    }
  }
  // Intervals beyond the ends hold what they claim.
  constexpr int sets = 2000;
  const VectorXd x = test::vector({1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4, 5, 5, 5});
  int held = 0;
  for (int i = 0; i < sets; ++i) {
    VectorXd y = 2 + 3 * x.array();
    for (double& signal : y) signal += 0.8 * random.normal();
    const Estimate line = fit(shape_model("line"), Observations::of(x, y)).estimate();
    const CalibrationCurve curve{.estimate = line, .without_blank = line, .scatter = {.scale = line.scale()}};
    const double at = i % 2 == 0 ? 0.9 : 5.1;
    const Amount read = amount_of(curve, {.signals = {2 + 3 * at + 0.8 * random.normal()}});
    held += read.interval.low <= at && at <= read.interval.high;
  }
  EXPECT_NEAR(held / static_cast<double>(sets), 0.95, 4 * std::sqrt(0.95 * 0.05 / sets));
  // Where nothing scatters nothing is known of the uncertainty: it is not 0.
  const Calibration exact = calibrate(replicates({{1, {3, 3}}, {2, {5, 5}}, {3, {7, 7}}}), quick);
  const Amount without = amount_of(exact.curve, {.signals = {4.2}});
  EXPECT_NEAR(without.amount, 1.6, 1e-12);
  EXPECT_TRUE(std::isnan(without.standard_uncertainty) && std::isnan(without.budget.readings));
  // A bend that a signal lies above is read where it comes nearest, without a standard uncertainty.
  Readings bent = standards({});
  for (const double amount : {0.0, 1.0, 2.0, 3.0, 4.0}) {
    for (int k = 0; k < 3; ++k)
      bent.all.push_back({.amount = amount, .signal = 4 * amount - amount * amount + 0.1 * random.normal(), .row = 1});
  }
  CalibrationOptions options{.model = shape_model("polynomial(2)", "x", "y"), .limits = {.simulations = 0}};
  const Calibration c = calibrate(bent, options);
  const Amount top = amount_of(c.curve, {.signals = {4.15}});
  EXPECT_NEAR(top.amount, 2, 0.2);
  EXPECT_TRUE(std::isnan(top.standard_uncertainty));
}

// Rows keep the numbers and the order that they have in their table, whatever stands between the standards.
TEST(Calibration, NamesTheRowsOfTheTable) {
  Readings readings = standards({});
  add_blanks(readings, {0.02, -0.02, 0.01});
  const std::vector<double> signals = {1.1, 2.05, 2.9, 4.1, 4.95, 6.1, 7.0, 14.0, 9.05, 9.9};
  for (std::size_t i = 0; i < signals.size(); ++i)
    add_to(readings,
           {.amount = 1.0 + static_cast<double>(i), .signal = signals[i], .order = static_cast<double>((7 * i) % 10)});
  const Calibration c = calibrate(readings, quick);
  EXPECT_EQ(c.fit.observations().source_rows()[0], 4U);
  EXPECT_EQ(c.fit.observations().order()[1], 7);
  const std::vector<Check> checks = residual_checks(c.fit);
  const auto outlier =
      std::find_if(checks.begin(), checks.end(), [](const Check& check) { return check.kind == CheckKind::outlier; });
  ASSERT_NE(outlier, checks.end());
  EXPECT_EQ(outlier->row, 11U);
  EXPECT_TRUE(std::any_of(checks.begin(), checks.end(), [](const Check& k) { return k.kind == CheckKind::drift; }));
  // A standard without its place in the order is asked for; a blank that is not used needs none.
  Readings without_place = readings;
  without_place.all[5].order = std::nan("");
  const Error error = test::caught([&] { (void)calibrate(without_place, quick); });
  EXPECT_EQ(error.code(), ErrorCode::bad_argument);
  EXPECT_TRUE(has(error.message(), "row 6"));
  // Blanks of a table of their own stand after the others and are named with their file.
  Readings foreign{.amount = {"x", "mg"}, .signal = {"y", "V"}, .source = {.name = "blanks.csv"}};
  add_blanks(foreign, {0.03, -0.01});
  Readings both = standards({{1, 1.1}, {2, 2.1}, {3, 2.9}, {4, 4.2}});
  both = joined(both, foreign);
  EXPECT_EQ(both.place_of(both.all.back()), "row 2 of blanks.csv");
  CalibrationOptions included{.blank = BlankUse::include, .limits = {.simulations = 0}};
  const VectorXd order = as_eigen(calibrate(both, included).fit.observations().order());
  EXPECT_EQ(order, VectorXd::LinSpaced(6, 1, 6));
  readings.all[4].signal = -1;
  CalibrationOptions logarithm{.model = Model::written("ln(y) = a + b*ln(x)", {"x"}), .limits = {.simulations = 0}};
  EXPECT_EQ(test::caught([&] { (void)calibrate(readings, logarithm); }).subject(), "row 5");
}

// A spread, and weights by the scatter of the levels, are no stated uncertainties.
TEST(Calibration, StatesNoUncertaintiesThatWereNotGiven) {
  Readings readings = replicates({{0, {0.1, 0.3, 0.2}},
                                  {2, {4.1, 4.6, 3.9}},
                                  {4, {8.6, 7.5, 8.1}},
                                  {8, {16.9, 14.9, 16.1}},
                                  {16, {30.0, 33.9, 31.5}}});
  add_blanks(readings, {0.15, 0.25, 0.21, 0.18, 0.2, 0.22});
  for (const SignalScatter scatter : {SignalScatter{SignalScatter::Kind::both}, {SignalScatter::Kind::power, 0.5}}) {
    CalibrationOptions options{.blank = BlankUse::subtract, .scatter = scatter, .limits = {.simulations = 0}};
    const Calibration c = calibrate(readings, options);
    EXPECT_FALSE(c.fit.observations().has_uncertainties());
    EXPECT_TRUE(std::isnan(quality_of(c.fit).birge_ratio));
    const Vector rows = c.fit.left_side_observations().row_scatter();
    for (std::size_t i = 0; i < 15 && scatter.kind == SignalScatter::Kind::both; ++i)
      EXPECT_NEAR(rows[i] / c.curve.scatter.at(c.levels[i / 3].mean), 1, 1e-9) << i;
    EXPECT_EQ(rows.size(), 15u);
    EXPECT_TRUE(as_eigen(c.fit.left_side_observations().uncertainties()).size() == 0);
    EXPECT_EQ(c.fit.objective_name(), "weighted sum of squares");
    options.model = shape_model("line-through-origin", "x", "y");
    Readings beside = readings;
    for (Reading& r : beside.all) {
      if (r.amount == 0) r.amount = 1;
      if (r.kind == ReadingKind::standard && r.amount == 1) r.signal += 2;
      if (r.kind == ReadingKind::blank) r.signal = r.row % 2 == 0 ? 2.5 : -0.9;
    }
    const Calibration origin = calibrate(beside, options);
    // The blank, which lies beside the line, moves the slope and with it the interval of all weightings.
    const ParameterInterval& slope = origin.parameters[0];
    EXPECT_GT(std::abs(slope.value - origin.fit.parameter("b").value), 0.3 * slope.standard_uncertainty);
    EXPECT_NEAR((slope.low + slope.high) / 2, slope.value, 0.1 * slope.standard_uncertainty);
    double squares = std::pow(origin.reported.standard_uncertainties()[0], 2);
    if (!origin.curve.weightings.empty()) squares -= std::pow(origin.fit.parameter("b").standard_uncertainty, 2);
    for (const Weighting& w : origin.curve.weightings)
      squares += w.weight * (std::pow(w.estimate.standard_uncertainties()[0], 2) +
                             std::pow(w.estimate.parameters()[0] - origin.fit.parameter("b").value, 2));
    EXPECT_NEAR(slope.standard_uncertainty / std::sqrt(squares), 1, 1e-6);
    EXPECT_EQ(origin.curve.without_blank.parameters()[0], origin.fit.parameter("b").value);
    EXPECT_EQ(origin.curve.without_blank.standard_uncertainties()[0], origin.fit.parameter("b").standard_uncertainty);
  }
  // A net signal of 0 on a curve through the origin is a gross one of the blank, and pins nothing.
  Readings origin = standards({{0, 10}, {0, 10}, {1, 15.2}, {2, 19.9}, {3, 24.8}, {4, 30.3}});
  add_blanks(origin, {9, 11, 10, 10});
  CalibrationOptions through{.model = shape_model("line-through-origin", "x", "y"),
                             .blank = BlankUse::subtract,
                             .scatter = {SignalScatter::Kind::power, 0.5},
                             .limits = {.simulations = 0}};
  EXPECT_NEAR(calibrate(origin, through).fit.parameter("b").value, 5, 0.1);
  // The scatter follows the gross signal: its weights are those of the curve plus the blank.
  CalibrationOptions gross{
      .blank = BlankUse::subtract, .scatter = {SignalScatter::Kind::power, 0.5}, .limits = {.simulations = 0}};
  const Calibration c = calibrate(readings, gross);
  const VectorXd expected = (as_eigen(c.fit.fitted()).array() + c.curve.blank).sqrt();
  EXPECT_LT((as_eigen(c.fit.left_side_observations().row_scatter()) - expected).cwiseAbs().maxCoeff(), 1e-9);
}

TEST(CalibrationRecord, RestoresWhatItHolds) {
  Readings readings = replicates({{1, {7.9, 8.3}}, {2, {14.6, 14.1}}, {4, {26.8, 27.4}}, {8, {52.1, 52.9}}});
  add_blanks(readings, {1.5, 2.4, 1.9, 1.7, 2.0});
  for (const auto& [shape, scatter] : {std::pair{"line", SignalScatter::Kind::both},
                                       {"line-through-origin", SignalScatter::Kind::both},
                                       {"power", SignalScatter::Kind::constant}}) {
    SCOPED_TRACE(shape);
    CalibrationOptions options{.model = shape_model(shape, "x", "y"),
                               .blank = BlankUse::subtract,
                               .scatter = {scatter},
                               .limits = {.simulations = 0}};
    const Calibration c = calibrate(readings, options);
    const std::string record = calibration_record(c, {.amount = "x", .signals = {"y"}}, "monday");
    EXPECT_FALSE(has(record, "nan"));
    const StoredCalibration stored = read_calibration_record(record, "memory");
    const Unknown unknown{.signals = {20, 21}};
    EXPECT_NEAR(amount_of(stored.curve, unknown).amount, amount_of(c.curve, unknown).amount, 1e-12);
    EXPECT_NEAR(amount_of(stored.curve, unknown).standard_uncertainty, amount_of(c.curve, unknown).standard_uncertainty,
                1e-12);
    EXPECT_EQ(stored.day, "monday");
    EXPECT_NO_THROW((void)read_calibration_record(nlohmann::ordered_json::parse(record).dump(), "m"));
  }
}

}  // namespace
}  // namespace truecurve
