// The rows of a fit as a table of a page and as numbers in full.
#pragma once

#include <truecurve/fit/fit.hpp>
#include <truecurve/report/page.hpp>

namespace truecurve::detail {

/// Number in the table, predictors, response, the curve there, residual (both on the scale of the measured response),
/// and the measures of row_measures(); one line a used row.
[[nodiscard]] PageTable rows_table(const Fit& fit);
[[nodiscard]] PageData rows_data(const Fit& fit);

}  // namespace truecurve::detail
