// Linear least squares in one pass over blocks of rows; refined, or repeated in double-double arithmetic, where a small
// problem allows and its condition asks for it.
#include "linear.hpp"

#include "../base/double_double.hpp"
#include "absorb.hpp"

#include <truecurve/base/error.hpp>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <memory>
#include <new>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// Rows handed to one task: large enough to hide its cost, fixed so that the merge order, and with it the result, does not
// depend on the number of threads.
constexpr std::size_t rows_per_task = 1 << 16;
// Up to this many rows a second look with exact residuals costs next to nothing.
constexpr std::size_t always_refined_rows = 4096;
// Beyond this condition a large problem gets the second look too.
constexpr double refined_condition = 30;
// Refinement in double precision leaves an error of about condition² * 1e-16 times the residuals against the curve, which
// may be large: beyond this a small problem is solved in double-double arithmetic instead.
constexpr double precise_condition = 30;
// Double-double arithmetic takes about 10 ns an operation: at most a fraction of a second is spent on it.
constexpr double precise_operations = 2e7;
// A pivot this small against its column is rounding error of a double-precision factor over many rows ...
constexpr double negligible_pivot = 1e-12;
// ... and this small it is rounding error of the data themselves, whatever the arithmetic.
constexpr double negligible_precise_pivot = 4e-16;

struct AlignedFree {
  void operator()(double* p) const { ::operator delete[](p, std::align_val_t(64)); }
};
using AlignedBlock = std::unique_ptr<double[], AlignedFree>;

AlignedBlock aligned_block(std::size_t count) {
  return AlignedBlock(static_cast<double*>(::operator new[](count * sizeof(double), std::align_val_t(64))));
}

// What is fixed before the pass: the order of elimination, centres and scales of the columns.
class Problem {
 public:
  Problem(const Model& model, const Observations& observations)
      : bound_(*model.data().bound), observations_(observations), n_(observations.size()), p_(bound_.parameters.size()) {
    for (std::size_t k = 0; k < observations.predictors().size(); ++k) variables_.push_back(observations.predictor(k).data());
    y_ = observations.responses().data();
    u_ = observations.has_uncertainties() ? observations.uncertainties().data() : nullptr;
    if (bound_.constant_term >= 0) order_.push_back(static_cast<std::size_t>(bound_.constant_term));
    for (std::size_t j = 0; j < p_; ++j) {
      if (static_cast<int>(j) != bound_.constant_term) order_.push_back(j);
    }
    centre_.assign(p_ + 1, 0.0);
    scale_.assign(p_ + 1, 1.0);
    choose_centres_and_scales();
  }

  [[nodiscard]] std::size_t rows() const { return n_; }
  [[nodiscard]] std::size_t parameters() const { return p_; }
  [[nodiscard]] const BoundModel& bound() const { return bound_; }
  [[nodiscard]] const std::vector<std::size_t>& order() const { return order_; }
  [[nodiscard]] bool has_constant() const { return bound_.constant_term >= 0; }
  [[nodiscard]] double centre(std::size_t parameter) const { return centre_[parameter]; }
  [[nodiscard]] double response_centre() const { return centre_[p_]; }
  /// Scale of the column at position k of the elimination order; k = p is the response.
  [[nodiscard]] double scale(std::size_t position) const { return scale_[position]; }
  [[nodiscard]] double weight_root(std::size_t row) const { return u_ == nullptr ? 1.0 : 1 / u_[row]; }
  [[nodiscard]] double response(std::size_t row) const { return y_[row]; }
  [[nodiscard]] const Observations& observations() const { return observations_; }

  /// Raw columns of the model (and its offset at index p) for a block of rows.
  void raw_columns(std::size_t start, std::size_t rows, ColumnEvaluator& evaluator, double* out, std::size_t stride) const {
    const double* at[16];
    std::vector<const double*> many;
    std::span<const double*> pointers(at);
    if (variables_.size() > 16) {
      many.resize(variables_.size());
      pointers = many;
    }
    for (std::size_t k = 0; k < variables_.size(); ++k) pointers[k] = variables_[k] + start;
    evaluator.run(pointers.first(variables_.size()), rows, out, stride);
  }

