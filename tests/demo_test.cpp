// The demo data are what their truth and seed make, and the fits find the truth again.
#include <truecurve/io/calibration_record.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/io/record.hpp>

#include "../demo/make_demo_data.hpp"
#include "../demo/truth.hpp"
#include "support.hpp"

namespace truecurve {
namespace {

TEST(DemoData, AreTheCommittedFiles) {
  for (const demo::DemoFile& file : demo::demo_files()) {
    EXPECT_EQ(file.text, test::file_text(test::demo_file(file.name))) << file.name << ": run make_demo_data demo";
  }
}

// The record that the examples of predict and solve read.
TEST(DemoData, HoldTheRecordOfTheDensityFit) {
  const auto before = std::filesystem::current_path();
  std::filesystem::current_path(test::source_folder());
  const auto result =
      test::run_command({"fit", "demo/density.csv", "polynomial(2)", "--x", "w_Sn", "--y", "rho", "--format", "json"});
  std::filesystem::current_path(before);
  const std::string stored_text = test::file_text(test::source_folder() / "demo/density.json");
  const auto fresh_record = nlohmann::json::parse(result.out);
  EXPECT_EQ(fresh_record["data"], nlohmann::json::parse(stored_text)["data"]);
  const Estimate fresh = read_fit_record(result.out, "fresh");
  const Estimate stored = read_fit_record(stored_text, "stored");
  EXPECT_TRUE(as_eigen(fresh.parameters()).isApprox(as_eigen(stored.parameters()), 1e-13));
  EXPECT_TRUE(as_eigen(fresh.covariance()).isApprox(as_eigen(stored.covariance()), 1e-12));
}

// The record that the examples of quantify read.
TEST(DemoData, HoldTheRecordOfTheLeadCalibration) {
  const auto before = std::filesystem::current_path();
  std::filesystem::current_path(test::source_folder());
  const auto result =
      test::run_command({"calibrate", "demo/lead_calibration.csv", "--x", "c_Pb", "--y", "I", "--blank", "subtract",
                         "--spread", "both", "--leave-out", "36", "--day", "2026-11-24", "--format", "json"});
  std::filesystem::current_path(before);
  ASSERT_EQ(result.code, 0) << result.error;
  const StoredCalibration fresh = read_calibration_record(result.out, "fresh");
  const StoredCalibration stored =
      read_calibration_record(test::file_text(test::source_folder() / "demo/lead_calibration.json"), "stored");
  EXPECT_TRUE(as_eigen(fresh.curve.estimate.parameters()).isApprox(as_eigen(stored.curve.estimate.parameters()), 1e-9));
  EXPECT_TRUE(as_eigen(fresh.curve.estimate.covariance()).isApprox(as_eigen(stored.curve.estimate.covariance()), 1e-7));
  EXPECT_EQ(fresh.curve.weightings.size(), stored.curve.weightings.size());
  EXPECT_NEAR(decision_limits(fresh.curve, fresh.limits).detection,
              decision_limits(stored.curve, stored.limits).detection, 1e-7);
  EXPECT_EQ(fresh.curve.blank, stored.curve.blank);
}

// Every unknown of the demo within three standard uncertainties of what it was made from; the mistyped replicate is
// named, and the line without it is the true one.
TEST(DemoData, ReadTheLeadOfTheUnknowns) {
  const Table table = read_csv(test::source_folder() / "demo/lead_calibration.csv");
  const ReadingColumns columns{.amount = "c_Pb", .signals = {"I"}, .kind = "kind"};
  const Calibration all = calibrate(readings_of(table, columns), {.limits = {.simulations = 0}});
  ASSERT_FALSE(all.suspicious.empty());
  const std::size_t mistyped = all.suspicious[0].reading.row;
  EXPECT_EQ(all.suspicious[0].amount, demo::LeadCalibrationTruth::levels[demo::LeadCalibrationTruth::mistyped_level]);
  const Calibration line =
      calibrate(readings_of(table, columns, {{mistyped, "mistyped"}}),
                {.blank = BlankUse::subtract, .scatter = {SignalScatter::Kind::both}, .limits = {.simulations = 0}});
  EXPECT_TRUE(line.suspicious.empty());
  const double u = std::sqrt(line.reported.covariance()(1, 1));
  EXPECT_LT(std::abs(line.reported.parameters()[1] - demo::LeadCalibrationTruth::sensitivity), 3 * u);
  const Quantities found = quantify(
      line.curve,
      readings_of(read_csv(test::source_folder() / "demo/lead_unknowns.csv"),
                  {.amount = "c_Pb", .signals = {"I"}, .kind = "kind", .sample = "sample", .dilution = "dilution"}));
  ASSERT_EQ(found.unknowns.size(), demo::LeadUnknownsTruth::samples.size());
  for (std::size_t i = 0; i < found.unknowns.size(); ++i) {
    const Amount& amount = found.unknowns[i].amount;
    EXPECT_LT(std::abs(amount.amount - demo::LeadUnknownsTruth::samples[i].amount), 3 * amount.standard_uncertainty)
        << found.unknowns[i].sample;
  }
}

void expect_truth(const Fit& result, const std::string& parameter, double truth) {
  const ParameterEstimate got = result.parameter(parameter);
  EXPECT_LT(std::abs(got.value - truth), 3 * got.standard_uncertainty) << parameter << " = " << got.value;
}

Fit demo_line(const char* file, const char* x, const char* y) {
  const Table table = read_csv(test::demo_file(file));
  return fit(shape_model("line", x, y), Observations(table, {.response = y, .predictors = {x}}));
}

TEST(DemoData, LeadBackToTheirTruth) {
  const Fit thermometers = demo_line("thermometers.csv", "t_ref", "t_test");
  expect_truth(thermometers, "a", demo::ThermometerTruth::offset);
  expect_truth(thermometers, "b", demo::ThermometerTruth::slope);
  const Fit lead = demo_line("lead_standards.csv", "c_Pb", "I");
  expect_truth(lead, "a", demo::LeadStandardsTruth::blank);
  expect_truth(lead, "b", demo::LeadStandardsTruth::sensitivity);
  const auto demo_fit = [](const char* file, const char* shape, std::vector<std::string> x, const char* y,
                           Route route = Route::direct) {
    return fit(shape_model_of_several(shape, x, y, route),
               Observations(read_csv(test::demo_file(file)), {.response = y, .predictors = x}));
  };
  const auto expect_truths = [](const Fit& result, const std::vector<std::pair<const char*, double>>& truths) {
    for (const auto& [parameter, truth] : truths) expect_truth(result, parameter, truth);
  };
  expect_truths(demo_fit("density.csv", "polynomial(2)", {"w_Sn"}, "rho"),
                {{"b0", demo::DensityTruth::b0}, {"b1", demo::DensityTruth::b1}, {"b2", demo::DensityTruth::b2}});
  expect_truths(demo_fit("viscosity.csv", "arrhenius", {"T"}, "eta", Route::linearized),
                {{"c", std::log(demo::ViscosityTruth::a)}, {"b", demo::ViscosityTruth::energy / 8.31446261815324}});
  expect_truths(demo_fit("viscosity.csv", "arrhenius", {"T"}, "eta"),
                {{"a", demo::ViscosityTruth::a}, {"b", demo::ViscosityTruth::energy / 8.31446261815324}});
  const Fit tone = demo_fit("tone.csv", "product-of-powers", {"t", "D"}, "f", Route::linearized);
  expect_truths(tone, {{"p1", demo::ToneTruth::p}, {"p2", demo::ToneTruth::q}});
  EXPECT_GT(test_hypothesis(tone.estimate(), "p1 + p2 = -1").p, 0.01);
  using Cooling = demo::CoolingTruth;
  expect_truths(demo_fit("pour_cooling.csv", "newton-cooling", {"t"}, "T"),
                {{"y_s", Cooling::surroundings}, {"y_0", Cooling::poured}, {"tau", Cooling::tau}});
  using Ring = demo::RingDownTruth;
  expect_truths(
      demo_fit("ring_down.csv", "damped-oscillation", {"t"}, "v"),
      {{"c", Ring::offset}, {"a", Ring::amplitude}, {"tau", Ring::tau}, {"f", Ring::frequency}, {"phi", Ring::phase}});
  using Resonance = demo::ResonanceTruth;
  expect_truths(demo_fit("resonance.csv", "lorentzian-peak", {"f"}, "P"), {{"b0", Resonance::b0},
                                                                           {"b1", Resonance::b1},
                                                                           {"h", Resonance::height},
                                                                           {"x0", Resonance::f0},
                                                                           {"w", Resonance::width}});
  using Patina = demo::PatinaTruth;
  expect_truths(demo_fit("patina.csv", "logistic", {"years"}, "d"),
                {{"m", Patina::limit}, {"k", Patina::rate}, {"x0", Patina::middle}});
  // Base e or base b: one curve, and either says the other's parameter.
  const Fit by_rate = demo_fit("patina.csv", "exponential", {"years"}, "d");
  const Fit by_base = demo_fit("patina.csv", "exponential-base", {"years"}, "d");
  EXPECT_NEAR(by_rate.chi_squared() / by_base.chi_squared(), 1, 1e-12);
  EXPECT_NEAR(by_base.parameter("b").value, std::exp(by_rate.parameter("b").value), 1e-10);
}

}  // namespace
}  // namespace truecurve
