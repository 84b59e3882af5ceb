// The data of a page as a workbook for spreadsheet programs.
#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/base/visible.hpp>
#include <truecurve/report/renderers.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <string>
#include <variant>

#include <fmt/format.h>
#include <locale.h>
#include <sys/mman.h>
#include <unistd.h>
#include <xlsxwriter.h>

namespace truecurve {
namespace {

// A file in memory, for a library that writes to names only.
class MemoryFile {
 public:
  MemoryFile() : descriptor_(memfd_create("truecurve", MFD_CLOEXEC)) {}
  ~MemoryFile() {
    if (descriptor_ >= 0) close(descriptor_);
  }
  MemoryFile(const MemoryFile&) = delete;
  MemoryFile& operator=(const MemoryFile&) = delete;

  [[nodiscard]] bool is_open() const { return descriptor_ >= 0; }
  [[nodiscard]] std::string name() const { return fmt::format("/proc/self/fd/{}", descriptor_); }

  [[nodiscard]] std::string bytes() const {
    std::string all;
    std::array<char, 1 << 16> chunk{};
    for (ssize_t got = 0; (got = pread(descriptor_, chunk.data(), chunk.size(), static_cast<off_t>(all.size()))) > 0;)
      all.append(chunk.data(), static_cast<std::size_t>(got));
    return all;
  }

 private:
  int descriptor_;
};

// The library prints numbers as the locale has them, and a workbook knows the decimal point only.
class PointLocale {
 public:
  PointLocale() : point_(newlocale(LC_NUMERIC_MASK, "C", nullptr)), before_(uselocale(point_)) {}
  ~PointLocale() {
    uselocale(before_);
    if (point_ != nullptr) freelocale(point_);
  }
  PointLocale(const PointLocale&) = delete;
  PointLocale& operator=(const PointLocale&) = delete;

 private:
  locale_t point_;
  locale_t before_;
};

[[noreturn]] void fail(const std::string& what) {
  throw Error({.code = ErrorCode::cannot_write,
               .message = fmt::format("the workbook can't be made: {}", what),
               .remedy = "make room in memory and in the folder for temporary files, or write CSV"});
}

// A cell holds 32,767 characters, each of a byte or more; one stands for what is left out.
constexpr std::size_t longest_in_cell = 32767 - 1;

lxw_error put(lxw_worksheet* sheet, std::size_t row, std::size_t column, const Datum& datum, lxw_format* format) {
  const auto r = static_cast<lxw_row_t>(row);
  const auto c = static_cast<lxw_col_t>(column);
  if (const auto* const number = std::get_if<std::size_t>(&datum))
    return worksheet_write_number(sheet, r, c, static_cast<double>(*number), format);
  if (const auto* const number = std::get_if<double>(&datum)) {
    if (std::isnan(*number)) return LXW_NO_ERROR;
    if (std::isinf(*number)) return worksheet_write_string(sheet, r, c, *number > 0 ? "inf" : "-inf", format);
    return worksheet_write_number(sheet, r, c, *number, format);
  }
  const std::string text = shortened(std::get<std::string>(datum), longest_in_cell);
  return text.empty() ? LXW_NO_ERROR : worksheet_write_string(sheet, r, c, text.c_str(), format);
}

}  // namespace

std::string xlsx_of(const Page& page) {
  const PageData& data = page.data;
  if (data.rows.size() >= LXW_ROW_MAX || data.names.size() > LXW_COL_MAX) {
    throw Error(
        {.code = ErrorCode::not_supported,
         .message = fmt::format("a table of {} and {} does not fit into a sheet, which has {} rows and {} columns",
                                plural(data.rows.size() + 1, "row"), plural(data.names.size(), "column"), LXW_ROW_MAX,
                                LXW_COL_MAX),
         .remedy = "write CSV"});
  }
  const PointLocale decimal_point;
  const MemoryFile file;
  if (!file.is_open()) fail("there is no memory for it");
  lxw_workbook* const book = workbook_new(file.name().c_str());
  if (book == nullptr) fail("there is no memory for it");
  lxw_worksheet* const sheet = workbook_add_worksheet(book, "Numbers");
  lxw_format* const bold = workbook_add_format(book);
  if (sheet == nullptr || bold == nullptr) fail("there is no memory for it");
  format_set_bold(bold);
  lxw_error problem = LXW_NO_ERROR;
  const auto write = [&](std::size_t row, std::size_t column, const Datum& datum, lxw_format* format) {
    const lxw_error here = put(sheet, row, column, datum, format);
    if (problem == LXW_NO_ERROR) problem = here;
  };
  constexpr double narrowest = 9;
  constexpr double widest = 40;
  for (std::size_t k = 0; k < data.names.size(); ++k) {
    write(0, k, data.names[k], bold);
    const auto column = static_cast<lxw_col_t>(k);
    const double width = std::clamp(2 + static_cast<double>(data.names[k].size()), narrowest, widest);
    worksheet_set_column(sheet, column, column, width, nullptr);
  }
  worksheet_freeze_panes(sheet, 1, 0);
  for (std::size_t i = 0; i < data.rows.size(); ++i) {
    for (std::size_t k = 0; k < data.rows[i].size(); ++k) write(i + 1, k, data.rows[i][k], nullptr);
  }
  const lxw_error closed = workbook_close(book);
  if (problem == LXW_NO_ERROR) problem = closed;
  if (problem != LXW_NO_ERROR) fail(lxw_strerror(problem));
  return file.bytes();
}

}  // namespace truecurve
