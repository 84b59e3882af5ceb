#include "sheet_text.hpp"

#include <truecurve/base/error.hpp>

#include "number.hpp"
#include "workbook.hpp"

#include <algorithm>
#include <cctype>
#include <limits>
#include <map>
#include <optional>
#include <span>
#include <string_view>
#include <utility>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// Rows and columns from 1, both ends included.
struct CellRange {
  std::uint32_t first_row = 1;
  std::uint32_t last_row = std::numeric_limits<std::uint32_t>::max();
  std::uint32_t first_column = 1;
  std::uint32_t last_column = std::numeric_limits<std::uint32_t>::max();

  [[nodiscard]] bool has(const SheetCell& cell) const {
    return cell.row >= first_row && cell.row <= last_row && cell.column >= first_column && cell.column <= last_column;
  }
};

// "B7", "B" or "7": 0 for what is not stated; none where it is something else.
std::optional<std::pair<std::uint32_t, std::uint32_t>> corner_of(std::string_view text) {
  std::uint32_t row = 0;
  std::uint32_t column = 0;
  constexpr std::uint32_t most = 10'000'000;
  for (const char sign : text) {
    const char c = static_cast<char>(std::toupper(static_cast<unsigned char>(sign)));
    if (c >= 'A' && c <= 'Z' && row == 0 && column < most) {
      column = column * 26 + static_cast<std::uint32_t>(c - 'A' + 1);
    } else if (c >= '0' && c <= '9' && row < most) {
      row = row * 10 + static_cast<std::uint32_t>(c - '0');
      if (row == 0) return {};
    } else if (c != '$') {
      return {};
    }
  }
  if (row == 0 && column == 0) return {};
  return std::pair(row, column);
}

CellRange range_of(const std::string& text) {
  CellRange range;
  if (text.empty()) return range;
  const auto colon = text.find(':');
  const auto from = corner_of(std::string_view(text).substr(0, colon));
  const auto to = colon == std::string::npos ? from : corner_of(std::string_view(text).substr(colon + 1));
  const bool is_alike =
      from && to && (from->first == 0) == (to->first == 0) && (from->second == 0) == (to->second == 0);
  if (!is_alike || colon == std::string::npos || to->first < from->first || to->second < from->second) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("'{}' is not a range of cells", text),
                 .subject = "cells",
                 .value = text,
                 .remedy = "write the first and the last cell, as in A3:D40, or columns A:D, or rows 3:40"});
  }
  if (from->first > 0) range.first_row = from->first, range.last_row = to->first;
  if (from->second > 0) range.first_column = from->second, range.last_column = to->second;
  return range;
}

std::string lowered(std::string text) {
  for (char& c : text) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return text;
}

std::string list_of(const std::vector<std::string>& sheets) {
  constexpr std::size_t most = 12;
  std::string list;
  for (std::size_t k = 0; k < std::min(sheets.size(), most); ++k)
    list += fmt::format("{}{} '{}'", k > 0 ? ", " : "", k + 1, sheets[k]);
  return sheets.size() > most ? fmt::format("{} and {} more", list, sheets.size() - most) : list;
}

std::size_t sheet_called(const std::string& wanted, const std::vector<std::string>& sheets, const std::string& source) {
  const auto matching = [&](auto test) {
    return static_cast<std::size_t>(std::find_if(sheets.begin(), sheets.end(), test) - sheets.begin());
  };
  if (const auto exact = matching([&](const auto& name) { return name == wanted; }); exact < sheets.size())
    return exact;
  const auto alike = matching([&](const auto& name) { return lowered(name) == lowered(wanted); });
  if (alike < sheets.size()) return alike;
  const auto corner = corner_of(wanted);
  if (corner && corner->second == 0 && corner->first <= sheets.size()) return corner->first - 1;
  throw Error({.code = ErrorCode::unknown_name,
               .message = fmt::format("the file has no sheet '{}'", wanted),
               .subject = "sheet",
               .value = wanted,
               .remedy = fmt::format("its sheets are: {}", list_of(sheets)),
               .place = {.file = source}});
}

bool has_number(const SheetCells& cells) {
  return std::any_of(cells.cells.begin(), cells.cells.end(), [](const SheetCell& cell) {
    return read_cell(cell.text, DecimalMark::point).kind == CellKind::number;
  });
}

// What a damaged file calls a number may hold the separator.
std::string field(const SheetCell& cell) {
  const bool needs_quotes = cell.is_text || cell.text.find_first_of(",\"\n\r") != std::string::npos;
  return needs_quotes ? quoted_cell(cell.text) : cell.text;
}

