// Linear least squares in one pass over blocks of rows; refined, or repeated in double-double arithmetic, where a small
// problem allows and its condition asks for it.
#include "linear.hpp"

#include <truecurve/base/error.hpp>

#include "../base/double_double.hpp"
#include "../base/matrices.hpp"
#include "absorb.hpp"
#include "linear_problem.hpp"
#include "weights.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <memory>
#include <memory_resource>
#include <new>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// Rows handed to one task: large enough to hide its cost, fixed so that the merge order, and with it the result, does
// not depend on the number of threads.
constexpr std::size_t rows_of_design_per_task = 1 << 16;
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
// A pivot this small against its column is rounding error of a double-precision factor over many rows ...
constexpr double negligible_column = 1e-12;
// ... and this small it is rounding error of the data themselves, whatever the arithmetic.
constexpr double negligible_precise_pivot = 4e-16;

struct AlignedFree {
  void operator()(double* p) const { ::operator delete[](p, std::align_val_t(64)); }
};
using AlignedBlock = std::unique_ptr<double[], AlignedFree>;

AlignedBlock aligned_block(std::size_t count) {
  return AlignedBlock(static_cast<double*>(::operator new[](count * sizeof(double), std::align_val_t(64))));
}

void absorb_rows(const Problem& problem, std::size_t start, std::size_t end, double* r, Scratch& scratch) {
  const Absorb absorb = best_absorb();
  for (std::size_t at = start; at < end; at += block_rows) {
    const std::size_t padded = problem.prepared_block(at, std::min(block_rows, end - at), scratch);
    absorb(r, problem.parameters() + 1, scratch.block(0), padded, scratch.stride);
  }
}

// The triangular factor of all rows, the response as its last column.
MatrixXd triangular_factor(const Problem& problem, Scratch& scratch) {
  const std::size_t columns = problem.parameters() + 1;
  const auto size = static_cast<Index>(columns);
  MatrixXd r = MatrixXd::Zero(size, size);
  if (problem.rows() <= 2 * rows_of_design_per_task) {
    absorb_rows(problem, 0, problem.rows(), r.data(), scratch);
    return r;
  }
  const std::size_t tasks = (problem.rows() + rows_of_design_per_task - 1) / rows_of_design_per_task;
  std::vector<MatrixXd> parts(tasks, r);
  tbb::parallel_for(std::size_t{0}, tasks, [&](std::size_t task) {
    const std::size_t start = task * rows_of_design_per_task;
    Scratch own(problem.bound(), problem.middle(), problem.half_width(), rows_of_design_per_task,
                std::pmr::new_delete_resource());
    absorb_rows(problem, start, std::min(start + rows_of_design_per_task, problem.rows()), parts[task].data(), own);
  });
  const std::size_t stride = (columns + 7) / 8 * 8;
  const AlignedBlock block = aligned_block(columns * stride);
  for (const MatrixXd& part : parts) {
    std::fill_n(block.get(), columns * stride, 0.0);
    for (std::size_t k = 0; k < columns; ++k)
      std::memcpy(block.get() + k * stride, part.data() + k * columns, (k + 1) * sizeof(double));
    best_absorb()(r.data(), columns, block.get(), stride, stride);
  }
  return r;
}

// One dense triangular factor in either arithmetic: R, the right-hand side, and the sum of squares beneath it.
template <typename Scalar>
struct Factor {
  std::size_t p = 0;
  std::pmr::vector<Scalar> r;  // p x (p+1), column-major with p+1 rows
  [[nodiscard]] Scalar at(std::size_t row, std::size_t column) const { return r[row + column * (p + 1)]; }
  [[nodiscard]] Scalar& at(std::size_t row, std::size_t column) { return r[row + column * (p + 1)]; }
};

inline double plain(double x) { return x; }
inline double plain(DoubleDouble x) { return x.value(); }

template <typename Scalar>
double column_norm(const Factor<Scalar>& f, std::size_t column) {
  double sum = 0;
  for (std::size_t i = 0; i <= column; ++i) sum += plain(f.at(i, column)) * plain(f.at(i, column));
  return std::sqrt(sum);
}

