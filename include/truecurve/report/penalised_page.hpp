// Penalised estimates of a counted response, as a page.
// None of these throws an Error of its own.
//
// Example:
//     const auto rows = truecurve::Observations::counted({0, 1}, {0, 4},
//                                                        {5, 5}, truecurve::ResponseKind::events);
//     const auto found =
//         truecurve::penalised_estimates(truecurve::Model::written("ln(y/(1 - y)) = a + b*x"), rows, 0.95);
//     EXPECT_NE(truecurve::text_of(truecurve::penalised_page(found, rows, 0.95)).find("Firth"), std::string::npos);
#pragma once

#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/penalised.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/report/page.hpp>

namespace truecurve {

/// Its data have one row a parameter.
[[nodiscard]] Page penalised_page(const PenalisedEstimates& found, const Observations& rows, Level level,
                                  const Deductions& deductions = {});

}  // namespace truecurve
