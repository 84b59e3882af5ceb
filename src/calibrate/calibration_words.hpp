// What a calibration says of itself.
#pragma once

#include <truecurve/calibrate/calibration.hpp>

#include <string>
#include <vector>

namespace truecurve::detail {

/// The highest level up to which the scatter is the same; NaN where no restriction helps.
[[nodiscard]] double equal_up_to(const std::vector<CalibrationLevel>& levels);
/// Whether the readings may weigh the same, and what else is suggested.
[[nodiscard]] Advice suggestion_of(const Calibration& calibration);
/// Which limit is the cautious one.
[[nodiscard]] std::string cautious_choice(const std::vector<LimitRoute>& routes);
/// What speaks against the calibration; `slope` of a straight line, else NaN.
void add_remarks(Calibration& calibration, double slope);

}  // namespace truecurve::detail
