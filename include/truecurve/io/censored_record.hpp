// The record of a fit with limits among its responses.
// None of these throws an Error of its own but where it says so.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"life", "h", {120, 190, 260, 310, 340}}});
//     const auto fit = truecurve::fit_censored(truecurve::Model::written("life = scale"),
//                                              truecurve::censored_rows(table, {.response = "life"}),
//                                              {.distribution = truecurve::Distribution::weibull});
//     const auto results = truecurve::censored_results(fit, std::vector{0.01}, std::vector{truecurve::Vector()}, 0.95);
//     const auto record = truecurve::censored_record(results);
//     EXPECT_EQ(truecurve::read_fit_record(record, "memory").parameters(), fit.estimate.parameters());
#pragma once

#include <truecurve/assess/censored.hpp>
#include <truecurve/assess/derived.hpp>

#include <string>

namespace truecurve {

/// The record `truecurve.censored/1`, of which read_fit_record() restores the curve's estimate.
[[nodiscard]] std::string censored_record(const CensoredResults& results, const Deductions& deductions = {});

}  // namespace truecurve
