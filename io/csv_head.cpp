// Looks at the head of a file.
#include "csv_head.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/data/units.hpp>

#include <algorithm>
#include <cctype>
#include <optional>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// So many lines are enough to recognise a format and few enough to keep it cheap.
constexpr std::size_t most_lines = 100;

struct HeadLine {
  std::size_t number;
  std::string text;
  std::vector<std::string> cells{};
};

std::vector<HeadLine> lines_of(std::string_view head, bool whole_file, std::size_t skipped, std::size_t first_number) {
  std::vector<HeadLine> lines;
  std::size_t number = first_number - 1;
  for (std::size_t start = 0; start < head.size() && lines.size() < most_lines;) {
    const std::size_t end = head.find_first_of("\r\n", start);
    if (end == std::string_view::npos && !whole_file) break;
    const std::string_view line = head.substr(start, end == std::string_view::npos ? end : end - start);
    ++number;
    if (number > skipped && !trimmed(line).empty()) lines.push_back({number, std::string(line)});
    if (end == std::string_view::npos) break;
    start = end + (head.compare(end, 2, "\r\n") == 0 ? 2 : 1);
  }
  return lines;
}

// "sep=;": the separator, as spreadsheets write and read it.
std::optional<char> declared_separator(std::string_view line) {
  line = trimmed(line);
  if (line.size() >= 2 && line.front() == '"' && line.back() == '"') line = line.substr(1, line.size() - 2);
  if (line.size() != 5) return {};
  std::string word(line.substr(0, 4));
  std::transform(word.begin(), word.end(), word.begin(), [](unsigned char c) { return std::tolower(c); });
  return word == "sep=" ? std::optional(line[4]) : std::nullopt;
}

bool is_number(const std::string& cell, const CsvFormat& format) {
  return read_cell(cell, format.mark).kind == CellKind::number;
}

// Names: a text in every cell that is not empty, and in most of them.
bool are_names(const std::vector<std::string>& cells, const CsvFormat& format) {
  std::size_t texts = 0;
  for (const std::string& cell : cells) {
    const CellKind kind = read_cell(cell, format.mark).kind;
    if (kind == CellKind::number || kind == CellKind::out_of_range) return false;
    texts += kind == CellKind::text;
  }
  return 2 * texts > cells.size();
}

bool has_number(const std::vector<std::string>& cells, const CsvFormat& format) {
  return std::any_of(cells.begin(), cells.end(), [&](const std::string& cell) { return is_number(cell, format); });
}

// The number of cells that most lines have, of two and more; 0 where it is no table.
std::size_t usual_cells(const std::vector<HeadLine>& lines) {
  std::size_t usual = 0;
  std::ptrdiff_t most = 0;
  for (const HeadLine& line : lines) {
    const std::size_t cells = line.cells.size();
    const auto count = std::count_if(lines.begin(), lines.end(),
                                     [cells](const HeadLine& other) { return other.cells.size() == cells; });
    if (cells < 2 || count <= most) continue;
    most = count;
    usual = cells;
  }
  return usual;
}

bool is_row_of_numbers(const HeadLine& line, const CsvFormat& format) {
  return line.cells.size() > 1 && std::all_of(line.cells.begin(), line.cells.end(),
                                              [&](const std::string& cell) { return is_number(cell, format); });
}

// A spreadsheet fills a title up with empty cells: half of them or fewer hold a text, and a whole line of names follows
// before the numbers.
bool is_padded_title(const std::vector<HeadLine>& lines, std::size_t at, std::size_t numbers, const CsvFormat& format) {
  const auto filled = [](const HeadLine& line) {
    return line.cells.size() - static_cast<std::size_t>(std::count(line.cells.begin(), line.cells.end(), ""));
  };
  const std::size_t usual = lines[at].cells.size();
  if (2 * filled(lines[at]) > usual || has_number(lines[at].cells, format)) return false;
  for (std::size_t next = at + 1; next < numbers; ++next) {
    if (filled(lines[next]) == usual && are_names(lines[next].cells, format)) return true;
  }
  return false;
}

// Where the table begins among the lines: at the first of them, unless a title stands above it.
std::size_t begin_of_table(const std::vector<HeadLine>& lines, const CsvFormat& format) {
  const std::size_t usual = usual_cells(lines);
  if (usual == 0) return 0;
  const auto is_usual = [usual](const HeadLine& line) { return line.cells.size() == usual; };
  std::size_t numbers = 0;
  while (numbers < lines.size() && !(is_usual(lines[numbers]) && has_number(lines[numbers].cells, format))) ++numbers;
  if (numbers == lines.size()) return 0;
  std::size_t begin = numbers;
  while (begin > 0 && is_usual(lines[begin - 1])) --begin;
  while (begin < numbers && is_padded_title(lines, begin, numbers, format)) ++begin;
  if (begin == 0) return 0;
  const auto above_end = lines.begin() + static_cast<std::ptrdiff_t>(begin);
  // A cell between quotes may go on in the next line.
  const auto opens_quotes = [](const HeadLine& line) {
    return std::count(line.text.begin(), line.text.end(), '"') % 2 != 0;
  };
  if (std::any_of(lines.begin(), above_end, opens_quotes)) return 0;
  // Numbers are no title.
  if (std::any_of(lines.begin(), above_end, [&](const HeadLine& line) { return is_row_of_numbers(line, format); }))
    return 0;
  if (are_names(lines[begin].cells, format)) return begin;
  // Without names a line of several cells may be a header that lacks one: it is not thrown away.
  const bool goes_on =
      begin + 1 < lines.size() && is_usual(lines[begin + 1]) && has_number(lines[begin + 1].cells, format);
  const bool all_titles = std::all_of(lines.begin(), above_end, [&](const HeadLine& line) {
    return line.cells.size() == 1 && !has_number(line.cells, format);
  });
  return goes_on && all_titles ? begin : 0;
}

