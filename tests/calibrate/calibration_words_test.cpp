// What a calibration says of itself, and when.

#include "../support.hpp"

namespace truecurve {
namespace {

using Points = std::vector<std::pair<double, double>>;

Readings readings_of_points(const Points& points, const std::vector<double>& blanks = {},
                            double stated = not_a_number) {
  Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
  for (const auto& [amount, signal] : points)
    add_to(readings, {.amount = amount, .signal = signal, .signal_uncertainty = stated});
  for (const double blank : blanks) {
    add_to(readings, {.kind = ReadingKind::blank, .signal = blank, .signal_uncertainty = stated});
  }
  return readings;
}

// Pairs on a line that rises by 2 or falls, without anything to remark.
Points pairs(std::size_t levels, double slope = 2) {
  const double off[] = {0.05, -0.08, 0.11, -0.02, 0.03, -0.12, 0.07, 0.01, -0.06, 0.04, 0.09, -0.1};
  Points points;
  for (std::size_t i = 0; i < 2 * levels; ++i) {
    const auto amount = static_cast<double>(1 + i / 2);
    points.emplace_back(amount, 20 + slope * amount + off[i]);
  }
  return points;
}

std::vector<std::string> remarks_of(const Readings& readings, CalibrationOptions options = {}) {
  options.limits.simulations = 0;
  return calibrate(readings, options).remarks;
}

using Said = std::vector<std::string>;

TEST(CalibrationWords, AreSaidWhereTheyHold) {
  EXPECT_EQ(remarks_of(readings_of_points(pairs(5))), Said{});
  EXPECT_EQ(remarks_of(readings_of_points(pairs(4))), Said{"With only 4 levels linearity can hardly be judged."});
  EXPECT_EQ(remarks_of(readings_of_points(pairs(5, -2))),
            Said{"The signal falls with the amount: the slope is negative."});
  Points uneven = pairs(5);
  uneven.emplace_back(3, 26.02);
  uneven.pop_back();
  uneven.pop_back();
  EXPECT_EQ(remarks_of(readings_of_points(uneven)), Said{"The levels have between 1 and 2 readings."});
}

// The blank lies beyond the lowest standard on the side from which the signal comes, subtracted or not.
TEST(CalibrationWords, NameABlankThatLiesBeyondTheLowestStandard) {
  const std::string said =
      "The mean blank ({}) lies beyond the mean of the lowest standard ({} at 1): blank or standard may be "
      "contaminated, or the standard is below the detection limit.";
  for (const BlankUse use : {BlankUse::none, BlankUse::subtract}) {
    const CalibrationOptions options{.blank = use};
    EXPECT_EQ(remarks_of(readings_of_points(pairs(5), {20.1, 19.9, 20}), options), Said{});
    EXPECT_EQ(remarks_of(readings_of_points(pairs(5), {22.6, 22.4, 22.5}), options),
              Said{fmt::format(fmt::runtime(said), "22.5", "21.98")});
    const Said falling = remarks_of(readings_of_points(pairs(5, -2), {17.6, 17.4, 17.5}), options);
    ASSERT_EQ(falling.size(), 2u);
    EXPECT_EQ(falling[1], fmt::format(fmt::runtime(said), "17.5", "17.98"));
    EXPECT_EQ(remarks_of(readings_of_points(pairs(5, -2), {20.1, 19.9, 20}), options).size(), 1u);
    Points from_nothing = pairs(5);
    for (auto& [amount, signal] : from_nothing) amount -= 1;
    EXPECT_EQ(remarks_of(readings_of_points(from_nothing, {22.6, 22.4, 22.5}), options), Said{}) << "no standard is 0";
  }
}

TEST(CalibrationWords, CompareResidualsWithStatedUncertainties) {
  CalibrationOptions options;
  options.scatter = {SignalScatter::Kind::stated};
  EXPECT_EQ(remarks_of(readings_of_points(pairs(5), {}, 0.08), options), Said{});
  const Said said = remarks_of(readings_of_points(pairs(5), {}, 0.03), options);
  const Fit by_hand =
      fit(shape_model("line"),
          Observations::of({1, 1, 2, 2, 3, 3, 4, 4, 5, 5},
                           {22.05, 21.92, 24.11, 23.98, 26.03, 25.88, 28.07, 28.01, 29.94, 30.04}, Vector(10, 0.03)));
  ASSERT_EQ(said.size(), 1u);
  EXPECT_EQ(
      said[0],
      fmt::format("Chi-squared is {:.4g} with 8 degrees of freedom ({}): the residuals are larger than the stated "
                  "uncertainties explain.",
                  by_hand.chi_squared(), p_equals(chi_squared_upper(by_hand.chi_squared(), 8))));
  // From p = 0.01 on.
  for (const double p : {0.0098, 0.0102}) {
    const double u = 0.03 * std::sqrt(by_hand.chi_squared() / chi_squared_quantile(1 - p, 8));
    EXPECT_EQ(remarks_of(readings_of_points(pairs(5), {}, u), options).size(), p < 0.01 ? 1u : 0u);
  }
}

// The smaller p of two tests of one question is named, and what may be done depends on the curve.
TEST(CalibrationWords, SayThatTheMeansDoNotLieOnTheCurve) {
  Points bent = pairs(6);
  for (auto& [amount, signal] : bent) signal += 0.2 * amount * amount;
  const Calibration line = calibrate(readings_of_points(bent), {.limits = {.simulations = 0}});
  ASSERT_LT(line.linearity.mandel_p, line.linearity.lack_of_fit_p);
  ASSERT_EQ(line.remarks.size(), 1u);
  EXPECT_EQ(
      line.remarks[0],
      fmt::format("The level means do not lie on the straight line (Mandel's test p = {}): restrict the range, or "
                  "calibrate with a curve.",
                  probability_text(line.linearity.mandel_p)));
  Points waves = pairs(6);
  for (std::size_t i = 0; i < waves.size(); ++i) waves[i].second += i / 2 % 2 == 0 ? 1.5 : -1.5;
  for (const char* shape : {"line", "polynomial(2)"}) {
    CalibrationOptions options{.model = shape_model(shape, "x", "y"), .limits = {.simulations = 0}};
    const bool is_line = std::string(shape) == "line";
    const Calibration wavy = calibrate(readings_of_points(waves), options);
    ASSERT_EQ(wavy.remarks.size(), 1u);
    EXPECT_EQ(wavy.remarks[0],
              fmt::format("The level means do not lie on the {} (lack of fit p = {}): restrict the range, or calibrate "
                          "with {}.",
                          is_line ? "straight line" : "curve", probability_text(wavy.linearity.lack_of_fit_p),
                          is_line ? "a curve" : "another"));
  }
}

// Of readings whose absence lets the others agree, the one that lets them agree best.
// By the smaller p of two tests, doubled.
TEST(CalibrationWords, CallALineCurvedByTheSmallerOfTwo) {
  int close = 0;
  for (double bend = 0; bend < 0.06; bend += 0.0002) {
    Points points = pairs(6);
    for (auto& [amount, signal] : points) signal += bend * amount * amount;
    const Calibration c = calibrate(readings_of_points(points), {.limits = {.simulations = 0}});
    const double p = std::min(c.linearity.mandel_p, c.linearity.lack_of_fit_p);
    EXPECT_EQ(!c.remarks.empty(), 2 * p < curved_line) << p;
    close += p > curved_line / 3 && p < curved_line;
  }
  EXPECT_GT(close, 1);
}

TEST(CalibrationWords, NameTheReadingThatSpoilsALine) {
  Points points = {{1, 1.0}, {2, 2.05}, {3, 2.95}, {1.5, 1.52}, {10, -8}, {10.5, 10.45}};
  for (const bool turned : {false, true}) {
    if (turned) std::swap(points[4], points[5]);
    const Error error = test::caught([&] { (void)calibrate(readings_of_points(points)); });
    EXPECT_EQ(error.code(), ErrorCode::rank_deficient);
    const std::string words = "look at row {} first ({} at 10), which lies far from the others";
    EXPECT_TRUE(error.message().ends_with(fmt::format(fmt::runtime(words), turned ? 6 : 5, -8))) << error.message();
    // As it was read, where blanks are taken off.
    Points gross = points;
    for (auto& [amount, signal] : gross) signal += 20;
    const Readings with_blanks = readings_of_points(gross, {19.9, 20.1, 20});
    const Error net = test::caught([&] { (void)calibrate(with_blanks, {.blank = BlankUse::subtract}); });
    EXPECT_TRUE(net.message().ends_with(fmt::format(fmt::runtime(words), turned ? 6 : 5, 12))) << net.message();
  }
}

// Of four readings none is accused by the line through the other three.
TEST(CalibrationWords, NameNoReadingOfFour) {
  for (const bool fifth : {false, true}) {
    Points points = {{1, 1.0}, {2, 2.05}, {10, -8}, {10.5, 10.45}};
    if (fifth) points.emplace_back(3, 2.95);
    const Error error = test::caught([&] { (void)calibrate(readings_of_points(points)); });
    EXPECT_EQ(error.code(), ErrorCode::rank_deficient);
    EXPECT_EQ(has(error.message(), "look at row 3 first"), fifth);
  }
}

TEST(CalibrationWords, SuggestByWhatTheReplicatesTell) {
  const auto suggested = [](const Points& points) {
    return calibrate(readings_of_points(points), {.limits = {.simulations = 0}}).suggestion.text();
  };
  EXPECT_EQ(suggested({{1, 3.1}, {2, 4.9}, {3, 7.2}, {4, 8.8}, {5, 11.1}}),
            "Without replicates at two levels or more the scatter can't be compared between levels.");
  EXPECT_EQ(suggested({{1, 3.1}, {1, 3.1}, {2, 4.9}, {3, 7.2}, {4, 8.8}, {5, 11.1}}),
            "Without replicates at two levels or more the scatter can't be compared between levels.");
  EXPECT_EQ(suggested({{1, 3.1}, {1, 3.1}, {2, 4.9}, {2, 4.9}, {3, 7.2}, {4, 8.8}, {5, 11.1}}),
            "The replicates of each level are equal: there is no scatter that could be compared.");
  // The scatter is that of the first four levels, and ten times as large in the fifth.
  Points points;
  const double off[] = {1, -1.1, 0.2, 0.7, -0.8};
  for (int level = 1; level <= 6; ++level) {
    for (const double d : off) points.emplace_back(level, 10 * level + (level < 5 ? 0.05 : 2) * d);
  }
  const std::string growing = suggested(points);
  EXPECT_TRUE(growing.starts_with("The scatter differs between the levels (p ")) << growing;
  EXPECT_TRUE(has(growing, " Weights from the levels' scatter use all levels and are suggested."));
  EXPECT_TRUE(has(growing, " Up to 4 no difference is detected; equal weights are acceptable there."));
}

}  // namespace
}  // namespace truecurve
