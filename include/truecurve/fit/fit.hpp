// The one call that fits a model to observations, and its result.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::Model::written("y = a + b*x"), points);
//     EXPECT_NEAR(line.parameter("b").value, 1.94, 1e-12);
//     EXPECT_EQ(truecurve::parameter_text(line.parameter("b")), "b = 1.940(91)");
#pragma once

#include <truecurve/base/warning.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/fit/solver_report.hpp>

#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

namespace detail {
struct FitAccess;
}

/// One parameter's result.
struct ParameterEstimate {
  std::string name{};
  double value = not_a_number;
  double standard_uncertainty = not_a_number;  ///< NaN where it can't be known
  std::string unit{};                          ///< empty where it is not known
};

/// "b = 1.8673(47) mm": with_uncertainty(), the name and the unit. Throws no Error of its own.
[[nodiscard]] std::string parameter_text(const ParameterEstimate& parameter);

/// Immutable and cheap to copy: an Estimate and what is bound to the data. All that is not stored is computed on
/// demand. None of these throws an Error of its own but where it says so.
class Fit {
 public:
  [[nodiscard]] const Estimate& estimate() const noexcept;
  [[nodiscard]] const Model& model() const noexcept { return estimate().model(); }
  [[nodiscard]] const Observations& observations() const noexcept;
  /// Throws Error (unknown_name) that names the parameters there are.
  [[nodiscard]] ParameterEstimate parameter(std::string_view name) const;

  /// Whether the response was counted: then the likelihood is maximised, and the deviance takes chi-squared's place.
  [[nodiscard]] bool is_counted() const noexcept { return !observations().observation_model().is_measured(); }
  /// What the fit made as small as it could be: the weighted sum of squared residuals, sum (r/u)², with u = 1 where no
  /// uncertainties were given; of a counted response the deviance.
  [[nodiscard]] double chi_squared() const noexcept;
  /// Weighted sum of squares of the response about its weighted mean, or about zero (Model::is_judged_about_the_mean);
  /// of a counted response the deviance of one mean for all rows.
  [[nodiscard]] double total_sum_of_squares() const noexcept;
  [[nodiscard]] double degrees_of_freedom() const noexcept { return estimate().degrees_of_freedom(); }
  [[nodiscard]] std::size_t size() const noexcept { return observations().size(); }

  /// Of a counted response the working responses of the last step of scoring and their standard deviations: residuals()
  /// over these are Pearson's residuals, and leverage() is that of the generalized linear model (McCullagh and Nelder
  /// 1989, 12.7.1). Otherwise what least squares saw: the values of the left side and what they scatter by
  /// (row_scatter(): relative sizes for a spread). The observations themselves for a model without transform and
  /// spread.
  [[nodiscard]] const Observations& left_side_observations() const noexcept;
  /// Left side less curve, one a used row. Cost: one evaluation.
  [[nodiscard]] Vector residuals() const;
  /// The curve at each used row, on the scale of the left side.
  [[nodiscard]] Vector fitted() const;
  /// The curve at each used row, on the scale of the measured response.
  [[nodiscard]] Vector fitted_response() const;
  /// The measured response less the curve there, one a used row.
  [[nodiscard]] Vector response_residuals() const;
  /// The stated standard uncertainty of the measured response in each used row, a percentage taken of the curve there;
  /// empty where none is stated.
  [[nodiscard]] Vector response_uncertainties() const;
  /// Whether the weights of the rows are known before the curve is: not those of a spread or a percentage, nor stated
  /// ones taken through a transform.
  [[nodiscard]] bool has_fixed_weights() const;
  /// By parameter: its square is the part of the total sum of squares that the term explains after those before it;
  /// zeros for a model that is not linear in its parameters, whose terms can't be told apart.
  [[nodiscard]] const Vector& effects() const noexcept;
  /// The parameters in the order in which their terms were taken in: a constant first, powers ascending.
  [[nodiscard]] const std::vector<int>& term_order() const noexcept;
  [[nodiscard]] const Spread& spread() const noexcept;
  /// Whether the residuals are no more than the rounding of the numbers that made them: the curve passes through every
  /// row, and nothing can be learnt from its scatter. Relative to the responses and the terms of the curve in each row,
  /// so that cancellation between terms counts. Cost: at most one evaluation.
  [[nodiscard]] bool residuals_are_rounding() const;
  /// residuals_are_rounding() where the scatter would set the scale: there are no tests, criteria or uncertainties.
  [[nodiscard]] bool is_exact() const;
  /// The step in which the responses were written down, 0 where none is seen.
  [[nodiscard]] double resolution() const;
  /// Mean square of what the rounding of the readings to their step adds to the weighted residuals of the left side:
  /// step²/12 for a response without transform and weights; 0 where no step is seen. Scatter at or below it is that of
  /// rounding, and tests take it as the least (JCGM 100:2008, F.2.2.1). Cost: at most one evaluation.
  [[nodiscard]] double rounding_mean_square() const;
  /// What chi_squared() is to be called: "chi-squared" under stated uncertainties, "sum of squares" without
  /// uncertainties or weights, "weighted sum of squares" otherwise.
  [[nodiscard]] std::string_view objective_name() const;
  /// Diagonal of the projection onto the fitted curve, between 0 and 1; they add up to p.
  [[nodiscard]] Vector leverage() const;

