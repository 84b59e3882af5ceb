// Methods and stops by name.
#include <truecurve/fit/solver_report.hpp>

#include "../base/names.hpp"

#include <array>

namespace truecurve {

std::string_view name(SolverMethod method) noexcept {
  return detail::name_among(std::array<std::string_view, 6>{"blocked QR", "blocked QR, refined", "double-double QR",
                                                            "variable projection", "Levenberg-Marquardt", "scoring"},
                            method);
}

std::string_view name(StopReason stop) noexcept {
  return detail::name_among(
      std::array<std::string_view, 10>{"solved", "relative offset", "at a limit", "step vanished", "exact fit",
                                       "rounding", "evaluations", "time limit", "stopped", "not finite"},
      stop);
}

}  // namespace truecurve
