// Variance tables and lack of fit against their definitions.

#include "../support.hpp"

namespace truecurve {
namespace {

// Each term's share is the drop of the residual sum of squares when the term joins those before it.
TEST(VarianceTable, SplitsTheTotalTermByTerm) {
  const Fit hald = test::case_fit(test::reference_case("metrology", "Hald-cement"));
  const VarianceTable table = variance_table(hald);
  EXPECT_NEAR(table.explained.sum_of_squares + table.residual.sum_of_squares, table.total.sum_of_squares, 1e-9);
  EXPECT_EQ(table.explained.degrees_of_freedom, 4);
  const Table data = test::case_table(test::reference_case("metrology", "Hald-cement"));
  double before = table.total.sum_of_squares;
  std::string text = "y = b0";
  std::vector<std::string> predictors;
  for (std::size_t k = 0; k < 4; ++k) {
    text += fmt::format(" + b{}*x{}", k + 1, k + 1);
    predictors.push_back(fmt::format("x{}", k + 1));
    const double after =
        fit(Model::written(text), Observations(data, {.response = "y", .predictors = predictors})).chi_squared();
    EXPECT_NEAR(table.sequential[k].sum_of_squares / (before - after), 1, 1e-9) << k;
    before = after;
  }
  EXPECT_NEAR(table.sequential[3].f, std::pow(parameter_intervals(hald.estimate(), 0.95)[4].t, 2), 1e-9);
  EXPECT_NEAR(table.sequential[3].p, parameter_intervals(hald.estimate(), 0.95)[4].p, 1e-12);
}

// Where uncertainties are stated a sum of squares is a chi-squared.
TEST(VarianceTable, TestsByStatedUncertainties) {
  const Observations rows = Observations::of({1, 2, 3, 4, 5}, {1.3, 1.7, 3.4, 3.6, 5.5}, {1, 1, 1, 1, 1});
  const VarianceTable table = variance_table(fit(shape_model("line"), rows));
  EXPECT_NEAR(table.explained.p, std::erfc(std::sqrt(table.explained.sum_of_squares / 2)), 1e-12);
  EXPECT_EQ(table.sequential.at(0).p, table.explained.p);
  EXPECT_TRUE(std::isnan(table.explained.f));
}

// Of a curve only the whole is split.
TEST(VarianceTable, SplitsTheTotalOfACurveInTwo) {
  const Fit curve = fit(shape_model("saturation"), test::saturation_rows());
  const VarianceTable table = variance_table(curve);
  const auto y = as_eigen(curve.observations().responses());
  const double total = (y.array() - y.mean()).square().sum();
  EXPECT_NEAR(table.explained.sum_of_squares, total - curve.chi_squared(), 1e-12 * total);
  EXPECT_EQ(table.explained.degrees_of_freedom + table.residual.degrees_of_freedom, table.total.degrees_of_freedom);
  EXPECT_TRUE(std::isnan(table.explained.f));
  EXPECT_FALSE(table.known);
  // What is known and not fitted takes the rest.
  const Fit offset = fit(Model::written("y = 2 + b*x"), test::saturation_rows());
  const VarianceTable with_known = variance_table(offset);
  const double b = offset.parameter("b").value;
  const double explained = b * b * as_eigen(offset.observations().predictor(0)).squaredNorm();
  EXPECT_NEAR(with_known.explained.sum_of_squares / explained, 1, 1e-12);
  ASSERT_TRUE(with_known.known);
  EXPECT_NEAR(with_known.known->sum_of_squares, total - explained - offset.chi_squared(), 1e-10 * total);
}

// Replicates that agree to their last digit have the scatter of its rounding, which the rows of a place share.
TEST(LackOfFit, TakesRoundedReplicatesForNoBetterThanTheirStep) {
  const Fit line =
      fit(shape_model("line"), Observations::of({1, 1, 2, 2, 3, 3, 4, 4}, {1.1, 1.1, 2.0, 2.0, 3.3, 3.3, 3.9, 3.9}));
  const auto split = lack_of_fit(line);
  ASSERT_TRUE(split);
  EXPECT_EQ(split->pure_error.sum_of_squares, 0);
  EXPECT_NEAR(split->lack_of_fit.f, line.chi_squared() / 2 / (0.1 * 0.1 / 12 * 2), 1e-9);
}

TEST(LackOfFit, ComparesWithPureError) {
  const VectorXd x = (VectorXd(6) << 1, 1, 2, 2, 3, 3).finished();
  const VectorXd y = (VectorXd(6) << 1.0, 1.2, 3.1, 2.9, 4.0, 4.4).finished();
  const Fit line = fit(shape_model("line"), Observations::of(x, y));
  const auto split = lack_of_fit(line);
  ASSERT_TRUE(split);
  EXPECT_NEAR(split->pure_error.sum_of_squares, 0.02 + 0.02 + 0.08, 1e-12);  // half the squared difference of each pair
  EXPECT_EQ(split->pure_error.degrees_of_freedom, 3);
  EXPECT_NEAR(split->lack_of_fit.sum_of_squares, line.chi_squared() - 0.12, 1e-12);
  EXPECT_EQ(split->lack_of_fit.degrees_of_freedom, 1);
  EXPECT_FALSE(lack_of_fit(fit(shape_model("line"), test::line_rows(8, 1))));
  // Two places lie on every line.
  EXPECT_FALSE(lack_of_fit(fit(shape_model("line"), Observations::of({1, 1, 2, 2}, {1.0, 1.2, 3.1, 2.9}))));
}

}  // namespace
}  // namespace truecurve
