// Nonlinear least squares: a bound model and observations in, the best minimum found and its triangular factor out.
#pragma once

#include <truecurve/fit/preview.hpp>

#include "../base/matrices.hpp"
#include "linear.hpp"
#include "search_watch.hpp"

namespace truecurve::detail {

struct NonlinearSolution {
  LinearSolution linear;  // parameters, spread, working form, chi-squared, as of the tangent plane at the estimates
  SolverReport report;
  std::optional<OpenEnd> open_end;
};

/// Whether a parameter with one end only is looked for where the search ends in no minimum. A fit that is repeated
/// hundreds of times has no time for it. How far it may go is judged by weights that are believed as they stand, or by
/// the scatter about the curve.
enum class OpenEnds { ignored, by_known_scale, by_scatter };

/// Throws Error: rank_deficient (parameters that can't be told apart), not_finite (no start at which the model is
/// finite), bad_argument (a start that names no parameter or is not finite).
[[nodiscard]] NonlinearSolution solve_nonlinear(const Model& model, const Observations& observations,
                                                const FitOptions& options, OpenEnds open_ends, SearchWatch& watch);

/// The curve at its starts: values, which of them were given or solved for, chi-squared. Throws as solve_nonlinear.
struct StartingPoint {
  VectorXd parameters;
  std::vector<StartOrigin> origins;
  double chi_squared = infinity;
};
[[nodiscard]] StartingPoint starting_point(const Model& model, const Observations& observations,
                                           const FitOptions& options);

}  // namespace truecurve::detail
