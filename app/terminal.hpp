// What the terminal can show.
#pragma once

#include <truecurve/report/renderers.hpp>

#include "run.hpp"

#include <string>

namespace truecurve::app {

/// Looks at standard output and standard error of the process: whether they are terminals, how wide, and whether
/// NO_COLOR or TERM=dumb forbid colour.
[[nodiscard]] Terminal terminal_of_process();

/// Its width, headings in bold and what to be careful about in colour; the words stay as they are, so that colour is
/// never the only sign.
[[nodiscard]] TextStyle text_style(const Terminal& terminal);

/// The first word of a complaint in colour.
[[nodiscard]] std::string complaint(const std::string& text, Paint paint);

}  // namespace truecurve::app
