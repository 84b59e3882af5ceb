// Units that differ by a prefix of the SI.
#pragma once

#include <optional>
#include <string>

namespace truecurve::detail {

/// By what a number in the unit `from` is multiplied to be one in `to`: 1 for equal units and where one is not known, a
/// power of ten where prefixes differ ("cps" and "kcps", "ug/g" and "mg/kg", "mm²" and "m²"); none where the units are
/// of other quantities, or no units of the list: g, mol, L, m, V, A, W, Hz, s, Pa, bar, J, N, K, C, Bq, eV, counts,
/// cts, cps.
[[nodiscard]] std::optional<double> unit_factor(const std::string& from, const std::string& to);

}  // namespace truecurve::detail
