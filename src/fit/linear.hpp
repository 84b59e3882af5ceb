// Linear least squares: a bound linear model and observations in, parameters and triangular factor out.
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/fit/solver_report.hpp>

#include "../base/matrices.hpp"
#include "estimate_parts.hpp"

#include <string_view>
#include <vector>

namespace truecurve::detail {

struct LinearSolution {
  VectorXd parameters;  // in the user's columns
  MatrixXd spread;      // p x p, spread*spreadᵀ is the covariance for unit variance
  VectorXd effects;     // by parameter: its square is the sum of squares that the term explains after those before it
  std::vector<int> order;  // parameters in the order in which their terms were taken in
  WorkingForm working;
  double chi_squared = 0;
  double total_sum_of_squares = 0;
  double condition = 0;
  SolverMethod method = SolverMethod::blocked_qr;
};

/// Throws Error: rank_deficient, not_finite.
[[nodiscard]] LinearSolution solve_linear(const Model& model, const Observations& observations);

}  // namespace truecurve::detail
