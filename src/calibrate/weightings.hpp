// Weightings of the standards by the scatter of their levels, and how far each is supported.
#pragma once

#include <truecurve/calibrate/calibration.hpp>

#include <span>
#include <vector>

namespace truecurve::detail {

/// What weights by the scatter of the levels come to.
struct EstimatedWeights {
  VarianceFunction function{};  ///< the most probable, s0 and k as they stand
  Estimate estimate;            ///< under it
  Scatter scatter{};
  std::vector<Weighting> weightings{};
};

struct LevelWeights {
  Model model;
  Quantity amount{};
  Quantity signal{};
  std::span<const CalibrationLevel> levels;
  const BlankSummary& blank;
  double blank_signal = not_a_number;  ///< net; NaN where the blanks are among the levels, or too few to have an SD
};

/// Weights 1/(s0² + (k net signal)²), the net signal that above the blanks, or above the unweighted curve at amount 0
/// where there are none. Of the ratio r = k²/s0² the restricted likelihood of all readings about the curve and
/// of the blanks, times Jeffreys' prior of r, gives the probability on a grid; s0 and the curve follow for each r by
/// weighted least squares, with Student's t of n - p + (blanks - 1) degrees of freedom. Slightly negative r are
/// allowed, so that equal scatter is no limit of the range. Source: Patterson and Thompson (1971), Biometrika 58, 545;
/// Jeffreys (1946), Proc. R. Soc. A 186, 453. Throws Error (bad_argument) where the readings can't give it.
[[nodiscard]] EstimatedWeights weights_of_function(const LevelWeights& about);

}  // namespace truecurve::detail
