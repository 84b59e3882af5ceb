// How the command says the means that the library advises.
#pragma once

#include <truecurve/base/advice.hpp>

#include <string>

namespace truecurve::app {

/// The option for what is advised, such as "--leave-out 3"; the words quoted where a shell would part them.
[[nodiscard]] std::string option_words(const Means& means);

/// A word as a shell takes it.
[[nodiscard]] std::string quoted(const std::string& word);

}  // namespace truecurve::app
