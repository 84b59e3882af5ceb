// The distributions behind every interval and p-value, by name. Each that throws Error (bad_argument) names itself and
// the argument that is not what it requires: no result is a NaN, and what is beyond a double's range is infinite.
//
// Example:
//     EXPECT_NEAR(truecurve::student_t_quantile(0.975, 9), 2.262157, 1e-6);
#pragma once

namespace truecurve {

/// Quantile of the standard normal distribution. Requires 0 < p < 1; throws Error (bad_argument).
[[nodiscard]] double normal_quantile(double p);

/// Probability that a standard normal variable is at most z.
[[nodiscard]] double normal_probability(double z) noexcept;

/// Its logarithm, also where the probability itself is below the range of a double (z below -37).
[[nodiscard]] double log_normal_probability(double z) noexcept;

/// Quantile of Student's t with `degrees_of_freedom` > 0 (infinity gives the normal). Requires 0 < p < 1; throws Error
/// (bad_argument).
[[nodiscard]] double student_t_quantile(double p, double degrees_of_freedom);

/// Probability that |t| is at least as large as observed, for Student's t; the normal at infinite degrees of freedom.
/// Throws Error (bad_argument).
[[nodiscard]] double student_t_two_sided(double t, double degrees_of_freedom);

/// Probability that noncentral t with `degrees_of_freedom` and finite noncentrality `delta` is at most t. Throws Error
/// (bad_argument).
[[nodiscard]] double noncentral_t_probability(double t, double degrees_of_freedom, double delta);

/// Probability that chi-squared with `degrees_of_freedom` > 0 (at most 1e10) exceeds `chi_squared` >= 0. Throws Error
/// (bad_argument).
[[nodiscard]] double chi_squared_upper(double chi_squared, double degrees_of_freedom);

/// Quantile of chi-squared. Requires 0 < p < 1; throws Error (bad_argument).
[[nodiscard]] double chi_squared_quantile(double p, double degrees_of_freedom);

/// Probability that F with the given degrees of freedom exceeds `f` >= 0; infinite ones of the denominator give
/// chi-squared over its own; at most 1e10 of the numerator. Throws Error (bad_argument).
[[nodiscard]] double f_upper(double f, double numerator, double denominator);

/// Quantile of F. Requires 0 < p < 1; throws Error (bad_argument).
[[nodiscard]] double f_quantile(double p, double numerator, double denominator);

}  // namespace truecurve
