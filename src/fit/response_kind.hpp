// What kind of response a column of numbers looks like, where least squares would mistreat it.
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/fit/fit.hpp>

#include <vector>

namespace truecurve::detail {

/// Throws Error (not_supported) for five rows and more of zeros and ones alone: an event that happened or did not.
void require_measured(const Observations& observations);

/// Remarks on responses that were counted or ordered rather than measured one by one:
/// "ordered_shares": the share of each row by its rank, which rises (or falls) in equal steps along the predictor;
/// "cumulative_counts": whole numbers that begin near zero and never fall, too smoothly for independent counts.
[[nodiscard]] std::vector<Warning> remarks_on_response(const Observations& observations);

}  // namespace truecurve::detail
