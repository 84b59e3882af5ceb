// What is said where a curve is not finite, or its parameters can't be told apart.
#pragma once

#include "curve.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace truecurve::detail {

/// The row and the parameters at which a start is not finite. Throws Error (not_finite).
[[noreturn]] void fail_not_finite(const Model& model, const Observations& observations, const SmallVector& theta);

/// Whether some row's curve is finite for none of a handful of quite different parameters: then the row is to blame and
/// not the starts; words to be added, or none. C++ code is not asked: it may throw at parameters that nobody chose.
[[nodiscard]] std::string never_finite(const BoundModel& bound, const Observations& observations);

/// Names the parameters of a direction in which chi-squared does not change: column k of the factor, in this order of
/// the parameters, is spanned by those before it; `where` that is, such as "at the best curve found ". Throws Error
/// (rank_deficient).
[[noreturn]] void fail_inseparable(const BoundModel& bound, const SmallMatrix& r, const std::vector<int>& order,
                                   Eigen::Index k, const SmallVector& theta, std::string_view where);

}  // namespace truecurve::detail
