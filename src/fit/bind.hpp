// A model bound to the predictors of observations.
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/model/model.hpp>

namespace truecurve::detail {

/// The model with the observations' predictors. Throws Error (unknown_name) where it is for another response.
[[nodiscard]] Model bound_to(const Model& model, const Observations& observations);

}  // namespace truecurve::detail
