// The rule by which a candidate is suggested; docs/methods.md states it.
#pragma once

#include <truecurve/compare/compare.hpp>

namespace truecurve::detail {

/// Of a comparison whose table, weights and nested pairs are complete.
[[nodiscard]] Suggestion suggest(const Comparison& comparison);

}  // namespace truecurve::detail
