// A prediction averaged over candidates by their weights, with what they disagree by in its uncertainty.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const truecurve::WeightedEstimate one{"line", 1.0, line.estimate()};
//     const truecurve::Vector at = {2.5};
//     const auto averaged = truecurve::averaged_band(std::span(&one, 1), std::span(&at, 1), 0.95);
//     EXPECT_DOUBLE_EQ(averaged[0].whole.value, truecurve::band_at(line.estimate(), at, 0.95)[0].value);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/level.hpp>

#include <span>
#include <string>
#include <vector>

namespace truecurve {

/// One curve among several and how much it counts.
struct WeightedEstimate {
  std::string name{};
  double weight = 0;  ///< the weights add up to 1
  Estimate estimate;
  bool is_suggested = false;  ///< the candidate that the comparison suggests
};

/// The averaged curve at one point.
struct AveragedPoint {
  /// value = sum w_i y_i. The intervals are those of the mixture of the candidates' distributions: the limits L with
  /// sum w_i P_i(L) = (1 - level)/2 and (1 + level)/2, where P_i is the candidate's probability of a curve (a new
  /// observation) below L, normal for stated and Student's for scatter on the scale on which the candidate was fitted
  /// (Turek and Fletcher 2012, Comput. Stat. Data Anal. 56, 2809: model-averaged tail areas). standard_uncertainty is
  /// half the middle 68.27 %; `simultaneous` is not known. A candidate of little weight, however wide, moves them
  /// little.
  BandPoint whole{};
  double between = not_a_number;  ///< sqrt(sum w_i (y_i - value)²): what the candidates disagree by
  std::vector<double> values{};   ///< of each curve
  /// The confidence interval of each curve, conditional on its being the right one.
  std::vector<Interval> confidences{};
};

/// Points column-wise, one vector a predictor, as in band(). Throws Error: bad_argument (no curves, curves of different
/// predictors, weights that do not add up to 1), and as band() (a curve that is not finite at a point is named).
[[nodiscard]] std::vector<AveragedPoint> averaged_band(std::span<const WeightedEstimate> curves,
                                                       std::span<const Vector> points, Level level,
                                                       const Vector& observation_uncertainties = {});

}  // namespace truecurve
