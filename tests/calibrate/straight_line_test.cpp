// A straight calibration line, every number of it by sums written out.
#include <truecurve/io/calibration_record.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

// A line by the sums of its points, in long double.
struct Line {
  explicit Line(const std::vector<Reading>& readings) {
    for (const Reading& r : readings) {
      n += 1;
      mean_x += r.amount;
      mean_y += r.signal;
    }
    mean_x /= n;
    mean_y /= n;
    for (const Reading& r : readings) {
      sxx += (r.amount - mean_x) * (r.amount - mean_x);
      sxy += (r.amount - mean_x) * (r.signal - mean_y);
    }
    b = sxy / sxx;
    a = mean_y - b * mean_x;
    for (const Reading& r : readings) squares += std::pow(r.signal - a - b * r.amount, 2.0L);
    s = std::sqrt(squares / (n - 2));
    ub = s / std::sqrt(sxx);
    ua = s * std::sqrt(1 / n + mean_x * mean_x / sxx);
  }
  long double n = 0, mean_x = 0, mean_y = 0, sxx = 0, sxy = 0, a = 0, b = 0, squares = 0, s = 0, ua = 0, ub = 0;
};

void near(double got, long double wanted, const char* what) {
  EXPECT_NEAR(got, static_cast<double>(wanted), 1e-10 * std::abs(static_cast<double>(wanted))) << what;
}

// Six levels of three readings, by a generator of its own: small whole numbers over a line.
Readings three_of_six_levels() {
  Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
  const std::vector<double> off = {3, -5, 1, 4, -2, -1, -6, 5, 2, 0, 7, -4, 1, -3, 6, -2, 4, 5};
  for (std::size_t i = 0; i < off.size(); ++i) {
    const double amount = std::vector<double>{0.5, 1, 2, 4, 6, 8}[i / 3];
    add_to(readings, {.amount = amount, .signal = 1.3 + 2.1 * amount + off[i] / 50});
  }
  return readings;
}

const CalibrationOptions without_limits{.limits = {.simulations = 0}};

TEST(StraightCalibration, IsWhatItsSumsSay) {
  Readings readings = three_of_six_levels();
  add_blanks(readings, {1.25, 1.31, 1.22, 1.40});
  const std::vector<Reading> standards(readings.all.begin(), readings.all.begin() + 18);
  const Calibration c = calibrate(readings, without_limits);
  const Line line(standards);
  near(c.linearity.intercept, line.a, "intercept");
  near(c.linearity.intercept_uncertainty, line.ua, "u of the intercept");
  near(c.linearity.intercept_p, student_t_two_sided(static_cast<double>(line.a / line.ua), 16), "p of the intercept");
  near(c.chi_squared, line.squares, "squares");
  EXPECT_EQ(c.degrees_of_freedom, 16);

  // The means of the levels against the scatter within them.
  std::map<double, std::vector<double>> levels;
  for (const Reading& r : standards) levels[r.amount].push_back(r.signal);
  long double within = 0;
  std::size_t place = 0;
  for (const auto& [amount, signals] : levels) {
    const long double mean = (signals[0] + signals[1] + signals[2]) / 3.0L;
    long double squares = 0;
    for (const double signal : signals) squares += (signal - mean) * (signal - mean);
    within += squares;
    near(c.levels[place].mean, mean, "mean of a level");
    near(c.levels[place].sd, std::sqrt(squares / 2), "SD of a level");
    const double half = student_t_quantile(0.975, 2) * static_cast<double>(std::sqrt(squares / 2 / 3));
    near(c.levels[place].interval.high - c.levels[place].interval.low, 2 * half, "interval of a level");
    ++place;
  }
  const long double f = (line.squares - within) / 4 / (within / 12);
  EXPECT_NEAR(c.linearity.lack_of_fit_f, static_cast<double>(f), 1e-9);
  EXPECT_NEAR(c.linearity.lack_of_fit_p, f_upper(static_cast<double>(f), 4, 12), 1e-9);
  const LackOfFit split = *lack_of_fit(c.fit);
  near(split.pure_error.mean_square, within / 12, "pure error");
  near(split.lack_of_fit.mean_square, (line.squares - within) / 4, "lack of fit");
  const VarianceTable table = variance_table(c.fit);
  near(table.residual.mean_square, line.s * line.s, "residual mean square");
  near(table.explained.mean_square, line.b * line.sxy, "explained mean square");
  near(table.explained.f, line.b * line.sxy / (line.s * line.s), "F of the line");

  // Blanks beside the line: their mean, their scatter and that of the mean.
  EXPECT_EQ(c.blank.count, 4u);
  near(c.blank.mean, (1.25L + 1.31L + 1.22L + 1.40L) / 4, "mean blank");
  const long double blank_sd = std::sqrt(
      (std::pow(0.045L, 2.0L) + std::pow(0.015L, 2.0L) + std::pow(0.075L, 2.0L) + std::pow(0.105L, 2.0L)) / 3);
  near(c.blank.sd, blank_sd, "SD of the blanks");
  near(c.blank.mean_uncertainty, blank_sd / 2, "u of the mean blank");
  EXPECT_EQ(c.curve.blank, 0) << "nothing is taken off";
  EXPECT_FALSE(c.has_uncertain_standards);
}

