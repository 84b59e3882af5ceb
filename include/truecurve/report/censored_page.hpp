// A fit with limits among its responses, as a page.
// None of these throws an Error of its own.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"life", "h", {120, 190, 260, 310, 340}}});
//     const auto fit = truecurve::fit_censored(truecurve::Model::written("life = scale"),
//                                              truecurve::censored_rows(table, {.response = "life"}),
//                                              {.distribution = truecurve::Distribution::weibull});
//     const auto page = truecurve::censored_page(
//         truecurve::censored_results(fit, std::vector{0.01}, std::vector{truecurve::Vector()}, 0.95));
//     EXPECT_NE(truecurve::text_of(page).find("Weibull"), std::string::npos);
#pragma once

#include <truecurve/assess/censored.hpp>
#include <truecurve/assess/derived.hpp>
#include <truecurve/compare/censored_candidates.hpp>
#include <truecurve/report/page.hpp>

#include <string>
#include <utility>
#include <vector>

namespace truecurve {

/// The data have one row a parameter, then one a quantile.
[[nodiscard]] Page censored_page(const CensoredResults& results, const Deductions& deductions = {});

/// Ranked candidates, and those that could not be fitted with their reasons.
struct CensoredComparison {
  std::vector<CensoredCandidate> ranked{};
  std::vector<std::pair<std::string, std::string>> failed{};  ///< name and reason
};
/// The data have one row a candidate.
[[nodiscard]] Page censored_comparison_page(const CensoredComparison& comparison);

}  // namespace truecurve
