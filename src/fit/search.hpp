// Starts for a curve that has none: many points drawn over the parameters, the better ones begun to descend from.
#pragma once

#include "descend.hpp"

#include <vector>

namespace truecurve::detail {

/// A point to descend from.
struct Begin {
  SmallVector theta;
  bool proposed = false;  // by the model itself
};

/// The points that a search looks at first, best chi-squared first.
[[nodiscard]] std::vector<SmallVector> drawn_points(Curve& curve, const SmallVector& given, const Box& box);

/// Points to descend from, best first. `given` holds NaN where a start is sought; `proposed` are points that the model
/// itself suggests; they come in whatever their chi-squared, and with them the search draws fewer of its own. Empty
/// where no point gives a finite curve.
[[nodiscard]] std::vector<Begin> search(Curve& curve, const SmallVector& given, const Box& box,
                                        const std::vector<SmallVector>& proposed);

}  // namespace truecurve::detail
