// Curves fitted to responses of which some are only limits: results below a reporting limit, run-outs, strengths that
// were not reached. The scatter is estimated with the parameters, by maximum likelihood.
//
// Example:
//     std::vector<truecurve::Column> columns(1);
//     columns[0].name = "life";
//     columns[0].numbers = {120, 190, 260, 310, 340, truecurve::not_a_number};
//     columns[0].texts = {{5, ">400"}};
//     const auto lives = truecurve::censored_rows(truecurve::Table(columns), {.response = "life"});
//     const auto fit = truecurve::fit_censored(truecurve::Model::written("life = scale"), lives,
//                                              {.distribution = truecurve::Distribution::weibull});
//     EXPECT_GT(fit.estimate.parameters()[0], 300);
#pragma once

#include <truecurve/data/censoring.hpp>
#include <truecurve/fit/estimate.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// How a response scatters about the curve f(x), with z = (y - f)/s, or of the other two z = (ln y - ln f)/s.
enum class Distribution {
  normal,     ///< z standard normal; f is the mean and the median, s the standard deviation
  lognormal,  ///< z standard normal; f is the median, s the standard deviation of ln y
  weibull,    ///< P(z > t) = exp(-e^t); f is the scale, exceeded by 36.8 %, and k = 1/s the shape
};

[[nodiscard]] std::string_view name(Distribution distribution) noexcept;

struct CensoredOptions {
  Distribution distribution = Distribution::normal;
  std::vector<Start> starts{};  ///< of the curve's parameters; none: found by least squares with the limits as values
  std::vector<FixedParameter> fixed{};
  int most_evaluations = 400;  ///< of the model over all rows
};

struct CensoredFit {
  CensoredRows data;
  Distribution distribution = Distribution::normal;
  /// Of the curve's parameters, with the part that the scatter has in their uncertainty: what predict(), solve() and
  /// derived quantities need. Its uncertainties count as known (normal quantiles).
  Estimate estimate;
  double scatter = not_a_number;         ///< s
  Vector joint{};                        ///< the parameters and ln s
  Matrix joint_covariance{};             ///< of these, from the observed information
  double log_likelihood = not_a_number;  ///< with all constants, of the responses (not of their logarithms)
  double aic = not_a_number;
  double aicc = not_a_number;  ///< NaN where n - k - 1 is not positive
  double bic = not_a_number;
  bool converged = false;
  int evaluations = 0;

  /// "s", or of Weibull's distribution "k" ("scatter_s", "shape_k" where the curve has such a parameter), its value and
  /// its standard uncertainty. Throws no Error of its own.
  [[nodiscard]] std::string scatter_name() const;
  [[nodiscard]] double scatter_value() const;
  [[nodiscard]] double scatter_uncertainty() const;
};

/// Maximum likelihood: densities of the measured rows, probabilities of lying below or above the limits of the others.
/// A model is that of the response; a left side ln(y) is one of a lognormal or Weibull distribution. Covariance:
/// inverse of the observed information. Throws Error: bad_argument (another left side, a fixed parameter that is none),
/// too_few_observations (no measured row, fewer rows than parameters), unsuitable_row (a response that is not above 0
/// for lognormal and Weibull), not_finite, rank_deficient (a parameter that the rows do not determine, no scatter).
/// Sources: Tobin (1958) Econometrica 26, 24; Cohen (1965) Technometrics 7, 579; Nelson (1990) Accelerated Testing, 5.
[[nodiscard]] CensoredFit fit_censored(const Model& model, const CensoredRows& data,
                                       const CensoredOptions& options = {});

/// z below which a share of all lies: of a normal distribution, or of Weibull's ln(-ln(1 - share)). Requires
/// 0 < share < 1; throws Error (bad_argument).
[[nodiscard]] double standard_quantile(Distribution distribution, double share);

}  // namespace truecurve
