// A calibration as a record with a checksum, what is restored from it, and quantities as a record.
// None of these throws an Error of its own but where it says so.
//
// Example:
//     const auto table = truecurve::Table::from_columns(
//         {{"c", "mg/g", {0, 0, 1, 1, 2, 2, 4, 4}}, {"I", "kcps", {1.8, 2.0, 8.1, 8.3, 14.4, 14.7, 27.2, 26.8}}});
//     const truecurve::ReadingColumns columns{.amount = "c", .signals = {"I"}};
//     const auto line = truecurve::calibrate(truecurve::readings_of(table, columns));
//     const std::string record = truecurve::calibration_record(line, columns, "");
//     const auto restored = truecurve::read_calibration_record(record, "memory");
//     EXPECT_EQ(restored.curve.estimate.parameters(), line.curve.estimate.parameters());
#pragma once

#include <truecurve/calibrate/additions.hpp>
#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/calibrate/quantify.hpp>
#include <truecurve/io/record.hpp>

#include <span>
#include <string>
#include <string_view>

namespace truecurve {

/// The record `truecurve.calibration/1`. `day` is kept as it is given, e.g. "2026-11-25"; empty for none. Its rows
/// stand in the record of its fit.
[[nodiscard]] std::string calibration_record(const Calibration& calibration, const ReadingColumns& columns,
                                             const std::string& day, RecordRows rows = RecordRows::none);

/// The record `truecurve.additions/1`: the amount found in each sample, and the calibration it follows from.
[[nodiscard]] std::string additions_record(std::span<const StandardAdditions> additions, const ReadingColumns& columns,
                                           const std::string& day);

/// What quantify needs of a calibration.
struct StoredCalibration {
  CalibrationCurve curve;
  Quantity amount{};
  Quantity signal{};
  ReadingColumns columns{};
  LimitOptions limits{};  ///< alpha, beta and the readings for which its own limits were made
  std::string day{};
};

/// Throws Error (bad_record) that names the field, and where the checksum is not that of the content: the record was
/// changed or damaged.
[[nodiscard]] StoredCalibration read_calibration_record(std::string_view json, const std::string& source);

/// The record `truecurve.quantities/1`.
[[nodiscard]] std::string quantities_record(const Quantities& quantities, const StoredCalibration& calibration,
                                            const Readings& readings);

}  // namespace truecurve
