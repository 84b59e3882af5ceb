// Unknowns and controls read back through a calibration.
//
// Example:
//     const auto points = truecurve::Observations::of(Eigen::Vector4d(1, 2, 3, 4),
//     Eigen::Vector4d(3.1, 4.9, 7.2, 8.8)); const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const truecurve::CalibrationCurve curve{.estimate = line.estimate(), .without_blank = line.estimate(),
//                                             .scatter = {.scale = line.estimate().parts().scale}};
//     const truecurve::Reading reading{.kind = truecurve::ReadingKind::sample, .signal = 6, .sample = "A", .row = 1};
//     const auto found = truecurve::quantify(curve, {.all = {reading}}, {.detection_limit = 0.5});
//     EXPECT_EQ(found.unknowns[0].sample, "A");
#pragma once

#include <truecurve/calibrate/amount.hpp>
#include <truecurve/calibrate/readings.hpp>

#include <string>
#include <vector>

namespace truecurve {

struct QuantifyOptions {
  double detection_limit = not_a_number;  ///< in the amount as it is read, before dilution; NaN where none is known
  double dilution_uncertainty = 0;        ///< relative standard uncertainty of dilutions other than 1
};

/// One sample or control.
struct Quantified {
  std::string sample{};
  ReadingKind kind = ReadingKind::sample;
  std::vector<std::size_t> rows{};
  Unknown unknown{};
  Amount amount{};
  /// "", "below detection limit", "above the range", "below the range", "ambiguous" or "not reached".
  std::string_view flag{};
  double nominal = not_a_number;   ///< of a control: its known amount
  double recovery = not_a_number;  ///< found over nominal
  double recovery_uncertainty = not_a_number;
};

struct Quantities {
  std::vector<Quantified> unknowns{};  ///< in the order of the table
  std::vector<std::string> remarks{};
};

/// Readings of kind sample and control are grouped by sample name and dilution (rows without a name stand alone) and
/// averaged. Throws Error: bad_argument (no samples, a control of two different amounts).
[[nodiscard]] Quantities quantify(const CalibrationCurve& curve, const Readings& readings,
                                  const QuantifyOptions& options = {});

}  // namespace truecurve