  [[nodiscard]] const SolverReport& solver() const noexcept;
  [[nodiscard]] std::span<const Warning> warnings() const noexcept;

 private:
  struct Parts;
  friend struct detail::FitAccess;
  friend Fit fit(const Model& model, const Observations& observations, const FitOptions& options);
  explicit Fit(std::shared_ptr<const Parts> parts) : parts_(std::move(parts)) {}
  std::shared_ptr<const Parts> parts_;
};

/// Fits a model to observations by (weighted) least squares: minimises sum ((y - f(x; theta))/u)².
///
/// A model that is linear in its parameters is solved by Householder QR over blocks of 256 rows whose triangular
/// factors merge, in centred and scaled columns; small problems are refined with residuals in double-double arithmetic,
/// and ill-conditioned small problems are solved in double-double arithmetic throughout. One pass over the data, memory
/// O(p²). Where a binding is missing, the model's predictors are those of the observations.
///
/// Throws Error: unknown_name (the model asks for another response), too_few_observations, rank_deficient (names the
/// parameters that can't be told apart), unsuitable_row (names the row that a left-side transform can't take),
/// not_finite (names the row or the start), bad_argument (a start for no parameter), bad_uncertainty (stated ones asked
/// for, and none given), not_supported (events fitted as measured readings, a spread that grows from nothing through a
/// reading of zero, more than 63 parameters). A model that is not linear is solved by a trust-region
/// Levenberg-Marquardt method on the parameters that do not enter linearly, the others being projected out at every
/// step (variable projection; Golub and Pereyra 1973, Kaufman 1975; damping after Nielsen 1999), until the relative
/// offset of Bates and Watts (1981) falls below 1e-8 and no longer improves. Parameters may be held or kept within
/// limits (FitOptions). Without starts some hundred to several thousand points are drawn from a low-discrepancy
/// sequence (Halton 1960), spread by the scales of the data and the part each parameter plays, and the best are
/// descended from; the report says how many met in the best minimum. A search that ends without convergence is stated
/// in the solver's report and in a warning. Where one of them would run away without an end, as the steepness of a step
/// between two rows, it is held and told as such (OpenEnd). With a left-side transform g the values g(y) are fitted;
/// stated uncertainties and a spread are propagated as u(g) = |dg/dy| u(y), at the measured response for stated ones
/// and at the fitted curve, by iteration, for a spread. Source: Golub (1965) Numer. Math. 7, 206; Björck (1996)
/// Numerical Methods for Least Squares Problems, 2.4 and 2.9.
///
/// A search that is asked to end (FitOptions: stop, time_limit, most_evaluations) does so with its best so far, without
/// uncertainties where a parameter makes no difference to it; Error (stopped) only where it has seen none. Of a model
/// given as C++ code a std::domain_error means that a row can't be evaluated (Error: unsuitable_row); whatever else it
/// throws, or the progress, passes through unchanged.
[[nodiscard]] Fit fit(const Model& model, const Observations& observations, const FitOptions& options = {});

/// A fit, or why there is none.
class FitAttempt {
 public:
  FitAttempt(Fit fit) noexcept : fit_(std::move(fit)) {}          // NOLINT: a fit is one
  FitAttempt(Error error) noexcept : error_(std::move(error)) {}  // NOLINT: and so is its failure

  [[nodiscard]] explicit operator bool() const noexcept { return fit_.has_value(); }
  /// Throws the Error where there is none.
  [[nodiscard]] const Fit& fit() const {
    if (error_) throw Error(*error_);
    return *fit_;
  }
  /// Null where there is a fit.
  [[nodiscard]] const Error* error() const noexcept { return error_ ? &*error_ : nullptr; }

 private:
  std::optional<Fit> fit_{};
  std::optional<Error> error_{};
};

/// As fit(), for callers who fit in loops: an Error is returned and not thrown. Other exceptions of the caller's code
/// pass through.
[[nodiscard]] FitAttempt try_fit(const Model& model, const Observations& observations, const FitOptions& options = {});

}  // namespace truecurve
