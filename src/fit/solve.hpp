// Least squares of a model as it is meant: the left side transformed, every row with its weight, weights that follow
// from the curve iterated.
#pragma once

#include <truecurve/base/warning.hpp>
#include <truecurve/fit/fit.hpp>

#include "linear.hpp"

#include <vector>

namespace truecurve::detail {

/// How the standard uncertainty of a response follows from the response: as stated for each row, or a constant times
/// its power (for a spread only relatively, the scale being estimated).
class ScatterLaw {
 public:
  ScatterLaw(const Observations& observations, const Spread& spread);

  /// Whether the rows have weights at all.
  [[nodiscard]] bool is_given() const { return stated_ || power_given_; }
  /// Whether they depend on the response.
  [[nodiscard]] bool follows_the_response() const { return power_given_ && power_ != 0; }
  /// Standard uncertainties where the responses are these, one for each row of the observations. Throws Error
  /// (unsuitable_row) that names a row in which the law gives none.
  [[nodiscard]] VectorXd at(const VectorXd& responses, const Observations& observations) const;

 private:
  bool stated_ = false;
  bool power_given_ = false;
  double factor_ = 1;
  double power_ = 0;
};

struct Solved {
  Model model;             // as it was solved: a linear one that met a limit is a curve
  Observations left_side;  // what least squares saw
  /// A power of two in which the uncertainties of the left side are given where none are stated and the squares of the
  /// responses would leave the range of a double; else 1.
  double unit = 1;
  LinearSolution solution{};
  SolverReport report{};
  std::optional<OpenEnd> open_end{};
};

/// Throws Error: unsuitable_row (the left side or the scatter is not defined there), and as the solvers do.
[[nodiscard]] Solved solve_as_meant(const Model& model, const Observations& observations, const FitOptions& options,
                                    std::vector<Warning>& warnings);

/// The left side as the first round sees it, its weights from the measured responses.
[[nodiscard]] Solved first_sight(const Model& model, const Observations& observations, const Spread& spread);

/// The fit of a model to a left side and weights that are given as they are. Throws as the solvers do.
[[nodiscard]] Solved solve_least_squares(const Model& model, const Observations& left_side, const FitOptions& options);

/// The least chi-squared of a model over rows whose left side and weights are given as they are. Throws as the solvers
/// do.
[[nodiscard]] double least_chi_squared(const Model& model, const Observations& left_side, const FitOptions& options);

}  // namespace truecurve::detail
