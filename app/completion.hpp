// What can stand next on the command line.
#pragma once

#include <string>
#include <vector>

namespace truecurve::app {

/// The words that can stand in the place of the last of `words` (which may be empty or begun) after those before it,
/// the program's name not among them: commands, options, their values, shapes, the columns of the file. Nothing where
/// only the name of a file can stand, which a shell knows best.
[[nodiscard]] std::vector<std::string> completions(const std::vector<std::string>& words);

}  // namespace truecurve::app
