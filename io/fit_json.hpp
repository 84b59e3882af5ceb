// The fit record as a JSON value, for the records that hold fits.
#pragma once

#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/trust.hpp>
#include <truecurve/fit/fit.hpp>

#include "json.hpp"

#include <array>
#include <string_view>
#include <vector>

namespace truecurve::detail {

[[nodiscard]] Json fit_json(const Fit& fit, Level level, const std::vector<Check>& checks, const Deductions& deductions,
                            const Trust& trust);

/// The part of it that restores an estimate.
[[nodiscard]] Json estimate_json(const Estimate& estimate);

/// Where the rows of a fit came from: "source", "sha256", "rows_read", "rows_used", "left_out".
[[nodiscard]] Json rows_json(const Observations& rows);
/// Every used row with its fitted value, its residual and its measures: "rows" of a fit record.
[[nodiscard]] Json residual_rows_json(const Fit& fit);
/// An interval whose ends may lie nowhere ("inf", "-inf") or not be known (null).
[[nodiscard]] Json open_interval_json(Level level, double low, double high);

/// "derived" and "hypotheses".
[[nodiscard]] Json deductions_json(const Deductions& deductions, Level level);

/// The names of the first of Scatter::Form, in its order: what a new reading of a fit may scatter by.
inline constexpr std::array<std::string_view, 5> scatter_form_names = {"constant", "percent", "power", "left_side",
                                                                       "unknown"};

/// Where the fitted parameters stand among all, those that are held included.
[[nodiscard]] std::vector<std::size_t> places_of(const Model& model);

/// Throws Error (bad_record) that names the field.
[[nodiscard]] Estimate read_fit(const RecordReader& reader);

}  // namespace truecurve::detail
