// The fit record as a JSON value, for the records that hold fits.
#pragma once

#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/trust.hpp>
#include <truecurve/fit/fit.hpp>

#include "json.hpp"

namespace truecurve::detail {

[[nodiscard]] Json fit_json(const Fit& fit, double level, const std::vector<Check>& checks,
                            const Deductions& deductions, const Trust& trust);

/// The part of it that restores an estimate.
[[nodiscard]] Json estimate_json(const Estimate& estimate);

/// "derived" and "hypotheses".
[[nodiscard]] Json deductions_json(const Deductions& deductions, double level);

/// Throws Error (bad_record) that names the field.
[[nodiscard]] Estimate read_fit(const RecordReader& reader);

}  // namespace truecurve::detail
