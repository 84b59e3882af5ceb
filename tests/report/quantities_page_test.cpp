// The page of quantities.
#include <truecurve/report/calibration_page.hpp>
#include <truecurve/report/renderers.hpp>

#include "../support.hpp"
#include "page_reading.hpp"

namespace truecurve {
namespace {

using test::cell;
using test::has_caution;
using test::table_in;

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
  EXPECT_TRUE(has(text, "dilute by about 5  "));
  EXPECT_TRUE(has(text, "dilute by about 5 more, 50 in all"));
  const Page page = samples.page({1}, {8});
  EXPECT_EQ(page.answer.find("c (mg/g): "), 0U) << page.answer;
  EXPECT_TRUE(page.cautions.empty());
  // A list of many samples is cut in the answer, never in the table.
  for (const std::size_t count : {6u, 7u}) {
    const Page many = samples.page(std::vector<double>(count, 1), std::vector<double>(count, 8));
    EXPECT_EQ(std::count(many.answer.begin(), many.answer.end(), ';'), 5) << many.answer;
    EXPECT_EQ(many.answer.ends_with(" and so on."), count > 6) << many.answer;
    EXPECT_EQ(std::get<PageTable>(many.lead.blocks.front()).rows.size(), count);
  }
}

// A factor of dilution and a part of the uncertainty have columns where one of the samples has them.
TEST(QuantitiesPage, HasTheColumnsThatItsSamplesNeed) {
  const ReadSamples samples;
  const auto headings = [](const Page& page) {
    std::string all;
    for (const Heading& heading : table_in(page, "").headings) all += heading.text + "|";
    return all;
  };
  for (const auto& [dilutions, factors] :
       {std::pair{std::vector<double>{1, 1}, ""}, {{2, 2}, "factor|"}, {{1, 2}, "factor|"}, {{2, 1}, "factor|"}}) {
    const Page page = samples.page(dilutions, {8, 9});
    EXPECT_EQ(headings(page), fmt::format("sample|n|{}c (mg/g)|95 % interval|u(readings)|u(curve)|", factors));
    for (std::size_t i = 0; i < 2 && *factors != '\0'; ++i)
      EXPECT_EQ(table_in(page, "").rows[i][2], shortest(dilutions[i]));
  }
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
  EXPECT_TRUE(has(table, "\n\"A, upper\",sample,1,1,,0.5,,-inf,2,"));
}

// Controls stand in a table of their own: recovery in percent, and the error in its standard uncertainties.
TEST(QuantitiesPage, ShowsControlsByThemselves) {
  const Calibration c = ReadSamples().line;
  Readings readings{.amount = {"c", "mg/g"}, .signal = {"I", ""}};
  readings.all.push_back({.kind = ReadingKind::sample, .signal = 10, .sample = "gate", .row = 1});
  readings.all.push_back({.kind = ReadingKind::control, .amount = 1.5, .signal = 11.4, .sample = "check", .row = 2});
  readings.all.push_back({.kind = ReadingKind::sample, .signal = 12, .sample = "rim", .row = 3});
  const Quantities found = quantify(c.curve, readings);
  const Page page = quantities_page(found, c.readings.amount, c.curve, c.options.limits);
  const PageTable& controls = table_in(page, "Controls");
  ASSERT_EQ(controls.rows.size(), 1U) << text_of(page);
  const Quantified& check = found.unknowns.at(1);
  ASSERT_EQ(check.kind, ReadingKind::control);
  const double amount = check.amount.amount;
  const double u = check.amount.standard_uncertainty;
  EXPECT_EQ(cell(page, "Controls", "check", "known (mg/g)"), "1.5");
  EXPECT_EQ(cell(page, "Controls", "check", "found"), with_uncertainty(amount, u));
  EXPECT_EQ(cell(page, "Controls", "check", "recovery"), with_uncertainty(100 * amount / 1.5, 100 * u / 1.5) + " %");
  EXPECT_EQ(cell(page, "Controls", "check", "error / u"), fmt::format("{:.2f}", (amount - 1.5) / u));
  Quantities certain = found;
  certain.unknowns[1].amount.standard_uncertainty = 0;
  EXPECT_EQ(
      cell(quantities_page(certain, c.readings.amount, c.curve, c.options.limits), "Controls", "check", "error / u"),
      "-");
  // Of a line that is exact there is no uncertainty to count in; a signal that is not read has no amount.
  const Calibration exact =
      calibrate(readings_of(Table::from_columns({{"c", "mg/g", {0, 1, 2, 3, 4}}, {"I", "", {2, 8, 14, 20, 26}}}),
                            {.amount = "c", .signals = {"I"}}));
  Readings controls_alone{.amount = {"c", "mg/g"}, .signal = {"I", ""}};
  controls_alone.all.push_back(
      {.kind = ReadingKind::control, .amount = 1.5, .signal = 11, .sample = "check", .row = 1});
  const Page none =
      quantities_page(quantify(exact.curve, controls_alone), exact.readings.amount, exact.curve, exact.options.limits);
  EXPECT_EQ(cell(none, "Controls", "check", "found"), "1.50000");
  EXPECT_EQ(cell(none, "Controls", "check", "error / u"), "-");
}

TEST(QuantitiesPage, SaysWhatEachFlagMeans) {
  const Calibration c = ReadSamples().line;
  const auto page_of = [&c](const std::vector<Quantified>& unknowns, const LimitOptions& limits = {}) {
    Quantities found;
    found.unknowns = unknowns;
    return quantities_page(found, c.readings.amount, c.curve, limits);
  };
  Quantified q;
  q.sample = "gate";
  q.unknown.signals = {3, 3.1};
  q.amount.amount = 0.1234;
  q.amount.standard_uncertainty = 0.056;
  q.amount.interval = {0.01, 0.24};
  q.amount.budget = {.readings = 0.05, .curve = 0.025, .blank = not_a_number, .dilution = not_a_number};
  q.limits = {.critical = 0.1567, .detection = 0.3123};
  q.limits.quantitation = 0.6789;
  struct Case {
    AmountFlag flag;
    const char *remark, *caution;
  };
  for (const Case& known :
       {Case{AmountFlag::not_detected, "not detected (critical value 0.157)",
             "a blank exceeds with nominal probability 0.01."},
        Case{AmountFlag::below_detection_limit, "detected, below the detection limit 0.312",
             "Detected, but below the detection limit"},
        Case{AmountFlag::below_quantitation_limit, "below the quantitation limit 0.679", ""},
        Case{AmountFlag::below_zero, "below zero",
             "The whole interval lies below zero: check blank, matrix and baseline."},
        Case{AmountFlag::above_range, "above the range", "Above the highest standard the curve is not known"}}) {
    q.flag = known.flag;
    const Page page = page_of({q}, {.alpha = 0.01});
    EXPECT_EQ(cell(page, "", "gate", "flag"), known.remark);
    EXPECT_EQ(page.answer, fmt::format("c (mg/g): 0.123(56) in gate [{}].", known.remark));
    EXPECT_EQ(page.cautions.size(), known.caution[0] == '\0' ? 0U : 1U);
    if (known.caution[0] != '\0') EXPECT_TRUE(has_caution(page, known.caution)) << known.caution;
    EXPECT_EQ(cell(page, "", "gate", "n"), "2");
    EXPECT_EQ(cell(page, "", "gate", "u(readings)"), "0.050");
    EXPECT_EQ(cell(page, "", "gate", "u(curve)"), "0.025");
    EXPECT_EQ(cell(page, "", "gate", "u(blank)"), "(none)");
    EXPECT_EQ(cell(page, "", "gate", "95 % interval"), interval_text(0.01, 0.24, 0.056));
  }
  q.flag = AmountFlag::ambiguous;
  q.amount.other_amounts = {3.21987, 5};
  EXPECT_EQ(cell(page_of({q}), "", "gate", "flag"), "ambiguous with 3.220, 5.000");
  q.flag = AmountFlag::none;
  q.amount.other_amounts.clear();
  const Page plain = page_of({q, q});
  EXPECT_EQ(plain.answer, "c (mg/g): 0.123(56) in gate; 0.123(56) in gate.");
  EXPECT_EQ(cell(plain, "", "gate", "flag"), "(none)");
  EXPECT_EQ(plain.subject, "read through " + c.curve.estimate.model().text());
  EXPECT_EQ(page_of({}).answer, "");
}

}  // namespace
}  // namespace truecurve