  /// Weighted, centred and scaled columns in elimination order, the response last, padded with zero rows; `raw` is scratch.
  std::size_t prepared_block(std::size_t start, std::size_t rows, ColumnEvaluator& evaluator, double* raw, double* block) const {
    raw_columns(start, rows, evaluator, raw, block_rows);
    const std::size_t padded = (rows + 7) / 8 * 8;
    for (std::size_t k = 0; k <= p_; ++k) {
      double* const to = block + k * block_rows;
      const double s = scale_[k];
      if (k < p_) {
        const std::size_t j = order_[k];
        const double* const from = raw + j * block_rows;
        const double c = centre_[j];
        for (std::size_t i = 0; i < rows; ++i) to[i] = (from[i] - c) * s;
      } else {
        const double* const from = y_ + start;
        const double* const offset = raw + p_ * block_rows;
        const double c = centre_[p_];
        if (bound_.has_offset) {
          for (std::size_t i = 0; i < rows; ++i) to[i] = ((from[i] - offset[i]) - c) * s;
        } else {
          for (std::size_t i = 0; i < rows; ++i) to[i] = (from[i] - c) * s;
        }
      }
      if (u_ != nullptr) {
        for (std::size_t i = 0; i < rows; ++i) to[i] /= u_[start + i];
      }
      std::fill(to + rows, to + padded, 0.0);
    }
    return padded;
  }

  [[noreturn]] void fail_not_finite() const {
    ColumnEvaluator evaluator(bound_);
    std::vector<double> raw((p_ + 1) * block_rows);
    for (std::size_t start = 0; start < n_; start += block_rows) {
      const std::size_t rows = std::min(block_rows, n_ - start);
      raw_columns(start, rows, evaluator, raw.data(), block_rows);
      for (std::size_t i = 0; i < rows; ++i) {
        for (std::size_t j = 0; j <= p_; ++j) {
          if (!std::isfinite(raw[j * block_rows + i])) fail_row(start + i, j);
        }
      }
    }
    throw Error({.code = ErrorCode::not_finite,
                 .message = "the sums of squares exceed the range of a double",
                 .subject = "data",
                 .remedy = "change the units of the columns so that the numbers are smaller"});
  }

 private:
  [[noreturn]] void fail_row(std::size_t row, std::size_t column) const {
    std::string at;
    for (std::size_t k = 0; k < variables_.size(); ++k) {
      at += fmt::format("{}{} = {}", k == 0 ? "" : ", ", observations_.predictors()[k].name, variables_[k][row]);
    }
    const auto number = observations_.source_rows()[row];
    throw Error({.code = ErrorCode::not_finite,
                 .message = fmt::format("row {}: the model's term {} is not finite at {}", number,
                                        column < p_ ? "of '" + bound_.parameters[column] + "'" : "without parameters", at),
                 .subject = fmt::format("row {}", number),
                 .value = at,
                 .remedy = fmt::format("leave the row out (--leave-out {}), or write a model that is defined there", number)});
  }

  void choose_centres_and_scales() {
    const std::size_t count = std::min(n_, block_rows);
    std::vector<double> sample;
    std::vector<const double*> pointers = variables_;
    std::vector<std::size_t> rows(count);
    for (std::size_t i = 0; i < count; ++i) rows[i] = n_ <= block_rows ? i : i * (n_ - 1) / (count - 1);
    if (n_ > block_rows) {
      sample.resize(variables_.size() * count);
      for (std::size_t k = 0; k < variables_.size(); ++k) {
        for (std::size_t i = 0; i < count; ++i) sample[k * count + i] = variables_[k][rows[i]];
        pointers[k] = sample.data() + k * count;
      }
    }
    std::vector<double> raw((p_ + 1) * block_rows);
    ColumnEvaluator evaluator(bound_);
    evaluator.run(pointers, count, raw.data(), block_rows);
    for (std::size_t i = 0; i < count; ++i) {
      double& last = raw[p_ * block_rows + i];
      last = y_[rows[i]] - last;
    }
    for (std::size_t k = 0; k <= p_; ++k) {
      const std::size_t j = k < p_ ? order_[k] : p_;
      const double* const column = raw.data() + j * block_rows;
      if (has_constant() && static_cast<int>(j) != bound_.constant_term) {
        double sum = 0;
        double weights = 0;
        for (std::size_t i = 0; i < count; ++i) {
          const double w = u_ == nullptr ? 1.0 : 1 / (u_[rows[i]] * u_[rows[i]]);
          sum += w * (column[i] / static_cast<double>(count));
          weights += w / static_cast<double>(count);
        }
        centre_[j] = std::isfinite(sum / weights) ? sum / weights : 0.0;
      }
      double largest = 0;
      for (std::size_t i = 0; i < count; ++i) {
        largest = std::max(largest, std::abs(column[i] - centre_[j]) * weight_root(rows[i]));
      }
      // A power of two scales without rounding; squares then stay far from the ends of the range.
      scale_[k] = largest > 0 && std::isfinite(largest) ? std::ldexp(1.0, -std::ilogb(largest)) : 1.0;
    }
  }

