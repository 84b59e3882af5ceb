// A calibration's page: its verdict, what blanks and scatter are said to be, suspicious readings, limits, additions.
#include <truecurve/report/calibration_page.hpp>

#include "../support.hpp"
#include "page_reading.hpp"

namespace truecurve {
namespace {

using test::cell;
using test::has_caution;
using test::line;
using test::number;
using test::says;
using test::sentences;
using test::table_in;

struct Line {
  double slope, intercept;
};

// Least squares by the textbook's sums.
Line least_squares(const std::vector<double>& x, const std::vector<double>& y) {
  const auto n = static_cast<double>(x.size());
  const double mean_x = std::accumulate(x.begin(), x.end(), 0.0) / n;
  const double mean_y = std::accumulate(y.begin(), y.end(), 0.0) / n;
  double sxy = 0, sxx = 0;
  for (std::size_t i = 0; i < x.size(); ++i) {
    sxy += (x[i] - mean_x) * (y[i] - mean_y);
    sxx += (x[i] - mean_x) * (x[i] - mean_x);
  }
  return {sxy / sxx, mean_y - sxy / sxx * mean_x};
}

Calibration calibration_of(const std::vector<double>& c, const std::vector<double>& signal,
                           const CalibrationOptions& options = {.limits = {.simulations = 0}}) {
  return calibrate(
      readings_of(Table::from_columns({{"c", "mg/g", c}, {"I", "kcps", signal}}), {.amount = "c", .signals = {"I"}}),
      options);
}

// Readings that scatter by 2 % and a little beside.
const std::vector<double> growing_amounts = {1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 5, 5, 5, 5, 5, 9, 9, 9, 9, 9};
const std::vector<double> growing_signals = {7.11, 6.91, 7.02, 7.2,  6.85, 13.1, 13.3, 12.7, 13.0, 12.6,
                                             31.0, 31.9, 30.2, 30.6, 31.6, 56.1, 54.0, 55.9, 53.4, 56.8};

const std::vector<double> standards = {0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 4, 4, 4, 4};

TEST(CalibrationPage, TellsWhatAFarReadingDoesToTheLine) {
  std::vector<double> signal = {1.8,  2.0,  1.9,  1.95, 8.1,  8.3,  8.0,  8.2,
                                14.4, 14.7, 14.5, 14.6, 27.2, 26.8, 27.1, 29.0};
  const Calibration c = calibration_of(standards, signal);
  const Line all = least_squares(standards, signal);
  const Line without = least_squares({standards.begin(), standards.end() - 1}, {signal.begin(), signal.end() - 1});
  // Grubbs' G of the highest level, and its p by Student's t (n = 4): Bonferroni over the four readings.
  const double mean = (27.2 + 26.8 + 27.1 + 29.0) / 4;
  double squares = 0;
  for (const double y : {27.2, 26.8, 27.1, 29.0}) squares += (y - mean) * (y - mean);
  const double g = (29.0 - mean) / std::sqrt(squares / 3);
  const std::string words = sentences(calibration_page(c));
  const std::string numbers = fmt::format(
      "Without that reading the slope would be {} instead of {}, the intercept {} instead of {}. Nothing is removed: "
      "find out what happened.",
      rounded(without.slope, 5), rounded(all.slope, 5), rounded(without.intercept, 4), rounded(all.intercept, 4));
  const Page page = calibration_page(c);
  bool by_grubbs = false, by_cochran = false;
  for (const Advice& caution : page.cautions) {
    const std::string text = caution.text();
    if (text.starts_with("Row 16 (29 kcps at level 4) is a")) {
      by_grubbs = true;
      EXPECT_TRUE(has(text, fmt::format(" by Grubbs' test (G = {}, p = ", rounded(g, 3))));
      EXPECT_TRUE(has(text, numbers));
    } else if (text.starts_with("The scatter of level 4 is a")) {
      by_cochran = true;
      double variances = squares / 3;
      for (std::size_t l = 0; l < 3; ++l) {
        double sum = 0;
        for (std::size_t i = 0; i < 4; ++i) sum += signal[4 * l + i] / 4;
        for (std::size_t i = 0; i < 4; ++i) variances += (signal[4 * l + i] - sum) * (signal[4 * l + i] - sum) / 3;
      }
      EXPECT_TRUE(has(text, fmt::format(" by Cochran's test (C = {}, p = ", rounded(squares / 3 / variances, 3))));
      EXPECT_TRUE(has(text, "; the reading farthest out is that of row 16 (29 kcps)."));
      EXPECT_TRUE(has(text, numbers));
    }
  }
  EXPECT_TRUE(by_grubbs || by_cochran) << words;
  EXPECT_TRUE(has(words, by_grubbs && by_cochran ? "2 readings are suspicious" : "a reading is suspicious"));
  EXPECT_TRUE(has(words, "To be settled before use: "));
}

// One of six readings that lies far out of a quiet level, whose scatter is no larger than that of the others for it.
TEST(CalibrationPage, TellsOfAReadingFarFromItsReplicates) {
  const std::vector<double> amounts = {1, 1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 2, 4, 4, 4, 4, 4, 4};
  const std::vector<double> signal = {6.8,  9.0,  7.2,  9.2,  7.0,  8.8,   15.6,  13.0, 15.2,
                                      13.2, 15.0, 13.4, 27.0, 27.1, 26.95, 27.05, 26.9, 29.0};
  const Calibration c = calibration_of(amounts, signal);
  const double mean = (27.0 + 27.1 + 26.95 + 27.05 + 26.9 + 29.0) / 6;
  double squares = 0;
  for (std::size_t i = 12; i < 18; ++i) squares += (signal[i] - mean) * (signal[i] - mean);
  const double g = (29.0 - mean) / std::sqrt(squares / 5);
  ASSERT_EQ(c.suspicious.size(), 1u);
  EXPECT_NEAR(c.suspicious[0].statistic, g, 1e-12);
  const Page page = calibration_page(c);
  EXPECT_TRUE(has_caution(
      page,
      fmt::format(
          "Row 18 (29 kcps at level 4) is an outlier by Grubbs' test (G = {}, p = {}). "
          "Without that reading the slope would be {} instead of {}, the intercept {} "
          "instead of {}. Nothing is removed: find out what happened.",
          rounded(g, 3), probability_text(c.suspicious[0].p),
          rounded(least_squares({amounts.begin(), amounts.end() - 1}, {signal.begin(), signal.end() - 1}).slope, 5),
          rounded(least_squares(amounts, signal).slope, 5),
          rounded(least_squares({amounts.begin(), amounts.end() - 1}, {signal.begin(), signal.end() - 1}).intercept, 4),
          rounded(least_squares(amounts, signal).intercept, 4))))
      << sentences(page);
}

// A suspicious reading has its signal as it was read, the blank included, and the line without it is told
// only where there is one, with slope and intercept as such whatever their order in the model.
TEST(CalibrationPage, GivesSuspiciousReadingsAsTheyWereRead) {
  const std::vector<double> signal = {1.8,  2.0,  1.9,  1.95, 8.1,  8.3,  8.0,  8.2,
                                      14.4, 14.7, 14.5, 14.6, 27.2, 26.8, 27.1, 29.0};
  CalibrationOptions slope_first{.model = Model::written("I = b*c + a"), .limits = {.simulations = 0}};
  Calibration c = calibration_of(standards, signal, slope_first);
  ASSERT_EQ(c.reported.model().constant_index(), 1);
  const auto cautioned = [&c](const std::string& words) { return has_caution(calibration_page(c), words); };
  const Line all = least_squares(standards, signal);
  EXPECT_TRUE(cautioned(fmt::format(" instead of {}, the intercept ", rounded(all.slope, 5))));
  EXPECT_TRUE(cautioned(fmt::format(" instead of {}. Nothing is removed", rounded(all.intercept, 4))));
  c.curve.blank = 1.5;
  EXPECT_TRUE(cautioned("(30.5 kcps"));
  for (WithoutReading& without : c.without) without.slope = not_a_number;
  EXPECT_FALSE(cautioned("Without that reading"));
  c.without.clear();
  EXPECT_FALSE(cautioned("Without that reading"));
  EXPECT_TRUE(cautioned("(30.5 kcps"));
}

// The verdict names each test that failed with its p, and each that did not.
TEST(CalibrationPage, SaysWhatIsToBeSettledBeforeUse) {
  std::vector<double> c, clean, curved, growing;
  const std::vector<double> scatter = {-0.12, 0.05, 0.16, -0.09};
  for (std::size_t i = 0; i < 20; ++i) {
    c.push_back(static_cast<double>(i / 4));
    const double at = c.back();
    clean.push_back(2 + 6 * at + scatter[(i + i / 4) % 4]);
    curved.push_back(2 + 6 * at - 0.2 * at * at + scatter[(i + i / 4) % 4]);
    growing.push_back(2 + 6 * at + (0.1 + 4 * at) * scatter[(i + i / 4) % 4]);
  }
  const Page of_clean = calibration_page(calibration_of(c, clean));
  EXPECT_TRUE(has(sentences(of_clean),
                  "No lack of fit, no curvature, no difference of scatter between the levels and no "
                  "suspicious reading was detected."));
  // Without replicates no reading is tested, of two readings nothing.
  const std::string single = sentences(calibration_page(calibration_of({0, 1, 2, 3, 4}, {2.1, 7.9, 14.2, 19.9, 26.1})));
  EXPECT_TRUE(has(single, "No curvature was detected."));
  const std::string two = sentences(calibration_page(calibration_of({0, 1}, {2.1, 7.9})));
  EXPECT_TRUE(has(two, "These readings leave nothing to be tested: they are too few, or do not scatter."));
  // One pair is no test of a reading; three replicates are, or pairs at two levels.
  const auto tested = [](const std::vector<double>& amounts, const std::vector<double>& signals) {
    return sentences(calibration_page(calibration_of(amounts, signals))).find("suspicious reading was detected") !=
           std::string::npos;
  };
  EXPECT_FALSE(tested({1, 1, 2, 3, 4}, {2, 2.1, 3, 4.1, 5}));
  EXPECT_TRUE(tested({1, 1, 1, 2, 3, 4}, {2, 2.1, 2.05, 3, 4.1, 5}));
  EXPECT_TRUE(tested({1, 1, 2, 2, 3, 4}, {2, 2.1, 3, 3.05, 4.1, 5}));
  EXPECT_FALSE(tested({1, 1, 1, 2, 2, 2, 3}, {2, 2, 2, 3, 3, 3, 4.1}));
  EXPECT_TRUE(has(two, "All readings are equally weighted; none is left to estimate their scatter from."));
  EXPECT_EQ(line(of_clean, "Linearity", "Mandel").second, "A quadratic is not significantly better.");
  EXPECT_EQ(line(of_clean, "Linearity", "lack of fit").second, "No lack of fit detected.");
  EXPECT_EQ(line(of_clean, "Linearity", "intercept zero").second, "The intercept differs from zero.");

  const Calibration bent = calibration_of(c, curved);
  const Page of_bent = calibration_page(bent);
  const std::string text = sentences(of_bent);
  EXPECT_TRUE(has(
      text, fmt::format("To be settled before use: the means of the levels deviate from the curve (p = "
                        "{}); a quadratic describes the readings better (p = {}).",
                        probability_text(bent.linearity.lack_of_fit_p), probability_text(bent.linearity.mandel_p))));
  EXPECT_EQ(line(of_bent, "Linearity", "Mandel").second,
            "A quadratic describes the readings significantly better than the line.");

  const Calibration unequal = calibration_of(c, growing);
  ASSERT_FALSE(unequal.equal_scatter.is_equal);
  const Page of_unequal = calibration_page(unequal);
  EXPECT_TRUE(has(sentences(of_unequal),
                  fmt::format("To be settled before use: the scatter differs between the levels (p = {}), and "
                              "equal weights do not allow for it",
                              probability_text(unequal.equal_scatter.family_p))));
  // What to do about it comes first, and not again below.
  ASSERT_FALSE(of_unequal.cautions.empty());
  EXPECT_EQ(of_unequal.cautions.front().text(), unequal.suggestion.text());
  const EqualScatter& e = unequal.equal_scatter;
  EXPECT_EQ(cell(of_unequal, "Scatter", "Cochran", "statistic"), "C = " + rounded(e.cochran, 3));
  EXPECT_EQ(cell(of_unequal, "Scatter", "upper against lower third", "statistic"),
            fmt::format("variances {} to 1", rounded(e.high_to_low, 3)));
  // Weighted by what the levels scatter, the same readings have nothing to be settled about their scatter.
  const Page weighted = calibration_page(
      calibration_of(c, growing, {.scatter = {.kind = SignalScatter::Kind::both}, .limits = {.simulations = 0}}));
  EXPECT_FALSE(has(sentences(weighted), "equal weights do not allow for it"));
  EXPECT_TRUE(has(sentences(weighted),
                  "The readings are weighted by the scatter of the levels: s = sqrt(s0² + (k × net signal)²)"));
}

// Every p below 0.05 is to be settled, and none from there on: readings that bend more and more.
TEST(CalibrationPage, SettlesWhatIsSignificantAtFivePercent) {
  const std::vector<double> c = {0, 0, 1, 1, 2, 2, 3, 3, 4, 4};
  const std::vector<double> scatter = {-0.12, 0.05, 0.16, -0.09, 0.02, 0.11, -0.07, -0.1, 0.08, -0.03};
  int close = 0;
  for (double bend = 0; bend < 0.08; bend += 0.0004) {
    std::vector<double> signal;
    for (std::size_t i = 0; i < c.size(); ++i) signal.push_back(2 + 6 * c[i] - bend * c[i] * c[i] + scatter[i]);
    const Calibration made = calibration_of(c, signal);
    const std::string text = sentences(calibration_page(made));
    EXPECT_EQ(text.find("a quadratic describes the readings better (p = ") != std::string::npos,
              made.linearity.mandel_p < 0.05)
        << made.linearity.mandel_p;
    EXPECT_EQ(text.find("the means of the levels deviate from the curve (p = ") != std::string::npos,
              made.linearity.lack_of_fit_p < 0.05)
        << made.linearity.lack_of_fit_p;
    close += made.linearity.mandel_p >= 0.05 && made.linearity.mandel_p < 0.055;
  }
  EXPECT_GT(close, 0);
  Calibration made = calibration_of(c, {2, 2.1, 8, 8.1, 14.1, 13.9, 20, 20.1, 25.9, 26});
  for (const double p : {0.049, 0.05, 0.052}) {
    made.linearity.lack_of_fit_p = made.linearity.mandel_p = made.linearity.intercept_p = p;
    const Page page = calibration_page(made);
    EXPECT_EQ(says(page, "the means of the levels deviate"), p < 0.05) << p;
    EXPECT_EQ(says(page, "a quadratic describes the readings better"), p < 0.05) << p;
    EXPECT_EQ(line(page, "Linearity", "lack of fit").second == "No lack of fit detected.", p >= 0.05) << p;
    EXPECT_EQ(line(page, "Linearity", "Mandel").second == "A quadratic is not significantly better.", p >= 0.05) << p;
    EXPECT_EQ(line(page, "Linearity", "intercept zero").second == "The intercept differs from zero.", p < 0.05) << p;
  }
}

// Where the lowest third does not scatter at all, there is no ratio of variances.
TEST(CalibrationPage, TellsLevelsThatDoNotScatter) {
  const Page page =
      calibration_page(calibration_of({0, 0, 0, 1, 1, 1, 2, 2, 2}, {1, 1, 1, 7, 7.2, 7.1, 13.1, 12.8, 13.0}));
  EXPECT_EQ(cell(page, "Scatter", "upper against lower third", "statistic"), "the lower third does not scatter");
  EXPECT_EQ(cell(page, "Calibration levels", "0", "SD (%)"), "0");
  EXPECT_EQ(cell(page, "Calibration levels", "0", "n"), "3");
}

// The relative standard deviation is that of the size of a mean; of a mean of zero there is none.
TEST(CalibrationPage, HasARelativeScatterOfEveryMeanButZero) {
  const Page page =
      calibration_page(calibration_of({0, 0, 0, 1, 1, 1, 2, 2, 2}, {-2.1, -2.0, -1.9, -0.25, 0, 0.25, 2.1, 1.9, 2.0}));
  EXPECT_EQ(cell(page, "Calibration levels", "0", "SD (%)"), "5");
  EXPECT_EQ(cell(page, "Calibration levels", "1", "SD (%)"), "-");
  EXPECT_EQ(cell(page, "Calibration levels", "1", "SD"), "0.250");
  EXPECT_EQ(cell(page, "Calibration levels", "2", "SD (%)"), "5");
}

// Two digits of the uncertainty, whatever its leading one.
TEST(CalibrationPage, RoundsIntervalsOfLevels) {
  for (const double scale : {1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 7.0}) {
    const Calibration c =
        calibration_of({0, 0, 0, 1, 1, 1, 2, 2, 2}, {scale * 1.02, scale * 1.0, scale * 1.01, scale * 7, scale * 7.2,
                                                     scale * 7.1, scale * 13.1, scale * 12.8, scale * 13.0});
    const Page page = calibration_page(c);
    for (const CalibrationLevel& level : c.levels) {
      const double mean = (level.readings[0].signal + level.readings[1].signal + level.readings[2].signal) / 3;
      const double half = (level.interval.high - level.interval.low) / 2;
      EXPECT_NEAR(level.interval.low + half, mean, 1e-12 * scale);
      EXPECT_EQ(cell(page, "Calibration levels", shortest(level.amount), "95 % interval of the mean"),
                interval_text(level.interval.low, level.interval.high, half / 2));
    }
  }
}

TEST(CalibrationPage, SaysWhatIsDoneWithBlanks) {
  Readings readings{.amount = {"c", "mg/g"}, .signal = {"I", "kcps"}};
  for (const double c : {1.0, 2.0, 3.0, 4.0}) {
    for (const double off : {-0.1, 0.1}) add_to(readings, {.amount = c, .signal = 1 + 5 * c + off * (c == 2 ? -1 : 1)});
  }
  add_blanks(readings, {0.9, 1.1, 1.0});
  const std::string mean = with_uncertainty(1, 0.1 / std::sqrt(3)) + " kcps";
  const auto said = [&](BlankUse use, const std::optional<Model>& model = {}) {
    const Page page =
        calibration_page(calibrate(readings, {.model = model, .blank = use, .limits = {.simulations = 0}}));
    EXPECT_EQ(page.subject,
              "calibration of I against c by " +
                  std::string(use == BlankUse::include ? "11 readings at 5 levels" : "8 readings at 4 levels") +
                  ", 3 blanks");
    return sentences(page);
  };
  EXPECT_TRUE(has(said(BlankUse::none), "The mean of 3 blanks is " + mean + "; it is not part of the line."));
  EXPECT_TRUE(has(said(BlankUse::include),
                  "3 blanks with the mean " + mean + " are part of the line as standards of amount 0."));
  const std::string subtracted =
      "The mean " + mean +
      " of 3 blanks is subtracted from every signal; its uncertainty is common to all and is "
      "carried as covariance";
  EXPECT_TRUE(has(said(BlankUse::subtract), subtracted + ": it is part of the constant's uncertainty, and cancels"));
  EXPECT_TRUE(has(said(BlankUse::subtract, Model::written("I = b*c")), subtracted + ".\n"));
}

TEST(CalibrationPage, SaysHowTheReadingsAreWeighted) {
  const std::vector<double> c = {1, 1, 2, 2, 3, 3, 5, 5};
  const std::vector<double> signal = {7.1, 6.9, 13.1, 13.0, 18.9, 19.1, 31.0, 31.2};
  const Table table = Table::from_columns({{"c", "mg/g", c},
                                           {"I", "kcps", signal},
                                           {"u", "kcps", std::vector<double>(8, 0.1)},
                                           {"uc", "mg/g", std::vector<double>(8, 0.01)}});
  const Line fitted = least_squares(c, signal);
  double chi_squared = 0;
  for (std::size_t i = 0; i < 8; ++i)
    chi_squared += std::pow((signal[i] - fitted.intercept - fitted.slope * c[i]) / 0.1, 2);
  const auto said = [](const Calibration& calibration) { return sentences(calibration_page(calibration)); };
  const std::string equal = said(calibration_of(c, signal));
  EXPECT_TRUE(has(equal, fmt::format("All readings are equally weighted; their residual standard deviation is {} kcps.",
                                     rounded(0.1 * std::sqrt(chi_squared / 6), 4))));
  const CalibrationOptions stated{.scatter = {.kind = SignalScatter::Kind::stated}, .limits = {.simulations = 0}};
  const std::string of_signals =
      said(calibrate(readings_of(table, {.amount = "c", .signals = {"I"}, .signal_uncertainty = "u"}), stated));
  EXPECT_TRUE(
      has(of_signals, fmt::format("The stated uncertainties of I are used as stated: chi-squared is {} with 6 "
                                  "degrees of freedom (p = {}).",
                                  rounded(chi_squared, 4), probability_text(chi_squared_upper(chi_squared, 6)))));
  const Table three =
      Table::from_columns({{"c", "mg/g", {1, 2, 3}}, {"I", "kcps", {7.1, 12.9, 19.1}}, {"u", "kcps", {0.1, 0.1, 0.1}}});
  const std::string of_three =
      said(calibrate(readings_of(three, {.amount = "c", .signals = {"I"}, .signal_uncertainty = "u"}), stated));
  EXPECT_TRUE(has(of_three, " with 1 degree of freedom (p = "));
  const Readings both =
      readings_of(table, {.amount = "c", .signals = {"I"}, .amount_uncertainty = "uc", .signal_uncertainty = "u"});
  const std::string shared = said(calibrate(both, stated));
  EXPECT_TRUE(has(shared,
                  "The stated uncertainties of I and of the amounts c (readings of one standard share its "
                  "uncertainty) are used as stated"));
  CalibrationOptions apart = stated;
  apart.separate_standards = true;
  const std::string separate = said(calibrate(both, apart));
  EXPECT_TRUE(has(separate, " and of the amounts c (each reading of a standard of its own) are used"));
  const CalibrationOptions growing{.scatter = {.kind = SignalScatter::Kind::both}, .limits = {.simulations = 0}};
  const Calibration weighted = calibration_of(growing_amounts, growing_signals, growing);
  const std::string by_levels = said(weighted);
  EXPECT_TRUE(
      has(by_levels,
          fmt::format("with the most probable values s0 = {} kcps and k = {}. Intervals and limits average over the {} "
                      "weightings that",
                      rounded(weighted.curve.scatter.growing.constant, 3),
                      rounded(weighted.curve.scatter.growing.slope, 3), weighted.curve.weightings.size())));
  CalibrationOptions squared{.scatter = {.kind = SignalScatter::Kind::power, .power = 0.5},
                             .limits = {.simulations = 0}};
  EXPECT_TRUE(has(said(calibration_of(c, signal, squared)), "The scatter of I is taken as proportional to I^0.5.\n"));
}

// What the limits are for, and with which probabilities.
TEST(CalibrationPage, SaysWhatTheLimitsMean) {
  const std::vector<double> c = {0, 0, 1, 1, 2, 2, 4, 4};
  const std::vector<double> signal = {1.8, 2.0, 8.1, 8.3, 14.4, 14.7, 27.2, 26.8};
  const Page page = calibration_page(
      calibration_of(c, signal, {.limits = {.alpha = 0.01, .beta = 0.1, .readings = 3, .simulations = 40}}));
  const std::string answer = answer_of(page);
  EXPECT_TRUE(has(answer, "(α = 0.01, β = 0.1, 3 readings)."));
  EXPECT_EQ(answer.find("; detection limit"), answer.rfind("; detection limit")) << answer;
  std::string all = sentences(page);
  EXPECT_TRUE(has(all,
                  "For the mean of 3 readings of an unknown. The critical value is exceeded by a blank with nominal "
                  "probability 0.01; an amount at the detection limit of 'critical value and power' falls below it "
                  "with nominal probability 0.1;"));
  EXPECT_TRUE(has(all, "The uncertainties of the limits are those of 40 simulated calibrations."));
  const Calibration one = calibration_of(c, signal);
  all = sentences(calibration_page(one));
  EXPECT_TRUE(has(all, "For a single reading of an unknown."));
  EXPECT_FALSE(has(all, "simulated calibrations"));
  for (const LimitRoute& route : one.limits)
    EXPECT_EQ(cell(calibration_page(one), "Detection", std::string(name(route.route)), "detection limit"),
              rounded(route.detection, 3));
  EXPECT_TRUE(has(answer_of(calibration_page(one)), "(α = 0.05, β = 0.05, one reading)"));
}

TEST(CalibrationPage, ListsRowsAndWhatTheRangeLeavesOut) {
  const Table table = Table::from_columns(
      {{"c", "mg/g", {0, 0, 1, 1, 2, 2, 8, 9}}, {"I", "", {1.8, 2.0, 8.1, 8.3, 14.4, 14.7, 50, 57}}});
  const Calibration line =
      calibrate(readings_of(table, {.amount = "c", .signals = {"I"}}), {.high = 5, .limits = {.simulations = 0}});
  const Page page = calibration_page(line, true);
  EXPECT_TRUE(has_caution(page, "Not used, as outside the range: rows 7, 8."));
  // The ends belong to the range.
  const Calibration to_ends = calibrate(readings_of(table, {.amount = "c", .signals = {"I"}}),
                                        {.low = 1, .high = 8, .limits = {.simulations = 0}});
  EXPECT_TRUE(has_caution(calibration_page(to_ends), "Not used, as outside the range: rows 1, 2, 8."));
  ASSERT_EQ(page.data.rows.size(), 6U);
  EXPECT_EQ(number(page, 5, "row"), 6);
  EXPECT_EQ(number(page, 5, "I"), 14.7);
  EXPECT_NEAR(number(page, 5, "fitted") + number(page, 5, "residual"), 14.7, 1e-12);
  EXPECT_EQ(table_in(page, "Rows").rows.size(), 6U);
  EXPECT_TRUE(calibration_page(calibrate(readings_of(table, {.amount = "c", .signals = {"I"}}))).data.names[0] ==
              "route");
}

TEST(CalibrationPage, ShowsLevelsTestsAndLimits) {
  const Table table =
      Table::from_columns({{"c", "mg/g", {0, 0, 0, 1, 1, 1, 2, 2, 2, 4, 4, 4}},
                           {"I", "kcps", {1.8, 2.0, 1.9, 8.1, 8.3, 8.0, 14.4, 14.7, 14.5, 27.2, 26.8, 27.1}}});
  const Calibration c = calibrate(readings_of(table, {.amount = "c", .signals = {"I"}}));
  const Page page = calibration_page(c);
  // 8.1, 8.3, 8.0: mean 24.4/3, SD by hand.
  const double mean = 24.4 / 3;
  const double sd = std::sqrt((std::pow(8.1 - mean, 2) + std::pow(8.3 - mean, 2) + std::pow(8.0 - mean, 2)) / 2);
  EXPECT_EQ(cell(page, "Calibration levels", "1", "n"), "3");
  EXPECT_EQ(cell(page, "Calibration levels", "1", "mean (kcps)"), fmt::format("{:.5g}", mean));
  EXPECT_EQ(cell(page, "Calibration levels", "1", "SD"), rounded(sd, 3));
  EXPECT_EQ(cell(page, "Calibration levels", "1", "SD (%)"), fmt::format("{:.2g}", 100 * sd / mean));
  const Interval& of_mean = c.levels[1].interval;
  EXPECT_EQ(cell(page, "Calibration levels", "1", "95 % interval of the mean"),
            interval_text(of_mean.low, of_mean.high, (of_mean.high - of_mean.low) / 4));
  EXPECT_EQ(cell(page, "Calibration levels", "1", "curve"),
            fmt::format("{:.5g}", c.parameters[0].value + c.parameters[1].value));
  // In brief: the line and what it detects.
  std::vector<std::string> kept;
  for (const PageSection& section : in_brief(page).sections) kept.push_back(section.heading);
  EXPECT_EQ(kept, (std::vector<std::string>{"Parameters", "Detection and quantitation limits"}));
  ASSERT_FALSE(c.limits.empty());
  for (std::size_t i = 0; i < c.limits.size(); ++i) {
    const LimitRoute& route = c.limits[i];
    EXPECT_EQ(number(page, i, "detection"), route.detection);
    EXPECT_EQ(number(page, i, "detection_uncertainty"), route.detection_uncertainty);
    EXPECT_EQ(cell(page, "Detection", std::string(name(route.route)), "detection limit"),
              with_uncertainty(route.detection, route.detection_uncertainty));
    EXPECT_EQ(cell(page, "Detection", std::string(name(route.route)), "critical value (mg/g)"),
              std::isnan(route.critical) ? "-" : rounded(route.critical, 3));
    EXPECT_EQ(cell(page, "Detection", std::string(name(route.route)), "quantitation limit"),
              rounded(route.quantitation, 3));
  }
  // What holds for all is said once, and not of each again.
  const std::string text = text_of(page);
  EXPECT_TRUE(has(text, "All of them: below the lowest standard (1)."));
  EXPECT_FALSE(has(text, "; below the lowest standard"));
  EXPECT_NE(answer_of(page).find("kcps; detection limit ") == std::string::npos &&
                answer_of(page).find("; detection limit ") == std::string::npos,
            true);
  EXPECT_TRUE(has(answer_of(page), "(α = 0.05, β = 0.05, one reading)."));
}

// The tests of equal scatter, and what other weights would make of the readings, a row each.
TEST(CalibrationPage, ShowsTheScatterOfTheLevels) {
  Calibration c = calibration_of(growing_amounts, growing_signals);
  const auto tables = [](const Page& page) {
    std::vector<PageTable> all;
    for (const PageSection& section : page.sections) {
      for (const Block& block : section.blocks) {
        if (section.heading != "Scatter of the levels") continue;
        if (const auto* table = std::get_if<PageTable>(&block); table != nullptr && !table->rows.empty())
          all.push_back(*table);
      }
    }
    return all;
  };
  const std::vector<PageTable> shown = tables(calibration_page(c));
  ASSERT_EQ(shown.size(), 2U);
  const EqualScatter& e = c.equal_scatter;
  EXPECT_EQ(shown[0].rows,
            (std::vector<std::vector<std::string>>{
                {"Brown-Forsythe", "F = " + rounded(e.brown_forsythe, 3), probability_text(e.brown_forsythe_p)},
                {"Cochran", "C = " + rounded(e.cochran, 3), probability_text(e.cochran_p)},
                {"upper against lower third", fmt::format("variances {} to 1", rounded(e.high_to_low, 3)),
                 probability_text(e.high_to_low_p)}}));
  ASSERT_GE(c.alternatives.size(), 2U);
  ASSERT_EQ(shown[1].rows.size(), c.alternatives.size());
  for (std::size_t i = 0; i < c.alternatives.size(); ++i) {
    const Alternative& a = c.alternatives[i];
    EXPECT_EQ(shown[1].rows[i], (std::vector<std::string>{a.name, with_uncertainty(a.slope, a.slope_uncertainty),
                                                          with_uncertainty(a.intercept, a.intercept_uncertainty),
                                                          std::isnan(a.detection) ? "-" : rounded(a.detection, 3),
                                                          with_uncertainty(a.mid_amount, a.mid_uncertainty)}));
  }
  // What is not known, or beyond all numbers, is said; one treatment alone is no choice.
  c.alternatives[0].mid_amount = not_a_number;
  c.equal_scatter.high_to_low = infinity;
  c.equal_scatter.brown_forsythe = not_a_number;
  const std::vector<PageTable> without = tables(calibration_page(c));
  EXPECT_EQ(without[0].rows[0][0], "Cochran");
  EXPECT_EQ(without[0].rows[1][1], "the lower third does not scatter");
  EXPECT_EQ(without[1].rows[0][4], "beyond it");
  c.alternatives.resize(2);
  EXPECT_EQ(tables(calibration_page(c)).size(), 2U);
  c.alternatives.resize(1);
  c.equal_scatter.family_p = not_a_number;
  EXPECT_TRUE(tables(calibration_page(c)).empty());
}

// Two samples, each with its own line: I = 2 (c + amount), amounts 1 and 3.
TEST(AdditionsPage, NamesEachSample) {
  Readings readings{.amount = {"c", "mg/g"}, .signal = {"I", ""}};
  for (const auto& [sample, amount] : {std::pair{"gate", 1.0}, {"rim", 3.0}}) {
    for (const double added : {0.0, 1.0, 2.0, 3.0})
      add_to(readings, {.amount = added,
                        .signal = 2 * (added + amount) + (added == 1   ? 0.01
                                                          : added == 2 ? -0.01
                                                                       : 0),
                        .sample = sample});
  }
  const auto found = standard_additions(readings, {});
  const Page page = additions_page(found);
  EXPECT_EQ(page.subject, "standard additions: 8 readings of 2 samples, c added");
  ASSERT_EQ(page.data.rows.size(), 2U);
  EXPECT_NEAR(number(page, 0, "amount"), 1, 0.02);
  EXPECT_NEAR(number(page, 1, "amount"), 3, 0.02);
  EXPECT_TRUE(has(text_of(page), "The sample 'rim' as measured holds"));
  EXPECT_EQ(cell(page, "Parameters of 'rim'", found[1].calibration.parameters[0].name, "value"),
            with_uncertainty(found[1].calibration.parameters[0].value,
                             found[1].calibration.parameters[0].standard_uncertainty));
  EXPECT_EQ(additions_page(std::span(found).first(1)).subject, "standard additions: 4 readings of 'gate', c added");
}

}  // namespace
}  // namespace truecurve
