// Are the residuals what the fit assumed? Measures of each row, and tests that each end in a sentence.
// None of these throws an Error of its own.
//
// Example:
//     std::vector<double> x, y;
//     for (int i = 0; i < 12; ++i) {
//       x.push_back(1 + i);
//       y.push_back(2 + 2 * i + (i % 2 ? 0.1 : -0.1) + (i == 6 ? 5 : 0));
//     }
//     const auto fit = truecurve::fit(truecurve::shape_model("line"), truecurve::Observations::of(x, y));
//     const auto outlier = truecurve::check(fit, truecurve::CheckKind::outlier);
//     EXPECT_EQ(outlier.row, 7u);
//     EXPECT_LT(outlier.p, 0.001);
#pragma once

#include <truecurve/fit/fit.hpp>

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// One number for each used row; NaN where a row's leverage is 1 or there are no degrees of freedom.
struct RowMeasures {
  /// r/(s u sqrt(1 - h)), s the scale of the scatter over all rows (1 for stated): the one standardized residual of
  /// every text, table and figure.
  Vector standardized{};
  Vector studentized{};    ///< the same with s from the other rows: Student-t with dof - 1 where the row belongs
  Vector leverage{};       ///< h
  Vector cook_distance{};  ///< standardized² h/((1 - h) p): how far the row moves the estimates; Cook (1977)
};

/// Source: Belsley, Kuh and Welsch (1980), chapter 2.
[[nodiscard]] RowMeasures row_measures(const Fit& fit);

/// What is tested, in the order of the reports.
enum class CheckKind {
  /// Does the size of the standardized residuals change with the fitted value? Correlation of |z| with it; Glejser
  /// (1969).
  equal_variance,
  /// Is curvature left along the first predictor? The squared distance from its mean, added to the model: t-test.
  curvature,
  /// Of a linear model without a constant term that vanishes where its predictors do: does the response vanish there? A
  /// constant, added to the model: t-test.
  origin,
  /// Of a linear model with powers of one predictor: is a lower power left out that the rows need? The lowest one that
  /// is
  /// missing, added to the model: t-test.
  lower_power,
  /// Do the signs of the residuals along the first predictor come in too few runs (a trend) or too many (alternation)?
  /// The
  /// number of runs; Wald and Wolfowitz (1940), two-sided. Rows of equal predictor count as one, by their mean.
  runs,
  /// Are neighbours along the first predictor correlated? Lag-one autocorrelation, two-sided; Durbin and Watson (1950).
  serial_correlation,
  /// Do the residuals drift in the order of measurement? That order, added to the model: t-test. Not made where the
  /// order
  /// is that of the first predictor.
  drift,
  /// Are the standardized residuals normal? Anderson and Darling (1952), mean and SD estimated.
  normality,
  /// Does one row lie too far out? The largest standardized residual; Cook and Weisberg (1982), 2.2.2.
  outlier,
  /// Does the curve miss the means of replicates (rows of equal predictors)? F against pure error.
  lack_of_fit,
  /// Do the residuals agree in size with the stated uncertainties? Chi-squared, two-sided.
  chi_squared,
};
[[nodiscard]] std::string_view name(CheckKind kind) noexcept;

/// The outcome of one test.
struct Check {
  CheckKind kind = CheckKind::equal_variance;
  double statistic = not_a_number;
  /// How often chance alone gives as much where the assumptions hold; NaN where the test can't be made (too few rows).
  double p = not_a_number;
  /// The same for all checks of the fit together: how often chance alone gives any of them, from this one on, so small
  /// a p.
  double family_p = not_a_number;
  std::string sentence{};
  Advice advice{};      ///< what to do; empty unless family_p is below 0.05
  std::size_t row = 0;  ///< the row concerned (number in the table), 0 where none
  /// Whether the checks together speak of this one: family_p below 0.05.
  [[nodiscard]] bool is_significant() const { return family_p < 0.05; }
};

/// All checks that can be made, none where the residuals are no more than rounding.
///
/// The p-values of curvature, drift, lack of fit and chi-squared follow from their distributions. Those of the others
/// are simulated: the residuals of normal scatter about this very fit, e = (1 - QQᵀ)ε with the leverage, weights and
/// order of its rows (for a curve by its tangent plane), have a distribution without unknowns; 999 sets of them are
/// drawn, and 4999 in all where the smallest family_p is not above 0.12, seeded, always the same. Beyond 1000 rows the
/// limits for large n are taken; runs and serial correlation of no more than 1000 places are drawn at the places.
/// Readings that are rounded as coarsely as they scatter, and counts, are simulated up to 25,125 rows, by fewer draws;
/// of more rows the readings' equal variance, runs and normality are not checked, and counts not at all. family_p: the
/// step-down minimum p of Westfall and Young (1993), Resampling-Based Multiple Testing, algorithm 2.8, over the same
/// draws, which knows how the checks hang together; beyond 1000 rows Holm (1979). Of clean data sets 5 % have a
/// significant check, whatever the number of rows. Cost: about 2 ms for 20 rows.
[[nodiscard]] std::vector<Check> residual_checks(const Fit& fit);

/// One check alone, its family only itself.
[[nodiscard]] Check check(const Fit& fit, CheckKind kind);

}  // namespace truecurve
