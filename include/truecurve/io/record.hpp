// Results as records: JSON files with full precision that the next command, or another program, reads.
// None of these throws an Error of its own but where it says so.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const auto restored = truecurve::read_fit_record(truecurve::fit_record(line, 0.95), "line.json");
//     EXPECT_EQ(restored.parameters(), line.estimate().parameters());
#pragma once

#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/solve.hpp>
#include <truecurve/assess/trust.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/fit/preview.hpp>

#include <filesystem>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace truecurve {

/// Whether a record holds the rows of its fit: fitted values, residuals, measures.
enum class RecordRows { none, all };

/// The record `truecurve.fit/1` of a fit, as JSON text that ends with a newline; intervals at `level`. Numbers are
/// written so that they read back as the same doubles; what does not apply is null. docs/formats.md describes every
/// field.
[[nodiscard]] std::string fit_record(const Fit& fit, Level level, const Deductions& deductions = {},
                                     const Trust& trust = {}, RecordRows rows = RecordRows::none);

/// A curve at its starts as a record truecurve.preview/1.
[[nodiscard]] std::string preview_record(const Preview& preview, const Observations& observations);

/// Holds a record of any kind against its schema (docs/schema). Throws Error (bad_record) that names the first field
/// that is missing, of another type or out of its range.
void require_record(std::string_view json, const std::string& source);

/// The estimate a fit record holds. `source` is the name used in messages. Throws Error (bad_record) that names the
/// field. Records `truecurve.censored/1` and `truecurve.penalised/1` give their curve.
[[nodiscard]] Estimate read_fit_record(std::string_view json, const std::string& source);

/// The whole fit of a counted response that a record holds with its rows; empty for another response, or where the
/// record has no rows (of more than 1000). Throws Error (bad_record).
[[nodiscard]] std::optional<Fit> read_counted_fit(std::string_view json, const std::string& source);

/// The record `truecurve.prediction/1`: the curve at points given column-wise, one vector a predictor.
[[nodiscard]] std::string prediction_record(const Estimate& estimate, std::span<const Vector> points,
                                            std::span<const BandPoint> values, Level level);

/// The record `truecurve.solution/1`.
[[nodiscard]] std::string solution_record(const Estimate& estimate, double response, std::span<const Root> roots,
                                          const SolveOptions& options);

/// The record `truecurve.derivation/1`.
[[nodiscard]] std::string derivation_record(const Estimate& estimate, const Deductions& deductions, Level level);

}  // namespace truecurve
