// Residuals with more digits than the factor has.
#include "refine.hpp"

#include "../model/model_data.hpp"
#include "weights.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// Residuals of a polynomial by Clenshaw's recurrence in double-double arithmetic, without the rounding of its columns.
void polynomial_residuals(const Problem& problem, const DoubleDoubles& theta, std::size_t start, std::size_t rows,
                          double* rest) {
  const std::size_t p = problem.parameters();
  DoubleDouble constant;  // what the centres take away
  for (std::size_t k = 1; k < p; ++k)
    constant += theta[problem.order()[k]] * DoubleDouble(problem.centre(problem.order()[k]));
  const DoubleDouble scale = DoubleDouble(1) / DoubleDouble(problem.half_width());
  const double* const x = problem.polynomial_predictor() + start;
  for (std::size_t i = 0; i < rows; ++i) {
    const DoubleDouble t = two_sum(x[i], -problem.middle()) * scale;
    const DoubleDouble twice(2 * t.high, 2 * t.low);
    DoubleDouble above;
    DoubleDouble sum;
    for (std::size_t k = p; k-- > 1;) {
      const DoubleDouble next = theta[problem.order()[k]] + (twice * sum - above);
      above = sum;
      sum = next;
    }
    const DoubleDouble curve = theta[problem.order()[0]] - constant + (t * sum - above);
    rest[i] = (DoubleDouble(problem.response(start + i)) - curve).value();
  }
}

// The responses less what the model adds to its linear part, and what their rounding dropped.
void begin_residuals(const Problem& problem, std::size_t start, std::size_t rows, Scratch& scratch) {
  double* const __restrict rest = scratch.spare(0);
  double* const __restrict lost = scratch.spare(1);
  if (problem.bound().has_offset) {
    const double* const offset = scratch.raw(problem.parameters());
    for (std::size_t i = 0; i < rows; ++i) {
      const DoubleDouble first = two_sum(problem.response(start + i), -offset[i]);
      rest[i] = first.high;
      lost[i] = first.low;
    }
  } else {
    for (std::size_t i = 0; i < rows; ++i) {
      rest[i] = problem.response(start + i);
      lost[i] = 0;
    }
  }
}

// Takes the columns times their parameters away: compensated sums of products; Ogita, Rump and Oishi (2005), Dot2.
void subtract_columns(const Problem& problem, const DoubleDoubles& theta, std::size_t rows, Scratch& scratch) {
  double* const __restrict rest = scratch.spare(0);
  double* const __restrict lost = scratch.spare(1);
  for (std::size_t j = 0; j < problem.parameters(); ++j) {
    const double* const __restrict column = scratch.raw(j);
    const DoubleDouble value = theta[j];
    const double centre = problem.centre(j);
    if (static_cast<int>(j) == problem.bound().constant_term && problem.bound().constant_value == 1) {
      for (std::size_t i = 0; i < rows; ++i) {
        const DoubleDouble sum = two_sum(rest[i], -value.high);
        rest[i] = sum.high;
        lost[i] += sum.low - value.low;
      }
      continue;
    }
    for (std::size_t i = 0; i < rows; ++i) {
      const DoubleDouble distance = two_sum(column[i], -centre);
      const DoubleDouble product = two_product(value.high, distance.high);
      const DoubleDouble sum = two_sum(rest[i], -product.high);
      rest[i] = sum.high;
      lost[i] += sum.low - (product.low + (value.low * distance.high + value.high * distance.low));
    }
  }
}

}  // namespace

double refine(const Problem& problem, const DoubleDoubles& k_matrix, DoubleDoubles& theta, Scratch& scratch) {
  const std::size_t p = problem.parameters();
  std::pmr::vector<double> gradient(p, 0.0, theta.get_allocator().resource());
  double chi_squared = 0;
  double* const __restrict rest = scratch.spare(0);
  double* const __restrict lost = scratch.spare(1);  // what the rounding of `rest` has dropped
  for (std::size_t start = 0; start < problem.rows(); start += block_rows) {
    const std::size_t rows = std::min(block_rows, problem.rows() - start);
    // The columns of a single block are still there from the choice of the centres.
    if (problem.rows() > block_rows || problem.bound().has_offset) problem.raw_columns(start, rows, scratch);
    if (problem.is_polynomial()) {
      polynomial_residuals(problem, theta, start, rows, rest);
      std::fill_n(lost, rows, 0.0);
    } else {
      begin_residuals(problem, start, rows, scratch);
      subtract_columns(problem, theta, rows, scratch);
    }
    for (std::size_t i = 0; i < rows; ++i) rest[i] += lost[i];
    if (problem.weighted()) {
      for (std::size_t i = 0; i < rows; ++i) {
        lost[i] = problem.weight_root(start + i);
        rest[i] *= lost[i];
      }
    }
    for (std::size_t i = 0; i < rows; ++i) chi_squared += rest[i] * rest[i];
    for (std::size_t j = 0; j < p; ++j) {
      const double* const column = scratch.raw(j);
      const double centre = problem.centre(j);
      double sum = 0;
      for (std::size_t i = 0; i < rows; ++i)
        sum += (column[i] - centre) * (problem.weighted() ? lost[i] * rest[i] : rest[i]);
      gradient[j] += sum;
    }
  }
  // delta = K Kᵀ gradient
  std::pmr::vector<double> half(p, 0.0, theta.get_allocator().resource());
  for (std::size_t k = 0; k < p; ++k) {
    for (std::size_t j = 0; j < p; ++j) half[k] += k_matrix[j + k * p].high * gradient[j];
    // The residuals belong to the estimates before the step; what the step removes is orthogonal to what remains.
    chi_squared -= half[k] * half[k];
  }
  for (std::size_t j = 0; j < p; ++j) {
    double delta = 0;
    for (std::size_t k = 0; k < p; ++k) delta += k_matrix[j + k * p].high * half[k];
    theta[j] += DoubleDouble(delta);
  }
  return std::max(0.0, chi_squared);
}

}  // namespace truecurve::detail
