// Sets plain tables and breaks lines.
#include "grid.hpp"

#include <algorithm>
#include <sstream>

namespace truecurve::detail {
namespace {

// Characters up to the decimal point, or the whole number where it has none.
std::size_t before_point(const std::string& cell) {
  const std::size_t at = cell.find_first_of(".(e");
  return shown_width(cell.substr(0, at));
}

std::string padded(const std::string& cell, std::size_t width, Align align, std::size_t point) {
  std::string text = cell;
  if (align == Align::point) text = std::string(point - std::min(point, before_point(cell)), ' ') + text;
  const std::size_t shown = shown_width(text);
  const std::string fill(width - std::min(width, shown), ' ');
  return align == Align::right ? fill + text : text + fill;
}

}  // namespace

std::size_t shown_width(const std::string& text) {
  return static_cast<std::size_t>(
      std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0) != 0x80; }));
}

std::string Grid::text() const {
  const std::size_t columns = headings_.size();
  std::vector<std::size_t> width(columns);
  std::vector<std::size_t> point(columns);
  for (std::size_t k = 0; k < columns; ++k) {
    for (const auto& row : rows_) point[k] = std::max(point[k], before_point(row[k]));
    width[k] = shown_width(headings_[k].text);
    for (const auto& row : rows_) {
      const std::size_t shift = headings_[k].align == Align::point ? point[k] - before_point(row[k]) : 0;
      width[k] = std::max(width[k], shift + shown_width(row[k]));
    }
  }
  std::string result;
  const auto line = [&](const std::vector<std::string>& cells, bool heading) {
    std::string made = "  ";
    for (std::size_t k = 0; k < columns; ++k) {
      if (k > 0) made += std::string(gap_, ' ');
      const Align align = headings_[k].align;
      made += padded(cells[k], width[k], heading && align == Align::point ? Align::left : align, point[k]);
    }
    made.erase(made.find_last_not_of(' ') + 1);
    result += made + "\n";
  };
  std::vector<std::string> names;
  for (const Heading& heading : headings_) names.push_back(heading.text);
  if (std::any_of(names.begin(), names.end(), [](const std::string& name) { return !name.empty(); })) line(names, true);
  for (const auto& row : rows_) line(row, false);
  return result;
}

std::string wrapped(const std::string& text, std::size_t width, const std::string& indent, const std::string& first) {
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

std::string csv_field(const std::string& text) {
  if (text.find_first_of(",\"\n\r") == std::string::npos) return text;
  std::string quoted = "\"";
  for (const char c : text) {
    if (c == '"') quoted += '"';
    quoted += c;
  }
  return quoted + "\"";
}

}  // namespace truecurve::detail