  const BoundModel& bound_;
  const Observations& observations_;
  std::size_t n_;
  std::size_t p_;
  std::vector<const double*> variables_;
  const double* y_ = nullptr;
  const double* u_ = nullptr;
  std::vector<std::size_t> order_;
  std::vector<double> centre_;  // by parameter, then the response
  std::vector<double> scale_;   // by position
};

void absorb_rows(const Problem& problem, std::size_t start, std::size_t end, double* r) {
  const std::size_t columns = problem.parameters() + 1;
  const AlignedBlock memory = aligned_block(2 * columns * block_rows);
  double* const raw = memory.get();
  double* const block = raw + columns * block_rows;
  ColumnEvaluator evaluator(problem.bound());
  const Absorb absorb = best_absorb();
  for (std::size_t at = start; at < end; at += block_rows) {
    const std::size_t padded = problem.prepared_block(at, std::min(block_rows, end - at), evaluator, raw, block);
    absorb(r, columns, block, padded, block_rows);
  }
}

// The triangular factor of all rows, the response as its last column.
MatrixXd triangular_factor(const Problem& problem) {
  const std::size_t columns = problem.parameters() + 1;
  const auto size = static_cast<Index>(columns);
  MatrixXd r = MatrixXd::Zero(size, size);
  if (problem.rows() <= 2 * rows_per_task) {
    absorb_rows(problem, 0, problem.rows(), r.data());
    return r;
  }
  const std::size_t tasks = (problem.rows() + rows_per_task - 1) / rows_per_task;
  std::vector<MatrixXd> parts(tasks, r);
  tbb::parallel_for(std::size_t{0}, tasks, [&](std::size_t task) {
    const std::size_t start = task * rows_per_task;
    absorb_rows(problem, start, std::min(start + rows_per_task, problem.rows()), parts[task].data());
  });
  const std::size_t stride = (columns + 7) / 8 * 8;
  const AlignedBlock block = aligned_block(columns * stride);
  for (const MatrixXd& part : parts) {
    std::fill_n(block.get(), columns * stride, 0.0);
    for (std::size_t k = 0; k < columns; ++k) std::memcpy(block.get() + k * stride, part.data() + k * columns, (k + 1) * sizeof(double));
    best_absorb()(r.data(), columns, block.get(), stride, stride);
  }
  return r;
}

// One dense triangular factor in either arithmetic: R, the right-hand side, and the sum of squares beneath it.
template <typename Scalar>
struct Factor {
  std::size_t p = 0;
  std::vector<Scalar> r;    // p x (p+1), column-major with p+1 rows
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
    together += fmt::format("{}{} {} {}{}", together.empty() ? "" : " and ", name, c[i] < 0 ? "-" : "+", factor, names[last]);
    list += (list.empty() ? "" : ", ") + name;
  }
  const bool one_value = problem.bound().straight_line;
  if (together.empty()) {
    throw Error({.code = ErrorCode::rank_deficient,
                 .message = fmt::format("the term of '{}' is zero in every row, so '{}' can't be found", names[last], names[last]),
                 .subject = names[last],
                 .remedy = "remove the parameter, or measure where its term is not zero"});
  }
  throw Error({.code = ErrorCode::rank_deficient,
               .message = fmt::format("these rows can't tell {} and {} apart: they enter only as {}{}", list, names[last], together,
                                      one_value ? fmt::format(", because '{}' has the same value in every row that counts",
                                                              problem.bound().predictors[0])
                                                : ""),
               .subject = list + ", " + names[last],
               .remedy = one_value ? "measure at two or more values of the predictor" : "remove or fix one of them, or measure where their terms differ"});
}

