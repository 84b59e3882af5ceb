// Curvature against its definition.

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

TEST(Curvature, OfRowsRepeatedFallsWithTheirRoot) {
  const VectorXd x = VectorXd::LinSpaced(12, 0.5, 9);
  const VectorXd y = 10 * x.array() / (3 + x.array()) + 0.1 * (7 * x.array()).sin();
  const auto made = [&](Index times) {
    return fit(Model::written("y = m*x/(k + x)"),
               Observations::of(VectorXd(x.replicate(times, 1)), VectorXd(y.replicate(times, 1)),
                                VectorXd::Constant(12 * times, 0.2)));
  };
  const Curvature once = curvature_of(made(1), 0.95);
  EXPECT_GT(once.intrinsic, 0);
  // More rows than are taken at a time.
  for (const Index times : {4, 100, 1600}) {
    const Curvature more = curvature_of(made(times), 0.95);
    EXPECT_NEAR(more.intrinsic * std::sqrt(static_cast<double>(times)) / once.intrinsic, 1, 1e-4);
    EXPECT_NEAR(more.parameter_effects * std::sqrt(static_cast<double>(times)) / once.parameter_effects, 1, 1e-4);
  }
  EXPECT_TRUE(std::isnan(curvature_of(made(1667), 0.95).intrinsic)) << "more than 20,000 rows";
}

// The definition, from second derivatives by hand: mean over many directions of the squared acceleration along each.
TEST(Curvature, IsTheMeanSquareAccelerationOfTheDefinition) {
  const Observations data = test::saturation_rows();
  const Fit curve = fit(shape_model("saturation"), data);
  const double m = curve.parameter("m").value;
  const double k = curve.parameter("k").value;
  const auto x = as_eigen(data.predictor(0));
  const auto n = x.size();
  MatrixXd velocity(n, 2);
  velocity.col(0) = x.array() / (k + x.array());
  velocity.col(1) = -m * x.array() / (k + x.array()).square();
  const VectorXd mk = -x.array() / (k + x.array()).square();
  const VectorXd kk = 2 * m * x.array() / (k + x.array()).cube();
  const MatrixXd back = test::inverse(test::triangle(velocity));
  const MatrixXd q = velocity.lazyProduct(back);  // an orthonormal basis of the tangent plane
  const double s = std::sqrt(curve.chi_squared() / 6);
  double tangential = 0, normal = 0;
  constexpr int directions = 3600;
  for (int d = 0; d < directions; ++d) {
    const double angle = 2 * 3.14159265358979324 * d / directions;
    const VectorXd step = std::cos(angle) * back.col(0) + std::sin(angle) * back.col(1);
    const VectorXd acceleration = 2 * step[0] * step[1] * mk + step[1] * step[1] * kk;
    const double along = std::pow(q.col(0).dot(acceleration), 2) + std::pow(q.col(1).dot(acceleration), 2);
    tangential += along / directions;
    normal += (acceleration.squaredNorm() - along) / directions;
  }
  const double radius = s * std::sqrt(2 * f_quantile(0.95, 2, 6));
  const Curvature made = curvature_of(curve, 0.95);
  EXPECT_NEAR(made.parameter_effects / (radius * std::sqrt(tangential)), 1, 1e-6);
  EXPECT_NEAR(made.intrinsic / (radius * std::sqrt(normal)), 1, 1e-6);
  // Another way to write the parameters changes their effects only.
  const Curvature other = curvature_of(fit(Model::written("y = x/(p + q*x)"), data), 0.95);
  EXPECT_NEAR(other.intrinsic / made.intrinsic, 1, 1e-6);
  EXPECT_GT(std::abs(other.parameter_effects / made.parameter_effects - 1), 0.1);
  EXPECT_EQ(curvature_of(fit(shape_model("line"), data), 0.95).parameter_effects, 0);
}

// A parameter at a limit is held there, wherever it stands among the others.
TEST(Curvature, OfAFitAtALimitIsThatOfTheHeldOne) {
  const Observations data = test::saturation_rows();
  for (const auto& [text, name, low, high, at] :
       {std::tuple{"y = m*x/(k + x) + c", "c", 0.5, 1.0, 0.5}, {"y = c + m*x/(k + x)", "c", -3.0, -0.5, -0.5}}) {
    const Fit limited = fit(Model::written(text), data, {.within = {{name, low, high}}});
    ASSERT_TRUE(limited.estimate().is_at_limit(static_cast<std::size_t>(limited.estimate().index_of(name))));
    const Curvature made = curvature_of(limited, 0.95);
    const Curvature held = curvature_of(fit(Model::written(text), data, {.fixed = {{name, at}}}), 0.95);
    EXPECT_NEAR(made.parameter_effects / held.parameter_effects, 1, 1e-5) << text;
    EXPECT_NEAR(made.intrinsic / held.intrinsic, 1, 1e-5) << text;
  }
}

// A row of twice the weight is two rows.
TEST(Curvature, KnowsTheWeights) {
  const Observations data = test::saturation_rows();
  std::vector<double> x, y, u, all_x, all_y, all_u;
  for (std::size_t i = 0; i < data.size(); ++i) {
    const std::size_t times = 1 + i % 3;
    x.push_back(data.predictor(0)[i]);
    y.push_back(data.responses()[i]);
    u.push_back(0.3 / std::sqrt(static_cast<double>(times)));
    all_x.insert(all_x.end(), times, x.back());
    all_y.insert(all_y.end(), times, y.back());
    all_u.insert(all_u.end(), times, 0.3);
  }
  const Curvature weighted = curvature_of(fit(shape_model("saturation"), Observations::of(x, y, u)), 0.95);
  const Curvature repeated = curvature_of(fit(shape_model("saturation"), Observations::of(all_x, all_y, all_u)), 0.95);
  EXPECT_NEAR(weighted.intrinsic / repeated.intrinsic, 1, 1e-6);
  EXPECT_NEAR(weighted.parameter_effects / repeated.parameter_effects, 1, 1e-6);
}

}  // namespace
}  // namespace truecurve
