// One set of predictors for all candidates of a comparison.
#pragma once

#include <truecurve/compare/candidates.hpp>

#include <span>
#include <vector>

namespace truecurve::detail {

/// The candidates, those of fewer predictors (a constant has none) as curves of all that another one has, of the same
/// readings: then they are tested, held out and predicted like the others. Rows without a value of one of those
/// predictors are left out. Candidates in C++ stay as they are.
[[nodiscard]] std::vector<CandidateModel> with_common_predictors(std::span<const CandidateModel> candidates);

}  // namespace truecurve::detail
