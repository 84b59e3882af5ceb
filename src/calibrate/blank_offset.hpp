// What the uncertainty of a subtracted blank adds to that of a calibration.
#pragma once

#include <truecurve/calibrate/calibration.hpp>

#include <vector>

namespace truecurve::detail {

/// The same estimate with the variance of a common offset added to its additive constant. Where its scale is 0, for
/// rows without scatter, the scale becomes the standard uncertainty of the offset: no other uncertainty is there.
[[nodiscard]] Estimate with_offset(const Estimate& estimate, double offset_variance);

/// Of a model without an additive constant: the offset is estimated with the parameters.
struct WithOffset {
  Estimate reported;  ///< the parameters of the model
  Estimate curve;     ///< and the offset as one more
};
/// `variance` is that of the mean blank. Throws Error (not_supported) of a transformed signal.
[[nodiscard]] WithOffset with_estimated_offset(const Fit& plain, const std::vector<Reading>& used, double variance);

}  // namespace truecurve::detail
