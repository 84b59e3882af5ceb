// The sentences and tables of which the pages of calibrations are made.
#pragma once

#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/report/page.hpp>

#include <string>
#include <vector>

namespace truecurve::detail {

/// What became of the blanks; empty where there are none.
[[nodiscard]] std::string blank_sentence(const Calibration& calibration);
/// What its tests found, in a sentence: what is to be settled before it is used, or that nothing was detected.
[[nodiscard]] std::string verdict_sentence(const Calibration& calibration);
/// Whether the levels scatter differently and the weights do not allow for that.
[[nodiscard]] bool has_wrong_weights(const Calibration& calibration);
/// How the readings scatter.
[[nodiscard]] std::string scatter_sentence(const Calibration& calibration);
/// One sentence a suspicious reading.
[[nodiscard]] std::vector<std::string> suspicions(const Calibration& calibration);
/// What the limits mean.
[[nodiscard]] std::string limits_meaning(const Calibration& calibration);
/// A detection limit with its uncertainty.
[[nodiscard]] std::string detection_text(const LimitRoute& route);

[[nodiscard]] PageTable calibration_parameters_table(const Calibration& calibration);
[[nodiscard]] PageTable levels_table(const Calibration& calibration);
[[nodiscard]] PageTable equal_scatter_table(const EqualScatter& tests);
[[nodiscard]] PageTable alternatives_table(const Calibration& calibration);
[[nodiscard]] PageTable linearity_table(const Linearity& tests);
[[nodiscard]] PageTable limits_table(const Calibration& calibration);

}  // namespace truecurve::detail
