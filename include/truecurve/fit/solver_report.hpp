// What the solver did, and why it stopped.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3}, {3.3, 5.6, 7.1});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     EXPECT_EQ(line.solver().stop, truecurve::StopReason::solved);
//     EXPECT_EQ(truecurve::name(truecurve::StopReason::relative_offset), "relative offset");
#pragma once

#include <truecurve/base/numeric.hpp>

#include <string_view>
#include <vector>

namespace truecurve {

/// Another minimum that the search met.
struct OtherMinimum {
  double chi_squared = not_a_number;
  Vector parameters{};
};

/// How a problem was solved.
enum class SolverMethod {
  blocked_qr,           ///< of a linear model, block by block
  refined_qr,           ///< the same, refined with residuals in double-double arithmetic
  double_double_qr,     ///< in double-double arithmetic throughout
  variable_projection,  ///< of a curve, the parameters that enter linearly projected out
  levenberg_marquardt,  ///< of a curve without such parameters
  scoring,              ///< of a response that was counted
};
/// "blocked QR", "blocked QR, refined", "double-double QR", "variable projection", "Levenberg-Marquardt", "scoring".
[[nodiscard]] std::string_view name(SolverMethod method) noexcept;

/// Why a search ended.
enum class StopReason {
  solved,           ///< a linear problem, in one step
  relative_offset,  ///< converged: the relative offset no longer improves
  at_a_limit,       ///< converged, with a parameter at a limit
  step_vanished,    ///< no step lowers the objective
  exact_fit,        ///< the residuals are rounding
  rounding,         ///< as close to the minimum as the rounding of the numbers allows
  evaluations,      ///< all evaluations were used up, those of a descent or those that were allowed
  time_limit,       ///< the time that was allowed has passed
  stopped,          ///< it was requested
  not_finite,       ///< the curve is not finite where the search stood
};
/// The same words with blanks: "relative offset".
[[nodiscard]] std::string_view name(StopReason stop) noexcept;

/// What the solver did.
struct SolverReport {
  SolverMethod method = SolverMethod::blocked_qr;
  bool converged = true;  ///< a linear problem is solved in one step
  StopReason stop = StopReason::solved;
  int iterations = 1;
  int evaluations = 1;
  double relative_offset = 0;       ///< Bates and Watts (1981)
  double condition = not_a_number;  ///< 1-norm condition estimate of the scaled design (linear: centred)
  int descents = 1;                 ///< from how many starts
  int met_best = 1;                 ///< how many of them ended in the best minimum
  /// Whether the best minimum is (also) that of a sum built up term by term, which no exchange of a term lowered.
  bool built_up = false;
  std::vector<OtherMinimum> other_minima{};  ///< best first, at most five
};

}  // namespace truecurve
