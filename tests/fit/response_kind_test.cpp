// Responses that least squares would mistreat: events, ranks, running totals.

#include "../support.hpp"

namespace truecurve {
namespace {

Fit line_through(const std::vector<double>& x, const std::vector<double>& y, const FitOptions& options = {}) {
  return fit(shape_model("line", "x", "y"),
             Observations(Table::from_columns({{"x", "", x}, {"y", "", y}}), {.response = "y", .predictors = {"x"}}),
             options);
}

std::string remark(const std::vector<double>& x, const std::vector<double>& y) {
  const Fit made = line_through(x, y);
  return made.warnings().empty() ? "" : std::string(name(made.warnings().front().code));
}

TEST(ResponseKind, RefusesEventsUnlessNumbersAreMeant) {
  const std::vector<double> x = {1, 2, 3, 4, 5, 6};
  const std::vector<double> events = {0, 0, 1, 0, 1, 1};
  const Error error = test::caught([&] { (void)line_through(x, events); });
  EXPECT_EQ(error.code(), ErrorCode::not_supported);
  const std::vector<Means> means = error.details().remedy.means();
  ASSERT_EQ(means.size(), 2U);
  EXPECT_EQ(means[0].action, Action::name_event);
  EXPECT_EQ(means[0].argument, "1");
  EXPECT_EQ(means[1].action, Action::take_as_numbers);
  EXPECT_NEAR(line_through(x, events, {.events_as_numbers = true}).estimate().parameters()[1], 0.2, 1e-15);
  EXPECT_NO_THROW((void)line_through(x, {0, 0, 1, 0, 1, 2}));
  EXPECT_NO_THROW((void)line_through(x, {1, 1, 1, 1, 1, 1}));
  EXPECT_NO_THROW((void)line_through({1, 2, 3, 4}, {0, 1, 1, 0}));
}

// Every usual share by rank, written with few digits or many, rising or falling; the same steps along even places are
// an exact line, and steps that are not the shares of so many rows are set values.
TEST(ResponseKind, RemarksOnSharesByRank) {
  const std::vector<double> life = {12.5, 20.1, 33.0, 41.2, 60.9, 88.8, 120.5};
  const auto share = [](double offset, double whole, double scale) {
    std::vector<double> y;
    for (int i = 1; i <= 7; ++i) y.push_back(scale * (i + offset) / (7 + whole));
    return y;
  };
  EXPECT_EQ(remark(life, share(0, 0, 1)), "ordered_shares");
  EXPECT_EQ(remark(life, share(0, 1, 100)), "ordered_shares");
  EXPECT_EQ(remark(life, share(-0.3, 0.4, 1)), "ordered_shares");
  EXPECT_EQ(remark(life, {0.93, 0.79, 0.64, 0.5, 0.36, 0.21, 0.07}), "ordered_shares");
  EXPECT_EQ(remark({88.8, 12.5, 60.9, 20.1, 33.0, 41.2}, {0.917, 0.083, 0.75, 0.25, 0.417, 0.583}), "ordered_shares");
  EXPECT_EQ(remark(life, {0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7}), "");
  EXPECT_EQ(remark(life, {0.08, 0.21, 0.33, 0.5, 0.66, 0.8, 0.91}), "");
  EXPECT_EQ(remark({1, 2, 3, 4, 5, 6, 7}, {0.125, 0.25, 0.375, 0.5, 0.625, 0.75, 0.87}), "");
}

// Levels that were set, against readings: said when the axes are exchanged, and not of readings that are rounded.
TEST(ResponseKind, RemarksOnExchangedAxes) {
  const std::vector<double> read = {1.02, 0.97, 1.05, 2.1, 1.98, 2.03, 2.93, 3.04, 3.01};
  const std::vector<double> set = {1, 1, 1, 2, 2, 2, 3, 3, 3};
  EXPECT_EQ(remark(read, set), "exchanged_axes");
  EXPECT_EQ(remark(set, read), "");
  std::vector<double> shuffled = set;
  std::vector<double> of_shuffled = read;
  std::swap(shuffled[0], shuffled[8]);
  std::swap(of_shuffled[0], of_shuffled[8]);
  EXPECT_EQ(remark(of_shuffled, shuffled), "exchanged_axes");
  EXPECT_NE(remark(read, {1, 1, 1, 1, 2, 2, 2, 3, 3}), "exchanged_axes");  // rounded: not equally often
  EXPECT_NE(remark({1, 1, 2, 3, 4, 5, 6, 7, 8}, set), "exchanged_axes");   // the predictor was set as well
  EXPECT_NE(remark({1.1, 2.1, 3, 4.2, 5, 6, 7, 8}, {1, 2, 1, 2, 1, 2, 1, 2}), "exchanged_axes");  // two values
}

TEST(ResponseKind, TellsRunningTotalsFromCountsAndReadings) {
  RandomNumbers random(4);
  const int sets = 50;
  int totals_told = 0, others_told = 0;
  for (int set = 0; set < sets; ++set) {
    std::vector<double> x, totals, counts, readings;
    double total = 0;
    for (int i = 1; i <= 40; ++i) {
      x.push_back(i);
      total += std::max(0.0, std::round(4 + 2 * random.normal()));
      totals.push_back(total);
      counts.push_back(std::max(0.0, std::round(4 * i + 2 * std::sqrt(i) * random.normal())));
      readings.push_back(std::round(4 * i + random.normal()));
    }
    totals_told += remark(x, totals) == "cumulative_counts";
    others_told += remark(x, counts) == "cumulative_counts";
    others_told += remark(x, readings) == "cumulative_counts";
    // Totals begin at none, or after an increment or a few.
    for (double& value : totals) value += 400;
    others_told += remark(x, totals) == "cumulative_counts";
  }
  EXPECT_GE(totals_told, 45);
  EXPECT_LE(others_told, 1);
  // From a total of 20 on: of fewer events nothing is said.
  std::vector<double> few = {2, 2, 4, 4, 5, 10, 12, 14, 14, 14, 16, 16, 18, 20};
  const std::vector<double> hours = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14};
  EXPECT_EQ(remark(hours, few), "cumulative_counts");
  for (double& total : few) --total;
  EXPECT_EQ(remark(hours, few), "");
}

// Totals are sums of counts where their increments scatter about as those do: not where they scatter by less than half
// of that, as rounded readings do, nor by more than twice.
TEST(ResponseKind, KnowsTotalsByTheScatterOfTheirIncrements) {
  const std::vector<double> hours = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14};
  for (const std::vector<double>& totals : {std::vector<double>{8, 12, 17, 24, 29, 35, 41, 45, 49, 52, 57, 61, 67, 71},
                                            {3, 8, 15, 19, 22, 24, 28, 34, 40, 47, 54, 61, 70, 77},
                                            {2, 5, 8, 9, 11, 13, 14, 17, 20, 22, 24, 26, 27, 29},
                                            {2, 3, 5, 7, 9, 10, 11, 12, 15, 17, 18, 20, 21, 22},
                                            {3, 23, 34, 41, 44, 56, 78, 84, 87, 87, 87, 89, 95, 95},
                                            {0, 5, 5, 7, 15, 19, 30, 30, 33, 33, 33, 33, 36, 38},
                                            {1, 7, 7, 9, 19, 24, 34, 34, 34, 34, 37, 37, 49, 58},
                                            {0, 1, 3, 3, 3, 3, 3, 3, 9, 20, 20, 20, 23, 26}}) {
    double squares = 0;  // of the second differences: twice the variance of an increment
    for (std::size_t i = 2; i < 14; ++i) squares += std::pow(totals[i] - 2 * totals[i - 1] + totals[i - 2], 2);
    const double ratio = squares / 12 / 2 / ((totals[13] - totals[0]) / 13);
    EXPECT_EQ(remark(hours, totals), 0.25 < ratio && ratio < 4 ? "cumulative_counts" : "") << ratio;
  }
}

