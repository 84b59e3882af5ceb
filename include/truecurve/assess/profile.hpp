// How chi-squared rises when a parameter is moved and all others follow: intervals and regions without the assumption
// that the curve is straight in its parameters.
//
// Example:
//     std::vector<double> x, y;
//     for (int i = 0; i < 8; ++i) {
//       x.push_back(0.5 + i / 2.0);
//       y.push_back(10 * x.back() / (3 + x.back()) + (i % 2 ? 0.2 : -0.2));
//     }
//     const auto curve = truecurve::fit(truecurve::shape_model("saturation"), truecurve::Observations::of(x, y));
//     const auto k = truecurve::profile_interval(curve, "k", 0.95);
//     EXPECT_GT(k.interval.high - k.value, k.value - k.interval.low);  // longer above than below
//     EXPECT_LT(k.symmetric_level, 0.95);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// The interval of one parameter by its profile, beside the symmetric one.
struct ProfileInterval {
  std::string parameter{};
  double value = not_a_number;
  double standard_uncertainty = not_a_number;
  Interval symmetric{};  ///< value ± k u
  /// Where the smallest chi-squared at a held value exceeds the minimum by (k s)²: k the coverage factor of the level,
  /// s 1 for stated and sqrt(chi-squared/dof) for scatter. Infinite where it never does; the end of a set limit, or of
  /// the values at which the model is defined, where that comes first. NaN where the level can't be judged (scatter
  /// without degrees of freedom, a parameter at its limit).
  Interval interval{};
  /// The level that the symmetric interval has by the profile: the rise of chi-squared at its two limits, in units of
  /// s², as the squares of Student's t (of a normal for stated). NaN where there is no profile.
  double symmetric_level = not_a_number;
  /// How often the symmetric interval covers the estimate in data sets simulated from the fitted curve (trust_of, where
  /// symmetric_level leaves a doubt); NaN where that was not tried.
  double simulated_level = not_a_number;
  /// Whether that level, or where it was not tried symmetric_level, leaves out at most twice what it should: 0.90 and
  /// more of 0.95. False where the profile is open.
  bool symmetric_is_trusted = true;
  /// A chi-squared below that of the fit, met on the way: the fit is not the best minimum. NaN where none was.
  double lower_chi_squared = not_a_number;
};

/// Cost: some hundred evaluations of the model. Throws Error: unknown_name, bad_argument (level). Source: Bates and
/// Watts (1988) Nonlinear Regression Analysis and Its Applications, 6.1; a linear model's profile is its symmetric
/// interval.
[[nodiscard]] ProfileInterval profile_interval(const Fit& fit, std::string_view parameter, Level level);

/// One point of a profile.
struct ProfilePoint {
  double value = not_a_number;
  double chi_squared = not_a_number;  ///< smallest at that value
  Vector parameters{};                ///< where it is reached
};

/// A profile for drawing: ascending values through and a little beyond the interval.
struct Profile {
  ProfileInterval interval{};
  std::vector<ProfilePoint> points{};
  double limit = not_a_number;  ///< the chi-squared at the limits: minimum + (k s)²
};
/// Cost: some hundred evaluations. Throws Error as profile_interval().
[[nodiscard]] Profile profile(const Fit& fit, std::string_view parameter, Level level);

/// Values of the two parameters of a region.
struct ParameterPair {
  double first = not_a_number;
  double second = not_a_number;
};

/// The joint confidence region of two parameters, all others following.
struct ConfidenceRegion {
  std::string first{};
  std::string second{};
  double limit =
      not_a_number;  ///< chi-squared on the contour: minimum + s² 2 F(level; 2, dof), or chi-squared's quantile
  std::vector<ParameterPair> ellipse{};  ///< of the linear approximation, closed
  /// Where chi-squared reaches the limit; NaN in directions in which it never does.
  std::vector<ParameterPair> contour{};
};

/// Cost: some thousand evaluations. Throws Error as profile_interval; bad_argument where both are one. Source: Bates
/// and Watts (1988), 6.1.3.
[[nodiscard]] ConfidenceRegion confidence_region(const Fit& fit, std::string_view first, std::string_view second,
                                                 Level level);

/// Of a counted response with one predictor: between which places around `place`, where the curve has this mean, it may
/// have it: the deviance of the curves that pass the mean there has risen by no more than the square of the coverage
/// factor, in units of the dispersion. A limit that lies nowhere within 64 ranges of the data is infinite; NaN where a
/// limit is not found, of a separated response, or for a response of another kind. Cost: some 50 fits. Throws no Error
/// of its own.
[[nodiscard]] Interval profile_place(const Fit& fit, double mean, double place, Level level);

}  // namespace truecurve
