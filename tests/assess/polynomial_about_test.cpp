// Polynomials written about another origin.

#include "../support.hpp"

namespace truecurve {
namespace {

// Moved by hand: the same polynomial fitted to the distances from the origin.
TEST(PolynomialAbout, IsThePolynomialOfTheDistances) {
  RandomNumbers random(5);
  const VectorXd x = VectorXd::LinSpaced(15, 1990, 2018);
  VectorXd y(15);
  for (int i = 0; i < 15; ++i) y[i] = 3 + 0.2 * (x[i] - 2004) - 0.01 * std::pow(x[i] - 2004, 2) + 0.1 * random.normal();
  for (const int degree : {2, 3}) {
    const Model model = shape_model(fmt::format("polynomial({})", degree));
    for (const double origin : {2004.0, 1990.0, 0.0}) {
      const Fit moved = fit(model, Observations::of((x.array() - origin).matrix(), y));
      const PolynomialAbout about = polynomial_about(fit(model, Observations::of(x, y)).estimate(), origin);
      EXPECT_EQ(about.origin, origin);
      for (std::size_t d = 0; d < about.coefficients.size(); ++d) {
        const double u = moved.estimate().standard_uncertainties()[d];
        EXPECT_NEAR(about.coefficients[d], moved.estimate().parameters()[d], 1e-6 * u) << origin << " " << d;
        EXPECT_NEAR(about.standard_uncertainties[d] / u, 1, 1e-7);
        for (std::size_t e = 0; e < about.coefficients.size(); ++e)
          EXPECT_NEAR(about.covariance(d, e) / (u * moved.estimate().standard_uncertainties()[e]),
                      moved.estimate().covariance()(d, e) / (u * moved.estimate().standard_uncertainties()[e]), 1e-7);
      }
    }
  }
  const Fit line = fit(shape_model("line"), Observations::of(x, y));
  EXPECT_THROW((void)polynomial_about(line.estimate(), 0), Error);
  EXPECT_THROW((void)polynomial_about(fit(shape_model("polynomial(2)"), Observations::of(x, y)).estimate(), infinity),
               Error);
}

}  // namespace
}  // namespace truecurve
