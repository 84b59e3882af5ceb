// Something a careful reader of a result must know, stated in the result itself.
//
// Example:
//     const truecurve::Warning warning{"exact_fit", "two rows determine a line exactly"};
//     EXPECT_EQ(warning.code, "exact_fit");
#pragma once

#include <string>

namespace truecurve {

/// A remark on a result: a stable code for programs, a sentence for people.
struct Warning {
  std::string code{};
  std::string text{};
};

}  // namespace truecurve
