// The tables of which the page of a comparison is made.
#pragma once

#include <truecurve/compare/compare.hpp>
#include <truecurve/report/page.hpp>

namespace truecurve::detail {

[[nodiscard]] bool is_counted(const Comparison& comparison);
/// Whether every candidate knows uncertainties of the rows; only then can all be measured in them.
[[nodiscard]] bool has_uncertainties(const Comparison& comparison);

[[nodiscard]] PageTable criteria_table(const Comparison& comparison);
[[nodiscard]] PageTable description_table(const Comparison& comparison);
[[nodiscard]] PageTable nested_table(const Comparison& comparison);
[[nodiscard]] PageTable hold_out_table(const Comparison& comparison);
[[nodiscard]] PageTable routes_table(const RoutePair& pair);

}  // namespace truecurve::detail
