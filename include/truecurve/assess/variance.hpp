// Where the variation of the response goes: to the terms of the model, to the scatter, to what replicates can't
// explain.
// None of these throws an Error of its own.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto table =
//     truecurve::variance_table(truecurve::fit(truecurve::shape_model("line"), points));
//     EXPECT_NEAR(table.explained.sum_of_squares + table.residual.sum_of_squares, table.total.sum_of_squares, 1e-12);
#pragma once

#include <truecurve/fit/fit.hpp>

#include <optional>
#include <string>
#include <vector>

namespace truecurve {

/// One line of a variance table; NaN where it does not apply.
struct VarianceLine {
  std::string source{};
  double sum_of_squares = not_a_number;
  double degrees_of_freedom = not_a_number;
  double mean_square = not_a_number;
  double f = not_a_number;
  double p = not_a_number;
};

/// Sums of squares are weighted as the fit was, on the scale of the left side. Where the scatter sets the scale, F is
/// against the residual mean square; where uncertainties are stated, a line's sum of squares is itself chi-squared, p
/// follows from it, and F is NaN.
struct VarianceTable {
  VarianceLine explained{};
  VarianceLine residual{};
  VarianceLine total{};  ///< about the mean, or about zero (Model::is_judged_about_the_mean)
  /// What a part of the model that was not fitted takes of the total, or adds to it; it has no degrees of freedom.
  std::optional<VarianceLine> known{};
  /// What each term explains after those before it, in the order constant, then as written, powers ascending.
  std::vector<VarianceLine> sequential{};
};

/// Source: Draper and Smith (1998), 1.3 and 6.1.
[[nodiscard]] VarianceTable variance_table(const Fit& fit);

/// The residual sum of squares split by replicates: rows with equal predictors.
struct LackOfFit {
  VarianceLine lack_of_fit{};  ///< F against pure error
  VarianceLine pure_error{};
};

/// Empty where no predictors repeat, or where they leave no degrees of freedom. Source: Draper and Smith (1998), 2.1.
[[nodiscard]] std::optional<LackOfFit> lack_of_fit(const Fit& fit);

}  // namespace truecurve
