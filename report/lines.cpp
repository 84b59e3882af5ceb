// Breaks lines.
#include "lines.hpp"

#include <truecurve/report/renderers.hpp>

#include <algorithm>
#include <limits>
#include <sstream>
#include <string_view>

#include <utf8proc.h>

namespace truecurve {
namespace detail {
namespace {

constexpr std::size_t readable = 100;
constexpr std::size_t narrowest = 40;

}  // namespace

namespace {

// A character at the beginning of a text that is not empty: its bytes, and the columns it is shown in.
struct Shown {
  std::size_t bytes;
  std::size_t columns;
};
Shown first_of(std::string_view text) {
  utf8proc_int32_t character = 0;
  const utf8proc_ssize_t length = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()),
                                                   static_cast<utf8proc_ssize_t>(text.size()), &character);
  if (length < 1) return {1, 1};  // no UTF-8: a terminal shows a mark in its place
  return {static_cast<std::size_t>(length), static_cast<std::size_t>(std::max(0, utf8proc_charwidth(character)))};
}

}  // namespace

std::size_t shown_width(const std::string& text) {
  std::size_t width = 0;
  for (std::string_view rest = text; !rest.empty();) {
    const Shown shown = first_of(rest);
    width += shown.columns;
    rest.remove_prefix(shown.bytes);
  }
  return width;
}

std::string first_columns(const std::string& text, std::size_t columns) {
  std::size_t bytes = 0;
  for (std::size_t width = 0; bytes < text.size();) {
    const Shown shown = first_of(std::string_view(text).substr(bytes));
    width += shown.columns;
    if (width > columns) break;
    bytes += shown.bytes;
  }
  return text.substr(0, bytes);
}

std::size_t table_width(std::size_t columns) {
  return columns == 0 ? std::numeric_limits<std::size_t>::max() : std::max(columns, narrowest);
}

std::size_t readable_width(std::size_t columns) { return std::min(table_width(columns), readable); }

std::string wrapped(const std::string& text, std::size_t width, const std::string& wished, const std::string& first) {
  // On a narrow page a deep indent would leave no room for words.
  const std::string indent = wished.size() > width / 2 ? "      " : wished;
  std::istringstream words(text);
  std::string result;
  std::string line = first;
  std::string word;
  bool empty = true;
  while (words >> word) {
    if (!empty && shown_width(line) + 1 + shown_width(word) > width) {
      result += line + "\n";
      line = indent;
      empty = true;
    }
    if (!empty) line += ' ';
    line += word;
    empty = false;
  }
  return result + line + "\n";
}

}  // namespace detail

std::string on_page(const std::string& text, std::size_t columns, std::size_t indent) {
  const std::string margin(indent, ' ');
  std::istringstream lines(text);
  std::string result;
  std::string paragraph;
  const auto close = [&] {
    if (!paragraph.empty()) result += detail::wrapped(paragraph, detail::readable_width(columns), margin, margin);
    paragraph.clear();
  };
  for (std::string line; std::getline(lines, line);) {
    if (!line.empty() && line[0] != ' ') {
      paragraph += " " + line;
      continue;
    }
    close();
    result += line + "\n";
  }
  close();
  return result;
}

}  // namespace truecurve
