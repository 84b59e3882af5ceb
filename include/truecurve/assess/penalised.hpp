// The likelihood of a counted response with a penalty that keeps every estimate finite, where outcomes are separated,
// too.
//
// Example:
//     // 0 of 5 without, 4 of 5 with: the estimate is that of half an outcome added to each cell.
//     const auto rows = truecurve::Observations::counted({0, 1}, {0, 4},
//                                                        {5, 5}, truecurve::ResponseKind::events);
//     const auto model = truecurve::Model::written("ln(y/(1 - y)) = a + b*x");
//     const auto found = truecurve::penalised_estimates(model, rows, 0.95);
//     EXPECT_NEAR(found.parameters[1].value, std::log(4.5 / 1.5 * 5.5 / 0.5), 1e-6);
#pragma once

#include <truecurve/assess/intervals.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>

#include <string>
#include <vector>

namespace truecurve {

struct PenalisedEstimates {
  Estimate estimate;  ///< the curve there, its covariance from the expected information
  /// One a parameter: uncertainty from the expected information there, interval by the profile of the penalised
  /// likelihood, p by its fall where the parameter is held at the null value. An end that was not found is NaN, one
  /// that lies nowhere infinite.
  std::vector<ParameterInterval> parameters{};
  double log_likelihood = not_a_number;           ///< of the rows there, without the penalty
  double penalty = not_a_number;                  ///< half the logarithm of the determinant of the expected information
  double greatest_log_likelihood = not_a_number;  ///< without a penalty; NaN where it has no maximum
  std::string why_none{};                         ///< why it has none
  bool converged = false;
};

/// The parameters with the greatest log likelihood plus half the logarithm of the determinant of the expected
/// information. Of a curve that is linear behind the link of its distribution (ln(p/(1-p)), ln of a count) this takes
/// the first-order bias away. `options` gives starts and what is held. Throws Error: bad_argument (a measured response,
/// a level that is none), not_supported (another curve: the penalty depends on the choice of parameters),
/// rank_deficient (rows that do not determine the parameters even so), and as fit(). Sources: Firth (1993) Biometrika
/// 80, 27; Heinze and Schemper (2002) Stat. Med. 21, 2409 for the profile.
[[nodiscard]] PenalisedEstimates penalised_estimates(const Model& model, const Observations& rows, Level level,
                                                     const FitOptions& options = {});

}  // namespace truecurve
