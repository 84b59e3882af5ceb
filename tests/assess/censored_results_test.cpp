// What is said of fits with limits among their readings.
#include <truecurve/assess/censored.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/fit/censored.hpp>

#include "../support.hpp"

#include <cmath>

#include <gtest/gtest.h>

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

}  // namespace
}  // namespace truecurve
