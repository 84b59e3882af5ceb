// A fit with limits among its responses, as a page of text or as CSV.
// None of these throws an Error of its own.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"life", "h", {120, 190, 260, 310, 340}}});
//     const auto fit = truecurve::fit_censored(truecurve::Model::written("life = scale"),
//                                              truecurve::censored_rows(table, {.response = "life"}),
//                                              {.distribution = truecurve::Distribution::weibull});
//     const auto text = truecurve::censored_text(
//         truecurve::censored_results(fit, std::vector{0.01}, std::vector{truecurve::Vector()}, 0.95));
//     EXPECT_NE(text.find("Weibull"), std::string::npos);
#pragma once

#include <truecurve/assess/censored.hpp>
#include <truecurve/assess/derived.hpp>
#include <truecurve/compare/censored_candidates.hpp>

#include <string>
#include <utility>
#include <vector>

namespace truecurve {

[[nodiscard]] std::string censored_text(const CensoredResults& results, const Deductions& deductions = {});
/// One row a parameter, then one a quantile.
[[nodiscard]] std::string censored_csv(const CensoredResults& results);

/// Ranked candidates, and those that could not be fitted with their reasons.
struct CensoredComparison {
  std::vector<CensoredCandidate> ranked{};
  std::vector<std::pair<std::string, std::string>> failed{};  ///< name and reason
};
[[nodiscard]] std::string censored_comparison_text(const CensoredComparison& comparison);
/// One row a candidate.
[[nodiscard]] std::string censored_comparison_csv(const CensoredComparison& comparison);

}  // namespace truecurve
