// Reads separated values in one pass: the head is looked at to recognise the format, then libcsv splits the fields and
// each cell goes straight into its column.
#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/io/csv.hpp>

#include "csv_blocks.hpp"
#include "csv_format.hpp"
#include "csv_head.hpp"
#include "decoder.hpp"
#include "number.hpp"
#include "reading.hpp"
#include "sha256.hpp"
#include "value_with_uncertainty.hpp"

#include <algorithm>
#include <array>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <fstream>
#include <iostream>
#include <set>
#include <utility>

#include <csv.h>
#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::blanks;
using detail::CellKind;
using detail::CellValue;
using detail::CsvFormat;
using detail::is_comment;
using detail::read_cell;
using detail::read_heading;
using detail::trimmed;

constexpr std::size_t chunk_size = 1 << 16;
class CsvReader {
 public:
  CsvReader(std::istream& stream, std::string source, const CsvOptions& options)
      : stream_(stream),
        source_(std::move(source)),
        options_(options),
        decoder_(source_, options),
        blocks_(options.block) {
    if (csv_init(&parser_, CSV_APPEND_NULL) != 0) throw std::bad_alloc();
  }
  ~CsvReader() { csv_free(&parser_); }
  CsvReader(const CsvReader&) = delete;
  CsvReader& operator=(const CsvReader&) = delete;

  Table read() {
    more_ = fill();
    // The format is recognised from whole lines, a header and two more at least.
    constexpr std::ptrdiff_t fewest_lines = 3;
    std::ptrdiff_t lines = 0;
    while (more_ && (pending_.size() < chunk_size || lines < fewest_lines)) {
      lines += std::count_if(pending_.begin() + static_cast<std::ptrdiff_t>(looked_at_), pending_.end(),
                             [](char c) { return c == '\n' || c == '\r'; });
      if (lines >= fewest_lines && pending_.size() >= chunk_size) break;
      looked_at_ = pending_.size();
      more_ = fill();
    }
    looked_at_ = 0;
    drop_byte_order_mark();
    detail::refuse_labelled_data(pending_, source_);
    const detail::TableText& table = decoder_.table();
    head_ = !table.header.empty() ? detail::CsvHead{.header = table.header}
                                  : detail::read_head(pending_, !more_, options_.skipped_lines,
                                                      table.form.empty() ? std::nullopt : std::optional(','));
    head_.said.insert(head_.said.begin(), table.said.begin(), table.said.end());
    format_ = head_.format;
    if (table.header.empty()) blocks_.begin(head_.first_line, detail::first_line_of(pending_, head_.first_line));
    start_block();
    csv_set_delim(&parser_, static_cast<unsigned char>(format_.separator == blanks ? '\t' : format_.separator));
    for (;;) {
      feed_complete_lines(!more_);
      if (!more_) break;
      more_ = fill();
    }
    finish();
    return make_table();
  }

 private:
  [[noreturn]] void fail(ErrorCode code, std::string message, std::string subject, std::string value,
                         std::string remedy, std::size_t line) const {
    throw Error({.code = code,
                 .message = std::move(message),
                 .subject = std::move(subject),
                 .value = std::move(value),
                 .remedy = std::move(remedy),
                 .place = {.file = source_, .line = line}});
  }

  bool fill() {
    raw_.resize(chunk_size);
    stream_.read(raw_.data(), static_cast<std::streamsize>(chunk_size));
    const auto got = static_cast<std::size_t>(stream_.gcount());
    if (stream_.bad())
      fail(ErrorCode::file_not_found, "the file could not be read to its end", "", "", "check the disk", 0);
    const std::string_view bytes = std::string_view(raw_).substr(0, got);
    bytes_read_ += got;
    checksum_.add(bytes);
    const std::size_t before = pending_.size();
    decoder_.add(bytes, got < chunk_size, pending_);
    if (const auto zero = pending_.find('\0', before); zero != std::string::npos) {
      fail(ErrorCode::binary_file,
           fmt::format("this is not a text file: byte {} is zero", decoded_ + (zero - before) + 1), "", "0",
           "export the table as CSV text and read that", 0);
    }
    decoded_ += pending_.size() - before;
    return got == chunk_size;
  }

  void drop_byte_order_mark() {
    if (std::string_view(pending_).starts_with("\xEF\xBB\xBF")) pending_.erase(0, 3);
  }

  void feed_complete_lines(bool end_of_file) {
    std::size_t start = 0;
    while (start < pending_.size()) {
      std::size_t end = pending_.find_first_of("\r\n", std::max(start, looked_at_));
      if (end == std::string::npos) {
        looked_at_ = pending_.size();
        if (!end_of_file) break;
        end = pending_.size();
      } else {
        // A CR at the very end of what has been read may be the first half of CRLF.
        if (pending_[end] == '\r' && end + 1 == pending_.size() && !end_of_file) break;
        end += pending_.compare(end, 2, "\r\n") == 0 ? 2 : 1;
      }
      const std::string_view line = std::string_view(pending_).substr(start, end - start);
      if (is_new_block(line)) {
        if (blocks_.is_read()) read_block_from(start);
        continue;  // with the same line
      }
      feed_line(line);
      start = end;
    }
    pending_.erase(0, start);
    looked_at_ -= std::min(looked_at_, start);
  }

