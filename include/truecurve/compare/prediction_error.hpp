// How far a curve misses rows that it was not fitted to.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const truecurve::LeaveOneOut left_out = truecurve::leave_one_out(line);
//     EXPECT_NEAR(left_out.errors[0], line.residuals()[0] / (1 - line.leverage()[0]), 1e-12);
//     EXPECT_EQ(left_out.method, truecurve::LeaveOneOut::Method::exact);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>

#include <cstdint>
#include <vector>

namespace truecurve {

/// Size of prediction errors; NaN where they could not all be made.
struct ErrorSize {
  double root_mean_square = not_a_number;  ///< sqrt(mean e²), in the unit of the response
  double in_uncertainties = not_a_number;  ///< sqrt(mean (e/u)²) where uncertainties are given
};

/// Each row predicted by the curve fitted to the others, on the scale of the measured response.
struct LeaveOneOut {
  enum class Method {
    exact,     ///< r/(1 - h), of a linear model with weights that do not depend on the curve
    refitted,  ///< every row left out in turn and the model fitted anew
    one_step,  ///< r/(1 - h) on the tangent plane, checked against some refits
  } method = Method::exact;
  Vector errors{};  ///< one a used row, measured less predicted; NaN where the others do not determine the curve
  ErrorSize size{};
  /// Of `one_step`: by how much its root mean square differs from that of the refits made to check it, as a share.
  double one_step_difference = 0;
};

/// Models that are not linear are refitted up to 500 rows; beyond, 25 rows are, among them that of the highest
/// leverage. Source: Allen (1974) Technometrics 16, 125 (the sum of squares of these errors is his PRESS). NaN for a
/// row without which the others can't be fitted. Throws no Error of its own.
[[nodiscard]] LeaveOneOut leave_one_out(const Fit& fit);

/// The rows dealt into `folds` groups at random (seeded), each predicted by the curve fitted to the other groups. Rows
/// with equal predictors stay together, so that no replicate of a row helps to predict it. Throws Error: bad_argument
/// (fewer than 2 folds, or more than there are different predictors). Source: Stone (1974) J. R. Stat. Soc. B 36, 111.
[[nodiscard]] ErrorSize cross_validation(const Fit& fit, int folds, Seed seed);

/// A row that the fit did not use, against what the fit says of it.
struct HeldOutRow {
  std::size_t row = 0;                         ///< its number in the table
  std::vector<double> at{};                    ///< the predictors
  double measured = not_a_number;              ///< the response
  double predicted = not_a_number;             ///< the curve there; NaN where it is not defined
  double standard_uncertainty = not_a_number;  ///< of measured less predicted: curve and observation together
  double error = not_a_number;                 ///< measured less predicted
  double in_uncertainties = not_a_number;      ///< error / standard_uncertainty
};

/// `rows` has the predictors and the response of the fit. The uncertainty of a row's own reading is the one given with
/// it (scaled as the fit's were), else that of a new observation. Throws Error (bad_argument) where the predictors are
/// not those of the fit.
[[nodiscard]] std::vector<HeldOutRow> held_out(const Fit& fit, const Observations& rows);

}  // namespace truecurve
