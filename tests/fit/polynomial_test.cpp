// Polynomials: digits where raw powers lose them, the same results on every path.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

Observations bent(Index n, double shift) {
  RandomNumbers random(41);
  VectorXd x(n);
  VectorXd y(n);
  for (Index i = 0; i < n; ++i) {
    const double t = std::round(1024 * (random.uniform() * 10 - 5)) / 1024;
    x[i] = t + shift;
    y[i] = 2 + t - 0.3 * t * t + 0.05 * t * t * t + 0.2 * random.normal();
  }
  return Observations::of(x, y);
}

// Years and kelvins: a shift of x by 2048 changes the coefficients as algebra says and the curve not at all.
TEST(Polynomial, KeepsItsDigitsFarFromZero) {
  const Fit near = fit(shape_model("polynomial(3)"), bent(60, 0));
  const Fit far = fit(shape_model("polynomial(3)"), bent(60, 2048));
  EXPECT_NEAR(far.parameter("b3").value / near.parameter("b3").value, 1, 1e-13);
  EXPECT_NEAR(far.parameter("b2").value / (near.parameter("b2").value - 3 * 2048 * near.parameter("b3").value), 1,
              1e-13);
  EXPECT_NEAR(far.chi_squared() / near.chi_squared(), 1, 1e-13);
  const BandPoint a = band_at(near.estimate(), VectorXd::Constant(1, 4.5), 0.95)[0];
  const BandPoint b = band_at(far.estimate(), VectorXd::Constant(1, 2052.5), 0.95)[0];
  EXPECT_NEAR(a.value, b.value, 1e-12);
  EXPECT_NEAR(a.confidence.high, b.confidence.high, 1e-12);
  // The record keeps the working form, so a stored curve is as good as a fresh one.
  const Estimate restored = read_fit_record(fit_record(far, 0.95), "record");
  EXPECT_EQ(band_at(restored, VectorXd::Constant(1, 2052.5), 0.95)[0].value, b.value);
  EXPECT_EQ(band_at(restored, VectorXd::Constant(1, 2052.5), 0.95)[0].prediction.low, b.prediction.low);
}

// About another origin: the same curve, and the covariance that a fit in the shifted x has.
TEST(Polynomial, IsReportedAboutAnyOrigin) {
  const Fit far = fit(shape_model("polynomial(3)"), bent(60, 2048));
  const Fit near = fit(shape_model("polynomial(3)"), bent(60, 0));
  const PolynomialAbout about = polynomial_about(far.estimate(), 2048);
  EXPECT_TRUE(as_eigen(about.coefficients).isApprox(as_eigen(near.estimate().parameters()), 1e-11));
  EXPECT_TRUE(as_eigen(about.covariance).isApprox(as_eigen(near.estimate().covariance()), 1e-10));
  // A fit with limits works in plain powers; without one it is that of least squares.
  const Observations points = bent(60, 3);
  const CensoredRows rows{.rows = points, .of = std::vector<Censoring>(60, Censoring::none)};
  const PolynomialAbout likely = polynomial_about(fit_censored(shape_model("polynomial(3)"), rows, {}).estimate, 3);
  EXPECT_TRUE(as_eigen(likely.coefficients).isApprox(as_eigen(near.estimate().parameters()), 1e-7));
  EXPECT_THROW((void)polynomial_about(fit(shape_model("line"), bent(60, 0)).estimate(), 0), Error);
  EXPECT_THROW((void)polynomial_about(far.estimate(), infinity), Error);
}

// Filip's curve, whose raw powers lose ten digits, against the certified coefficients summed in long double.
TEST(Polynomial, PredictsWithoutRawPowers) {
  for (const auto& reference : test::reference_cases("linear")) {
    if (reference["name"] != "Filip") continue;
    const Fit result = test::case_fit(reference);
    EXPECT_EQ(result.model().polynomial_degree(), 10);
    for (const double x : {-8.5, -6.25, -4.0, -3.2}) {
      long double expected = 0;
      for (int d = 10; d >= 0; --d)
        expected =
            expected * x +
            test::long_number_of(reference["oracle"]["parameters"][fmt::format("b{}", d)]["value"].get<std::string>());
      // Even long double loses digits in this sum; ten remain.
      EXPECT_NEAR(band_at(result.estimate(), VectorXd::Constant(1, x), 0.95)[0].value / static_cast<double>(expected),
                  1, 1e-9);
    }
  }
}

