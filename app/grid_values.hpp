// Values of a predictor, as options give them.
#pragma once

#include <string>
#include <vector>

namespace truecurve::app {

/// "1, 2, 3" or "0..10 step 0.5" (without a step, ten of them). Throws Error (bad_argument) that names the option.
[[nodiscard]] std::vector<double> grid_values(const std::string& text, const char* option);

}  // namespace truecurve::app
