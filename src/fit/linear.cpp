// Linear least squares in one pass over blocks of rows; refined, or repeated in double-double arithmetic, where a small
// problem allows and its condition asks for it.
#include "linear.hpp"

#include <truecurve/base/error.hpp>

#include "../base/double_double.hpp"
#include "../base/matrices.hpp"
#include "linear_problem.hpp"
#include "precise.hpp"
#include "refine.hpp"
#include "triangular_factor.hpp"
#include "user_columns.hpp"
#include "weights.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory_resource>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// Up to this many rows a second look with exact residuals costs next to nothing.
constexpr std::size_t always_refined_rows = 4096;
// Beyond this condition a large problem gets the second look too.
constexpr double refined_condition = 30;
// Refinement in double precision leaves an error of about condition² * 1e-16 times the residuals against the curve,
// which may be large: beyond this a small problem is solved in double-double arithmetic instead.
constexpr double precise_condition = 30;
// From Chebyshev's columns to powers of x the rounding errors of the covariance factor grow; a digit may be lost, no
// more.
constexpr double tolerated_magnification = 20;
constexpr double tolerated_roundings = 4;  // of a parameter, in units of 1e-16 of it
// Up to this many rows every digit of every parameter is worth double-double arithmetic. Beyond, its price grows with
// the rows, and parameters are known to fewer digits than it saves: what may be lost grows with the third power of the
// rows, so that the price rises nowhere in a step.
constexpr double rows_for_every_digit = 200;
// Double-double arithmetic takes about 10 ns an operation: at most a fraction of a second is spent on it.
constexpr double precise_operations = 2e7;
// A pivot this small against its column is rounding error of a double-precision factor over many rows.
constexpr double negligible_column = 1e-12;
// Refinement rounds the gradient in double precision, and the columns that had to be computed: together that leaves an
// error of about 1e-16 |K_j| (|residuals| + |computed part of the curve|) in parameter j: not to be seen in a parameter
// that stands out, but worth more digits in one that does not.
bool reaches_digits(const Problem& problem, const LinearSolution& solution, double tolerated) {
  double computed = 0;
  for (std::size_t k = 0; k < problem.parameters(); ++k) {
    const std::size_t j = problem.order()[k];
    if (!problem.is_computed(j)) continue;
    computed += std::abs(solution.working.parameters[static_cast<Index>(j)]) *
                (std::abs(problem.centre(j)) + 1 / problem.scale(k));
  }
  const double rounded_away =
      std::sqrt(solution.chi_squared) + std::sqrt(static_cast<double>(problem.rows())) * computed;
  for (Index j = 0; j < solution.parameters.size(); ++j) {
    if (!(solution.spread.row(j).norm() * rounded_away <= tolerated * std::abs(solution.parameters[j]))) return false;
  }
  return true;
}

}  // namespace

LinearSolution solve_linear(const Model& model, const Observations& observations) {
  const std::size_t p = model.parameters().size();
  if (p + 1 > most_columns) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = fmt::format("the model has {} parameters; {} are the limit", p, most_columns - 1),
                 .subject = "model",
                 .remedy = "fit a model with fewer parameters"});
  }
  StackMemory memory;
  double middle = 0;
  double half_width = 0;
  if (!data_of(model).bound->powers.empty()) {
    const auto x =
        as_eigen(observations.predictor(static_cast<std::size_t>(data_of(model).bound->polynomial_predictor)));
    const double low = x.minCoeff();
    const double high = x.maxCoeff();
    middle = low + (high - low) / 2;
    half_width = std::max((high - low) / 2, std::numeric_limits<double>::min());
  }
  Scratch scratch(*data_of(model).bound, middle, half_width, observations.size(), &memory);
  const Problem problem(model, observations, scratch, middle, half_width);
  const MatrixXd r = triangular_factor(problem, scratch);
  if (!r.allFinite()) problem.fail_not_finite();
  Factor<double> f{p, std::pmr::vector<double>(r.data(), r.data() + r.size(), &memory)};

  const auto columns = static_cast<double>(p + 1);
  const bool small = static_cast<double>(problem.rows()) * columns * columns <= precise_operations;
  if (const std::size_t k = first_dependent(f, problem, small ? 1 / precise_condition : negligible_column); k < p) {
    if (!small) fail_dependent(f, problem, k);
    return solve_precisely(problem);
  }
  const Factor<double> inv = inverse(f);
  LinearSolution solution;
  solution.condition = condition_of(f, inv);
  if (small && !(solution.condition <= precise_condition)) return solve_precisely(problem);

  DoubleDoubles theta(&memory);
  DoubleDoubles k_matrix(&memory);
  solve_factor(problem, f, inv, theta, k_matrix);
  solution.total_sum_of_squares = total_of(f, problem);
  keep_effects(problem, f, solution);
  solution.method = SolverMethod::blocked_qr;
  const double rest = f.at(p, p) / problem.scale(p);
  solution.chi_squared = rest * rest;
  if (problem.rows() <= always_refined_rows || solution.condition > refined_condition) {
    solution.chi_squared = refine(problem, k_matrix, theta, scratch);
    solution.method = SolverMethod::refined_qr;
  }
  const double magnified = to_user_columns(problem, theta, k_matrix, solution);
  const double patience = std::pow(std::max(1.0, static_cast<double>(problem.rows()) / rows_for_every_digit), 3);
  if (small && problem.rows() <= always_refined_rows &&
      (magnified > tolerated_magnification * patience ||
       !reaches_digits(problem, solution, tolerated_roundings * patience))) {
    return solve_precisely(problem);
  }
  return solution;
}

}  // namespace truecurve::detail