// Beside the line itself stand the same readings treated otherwise: each what a calibration so told gives.
TEST(StraightCalibration, IsSetBesideItsAlternatives) {
  const Readings readings = three_of_six_levels();
  const Calibration c = calibrate(readings, without_limits);
  const Line line(readings.all);
  ASSERT_EQ(c.alternatives.size(), 2u);
  const Alternative& own = c.alternatives[0];
  EXPECT_EQ(own.name, "as calibrated");
  near(own.slope, line.b, "slope");
  near(own.slope_uncertainty, line.ub, "u of the slope");
  near(own.intercept, line.a, "intercept");
  near(own.intercept_uncertainty, line.ua, "u of the intercept");
  near(own.mid_amount, 4.25L, "the middle of 0.5 and 8");
  // One reading on the line: ISO 8466-1, as Miller and Miller (2010), equation 5.9.
  near(own.mid_uncertainty,
       line.s / line.b * std::sqrt(1 + 1 / line.n + std::pow(4.25L - line.mean_x, 2.0L) / line.sxx), "u in the middle");
  CalibrationOptions other{.scatter = {SignalScatter::Kind::both}, .limits = {.simulations = 0}};
  const Calibration weighted = calibrate(readings, other);
  const Alternative& by_levels = c.alternatives[1];
  EXPECT_EQ(by_levels.name, "weights from the levels' scatter");
  EXPECT_EQ(by_levels.slope, weighted.parameters[1].value);
  EXPECT_EQ(by_levels.slope_uncertainty, weighted.parameters[1].standard_uncertainty);
  EXPECT_EQ(by_levels.intercept_uncertainty, weighted.parameters[0].standard_uncertainty);
  const Amount middle = amount_of(weighted.curve, {.signals = {static_cast<double>(line.a + line.b * 4.25L)}});
  EXPECT_NEAR(by_levels.mid_amount, middle.amount, 1e-12);
  EXPECT_NEAR(by_levels.mid_uncertainty, middle.standard_uncertainty, 1e-12);
  // And the other way about.
  ASSERT_EQ(weighted.alternatives.size(), 2u);
  EXPECT_EQ(weighted.alternatives[1].name, "equal weights");
  near(weighted.alternatives[1].slope, line.b, "slope");
  EXPECT_EQ(weighted.alternatives[0].slope, weighted.parameters[1].value);
}

// Where the scatter differs, equal weights are tried up to the highest level that scatters as those below it do.
TEST(StraightCalibration, TriesEqualWeightsWhereTheyHold) {
  const Readings readings = three_of_six_levels();
  for (const std::size_t wide : {std::size_t{1}, std::size_t{2}}) {  // the highest, or the two highest levels
    Readings uneven = readings;
    for (std::size_t i = uneven.all.size() - 3 * wide; i < uneven.all.size(); ++i) {
      Reading& r = uneven.all[i];
      const double line = 1.3 + 2.1 * r.amount;
      r.signal = line + 40 * (r.signal - line);
    }
    const Calibration c = calibrate(uneven, without_limits);
    ASSERT_FALSE(c.equal_scatter.is_equal);
    const Alternative& last = c.alternatives.back();
    EXPECT_EQ(last.name, wide == 1 ? "equal weights up to 6" : "equal weights up to 4");
    const Line lower(std::vector<Reading>(readings.all.begin(), readings.all.end() - 3 * static_cast<long>(wide)));
    near(last.slope, lower.b, "slope of the lower levels");
    near(last.intercept_uncertainty, lower.ua, "u of their intercept");
  }
}

