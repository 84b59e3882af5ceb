// What is read from a curve: places, values, averages, starts, additions. Each sentence for what it may have to say.
#include <truecurve/report/calibration_page.hpp>
#include <truecurve/report/comparison_page.hpp>
#include <truecurve/report/estimate_page.hpp>
#include <truecurve/report/fit_page.hpp>

#include "../support.hpp"
#include "page_reading.hpp"

namespace truecurve {
namespace {

using test::cell;
using test::has_caution;
using test::sentences;
using test::table_in;

Fit a_line() { return fit(shape_model("line"), Observations::of({1, 2, 3, 4, 5}, {3.1, 4.9, 7.2, 8.8, 11.1})); }

TEST(SolutionPage, SaysWhatIsReachedApproachedOrNear) {
  const Estimate line = a_line().estimate();
  const auto page_of = [&line](const std::vector<Root>& roots, const SolveOptions& options = {}) {
    return solution_page(line, 5, roots, options);
  };
  const Root reached{.value = 2.0123, .standard_uncertainty = 0.034, .interval = {1.94, 2.08}};
  Page page = page_of({reached});
  EXPECT_EQ(sentences(page), "y = 5 is reached at x = 2.012(34).\n");
  EXPECT_EQ(table_in(page, "").rows[0],
            (std::vector<std::string>{"2.012(34)", "0.034", interval_text(1.94, 2.08, (2.0123 - 1.94) / 2), ""}));
  EXPECT_EQ(table_in(page, "").headings[2].text, "95 % interval");
  EXPECT_EQ(std::get<std::string>(page.data.rows[0].back()), "yes");
  EXPECT_EQ(sentences(page_of({reached}, {.response_uncertainty = 0.25})),
            "y = 5.00(25) is reached at x = 2.012(34).\n");
  // The nearest place has no uncertainty: it is rounded by the width of its interval.
  const Root nearest{.value = 2.0123, .is_nearest = true, .interval = {1.6, 2.4}, .is_by_profile = true};
  page = page_of({nearest});
  EXPECT_EQ(sentences(page),
            "y = 5 is not reached; the curve comes nearest to it at x = 2.01, within their uncertainty.\n");
  EXPECT_EQ(table_in(page, "").rows[0][1], "-");
  EXPECT_EQ(table_in(page, "").rows[0][3], "nearest place, not reached");
  EXPECT_EQ(table_in(page, "").headings[2].text, "95 % profile interval");
  EXPECT_EQ(std::get<std::string>(page.data.rows[0].back()), "no");
  EXPECT_EQ(sentences(page_of({reached, nearest})), "y = 5 is reached or compatible with the curve at 2 places.\n");
  EXPECT_EQ(sentences(page_of({reached, reached, reached})), "y = 5 is reached at 3 places.\n");
  for (double width = 0.1; width < 1; width *= 1.07) {
    const Root other{.value = 2.0123456, .is_nearest = true, .interval = {2 - width / 2, 2 + width / 2}};
    EXPECT_EQ(table_in(page_of({other}), "").rows[0][0], limit_text(2.0123456, width / 4)) << width;
  }
  // Of an interval with one end, twice what is known of it.
  for (const Interval open : {Interval{-infinity, 2.1723}, Interval{1.8523, infinity}}) {
    const Root half{.value = 2.0123, .interval = open};
    EXPECT_EQ(table_in(page_of({half}), "").rows[0][0], "2.012") << open.low;
  }
  EXPECT_EQ(table_in(page_of({Root{.value = 2.0123, .interval = {-infinity, infinity}}}), "").rows[0][0], "2.01230");
  // Along an asymptote.
  const Root later{.value = 5, .is_nearest = true, .interval = {4.123456, infinity}};
  const Root before{.value = 1, .is_nearest = true, .interval = {-infinity, 1.56789}};
  page = page_of({later});
  EXPECT_EQ(sentences(page),
            "y = 5 is not reached; the curve comes near it, within their uncertainty, from x = 4.123 on.\n");
  EXPECT_EQ(table_in(page, "").rows[0][0], "-");
  EXPECT_EQ(table_in(page, "").rows[0][3], "compatible, not reached");
  EXPECT_EQ(sentences(page_of({before, later})),
            "y = 5 is not reached; the curve comes near it, within their uncertainty, up to x = 1.568 and from x = "
            "4.123 on.\n");
  // Outside the data by a share of their range.
  for (const auto& [outside, words] : {std::pair{0.0, ""},
                                       {0.0049, "outside the data by less than 1 % of their range"},
                                       {0.0051, "outside the data by 1 % of their range"},
                                       {0.254, "outside the data by 25 % of their range"},
                                       {infinity, "outside the data"}}) {
    Root beyond = reached;
    beyond.outside = outside;
    EXPECT_EQ(table_in(page_of({beyond}), "").rows[0][3], words);
  }
}

// The sentence gives four values, the table all.
TEST(PredictionPage, SaysFourValues) {
  const Estimate line = a_line().estimate();
  for (const std::size_t count : {1u, 4u, 5u}) {
    std::vector<Vector> points(1);
    std::string said;
    std::vector<double> x;
    for (std::size_t i = 0; i < count; ++i) x.push_back(1.5 + static_cast<double>(i) / 2);
    points[0] = Vector(x);
    const auto values = band(line, points, 0.95);
    for (std::size_t i = 0; i < std::min<std::size_t>(count, 4); ++i)
      said += (i == 0 ? "y is " : "; ") + with_uncertainty(values[i].value, values[i].standard_uncertainty) +
              " at x = " + shortest(x[i]);
    const Page page = prediction_page(line, points, values, 0.95);
    EXPECT_EQ(sentences(page), said + (count > 4 ? " and so on.\n" : ".\n"));
    EXPECT_EQ(table_in(page, "").rows.size(), count);
  }
}

// An interval has two digits of the half of its longer side, whatever the value; one that is not known has none.
TEST(PredictionPage, RoundsIntervalsByTheirLongerSide) {
  const Estimate line = a_line().estimate();
  const std::vector<Vector> at = {{2.5}};
  for (double side = 0.1; side < 1; side *= 1.07) {
    for (const double other : {0.3 * side, side}) {
      const std::vector<BandPoint> points = {
          {.value = 2.01, .standard_uncertainty = 0.03, .confidence = {2.01 - side, 2.01 + other}}};
      const auto row = table_in(prediction_page(line, at, points, 0.95), "").rows[0];
      EXPECT_EQ(row[2], interval_text(2.01 - side, 2.01 + other, side / 2)) << side;
      EXPECT_EQ(row[3], "-");
    }
  }
}

// An equation of more than 300 characters is for programs.
TEST(FitPage, GivesNoEndlessEquation) {
  const Observations points = Observations::of({1, 2, 3, 4, 5}, {3.1, 4.9, 7.2, 8.8, 11.1});
  const std::string rest = "y = b*x + ";
  for (const std::size_t size : {299u, 300u, 301u}) {
    const Model model = Model::written(rest + std::string(size - rest.size(), 'a'));
    EXPECT_EQ(sentences(fit_page(fit(model, points))).find("With numbers: y = ") != std::string::npos, size <= 300)
        << size;
  }
}

TEST(PredictionPage, GivesNoBandOfNewCounts) {
  const Fit counts = fit(Model::written("ln(y) = a + b*x"),
                         Observations::counted({1, 2, 3, 4}, {20, 31, 52, 79}, {1, 1, 1, 1}, ResponseKind::counts));
  const std::vector<Vector> at = {{2.5}};
  const Page page = prediction_page(counts.estimate(), at, band(counts.estimate(), at, 0.95), 0.95);
  EXPECT_TRUE(
      has_caution(page, "y is counted: a new number scatters as its mean says, and has no prediction band here."));
  EXPECT_EQ(table_in(page, "").rows[0][3], "-");
}

// Of a transformed left side the curve is the median; the mean stands beside it.
TEST(PredictionPage, TellsMedianFromMean) {
  const Fit made =
      fit(Model::written("ln(y) = a + b*x"), Observations::of({1, 2, 3, 4, 5, 6}, {2.9, 4.2, 7.9, 10.1, 17.2, 23.0}));
  const std::vector<Vector> at = {{2.5}};
  const auto values = band(made.estimate(), at, 0.95);
  const Page page = prediction_page(made.estimate(), at, values, 0.95);
  const MeanPoint mean = means(made.estimate(), at, 0.95)[0];
  EXPECT_EQ(cell(page, "", "2.5", "y, median"), with_uncertainty(values[0].value, values[0].standard_uncertainty));
  EXPECT_EQ(cell(page, "", "2.5", "mean"), with_uncertainty(mean.value, mean.standard_uncertainty));
  EXPECT_EQ(cell(page, "", "2.5", "95 % interval of the mean"),
            interval_text(mean.interval.low, mean.interval.high,
                          std::max(mean.interval.high - mean.value, mean.value - mean.interval.low) / 2));
}

// Weights to three decimals; what has next to none is counted.
TEST(AveragedPage, ListsWeights) {
  const Estimate line = a_line().estimate();
  const std::vector<WeightedEstimate> curves = {
      {.name = "line", .weight = 0.8115, .estimate = line, .is_suggested = true},
      {.name = "power", .weight = 0.1876, .estimate = line},
      {.name = "hill", .weight = 0.0005, .estimate = line},
      {.name = "square", .weight = 0.0004, .estimate = line}};
  const std::vector<Vector> at = {{2.5}};
  const Page page = averaged_prediction_page(curves, at, averaged_band(curves, at, 0.95), 0.95);
  EXPECT_TRUE(has(
      sentences(page),
      fmt::format("Weights: line ({:.3f}), power (0.188), hill ({:.3f}), 1 with less than 0.0005.\n", 0.8115, 0.0005)));
  EXPECT_TRUE(has(sentences(page), "The confidence band of line alone is conditional"));
  EXPECT_EQ(page.subject, "averaged over 4 candidates by weight");
  EXPECT_EQ(page.data.rows.size(), 1u);
  EXPECT_EQ(page.data.rows[0].size(), page.data.names.size());
  EXPECT_EQ(table_in(page, "").headings[5].text, "line alone");
  const BandPoint alone = band_at(line, {2.5}, 0.95)[0];
  const BandPoint whole = averaged_band(curves, at, 0.95)[0].whole;
  const auto bounds = [](const Interval& i) { return interval_text(i.low, i.high, (i.high - i.low) / 4); };
  EXPECT_EQ(
      table_in(page, "").rows[0],
      (std::vector<std::string>{"2.5", with_uncertainty(whole.value, whole.standard_uncertainty), "0",
                                bounds(whole.confidence), bounds(whole.prediction), bounds(alone.confidence), ""}));
  EXPECT_EQ(table_in(page, "").rows[0].back(), "");
  EXPECT_FALSE(has_caution(page, "Extrapolated"));
  const std::vector<Vector> beyond = {{9}};
  const std::vector<WeightedEstimate> even = {{.name = "line", .weight = 0.5, .estimate = line},
                                              {.name = "power", .weight = 0.5, .estimate = line}};
  const Page outside = averaged_prediction_page(even, beyond, averaged_band(even, beyond, 0.95), 0.95);
  EXPECT_EQ(table_in(outside, "").rows[0].back(), "outside the data");
  EXPECT_EQ(table_in(outside, "").rows[0][5], "");
  EXPECT_FALSE(has(sentences(outside), " alone is conditional"));
  EXPECT_FALSE(has(sentences(outside), "with less than"));
}

TEST(PreviewPage, SaysHowFarTheCurveIs) {
  const std::vector<double> x = {0, 1, 2};
  const Model grow = Model::written("y = a*exp(b*x)");
  const FitOptions from{.starts = {{"a", 2}, {"b", std::log(2.0)}}};
  // 2, 4, 8 against 1, 2, 4 with u = 0.5: (1 + 4 + 16)/0.25.
  const Observations stated = Observations::of(x, {1, 2, 4}, {0.5, 0.5, 0.5});
  EXPECT_TRUE(has(sentences(preview_page(preview(grow, stated, from), stated)),
                  "Chi-squared is 84 for 3 rows; the root mean square residual is 2.646."));
  const Observations plain = Observations::of(x, {1, 2, 4});
  const FitOptions logs{.starts = {{"a", 0}, {"b", 1}}};
  EXPECT_TRUE(has(sentences(preview_page(preview(Model::written("ln(y) = a + b*x"), plain, logs), plain)),
                  " on the scale of ln(y)."));
  // Of counts twice the likelihood ratio: means 2, 4, 8 against 1, 2, 4.
  const Observations counts = Observations::counted(x, {1, 2, 4}, {1, 1, 1}, ResponseKind::counts);
  const double deviance = 2 * (7 * std::log(0.5) + 7);
  EXPECT_TRUE(has(sentences(preview_page(preview(grow, counts, from), counts)),
                  fmt::format("The deviance is {:.6g}.", deviance)));
  EXPECT_TRUE(has(sentences(preview_page(
                      preview(Model::written("y = a + b*x"), counts, {.starts = {{"a", -2}, {"b", 1}}}), counts)),
                  "There the curve leaves the range that a mean can have."));
  const Page proposed = preview_page(preview(shape_model("exponential"), plain), plain);
  EXPECT_EQ(table_in(proposed, "").rows[0][2], "solved for: it enters linearly");
  EXPECT_EQ(table_in(proposed, "").rows[1][2], "proposed from the data");
  EXPECT_EQ(proposed.subject, "at its starting values, over 3 rows; nothing is fitted");
}

// What a counted response depends on: its predictor by name, or both of them.
TEST(FitPage, SaysOnWhatACountDepends) {
  const Table table = Table::from_columns({{"t", "s", {1, 2, 3, 4, 5, 6, 7, 8}},
                                           {"d", "mm", {1, 3, 2, 4, 1, 3, 2, 4}},
                                           {"N", "", {90, 70, 61, 45, 43, 30, 26, 18}}});
  const auto page_of = [&table](const char* model, const std::vector<std::string>& predictors) {
    return sentences(fit_page(fit(
        Model::written(model, predictors),
        Observations(table, {.response = "N", .predictors = predictors, .counting = {.kind = ResponseKind::counts}}))));
  };
  EXPECT_TRUE(has(page_of("ln(N) = a + b*t", {"t"}), "a dependence on t is detected."));
  EXPECT_TRUE(has(page_of("ln(N) = a + b*t + c*d", {"t", "d"}), "a dependence on the predictors is detected."));
}

// A sample that was diluted before its additions, and one of which nothing is known but the sum.
TEST(AdditionsPage, SaysWhatTheSampleHeldBeforeItsDilution) {
  Readings readings{.amount = {"c", "mg/g"}, .signal = {"I", ""}};
  for (const double added : {0.0, 0.0, 1.0, 1.0, 2.0, 3.0})
    add_to(
        readings,
        {.amount = added, .signal = 2 * (added + 1.5) + (readings.all.size() % 2 == 0 ? 0.02 : -0.02), .dilution = 4});
  const auto found = standard_additions(readings, {});
  ASSERT_EQ(found.size(), 1U);
  const Page page = additions_page(found);
  EXPECT_EQ(page.subject, "standard additions: 6 readings of one sample, c added");
  readings.amount.name = "added";
  EXPECT_EQ(additions_page(standard_additions(readings, {})).subject, "standard additions: 6 readings of one sample");
  EXPECT_TRUE(has(sentences(page), fmt::format("The sample before its dilution by 4 holds {} mg/g (95 % interval {}).",
                                               with_uncertainty(found[0].amount, found[0].standard_uncertainty),
                                               interval_text(found[0].interval.low, found[0].interval.high,
                                                             found[0].standard_uncertainty))));
  EXPECT_NEAR(found[0].amount, 6, 0.1);
  EXPECT_TRUE(has(sentences(page), "The signal without any analyte is taken as 0"));
}

}  // namespace
}  // namespace truecurve
