// The demo data are what their truth and seed make, and the fits find the truth again.
#include "../demo/make_demo_data.hpp"
#include "../demo/truth.hpp"
#include "support.hpp"

#include <truecurve/fit/fit.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/model/shapes.hpp>

#include <cmath>

namespace truecurve {
namespace {

TEST(DemoData, AreTheCommittedFiles) {
  for (const demo::DemoFile& file : demo::demo_files()) {
    EXPECT_EQ(file.text, test::file_text(test::source_folder() / "demo" / file.name)) << file.name << ": run make_demo_data demo";
  }
}

void expect_truth(const Fit& result, const std::string& parameter, double truth) {
  const ParameterEstimate got = result.parameter(parameter);
  EXPECT_LT(std::abs(got.value - truth), 3 * got.standard_uncertainty) << parameter << " = " << got.value;
}

Fit demo_line(const char* file, const char* x, const char* y) {
  const Table table = read_csv(test::source_folder() / "demo" / file);
  return fit(shape_model("line", x, y), Observations(table, {.response = y, .predictors = {x}}));
}

TEST(DemoData, LeadBackToTheirTruth) {
  const Fit thermometers = demo_line("thermometers.csv", "t_ref", "t_test");
  expect_truth(thermometers, "a", demo::ThermometerTruth::offset);
  expect_truth(thermometers, "b", demo::ThermometerTruth::slope);
  const Fit lead = demo_line("lead_standards.csv", "c_Pb", "I");
  expect_truth(lead, "a", demo::LeadStandardsTruth::blank);
  expect_truth(lead, "b", demo::LeadStandardsTruth::sensitivity);
}

}  // namespace
}  // namespace truecurve