  // Of the last row that was read.
  [[nodiscard]] bool begins_with_words() const {
    const auto* const texts = columns_.empty() ? nullptr : &columns_.front().texts;
    return texts != nullptr && !texts->empty() && texts->back().row + 1 == lines_.size();
  }

  bool is_new_block(std::string_view line) {
    if (inside_quotes_ || line_ + 1 < head_.first_line || is_comment(line)) return false;
    return blocks_.begins_with(line, line_ + 1, {lines_.size(), begins_with_words()}, format_);
  }

  // The block that is wanted begins here: it has a head of its own.
  void read_block_from(std::size_t start) {
    while (more_ && pending_.size() - start < chunk_size) more_ = fill();
    head_ = detail::read_head(std::string_view(pending_).substr(start), !more_, 0, format_.separator, line_ + 1);
    format_.mark = head_.format.mark;
    start_block();
  }

  void start_block() {
    if (head_.header.empty() || !blocks_.is_read()) return;
    first_row_ = detail::cells_of(head_.header, format_);
    start_columns();
  }

  void feed_line(std::string_view line) {
    ++line_;
    if (line_ < head_.first_line || !blocks_.is_read()) return;
    const bool begins = !inside_quotes_;
    if (begins) {
      if (is_comment(line) || (format_.separator == '|' && detail::is_rule(line))) return;
      record_line_ = line_;
      record_size_ = 0;
    }
    row_ended_ = false;
    // libcsv's memory for a cell grows by blocks of one size: by as much as the row has by now, it grows as often as
    // its logarithm says.
    record_size_ += line.size();
    if (record_size_ > block_size_) csv_set_blk_size(&parser_, block_size_ = 2 * record_size_);
    if (format_.separator == blanks && begins) {
      const std::string tabs = detail::blanks_to_tabs(line);
      parse(tabs);
    } else if (format_.separator == '|') {
      parse(detail::without_frame(line));
    } else {
      parse(line);
    }
    if (format_.separator == '|' || (!line.ends_with('\n') && !line.ends_with('\r')))
      parse("\n");  // the last line of a file may do without
    if (failure_) std::rethrow_exception(failure_);
    // A line that does not end its row goes on in the next one, within quotes; a blank one has no row.
    const bool is_blank = line.find_first_not_of(" \t\r\n") == std::string_view::npos;
    inside_quotes_ = !row_ended_ && !(begins && is_blank);
  }

  void parse(std::string_view bytes) {
    if (csv_parse(&parser_, bytes.data(), bytes.size(), &CsvReader::on_cell, &CsvReader::on_row, this) !=
        bytes.size()) {
      throw std::bad_alloc();
    }
  }

  void finish() {
    const std::string not_read = blocks_.not_read(source_);
    if (!not_read.empty()) head_.said.insert(head_.said.begin(), not_read);
    if (inside_quotes_) {
      fail(ErrorCode::ragged_row, "a quote is opened here and never closed", "", "\"",
           "close the quote, or double it where it belongs to the text", record_line_);
    }
    csv_fini(&parser_, &CsvReader::on_cell, &CsvReader::on_row, this);
    if (failure_) std::rethrow_exception(failure_);
    if (!first_row_done_) {
      fail(ErrorCode::empty_file,
           bytes_read_ == 0 ? "the file is empty" : "the file holds no table, only blank or comment lines", "", "",
           "give a file with a header line and at least one row", 0);
    }
  }

  // libcsv is C: no exception may pass through it, so the first one is kept and thrown when the line is done.
  template <typename Action>
  void guarded(Action action) noexcept {
    if (failure_) return;
    try {
      action();
    } catch (...) {
      failure_ = std::current_exception();
    }
  }

  static void on_cell(void* bytes, std::size_t length, void* self) {
    auto* reader = static_cast<CsvReader*>(self);
    reader->guarded([=] { reader->take_cell({static_cast<const char*>(bytes), length}); });
  }
  static void on_row(int /*terminator*/, void* self) {
    auto* reader = static_cast<CsvReader*>(self);
    reader->row_ended_ = true;
    reader->guarded([=] { reader->end_row(); });
  }

  void take_cell(std::string_view cell) {
    if (record_line_ == head_.units_line) {
      if (cell_ < columns_.size() && columns_[cell_].unit.empty()) columns_[cell_].unit = detail::unit_alone(cell);
      ++cell_;
    } else if (!first_row_done_) {
      first_row_.emplace_back(cell);
    } else {
      if (cell_ < columns_.size()) store(cell_, cell);
      ++cell_;
    }
  }

