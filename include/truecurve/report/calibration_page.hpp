// A calibration, and quantities read through one, as pages.
// None of these throws an Error of its own.
//
// Example:
//     const auto table = truecurve::Table::from_columns(
//         {{"c", "mg/g", {0, 0, 1, 1, 2, 2, 4, 4}}, {"I", "kcps", {1.8, 2.0, 8.1, 8.3, 14.4, 14.7, 27.2, 26.8}}});
//     const auto line = truecurve::calibrate(truecurve::readings_of(table, {.amount = "c", .signals = {"I"}}));
//     EXPECT_NE(truecurve::text_of(truecurve::calibration_page(line)).find("Detection and quantitation limits"), std::string::npos);
#pragma once

#include <truecurve/calibrate/additions.hpp>
#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/calibrate/quantify.hpp>
#include <truecurve/report/page.hpp>

#include <span>

namespace truecurve {

/// The curve, its levels, what was tested, its limits. The data have one row a limit.
[[nodiscard]] Page calibration_page(const Calibration& calibration, bool rows = false);

/// The amounts found by standard additions, one or more, each with the line it follows from. The data have one row a
/// sample.
[[nodiscard]] Page additions_page(std::span<const StandardAdditions> additions);

/// Amounts of unknowns and recoveries of controls. The data have one row a sample.
[[nodiscard]] Page quantities_page(const Quantities& quantities, const Quantity& amount, const CalibrationCurve& curve,
                                   const LimitOptions& limits);

}  // namespace truecurve