// Whether the line beneath the names holds units.
bool are_units(const std::vector<std::string>& names, const std::vector<std::string>& cells,
               const std::vector<HeadLine>& rows, const CsvFormat& format) {
  bool any_known = false;
  for (std::size_t i = 0; i < cells.size(); ++i) {
    std::size_t numbers = 0;
    for (const HeadLine& row : rows) numbers += i < row.cells.size() && is_number(row.cells[i], format);
    const bool is_column_of_numbers = 2 * numbers > rows.size();
    const CellKind kind = read_cell(cells[i], format.mark).kind;
    if (kind == CellKind::number || kind == CellKind::out_of_range) return false;
    if (!is_column_of_numbers) continue;
    const std::string unit = unit_alone(cells[i]);
    const bool in_brackets = unit != trimmed(cells[i]);
    const bool none = unit.empty();
    if (!none && !in_brackets && !is_known_unit(unit)) return false;
    if (!none && i < names.size() && !read_heading(names[i]).unit.empty()) return false;
    any_known = any_known || (!none && is_known_unit(unit));
  }
  return any_known;
}

}  // namespace

std::vector<std::string> cells_of(std::string_view line, const CsvFormat& format) {
  std::vector<std::string> cells;
  for (const std::string_view cell : split_line(line, format.separator)) cells.emplace_back(cell);
  return cells;
}

CsvHead read_head(std::string_view head, bool whole_file, std::size_t skipped, std::optional<char> known,
                  std::size_t first_number) {
  CsvHead found;
  std::vector<HeadLine> all = lines_of(head, whole_file, skipped, first_number);
  found.first_line = std::max(skipped + 1, first_number);
  std::optional<char> declared = known;
  if (!all.empty() && !known) declared = declared_separator(all.front().text);
  if (declared && !known) {
    found.first_line = all.front().number + 1;
    all.erase(all.begin());
  }
  std::vector<HeadLine> lines;
  for (const HeadLine& line : all) {
    if (!is_comment(line.text)) lines.push_back(line);
  }
  std::vector<std::string> texts;
  for (const HeadLine& line : lines) texts.push_back(line.text);
  found.format = recognise(texts, declared);
  for (HeadLine& line : lines) line.cells = cells_of(line.text, found.format);
  const std::size_t begin = begin_of_table(lines, found.format);
  if (begin > 0) {
    found.first_line = lines[begin].number;
    found.said.push_back(
        fmt::format("the table begins in line {}; the lines above it were not read", found.first_line));
  }
  if (begin >= lines.size()) return found;
  if (!are_names(lines[begin].cells, found.format)) {
    // The names may stand in a remark straight above the numbers: "# t (min)  T (°C)".
    const auto above =
        std::find_if(all.rbegin(), all.rend(), [&](const HeadLine& line) { return line.number < lines[begin].number; });
    if (above == all.rend() || !is_comment(above->text)) return found;
    std::string_view names = trimmed(above->text);
    while (!names.empty() && (names.front() == '#' || names.front() == '%')) names.remove_prefix(1);
    const std::vector<std::string> cells = cells_of(trimmed(names), found.format);
    if (cells.size() != lines[begin].cells.size() || cells.size() < 2 || !are_names(cells, found.format)) return found;
    found.header = trimmed(names);
    found.said.push_back(fmt::format("the columns are named by the remark in line {}", above->number));
    return found;
  }
  if (begin + 2 >= lines.size()) return found;
  const std::vector<HeadLine> rows(lines.begin() + static_cast<std::ptrdiff_t>(begin) + 2, lines.end());
  if (!are_units(lines[begin].cells, lines[begin + 1].cells, rows, found.format)) return found;
  found.units_line = lines[begin + 1].number;
  found.said.push_back(fmt::format("line {} was read as the units of the columns", found.units_line));
  return found;
}

void refuse_labelled_data(std::string_view head, const std::string& source) {
  for (const HeadLine& in_file : lines_of(head, true, 0, 1)) {
    const std::string_view line = trimmed(in_file.text);
    if (!line.starts_with("##")) continue;
    const std::size_t equals = line.find('=');
    const std::string_view label = equals == std::string_view::npos ? "" : line.substr(2, equals - 2);
    const bool is_label = !label.empty() && std::all_of(label.begin(), label.end(), [](unsigned char c) {
      return std::isalnum(c) != 0 || std::string_view(" -/_.$").find(static_cast<char>(c)) != std::string_view::npos;
    });
    if (!is_label || label.front() == ' ') continue;
    throw Error(
        {.code = ErrorCode::unsupported_file,
         .message = fmt::format(
             "this is a file of labelled data ({}), not a table: its numbers can't be read as they stand",
             line.starts_with("##TITLE=") || line.starts_with("##JCAMP") ? "JCAMP-DX" : fmt::format("##{}=", label)),
         .value = std::string(line.substr(0, 40)),
         .remedy = "export the data as CSV, one row per point, and read that",
         .place = {.file = source, .line = in_file.number}});
  }
}

std::string first_line_of(std::string_view head, std::size_t number) {
  const std::vector<HeadLine> lines = lines_of(head, true, number - 1, 1);
  return lines.empty() ? "" : lines.front().text;
}

}  // namespace truecurve::detail
