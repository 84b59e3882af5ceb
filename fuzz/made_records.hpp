// A record of each kind, made from small tables: for the fuzzer of records, and for the tests.
#pragma once

#include <truecurve/assess/censored.hpp>
#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/means.hpp>
#include <truecurve/assess/penalised.hpp>
#include <truecurve/assess/solve.hpp>
#include <truecurve/calibrate/additions.hpp>
#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/calibrate/quantify.hpp>
#include <truecurve/compare/compare.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/fit/preview.hpp>
#include <truecurve/io/calibration_record.hpp>
#include <truecurve/io/censored_record.hpp>
#include <truecurve/io/comparison_record.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/io/penalised_record.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/model/shapes.hpp>

#include <sstream>
#include <string>
#include <vector>

#include <fmt/format.h>

namespace truecurve::made {

inline Table rows(const std::string& text) {
  std::istringstream stream(text);
  return read_csv(stream, "rows.csv");
}

inline Observations points_of(const std::string& text, const Choice& choice) { return {rows(text), choice}; }

inline const ReadingColumns standard_columns{.amount = "c", .signals = {"I"}, .kind = "kind"};

inline Table standards() {
  std::string standards_text = "c,I,kind\n";
  for (int row = 0; row < 24; ++row) {
    const int amount = row / 4;
    const double signal = 2 + 6 * amount + ((row * 7) % 5 - 2) * (0.1 + 0.02 * amount);
    standards_text += row < 4 ? fmt::format(",{},blank\n", signal) : fmt::format("{},{},standard\n", amount, signal);
  }
  return rows(standards_text);
}

inline Observations seven_points() {
  return points_of("x,y\n1,3.1\n2,4.9\n3,7.2\n4,8.8\n5,11.3\n6,12.7\n7,15.2\n", {.response = "y", .predictors = {"x"}});
}

/// Of fits of every kind, of a comparison and of calibrations: those that a command reads again.
inline std::vector<std::string> records_that_are_read() {
  const Choice xy{.response = "y", .predictors = {"x"}};
  const Observations points = seven_points();
  const Observations cracked =
      points_of("x,y,n\n1,1,9\n2,3,9\n3,4,9\n4,7,9\n5,8,9\n",
                {.response = "y", .predictors = {"x"}, .counting = {.kind = ResponseKind::events, .size_column = "n"}});
  std::vector<std::string> records;
  for (const char* model : {"y = a + b*x", "y = a + b*x + c*x^2", "y = a*exp(b*x)", "ln(y) = a + b*x", "y = a*x^b + c"})
    records.push_back(fit_record(fit(Model::written(model).with_predictors({"x"}), points), 0.95));
  const Fit held = fit(shape_model("polynomial(3)", "x", "y").with_fixed({{"b3", 0.0}}), points);
  records.push_back(fit_record(held, 0.9, deduce(held.estimate(), 0.9, {"q = b0/b1"})));
  records.push_back(fit_record(fit(shape_model("line", "x", "y"), points, {.within = {{"b", 0.5, 1.5}}}), 0.95));
  const Model share = Model::written("ln(y/(1-y)) = a + b*x").with_predictors({"x"});
  records.push_back(fit_record(fit(share, cracked), 0.95));
  const PenalisedEstimates penalised = penalised_estimates(share, cracked, 0.95);
  records.push_back(penalised_record(penalised, cracked, 0.95, {}));
  const CensoredRows lives = censored_rows(rows("x,y\n1,120\n1,190\n2,260\n3,>300\n3,>300\n2,150\n"), xy);
  records.push_back(censored_record(
      censored_results(fit_censored(Model::written("y = a + b*x").with_predictors({"x"}), lives, {}), {}, {}, 0.95)));
  const std::vector<Fit> candidates = {fit(shape_model("line", "x", "y"), points),
                                       fit(shape_model("polynomial(2)", "x", "y"), points),
                                       fit(shape_model("power", "x", "y"), points)};
  records.push_back(comparison_record(compare(candidates), 0.95));
  for (const SignalScatter::Kind kind :
       {SignalScatter::Kind::constant, SignalScatter::Kind::power, SignalScatter::Kind::both}) {
    const Calibration made =
        calibrate(readings_of(standards(), standard_columns),
                  {.blank = BlankUse::subtract, .scatter = {.kind = kind, .power = 1}, .limits = {.simulations = 0}});
    records.push_back(calibration_record(made, standard_columns, "2026-01-05"));
  }
  return records;
}

/// Of what is read from curves and calibrations, and of curves at their starts.
inline std::vector<std::string> other_records() {
  const Fit line = fit(shape_model("line", "x", "y"), seven_points());
  const Estimate& curve = line.estimate();
  const Vector places = {0.5, 3};
  const auto at = std::span(&places, 1);
  const Calibration made = calibrate(readings_of(standards(), standard_columns), {.limits = {.simulations = 0}});
  const StoredCalibration stored =
      read_calibration_record(calibration_record(made, standard_columns, ""), "standards.json");
  const Readings unknowns = readings_of(rows("s,I\nA,10.1\nA,10.4\nB,99\n"),
                                        {.signals = {"I"}, .sample = "s", .otherwise = ReadingKind::sample});
  const Readings added = readings_of(rows("c,I\n0,4.0\n1,6.1\n2,7.9\n3,10.0\n"), {.amount = "c", .signals = {"I"}});
  return {prediction_record(curve, at, band(curve, at, 0.95), 0.95),
          solution_record(curve, 5, solve(curve, 5), {}),
          derivation_record(curve, deduce(curve, 0.95, {"q = a/b"}, {"b = 2"}), 0.95),
          preview_record(preview(shape_model("line", "x", "y"), seven_points()), seven_points()),
          quantities_record(quantify(stored.curve, unknowns, {.limits = stored.limits}), stored, unknowns),
          additions_record(standard_additions(added), {.amount = "c", .signals = {"I"}}, "")};
}

}  // namespace truecurve::made
