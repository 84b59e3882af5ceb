// Warnings by name.
#include <truecurve/base/warning.hpp>

#include <array>

namespace truecurve {

std::string_view name(WarningCode code) {
  constexpr std::array<std::string_view, 15> names = {"exact",
                                                      "rounding",
                                                      "no_degrees_of_freedom",
                                                      "not_converged",
                                                      "few_met",
                                                      "ill_conditioned",
                                                      "open_end",
                                                      "at_limit",
                                                      "place_outside_data",
                                                      "rounded_readings",
                                                      "separated",
                                                      "ordered_shares",
                                                      "cumulative_counts",
                                                      "transform_bends",
                                                      "weights_not_settled"};
  return names[static_cast<std::size_t>(code)];
}

}  // namespace truecurve