// And where counts about a smooth curve would hardly have risen in every step: with a probability below 5 %, of all
// steps, each with the slope about it.
TEST(ResponseKind, KnowsTotalsByTheirNeverFalling) {
  RandomNumbers random(11);
  int below = 0, above = 0;
  for (int set = 0; set < 4000 && (below < 8 || above < 8); ++set) {
    std::vector<double> hours, totals;
    double total = 0;
    for (int i = 0; i < 12; ++i) {
      hours.push_back(i + 1);
      totals.push_back(total += std::max(0.0, std::round(5 + 2.2 * random.normal())));
    }
    double chance = 1;
    for (int i = 0; i < 11; ++i) {
      const auto at = [&](int k) { return totals[static_cast<std::size_t>(std::clamp(k, 0, 11))]; };
      const double width = std::min(11, i + 3) - std::max(0, i - 2);
      const double difference = 0.5 + (at(i + 3) - at(i - 2)) / width;
      chance *= 0.5 * std::erfc(-difference / std::sqrt(2 * (at(i) + at(i + 1))));
    }
    double squares = 0;
    for (std::size_t i = 2; i < 12; ++i) squares += std::pow(totals[i] - 2 * totals[i - 1] + totals[i - 2], 2);
    const double ratio = squares / 10 / 2 / ((totals[11] - totals[0]) / 11);
    const std::string said = remark(hours, totals);
    if (chance > 0.05) EXPECT_NE(said, "cumulative_counts") << chance;
    // Others are not told for their increments, or for how they lie about a cubic.
    below += chance < 0.05 && chance > 0.047 && said == "cumulative_counts";
    above += chance > 0.05 && chance < 0.055 && ratio > 0.3 && ratio < 3.5;
  }
  EXPECT_GE(below, 8);
  EXPECT_GE(above, 8);
}

}  // namespace
}  // namespace truecurve
