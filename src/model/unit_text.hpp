// A unit written with the units of the columns.
#pragma once

#include <truecurve/data/observations.hpp>

#include "exponents.hpp"

#include <string>
#include <vector>

namespace truecurve::detail {

/// A unit that the columns determine, or why they don't.
struct FoundUnit {
  bool is_determined = false;
  std::string unit{};      ///< empty for a pure number
  std::string exponent{};  ///< where the unit can't be written, as it hangs on the value of this parameter
};

/// "(g/cm3)/%", "1/min", "um/a^b": by the units of the columns as they are written where these share none, else by
/// their parts. `exponents` names the parameters that stand as exponents, "" for what is no name.
[[nodiscard]] FoundUnit unit_text(const Exponents& unit, const std::vector<Quantity>& columns,
                                  const std::vector<std::string>& exponents);

}  // namespace truecurve::detail
