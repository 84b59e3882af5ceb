// What a response scatters by, asked as a fit asks it.

#include "../support.hpp"

namespace truecurve {
namespace {

using test::vector;

TEST(Scatter, IsOneLawForRowsAndNewReadings) {
  using Form = Scatter::Form;
  struct Case {
    Scatter law;
    double mean, sd;
  };
  const GrowingScatter growing{3, 0.4};
  for (const auto& [law, mean, sd] :
       {Case{{.form = Form::constant, .scale = 2}, -7, 2}, Case{{.form = Form::percent, .scale = 5}, -8, 0.4},
        Case{{.form = Form::power, .scale = 2, .power = 0.5}, 9, 6},
        Case{{.form = Form::power, .scale = 2, .power = 0.5, .offset = 7}, 9, 8},
        Case{{.form = Form::power, .scale = 2}, 0, 2},
        Case{{.form = Form::growing, .scale = 0.5, .offset = -2, .growing = growing}, 12, 2.5},
        Case{{.form = Form::tabulated, .scale = 2, .table = {{1, 3}, {5, 7}}}, 2, 8},
        Case{{.form = Form::tabulated, .scale = 2, .table = {{1, 3}, {5, 7}}}, 0, 6},
        Case{{.form = Form::tabulated, .scale = 2, .table = {{1, 3}, {5, 7}}}, 9, 14}}) {
    EXPECT_DOUBLE_EQ(law.at(mean), sd);
    // A tabulated, growing or proportional law depends on the mean.
    EXPECT_EQ(law.follows_the_mean(), law.at(mean) != law.at(mean + 1) || law.form == Form::tabulated);
  }
  for (const Form form : {Form::left_side, Form::by_row, Form::tabulated})
    EXPECT_TRUE(std::isnan(Scatter{.form = form, .scale = 1}.at(3)));
}

TEST(NormalKernel, IsTheNormalDistribution) {
  const std::vector<double> y = {1.5, 2.5, 7};
  const std::vector<double> u = {0.5, 1, 2};
  const std::vector<double> mean = {1, 3, 4};
  const ObservationModel by_row = ObservationModel::normal({.form = Scatter::Form::by_row, .scale = 1});
  const ResponseKernel& kernel = by_row.kernel();
  EXPECT_TRUE(by_row.is_measured() && by_row.has_stated_scatter() && kernel.has_fixed_weights());
  double residuals[3];
  double roots[3];
  EXPECT_EQ(kernel.linearize({y.data(), u.data(), 3}, mean.data(), residuals, roots), 0);
  double squares = 0, density = 1;
  for (std::size_t i = 0; i < 3; ++i) {
    const double z = (y[i] - mean[i]) / u[i];
    EXPECT_DOUBLE_EQ(residuals[i], z);
    EXPECT_DOUBLE_EQ(roots[i], 1 / u[i]);
    squares += z * z;
    density *= std::exp(-z * z / 2) / u[i] / std::sqrt(2 * 3.14159265358979323846);
  }
  const ResponseBlock rows{y.data(), u.data(), 3};
  EXPECT_NEAR(kernel.greatest_log_likelihood(rows, squares, true), std::log(density), 1e-14);
  double rows_one_by_one = 0;
  for (std::size_t i = 0; i < 3; ++i) {
    rows_one_by_one += kernel.log_likelihood(y[i], u[i], mean[i]);
    EXPECT_DOUBLE_EQ(kernel.deviance(y[i], u[i], mean[i]), residuals[i] * residuals[i]);
    EXPECT_DOUBLE_EQ(kernel.variance(mean[i], u[i]), u[i] * u[i]);
  }
  EXPECT_NEAR(rows_one_by_one, std::log(density), 1e-14);
  // With a scale that is not known: of all factors by which the sizes may be multiplied the most likely.
  const double greatest = kernel.greatest_log_likelihood(rows, squares, false);
  for (const double factor : {0.9, 1.0, 1.1}) {
    const double scale = factor * std::sqrt(squares / 3);
    const double at = std::log(density) + squares / 2 - 3 * std::log(scale) - squares / (2 * scale * scale);
    EXPECT_NEAR(greatest - at, factor == 1 ? 0 : 3 * (std::log(factor) + (1 / (factor * factor) - 1) / 2), 1e-13);
  }
  EXPECT_TRUE(std::isnan(kernel.greatest_log_likelihood(rows, 0, false)));
  const double weights = 4 + 1 + 0.25;
  const double m = (4 * 1.5 + 2.5 + 0.25 * 7) / weights;
  EXPECT_NEAR(kernel.objective_of_one_mean(rows),
              4 * std::pow(1.5 - m, 2) + std::pow(2.5 - m, 2) + 0.25 * std::pow(7 - m, 2), 1e-13);
  EXPECT_NEAR(ObservationModel().kernel().objective_of_one_mean({y.data(), nullptr, 3}), 17.1666666666666667, 1e-13);

  const ObservationModel of_the_mean =
      ObservationModel::normal({.form = Scatter::Form::power, .scale = 0.1, .power = 1});
  EXPECT_DOUBLE_EQ(of_the_mean.kernel().standard_deviation(-30, 1), 3);
  EXPECT_DOUBLE_EQ(of_the_mean.kernel().unit_deviance(-24, -30), 4);
  EXPECT_DOUBLE_EQ(of_the_mean.kernel().unit_variance(-30), 9);
  EXPECT_NEAR(of_the_mean.kernel().log_likelihood(-24, 1, -30),
              -2 - std::log(3 * std::sqrt(2 * 3.14159265358979323846)), 1e-14);
  EXPECT_FALSE(ObservationModel().has_stated_scatter());
  EXPECT_TRUE(of_the_mean.is_like(ObservationModel()));
  EXPECT_FALSE(of_the_mean.is_like(ObservationModel::counts()));
  RandomNumbers one(3);
  RandomNumbers other(3);
  EXPECT_DOUBLE_EQ(of_the_mean.kernel().draw(20, 1, one), 20 + 2 * other.normal());
  for (const double value : {kernel.inner_mean(2, 1), kernel.open_scale(2), kernel.from_open_scale(2)})
    EXPECT_EQ(value, 2);
  EXPECT_EQ(kernel.open_scale_slope(2), 1);
}

TEST(Observations, TellStatedFromRelativeScatter) {
  const Observations plain = Observations::of(vector({1, 2, 3}), vector({4, 5, 6}));
  EXPECT_EQ(as_eigen(plain.row_scatter()).size(), 0);
  const VectorXd sizes = vector({1, 2, 4});
  const Observations stated = plain.with_response(as_eigen(plain.responses()), sizes);
  const Observations relative = plain.with_relative_scatter(vector({7, 8, 9}), sizes);
  EXPECT_TRUE(stated.has_uncertainties());
  EXPECT_EQ(as_eigen(stated.uncertainties()), sizes);
  EXPECT_FALSE(relative.has_uncertainties());
  EXPECT_EQ(as_eigen(relative.uncertainties()).size(), 0);
  EXPECT_EQ(as_eigen(relative.row_scatter()), sizes);
  const Observations moved = relative.with_response(vector({1, 1, 1}));
  EXPECT_FALSE(moved.has_uncertainties());
  EXPECT_EQ(as_eigen(moved.row_scatter()), sizes);
  EXPECT_TRUE(stated.with_response(vector({1, 1, 1})).has_uncertainties());
  EXPECT_EQ(as_eigen(relative.without(std::vector<std::size_t>{2}, "off").row_scatter()), vector({1, 4}));
  const Observations numbered = plain.numbered({9, 4, 7}, vector({3, 2, 1}));
  EXPECT_EQ(numbered.source_rows()[1], 4U);
  EXPECT_EQ(numbered.rows_read(), 9U);
  EXPECT_EQ(as_eigen(numbered.order()), vector({3, 2, 1}));
  EXPECT_EQ(as_eigen(plain.numbered({9, 4, 7}).order()), vector({9, 4, 7}));
  EXPECT_EQ(test::caught([&] { (void)plain.numbered({1, 2}); }).code(), ErrorCode::bad_argument);
  EXPECT_EQ(test::caught([&] { (void)plain.numbered({1, 2, 3}, vector({1})); }).code(), ErrorCode::bad_argument);
}

}  // namespace
}  // namespace truecurve
