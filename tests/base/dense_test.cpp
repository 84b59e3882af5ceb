// Decompositions against matrices whose factors, inverses and eigenvalues are known by hand.
#include "../../src/base/dense.hpp"

#include <cmath>
#include <numbers>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

MatrixXd matrix(Eigen::Index rows, Eigen::Index columns, std::initializer_list<double> by_row) {
  MatrixXd made(rows, columns);
  Eigen::Index k = 0;
  for (const double value : by_row) {
    made(k / columns, k % columns) = value;
    ++k;
  }
  return made;
}

TEST(Cholesky, SolvesAndInvertsWhatIsPositiveDefinite) {
  // L = [2 0; 1 sqrt 2], and the inverse is [3 -2; -2 4]/8.
  const detail::CholeskySolver solver(matrix(2, 2, {4, 2, 2, 3}));
  ASSERT_TRUE(solver.is_definite());
  EXPECT_NEAR(solver.smallest_pivot(), std::numbers::sqrt2, 1e-15);
  EXPECT_TRUE(solver.inverse().isApprox(matrix(2, 2, {3, -2, -2, 4}) / 8, 1e-14));
  const VectorXd x = solver.solve((VectorXd(2) << 8, 7).finished());  // 4*1.25 + 2*1.5, 2*1.25 + 3*1.5
  EXPECT_NEAR(x[0], 1.25, 1e-14);
  EXPECT_NEAR(x[1], 1.5, 1e-14);
  EXPECT_FALSE(detail::CholeskySolver(matrix(2, 2, {1, 2, 2, 1})).is_definite());
}

TEST(Cholesky, GivesZeroWhereARowDependsOnOthers) {
  const MatrixXd l = detail::cholesky_factor(matrix(3, 3, {4, 2, 2, 2, 1, 1, 2, 1, 5}));
  EXPECT_TRUE(l.isApprox(matrix(3, 3, {2, 0, 0, 1, 0, 0, 1, 0, 2}), 1e-14)) << l;
}

TEST(LeastSquares, FitsALineWhateverTheScaleOfItsColumns) {
  // y = 1 + 2x with errors (1, -2, 1)*0.1, which are orthogonal to 1 and x.
  for (const double unit : {1.0, 1e9, 1e-9}) {
    const MatrixXd a = matrix(3, 2, {1, 0, 1, unit, 1, 2 * unit});
    const MatrixXd x = detail::least_squares(a, matrix(3, 1, {1.1, 2.8, 5.1}));
    EXPECT_NEAR(x(0, 0), 1, 1e-13);
    EXPECT_NEAR(x(1, 0) * unit, 2, 1e-13);
  }
}

TEST(SymmetricEigen, IsAscendingWithItsVectors) {
  const detail::SymmetricEigen eigen = detail::symmetric_eigen(matrix(2, 2, {2, 1, 1, 2}));
  EXPECT_NEAR(eigen.values[0], 1, 1e-14);
  EXPECT_NEAR(eigen.values[1], 3, 1e-14);
  EXPECT_NEAR(eigen.vectors(0, 0), -eigen.vectors(1, 0), 1e-14);
  EXPECT_NEAR(eigen.vectors(0, 1), eigen.vectors(1, 1), 1e-14);
}

TEST(Products, AreThoseOfRowsAndColumns) {
  const MatrixXd a = matrix(2, 3, {1, 2, 3, 4, 5, 6});
  EXPECT_EQ(detail::product(a, matrix(3, 1, {1, 0, -1})), matrix(2, 1, {-2, -2}));
  EXPECT_EQ(detail::times_own_transpose(a), matrix(2, 2, {14, 32, 32, 77}));
  EXPECT_EQ(detail::own_transpose_times(a), matrix(3, 3, {17, 22, 27, 22, 29, 36, 27, 36, 45}));
}

// Moments of the standard normal distribution: 1, 0, 1, 0, 3, 0, 15.
TEST(HermiteRule, HasTheNormalMoments) {
  const detail::HermiteRule rule = detail::hermite_rule(4);
  const double moments[] = {1, 0, 1, 0, 3, 0, 15};
  for (int power = 0; power < 7; ++power) {
    double sum = 0;
    for (Eigen::Index k = 0; k < 4; ++k) sum += rule.weights[k] * std::pow(rule.nodes[k], power);
    EXPECT_NEAR(sum, moments[power], 1e-12) << power;
  }
  EXPECT_LT(rule.nodes[0], rule.nodes[1]);
}

}  // namespace
}  // namespace truecurve
