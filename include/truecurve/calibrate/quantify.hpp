// Unknowns and controls read back through a calibration.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const truecurve::CalibrationCurve curve{.estimate = line.estimate(), .without_blank = line.estimate(),
//                                             .scatter = {.scale = line.estimate().scale()}};
//     const truecurve::Reading reading{.kind = truecurve::ReadingKind::sample, .signal = 6, .sample = "A", .row = 1};
//     const auto found = truecurve::quantify(curve, {.all = {reading}});
//     EXPECT_EQ(found.unknowns[0].sample, "A");
#pragma once

#include <truecurve/calibrate/amount.hpp>
#include <truecurve/calibrate/limits.hpp>
#include <truecurve/calibrate/readings.hpp>

#include <string>
#include <vector>

namespace truecurve {

struct QuantifyOptions {
  double dilution_uncertainty = 0;  ///< relative standard uncertainty of dilutions other than 1
  LimitOptions limits{};            ///< alpha and beta; the readings are those of each sample
};

/// What is to be known of an amount before it is used.
enum class AmountFlag {
  none,
  not_detected,           ///< not above the critical value
  below_zero,             ///< the whole interval is
  below_detection_limit,  ///< detected, below the detection limit
  below_quantitation_limit,
  above_range,  ///< of the standards
  below_range,
  ambiguous,  ///< the curve has the signal at several amounts
};
/// "", "not detected", "below zero", "detected, below the detection limit", "below the quantitation limit", "above the
/// range", "below the range", "ambiguous".
[[nodiscard]] std::string_view name(AmountFlag flag) noexcept;

/// One sample or control.
struct Quantified {
  std::string sample{};
  ReadingKind kind = ReadingKind::sample;
  std::vector<std::size_t> rows{};
  Unknown unknown{};
  Amount amount{};
  AmountFlag flag = AmountFlag::none;
  DecisionLimits limits{};          ///< for as many readings, multiplied by the dilution
  double dilute_by = not_a_number;  ///< above the range: a further dilution that brings it among the standards
  double sd = not_a_number;         ///< of the readings; NaN for one
  double sd_p = not_a_number;       ///< that they scatter as the standards do; F of their variance, upper tail
  double nominal = not_a_number;    ///< of a control: its known amount
  double recovery = not_a_number;   ///< found over nominal
  double recovery_uncertainty = not_a_number;
};

struct Quantities {
  std::vector<Quantified> unknowns{};  ///< in the order of the table
  /// Of the interval that holds for all results at once, Bonferroni: 1 - (1 - level)/results; those beyond the range
  /// that have none do not count. NaN for one.
  double level_of_each = not_a_number;
  std::vector<std::string> remarks{};
};

/// Readings of kind sample and control are grouped by sample name and dilution (rows without a name stand alone) and
/// averaged. Throws Error: bad_argument (no samples, a control of two different amounts).
[[nodiscard]] Quantities quantify(const CalibrationCurve& curve, const Readings& readings,
                                  const QuantifyOptions& options = {});

}  // namespace truecurve
