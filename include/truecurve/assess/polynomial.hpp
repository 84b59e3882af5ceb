// A polynomial's coefficients about another origin than zero.
//
// Example:
//     const auto points = truecurve::Observations::of({2001, 2002, 2003, 2004, 2005, 2006, 2007, 2008, 2009},
//                                                     {16, 9, 4, 1.1, 0, 1, 4, 9, 16});
//     const auto fit = truecurve::fit(truecurve::shape_model("polynomial(2)"), points);
//     const auto about = truecurve::polynomial_about(fit.estimate(), 2005);
//     EXPECT_NEAR(about.coefficients[2], 1, 0.01);
//     EXPECT_LT(std::abs(about.coefficients[0]), 0.1);
#pragma once

#include <truecurve/fit/estimate.hpp>

namespace truecurve {

/// y = sum c_d (x - origin)^d.
struct PolynomialAbout {
  double origin = 0;
  Vector coefficients{};            ///< by ascending power, length degree + 1
  Vector standard_uncertainties{};  ///< by power
  Matrix covariance{};              ///< transformed exactly: no digits are lost to large powers of x
};

/// The fitted polynomial in powers of the distance from `origin`. Throws Error (bad_argument) where the model is no
/// polynomial of degree 2 or more with all its powers, or the origin is not finite.
[[nodiscard]] PolynomialAbout polynomial_about(const Estimate& estimate, double origin);

}  // namespace truecurve
