// The same curve fitted directly and in a straightened form: what each assumes, and what the rows say of it.
// None of these throws an Error of its own.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {9, 6.2, 3.9, 2.8});
//     const auto direct = truecurve::fit(truecurve::shape_model("exponential"), points);
//     const auto straight = truecurve::fit(
//         truecurve::shape_model("exponential", "x", "y", truecurve::Route::linearized), points);
//     const auto pair = truecurve::explain_routes(direct, straight);
//     ASSERT_TRUE(pair.has_value());
//     EXPECT_NEAR(pair->parameters[1].linearized, straight.parameter("b").value, 1e-6);
#pragma once

#include <truecurve/fit/fit.hpp>

#include <optional>
#include <string>
#include <vector>

namespace truecurve {

/// A parameter of the curve by both routes, each with its standard uncertainty.
struct RouteParameter {
  std::string name{};
  double direct = not_a_number;
  double direct_uncertainty = not_a_number;
  double linearized = not_a_number;
  double linearized_uncertainty = not_a_number;
};

struct RoutePair {
  std::vector<RouteParameter> parameters{};  ///< those of the direct model
  std::string direct_scatter{};              ///< what scatter of the response each route takes for granted
  std::string linearized_scatter{};
  std::string direct_weights{};  ///< and how it weighs the rows by that: "equal weights", "weights 1/y^2"
  std::string linearized_weights{};
  double delta_aicc = not_a_number;       ///< linearized less direct, of the measured response
  double direct_spread_p = not_a_number;  ///< of spread_check
  double linearized_spread_p = not_a_number;
  /// Which one the rows speak for, in sentences.
  std::string verdict{};
};

/// Empty where the two are not the same curve: the direct model, fitted to the curve that the linearized fit found,
/// must meet it at every row within 1e-6 of its size. The linearized estimates are those of that fit, their covariance
/// J C Jᵀ with J the change of the direct parameters with the linearized ones (JCGM 102:2011, 6.2).
[[nodiscard]] std::optional<RoutePair> explain_routes(const Fit& direct, const Fit& linearized);

/// What scatter of the measured response a fit takes for granted, as a phrase: "the same for all rows", "proportional
/// to y", "as stated".
[[nodiscard]] std::string assumed_scatter(const Fit& fit);

}  // namespace truecurve
