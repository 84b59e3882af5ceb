// A calibration, and quantities read through one, as pages of text or as CSV.
// None of these throws an Error of its own.
//
// Example:
//     const auto table = truecurve::Table::from_columns(
//         {{"c", "mg/g", {0, 0, 1, 1, 2, 2, 4, 4}}, {"I", "kcps", {1.8, 2.0, 8.1, 8.3, 14.4, 14.7, 27.2, 26.8}}});
//     const auto line = truecurve::calibrate(truecurve::readings_of(table, {.amount = "c", .signals = {"I"}}));
//     EXPECT_NE(truecurve::calibration_text(line).find("Detection and quantitation limits"), std::string::npos);
#pragma once

#include <truecurve/calibrate/additions.hpp>
#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/calibrate/quantify.hpp>

#include <span>
#include <string>

namespace truecurve {

[[nodiscard]] std::string calibration_text(const Calibration& calibration);
/// One row a limit.
[[nodiscard]] std::string calibration_csv(const Calibration& calibration);

/// The amounts found by standard additions, each with the line it follows from.
[[nodiscard]] std::string additions_text(std::span<const StandardAdditions> additions);
[[nodiscard]] std::string additions_csv(std::span<const StandardAdditions> additions);

[[nodiscard]] std::string quantities_text(const Quantities& quantities, const Quantity& amount,
                                          const CalibrationCurve& curve, const LimitOptions& limits);
/// "dilute by about 20", with the total where the sample is diluted already.
[[nodiscard]] std::string dilution_advice(double further, double so_far);
/// One row a sample.
[[nodiscard]] std::string quantities_csv(const Quantities& quantities);

}  // namespace truecurve
