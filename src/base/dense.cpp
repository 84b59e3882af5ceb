// Decompositions through Eigen.
#include "dense.hpp"

#include "matrices.hpp"

#include <cmath>

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/QR>

namespace truecurve::detail {

MatrixXd least_squares(const MatrixXd& a, const MatrixXd& b) {
  // The rank is judged by pivots against each other: columns of unlike size (1 and x in Hz) would lose theirs.
  MatrixXd scaled = a;
  VectorXd scale = VectorXd::Ones(a.cols());
  for (Eigen::Index j = 0; j < a.cols(); ++j) {
    const double largest = a.col(j).cwiseAbs().maxCoeff();
    if (!(largest > 0) || !std::isfinite(largest)) continue;
    scale[j] = std::ldexp(1.0, -std::ilogb(largest));
    scaled.col(j) *= scale[j];
  }
  return scale.asDiagonal() * scaled.colPivHouseholderQr().solve(b);
}

CholeskySolver::CholeskySolver(const MatrixXd& a) {
  const Eigen::LLT<MatrixXd> factor(a);
  l_ = factor.matrixL();
  is_definite_ = factor.info() == Eigen::Success;
}

VectorXd CholeskySolver::solve(const VectorXd& b) const {
  return l_.transpose().triangularView<Eigen::Upper>().solve(l_.triangularView<Eigen::Lower>().solve(b));
}

MatrixXd CholeskySolver::inverse() const {
  const MatrixXd identity = MatrixXd::Identity(l_.rows(), l_.cols());
  return l_.transpose().triangularView<Eigen::Upper>().solve(l_.triangularView<Eigen::Lower>().solve(identity));
}

SymmetricEigen symmetric_eigen(const MatrixXd& a) {
  const Eigen::SelfAdjointEigenSolver<MatrixXd> solver(a);
  return {solver.eigenvalues(), solver.eigenvectors()};
}

double log_abs_determinant(const MatrixXd& a) { return a.colPivHouseholderQr().logAbsDeterminant(); }

MatrixXd product(const MatrixXd& a, const MatrixXd& b) { return a * b; }
MatrixXd times_own_transpose(const MatrixXd& a) { return a * a.transpose(); }
MatrixXd own_transpose_times(const MatrixXd& a) { return a.transpose() * a; }

HermiteRule hermite_rule(Eigen::Index count) {
  // The eigenvalues of the matrix of the recurrence He_{k+1} = x He_k - k He_{k-1}, and the squares of the first
  // components of its eigenvectors.
  MatrixXd recurrence = MatrixXd::Zero(count, count);
  for (Eigen::Index k = 1; k < count; ++k) {
    recurrence(k, k - 1) = std::sqrt(static_cast<double>(k));
    recurrence(k - 1, k) = recurrence(k, k - 1);
  }
  const SymmetricEigen eigen = symmetric_eigen(recurrence);
  return {eigen.values, eigen.vectors.row(0).transpose().cwiseAbs2()};
}

MatrixXd cholesky_factor(const MatrixXd& a) {
  using Eigen::Index;
  // A pivot this small against its diagonal is rounding: what is left of that row is none of its own.
  constexpr double negligible = 1e-14;
  MatrixXd l = MatrixXd::Zero(a.rows(), a.cols());
  for (Index j = 0; j < a.cols(); ++j) {
    const double pivot = a(j, j) - l.row(j).head(j).squaredNorm();
    if (pivot <= negligible * a(j, j)) continue;
    l(j, j) = std::sqrt(pivot);
    for (Index i = j + 1; i < a.rows(); ++i) l(i, j) = (a(i, j) - l.row(i).head(j).dot(l.row(j).head(j))) / l(j, j);
  }
  return l;
}

}  // namespace truecurve::detail
