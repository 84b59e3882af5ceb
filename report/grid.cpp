// Sets plain tables and breaks lines.
#include "grid.hpp"

#include <truecurve/report/page_width.hpp>

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

// The columns of a table that is too wide for the page, in pieces that fit; the first column says in each what its rows
// are.
std::vector<std::vector<std::size_t>> pieces(const std::vector<std::size_t>& width,
                                             const std::vector<bool>& says_something, std::size_t gap) {
  std::vector<std::vector<std::size_t>> result = {{}};
  std::size_t used = 2;
  for (std::size_t k = 0; k < width.size(); ++k) {
    if (!says_something[k]) continue;
    if (used + width[k] > PageWidth::limit() && result.back().size() > 1) {
      result.push_back({0});
      used = 2 + width[0] + gap;
    }
    result.back().push_back(k);
    used += width[k] + gap;
  }
  return result;
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
  std::vector<bool> says_something(columns, true);
  for (std::size_t k = 0; k < columns; ++k) {
    says_something[k] =
        k == 0 || std::any_of(rows_.begin(), rows_.end(), [k](const auto& row) { return !row[k].empty(); });
    for (const auto& row : rows_) point[k] = std::max(point[k], before_point(row[k]));
    width[k] = shown_width(headings_[k].text);
    for (const auto& row : rows_) {
      const std::size_t shift = headings_[k].align == Align::point ? point[k] - before_point(row[k]) : 0;
      width[k] = std::max(width[k], shift + shown_width(row[k]));
    }
  }
  std::vector<std::string> names;
  for (const Heading& heading : headings_) names.push_back(heading.text);
  const bool has_names = std::any_of(names.begin(), names.end(), [](const auto& name) { return !name.empty(); });
  std::string result;
  const auto line = [&](const std::vector<std::string>& cells, const std::vector<std::size_t>& piece) {
    std::string made = "  ";
    for (const std::size_t k : piece) {
      if (k != piece.front()) made += std::string(gap_, ' ');
      const Align align = headings_[k].align;
      made += padded(cells[k], width[k], &cells == &names && align == Align::point ? Align::left : align, point[k]);
    }
    made.erase(made.find_last_not_of(' ') + 1);
    result += made + "\n";
  };
  const auto in_pieces = pieces(width, says_something, gap_);
  if (in_pieces.size() == 1) {
    if (has_names) line(names, in_pieces[0]);
    for (const auto& row : rows_) line(row, in_pieces[0]);
  } else if (!has_names) {
    // Remarks that find no room beside their row stand beneath it.
    for (const auto& row : rows_) {
      line(row, in_pieces[0]);
      for (std::size_t k = in_pieces[0].back() + 1; k < columns; ++k) {
        if (!row[k].empty()) result += wrapped(row[k], PageWidth::columns(), "      ", "      ");
      }
    }
  } else {
    for (const auto& piece : in_pieces) {
      if (!result.empty()) result += "\n";
      line(names, piece);
      for (const auto& row : rows_) line(row, piece);
    }
  }
  return result;
}

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