// One row's cells, from one column on to another; trailing empty ones are left away where `is_open`.
std::string line_of(std::span<const SheetCell> row, std::uint32_t first, std::uint32_t last, bool is_open) {
  if (is_open && row.size() == 1 && row[0].is_text && (row[0].text.starts_with('#') || row[0].text.starts_with('%')))
    return row[0].text.substr(0, row[0].text.find_first_of("\r\n"));
  std::string line;
  std::uint32_t column = first;
  for (const SheetCell& cell : row) {
    line.append(cell.column - column, ',');
    column = cell.column;
    line += field(cell);
  }
  if (!is_open) line.append(last - column, ',');
  return line;
}

// Line n is row n. Above the first row that has as many cells as most rows have, lines are as long as they are filled:
// these are titles, and from there on stands the table.
std::string lines_of(const std::vector<SheetCell>& cells, const std::string& source) {
  std::uint32_t first = cells.front().column;
  std::uint32_t last = first;
  std::vector<std::span<const SheetCell>> rows;
  std::map<std::size_t, std::size_t> with_so_many;
  for (std::size_t from = 0; from < cells.size();) {
    std::size_t to = from;
    while (to < cells.size() && cells[to].row == cells[from].row) ++to;
    rows.emplace_back(cells.data() + from, to - from);
    ++with_so_many[to - from];
    first = std::min(first, rows.back().front().column);
    last = std::max(last, rows.back().back().column);
    from = to;
  }
  constexpr std::size_t largest = 100'000'000;
  if (rows.size() * (last - first + 1) > largest) {
    throw Error({.code = ErrorCode::unsupported_file,
                 .message = fmt::format("the sheet is {} columns wide and {} rows long", last - first + 1, rows.size()),
                 .remedy = "choose the cells of the table",
                 .place = {.file = source}});
  }
  const auto usual = std::max_element(with_so_many.begin(), with_so_many.end(),
                                      [](const auto& a, const auto& b) { return a.second <= b.second; });
  std::string text;
  std::uint32_t line = 1;
  bool is_above = true;
  for (const std::span<const SheetCell> row : rows) {
    is_above = is_above && row.size() < usual->first;
    text.append(row[0].row - line, '\n');
    line = row[0].row;
    text += line_of(row, first, last, is_above);
  }
  return text + "\n";
}

}  // namespace

TableText sheet_text(std::string bytes, const std::string& source, const CsvOptions& options) {
  const CellRange range = range_of(options.cells);
  const auto workbook = open_workbook(std::move(bytes), source);
  const std::vector<std::string>& sheets = workbook->sheets();
  TableText made;
  std::string name;
  SheetCells found;
  if (!options.sheet.empty()) {
    const std::size_t sheet = sheet_called(options.sheet, sheets, source);
    name = sheets[sheet];
    found = workbook->cells(sheet);
  } else {
    for (std::size_t sheet = 0; sheet < sheets.size(); ++sheet) {
      found = workbook->cells(sheet);
      name = sheets[sheet];
      if (has_number(found)) break;
    }
    if (sheets.size() > 1)
      made.said.push_back(fmt::format("the sheet '{}' was read, of {}: {}", name, sheets.size(), list_of(sheets)));
  }
  std::erase_if(found.cells, [&range](const SheetCell& cell) { return !range.has(cell); });
  if (found.cells.empty()) {
    throw Error({.code = ErrorCode::empty_file,
                 .message = options.cells.empty()
                                ? fmt::format("the sheet '{}' is empty", name)
                                : fmt::format("the cells {} of the sheet '{}' are empty", options.cells, name),
                 .remedy = fmt::format("the sheets of the file are: {}", list_of(sheets)),
                 .place = {.file = source}});
  }
  for (const SheetCell& cell : found.cells) {
    if (!cell.is_unreadable) continue;
    throw Error({.code = ErrorCode::unsupported_file,
                 .message = fmt::format("the cell {} of the sheet '{}' holds a formula whose result is not in the file",
                                        cell_name(cell.row, cell.column), name),
                 .subject = cell_name(cell.row, cell.column),
                 .remedy = "open the file in a spreadsheet program, save it there and read it again",
                 .place = {.file = source, .line = cell.row}});
  }
  if (found.hidden_rows > 0) {
    made.said.push_back(fmt::format("{} of the sheet '{}' {} hidden, and read all the same",
                                    found.hidden_rows == 1 ? "a row" : fmt::format("{} rows", found.hidden_rows), name,
                                    found.hidden_rows == 1 ? "is" : "are"));
  }
  made.form = fmt::format("a spreadsheet: the sheet '{}'", name);
  made.text = lines_of(found.cells, source);
  return made;
}

}  // namespace truecurve::detail
