// What follows from a fit with censored rows: profile intervals, quantiles, what leaving those rows out would do, and
// where the measured ones stand on a probability plot.
//
// Example:
//     std::vector<truecurve::Column> columns(1);
//     columns[0].name = "life";
//     columns[0].numbers = {120, 190, 260, 310, 340, truecurve::not_a_number};
//     columns[0].texts = {{5, ">400"}};
//     const auto lives = truecurve::censored_rows(truecurve::Table(columns), {.response = "life"});
//     const auto fit = truecurve::fit_censored(truecurve::Model::written("life = scale"), lives,
//                                              {.distribution = truecurve::Distribution::weibull});
//     const auto early = truecurve::quantile_of(fit, 0.01, {}, 0.95);  // the life that 99 % survive
//     EXPECT_LT(early.interval.low, early.value);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/intervals.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/censored.hpp>

#include <string_view>
#include <vector>

namespace truecurve {

/// The values of a parameter, or of the scatter by its name, at which twice the log likelihood, maximised over
/// everything else, lies less than the quantile of chi-squared with one degree of freedom below its maximum; infinite
/// where it never lies lower, the last value at which the curve is defined where that comes first, NaN where the
/// search for it ends elsewhere. Throws Error (unknown_name, bad_argument). Source: Lawless (2003), 4.3.
[[nodiscard]] Interval censored_interval(const CensoredFit& fit, std::string_view parameter, Level level);

/// The response below which a share of all lies at a place.
struct CensoredQuantile {
  double share = not_a_number;
  Vector at{};
  double value = not_a_number;
  double standard_uncertainty = not_a_number;  ///< first order
  Interval interval{};                         ///< by the profile of the likelihood
};

/// `at` holds one number a predictor. Throws Error: bad_argument (a share or level not between 0 and 1, another number
/// of places), not_finite.
[[nodiscard]] CensoredQuantile quantile_of(const CensoredFit& fit, double share, const Vector& at, Level level);

/// The parameters and the scatter, as CensoredFit::joint has them but the scatter by its value, if the censored rows
/// were left out, or their limits taken as measured; empty where that can't be fitted.
struct CensoredOtherwise {
  Vector left_out{};
  Vector as_measured{};
};
/// Refits twice. Throws no Error of its own.
[[nodiscard]] CensoredOtherwise fitted_otherwise(const CensoredFit& fit);

/// A measured row on a probability plot.
struct PlottedShare {
  std::size_t row = 0;                 ///< index among the used rows
  double standardized = not_a_number;  ///< z of the row
  double share = not_a_number;         ///< plotting position: of all rows that lie below, censored ones allowed for
};

/// Of all measured rows, ascending in z, by the self-consistent (Turnbull 1976, J. R. Stat. Soc. B 38, 290) estimate of
/// the distribution of z, the middle of each step; Kaplan and Meier's (1958) where rows are censored on one side only.
/// Throws no Error of its own.
[[nodiscard]] std::vector<PlottedShare> plotting_positions(const CensoredFit& fit);

/// One distribution about the same curve, fitted to the same rows.
struct DistributionRank {
  Distribution distribution = Distribution::normal;
  double log_likelihood = not_a_number;
  double aicc = not_a_number;
};

/// Everything that a report of such a fit shows.
struct CensoredResults {
  CensoredFit fit;
  Level level = 0.95;
  std::vector<ParameterInterval> parameters{};  ///< of the curve, then the scatter; intervals by the profile
  std::vector<CensoredQuantile> quantiles{};
  std::vector<DistributionRank> distributions{};  ///< those that can be fitted, the smallest AICc first
  CensoredOtherwise otherwise{};
  double lowest_share = not_a_number;  ///< plotting positions of the lowest and the highest measured row
  double highest_share = not_a_number;
  std::vector<std::string> remarks{};  ///< what to be careful about
};

/// Quantiles of these shares at each place (one number a predictor); a curve without predictors needs no place. Throws
/// Error as its parts do.
[[nodiscard]] CensoredResults censored_results(const CensoredFit& fit, std::span<const double> shares,
                                               std::span<const Vector> places, Level level);

}  // namespace truecurve
