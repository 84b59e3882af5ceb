// Starts for a sum of terms that each vanish without their linear parameters (peaks, exponentials, oscillations): one
// term more at a time, from what the others leave.
#pragma once

#include "descend.hpp"
#include "search_watch.hpp"

#include <optional>

namespace truecurve::detail {

/// Builds the sum up: the next term is begun where it lowers chi-squared most, the others as they are, and all are
/// descended together; then each term in turn is taken out and put back where it now lowers chi-squared most, until
/// that gains nothing more. Nothing where the model is no such sum of at least two terms, or a start is given for one
/// of their parameters. The observations must outlive the call. Takes one of every `stride` rows.
[[nodiscard]] std::optional<SmallVector> built_up(const BoundModel& bound, const Observations& observations,
                                                  std::size_t stride, const SmallVector& given, const Box& box,
                                                  SearchWatch& watch);

}  // namespace truecurve::detail
