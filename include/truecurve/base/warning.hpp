// Something a careful reader of a result must know, stated in the result itself.
//
// Example:
//     const truecurve::Warning warning{truecurve::WarningCode::at_limit, "k ended at its limit 0"};
//     EXPECT_EQ(truecurve::name(warning.code), "at_limit");
#pragma once

#include <string>
#include <string_view>

namespace truecurve {

/// What a warning is about.
enum class WarningCode {
  exact,                  ///< the curve passes through every row to rounding
  rounding,               ///< the residuals are hardly larger than the rounding of the numbers
  no_degrees_of_freedom,  ///< as many parameters as rows
  not_converged,          ///< the search ended before it had arrived
  few_met,                ///< few of many descents led to the minimum
  ill_conditioned,        ///< the columns of the model are nearly dependent
  open_end,               ///< the rows give a parameter one end only
  at_limit,               ///< a parameter ended at a limit that was set for it
  place_outside_data,     ///< a parameter is a place beyond the rows
  rounded_readings,       ///< the scatter is no more than the step of the readings
  separated,              ///< outcomes that a predictor, or a combination of several, tells apart without fail
  ordered_shares,         ///< a response that looks like shares by rank
  cumulative_counts,      ///< a response that looks like running totals
  exchanged_axes,         ///< a response that was set and a predictor that was read
  transform_bends,        ///< the left side bends within the uncertainty of a response
  weights_not_settled,    ///< weights that follow from the curve had not settled
};
/// Its name as records write it: "not_converged".
[[nodiscard]] std::string_view name(WarningCode code) noexcept;

/// A remark on a result: a stable code for programs, a sentence for people.
struct Warning {
  WarningCode code = WarningCode::exact;
  std::string text{};   ///< sentences
  std::string brief{};  ///< the fact alone, for a table of several fits; empty for most
};

}  // namespace truecurve
