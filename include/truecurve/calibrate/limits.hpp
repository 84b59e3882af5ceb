// Detection and quantitation limits by the routes in use, side by side.
//
// Example:
//     // Both errors 5 % with 10 degrees of freedom: a little below twice the t quantile 1.812.
//     EXPECT_LT(truecurve::detection_noncentrality(10, 0.05, 0.05), 2 * 1.812);
//     EXPECT_GT(truecurve::detection_noncentrality(10, 0.05, 0.05), 2 * 1.7);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/calibrate/amount.hpp>

#include <cstdint>
#include <string>
#include <string_view>

namespace truecurve {

struct LimitOptions {
  double alpha = 0.05;  ///< how often a blank may be declared to contain analyte
  double beta = 0.05;   ///< how often the minimum detectable amount may be missed
  int readings = 1;     ///< readings of an unknown that are averaged
  /// Of each reading of an unknown that is counted; NaN: the middle one of the standards' (for a calibration), none.
  double exposure = not_a_number;
  int simulations = 400;  ///< for the limits' own uncertainties; 0 for none
  Seed seed = 1;
};

/// Of the route "critical value and power", in amounts; NaN where the curve does not reach them, or no degrees of
/// freedom are left.
struct DecisionLimits {
  double critical = not_a_number;      ///< above it analyte is declared present
  double detection = not_a_number;     ///< declared present but for a share beta
  double quantitation = not_a_number;  ///< a relative standard uncertainty of 10 %
  /// Of counts: the largest sum of them that does not declare analyte present.
  double largest_count = not_a_number;
};

/// For the mean of `options.readings` readings. Throws Error (not_finite) where the curve is not defined at amount 0.
/// Source: ISO 11843-2:2000, 5; Currie (1995), Pure Appl. Chem. 67, 1699.
/// Of counts: the smallest count that a blank exceeds with probability alpha or less, and the amount whose counts do
/// not exceed it with probability beta, exact for Poisson counts whose expectation has the gamma distribution of the
/// curve's value and uncertainty; NaN without an exposure, and for a curve that falls. Throws Error (bad_argument),
/// naming alpha or beta, unless 1e-12 <= alpha, beta < 1.
[[nodiscard]] DecisionLimits decision_limits(const CalibrationCurve& curve, const LimitOptions& options);

/// Ways to detection and quantitation limits.
enum class LimitRouteKind {
  residual_sd,
  intercept_sd,
  blank_sd,
  fortified_sd,
  counting_statistics,
  prediction_bands,
  critical_value_and_power,  ///< decision_limits(), of measured and counted signals
  counts_paired_blank,       ///< of counts
  counts_known_blank,        ///< of counts
};
/// "residual SD", "intercept SD", "blank SD", "fortified SD", "counting statistics", "prediction bands", "critical
/// value and power", "counts, paired blank", "counts, known blank".
[[nodiscard]] std::string_view name(LimitRouteKind route) noexcept;

/// One way to a limit.
struct LimitRoute {
  LimitRouteKind route = LimitRouteKind::critical_value_and_power;
  double sd = not_a_number;                     ///< of the SD routes: the standard deviation, in the signal's unit
  double critical = not_a_number;               ///< amount above which analyte is declared present; two routes have one
  double detection = not_a_number;              ///< detection limit, minimum detectable amount
  double quantitation = not_a_number;           ///< ten standard deviations, or a relative standard uncertainty of 10 %
  double detection_uncertainty = not_a_number;  ///< by simulation: standard deviation over repeated calibrations
  std::string rests_on{};
  std::vector<std::string> remarks{};  ///< what speaks against it here

  /// The remarks in one line, between semicolons. Throws no Error of its own.
  [[nodiscard]] std::string remark() const;
};

/// The noncentrality at which noncentral t exceeds the 1 - alpha quantile of t with probability 1 - beta; ISO
/// 11843-2:2000, 5.2. Requires 1e-12 <= alpha, beta < 1 and degrees of freedom > 0; throws Error (bad_argument)
/// otherwise.
[[nodiscard]] double detection_noncentrality(double degrees_of_freedom, double alpha, double beta);

/// Limits of a net count, in counts.
struct CountingLimits {
  double critical = not_a_number;
  double detection = not_a_number;
  double quantitation = not_a_number;  ///< a relative standard deviation of 10 %
};

/// Of a gross count less a blank of `blank` expected counts, whose own variance is (ratio - 1) blank: ratio 2 for one
/// blank counted as long as the sample. k = the normal quantile: L_C = k_a sqrt(ratio blank), L_D = L_C + k_b²/2 + k_b
/// sqrt(k_b²/4 + L_C + ratio blank), which is k² + 2 k sqrt(ratio blank) for equal risks; L_Q = 50 (1 + sqrt(1 + ratio
/// blank/25)). Requires blank >= 0, 1 <= ratio <= 1e6 and 1e-12 <= alpha, beta < 1; throws Error (bad_argument)
/// otherwise. Source: Currie (1968) Anal. Chem. 40, 586.
[[nodiscard]] CountingLimits counting_limits(double blank, double ratio, double alpha, double beta);

/// The same from the distributions themselves, up to a million expected counts (beyond, by those formulas). Ratio 1, a
/// blank that is known: the smallest count that Poisson exceeds with probability alpha or less, less the blank.
/// Otherwise the smallest net count above a blank of as many counts as expected, to a whole number, that the binomial
/// test of the two declares different at alpha; detection over all counts of that blank. Source: Currie (1968);
/// Przyborowski and Wilenski (1940), Biometrika 31, 313. Throws Error as counting_limits().
[[nodiscard]] CountingLimits counting_limits_exact(double blank, double ratio, double alpha, double beta);

}  // namespace truecurve
