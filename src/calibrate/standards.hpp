// The readings that a calibration is fitted to, what they must be, and what they scatter by.
#pragma once

#include <truecurve/calibrate/calibration.hpp>

#include "../base/matrices.hpp"

#include <vector>

namespace truecurve::detail {

/// Throws Error.
[[noreturn]] void fail_calibration(ErrorCode code, const std::string& message, const std::string& subject,
                                   const Advice& remedy);

/// Those of kind standard within the range, blanks among them where they are included, less the blank where that is
/// subtracted.
[[nodiscard]] std::vector<Reading> standards_of(const Readings& readings, const CalibrationOptions& options,
                                                const BlankSummary& blank);
[[nodiscard]] BlankSummary summary_of_blanks(const std::vector<Reading>& blanks);

/// Enough blanks for what is to be done with them. Throws Error (bad_argument).
void require_blanks(const CalibrationOptions& options, const BlankSummary& blank);
/// Throws Error (too_few_observations).
void require_levels(const std::vector<CalibrationLevel>& levels, const CalibrationOptions& options);
/// Counts scatter as counts do, and stay counts. Throws Error (not_supported, bad_argument).
void require_counts_as_such(const Readings& readings, const CalibrationOptions& options);
/// A scatter that grows from nothing leaves a standard of amount 0 none. Throws Error (bad_argument).
void require_scatter_at_zero(const std::vector<CalibrationLevel>& levels, const CalibrationOptions& options,
                             const BlankSummary& blank);

/// What the used readings scatter by, as stated or relatively; empty where all weigh the same or by the curve.
[[nodiscard]] VectorXd row_scatter_of(const std::vector<Reading>& used, const std::vector<CalibrationLevel>& levels,
                                      SignalScatter::Kind kind, const Scatter& scatter);
/// The used readings as rows of a fit.
[[nodiscard]] Observations observations_of(const Readings& readings, const std::vector<Reading>& used,
                                           const VectorXd& row_scatter, bool stated);
/// Of scatters that are not estimated from the levels.
[[nodiscard]] Scatter scatter_of(const Fit& fit, const SignalScatter& scatter,
                                 const std::vector<CalibrationLevel>& levels, double blank);

}  // namespace truecurve::detail
