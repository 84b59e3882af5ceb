// A prediction averaged over candidates by their weights, with what they disagree by in its uncertainty.
//
// Example:
//     const auto points = truecurve::Observations::of(Eigen::Vector4d(1, 2, 3, 4),
//     Eigen::Vector4d(3.1, 4.9, 7.2, 8.8)); const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const truecurve::WeightedEstimate one{"line", 1.0, line.estimate()};
//     const Eigen::VectorXd at = Eigen::VectorXd::Constant(1, 2.5);
//     const auto averaged = truecurve::averaged_band(std::span(&one, 1), std::span(&at, 1), 0.95);
//     EXPECT_DOUBLE_EQ(averaged[0].whole.value, truecurve::band_at(line.estimate(), at, 0.95)[0].value);
#pragma once

#include <truecurve/assess/bands.hpp>

#include <span>
#include <string>
#include <vector>

namespace truecurve {

/// One curve among several and how much it counts.
struct WeightedEstimate {
  std::string name{};
  double weight = 0;  ///< the weights add up to 1
  Estimate estimate;
};

/// The averaged curve at one point.
struct AveragedPoint {
  /// value = sum w_i y_i; standard_uncertainty = sum w_i sqrt(u_i² + (y_i - value)²), Burnham and Anderson (2002) Model
  /// Selection and Multimodel Inference, equation 4.9; the intervals' half widths sum w_i sqrt((k_i u_i)² +
  /// (z (y_i - value))²) with each curve's coverage factor k_i and the normal quantile z (their section 4.3.3), u_i
  /// with that of a new observation for `prediction`. `mean` likewise; `simultaneous` is not known.
  BandPoint whole{};
  double between = not_a_number;  ///< sqrt(sum w_i (y_i - value)²): what the candidates disagree by
  std::vector<double> values{};   ///< of each curve
};

/// Points column-wise, one vector a predictor, as in band(). Throws Error: bad_argument (no curves, curves of different
/// predictors, weights that do not add up to 1), and as band() (a curve that is not finite at a point is named).
[[nodiscard]] std::vector<AveragedPoint> averaged_band(std::span<const WeightedEstimate> curves,
                                                       std::span<const VectorXd> points, double level,
                                                       const VectorXd& observation_uncertainties = {});

}  // namespace truecurve
