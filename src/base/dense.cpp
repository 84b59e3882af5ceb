// Decompositions through Eigen.
#include "dense.hpp"

#include <Eigen/Cholesky>
#include <Eigen/QR>

namespace truecurve::detail {

MatrixXd least_squares(const MatrixXd& a, const MatrixXd& b) { return a.colPivHouseholderQr().solve(b); }

MatrixXd cholesky_factor(const MatrixXd& a) { return a.llt().matrixL(); }

}  // namespace truecurve::detail