// Position of the first column that the columns before it already span, or p.
template <typename Scalar>
std::size_t first_dependent(const Factor<Scalar>& f, const Problem& problem, double negligible) {
  for (std::size_t k = 0; k < f.p; ++k) {
    // Centring has already removed what the constant spans; the remainder must be judged against the raw column.
    const std::size_t j = problem.order()[k];
    const double raw = std::abs(problem.centre(j)) * problem.scale(k) * std::abs(plain(f.at(0, 0))) /
                       (problem.has_constant() ? std::abs(problem.bound().constant_value) * problem.scale(0) : 1);
    const double norm = column_norm(f, k);
    const double pivot = std::abs(plain(f.at(k, k)));
    // What is left of a column after centring may be its own rounding error: x constant to the last digit.
    constexpr double rounding = 4e-16;
    if (!(pivot > negligible * norm) || !(pivot > rounding * raw)) return k;
  }
  return f.p;
}

template <typename Scalar>
[[noreturn]] void fail_dependent(const Factor<Scalar>& f, const Problem& problem, std::size_t k) {
  const std::vector<std::string>& names = problem.bound().parameters;
  const std::size_t last = problem.order()[k];
  if (problem.is_polynomial()) {
    const std::string& x = problem.bound().predictors[static_cast<std::size_t>(problem.bound().polynomial_predictor)];
    throw Error({.code = ErrorCode::rank_deficient,
                 .message = fmt::format(
                     "'{}' has only {} different values (or so nearly), and a polynomial of degree {} needs {}", x, k,
                     problem.parameters() - 1, problem.parameters()),
                 .subject = names[last],
                 .remedy = fmt::format("fit a polynomial of degree {} at most, or measure at more values", k - 1)});
  }
  // column_k = sum c_i column_i: back-substitution in the leading triangle.
  std::vector<double> c(k, 0.0);
  for (std::size_t i = k; i-- > 0;) {
    double sum = plain(f.at(i, k));
    for (std::size_t m = i + 1; m < k; ++m) sum -= plain(f.at(i, m)) * c[m];
    c[i] = sum / plain(f.at(i, i));
  }
  double constant_share = problem.centre(last);
  for (std::size_t i = 0; i < k; ++i) {
    const bool small = std::abs(c[i]) * column_norm(f, i) < 1e-6 * column_norm(f, k);
    c[i] = small ? 0.0 : c[i] * problem.scale(i) / problem.scale(k);
    constant_share -= c[i] * problem.centre(problem.order()[i]);
  }
  if (problem.has_constant() && k > 0) c[0] += constant_share / problem.bound().constant_value;
  std::string together;
  std::string list;
  for (std::size_t i = 0; i < k; ++i) {
    if (c[i] == 0) continue;
    const std::string& name = names[problem.order()[i]];
    const double size = std::abs(c[i]);
    const std::string factor = std::abs(size - 1) < 1e-9 ? "" : fmt::format("{:.6g}*", size);
    together +=
        fmt::format("{}{} {} {}{}", together.empty() ? "" : " and ", name, c[i] < 0 ? "-" : "+", factor, names[last]);
    list += (list.empty() ? "" : ", ") + name;
  }
  const bool one_value = problem.bound().straight_line;
  if (together.empty()) {
    throw Error({.code = ErrorCode::rank_deficient,
                 .message = fmt::format("the term of '{}' is zero in every row, so '{}' can't be found", names[last],
                                        names[last]),
                 .subject = names[last],
                 .remedy = "remove the parameter, or measure where its term is not zero"});
  }
  throw Error({.code = ErrorCode::rank_deficient,
               .message = fmt::format(
                   "these rows can't tell {} and {} apart: they enter only as {}{}", list, names[last], together,
                   one_value ? fmt::format(", because '{}' has the same value in every row that counts",
                                           problem.bound().predictors[0])
                             : ""),
               .subject = list + ", " + names[last],
               .remedy = one_value ? "measure at two or more values of the predictor"
                                   : "remove or fix one of them, or measure where their terms differ"});
}

template <typename Scalar>
Factor<Scalar> inverse(const Factor<Scalar>& f) {
  Factor<Scalar> inv{f.p, std::pmr::vector<Scalar>((f.p + 1) * (f.p + 1), Scalar(0.0), f.r.get_allocator())};
  for (std::size_t k = 0; k < f.p; ++k) {
    inv.at(k, k) = Scalar(1.0) / f.at(k, k);
    for (std::size_t i = k; i-- > 0;) {
      Scalar sum(0.0);
      for (std::size_t m = i + 1; m <= k; ++m) sum += f.at(i, m) * inv.at(m, k);
      inv.at(i, k) = -sum / f.at(i, i);
    }
  }
  return inv;
}

