// Values of a predictor, as options give them.
#pragma once

#include <truecurve/fit/estimate.hpp>

#include <string>
#include <vector>

namespace truecurve::app {

/// "1, 2, 3" or "0..10 step 0.5" (without a step, ten of them). Throws Error (bad_argument) that names the option.
[[nodiscard]] std::vector<double> grid_values(const std::string& text, const char* option);

/// Places in the predictors of an estimate, column-wise, from "x=5", "x=1,2,3" or "x=0..10 step 0.5", one text a
/// predictor; a single value serves all places. Throws Error (unknown_name, bad_argument) that names the option.
[[nodiscard]] std::vector<Vector> places_of(const std::vector<std::string>& texts, const Estimate& estimate,
                                            const char* option);

}  // namespace truecurve::app
