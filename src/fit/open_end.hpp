// Parameters without an estimate: a steep edge between two rows is fitted as well by every steeper one.
#pragma once

#include <truecurve/fit/estimate.hpp>

#include "descend.hpp"
#include "search_watch.hpp"

#include <limits>
#include <optional>

namespace truecurve::detail {

/// Whether a sum of squares is no more than rounding against the data, whose own is `size`.
inline bool is_of_rounding(double chi_squared, double size) {
  constexpr double roundings = 64 * std::numeric_limits<double>::epsilon();
  return chi_squared <= roundings * roundings * size;
}

struct OpenEndFound {
  OpenEnd end;
  Descent descent;  // with the parameter held where the curve has all but stopped to change
  Box box;          // the given one, ending there
};

/// Parameters that are not simply solved for: those that do not enter linearly, and of a counted response all.
[[nodiscard]] std::vector<int> sought_parameters(const BoundModel& bound, const Observations& observations);

/// Whether a parameter is one that may have no end: a factor, divisor or exponent, not 0 and not at a limit.
[[nodiscard]] bool may_be_open(const BoundModel& bound, const Box& box, const SmallVector& theta, int parameter);

/// Looks for the one parameter (of those that may be open) of whose values all from some point
/// on, away from zero or towards it, fit as well as the best descent: chi-squared, the others following, stays below
/// its minimum + rise on that side and exceeds it on the other. None where there is no such parameter, or where the
/// curve does not settle. Cost: some tens of descents each.
[[nodiscard]] std::optional<OpenEndFound> find_open_end(const BoundModel& bound, const Observations& observations,
                                                        const Box& box, const Descent& best, double rise,
                                                        SearchWatch& watch);

}  // namespace truecurve::detail
