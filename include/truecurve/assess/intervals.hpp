// Coverage intervals and tests of each parameter, and the correlation between them.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const auto slope = truecurve::parameter_intervals(line.estimate(), 0.95)[1];
//     EXPECT_LT(slope.low, 1.94);
//     EXPECT_GT(slope.high, 1.94);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>

#include <string>
#include <vector>

namespace truecurve {

/// An interval that leaves out more than so many times what its level does is not relied on.
inline constexpr double most_left_out = 2;
/// Of a normal interval of one standard uncertainty on either side.
inline constexpr double level_of_one_uncertainty = 0.682689492137086;

/// A parameter with its two-sided coverage interval and the test of the hypothesis that it does nothing: that it is
/// zero, or of a base with x in its exponent (a*b^x) that it is 1.
struct ParameterInterval {
  std::string name{};
  double value = not_a_number;
  double standard_uncertainty = not_a_number;
  double low = not_a_number;   ///< value - k*u with the coverage factor k of the level
  double high = not_a_number;  ///< value + k*u
  double null_value = 0;       ///< the hypothesis that is tested: 0, or 1 of a base
  double t = not_a_number;     ///< (value - null_value) / u
  double p = not_a_number;     ///< two-sided, normal for stated, Student-t for scatter
  std::string unit{};
};

/// One a parameter, in the model's order. NaN marks what can't be known (scatter without degrees of freedom). Requires
/// 0 < level < 1; throws Error (bad_argument). Source: JCGM 100:2008, G.3 and G.6.4.
[[nodiscard]] std::vector<ParameterInterval> parameter_intervals(const Estimate& estimate, Level level);

/// p x p, from the covariance: r_ij = C_ij / sqrt(C_ii C_jj). Throws no Error of its own.
[[nodiscard]] Matrix correlation(const Estimate& estimate);

}  // namespace truecurve
