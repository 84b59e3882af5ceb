// Linear fits: degenerate data, properties, and agreement of the paths.

#include "../../src/fit/absorb.hpp"
#include "../support.hpp"

#include <Eigen/Core>

namespace truecurve {
namespace {

using test::caught;

using Eigen::Index;

Fit line(const VectorXd& x, const VectorXd& y, const VectorXd& u = {},
         UncertaintyBasis basis = UncertaintyBasis::automatic) {
  return fit(shape_model("line"), Observations::of(x, y, u), {.uncertainty = basis});
}

struct Sample {
  VectorXd x, y, u;
};

Sample sample(Index n, std::uint64_t seed, double low = 0, double high = 10) {
  RandomNumbers random(seed);
  Sample s{VectorXd(n), VectorXd(n), VectorXd(n)};
  for (Index i = 0; i < n; ++i) {
    s.x[i] = low + (high - low) * random.uniform();
    s.u[i] = 0.2 + 0.5 * random.uniform();
    s.y[i] = 1.5 - 0.7 * s.x[i] + s.u[i] * random.normal();
  }
  return s;
}

TEST(Line, IsRefusedOrRightOnDegenerateData) {
  const Error one_x = caught([] { (void)line(Eigen::Vector3d(5, 5, 5), Eigen::Vector3d(1, 2, 3)); });
  EXPECT_EQ(one_x.code(), ErrorCode::rank_deficient);
  EXPECT_TRUE(has(one_x.message(), "a + 5*b"));
  EXPECT_EQ(caught([] { (void)line(Eigen::Vector3d::Constant(0.1), Eigen::Vector3d(1, 2, 3)); }).code(),
            ErrorCode::rank_deficient);
  EXPECT_EQ(caught([] { (void)line(VectorXd::Constant(1, 5), VectorXd::Constant(1, 5)); }).code(),
            ErrorCode::too_few_observations);
  EXPECT_EQ(caught([] {
              (void)fit(shape_model("line-through-origin"),
                        Observations::of(Eigen::Vector2d(0, 0), Eigen::Vector2d(1, 2)));
            }).code(),
            ErrorCode::rank_deficient);

  const Fit two = line(Eigen::Vector2d(1, 3), Eigen::Vector2d(2, 8));
  EXPECT_NEAR(two.parameter("a").value, -1, 1e-15);
  EXPECT_TRUE(std::isnan(two.parameter("b").standard_uncertainty));
  ASSERT_EQ(two.warnings().size(), 1u);
  EXPECT_EQ(two.warnings()[0].code, WarningCode::no_degrees_of_freedom);
  const Fit two_stated = line(Eigen::Vector2d(1, 3), Eigen::Vector2d(2, 8), Eigen::Vector2d(0.3, 0.4));
  EXPECT_NEAR(two_stated.parameter("b").standard_uncertainty, 0.25, 1e-15);  // sqrt(0.09 + 0.16)/2
  EXPECT_TRUE(std::isnan(quality_of(two_stated).chi_squared_p));

  const Fit flat = line(Eigen::Vector4d(1, 2, 3, 4), Eigen::Vector4d::Constant(7.3));
  EXPECT_NEAR(flat.parameter("a").value, 7.3, 1e-15);
  EXPECT_NEAR(flat.parameter("b").value, 0, 1e-15);
  EXPECT_TRUE(std::isnan(quality_of(flat).r_squared) || flat.total_sum_of_squares() > 0);
  EXPECT_TRUE(std::isnan(quality_of(flat).correlation_coefficient) ||
              std::abs(quality_of(flat).correlation_coefficient) <= 1);
}

// Nearly all weight on one point: the line goes through it, the others set the slope.
TEST(Line, BearsWeightsOfAnyRatio) {
  VectorXd u = VectorXd::Constant(5, 1);
  u[2] = 1e-9;
  const VectorXd x = (VectorXd(5) << 0, 1, 2, 3, 4).finished();
  const VectorXd y = (VectorXd(5) << 0.3, 0.8, 2.0, 3.1, 4.2).finished();
  const Fit result = line(x, y, u);
  // Slope through the fixed point (2, 2): sum (x-2)(y-2) / sum (x-2)².
  EXPECT_NEAR(result.parameter("b").value, (3.4 + 1.2 + 1.1 + 4.4) / 10, 1e-12);
  EXPECT_NEAR(result.parameter("a").value + 2 * result.parameter("b").value, 2, 1e-14);
  EXPECT_NEAR(result.parameter("b").standard_uncertainty, 1 / std::sqrt(10.0), 1e-12);
  const Error all_on_one =
      caught([] { (void)line(Eigen::Vector3d(1, 1, 1 + 1e-16), Eigen::Vector3d(1, 2, 3), Eigen::Vector3d(1, 1, 1)); });
  EXPECT_EQ(all_on_one.code(), ErrorCode::rank_deficient);
}

// x around 1e9 with spread 1: the same line as with x about 0, shifted; x is exact in binary.
TEST(Line, KeepsItsDigitsFarFromZero) {
  Sample s = sample(40, 11, -0.5, 0.5);
  for (double& x : s.x) x = std::round(x * 1024) / 1024;
  const Fit near = line(s.x, s.y);
  const Fit far = line(s.x.array() + 1e9, s.y);
  EXPECT_NEAR(far.parameter("b").value, near.parameter("b").value, 1e-13);
  EXPECT_NEAR(far.parameter("b").standard_uncertainty, near.parameter("b").standard_uncertainty, 1e-13);
  EXPECT_NEAR(far.parameter("a").value / (near.parameter("a").value - 1e9 * near.parameter("b").value), 1, 1e-14);
  const BandPoint a = band_at(near.estimate(), VectorXd::Constant(1, 0.75), 0.9)[0];
  const BandPoint b = band_at(far.estimate(), VectorXd::Constant(1, 1e9 + 0.75), 0.9)[0];
  EXPECT_NEAR(a.value, b.value, 1e-13);
  EXPECT_NEAR(a.confidence.low, b.confidence.low, 1e-12);
  EXPECT_NEAR(a.prediction.high, b.prediction.high, 1e-12);
  EXPECT_NEAR(a.outside, b.outside, 1e-6);
  EXPECT_GT(b.outside, 0.2);
}

TEST(Line, ScalesExactlyAndForgetsTheOrderOfRows) {
  const Sample s = sample(300, 12);
  const Fit plain = line(s.x, s.y, s.u);
  const Fit scaled = line(s.x * 1e-150, s.y * 1e120, s.u * 1e120);
  EXPECT_NEAR(scaled.parameter("b").value / (plain.parameter("b").value * 1e270), 1, 1e-13);
  EXPECT_NEAR(scaled.chi_squared() / plain.chi_squared(), 1, 1e-12);
  const Fit reversed = line(s.x.reverse(), s.y.reverse(), s.u.reverse());
  EXPECT_NEAR(reversed.parameter("a").value, plain.parameter("a").value, 1e-14);
  EXPECT_NEAR(reversed.parameter("a").standard_uncertainty, plain.parameter("a").standard_uncertainty, 1e-14);
}

// A row of weight 4 is worth four rows: estimates and stated covariance agree, and so does a row of half the
// uncertainty.
TEST(Line, TreatsWeightsAsRepetitions) {
  const Sample s = sample(12, 13);
  VectorXd x(48);
  VectorXd y(48);
  for (Index i = 0; i < 12; ++i) {
    x.segment(4 * i, 4).setConstant(s.x[i]);
    y.segment(4 * i, 4).setConstant(s.y[i]);
  }
  const Fit repeated = line(x, y, VectorXd::Constant(48, 0.6));
  const Fit weighted = line(s.x, s.y, VectorXd::Constant(12, 0.3));
  EXPECT_TRUE(as_eigen(repeated.estimate().parameters()).isApprox(as_eigen(weighted.estimate().parameters()), 1e-13));
  EXPECT_TRUE(as_eigen(repeated.estimate().covariance()).isApprox(as_eigen(weighted.estimate().covariance()), 1e-13));
  const Fit scatter = line(s.x, s.y, VectorXd::Constant(12, 0.3), UncertaintyBasis::scatter);
  const Fit unweighted = line(s.x, s.y);
  EXPECT_TRUE(as_eigen(scatter.estimate().covariance()).isApprox(as_eigen(unweighted.estimate().covariance()), 1e-13));
}

// Against the textbook sums in long double, on sizes that use one block, many blocks and many tasks.
TEST(Line, AgreesWithTextbookSumsForAnyNumberOfRows) {
  for (const Index n : {3, 255, 256, 257, 5000, 300'000}) {
    SCOPED_TRACE(n);
    const Sample s = sample(n, 14, 990, 1010);
    const Fit result = line(s.x, s.y, s.u);
    long double sw = 0, swx = 0, swy = 0;
    for (Index i = 0; i < n; ++i) {
      const long double w = 1 / (static_cast<long double>(s.u[i]) * s.u[i]);
      sw += w;
      swx += w * s.x[i];
      swy += w * s.y[i];
    }
    const long double xm = swx / sw;
    const long double ym = swy / sw;
    long double sxx = 0, sxy = 0, syy = 0;
    for (Index i = 0; i < n; ++i) {
      const long double w = 1 / (static_cast<long double>(s.u[i]) * s.u[i]);
      sxx += w * (s.x[i] - xm) * (s.x[i] - xm);
      sxy += w * (s.x[i] - xm) * (s.y[i] - ym);
      syy += w * (s.y[i] - ym) * (s.y[i] - ym);
    }
    const long double b = sxy / sxx;
    EXPECT_NEAR(static_cast<double>(result.parameter("b").value / b), 1, 1e-12);
    EXPECT_NEAR(static_cast<double>(result.parameter("a").value / (ym - b * xm)), 1, 1e-12);
    EXPECT_NEAR(result.parameter("a").standard_uncertainty, static_cast<double>(std::sqrt(1 / sw + xm * xm / sxx)),
                1e-12);
    EXPECT_NEAR(result.estimate().covariance()(0, 1) / static_cast<double>(-xm / sxx), 1, 1e-11);
    EXPECT_NEAR(result.chi_squared() / static_cast<double>(syy - b * sxy), 1, 1e-9);
    EXPECT_NEAR(result.total_sum_of_squares() / static_cast<double>(syy), 1, 1e-11);
    EXPECT_NEAR(as_eigen(result.leverage()).sum(), 2, 1e-9);
    EXPECT_NEAR((as_eigen(result.residuals()).array() / s.u.array().square()).sum(), 0, 1e-7);
  }
}

TEST(Linear, NamesWhatTheRowsCannotTellApart) {
  const Table table = Table::from_columns({{"x", "", {1, 2, 3, 4}}, {"z", "", {3, 5, 7, 9}}, {"y", "", {1, 2, 2, 5}}});
  const auto message = [&](const char* text, std::vector<std::string> predictors) {
    const Observations observations(table, {.response = "y", .predictors = std::move(predictors)});
    const Error error = caught([&] { (void)fit(Model::written(text), observations); });
    EXPECT_EQ(error.code(), ErrorCode::rank_deficient);
    return error.message();
  };
  EXPECT_TRUE(has(message("y = a + b", {"x"}), "a + b"));
  EXPECT_TRUE(has(message("y = a + b*x + c*z", {"x", "z"}), "a + c and b + 2*c"));
  EXPECT_TRUE(has(message("y = b*x + c*3*x", {"x"}), "b + 3*c"));
  const Table constant =
      Table::from_columns({{"x", "", {1, 2, 3, 4}}, {"k", "", {7, 7, 7, 7}}, {"y", "", {1, 2, 2, 5}}});
  const Error refused = caught([&] {
    (void)fit(Model::written("y = a + b*x + c*k"), Observations(constant, {.response = "y", .predictors = {"x", "k"}}));
  });
  EXPECT_TRUE(has(refused.message(), "a + 7*c"));
}

// Up to so many rows nearly dependent columns are told apart in double-double arithmetic; beyond, the digits are lost
// and that is said.
TEST(Linear, SaysWhenRowsAreTooManyForMorePrecision) {
  std::string text = "y = a1*cos(x)";
  for (int k = 2; k <= 9; ++k) text += " + a" + std::to_string(k) + "*cos(" + std::to_string(k) + "*x)";
  text += " + a10*(cos(9*x) + 1e-9*x)";
  for (const Index rows : {165'289, 165'290}) {  // 2e7 operations, of 11² a row
    const VectorXd x = VectorXd::LinSpaced(rows, 0, 3);
    const Fit made = fit(Model::written(text), Observations::of(x, VectorXd(x.array().sin())));
    const bool is_precise = rows == 165'289;
    EXPECT_EQ(made.solver().method, is_precise ? SolverMethod::double_double_qr : SolverMethod::refined_qr);
    EXPECT_EQ(std::count_if(made.warnings().begin(), made.warnings().end(),
                            [](const Warning& warning) { return warning.code == WarningCode::ill_conditioned; }),
              is_precise ? 0 : 1);
  }
}

TEST(Linear, SaysWhichRowTheModelCannotTake) {
  const Table table = Table::from_columns({{"x", "", {1, 0, 3, 4}}, {"y", "", {1, 2, 2, 5}}});
  const Observations observations(table, {.response = "y", .predictors = {"x"}});
  EXPECT_EQ(caught([&] { (void)fit(Model::written("y = a + b/x"), observations); }).subject(), "row 2");
  EXPECT_EQ(caught([&] { (void)fit(Model::written("y = a + b*ln(x)"), observations); }).subject(), "row 2");
  EXPECT_EQ(caught([&] { (void)fit(Model::written("T = a + b*x"), observations); }).code(), ErrorCode::unknown_name);
  EXPECT_EQ(
      caught([&] { (void)fit(shape_model("line"), observations, {.uncertainty = UncertaintyBasis::stated}); }).code(),
      ErrorCode::bad_uncertainty);
  EXPECT_EQ(caught([&] { (void)fit(shape_model("line"), observations).estimate().coverage_factor(95); }).code(),
            ErrorCode::bad_argument);
}

// The kernels must not only agree: they must give the same bits, so that results do not depend on the processor.
TEST(Absorb, GivesTheSameBitsOnEveryInstructionSet) {
  constexpr std::size_t columns = 5;
  constexpr std::size_t rows = 64;
  alignas(64) std::array<double, columns * rows> one{};
  RandomNumbers random(5);
  for (double& value : one) value = random.normal();
  alignas(64) std::array<double, columns* rows> two = one;
  Eigen::Matrix<double, rows, columns> original = Eigen::Map<Eigen::Matrix<double, rows, columns>>(one.data());
  MatrixXd r1 = MatrixXd::Zero(columns, columns);
  MatrixXd r2 = r1;
  detail::absorb_portable(r1.data(), columns, one.data(), rows, rows);
  detail::best_absorb()(r2.data(), columns, two.data(), rows, rows);
  EXPECT_EQ(r1, r2);
  // A value that is not finite must show in the factor, in whatever column it stands.
  for (std::size_t column = 0; column < columns; ++column) {
    alignas(64) std::array<double, columns * rows> bad{};
    Eigen::Map<Eigen::Matrix<double, rows, columns>> view(bad.data());
    view = original;
    view(3, static_cast<Index>(column)) = not_a_number;
    MatrixXd r = MatrixXd::Zero(columns, columns);
    detail::best_absorb()(r.data(), columns, bad.data(), rows, rows);
    EXPECT_FALSE(r.allFinite()) << column;
  }
  EXPECT_TRUE(r1.cwiseAbs().isApprox(test::triangle(original).cwiseAbs(), 1e-13));
}

// A term without a parameter is taken from the response, also where the columns are so alike that more digits are
// needed: in whole numbers, which subtract without rounding.
TEST(LinearFit, TakesATermWithoutAParameterFromTheResponse) {
  VectorXd x(12), y(12), less(12);
  for (Index i = 0; i < 12; ++i) {
    x[i] = 5000 + static_cast<double>(i);
    less[i] = 3 + 2 * x[i] + 5 * x[i] * x[i] + static_cast<double>(i * i % 5);
    y[i] = less[i] + 7 * x[i] * x[i] * x[i];
  }
  const Fit whole = fit(Model::written("y = 7*x^3 + a + b*x + c*x^2"), Observations::of(x, y));
  const Fit rest = fit(Model::written("y = a + b*x + c*x^2"), Observations::of(x, less));
  EXPECT_EQ(whole.solver().method, SolverMethod::double_double_qr);
  for (const char* name : {"a", "b", "c"}) {
    EXPECT_NEAR(whole.parameter(name).value / rest.parameter(name).value, 1, 1e-6) << name;
    EXPECT_NEAR(whole.parameter(name).standard_uncertainty / rest.parameter(name).standard_uncertainty, 1, 1e-6);
  }
}

// A constant that is next to nothing beside a computed column needs more digits than one that stands out, whatever the
// unit of the column.
TEST(LinearFit, SeesWhatAComputedColumnRoundsAway) {
  VectorXd x(24);
  VectorXd cosine(24);
  for (Index i = 0; i < 24; ++i) {
    x[i] = static_cast<double>(i) * M_PI / 12;
    cosine[i] = std::cos(x[i]);
  }
  for (const bool is_hidden : {false, true}) {
    for (const char* column : {"cos(x)", "(1e6*cos(x))", "(1e-6*cos(x))"}) {
      const VectorXd y = (is_hidden ? 1e-9 : 1.0) + cosine.array();
      const Fit made = fit(Model::written(fmt::format("y = a + b*{}", column)), Observations::of(x, y));
      EXPECT_EQ(made.solver().method == SolverMethod::double_double_qr, is_hidden)
          << column << name(made.solver().method);
    }
  }
}

}  // namespace
}  // namespace truecurve
