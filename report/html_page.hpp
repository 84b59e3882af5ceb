// The parts of a page as HTML, for those that set more than one.
#pragma once

#include <truecurve/report/page.hpp>

#include <string>

namespace truecurve::detail {

[[nodiscard]] std::string html_escaped(const std::string& text);
/// The blocks of a section without its heading.
[[nodiscard]] std::string html_of_blocks(const PageSection& section);
[[nodiscard]] std::string html_of_list(const std::vector<std::string>& items);

}  // namespace truecurve::detail
