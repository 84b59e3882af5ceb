// Starts for a curve that has none: many points drawn over the parameters, the better ones begun to descend from.
#pragma once

#include "descend.hpp"

#include <vector>

namespace truecurve::detail {

/// Points to descend from, best first. `given` holds NaN where a start is sought; `proposed` are points that the model
/// itself suggests, and come in whatever their chi-squared. Empty where no point gives a finite curve.
[[nodiscard]] std::vector<SmallVector> search(Curve& curve, const SmallVector& given, const Box& box,
                                           const std::vector<SmallVector>& proposed);

}  // namespace truecurve::detail
