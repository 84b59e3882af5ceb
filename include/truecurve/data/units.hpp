// Units that differ by a prefix of the SI.
// None of these throws an Error of its own.
//
// Example:
//     EXPECT_DOUBLE_EQ(*truecurve::unit_factor("cps", "kcps"), 1e-3);
//     EXPECT_DOUBLE_EQ(*truecurve::unit_factor("mPa s", "Pa s"), 1e-3);
//     EXPECT_FALSE(truecurve::unit_factor("V", "kcps").has_value());
//     EXPECT_FALSE(truecurve::unit_factor("K", "°C").has_value());
//     EXPECT_DOUBLE_EQ(*truecurve::unit_factor_of_differences("mK", "°C"), 1e-3);
#pragma once

#include <optional>
#include <string>

namespace truecurve {

/// By what a number in the unit `from` is multiplied to be one in `to`: 1 for equal units and where one is not known
/// (empty), a power of ten where prefixes differ ("cps" and "kcps", "ug/g" and "mg/kg", "mm²" and "m²", "mPa s" and "Pa
/// s"); none where the units are of other quantities. Prefixes are read of g, mol, L, m, V, A, W, Hz, s, Pa, bar, J, N,
/// K, C, Bq, eV, counts, cts and cps; any other unit is equal to itself only.
[[nodiscard]] std::optional<double> unit_factor(const std::string& from, const std::string& to);

/// Whether a text is a unit whose every factor is known: those above with their prefixes, and min, h, d, %, ‰, ppm, °,
/// °C, °F, and what is derived from them by products, quotients and powers.
[[nodiscard]] bool is_known_unit(const std::string& unit);

/// unit_factor() for differences, as uncertainties are: there a degree Celsius is a kelvin.
[[nodiscard]] std::optional<double> unit_factor_of_differences(const std::string& from, const std::string& to);

}  // namespace truecurve
