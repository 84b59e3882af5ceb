// Standard additions: the amount in a sample from the line through the sample itself with known amounts added.
//
// Example:
//     std::vector<truecurve::Reading> readings;
//     for (const auto& [added, signal] : {std::pair{0.0, 2.1}, {1.0, 4.0}, {2.0, 6.1}, {3.0, 7.9}})
//       readings.push_back({.amount = added, .signal = signal, .row = readings.size() + 1});
//     const auto found =
//         truecurve::standard_additions({.all = readings, .amount = {"added", "mg"}, .signal = {"A", ""}});
//     EXPECT_NEAR(found[0].amount, 1.08, 0.01);
#pragma once

#include <truecurve/calibrate/calibration.hpp>

namespace truecurve {

/// The amount in one sample, and the line it follows from.
struct StandardAdditions {
  std::string sample{};          ///< its name; empty where none is given
  double dilution = 1;           ///< by which amount, uncertainty and interval are multiplied
  double amount = not_a_number;  ///< minus the amount at which the line meets the (blank-corrected) signal 0
  double standard_uncertainty = not_a_number;
  /// Fieller (1954), with the effective degrees of freedom of line and blank; an amount of 0 or less is an answer, too.
  Interval interval{};
  Calibration calibration;
};

/// One result a sample, in the order of the table. The rows of kind standard are readings of a sample (by name) with
/// `amount` added, 0 included. The signal without any analyte is taken as 0, or as the mean blank where that is
/// subtracted (its uncertainty carried). Throws Error as calibrate(), and bad_argument where blanks are to be included
/// (they are other samples), where a sample has several dilutions, and where the line does not meet zero. Source:
/// Miller and Miller (2010) Statistics and Chemometrics for Analytical Chemistry, 5.8.
[[nodiscard]] std::vector<StandardAdditions> standard_additions(const Readings& readings,
                                                                const CalibrationOptions& options = {});

}  // namespace truecurve
