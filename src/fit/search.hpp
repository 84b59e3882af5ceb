// Starts for a curve that has none: many points drawn over the parameters, the better ones begun to descend from.
#pragma once

#include "descend.hpp"

#include <vector>

namespace truecurve::detail {

/// Scales of the data by which a parameter may be measured.
struct Scales {
  double low = 0;
  double high = 1;
  double width = 1;
  double largest = 1;
  double step = 1;  // typical distance of neighbours
};
[[nodiscard]] Scales scales_of(const Curve& curve);

/// One candidate for a parameter from two numbers between 0 and 1: the first chooses the kind, the second the place in
/// it. Below 0.7 it is what the part that the parameter plays suggests, below 0.5 the likelier half of that.
/// Frequencies keep below half the mean rate of the rows, beyond which evenly spaced rows can't tell them from slower
/// ones.
[[nodiscard]] double candidate_value(const BoundModel& bound, int parameter, double kind, double place,
                                     const Scales& scales);

/// A point to descend from.
struct Begin {
  SmallVector theta;
  bool proposed = false;  // by the model itself
  bool built_up = false;  // term by term
};

/// The points that a search looks at first, best chi-squared first.
[[nodiscard]] std::vector<SmallVector> drawn_points(Curve& curve, const SmallVector& given, const Box& box);

/// Points that the model itself suggests.
struct Proposals {
  std::vector<SmallVector> points{};
  bool has_sum = false;  // the last of them was built up term by term
};

/// Points to descend from, best first. `given` holds NaN where a start is sought; proposals come in whatever their
/// chi-squared, and with them the search draws fewer points of its own. Empty where no point gives a finite curve.
[[nodiscard]] std::vector<Begin> search(Curve& curve, const SmallVector& given, const Box& box,
                                        const Proposals& proposals);

}  // namespace truecurve::detail
