// The record of penalised estimates.
// None of these throws an Error of its own but where it says so.
//
// Example:
//     const auto rows = truecurve::Observations::counted({0, 1}, {0, 4},
//                                                        {5, 5}, truecurve::ResponseKind::events);
//     const auto found =
//         truecurve::penalised_estimates(truecurve::Model::written("ln(y/(1 - y)) = a + b*x"), rows, 0.95);
//     const auto record = truecurve::penalised_record(found, rows, 0.95);
//     EXPECT_EQ(truecurve::read_fit_record(record, "memory").parameters(), found.estimate.parameters());
#pragma once

#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/penalised.hpp>
#include <truecurve/base/level.hpp>

#include <string>

namespace truecurve {

/// The record `truecurve.penalised/1`, of which read_fit_record() restores the estimate.
[[nodiscard]] std::string penalised_record(const PenalisedEstimates& found, const Observations& rows, Level level,
                                           const Deductions& deductions = {});

}  // namespace truecurve