// Condition in the 1-norm of the factor with its columns scaled to unit length.
template <typename Scalar>
double condition_of(const Factor<Scalar>& f, const Factor<Scalar>& inv) {
  double norm = 0;
  double inverse_norm = 0;
  for (std::size_t k = 0; k < f.p; ++k) {
    const double length = column_norm(f, k);
    double sum = 0;
    double inverse_sum = 0;
    for (std::size_t i = 0; i <= k; ++i) {
      sum += std::abs(plain(f.at(i, k))) / length;
      inverse_sum += std::abs(plain(inv.at(i, k))) * column_norm(f, i);
    }
    norm = std::max(norm, sum);
    inverse_norm = std::max(inverse_norm, inverse_sum);
  }
  return norm * inverse_norm;
}

template <typename Scalar>
double total_of(const Factor<Scalar>& f, const Problem& problem) {
  double total = 0;
  for (std::size_t i = problem.has_constant() ? 1 : 0; i <= f.p; ++i) {
    const double length = plain(f.at(i, f.p)) / problem.scale(f.p);
    total += length * length;
  }
  return total;
}

// From Chebyshev's columns to powers of x: T_d((x - middle)/half_width) = sum_e m[e][d] x^e, by the recurrence
// T_{d+1}(t) = 2 t T_d(t) - T_{d-1}(t) on the coefficients.
double to_powers(const Problem& problem, const DoubleDoubles& theta, const DoubleDoubles& k_matrix,
                 DoubleDouble constant, const DoubleDoubles& constant_row, LinearSolution& solution) {
  const std::size_t p = problem.parameters();
  const DoubleDouble slope = DoubleDouble(1) / DoubleDouble(problem.half_width());
  const DoubleDouble shift = -DoubleDouble(problem.middle()) * slope;
  std::vector<DoubleDouble> m(p * p);
  m[0] = DoubleDouble(1);
  m[0 + p] = shift;
  m[1 + p] = slope;
  for (std::size_t d = 2; d < p; ++d) {
    for (std::size_t e = 0; e <= d; ++e) {
      DoubleDouble sum = DoubleDouble(2) * shift * m[e + (d - 1) * p];
      if (e > 0) sum += DoubleDouble(2) * slope * m[e - 1 + (d - 1) * p];
      m[e + d * p] = sum - m[e + (d - 2) * p];
    }
  }
  // by power: the parameter that multiplies it
  std::vector<std::size_t> of_power(p);
  for (std::size_t j = 0; j < p; ++j) of_power[static_cast<std::size_t>(problem.bound().powers[j])] = j;
  double magnified = 1;
  for (std::size_t e = 0; e < p; ++e) {
    const auto target = static_cast<Index>(of_power[e]);
    double parts = 0;
    DoubleDouble value;
    for (std::size_t d = e; d < p; ++d) value += m[e + d * p] * (d == 0 ? constant : theta[of_power[d]]);
    solution.parameters[target] = value.value();
    for (std::size_t k = 0; k < p; ++k) {
      DoubleDouble sum;
      for (std::size_t d = e; d < p; ++d) {
        const DoubleDouble part = m[e + d * p] * (d == 0 ? constant_row[k] : k_matrix[of_power[d] + k * p]);
        sum += part;
        parts += std::abs(part.high);
      }
      solution.spread(target, static_cast<Index>(k)) = sum.value();
    }
    magnified = std::max(magnified, parts / solution.spread.row(target).norm());
  }
  return magnified;
}

// Undoes order, scale and centres; theta (by parameter) belongs to the centred columns. Returns by how much the
// conversion may have magnified the rounding errors of K.
double to_user_columns(const Problem& problem, const DoubleDoubles& theta, const DoubleDoubles& k_matrix,
                       LinearSolution& solution) {
  const auto p = static_cast<Index>(problem.parameters());
  solution.parameters.resize(p);
  solution.spread.resize(p, p);
  solution.working.centre.resize(p);
  solution.working.parameters.resize(p);
  solution.working.inverse_factor.resize(p, p);
  const auto k_at = [&](Index row, Index column) { return k_matrix[static_cast<std::size_t>(row + column * p)]; };
  for (Index j = 0; j < p; ++j) {
    const auto at = static_cast<std::size_t>(j);
    solution.parameters[j] = theta[at].value();
    solution.working.parameters[j] = theta[at].value();
    solution.working.centre[j] = problem.centre(at);
    for (Index k = 0; k < p; ++k) {
      solution.spread(j, k) = k_at(j, k).value();
      solution.working.inverse_factor(j, k) = k_at(j, k).value();
    }
  }
  solution.working.middle = problem.middle();
  solution.working.half_width = problem.half_width();
  if (!problem.has_constant()) return 1;
  // theta_0 f_0 + sum theta_j (f_j - c_j) = (theta_0 - sum theta_j c_j / f_0) f_0 + sum theta_j f_j
  const Index constant = problem.bound().constant_term;
  const DoubleDouble value(problem.bound().constant_value);
  DoubleDouble shifted = theta[static_cast<std::size_t>(constant)];
  DoubleDoubles row(static_cast<std::size_t>(p), DoubleDouble(), theta.get_allocator());
  for (Index k = 0; k < p; ++k) row[static_cast<std::size_t>(k)] = k_at(constant, k);
  for (Index j = 0; j < p; ++j) {
    if (j == constant) continue;
    const DoubleDouble share = DoubleDouble(problem.centre(static_cast<std::size_t>(j))) / value;
    shifted -= theta[static_cast<std::size_t>(j)] * share;
    for (Index k = 0; k < p; ++k) row[static_cast<std::size_t>(k)] -= share * k_at(j, k);
  }
  solution.parameters[constant] = shifted.value();
  for (Index k = 0; k < p; ++k) solution.spread(constant, k) = row[static_cast<std::size_t>(k)].value();
  return problem.is_polynomial() ? to_powers(problem, theta, k_matrix, shifted, row, solution) : 1;
}

