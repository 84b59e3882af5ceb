// A smooth guide through points before any model is chosen.
//
// Example:
//     const truecurve::VectorXd x = truecurve::VectorXd::LinSpaced(30, 0, 3);
//     const truecurve::VectorXd y = x.array().sin();
//     const auto guide = truecurve::smooth_guide(x, y, 61);
//     EXPECT_NEAR(guide.y[30], std::sin(guide.x[30]), 0.05);
#pragma once

#include <truecurve/base/numeric.hpp>

namespace truecurve {

/// The guide curve at evenly spaced x.
struct SmoothGuide {
  VectorXd x{};
  VectorXd y{};
  double span = not_a_number;  ///< share of the points that each local line uses
};

/// Local straight lines with tricube weights over the nearest points (Cleveland 1979). The share of points is chosen by
/// generalised cross-validation (Craven and Wahba 1979) unless `span` is given (0 < span <= 1). Of more than 2000
/// points a regular choice of 2000 is used. Throws Error (bad_argument): fewer than 4 distinct x, lengths that differ.
[[nodiscard]] SmoothGuide smooth_guide(const VectorXd& x, const VectorXd& y, Eigen::Index points,
                                       double span = not_a_number);

}  // namespace truecurve
