// What is said of fits with limits among their readings.

#include "../support.hpp"

namespace truecurve {
namespace {

// Where every curve of the model has the same value, its middle is certain and has no interval; another quantile there
// lies z s away, as uncertain as s is.
TEST(CensoredResults, HaveNoIntervalOfWhatIsCertain) {
  const Table table = Table::from_columns({{"x", "", {1, 2, 3, 4, 5, 6}}, {"y", "", {2.1, 3.8, 6.3, 7.7, 10.2, 12.1}}});
  const CensoredRows rows = censored_rows(table, {.response = "y", .predictors = {"x"}});
  const CensoredFit made = fit_censored(Model::written("y = b*x"), rows, {});
  const CensoredResults results =
      censored_results(made, std::vector{0.5, 0.9}, std::vector{Vector{0}, Vector{3}}, 0.95);
  ASSERT_EQ(results.parameters.size(), 2u);
  for (const ParameterInterval& p : results.parameters) {
    const Interval own = censored_interval(made, p.name, 0.95);
    EXPECT_EQ(p.low, own.low) << p.name;
    EXPECT_EQ(p.high, own.high) << p.name;
  }
  ASSERT_EQ(results.quantiles.size(), 4u);
  for (const CensoredQuantile& q : results.quantiles) {
    const bool is_certain = q.share == 0.5 && q.at[0] == 0;
    const double expected = made.joint[0] * q.at[0] + normal_quantile(q.share) * made.scatter;
    EXPECT_NEAR(q.value, expected, 1e-9);
    EXPECT_EQ(std::isnan(q.interval.low), is_certain) << q.share << " at " << q.at[0];
    EXPECT_EQ(std::isnan(q.interval.high), is_certain);
    if (is_certain) EXPECT_EQ(q.standard_uncertainty, 0);
    if (!is_certain) EXPECT_LT(q.interval.low, q.interval.high);
  }
}

// The curve ends at the first row: however near to it the end of the interval lies, it is found. Without censored rows
// the deviance is n ln(SS/SS_min), and SS that of the line through the origin in ln(x - c).
TEST(CensoredResults, EndBeforeAnEdgeOfTheCurve) {
  const VectorXd x = test::vector({1, 1.5, 2, 3, 4, 6, 8});
  for (const auto& [given, scatter] : {std::pair{0.6, 0.4}, {0.9, 0.4}, {0.99, 0.4}, {0.6, 1.5}, {0.9, 1.5}}) {
    const double shift = given;
    VectorXd y(7);
    RandomNumbers random(4);
    for (Eigen::Index i = 0; i < 7; ++i) y[i] = 2 * std::log(x[i] - shift) + scatter * random.normal();
    const Table table =
        Table::from_columns({NamedNumbers{"x", "", {x.begin(), x.end()}}, NamedNumbers{"y", "", {y.begin(), y.end()}}});
    const CensoredFit made =
        fit_censored(Model::written("y = a*ln(x - c)"), censored_rows(table, {.response = "y", .predictors = {"x"}}),
                     {.starts = {{"a", 2}, {"c", shift}}});
    const auto squares = [&](double c) {
      const VectorXd column = (x.array() - c).log();
      return (y - column.dot(y) / column.squaredNorm() * column).squaredNorm();
    };
    const double c = made.estimate.parameters()[1];
    const double limit = squares(c) * std::exp(chi_squared_quantile(0.95, 1) / 7);
    double inside = c;
    double outside = 1 - 1e-15;
    for (int k = 0; k < 200; ++k) (squares((inside + outside) / 2) < limit ? inside : outside) = (inside + outside) / 2;
    const Interval found = censored_interval(made, "c", 0.95);
    EXPECT_NEAR((1 - found.high) / (1 - inside), 1, 1e-3) << shift;
  }
}

// A root has a value at its edge: where the likelihood allows all as far as that, the interval ends there.
TEST(CensoredResults, EndAtAnEdgeThatTheDataAllow) {
  for (const double unit : {1.0, 1e6, 1e-6}) {
    const VectorXd x = unit * test::vector({1, 1.5, 2, 3, 4, 6, 8});
    const VectorXd y = test::vector({1.9, 0.6, 3.3, 1.6, 4.9, 3.2, 6.1});
    const Table table =
        Table::from_columns({NamedNumbers{"x", "", {x.begin(), x.end()}}, NamedNumbers{"y", "", {y.begin(), y.end()}}});
    const CensoredFit made = fit_censored(Model::written(fmt::format("y = a*sqrt((x - c)/{})", unit)),
                                          censored_rows(table, {.response = "y", .predictors = {"x"}}),
                                          {.starts = {{"a", 2}, {"c", 0.5 * unit}}});
    EXPECT_NEAR(censored_interval(made, "c", 0.95).high / unit, 1, 1e-3) << unit;
    EXPECT_LT(censored_interval(made, "c", 0.95).low / unit, -3) << unit;
  }
}

TEST(CensoredResults, RefuseAPlaceWhereTheCurveHasNoValue) {
  const Table table = Table::from_columns({{"x", "", {1, 2, 3, 4, 5, 6}}, {"y", "", {2.1, 3.8, 6.3, 7.7, 10.2, 12.1}}});
  const CensoredRows rows = censored_rows(table, {.response = "y", .predictors = {"x"}});
  // At 0 the known part has no value, the parameters have their slopes.
  const CensoredFit made = fit_censored(Model::written("y = a + b*x + 0.1/x"), rows, {});
  EXPECT_EQ(test::caught([&] { (void)quantile_of(made, 0.5, {0}, 0.95); }).code(), ErrorCode::not_finite);
  EXPECT_NO_THROW((void)quantile_of(made, 0.5, {0.5}, 0.95));
}

// Where the measured rows alone are too few there is no fit of them.
TEST(CensoredResults, SayNothingOfAFitThatCanNotBeMade) {
  std::vector<Column> columns(2);
  columns[0] = {.name = "x", .numbers = {2, 2, 2, 4, 5, 6}};
  columns[1] = {.name = "y", .numbers = {4.1, 3.6, 4.2, not_a_number, not_a_number, not_a_number}};
  columns[1].texts = {{3, "<9"}, {4, ">9"}, {5, ">10"}};
  const CensoredRows rows = censored_rows(Table(columns), {.response = "y", .predictors = {"x"}});
  const CensoredFit made = fit_censored(Model::written("y = a + b*x"), rows, {});
  const CensoredOtherwise otherwise = fitted_otherwise(made);
  EXPECT_TRUE(otherwise.left_out.empty());
  EXPECT_EQ(otherwise.as_measured.size(), 3u);
}

}  // namespace
}  // namespace truecurve
