// Warnings by name.
#include <truecurve/base/warning.hpp>

#include "names.hpp"

#include <array>

namespace truecurve {

std::string_view name(WarningCode code) noexcept {
  return detail::name_among(
      std::array<std::string_view, 16>{"exact", "rounding", "no_degrees_of_freedom", "not_converged", "few_met",
                                       "ill_conditioned", "open_end", "at_limit", "place_outside_data",
                                       "rounded_readings", "separated", "ordered_shares", "cumulative_counts",
                                       "exchanged_axes", "transform_bends", "weights_not_settled"},
      code);
}

}  // namespace truecurve
