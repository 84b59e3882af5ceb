// The numeric vocabulary shared by all rooms, and how numbers become text.
// None of these throws an Error of its own.
//
// Example:
//     EXPECT_EQ(truecurve::shortest(0.1), "0.1");
//     EXPECT_EQ(truecurve::with_uncertainty(1.86732, 0.00471), "1.8673(47)");
#pragma once

#include <truecurve/base/vector.hpp>

#include <cstddef>
#include <limits>
#include <string>
#include <string_view>

namespace truecurve {

inline constexpr double not_a_number = std::numeric_limits<double>::quiet_NaN();
inline constexpr double infinity = std::numeric_limits<double>::infinity();

/// The shortest decimal text that reads back as the same double.
[[nodiscard]] std::string shortest(double value);

/// A value rounded to the given number of significant digits, without trailing zeros beyond them; fewer
/// than 1 count as 1.
[[nodiscard]] std::string rounded(double value, int significant_digits);

/// A value with its standard uncertainty in the parenthesis form of the GUM, the uncertainty to two significant digits
/// in units of the last digits shown: 1.8673(47), 1.230(45)e-9. A value without a finite positive uncertainty is shown
/// to six digits. Source: JCGM 100:2008, 7.2.2 and 7.2.6.
[[nodiscard]] std::string with_uncertainty(double value, double standard_uncertainty);

/// A limit of an interval rounded to the decimal place that two digits of `scale` (a standard uncertainty or half
/// width) call for; "no lower limit" for minus infinity, "no upper limit" for infinity.
[[nodiscard]] std::string limit_text(double limit, double scale);

/// An interval's two limits rounded to the decimal place that two digits of `scale` (a standard uncertainty or half
/// width) call for: "1.857 to 1.877".
[[nodiscard]] std::string interval_text(double low, double high, double scale);

/// A probability as text: three decimals, or "below 0.001" in scientific form "3.2e-7", never a bare zero.
[[nodiscard]] std::string probability_text(double p);
/// "p = 0.012", "p below 1e-300"; "p = -" for NaN. Throws nothing.
[[nodiscard]] std::string p_equals(double p);

/// A number of things: "0 rows", "1 row", "2 rows".
[[nodiscard]] std::string plural(std::size_t count, std::string_view noun);

/// "1 degree of freedom", "3.7 degrees of freedom"; whole numbers in full, others to six digits.
[[nodiscard]] std::string degrees_of_freedom_text(double degrees);

}  // namespace truecurve
