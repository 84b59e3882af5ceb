// How well a curve describes its data, in the figures the field uses.
// None of these throws an Error of its own.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto quality =
//     truecurve::quality_of(truecurve::fit(truecurve::shape_model("line"), points));
//     EXPECT_NEAR(quality.residual_sum_of_squares, 0.082, 1e-12);
//     EXPECT_GT(quality.correlation_coefficient, 0.99);
#pragma once

#include <truecurve/fit/fit.hpp>

namespace truecurve {

/// On the scale of the measured response, unweighted; other than in Quality for a transformed left side only.
struct MeasuredScale {
  double residual_sum_of_squares = not_a_number;
  double residual_sd = not_a_number;
  double r_squared = not_a_number;
};

/// NaN marks what does not apply or can't be known.
struct Quality {
  double chi_squared = not_a_number;              ///< sum (r/u)², u = 1 without uncertainties
  double degrees_of_freedom = not_a_number;       ///< n - p
  double reduced_chi_squared = not_a_number;      ///< chi-squared/dof
  double chi_squared_p = not_a_number;            ///< probability of a larger chi-squared; stated only
  double birge_ratio = not_a_number;              ///< sqrt(chi-squared/dof), with uncertainties only; Birge (1932)
  double residual_sum_of_squares = not_a_number;  ///< unweighted, on the scale of the left side
  double residual_sd = not_a_number;              ///< S = sqrt(residual_sum_of_squares/dof)
  /// 1 - chi-squared/total, the total about the weighted mean if the model has a constant, else about zero.
  double r_squared = not_a_number;
  double adjusted_r_squared = not_a_number;
  double correlation_coefficient = not_a_number;  ///< r with the sign of the slope; straight lines only
  MeasuredScale measured_scale{};
  /// Of the density of the measured response, the slope of a transform included: known u for stated; for scatter the
  /// standard deviation (or the factor to u) that maximises it, sqrt(chi-squared/n), counted as one more parameter.
  double log_likelihood = not_a_number;
  double aic = not_a_number;   ///< 2k - 2 ln L; Akaike (1974)
  double aicc = not_a_number;  ///< aic + 2k(k+1)/(n-k-1); Hurvich and Tsai (1989)
  double bic = not_a_number;   ///< k ln n - 2 ln L; Schwarz (1978)
};

/// Cost: one evaluation of the model if the fit is weighted.
[[nodiscard]] Quality quality_of(const Fit& fit);

}  // namespace truecurve
