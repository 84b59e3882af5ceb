// The page and the table of quantities.
#include <truecurve/report/calibration_text.hpp>

#include <limits>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

// A sample that is diluted already is told the total, too.
TEST(QuantitiesText, SaysHowMuchToDilute) {
  EXPECT_EQ(dilution_advice(5, 1), "dilute by about 5");
  EXPECT_EQ(dilution_advice(5, 10), "dilute by about 5 more, 50 in all");
  EXPECT_EQ(dilution_advice(50, 25), "dilute by about 50 more, 1250 in all");
}

// An interval without an end is told from a number that is not there.
TEST(QuantitiesText, WritesUnboundedIntervals) {
  Quantities quantities;
  Quantified q;
  q.sample = "A";
  q.kind = ReadingKind::sample;
  q.unknown.signals = {3};
  q.amount.amount = 0.5;
  q.amount.interval = {-std::numeric_limits<double>::infinity(), 2};
  quantities.unknowns.push_back(q);
  const std::string table = quantities_csv(quantities);
  EXPECT_NE(table.find("A,sample,1,1,,0.5,,-inf,2,"), std::string::npos) << table;
}

}  // namespace
}  // namespace truecurve
