// Breaks lines.
#include "lines.hpp"

#include <truecurve/report/renderers.hpp>

#include <algorithm>
#include <limits>
#include <sstream>

#include <utf8proc.h>

namespace truecurve {
namespace detail {
namespace {

constexpr std::size_t readable = 100;
constexpr std::size_t narrowest = 40;

}  // namespace

std::size_t shown_width(const std::string& text) {
  std::size_t width = 0;
  const auto* at = reinterpret_cast<const utf8proc_uint8_t*>(text.data());
  for (auto left = static_cast<utf8proc_ssize_t>(text.size()); left > 0;) {
    utf8proc_int32_t character = 0;
    const utf8proc_ssize_t length = utf8proc_iterate(at, left, &character);
    if (length < 1) {  // no UTF-8: a terminal shows a mark in its place
      ++width;
      ++at;
      --left;
      continue;
    }
    width += static_cast<std::size_t>(std::max(0, utf8proc_charwidth(character)));
    at += length;
    left -= length;
  }
  return width;
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
