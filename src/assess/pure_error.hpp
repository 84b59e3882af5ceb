// What the replicates' own scatter is worth as the scale of a test.
#pragma once

#include <truecurve/fit/fit.hpp>

#include "../base/matrices.hpp"
#include "../fit/weights.hpp"

#include <limits>

namespace truecurve::detail {

/// Replicates that agree better than their rounding allows are no scale: then it is the rounding, which those of one
/// level share and their mean does not lessen.
class PureErrorScale {
 public:
  /// For a fit whose rows have `levels` different places.
  PureErrorScale(const Fit& fit, double levels)
      : rounding_(fit.rounding_mean_square()), shared_(rounding_ * static_cast<double>(fit.size()) / levels) {
    constexpr double roundings = 8 * std::numeric_limits<double>::epsilon();
    const Observations& left = fit.left_side_observations();
    const double size = Weights(left).standardized_norm(as_eigen(left.responses()));
    of_numbers_ = roundings * roundings * size * size / static_cast<double>(fit.size());
  }

  /// What a mean square within replicates counts as; 0 where there is no scale.
  [[nodiscard]] double of(double within) const {
    const double scattered = within > of_numbers_ ? within : 0;
    return scattered < rounding_ ? shared_ : scattered;
  }

 private:
  double rounding_;
  double shared_;
  double of_numbers_ = 0;  // mean square of the rounding of the doubles
};

}  // namespace truecurve::detail