template <typename Scalar>
Factor<Scalar> inverse(const Factor<Scalar>& f) {
  Factor<Scalar> inv{f.p, std::vector<Scalar>((f.p + 1) * (f.p + 1), Scalar(0.0))};
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

// Undoes order, scale and centres; theta (by parameter) belongs to the centred columns.
void to_user_columns(const Problem& problem, const std::vector<DoubleDouble>& theta, const std::vector<DoubleDouble>& k_matrix,
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
  if (!problem.has_constant()) return;
  // theta_0 f_0 + sum theta_j (f_j - c_j) = (theta_0 - sum theta_j c_j / f_0) f_0 + sum theta_j f_j
  const Index constant = problem.bound().constant_term;
  const DoubleDouble value(problem.bound().constant_value);
  DoubleDouble shifted = theta[static_cast<std::size_t>(constant)];
  std::vector<DoubleDouble> row(static_cast<std::size_t>(p));
  for (Index k = 0; k < p; ++k) row[static_cast<std::size_t>(k)] = k_at(constant, k);
  for (Index j = 0; j < p; ++j) {
    if (j == constant) continue;
    const DoubleDouble share = DoubleDouble(problem.centre(static_cast<std::size_t>(j))) / value;
    shifted -= theta[static_cast<std::size_t>(j)] * share;
    for (Index k = 0; k < p; ++k) row[static_cast<std::size_t>(k)] -= share * k_at(j, k);
  }
  solution.parameters[constant] = shifted.value();
  for (Index k = 0; k < p; ++k) solution.spread(constant, k) = row[static_cast<std::size_t>(k)].value();
}

// Solves the factor for the centred columns: theta and K by parameter, both without scales.
template <typename Scalar>
void solve_factor(const Problem& problem, const Factor<Scalar>& f, const Factor<Scalar>& inv, std::vector<DoubleDouble>& theta,
                  std::vector<DoubleDouble>& k_matrix) {
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

// One step of refinement: residuals in double-double arithmetic, corrected through the factor (corrected seminormal
// equations; Björck 1996, 6.6.5). Returns chi-squared.
double refine(const Problem& problem, const std::vector<DoubleDouble>& k_matrix, std::vector<DoubleDouble>& theta) {
  const std::size_t p = problem.parameters();
  const AlignedBlock memory = aligned_block((p + 1) * block_rows);
  ColumnEvaluator evaluator(problem.bound());
  std::vector<double> gradient(p, 0.0);
  double chi_squared = 0;
  for (std::size_t start = 0; start < problem.rows(); start += block_rows) {
    const std::size_t rows = std::min(block_rows, problem.rows() - start);
    problem.raw_columns(start, rows, evaluator, memory.get(), block_rows);
    for (std::size_t i = 0; i < rows; ++i) {
      DoubleDouble rest = two_sum(problem.response(start + i), -memory[p * block_rows + i]);
      for (std::size_t j = 0; j < p; ++j) {
        rest -= theta[j] * two_sum(memory[j * block_rows + i], -problem.centre(j));
      }
      const double root = problem.weight_root(start + i);
      const double weighted = rest.value() * root;
      chi_squared += weighted * weighted;
      for (std::size_t j = 0; j < p; ++j) {
        gradient[j] += (memory[j * block_rows + i] - problem.centre(j)) * root * weighted;
      }
    }
  }
  // delta = K Kᵀ gradient
  std::vector<double> half(p, 0.0);
  for (std::size_t k = 0; k < p; ++k) {
    for (std::size_t j = 0; j < p; ++j) half[k] += k_matrix[j + k * p].high * gradient[j];
  }
  for (std::size_t j = 0; j < p; ++j) {
    double delta = 0;
    for (std::size_t k = 0; k < p; ++k) delta += k_matrix[j + k * p].high * half[k];
    theta[j] += DoubleDouble(delta);
  }
  return chi_squared;
}

// The whole problem in double-double arithmetic: columns, factor, residuals.
class PreciseProblem {
 public:
  explicit PreciseProblem(const Problem& problem) : problem_(problem), n_(problem.rows()), p_(problem.parameters()) { fill(); }

  Factor<DoubleDouble> factor() {
    std::vector<DoubleDouble> a = columns_;
    Factor<DoubleDouble> f{p_, std::vector<DoubleDouble>((p_ + 1) * (p_ + 1))};
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
  [[nodiscard]] double chi_squared(const std::vector<DoubleDouble>& theta) const {
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
    for (std::size_t i = 0; i < n_; ++i) {
      for (std::size_t k = 0; k < variables.size(); ++k) {
        variables[k] = DoubleDouble(problem_.observations().predictor(k)[static_cast<Index>(i)]);
      }
      bound.columns.run_precise(variables, {}, outputs);
      const DoubleDouble root = problem_.observations().has_uncertainties()
                                    ? DoubleDouble(1) / DoubleDouble(problem_.observations().uncertainties()[static_cast<Index>(i)])
                                    : DoubleDouble(1);
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
  const Factor<DoubleDouble> f = precise.factor();
  if (const std::size_t k = first_dependent(f, problem, negligible_precise_pivot); k < f.p) fail_dependent(f, problem, k);
  const Factor<DoubleDouble> inv = inverse(f);
  std::vector<DoubleDouble> theta;
  std::vector<DoubleDouble> k_matrix;
  solve_factor(problem, f, inv, theta, k_matrix);
  LinearSolution solution;
  solution.method = "double-double QR";
  solution.condition = condition_of(f, inv);
  solution.chi_squared = precise.chi_squared(theta);
  solution.total_sum_of_squares = total_of(f, problem);
  to_user_columns(problem, theta, k_matrix, solution);
  return solution;
}

}  // namespace

ColumnEvaluator::ColumnEvaluator(const BoundModel& model) : model_(&model), outputs_(model.columns.outputs()) {}

void ColumnEvaluator::run(std::span<const double* const> variables, std::size_t rows, double* out, std::size_t stride) {
  for (std::size_t k = 0; k < outputs_.size(); ++k) outputs_[k] = out + k * stride;
  model_->columns.run(variables, rows, no_parameters_, outputs_, work_);
  if (!model_->has_offset) std::fill_n(out + model_->parameters.size() * stride, rows, 0.0);
}

LinearSolution solve_linear(const Model& model, const Observations& observations) {
  const Problem problem(model, observations);
  const std::size_t p = problem.parameters();
  const MatrixXd r = triangular_factor(problem);
  if (!r.allFinite()) problem.fail_not_finite();
  Factor<double> f{p, {r.data(), r.data() + r.size()}};

  const auto columns = static_cast<double>(p + 1);
  const bool small = static_cast<double>(problem.rows()) * columns * columns <= precise_operations;
  if (const std::size_t k = first_dependent(f, problem, small ? 1 / precise_condition : negligible_pivot); k < p) {
    if (!small) fail_dependent(f, problem, k);
    return solve_precisely(problem);
  }
  const Factor<double> inv = inverse(f);
  LinearSolution solution;
  solution.condition = condition_of(f, inv);
  if (small && !(solution.condition <= precise_condition)) return solve_precisely(problem);

  std::vector<DoubleDouble> theta;
  std::vector<DoubleDouble> k_matrix;
  solve_factor(problem, f, inv, theta, k_matrix);
  solution.total_sum_of_squares = total_of(f, problem);
  solution.method = "blocked QR";
  const double rest = f.at(p, p) / problem.scale(p);
  solution.chi_squared = rest * rest;
  if (problem.rows() <= always_refined_rows || solution.condition > refined_condition) {
    solution.chi_squared = refine(problem, k_matrix, theta);
    solution.method = "blocked QR, refined";
  }
  to_user_columns(problem, theta, k_matrix, solution);
  return solution;
}

}  // namespace truecurve::detail
