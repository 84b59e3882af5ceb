// The x at which a curve reaches a given response, with its interval.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const auto roots = truecurve::solve(line.estimate(), 6, {.low = 0, .high = 10});
//     ASSERT_EQ(roots.size(), 1u);
//     EXPECT_NEAR(roots[0].value, (6 - line.parameter("a").value) / line.parameter("b").value, 1e-12);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/estimate.hpp>

#include <vector>

namespace truecurve {

/// Where and how to look.
struct SolveOptions {
  bool nearest_places = true;  ///< also those at which the curve comes near the response without reaching it
  double low = not_a_number;   ///< ends of the search; NaN: the predictor's range in the data
  double high = not_a_number;
  Level level = 0.95;
  /// Standard uncertainty of the given response; 0 where it is known exactly.
  double response_uncertainty = 0;
};

/// One solution.
struct Root {
  double value = not_a_number;
  /// Whether the curve only comes near the response there and does not reach it, at the top of a bend say, by no more
  /// than the uncertainty of the two.
  bool is_nearest = false;
  /// sqrt(u²(curve) + u²(response)) / |slope|: first order; JCGM 100:2008, equation 10. NaN where the curve only comes
  /// near, and where the interval has one end only, nearer than that.
  double standard_uncertainty = not_a_number;
  /// The x around the root at which the response is compatible with the curve: |f(x) - y| <= k sqrt(u²(f(x)) + u²(y));
  /// Fieller (1954) for a straight line. A limit that lies nowhere is infinite.
  Interval interval{};
  bool is_by_profile = false;  ///< whether the interval is that of the profile likelihood (profile_place)
  double outside = 0;          ///< as a share of the predictor's range; 0 inside the data
};

/// All roots of curve(x) = response in the range, ascending, and the places at which the curve comes near the response
/// within their uncertainty at `level` without reaching it: near the top of a bend, or along an asymptote to the end of
/// the range, the data allow that it is reached. A pole is no root.
/// In the range of the data (no range given) a root beyond its ends counts where its interval reaches into it. Empty
/// where the response is not compatible with the curve in the range. For models with one predictor. Throws Error:
/// bad_argument (several predictors, an empty range), not_finite.
[[nodiscard]] std::vector<Root> solve(const Estimate& estimate, double response, const SolveOptions& options = {});

}  // namespace truecurve
