// What a row of a counted response can't be.
#pragma once

#include <truecurve/data/observation_model.hpp>

#include <string>

namespace truecurve::detail {

/// What can't be in a row of a counted response of this size (trials or exposure), or an empty text.
[[nodiscard]] std::string fault_of_count(ResponseKind kind, double counted, double size);

}  // namespace truecurve::detail
