// What the tangent plane at an estimate tells of its parameters.
#pragma once

#include "descend.hpp"
#include "linear.hpp"

#include <vector>

namespace truecurve::detail {

/// The columns of parameters that are not at a limit.
struct FreeColumns {
  SmallMatrix r;
  std::vector<int> order;
};

[[nodiscard]] FreeColumns free_columns(Curve& curve, const SmallVector& theta, const Box& box);

[[nodiscard]] bool has_full_rank(const FreeColumns& columns);

/// Whether no parameter's uncertainty is many times its value: a minimum by chance far out on a level stretch.
bool tells_scales(const FreeColumns& columns, const BoundModel& bound, const std::vector<int>& sought, const Box& box,
                  const SmallVector& theta, double scale);

/// Of a search that ended without a minimum, between points far apart: whether the parameters can't be told apart at
/// any of the points where it might have begun. Then there is no minimum to be found. Throws Error (rank_deficient)
/// there.
void require_separable(Curve& curve, const std::vector<SmallVector>& points, const Box& box);

/// Inverse factor and condition. Parameters at a limit have no share. Returns the relative offset. Throws Error
/// (rank_deficient) where parameters can't be told apart.
double keep_tangent_plane(Curve& curve, const Descent& best, const Box& box, LinearSolution& linear);

}  // namespace truecurve::detail
