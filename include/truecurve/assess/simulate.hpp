// Made-up measurements with a known truth: to try a plan before it is measured, or an analysis before it is trusted.
//
// Example:
//     const auto line = truecurve::Model::written("y = a + b*x", {"x"});
//     const std::vector<truecurve::Vector> places = {{0, 1, 2, 3, 4}};
//     const auto made = truecurve::simulate(line, {{"a", 1}, {"b", 2}}, places, {.scatter = 0.1, .seed = 7});
//     EXPECT_DOUBLE_EQ(made.truth[4], 9);
//     EXPECT_NEAR(made.responses[4], 9, 0.5);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/data/observation_model.hpp>
#include <truecurve/fit/options.hpp>
#include <truecurve/model/model.hpp>

#include <cstdint>
#include <span>
#include <vector>

namespace truecurve {

/// The scatter of simulated responses: their standard deviation is the hypotenuse of `scatter` and
/// `relative_scatter` |truth|.
struct SimulateOptions {
  double scatter = 0;           ///< in the unit of the response; not negative
  double relative_scatter = 0;  ///< as a share of the true response; not negative
  /// Of a counted response: how its numbers are drawn with the model as their mean, each with this size (trials or
  /// exposure, above 0). Then the two above are 0.
  ObservationModel observation_model{};
  double size = 1;
  int replicates = 1;  ///< at each point; at least 1
  Seed seed = 1;
};

/// Simulated responses, point by point with the replicates of one beside each other.
struct Simulation {
  std::vector<Vector> predictors{};  ///< one vector a predictor, of length points x replicates
  Vector truth{};                    ///< the model at its true parameters
  Vector uncertainties{};            ///< the standard deviation each response was drawn with
  Vector responses{};                ///< truth + uncertainties * normal variates; shares or rates of counted ones
};

/// Evaluates the model at true parameters (every one needs a value) and adds normal scatter. Points are given
/// column-wise, one vector a predictor, all of equal length. A transformed left side is solved for the response, which
/// then scatters. The same seed gives the same numbers. Throws Error: unknown_name (a parameter), bad_argument (a
/// missing one, a negative scatter, lengths), not_finite (the model at a point).
[[nodiscard]] Simulation simulate(const Model& model, const std::vector<Start>& truth, std::span<const Vector> points,
                                  const SimulateOptions& options = {});

}  // namespace truecurve
