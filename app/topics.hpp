// What is explained apart from the commands.
#pragma once

#include <string>
#include <vector>

namespace truecurve::app {

struct Topic {
  std::string name{};
  std::string title{};  ///< one line
  /// Paragraphs, with a blank line between them; an indented line is an example and stays as it is.
  std::string text{};
};

/// In the order in which they are met in the work. A new topic is one entry.
[[nodiscard]] const std::vector<Topic>& topics();

}  // namespace truecurve::app
