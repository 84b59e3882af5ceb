// The curve and the scatter of a reading at one amount, for each weighting.
#pragma once

#include <truecurve/calibrate/amount.hpp>

#include "mixture.hpp"
#include "uncertain_count.hpp"

#include <vector>

namespace truecurve::detail {

struct SignalPart {
  double weight = 1;
  double value = not_a_number;           ///< of the curve
  double curve = not_a_number;           ///< its standard uncertainty, the blank's part included
  double blank = 0;                      ///< the blank's part of it
  double reading = not_a_number;         ///< standard deviation of one reading
  double degrees_of_freedom = infinity;  ///< of curve and reading, the blank left out

  /// Standard uncertainty of the curve without the blank's part.
  [[nodiscard]] double alone() const;
};

/// One a weighting, or the one there is. Throws Error (not_finite).
[[nodiscard]] std::vector<SignalPart> signal_parts(const CalibrationCurve& curve, double amount);

/// Of the curve alone (readings infinite), or of the mean of so many readings.
[[nodiscard]] Mixture mixture_of(const CalibrationCurve& curve, const std::vector<SignalPart>& parts, double readings);

/// Of a curve of counts: those to come from an amount in an exposure. Throws Error (not_finite).
[[nodiscard]] UncertainCount count_at(const CalibrationCurve& curve, double amount, double exposure);

/// The amounts with which a signal is compatible, the mean of so many readings (infinite: known), from an amount where
/// it is, by steps. A limit that lies nowhere is infinite.
[[nodiscard]] Interval compatible_amounts(const CalibrationCurve& curve, double signal, double readings, double amount,
                                          double step);

}  // namespace truecurve::detail