// Amounts are read with the blank's own uncertainty beside those of the reading and of the curve; the squares add up.
TEST(StraightCalibration, CarriesASubtractedBlank) {
  Readings readings = three_of_six_levels();
  add_blanks(readings, {1.25, 1.31, 1.22, 1.40});
  CalibrationOptions options{
      .model = Model::written("y = b*x", {"x"}), .blank = BlankUse::subtract, .limits = {.simulations = 0}};
  const Calibration c = calibrate(readings, options);
  near(c.curve.blank, c.blank.mean, "what is taken off");
  EXPECT_EQ(c.curve.blank_degrees_of_freedom, 3);
  const Amount found = amount_of(c.curve, {.signals = {9.7}});
  const UncertaintyBudget& parts = found.budget;
  EXPECT_GT(parts.blank, 0);
  EXPECT_EQ(parts.dilution, 0);
  EXPECT_NEAR(std::pow(found.standard_uncertainty, 2),
              std::pow(parts.readings, 2) + std::pow(parts.curve, 2) + std::pow(parts.blank, 2), 1e-12);
  EXPECT_NEAR(c.parameters[0].t, c.parameters[0].value / c.parameters[0].standard_uncertainty,
              1e-12 * c.parameters[0].t);
  // Diluted tenfold within a percent or ten: the two sides of the interval and the dilution's, in quadrature.
  for (const double u_of_dilution : {0.01, 0.1}) {
    const Amount diluted =
        amount_of(c.curve, {.signals = {9.7}, .dilution = 10, .dilution_uncertainty = u_of_dilution});
    const double own = normal_quantile(0.975) * u_of_dilution * diluted.amount;
    near(diluted.amount, 10 * found.amount, "diluted tenfold");
    near(diluted.amount - diluted.interval.low, std::hypot(10 * (found.amount - found.interval.low), own), "below");
    near(diluted.interval.high - diluted.amount, std::hypot(10 * (found.interval.high - found.amount), own), "above");
  }
  // At the origin the blank is all that is uncertain of the curve, with its degrees of freedom.
  const SignalBand origin = signal_at(c.curve, 0);
  const double u = curve_at(c.curve.estimate, 0).standard_uncertainty;
  EXPECT_GT(u, 0);
  EXPECT_EQ(curve_at(c.curve.without_blank, 0).standard_uncertainty, 0);
  EXPECT_NEAR(origin.standard_uncertainty, u, 1e-15);
  EXPECT_NEAR(origin.confidence.high - origin.value, student_t_quantile(0.975, 3) * u, 1e-10);
  EXPECT_NEAR(origin.prediction.high, signal_at(c.curve, 1e-12).prediction.high, 1e-9);
  // And of an unknown that is read there: the reading's scatter beside it.
  const Amount nothing = amount_of(c.curve, {.signals = {c.curve.blank + origin.value}});
  EXPECT_NEAR(nothing.amount, 0, 1e-12);
  EXPECT_NEAR(nothing.budget.curve, 0, 1e-9);
  EXPECT_NEAR(nothing.standard_uncertainty, std::hypot(u, c.curve.scatter.scale) / c.reported.parameters()[0], 1e-9);
  EXPECT_TRUE(nothing.interval.low < 0 && nothing.interval.high > 0);
}

// A scatter in proportion to the signal says nothing of amount 0: there the blanks do, with their degrees of freedom,
// whatever the number of readings (Welch 1947 and Satterthwaite 1946 for the sum with the curve's variance).
TEST(StraightCalibration, TakesTheScatterOfNothingFromTheBlanks) {
  Readings readings = three_of_six_levels();
  add_blanks(readings, {1.25, 1.31, 1.22, 1.40, 1.19});
  CalibrationOptions options{.scatter = {SignalScatter::Kind::power, 1}, .limits = {.simulations = 0}};
  const Calibration c = calibrate(readings, options);
  EXPECT_EQ(c.curve.scatter_at_zero, c.blank.sd);
  EXPECT_EQ(c.curve.scatter_at_zero_degrees_of_freedom, 4);
  const double curve = curve_at(c.curve.estimate, 0).standard_uncertainty;
  for (int m = 1; m <= 12; ++m) {
    const double reading = c.blank.sd / std::sqrt(m);
    const double variance = reading * reading + curve * curve;
    const double degrees = variance * variance / (std::pow(reading, 4) / 4 + std::pow(curve, 4) / 16);
    const double critical = student_t_quantile(0.95, degrees) * std::sqrt(variance) / c.reported.parameters()[1];
    EXPECT_NEAR(decision_limits(c.curve, {.readings = m}).critical, critical, 1e-9 * critical) << m;
  }
}

