// The routes to detection and quantitation limits.
#pragma once

#include "lines.hpp"

#include <vector>

namespace truecurve::detail {

/// Throws Error (bad_argument), naming alpha or beta, where one is no probability or so small that its complement can't
/// be told from 1.
void require_risks(double alpha, double beta);

/// Of a calibration; the limits' own uncertainties are left open.
[[nodiscard]] std::vector<LimitRoute> limit_routes(const CoreCalibration& core, const Readings& readings,
                                                   const LimitOptions& options);

/// Fills in the limits' own uncertainties by simulating the calibration anew.
void simulate_limits(const CoreCalibration& core, const Readings& readings, const CalibrationOptions& options,
                     std::vector<LimitRoute>& routes);

/// Of one count of a standard: the middle one.
[[nodiscard]] double usual_exposure(const std::vector<Reading>& used);

/// The same of counts. Requires an exposure in the options.
[[nodiscard]] std::vector<LimitRoute> counted_limit_routes(const CoreCalibration& core, const Readings& readings,
                                                           const LimitOptions& options);
[[nodiscard]] DecisionLimits counted_decision_limits(const CalibrationCurve& curve, const LimitOptions& options);

}  // namespace truecurve::detail
