// What is compared was fitted to the same rows.
#pragma once

#include <truecurve/fit/fit.hpp>

#include <span>

namespace truecurve::detail {

/// Throws Error (bad_argument) where there is no fit, or where the fits differ in their rows, in the response there or
/// in its kind.
void require_same_observations(std::span<const Fit> fits);

}  // namespace truecurve::detail