// Two blanks tell a standard deviation, if hardly; one does not.
TEST(StraightCalibration, HasALimitByTheBlanksFromTwoOn) {
  for (const std::size_t count : {1U, 2U, 3U}) {
    Readings readings = three_of_six_levels();
    const std::vector<double> blanks = {1.25, 1.41, 1.36};
    for (std::size_t k = 0; k < count; ++k) add_to(readings, {.kind = ReadingKind::blank, .signal = blanks[k]});
    const Calibration c = calibrate(readings, without_limits);
    const auto is_of_blanks = [](const LimitRoute& route) { return route.route == LimitRouteKind::blank_sd; };
    ASSERT_EQ(std::any_of(c.limits.begin(), c.limits.end(), is_of_blanks), count >= 2) << count;
    if (count < 2) continue;
    const double sd = count == 2 ? 0.16 / std::sqrt(2.0) : c.blank.sd;
    const LimitRoute& by_blanks = route_of(c, "blank SD");
    near(by_blanks.detection, 3.3 * sd / c.reported.parameters()[1], "3.3 SD over the slope");
    near(by_blanks.quantitation, 10 * sd / c.reported.parameters()[1], "10 SD over the slope");
    // u(s)/s is about 1/sqrt(2 (n - 1)).
    EXPECT_TRUE(has(by_blanks.remark(), count == 2 ? "2 blanks are few: their SD is known to 71 % only"
                                                   : "3 blanks are few: their SD is known to 50 % only"));
  }
}

// Standards on a line of slope 2 to the last digit, and three blanks about 1 that scatter by 0.5.
Readings exact_standards(double intercept) {
  Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
  for (const double amount : {1.0, 2.0, 3.0, 4.0})
    add_to(readings, {.amount = amount, .signal = intercept + 2 * amount});
  add_blanks(readings, {0.5, 1.0, 1.5});
  return readings;
}

// They have no scatter of their own; the blank's uncertainty is that of the constant, and nothing tests the slope.
TEST(StraightCalibration, OfExactStandardsKeepsTheBlanksUncertainty) {
  CalibrationOptions options{.blank = BlankUse::subtract, .limits = {.simulations = 0}};
  const Calibration c = calibrate(exact_standards(3), options);
  const double u = 0.5 / std::sqrt(3.0);
  EXPECT_NEAR(c.reported.parameters()[0], 2, 1e-12);
  EXPECT_NEAR(c.reported.standard_uncertainties()[0], u, 1e-12);
  EXPECT_NEAR(c.reported.standard_uncertainties()[1], 0, 1e-12);
  EXPECT_NEAR(curve_at(c.reported, 2.5).standard_uncertainty, u, 1e-12);
  EXPECT_NEAR(c.parameters[0].high, 2 + student_t_quantile(0.975, 2) * u, 1e-9);
  EXPECT_NEAR(c.parameters[0].p, student_t_two_sided(2 / u, 2), 1e-9);
  EXPECT_TRUE(std::isnan(c.parameters[1].p));
  EXPECT_TRUE(std::isnan(c.parameters[1].t));
}

// Through the origin they tell the blank themselves, and exactly.
TEST(StraightCalibration, ThroughTheOriginExactStandardsLeaveNothingOpen) {
  CalibrationOptions options{
      .model = Model::written("y = b*x"), .blank = BlankUse::subtract, .limits = {.simulations = 0}};
  Readings readings = exact_standards(1);
  const Calibration exact = calibrate(readings, options);
  EXPECT_NEAR(exact.reported.parameters()[0], 2, 1e-12);
  EXPECT_EQ(exact.reported.standard_uncertainties()[0], 0);
  EXPECT_NEAR(amount_of(exact.curve, {.signals = {6}}).amount, 2.5, 1e-12);
  readings.all[1].signal += 0.1;
  EXPECT_GT(calibrate(readings, options).reported.standard_uncertainties()[0], 0);
}

// A scatter of zero that grows with the signal, blanks that scatter: limits come from the blanks, before and after the
// record is read.
TEST(StraightCalibration, OfExactStandardsHasTheLimitsOfItsBlanks) {
  CalibrationOptions options{.scatter = {SignalScatter::Kind::power, 1}, .limits = {.simulations = 0}};
  const Calibration c = calibrate(exact_standards(1), options);
  const DecisionLimits limits = decision_limits(c.curve, {});
  near(limits.critical, student_t_quantile(0.95, 2) * 0.5 / 2, "t SD over the slope");
  const StoredCalibration again =
      read_calibration_record(calibration_record(c, {.amount = "x", .signals = {"y"}}, ""), "memory");
  EXPECT_EQ(decision_limits(again.curve, {}).critical, limits.critical);
  EXPECT_EQ(decision_limits(again.curve, {}).detection, limits.detection);
  EXPECT_EQ(again.curve.estimate.covariance()(0, 1), 0);
}

