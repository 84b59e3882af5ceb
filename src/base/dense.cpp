// Decompositions through Eigen.
#include "dense.hpp"

#include <cmath>

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