  void store(std::size_t index, std::string_view cell) {
    Column& column = columns_[index];
    const CellValue value = read_cell(cell, format_.mark);
    if (value.kind == CellKind::out_of_range) {
      fail(ErrorCode::number_out_of_range,
           fmt::format("column '{}': {} is outside the range of a double (about 1e-308 to 1e308)", column.name, cell),
           column.name, std::string(cell), "correct the number or change the unit of the column", record_line_);
    }
    column.numbers.push_back(value.kind == CellKind::number ? value.number : std::nan(""));
    if (value.kind == CellKind::text) {
      column.texts.push_back({static_cast<std::uint32_t>(lines_.size()), detail::as_utf8(trimmed(cell))});
    }
    if (value.kind != CellKind::missing) last_filled_row_ = lines_.size() + 1;
  }

  void end_row() {
    if (!first_row_done_) {
      start_columns();
      return;
    }
    if (cell_ != columns_.size()) {
      fail(ErrorCode::ragged_row,
           fmt::format("this row has {} where the {} has {}", plural(cell_, "cell"),
                       has_header_ ? "header" : "first row", columns_.size()),
           fmt::format("row {}", lines_.size() + 1), fmt::format("{}", cell_),
           fmt::format("complete the row, writing NA for what is missing, or put a cell that holds the separator into "
                       "quotes (the file was read as {})",
                       how_it_was_read()),
           record_line_);
    }
    if (record_line_ != head_.units_line) lines_.push_back(static_cast<std::uint32_t>(record_line_));
    cell_ = 0;
  }

  void start_columns() {
    first_row_done_ = true;
    has_header_ = std::any_of(first_row_.begin(), first_row_.end(), [this](const std::string& cell) {
      return read_cell(cell, format_.mark).kind == CellKind::text;
    });
    std::set<std::string> names;
    for (std::size_t i = 0; i < first_row_.size(); ++i) {
      Column column;
      if (has_header_) {
        column.header = detail::as_utf8(trimmed(first_row_[i]));
        const detail::CsvHeading heading = read_heading(column.header);
        column.name = heading.name;
        column.unit = heading.unit;
      }
      if (column.name.empty()) column.name = fmt::format("c{}", i + 1);
      if (!names.insert(column.name).second) {
        fail(ErrorCode::duplicate_column, fmt::format("two columns are called '{}'", column.name), column.name,
             column.header, "rename one of them in the header", record_line_);
      }
      columns_.push_back(std::move(column));
    }
    if (has_header_) return;
    for (std::size_t i = 0; i < first_row_.size(); ++i) store(i, first_row_[i]);
    lines_.push_back(static_cast<std::uint32_t>(record_line_));
  }

  [[nodiscard]] std::string how_it_was_read() const {
    const std::string& form = decoder_.table().form;
    return form.empty() ? describe(format_) : form;
  }

  Table make_table() {
    // Spreadsheets append empty rows and unnamed empty columns; both are dropped, rows only at the end.
    lines_.resize(last_filled_row_);
    for (Column& column : columns_) column.numbers.resize(last_filled_row_);
    std::erase_if(columns_, [this](const Column& column) {
      return has_header_ && column.header.empty() && column.missing_count() == column.numbers.size();
    });
    if (lines_.empty() || columns_.empty()) {
      fail(ErrorCode::empty_file, "the file has a header but no row with a value", "", "", "add the measurements", 0);
    }
    detail::part_values_and_uncertainties(columns_, head_.said);
    for (Column& column : columns_) {
      column.numbers.shrink_to_fit();
      column.texts.shrink_to_fit();
      // Words have no unit.
      if (head_.units_line != 0 && column.is_text()) column.unit.clear();
    }
    return Table(std::move(columns_), {source_, checksum_.hexadecimal(), how_it_was_read(), std::move(head_.said)},
                 std::move(lines_));
  }

  std::istream& stream_;
  std::string source_;
  CsvOptions options_;
  detail::Decoder decoder_;
  detail::CsvBlocks blocks_;
  detail::CsvHead head_{};
  bool more_ = false;        // bytes to come
  std::string raw_;          // of one chunk, as they stand in the file
  std::size_t decoded_ = 0;  // bytes of text until now
  csv_parser parser_{};
  bool inside_quotes_ = false;  // at the end of the last line
  bool row_ended_ = false;      // within the last line
  CsvFormat format_{};
  detail::Sha256 checksum_;
  std::string pending_;
  std::size_t looked_at_ = 0;  // so much of what is pending has no end of a line
  std::size_t bytes_read_ = 0;
  std::size_t line_ = 0;
  std::size_t record_line_ = 0;
  std::size_t record_size_ = 0;  // bytes of the row until now
  std::size_t block_size_ = 128;
  std::vector<std::string> first_row_;
  bool first_row_done_ = false;
  bool has_header_ = false;
  std::vector<Column> columns_;
  std::vector<std::uint32_t> lines_;
  std::size_t cell_ = 0;
  std::size_t last_filled_row_ = 0;
  std::exception_ptr failure_;
};

}  // namespace

Table read_csv(std::istream& stream, const std::string& source, const CsvOptions& options) {
  return CsvReader(stream, source, options).read();
}

Table read_csv(const std::filesystem::path& file) { return read_csv(file, file.string()); }

Table read_csv(const std::filesystem::path& file, const std::string& source, const CsvOptions& options) {
  std::ifstream stream = detail::open_to_read(file, source);
  return read_csv(stream, source, options);
}

}  // namespace truecurve
