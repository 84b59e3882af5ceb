// One candidate of a comparison, judged by itself.
#pragma once

#include <truecurve/compare/compare.hpp>

#include <string>

namespace truecurve::detail {

/// Without its place among the others.
[[nodiscard]] Candidate candidate_of(std::string name, const Fit& fit, const CompareOptions& options);

}  // namespace truecurve::detail
