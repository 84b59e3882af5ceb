// Are the residuals what the fit assumed? Measures a row, and tests that each end in a sentence.
//
// Example:
//     const truecurve::VectorXd x = truecurve::VectorXd::LinSpaced(12, 1, 12);
//     truecurve::VectorXd y = 2 * x;
//     for (int i = 0; i < 12; ++i) y[i] += (i % 2 ? 0.1 : -0.1);
//     y[6] += 5;
//     const auto fit = truecurve::fit(truecurve::shape_model("line"), truecurve::Observations::of(x, y));
//     EXPECT_EQ(truecurve::outlier_check(fit).row, 7u);
#pragma once

#include <truecurve/fit/fit.hpp>

#include <cstddef>
#include <string>
#include <vector>

namespace truecurve {

/// One number a used row each; NaN where a row's leverage is 1 or there are no degrees of freedom.
struct RowMeasures {
  VectorXd standardized{};   ///< r/(s u sqrt(1 - h)), s the scale of the scatter over all rows (1 for stated)
  VectorXd studentized{};    ///< the same with s from the other rows: Student-t with dof - 1 where the row belongs
  VectorXd leverage{};       ///< h
  VectorXd cook_distance{};  ///< standardized² h/((1 - h) p): how far the row moves the estimates; Cook (1977)
};

/// Source: Belsley, Kuh and Welsch (1980), chapter 2.
[[nodiscard]] RowMeasures row_measures(const Fit& fit);

/// The outcome of one test. `p` is how often chance alone gives as much where the assumption holds; NaN where the test
/// can't be made (too few rows).
struct Check {
  std::string name{};
  double statistic = not_a_number;
  double p = not_a_number;
  std::string sentence{};
  std::string advice{};  ///< what to do where p is small; empty where all is well
  std::size_t row = 0;   ///< the row concerned (number in the table), 0 where none
};

/// Does the size of the residuals grow with the fitted value? n R² of the squared standardized residuals on the fitted
/// value against chi-squared(1): Breusch and Pagan (1979) in Koenker's (1981) studentized form.
[[nodiscard]] Check spread_check(const Fit& fit);
/// Do residuals of one sign come in runs along the first predictor? Exact distribution of the number of runs; Wald and
/// Wolfowitz (1940). One-sided: too few runs.
[[nodiscard]] Check runs_check(const Fit& fit);
/// Are the standardized residuals normal? Anderson and Darling (1952) with mean and SD estimated; p after Stephens, in
/// D'Agostino and Stephens (1986), table 4.9.
[[nodiscard]] Check normality_check(const Fit& fit);
/// Does a residual resemble the one before it, along the first predictor? n R² of the lagged residual added to the
/// model, against chi-squared(1): Breusch (1978), Godfrey (1978).
[[nodiscard]] Check serial_check(const Fit& fit);
/// Is the row farthest out more than chance? Bonferroni's bound on the largest studentized residual; Cook and Weisberg
/// (1982), 2.2.2.
[[nodiscard]] Check outlier_check(const Fit& fit);
/// Is curvature left over? t-test of the squared distance of the first predictor from its mean, added to the model;
/// empty name where the model holds that term.
[[nodiscard]] Check curvature_check(const Fit& fit);

/// Every check, in the order of the reports.
inline constexpr Check (*every_check[])(const Fit&) = {spread_check, curvature_check, runs_check,
                                                       serial_check, normality_check, outlier_check};

/// All of them, those that can't be made left out.
[[nodiscard]] std::vector<Check> residual_checks(const Fit& fit);

}  // namespace truecurve
