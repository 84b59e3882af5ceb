// Events that a predictor tells apart without an error: then the likelihood has no maximum.
// None of these throws an Error of its own.
//
// Example:
//     const auto rows = truecurve::Observations::counted({1, 2, 3, 4}, {0, 0, 1, 1},
//                                                        {1, 1, 1, 1}, truecurve::ResponseKind::events);
//     const auto separated = truecurve::separation_along(rows);
//     ASSERT_TRUE(separated.has_value());
//     EXPECT_EQ(separated->above, 3);
#pragma once

#include <truecurve/data/observations.hpp>

#include <optional>
#include <string>

namespace truecurve {

/// Along one predictor: up to `below` one outcome only, from `above` on the other only. Albert and Anderson (1984)
/// Biometrika 71, 1.
struct OutcomeSeparation {
  bool complete = true;      ///< whether below < above; else both outcomes meet at that one value
  bool events_above = true;  ///< whether the events are those from `above` on
  double below = not_a_number;
  double above = not_a_number;
  std::string predictor{};
};

/// Of events along the only predictor; empty where there are several, where the outcomes overlap, where there is one
/// outcome only, or for a response of another kind.
[[nodiscard]] std::optional<OutcomeSeparation> separation_along(const Observations& observations);

/// "up to 1.2 no, from 1.3 on yes" in a sentence, with what it means for a curve of one step.
[[nodiscard]] std::string separation_text(const OutcomeSeparation& separation, const std::string& response);

}  // namespace truecurve
