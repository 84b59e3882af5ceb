// A straight line where the standards' values are uncertain, too.
//
// Example:
//     const auto line = truecurve::line_with_uncertain_standards({"x", ""}, {"y", ""}, {1, 2, 3, 4}, {3, 5, 7, 9},
//                                                                {0.1, 0.1, 0.1, 0.1}, {0.2, 0.2, 0.2, 0.2});
//     EXPECT_NEAR(line.estimate.parameters()[1], 2, 1e-12);
#pragma once

#include <truecurve/fit/estimate.hpp>

namespace truecurve {

/// Result of a generalised distance regression.
struct UncertainStandards {
  Estimate estimate;       ///< y = a + b*x, basis stated
  double chi_squared = 0;  ///< sum ((x - xi)/u(x))² + ((y - a - b xi)/u(y))²
  double degrees_of_freedom = 0;
  int iterations = 0;
};

/// Minimises sum ((x_i - xi_i)/u(x_i))² + ((y_i - a - b xi_i)/u(y_i))² over a, b and the true amounts xi_i, which
/// amounts to sum (y_i - a - b x_i)²/(u²(y_i) + b² u²(x_i)); uncertainties independent, u(x_i) may be 0. Covariance of
/// a and b: the inverse of the Gauss-Newton matrix at the solution. Throws Error: bad_argument (lengths,
/// uncertainties), too_few_observations, rank_deficient (one level only), not_finite. Source: ISO/TS 28037:2010,
/// clause 7.
[[nodiscard]] UncertainStandards line_with_uncertain_standards(const Quantity& amount, const Quantity& signal,
                                                               const Vector& amounts, const Vector& signals,
                                                               const Vector& amount_uncertainties,
                                                               const Vector& signal_uncertainties);

}  // namespace truecurve
