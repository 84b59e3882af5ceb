// Least squares of a model as it is meant: the left side transformed, every row with its weight, weights that follow
// from the curve iterated.
#pragma once

#include <truecurve/base/warning.hpp>
#include <truecurve/fit/fit.hpp>

#include "linear.hpp"
#include "scatter_law.hpp"
#include "search_watch.hpp"

#include <vector>

namespace truecurve::detail {

struct Solved {
  Model model;             // as it was solved: a linear one that met a limit is a curve
  Observations left_side;  // what least squares saw
  /// A power of two in which the uncertainties of the left side are given where none are stated and the squares of the
  /// responses would leave the range of a double; else 1.
  double unit = 1;
  LinearSolution solution{};
  SolverReport report{};
  std::optional<OpenEnd> open_end{};
  bool is_separated =
      false;  // of a counted response: a combination of several predictors leaves the likelihood no maximum
};

/// Throws Error: unsuitable_row (the left side or the scatter is not defined there), and as the solvers do.
[[nodiscard]] Solved solve_as_meant(const Model& model, const Observations& observations, const FitOptions& options,
                                    std::vector<Warning>& warnings);

/// The same for a response that was counted, a linear model as a curve: the parameters of the greatest likelihood, the
/// deviance as chi-squared, the expected information as that of the tangent plane, and as left side the working rows,
/// whose residuals over their uncertainties are Pearson's. Throws as the solvers do.
[[nodiscard]] Solved solve_counted(const Model& model, const Observations& observations, const FitOptions& options,
                                   SearchWatch& watch);

/// The left side as the first round sees it, its weights from the measured responses.
[[nodiscard]] Solved first_sight(const Model& model, const Observations& observations, const Spread& spread);

/// The fit of a model to a left side and weights that are given as they are. Throws as the solvers do.
[[nodiscard]] Solved solve_least_squares(const Model& model, const Observations& left_side, const FitOptions& options);

/// The least chi-squared of a model over rows whose left side and weights are given as they are. Throws as the solvers
/// do.
[[nodiscard]] double least_chi_squared(const Model& model, const Observations& left_side, const FitOptions& options);

}  // namespace truecurve::detail
