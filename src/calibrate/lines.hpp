// The fits behind a calibration.
#pragma once

#include <truecurve/calibrate/calibration.hpp>

#include <vector>

namespace truecurve::detail {

/// A calibration without its assessment: what simulations and alternatives need.
struct CoreCalibration {
  std::vector<Reading> used;
  std::vector<Level> levels;
  BlankSummary blank;
  Fit fit;
  Estimate reported;
  CalibrationCurve curve;
  double chi_squared = 0;
  double degrees_of_freedom = 0;
  bool has_uncertain_standards = false;
};

/// Throws Error as calibrate().
[[nodiscard]] CoreCalibration core_calibration(const Readings& readings, const CalibrationOptions& options);

[[nodiscard]] BlankSummary summary_of_blanks(const std::vector<Reading>& blanks);

}  // namespace truecurve::detail
