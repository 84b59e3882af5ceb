// How far from straight a curve is in its parameters, over the region of their uncertainty.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line =
//     truecurve::curvature_of(truecurve::fit(truecurve::shape_model("line"), points), 0.95);
//     EXPECT_EQ(line.intrinsic, 0);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>

namespace truecurve {

/// Root mean square relative curvatures, taken times sqrt(F(level; p, n - p)) so that 1 means: at the edge of the
/// confidence region the curve turns away by as much as it goes along. Below 0.3 the linear approximation is fair.
struct Curvature {
  /// Of the curve itself: no other way to write the parameters mends it. Bands and regions suffer.
  double intrinsic = not_a_number;
  /// Of the way the parameters are written. Symmetric intervals suffer; profile intervals do not.
  double parameter_effects = not_a_number;
};

/// Up to here symmetric intervals and bands are adequate: Bates and Watts (1988), 7.3.
inline constexpr double fair_curvature = 0.3;

/// NaN where it can't be known (no degrees of freedom, an exact fit, more than 20,000 rows). Second derivatives are
/// central differences of fourth order of the exact first ones, in steps of a hundredth of the standard uncertainties.
/// Cost: 4 p evaluations. Source: Bates and Watts (1980) J. R. Stat. Soc. B 42, 1; their mean square over directions,
/// sum_i (2 sum_jk a_ijk² + (sum_j a_ijj)²) / (p (p + 2)). Throws no Error of its own.
[[nodiscard]] Curvature curvature_of(const Fit& fit, Level level);

}  // namespace truecurve
