// Candidates for responses with limits among them, side by side by their likelihood.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"life", "h", {120, 190, 260, 310, 340, 420, 510}}});
//     const auto lives = truecurve::censored_rows(table, {.response = "life"});
//     std::vector<truecurve::CensoredCandidate> candidates;
//     for (const auto kind : {truecurve::Distribution::normal, truecurve::Distribution::weibull})
//       candidates.push_back({std::string(truecurve::name(kind)),
//                             truecurve::fit_censored(truecurve::Model::written("life = c"), lives, {.distribution =
//                             kind})});
//     const auto ranked = truecurve::ranked_by_aicc(candidates);
//     EXPECT_EQ(ranked[0].difference, 0);
#pragma once

#include <truecurve/fit/censored.hpp>

#include <string>
#include <vector>

namespace truecurve {

struct CensoredCandidate {
  std::string name{};
  CensoredFit fit;
  double difference = not_a_number;  ///< AICc less the smallest
  double weight = not_a_number;      ///< exp(-difference/2), all together 1
};

/// By ascending AICc; by BIC's order nothing changes but the criterion. Candidates without an AICc (too few rows) stand
/// last. Throws Error (bad_argument) where there are none, or where two are of other rows or other limits: their
/// likelihoods can't be compared. Source: Burnham and Anderson (2002), 2.4 and 2.9.
[[nodiscard]] std::vector<CensoredCandidate> ranked_by_aicc(std::vector<CensoredCandidate> candidates);

}  // namespace truecurve
