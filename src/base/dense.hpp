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

/// Gauss's rule for the standard normal density: sum w_k f(x_k) is the expectation of f, exact for polynomials up to
/// degree 2 count - 1. Nodes ascending. Source: Golub and Welsch (1969), Math. Comp. 23, 221.
struct HermiteRule {
  VectorXd nodes;
  VectorXd weights;
};
[[nodiscard]] HermiteRule hermite_rule(Eigen::Index count);

}  // namespace truecurve::detail
