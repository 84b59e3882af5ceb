// Lines of text: how wide they are, and where they are broken.
#pragma once

#include <cstddef>
#include <string>

namespace truecurve::detail {

/// Columns a terminal shows a UTF-8 text in.
[[nodiscard]] std::size_t shown_width(const std::string& text);

/// As many whole characters from the beginning as are shown in so many columns.
[[nodiscard]] std::string first_columns(const std::string& text, std::size_t columns);

/// A sentence broken into lines of at most `width` characters, each indented; `first` replaces the indent of line one.
[[nodiscard]] std::string wrapped(const std::string& text, std::size_t width, const std::string& indent,
                                  const std::string& first);

/// Columns that sentences take on a terminal of so many.
[[nodiscard]] std::size_t readable_width(std::size_t columns);
/// And tables: unlimited where there is no terminal.
[[nodiscard]] std::size_t table_width(std::size_t columns);

}  // namespace truecurve::detail
