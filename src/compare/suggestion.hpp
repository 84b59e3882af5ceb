// The rule by which a candidate is suggested; docs/methods.md states it.
#pragma once

#include <truecurve/compare/compare.hpp>

#include <cstddef>
#include <optional>

namespace truecurve::detail {

/// Of a comparison whose table, weights and nested pairs are complete.
[[nodiscard]] Suggestion suggest(const Comparison& comparison);

/// The place of the candidate that will be suggested; nothing where none can be judged. It does not depend on remarks.
[[nodiscard]] std::optional<std::size_t> suggested_place(const Comparison& comparison);

}  // namespace truecurve::detail
