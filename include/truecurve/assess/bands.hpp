// The curve with its uncertainty at any point: confidence band of the curve, prediction band of a new observation.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const auto at = truecurve::band_at(line.estimate(), {2.5}, 0.95)[0];
//     EXPECT_LT(at.prediction.low, at.confidence.low);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/fit/estimate.hpp>

#include <span>
#include <vector>

namespace truecurve {

/// Lower and upper limit of a two-sided interval.
struct Interval {
  double low = not_a_number;
  double high = not_a_number;
};

/// The curve at one point, on the scale of the measured response.
struct BandPoint {
  /// The curve; where equal scatter of a transformed left side was assumed it is the median of new observations, else
  /// their mean.
  double value = not_a_number;
  double standard_uncertainty = not_a_number;  ///< of the curve: sqrt(gᵀ C g), g the gradient by the parameters
  Interval confidence{};                       ///< of the curve at this point
  Interval simultaneous{};  ///< of the curve at all points at once; Working and Hotelling (1929), Scheffé (1953)
  Interval prediction{};    ///< of a single new observation; NaN where its uncertainty is not known
  /// How far the point lies outside the data, as a share of the predictor's range; 0 inside, the largest over
  /// predictors.
  double outside = 0;
};

/// The band at points given column-wise, one vector a predictor, all of equal length; of a curve without predictors, a
/// mean, at its one point, given by none. `observation_uncertainties`, one
/// for each point, replace the standard uncertainty of a new observation where given (not empty). Throws Error:
/// bad_argument, bad_uncertainty (negative), not_finite (names the point). Source: Draper and Smith (1998) Applied
/// Regression Analysis, 1.4 and 5.
[[nodiscard]] std::vector<BandPoint> band(const Estimate& estimate, std::span<const Vector> points, Level level,
                                          const Vector& observation_uncertainties = {});

/// The curve at a point and its standard uncertainty.
struct CurvePoint {
  double value = not_a_number;
  double standard_uncertainty = not_a_number;
};
/// At one point of a model with one predictor: `band_at` without the intervals. Throws Error: not_finite (the curve is
/// not defined there), bad_argument (a model with several predictors).
[[nodiscard]] CurvePoint curve_at(const Estimate& estimate, double x);
/// The same for a model with several, each a vector of length 1. Throws Error: not_finite, bad_argument.
[[nodiscard]] CurvePoint curve_at(const Estimate& estimate, std::span<const Vector> point);

/// The derivatives of the curve by each predictor at a point with one value a predictor, on the scale of the measured
/// response: exact by the rules of the model's graph (of a polynomial in its working form, of C++ code by central
/// differences); NaN or infinite where the curve has none. Throws Error (bad_argument).
[[nodiscard]] Vector slopes_at(const Estimate& estimate, const Vector& point);

/// The same as band() for a model with one predictor. Throws Error as band().
[[nodiscard]] std::vector<BandPoint> band_at(const Estimate& estimate, const Vector& x, Level level,
                                             const Vector& observation_uncertainties = {});

}  // namespace truecurve
