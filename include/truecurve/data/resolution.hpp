// The step in which readings were written down.
//
// Example:
//     EXPECT_DOUBLE_EQ(truecurve::resolution_of(std::vector<double>{20.1, 20.3, 21.0}), 0.1);
//     EXPECT_EQ(truecurve::resolution_of(std::vector<double>{1.0 / 3, 0.7}), 0);
#pragma once

#include <span>

namespace truecurve {

/// The largest of 1, 2 and 5 times a power of ten of which every value is a multiple (2 and 5 only of eight different
/// values and more: of fewer it would be chance). Of values that are multiples of none, as readings less a blank, the
/// greatest common divisor of their differences, from four different values on. 0 where there is no such step, and
/// where all values are equal.
[[nodiscard]] double resolution_of(std::span<const double> values);

/// Variance of what rounding to steps changes, step²/12: a rectangular distribution (JCGM 100:2008, 4.3.7).
[[nodiscard]] constexpr double rounding_variance(double step) { return step * step / 12; }

}  // namespace truecurve
