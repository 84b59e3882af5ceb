// Manual pages, made from what the commands and topics say of themselves.
#pragma once

#include "arguments.hpp"

#include <string>
#include <vector>

namespace truecurve::app {

/// A file of the manual: truecurve.1, truecurve-fit.1, truecurve-uncertainty.7.
struct ManualPage {
  std::string file{};
  std::string text{};  ///< for man(7)
};

/// Every page: the overview, one a command, one a topic.
[[nodiscard]] std::vector<ManualPage> manual_pages();

/// What a command says of itself on a terminal of so many columns (0: no terminal).
[[nodiscard]] std::string help_text(const CommandDescription& command, std::size_t columns);
/// What the program says of itself: its commands and its own options.
[[nodiscard]] std::string overview_text(const CommandDescription& program, std::size_t columns);

}  // namespace truecurve::app
