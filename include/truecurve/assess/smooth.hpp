// A smooth guide through points before any model is chosen.
//
// Example:
//     std::vector<double> x, y;
//     for (int i = 0; i < 30; ++i) {
//       x.push_back(0.1 * i);
//       y.push_back(std::sin(x.back()));
//     }
//     const auto guide = truecurve::smooth_guide(x, y, 61);
//     EXPECT_NEAR(guide.y[30], std::sin(guide.x[30]), 0.05);
#pragma once

#include <truecurve/base/numeric.hpp>

namespace truecurve {

/// The guide curve at evenly spaced x.
struct SmoothGuide {
  Vector x{};
  Vector y{};
  double span = not_a_number;  ///< share of the points that each local line uses
};

/// Local straight lines with tricube weights over the nearest points (Cleveland 1979). The share of points is chosen by
/// generalised cross-validation (Craven and Wahba 1979) unless `span` is given (0 < span <= 1). Of more than 2000
/// points a regular choice of 2000 is used. Throws Error (bad_argument): fewer than 4 distinct x, lengths that differ.
[[nodiscard]] SmoothGuide smooth_guide(const Vector& x, const Vector& y, std::size_t points,
                                       double span = not_a_number);

}  // namespace truecurve
