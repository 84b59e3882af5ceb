// The step in which readings were written down.
// None of these throws an Error of its own.
//
// Example:
//     EXPECT_DOUBLE_EQ(truecurve::resolution_of(std::vector<double>{20.1, 20.3, 21.0}), 0.1);
//     EXPECT_EQ(truecurve::resolution_of(std::vector<double>{1.0 / 3, 0.7}), 0);
#pragma once

#include <span>

namespace truecurve {

/// The largest power of ten of which every value is a multiple. Of eight different values and more (of fewer it would
/// often be chance) the greatest common divisor of their differences where that is larger; and of values that are
/// multiples of no power of ten, as readings less a blank, from four different values on. 0 where there is no such
/// step, and where all values are equal.
[[nodiscard]] double resolution_of(std::span<const double> values);

/// Variance of what rounding to steps changes, step²/12: a rectangular distribution (JCGM 100:2008, 4.3.7).
[[nodiscard]] constexpr double rounding_variance(double step) { return step * step / 12; }

}  // namespace truecurve
