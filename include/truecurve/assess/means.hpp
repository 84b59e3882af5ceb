// The mean of new observations where the left side of a model was transformed: not the curve, which is their median.
//
// Example:
//     const auto points = truecurve::Observations::of({0, 1, 2, 3, 4},
//                                                     {9.1, 5.2, 3.6, 2.1, 1.1});
//     const auto decay = truecurve::fit(truecurve::Model::written("ln(y) = c - k*x"), points);
//     const truecurve::Vector at = {2};
//     const auto mean = truecurve::means(decay.estimate(), std::span(&at, 1), 0.95)[0];
//     EXPECT_GT(mean.value, truecurve::band_at(decay.estimate(), at, 0.95)[0].value);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/level.hpp>

#include <span>
#include <vector>

namespace truecurve {

/// The expectation of a new observation at one point; NaN where there is none or it can't be known.
struct MeanPoint {
  double value = not_a_number;
  double standard_uncertainty = not_a_number;
  Interval interval{};  ///< a limit that lies nowhere is infinite
};

/// Means at points given column-wise, as in band(). Where readings scatter on the measured scale (no transform, stated
/// uncertainties, a spread) the mean is the curve, with its uncertainty and confidence band. Where equal scatter s of a
/// transformed left side was assumed, with the inverse h, curve z and its standard uncertainty u there, it is
/// m(z, s) = E h(z + s Z), Z standard normal, by Gauss-Hermite quadrature with 16 points; its standard uncertainty
/// sqrt((dm/dz)² u² + (dm/ds)² s²/(2 dof)) (JCGM 100:2008, equation 10); its interval the middle `level` of m(z', s')
/// where s'² = s² dof/W and z' = z + (u/s) s' N, W chi-squared with the degrees of freedom and N normal: a generalized
/// confidence interval (Krishnamoorthy and Mathew 2003, J. Stat. Plan. Inference 115, 103), with 4096 points of
/// Halton's sequence in place of W and N. A mean that does not exist (of 1/z, z normal about a value within 6.6 s of
/// zero) is absent. Throws as band(). Cost: about a millisecond for each point.
[[nodiscard]] std::vector<MeanPoint> means(const Estimate& estimate, std::span<const Vector> points, Level level,
                                           const Vector& observation_uncertainties = {});

}  // namespace truecurve
