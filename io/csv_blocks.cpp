#include "csv_blocks.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/base/visible.hpp>

#include "csv_head.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

CellKind kind_of(const std::string& cell, const CsvFormat& format) { return read_cell(cell, format.mark).kind; }

bool holds_number(const std::vector<std::string>& cells, const CsvFormat& format) {
  return std::any_of(cells.begin(), cells.end(),
                     [&](const std::string& cell) { return kind_of(cell, format) == CellKind::number; });
}

// Names in all cells but empty ones at the end, or a title in the first one. Where rows begin with words, a title with
// empty cells behind it is one of these rows.
bool is_heading(std::vector<std::string> cells, const CsvFormat& format, bool rows_begin_with_words) {
  const std::size_t width = cells.size();
  while (!cells.empty() && cells.back().empty()) cells.pop_back();
  const bool are_words = !cells.empty() && std::all_of(cells.begin(), cells.end(), [&](const std::string& cell) {
    return kind_of(cell, format) == CellKind::text;
  });
  return are_words && (cells.size() > 1 || width == 1 || !rows_begin_with_words);
}

}  // namespace

void CsvBlocks::begin(std::size_t line, std::string_view names) {
  blocks_.push_back({line, std::string(trimmed(names))});
  present_ = 1;
}

bool CsvBlocks::begins_with(std::string_view line, std::size_t number, const Read& read, const CsvFormat& format) {
  const bool is_blank = line.find_first_not_of(" \t\r\n,;|\"") == std::string_view::npos;
  const bool follows_blank = std::exchange(after_blank_, is_blank);
  if (is_blank || blocks_.empty()) return false;
  Block& present = blocks_.back();
  if (is_read() && read.rows > 0) present.has_numbers = true;
  if (present.has_numbers && !follows_blank) return false;
  const std::vector<std::string> cells = cells_of(trimmed(line), format);
  if (follows_blank && present.has_numbers && is_heading(cells, format, is_read() && read.begins_with_words)) {
    blocks_.push_back({number, std::string(trimmed(line))});
    ++present_;
    return true;
  }
  present.has_numbers = present.has_numbers || holds_number(cells, format);
  return false;
}

std::string CsvBlocks::list() const {
  constexpr std::size_t most = 20;
  constexpr std::size_t longest = 40;
  std::string text;
  std::size_t count = 0;
  for (const Block& block : blocks_) {
    if (!block.has_numbers) continue;
    if (++count <= most)
      text += fmt::format("{}{} from line {} on ({})", count > 1 ? ", " : "", count, block.line,
                          shortened(block.names, longest));
  }
  return count > most ? fmt::format("{} and {} more", text, count - most) : text;
}

std::string CsvBlocks::not_read(const std::string& source) const {
  const auto tables = static_cast<std::size_t>(
      std::count_if(blocks_.begin(), blocks_.end(), [](const Block& block) { return block.has_numbers; }));
  if (tables > 1 && wanted_ == 0) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the file holds {} tables: {}", tables, list()),
                 .subject = "block",
                 .remedy = {"choose one of them", {Action::choose_block, ""}},
                 .place = {.file = source}});
  }
  if (wanted_ > std::max<std::size_t>(tables, 1)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the file has no table {}", wanted_),
                 .subject = "block",
                 .value = fmt::format("{}", wanted_),
                 .remedy = tables > 1 ? fmt::format("it holds {}", list()) : "it holds one table: omit the choice",
                 .place = {.file = source}});
  }
  if (wanted_ > 0 && tables > 1) return fmt::format("table {} was read, of {}: {}", wanted_, tables, list());
  if (blocks_.size() > 1 && !blocks_.back().has_numbers)
    return fmt::format("the text from line {} on was not read", blocks_.back().line);
  return "";
}

}  // namespace truecurve::detail
