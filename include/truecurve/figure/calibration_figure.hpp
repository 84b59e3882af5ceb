// Pictures of a calibration: line with level means, residuals by level, the reading of one unknown.
//
// Example:
//     const auto table = truecurve::Table::from_columns(
//         {{"c", "mg/g", {0, 0, 1, 1, 2, 2, 4, 4}}, {"I", "kcps", {1.8, 2.0, 8.1, 8.3, 14.4, 14.7, 27.2, 26.8}}});
//     const auto line = truecurve::calibrate(truecurve::readings_of(table, {.amount = "c", .signals = {"I"}}));
//     const auto file = std::filesystem::temp_directory_path() / "truecurve_calibration_example.svg";
//     truecurve::draw_calibration(line, file);
//     EXPECT_GT(std::filesystem::file_size(file), 1000u);
//     std::filesystem::remove(file);
#pragma once

#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/calibrate/quantify.hpp>
#include <truecurve/figure/layout.hpp>

#include <filesystem>

namespace truecurve {

/// The readings, the level means with their t intervals, the curve with its bands, and the limits of the route
/// "critical value and power". Throws Error as draw_fit().
void draw_calibration(const Calibration& calibration, const std::filesystem::path& file,
                      const FigureLayout& layout = {});

/// Residuals by level, and beneath their sizes with the scatter that the calibration takes for granted. Throws Error as
/// draw_fit().
void draw_calibration_residuals(const Calibration& calibration, const std::filesystem::path& file);

/// How one unknown is read: from its signal to the curve and down to its amount, with the interval on both axes. Throws
/// Error: bad_argument where its signal is not reached by the curve.
void draw_reading(const CalibrationCurve& curve, const Quantified& unknown, const Quantity& amount,
                  const Quantity& signal, const std::filesystem::path& file);

}  // namespace truecurve
