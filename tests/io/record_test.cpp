// Records: what is restored predicts as what was stored, whatever was fitted; records of 0.1 are read as before.
#include <truecurve/io/calibration_record.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/io/record.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

Fit decay_fit(const Model& model, const FitOptions& options, bool stated) {
  RandomNumbers random(4);
  std::vector<double> x, y, u;
  for (int i = 1; i <= 24; ++i) {
    x.push_back(0.5 * i);
    u.push_back(0.05 + 0.005 * i);
    y.push_back(6 * std::exp(-x.back() / 4) + 1 + u.back() * random.normal());
  }
  return fit(model, stated ? Observations::of(x, y, u) : Observations::of(x, y), options);
}

TEST(FitRecord, RestoresWhatPredictsTheSame) {
  const Model decay = Model::written("y = a*exp(-x/tau) + c");
  const Model line = shape_model("line");
  struct Case {
    const char* what;
    Model model;
    FitOptions options;
    bool stated;
  };
  for (const Case& c : {Case{"stated", decay, {}, true},
                        {"scatter of stated", decay, {.uncertainty = UncertaintyBasis::scatter}, true},
                        {"scatter", decay, {}, false},
                        {"polynomial in its working form", shape_model("polynomial(4)"), {}, false},
                        {"left side", Model::written("ln(y) = c - k*x"), {}, false},
                        {"spread", line, {.spread = Spread::of_power(1)}, false},
                        {"held", decay, {.fixed = {{"c", 1}}}, true},
                        {"at its limit", decay, {.within = {{"c", 1.5, infinity}}}, true}}) {
    const Fit made = decay_fit(c.model, c.options, c.stated);
    const Estimate back = read_fit_record(fit_record(made, 0.9), "memory");
    const Estimate& stored = made.estimate();
    EXPECT_EQ(back.parameters(), stored.parameters()) << c.what;
    EXPECT_EQ(back.standard_uncertainties(), stored.standard_uncertainties()) << c.what;
    EXPECT_EQ(back.degrees_of_freedom(), stored.degrees_of_freedom()) << c.what;
    EXPECT_EQ(back.basis(), stored.basis()) << c.what;
    EXPECT_EQ(back.scale(), stored.scale()) << c.what;
    EXPECT_EQ(back.free_parameters(), stored.free_parameters()) << c.what;
    const Vector places = {0.7, 5, 11};
    const auto wanted = band_at(stored, places, 0.95);
    const auto got = band_at(back, places, 0.95);
    for (std::size_t i = 0; i < places.size(); ++i) {
      EXPECT_EQ(got[i].value, wanted[i].value) << c.what;
      EXPECT_EQ(got[i].confidence.low, wanted[i].confidence.low) << c.what;
      EXPECT_EQ(got[i].simultaneous.high, wanted[i].simultaneous.high) << c.what;
      // What each row scatters by is not kept where it differs from row to row.
      const bool by_row = stored.new_observation().form == Scatter::Form::by_row;
      if (!by_row) EXPECT_EQ(got[i].prediction.high, wanted[i].prediction.high) << c.what;
    }
  }
}

TEST(FitRecord, OfTheVersionBeforeIsRead) {
  const std::string text = test::file_text(test::source_folder() / "tests/reference/records/fit_0.1.0.json");
  const auto json = nlohmann::json::parse(text);
  ASSERT_EQ(json["version"], "0.1.0");
  const Estimate old = read_fit_record(text, "fit_0.1.0.json");
  for (std::size_t j = 0; j < 3; ++j) EXPECT_EQ(old.parameters()[j], json["parameters"][j]["value"]);
  const Observations rows(read_csv(test::source_folder() / "demo/density.csv"),
                          {.response = "rho", .predictors = {"w_Sn"}});
  const BandPoint now = band_at(fit(shape_model("polynomial(2)", "w_Sn", "rho"), rows).estimate(), {20}, 0.95)[0];
  const BandPoint then = band_at(old, {20}, 0.95)[0];
  EXPECT_NEAR(then.value, now.value, 1e-13 * now.value);
  EXPECT_NEAR(then.prediction.high, now.prediction.high, 1e-12);
}

TEST(CalibrationRecord, OfTheVersionBeforeIsRead) {
  const StoredCalibration old = read_calibration_record(
      test::file_text(test::source_folder() / "tests/reference/records/calibration_0.1.0.json"), "old");
  const StoredCalibration now =
      read_calibration_record(test::file_text(test::source_folder() / "demo/lead_calibration.json"), "now");
  const Unknown unknown{.signals = {20.5}};
  // The most probable weighting was searched to five digits then, to eight now.
  EXPECT_NEAR(amount_of(old.curve, unknown).amount, amount_of(now.curve, unknown).amount, 1e-6);
  EXPECT_NEAR(amount_of(old.curve, unknown).interval.low, amount_of(now.curve, unknown).interval.low, 1e-6);
}

}  // namespace
}  // namespace truecurve
