// Penalised estimates of a counted response, as a page of text or as CSV.
// None of these throws an Error of its own.
//
// Example:
//     const auto rows = truecurve::Observations::counted({0, 1}, {0, 4},
//                                                        {5, 5}, truecurve::ResponseKind::events);
//     const auto found =
//         truecurve::penalised_estimates(truecurve::Model::written("ln(y/(1 - y)) = a + b*x"), rows, 0.95);
//     EXPECT_NE(truecurve::penalised_text(found, rows, 0.95).find("Firth"), std::string::npos);
#pragma once

#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/penalised.hpp>
#include <truecurve/base/level.hpp>

#include <string>

namespace truecurve {

[[nodiscard]] std::string penalised_text(const PenalisedEstimates& found, const Observations& rows, Level level,
                                         const Deductions& deductions = {});
/// One row a parameter.
[[nodiscard]] std::string penalised_csv(const PenalisedEstimates& found);

}  // namespace truecurve
