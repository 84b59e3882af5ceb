// Manual pages, made from what the commands and topics say of themselves.
#pragma once

#include <string>
#include <vector>

#include <CLI/CLI.hpp>

namespace truecurve::app {

/// A file of the manual: truecurve.1, truecurve-fit.1, truecurve-uncertainty.7.
struct ManualPage {
  std::string file{};
  std::string text{};  ///< for man(7)
};

/// Every page: the overview, one a command, one a topic.
[[nodiscard]] std::vector<ManualPage> manual_pages();

/// What a command says of itself on the terminal, set in the width in force; of the program as a whole where it has
/// commands.
[[nodiscard]] std::string help_text(const CLI::App& command);

/// What an option takes, without what the parser adds to it: "stated|scatter".
[[nodiscard]] std::string value_of(const CLI::Option& option);

}  // namespace truecurve::app
