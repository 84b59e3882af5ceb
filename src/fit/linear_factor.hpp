// One dense triangular factor in either arithmetic, and what is read from it.
#pragma once

#include <truecurve/base/error.hpp>

#include "../base/double_double.hpp"
#include "linear.hpp"
#include "linear_problem.hpp"

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {

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
  throw Error(
      {.code = ErrorCode::rank_deficient,
       .message = fmt::format("these data can't determine {} and {} separately: they enter only as {}{}", list,
                              names[last], together,
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

template <typename Scalar>
void keep_effects(const Problem& problem, const Factor<Scalar>& f, LinearSolution& solution) {
  solution.effects.resize(static_cast<Eigen::Index>(f.p));
  for (std::size_t k = 0; k < f.p; ++k) {
    solution.order.push_back(static_cast<int>(problem.order()[k]));
    solution.effects[static_cast<Eigen::Index>(problem.order()[k])] = plain(f.at(k, f.p)) / problem.scale(f.p);
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

}  // namespace truecurve::detail
