// From signals back to amounts: inverse prediction with its uncertainty and its budget.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const truecurve::CalibrationCurve curve{.estimate = line.estimate(), .without_blank = line.estimate(),
//                                             .scatter = {.scale = line.estimate().scale()}};
//     const auto found = truecurve::amount_of(curve, {.signals = {6.0}});
//     EXPECT_NEAR(line.parameter("a").value + line.parameter("b").value * found.amount, 6.0, 1e-9);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/calibrate/levels.hpp>
#include <truecurve/data/scatter.hpp>
#include <truecurve/fit/estimate.hpp>

#include <string>
#include <vector>

namespace truecurve {

/// One of the weightings of the standards that their scatter allows, where the weights are estimated from it.
struct Weighting {
  double weight = 1;  ///< how well it agrees with the readings; all sum to 1
  Estimate estimate;  ///< of the curve under these weights
  Scatter scatter{};  ///< of a single reading at a (net) signal
};

/// What unknowns are read with.
struct CalibrationCurve {
  Estimate estimate;       ///< of the (net) signal in the amount, the common offset of a subtracted blank included
  Estimate without_blank;  ///< the same without the uncertainty of the blank
  Scatter scatter{};       ///< of a single reading at a (net) signal
  /// The signals are rates: counts over their exposures, which take the place of the number of readings.
  bool are_counts = false;
  double blank = 0;                            ///< mean blank that is taken off every signal, 0 where none is
  Level level = 0.95;                          ///< of the interval
  double blank_degrees_of_freedom = infinity;  ///< of the part of the uncertainty that the blank has
  /// Where the scatter is a power of the signal, which says little about amount 0: the SD of the blanks with its
  /// degrees of freedom, for limits. NaN for any other scatter, and without blanks.
  double scatter_at_zero = not_a_number;
  double scatter_at_zero_degrees_of_freedom = not_a_number;
  /// Where weights come from the scatter of the levels: intervals average over them. Empty for weights that are known.
  std::vector<Weighting> weightings{};
};

/// The mean signal of readings of an amount: Student's t, averaged over the weightings.
struct SignalBand {
  double value = not_a_number;                 ///< of the curve
  double standard_uncertainty = not_a_number;  ///< of the curve
  Interval confidence{};                       ///< of the curve
  Interval prediction{};                       ///< of the mean of the readings; NaN where their scatter is not known
};

/// At an amount, for the mean of `readings` readings, or the rate of counts over an exposure of so many units, at the
/// level of the curve. Of counts the interval of the curve is that of a gamma distribution, and the interval of a
/// reading is exact for counts whose expectation has it: it holds at least at its level. Throws Error (not_finite).
[[nodiscard]] SignalBand signal_at(const CalibrationCurve& curve, double amount, double readings = 1);

/// Readings of one unknown.
struct Unknown {
  std::vector<double> signals{};    ///< m readings, gross; of counts their rates
  std::vector<double> exposures{};  ///< of counts, one a reading
  double dilution = 1;              ///< by which the amount read is multiplied
  double dilution_uncertainty = 0;  ///< relative standard uncertainty of the dilution
};

/// The parts of a standard uncertainty, each in the unit of the amount; their squares add up.
struct UncertaintyBudget {
  double readings = not_a_number;
  double curve = not_a_number;
  double blank = not_a_number;
  double dilution = not_a_number;
};

/// An amount that was read back. NaN where the curve does not reach the signal.
struct Amount {
  double net_signal = not_a_number;  ///< mean of the readings, net of the blank
  double amount = not_a_number;      ///< after dilution
  double standard_uncertainty = not_a_number;
  /// The amounts with which the mean signal is compatible, |f(x) - y| <= k sqrt(s²(f(x))/m + u²(f(x))), s the scatter
  /// of readings of that amount and k from Student's t with the effective degrees of freedom of both: Fieller's (1954)
  /// interval for a straight line with equal scatter; where weights are estimated, the tails beyond are those of the
  /// average over the weightings. Scaled by the dilution, whose own uncertainty is added in squares to each half width.
  /// A limit that lies nowhere is infinite.
  Interval interval{};
  UncertaintyBudget budget{};
  bool outside_standards = false;  ///< beyond the lowest or highest standard
  std::vector<double>
      other_amounts{};  ///< further amounts within the standards with the same signal: the reading is ambiguous
};

/// Reads an unknown. Looks within the standards, and half their range on either side where nothing is found there. The
/// scatter of the mean of m readings is that of the calibration at this signal over sqrt(m). Counts are added up, and
/// their exposures; the interval holds the amounts at which neither so few nor so many counts have a probability below
/// (1 - level)/2 (Garwood 1936, with the curve's uncertainty as a gamma distribution), so that it holds at least at its
/// level; the standard uncertainty of no counts at all is that of one. Throws Error (bad_argument: no signals, or one
/// that is not finite, or counts without their exposures, each greater than 0). Source: ISO/TS 28037:2010, 11; Fieller
/// (1954); JCGM 100:2008, 5.1.
[[nodiscard]] Amount amount_of(const CalibrationCurve& curve, const Unknown& unknown);

}  // namespace truecurve