template <typename Scalar>
void keep_effects(const Problem& problem, const Factor<Scalar>& f, LinearSolution& solution) {
  solution.effects.resize(static_cast<Index>(f.p));
  for (std::size_t k = 0; k < f.p; ++k) {
    solution.order.push_back(static_cast<int>(problem.order()[k]));
    solution.effects[static_cast<Index>(problem.order()[k])] = plain(f.at(k, f.p)) / problem.scale(f.p);
  }
}

// Solves the factor for the centred columns: theta and K by parameter, both without scales.
template <typename Scalar>
void solve_factor(const Problem& problem, const Factor<Scalar>& f, const Factor<Scalar>& inv, DoubleDoubles& theta,
                  DoubleDoubles& k_matrix) {
  const std::size_t p = f.p;
  theta.assign(p, {});
  k_matrix.assign(p * p, {});
  for (std::size_t i = 0; i < p; ++i) {
    Scalar sum(0.0);
    for (std::size_t m = i; m < p; ++m) {
      sum += inv.at(i, m) * f.at(m, p);
      k_matrix[problem.order()[i] + m * p] = DoubleDouble(problem.scale(i)) * DoubleDouble(inv.at(i, m));
    }
    theta[problem.order()[i]] = DoubleDouble(sum) * DoubleDouble(problem.scale(i) / problem.scale(p));
  }
  if (problem.has_constant()) {
    theta[static_cast<std::size_t>(problem.bound().constant_term)] +=
        DoubleDouble(problem.response_centre()) / DoubleDouble(problem.bound().constant_value);
  }
}

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

// One step of refinement: residuals in double-double arithmetic, corrected through the factor (corrected seminormal
// equations; Björck 1996, 6.6.5). Returns chi-squared.
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
    if (problem.bound().has_offset) {
      for (std::size_t i = 0; i < rows; ++i) {
        const DoubleDouble first = two_sum(problem.response(start + i), -scratch.raw(p)[i]);
        rest[i] = first.high;
        lost[i] = first.low;
      }
    } else {
      for (std::size_t i = 0; i < rows; ++i) {
        rest[i] = problem.response(start + i);
        lost[i] = 0;
      }
    }
    if (problem.is_polynomial()) {
      polynomial_residuals(problem, theta, start, rows, rest);
      std::fill_n(lost, rows, 0.0);
    }
    // Compensated sums of products; Ogita, Rump and Oishi (2005), Dot2.
    for (std::size_t j = 0; j < p && !problem.is_polynomial(); ++j) {
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

LinearSolution solve_precisely(const Problem& problem) {
  PreciseProblem precise(problem);
  StackMemory memory;
  const Factor<DoubleDouble> f = precise.factor(&memory);
  if (const std::size_t k = first_dependent(f, problem, negligible_precise_pivot); k < f.p)
    fail_dependent(f, problem, k);
  const Factor<DoubleDouble> inv = inverse(f);
  DoubleDoubles theta(&memory);
  DoubleDoubles k_matrix(&memory);
  solve_factor(problem, f, inv, theta, k_matrix);
  LinearSolution solution;
  solution.method = SolverMethod::double_double_qr;
  solution.condition = condition_of(f, inv);
  solution.chi_squared = precise.chi_squared(theta);
  keep_effects(problem, f, solution);
  solution.total_sum_of_squares = total_of(f, problem);
  to_user_columns(problem, theta, k_matrix, solution);
  return solution;
}

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
