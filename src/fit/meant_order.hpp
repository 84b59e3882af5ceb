// Which of several equal curves is meant.
#pragma once

#include "descend.hpp"

namespace truecurve::detail {

/// A minimum does not know which of several like terms is meant to be the first, nor the sign of a width that stands
/// squared. Where the curve stays the same, like terms are put into the order of their starts, and without starts from
/// left to right and the slowest first; widths and periods take the sign of their start, or are made positive; phases
/// without a start lie in the turn about 0, places within an oscillation in its first period from the first row on, and
/// of either half that in which fewer amplitudes are negative. `starts` holds NaN where none is given.
[[nodiscard]] Descent in_meant_order(Curve& curve, const Descent& found, const SmallVector& starts, const Box& box);

}  // namespace truecurve::detail
