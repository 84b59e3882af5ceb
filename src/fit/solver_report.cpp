// Methods and stops by name.
#include <truecurve/fit/solver_report.hpp>

#include <array>

namespace truecurve {

std::string_view name(SolverMethod method) {
  constexpr std::array<std::string_view, 6> names = {"blocked QR",          "blocked QR, refined", "double-double QR",
                                                     "variable projection", "Levenberg-Marquardt", "scoring"};
  return names[static_cast<std::size_t>(method)];
}

std::string_view name(StopReason stop) {
  constexpr std::array<std::string_view, 8> names = {"solved",    "relative offset", "at a limit",  "step vanished",
                                                     "exact fit", "rounding",        "evaluations", "not finite"};
  return names[static_cast<std::size_t>(stop)];
}

}  // namespace truecurve
