// Decompositions of small dense matrices, compiled once: their templates are the slowest part of every file that has
// them.

#include "matrices.hpp"
#pragma once

namespace truecurve::detail {

/// The X that minimises ||A X - B|| column by column, by QR with column pivoting, the columns scaled by powers of two;
/// rank-deficient A give the basic solution.
[[nodiscard]] MatrixXd least_squares(const MatrixXd& a, const MatrixXd& b);

/// The lower triangular L with L Lᵀ = A for a symmetric A that is positive definite, or semidefinite: a row that
/// depends on those before it, or is zero, has a zero on its diagonal. Source: Golub and Van Loan, Matrix
/// Computations, 4.2.
[[nodiscard]] MatrixXd cholesky_factor(const MatrixXd& a);

/// A = L Lᵀ of a symmetric positive definite A, to solve with.
class CholeskySolver {
 public:
  explicit CholeskySolver(const MatrixXd& a);
  /// Whether A was positive definite; the rest may be asked for only then.
  [[nodiscard]] bool is_definite() const { return is_definite_; }
  /// The smallest number on the diagonal of L.
  [[nodiscard]] double smallest_pivot() const { return l_.diagonal().minCoeff(); }
  /// The x with A x = b.
  [[nodiscard]] VectorXd solve(const VectorXd& b) const;
  [[nodiscard]] MatrixXd inverse() const;

 private:
  MatrixXd l_;
  bool is_definite_;
};

/// Eigenvalues of a symmetric matrix, ascending, and its eigenvectors as columns.
struct SymmetricEigen {
  VectorXd values;
  MatrixXd vectors;
};
[[nodiscard]] SymmetricEigen symmetric_eigen(const MatrixXd& a);
/// The logarithm of |det A| of a square A.
[[nodiscard]] double log_abs_determinant(const MatrixXd& a);

[[nodiscard]] MatrixXd product(const MatrixXd& a, const MatrixXd& b);
/// A Aᵀ.
[[nodiscard]] MatrixXd times_own_transpose(const MatrixXd& a);
/// Aᵀ A.
[[nodiscard]] MatrixXd own_transpose_times(const MatrixXd& a);

/// Gauss's rule for the standard normal density: sum w_k f(x_k) is the expectation of f, exact for polynomials up to
/// degree 2 count - 1. Nodes ascending. Source: Golub and Welsch (1969), Math. Comp. 23, 221.
struct HermiteRule {
  VectorXd nodes;
  VectorXd weights;
};
[[nodiscard]] HermiteRule hermite_rule(Eigen::Index count);

}  // namespace truecurve::detail
