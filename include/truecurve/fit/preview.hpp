// A curve at its starts, before any fit.
//
// Example:
//     std::vector<double> x, y;
//     for (int i = 0; i < 9; ++i) {
//       x.push_back(i);
//       y.push_back(5 * std::exp(-i / 2.0));
//     }
//     const auto guess = truecurve::preview(truecurve::Model::written("y = a*exp(-x/tau)"),
//                                           truecurve::Observations::of(x, y), {.starts = {{"tau", 2}}});
//     EXPECT_NEAR(guess.estimate.parameters()[0], 5, 1e-12);  // it enters linearly and is solved for
//     EXPECT_EQ(guess.origins[0], truecurve::StartOrigin::solved);
#pragma once

#include <truecurve/fit/fit.hpp>

#include <vector>

namespace truecurve {

/// Where a value of a previewed curve comes from.
enum class StartOrigin {
  given,     ///< by the user
  proposed,  ///< by the shape, or the best of the points that a search draws first
  solved,    ///< the parameter enters linearly and is set to its best value beside the others
};

/// A curve that was not fitted.
struct Preview {
  Estimate estimate;                   ///< parameters without uncertainties (NaN)
  std::vector<StartOrigin> origins{};  ///< one a parameter
  double chi_squared = not_a_number;   ///< sum (r/u)², u = 1 without uncertainties; on the scale of the left side
  double residual_sd = not_a_number;   ///< sqrt(sum r² / n) of the left side, unweighted: nothing was fitted
};

/// Evaluates the model at the given starts; those that are missing are proposed or solved for. Throws Error as fit()
/// does for the same starts; nothing is minimised but what enters linearly and was not given.
[[nodiscard]] Preview preview(const Model& model, const Observations& observations, const FitOptions& options = {});

}  // namespace truecurve
