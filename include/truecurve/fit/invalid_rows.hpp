// Rows that a model can't take: a zero in a logarithm, a division by zero.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"t", "", {0, 1, 2}}, {"I", "", {9, 0, 4}}});
//     const truecurve::Observations counts(table, {.response = "I", .predictors = {"t"}});
//     const auto invalid = truecurve::invalid_rows(truecurve::Model::written("ln(I) = c - k*t"), counts);
//     ASSERT_EQ(invalid.size(), 1u);
//     EXPECT_EQ(invalid[0].reason, "ln(I) is not defined at I = 0");
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/model/model.hpp>

#include <vector>

namespace truecurve {

/// The rows (by their number in the table) whose left side or terms are not finite, each with the reason. Empty for a
/// model that takes every row. Throws Error (unknown_name) where the model is for another response. Cost: one
/// evaluation.
[[nodiscard]] std::vector<LeftOut> invalid_rows(const Model& model, const Observations& observations);

}  // namespace truecurve