// A slope that is zero within its uncertainty keeps every digit where rows are few; where they are many, double-double
// arithmetic would cost a hundred times the fit for digits that mean nothing, and twelve are kept.
TEST(Polynomial, SpendsDoubleDoubleArithmeticWhereRowsAreFew) {
  for (const auto& [rows, method, digits] :
       {std::tuple{61, SolverMethod::double_double_qr, 15.0}, {2001, SolverMethod::refined_qr, 12.0}}) {
    // y alternates about 1, so that the exact slope is a sum of whole numbers over another.
    std::vector<double> x, y;
    long double xy = 0, xx = 0;
    for (int i = 0; i < rows; ++i) {
      x.push_back(i - rows / 2);
      y.push_back(1 + (i % 2 != 0 ? 0.5 : -0.5) + (i == rows - 1 ? 0.25 : 0));
      xy += static_cast<long double>(x.back()) * y.back();
      xx += static_cast<long double>(x.back()) * x.back();
    }
    const Fit line = fit(shape_model("polynomial(1)"), Observations::of(x, y));
    EXPECT_EQ(line.solver().method, method) << rows;
    const auto slope = static_cast<double>(xy / xx);
    EXPECT_LT(std::abs(line.estimate().parameters()[1] / slope - 1), std::pow(10, -digits) * 1.5) << rows;
    EXPECT_LT(std::abs(slope), line.estimate().standard_uncertainties()[1]) << rows;
  }
}

// Many rows take the blocked path in double precision, few the double-double one: repeated rows must give the same
// curve.
TEST(Polynomial, GivesTheSameOnEveryPath) {
  const Observations few = bent(50, 0);
  constexpr Index times = 12'000;
  VectorXd x(50 * times);
  VectorXd y(50 * times);
  for (Index k = 0; k < times; ++k) {
    x.segment(50 * k, 50) = as_eigen(few.predictor(0));
    y.segment(50 * k, 50) = as_eigen(few.responses());
  }
  const Fit small = fit(shape_model("polynomial(5)"), few);
  const Fit large = fit(shape_model("polynomial(5)"), Observations::of(x, y));
  EXPECT_EQ(small.solver().method, SolverMethod::double_double_qr);
  EXPECT_NE(large.solver().method, SolverMethod::double_double_qr);
  EXPECT_TRUE(as_eigen(large.estimate().parameters()).isApprox(as_eigen(small.estimate().parameters()), 1e-11));
  EXPECT_NEAR(large.chi_squared() / static_cast<double>(times) / small.chi_squared(), 1, 1e-11);
  // The order in which the powers are written does not matter.
  const Fit written = fit(Model::written("y = p*x^3 + q + r*x^2 + s*x"), few);
  const Fit shape = fit(shape_model("polynomial(3)"), few);
  EXPECT_EQ(written.model().polynomial_degree(), 3);
  EXPECT_EQ(written.parameter("q").value, shape.parameter("b0").value);
  EXPECT_EQ(written.parameter("p").standard_uncertainty, shape.parameter("b3").standard_uncertainty);
}

TEST(Polynomial, ReachesDegreeFifteenAndRefusesTooFewValues) {
  const Fit high = fit(shape_model("polynomial(15)"), bent(100, 0));
  EXPECT_TRUE(as_eigen(high.estimate().covariance()).allFinite());
  EXPECT_NEAR(as_eigen(high.leverage()).sum(), 16, 1e-9);
  EXPECT_THROW((void)shape_model("polynomial(16)"), Error);
  try {
    (void)fit(shape_model("polynomial(2)"), Observations::of(Eigen::Vector4d(1, 1, 2, 2), Eigen::Vector4d(1, 2, 3, 4)));
    ADD_FAILURE();
  } catch (const Error& error) {
    EXPECT_EQ(error.code(), ErrorCode::rank_deficient);
    EXPECT_TRUE(has(error.message(), "only 2 different values"));
  }
}

}  // namespace
}  // namespace truecurve
