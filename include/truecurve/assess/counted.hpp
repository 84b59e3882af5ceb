// How well the curve of a counted response describes its rows: deviance, Pearson's chi-squared, dispersion, outcomes
// told rightly, observed against expected.
//
// Example:
//     const auto rows = truecurve::Observations::counted(
//         {0, 1, 2, 3, 4}, {1, 3, 5, 7, 10},
//         {10, 10, 10, 10, 10}, truecurve::ResponseKind::events);
//     const auto quality = truecurve::counted_quality(
//         truecurve::fit(truecurve::Model::written("ln(y/(1 - y)) = a + b*x"), rows));
//     EXPECT_LT(quality.deviance, quality.null_deviance);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>

#include <vector>

namespace truecurve {

/// Rows of neighbouring fitted means together.
struct CountedGroup {
  double lowest_mean = not_a_number;  ///< the smallest fitted share or rate in it
  double highest_mean = not_a_number;
  double size = 0;      ///< trials or exposure of its rows
  double observed = 0;  ///< events or counts
  double expected = 0;
};

/// NaN marks what does not apply or can't be known.
struct CountedQuality {
  double deviance = not_a_number;             ///< twice the log likelihood ratio against a mean of its own for each row
  double null_deviance = not_a_number;        ///< the same of one mean for all rows
  double pearson_chi_squared = not_a_number;  ///< sum (y - mean)²/variance
  double degrees_of_freedom = not_a_number;   ///< n - p
  double dispersion = not_a_number;           ///< Pearson's chi-squared/dof
  /// Whether the expected numbers are large enough for chi-squared distributions: of events and of trials without, or
  /// of counts, none below 1 and at most a fifth below 5 (Cochran 1954, Biometrics 10, 417).
  bool is_grouped = false;
  double deviance_p = not_a_number;  ///< probability of a larger one, if the model is right; grouped rows only
  double pearson_p = not_a_number;
  /// Fall of the deviance from one mean for all rows, in units of the scale; chi-squared with p - 1 degrees of freedom,
  /// or F with an estimated dispersion. For curves of two parameters or more.
  double dependence_statistic = not_a_number;
  double dependence_degrees = not_a_number;
  double dependence_p = not_a_number;
  double rightly_told = not_a_number;  ///< of events: share of the trials on whose side of one half the mean lies
  std::vector<CountedGroup> groups{};  ///< at most ten, of about equal sizes, by ascending fitted mean
};

/// Throws Error (bad_argument) for a response that was measured. Cost: one evaluation, sorting the rows.
[[nodiscard]] CountedQuality counted_quality(const Fit& fit);

/// rightly_told with each row judged by the curve fitted to the others; NaN where a refit fails. Throws Error
/// (bad_argument) for a response that was measured. Cost: a refit a row.
[[nodiscard]] double rightly_told_left_out(const Fit& fit);

/// The interval of a share or a rate by what was counted alone, whatever the curve: Clopper and Pearson (1934) for
/// events among trials, Garwood (1936) for counts over an exposure. Holds at least at its level. Throws Error
/// (bad_argument) for another kind, what is no number of events or counts, no trials or exposure, or a level that is
/// none.
[[nodiscard]] Interval exact_interval(ResponseKind kind, double counted, double size, Level level);

/// Standard normal where the model is right, one a row: the normal quantile of the distribution function of the row's
/// number, at random between its steps. Throws Error: bad_argument (a measured response), not_supported (a kernel of
/// the user's own, whose distribution function is not known). Source: Dunn and Smyth (1996) J. Comput. Graph. Stat. 5,
/// 236.
[[nodiscard]] Vector quantile_residuals(const Fit& fit, Seed seed = 1);

}  // namespace truecurve
