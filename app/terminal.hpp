// What the terminal can show.
#pragma once

#include "run.hpp"

#include <string>

namespace truecurve::app {

/// Looks at standard output and standard error of the process: whether they are terminals, how wide, and whether
/// NO_COLOR or TERM=dumb forbid colour.
[[nodiscard]] Terminal terminal_of_process();

/// A text report with its headings set in bold and what to be careful about in colour; the words stay as they are, so
/// that colour is never the only sign.
[[nodiscard]] std::string painted(const std::string& text, Paint paint);

/// A text report whose headings are broken at so many columns, too (0: not at all); what stands beneath them was set in
/// the width of the page.
[[nodiscard]] std::string with_headings_broken(const std::string& text, std::size_t columns);

/// The first word of a complaint in colour.
[[nodiscard]] std::string complaint(const std::string& text, Paint paint);

}  // namespace truecurve::app