// What the stated uncertainties do not explain is said; with nothing left to compare them with, nothing.
TEST(StraightCalibration, JudgesStatedUncertaintiesWhereItCan) {
  const std::vector<double> off = {0.3, -0.3, -0.3, 0.3};
  CalibrationOptions options{.scatter = {SignalScatter::Kind::stated, 1}, .limits = {.simulations = 0}};
  for (const std::size_t rows : {2U, 4U}) {
    for (const double u : {0.1, 0.4}) {
      Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
      for (std::size_t i = 0; i < rows; ++i)
        add_to(readings, {.amount = 1.0 + static_cast<double>(i),
                          .signal = 3 + static_cast<double>(2 * i) + off[i],
                          .signal_uncertainty = u});
      const Calibration c = calibrate(readings, options);
      const bool is_said = std::any_of(c.remarks.begin(), c.remarks.end(), [](const std::string& remark) {
        return remark.find("the residuals are larger than the stated") != std::string::npos;
      });
      EXPECT_EQ(is_said, rows == 4 && u == 0.1) << rows << " " << u;
      // The deviations are at right angles to every line: 4 (0.3/u)².
      if (rows == 4) near(c.chi_squared, 0.36 / (u * u), "chi-squared");
    }
  }
}

// The suspicious reading is named, and what the line would be without it.
TEST(StraightCalibration, SaysWhatASuspiciousReadingDoes) {
  Readings readings = three_of_six_levels();
  for (std::size_t i = 0; i < 3; ++i) {  // a fourth and a fifth reading of each of three levels
    const double amount = std::vector<double>{1, 4, 8}[i];
    for (const double off : {0.03, -0.02}) add_to(readings, {.amount = amount, .signal = 1.3 + 2.1 * amount + off});
  }
  readings.all[9].signal += 2;  // the first of level 4
  const Calibration c = calibrate(readings, without_limits);
  ASSERT_FALSE(c.without.empty());
  EXPECT_EQ(c.without.size(), c.suspicious.size());
  std::vector<Reading> fewer = readings.all;
  fewer.erase(fewer.begin() + 9);
  const Line without(fewer);
  for (const WithoutReading& w : c.without) {
    EXPECT_EQ(w.suspicion.reading.row, 10u);
    EXPECT_EQ(w.suspicion.amount, 4);
    EXPECT_EQ(w.suspicion.grade, Grade::outlier);
    near(w.slope, without.b, "slope without it");
    near(w.intercept, without.a, "intercept without it");
  }
  // The highest third of the levels against the lowest, two levels each, of three and of five readings.
  std::map<double, std::pair<long double, long double>> squares_and_degrees;
  for (const CalibrationLevel& level : c.levels)
    squares_and_degrees[level.amount] = {
        std::pow(level.sd, 2.0L) * (static_cast<long double>(level.readings.size()) - 1),
        static_cast<long double>(level.readings.size()) - 1};
  const auto pooled = [&](double first, double second) {
    return (squares_and_degrees[first].first + squares_and_degrees[second].first) /
           (squares_and_degrees[first].second + squares_and_degrees[second].second);
  };
  const auto ratio = pooled(6, 8) / pooled(0.5, 1);
  near(c.equal_scatter.high_to_low, ratio, "upper third over lower third");
  const double above = f_upper(static_cast<double>(ratio), 6, 6);
  EXPECT_NEAR(c.equal_scatter.high_to_low_p, 2 * std::min(above, 1 - above), 1e-9);
}

// Of two readings that differ too much the one that is farther from the line through the other levels is named, and
// what the line is without it is said, whichever of the two was read first.
TEST(StraightCalibration, NamesTheFartherOfTwo) {
  for (const std::size_t wrong : {6U, 7U}) {
    Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
    const std::vector<double> off = {3, -2, -1, 4, -3, 1, 2, -2, -4, 3, 1, -1};
    for (std::size_t i = 0; i < off.size(); ++i) {
      const double amount = std::vector<double>{0.5, 1, 2, 4, 6, 8}[i / 2];
      add_to(readings, {.amount = amount, .signal = 1.3 + 2.1 * amount + off[i] / 50});
    }
    readings.all[wrong].signal -= 2;
    const Calibration c = calibrate(readings, without_limits);
    ASSERT_EQ(c.suspicious.size(), 1u);
    EXPECT_EQ(c.suspicious[0].amount, 4);
    EXPECT_EQ(c.suspicious[0].reading.row, wrong + 1);
    ASSERT_EQ(c.without.size(), 1u);
    std::vector<Reading> fewer = readings.all;
    fewer.erase(fewer.begin() + static_cast<std::ptrdiff_t>(wrong));
    near(c.without[0].slope, Line(fewer).b, "slope without it");
  }
}

}  // namespace
}  // namespace truecurve
