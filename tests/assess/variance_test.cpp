// Variance tables and lack of fit against their definitions.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/variance.hpp>
#include <truecurve/model/shapes.hpp>

#include "../support.hpp"

#include <cmath>

#include <fmt/format.h>

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
}

}  // namespace
}  // namespace truecurve
