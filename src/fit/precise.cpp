// The whole problem in double-double arithmetic.
#include "precise.hpp"

#include "../model/model_data.hpp"
#include "user_columns.hpp"
#include "weights.hpp"

#include <algorithm>
#include <memory_resource>
#include <vector>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// A pivot this small against its column is rounding error of the data themselves, whatever the arithmetic.
constexpr double negligible_precise_pivot = 4e-16;

// The whole problem in double-double arithmetic: columns, factor, residuals.
class PreciseProblem {
 public:
  explicit PreciseProblem(const Problem& problem) : problem_(problem), n_(problem.rows()), p_(problem.parameters()) {
    fill();
  }

  Factor<DoubleDouble> factor(std::pmr::memory_resource* memory) {
    std::vector<DoubleDouble> a = columns_;
    Factor<DoubleDouble> f{p_, DoubleDoubles((p_ + 1) * (p_ + 1), DoubleDouble(), memory)};
    for (std::size_t j = 0; j <= p_ && j < n_; ++j) {
      DoubleDouble below;
      for (std::size_t i = j; i < n_; ++i) below += a[i + j * n_] * a[i + j * n_];
      const DoubleDouble norm = sqrt(below);
      const DoubleDouble beta = a[j + j * n_].high > 0 ? -norm : norm;
      const DoubleDouble head = a[j + j * n_] - beta;
      const DoubleDouble length = below - a[j + j * n_] * a[j + j * n_] + head * head;
      for (std::size_t k = j + 1; k <= p_ && length.high > 0; ++k) {
        DoubleDouble product = head * a[j + k * n_];
        for (std::size_t i = j + 1; i < n_; ++i) product += a[i + j * n_] * a[i + k * n_];
        const DoubleDouble factor = DoubleDouble(2) * product / length;
        a[j + k * n_] -= factor * head;
        for (std::size_t i = j + 1; i < n_; ++i) a[i + k * n_] -= factor * a[i + j * n_];
      }
      a[j + j * n_] = beta;
      for (std::size_t k = j; k <= p_; ++k) f.at(j, k) = a[j + k * n_];
    }
    return f;
  }

  // With theta by parameter, in centred columns.
  [[nodiscard]] double chi_squared(const DoubleDoubles& theta) const {
    // The columns carry scale and order, and the response its centre.
    DoubleDouble sum;
    for (std::size_t i = 0; i < n_; ++i) {
      DoubleDouble rest = columns_[i + p_ * n_];
      for (std::size_t k = 0; k < p_; ++k) {
        const std::size_t j = problem_.order()[k];
        DoubleDouble value = theta[j];
        if (static_cast<int>(j) == problem_.bound().constant_term) {
          value -= DoubleDouble(problem_.response_centre()) / DoubleDouble(problem_.bound().constant_value);
        }
        rest -= value * DoubleDouble(problem_.scale(p_) / problem_.scale(k)) * columns_[i + k * n_];
      }
      sum += rest * rest;
    }
    return (sum / DoubleDouble(problem_.scale(p_) * problem_.scale(p_))).value();
  }

 private:
  void fill() {
    columns_.resize(n_ * (p_ + 1));
    const BoundModel& bound = problem_.bound();
    std::vector<DoubleDouble> variables(problem_.observations().predictors().size());
    std::vector<DoubleDouble> outputs(bound.columns.outputs());
    std::vector<DoubleDouble> by_degree(std::max<std::size_t>(2, p_));
    for (std::size_t i = 0; i < n_; ++i) {
      for (std::size_t k = 0; k < variables.size(); ++k) {
        variables[k] = DoubleDouble(problem_.observations().predictor(k)[static_cast<Index>(i)]);
      }
      if (problem_.is_polynomial()) {
        const DoubleDouble t =
            (variables[static_cast<std::size_t>(bound.polynomial_predictor)] - DoubleDouble(problem_.middle())) /
            DoubleDouble(problem_.half_width());
        by_degree[0] = DoubleDouble(1);
        by_degree[1] = t;
        for (std::size_t d = 2; d < p_; ++d) by_degree[d] = DoubleDouble(2) * t * by_degree[d - 1] - by_degree[d - 2];
        for (std::size_t j = 0; j < p_; ++j) outputs[j] = by_degree[static_cast<std::size_t>(bound.powers[j])];
      } else {
        bound.columns.run_precise(variables, {}, outputs);
      }
      const DoubleDouble root =
          DoubleDouble(1) / DoubleDouble(Weights(problem_.observations()).size(static_cast<Index>(i)));
      for (std::size_t k = 0; k < p_; ++k) {
        const std::size_t j = problem_.order()[k];
        columns_[i + k * n_] = (outputs[j] - DoubleDouble(problem_.centre(j))) * DoubleDouble(problem_.scale(k)) * root;
      }
      DoubleDouble y(problem_.response(i));
      if (bound.has_offset) y -= outputs[p_];
      columns_[i + p_ * n_] = (y - DoubleDouble(problem_.response_centre())) * DoubleDouble(problem_.scale(p_)) * root;
    }
  }

  const Problem& problem_;
  std::size_t n_;
  std::size_t p_;
  std::vector<DoubleDouble> columns_;
};

}  // namespace

LinearSolution solve_precisely(const Problem& problem) {
  PreciseProblem whole(problem);
  StackMemory memory;
  const Factor<DoubleDouble> f = whole.factor(&memory);
  if (const std::size_t k = first_dependent(f, problem, negligible_precise_pivot); k < f.p)
    fail_dependent(f, problem, k);
  const Factor<DoubleDouble> inv = inverse(f);
  DoubleDoubles theta(&memory);
  DoubleDoubles k_matrix(&memory);
  solve_factor(problem, f, inv, theta, k_matrix);
  LinearSolution solution;
  solution.method = SolverMethod::double_double_qr;
  solution.condition = condition_of(f, inv);
  solution.chi_squared = whole.chi_squared(theta);
  keep_effects(problem, f, solution);
  solution.total_sum_of_squares = total_of(f, problem);
  to_user_columns(problem, theta, k_matrix, solution);
  return solution;
}

}  // namespace truecurve::detail
