// The fits behind a calibration.
#pragma once

#include <truecurve/calibrate/calibration.hpp>

#include "../base/matrices.hpp"
#include "mixture.hpp"

#include <vector>

namespace truecurve::detail {

/// A calibration without its assessment: what simulations and alternatives need.
struct CoreCalibration {
  Model model;  // as it is meant: a straight line, also where counts are fitted by a search
  std::vector<Reading> used;
  std::vector<CalibrationLevel> levels;
  BlankSummary blank;
  Fit fit;
  Estimate reported;
  CalibrationCurve curve;
  double chi_squared = 0;
  double degrees_of_freedom = 0;
  /// The blank's part of the standard uncertainty of each reported parameter; zeros where it has none.
  VectorXd blank_part{};
  bool has_uncertain_standards = false;
};

/// Throws Error as calibrate().
[[nodiscard]] CoreCalibration core_calibration(const Readings& readings, const CalibrationOptions& options);

/// Of two readings of a level each lies as far from their mean: the one farther from the straight line through the
/// other levels is named.
void name_the_farther_of_two(const CoreCalibration& core, std::vector<Suspicion>& suspicious);

/// What is known of parameter j.
[[nodiscard]] Mixture parameter_mixture(const CoreCalibration& core, Eigen::Index parameter);
/// As Calibration::parameters.
[[nodiscard]] std::vector<ParameterInterval> calibration_parameters(const CoreCalibration& core);

}  // namespace truecurve::detail
