// The page of quantities.
#include <truecurve/report/calibration_page.hpp>
#include <truecurve/report/renderers.hpp>

#include <limits>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

// Quantities as they come from reading three samples through a line.
struct ReadSamples {
  Calibration line =
      calibrate(readings_of(Table::from_columns({{"c", "mg/g", {0, 0, 1, 1, 2, 2, 4, 4}},
                                                 {"I", "", {1.8, 2.0, 8.1, 8.3, 14.4, 14.7, 27.2, 26.8}}}),
                            {.amount = "c", .signals = {"I"}}));

  [[nodiscard]] Page page(const std::vector<double>& dilutions, const std::vector<double>& signals) const {
    Table table = Table::from_columns({{"I", "", signals}, {"dilution", "", dilutions}});
    const Readings readings =
        readings_of(table, {.signals = {"I"}, .dilution = "dilution", .otherwise = ReadingKind::sample});
    return quantities_page(quantify(line.curve, readings), line.readings.amount, line.curve, line.options.limits);
  }
};

// A sample beyond the highest standard is told how much to dilute; one that is diluted already the total, too.
TEST(QuantitiesPage, SaysHowMuchToDilute) {
  const ReadSamples samples;
  const std::string text = text_of(samples.page({1, 10, 1}, {60, 60, 8}));
  EXPECT_NE(text.find("dilute by about 5  "), std::string::npos) << text;
  EXPECT_NE(text.find("dilute by about 5 more, 50 in all"), std::string::npos) << text;
  const Page page = samples.page({1}, {8});
  EXPECT_EQ(page.answer.find("c (mg/g): "), 0U) << page.answer;
  EXPECT_TRUE(page.cautions.empty());
  // A list of many samples is cut in the answer, never in the table.
  const Page many = samples.page(std::vector<double>(9, 1), {3, 4, 5, 6, 7, 8, 9, 10, 11});
  EXPECT_NE(many.answer.find(" and so on."), std::string::npos) << many.answer;
  EXPECT_EQ(std::get<PageTable>(many.lead.blocks.front()).rows.size(), 9U);
}

// An interval without an end is told from a number that is not there.
TEST(QuantitiesPage, WritesUnboundedIntervals) {
  const ReadSamples samples;
  Quantities quantities;
  Quantified q;
  q.sample = "A, upper";
  q.kind = ReadingKind::sample;
  q.unknown.signals = {3};
  q.amount.amount = 0.5;
  q.amount.interval = {-std::numeric_limits<double>::infinity(), 2};
  quantities.unknowns.push_back(q);
  const std::string table = csv_of(quantities_page(quantities, samples.line.readings.amount, samples.line.curve, {}));
  EXPECT_NE(table.find("\n\"A, upper\",sample,1,1,,0.5,,-inf,2,"), std::string::npos) << table;
}

}  // namespace
}  // namespace truecurve
