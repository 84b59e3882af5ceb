// For callers who compute with Eigen: what crosses the public face, seen as Eigen's vectors and matrices without a
// copy. Included by no other public header. The other way needs no help: a Vector or a Matrix is made from any
// expression of Eigen's.
// None of these throws an Error of its own.
//
// Example:
//     const truecurve::Vector masses = {1.5, 2, 2.5};
//     EXPECT_EQ(truecurve::as_eigen(masses).sum(), 6);
//     const truecurve::Vector doubled = 2 * truecurve::as_eigen(masses);
//     EXPECT_EQ(doubled[0], 3);
#pragma once

#include <truecurve/base/vector.hpp>

#include <Eigen/Core>

namespace truecurve {

/// A view that lives as long as the vector does.
[[nodiscard]] inline Eigen::Map<const Eigen::VectorXd> as_eigen(const Vector& vector) {
  return {vector.data(), static_cast<Eigen::Index>(vector.size())};
}
/// The same, through which the vector can be changed.
[[nodiscard]] inline Eigen::Map<Eigen::VectorXd> as_eigen(Vector& vector) {
  return {vector.data(), static_cast<Eigen::Index>(vector.size())};
}
/// A copy: what is about to go can't be looked at for long.
[[nodiscard]] inline Eigen::VectorXd as_eigen(Vector&& vector) {
  return Eigen::Map<const Eigen::VectorXd>(vector.data(), static_cast<Eigen::Index>(vector.size()));
}

/// A view that lives as long as the matrix does.
[[nodiscard]] inline Eigen::Map<const Eigen::MatrixXd> as_eigen(const Matrix& matrix) {
  return {matrix.numbers().data(), static_cast<Eigen::Index>(matrix.rows()), static_cast<Eigen::Index>(matrix.cols())};
}
/// The same, through which the matrix can be changed.
[[nodiscard]] inline Eigen::Map<Eigen::MatrixXd> as_eigen(Matrix& matrix) {
  return {matrix.numbers().data(), static_cast<Eigen::Index>(matrix.rows()), static_cast<Eigen::Index>(matrix.cols())};
}
/// A copy: what is about to go can't be looked at for long.
[[nodiscard]] inline Eigen::MatrixXd as_eigen(Matrix&& matrix) {
  return Eigen::Map<const Eigen::MatrixXd>(matrix.numbers().data(), static_cast<Eigen::Index>(matrix.rows()),
                                           static_cast<Eigen::Index>(matrix.cols()));
}

}  // namespace truecurve
