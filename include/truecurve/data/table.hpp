// A laboratory's table as it was read: named columns with units, missing cells marked, the source line of every row.
//
// Example:
//     auto table = truecurve::Table::from_columns({{"t", "min", {0, 5, 10}}, {"T", "degC", {980, 874, 781}}});
//     EXPECT_EQ(table.rows(), 3u);
//     EXPECT_EQ(table.column("T").unit, "degC");
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// A cell that holds neither a number nor a missing mark.
struct TextCell {
  std::uint32_t row = 0;  ///< index from 0
  std::string text{};
};

/// One named column. A cell is a number (finite), missing, or text; missing and text cells are NaN in `numbers`.
struct Column {
  std::string name{};
  std::string unit{};             ///< empty where none is given
  std::vector<double> numbers{};  ///< one a row
  std::vector<TextCell> texts{};  ///< in row order; a column of words has one a row
  std::string header{};           ///< as written in the file: "T (degC)"
  std::string own_name{};         ///< the name before an alias took its place; empty where none did

  /// Whether the column holds words rather than measurements: more text cells than numbers.
  [[nodiscard]] bool is_text() const noexcept;
  /// The text of a cell, or nullptr where the cell is a number or missing.
  [[nodiscard]] const std::string* text_at(std::size_t row) const noexcept;
  /// Whether a cell holds neither number nor text, or there is no such row.
  [[nodiscard]] bool is_missing(std::size_t row) const noexcept;
  [[nodiscard]] std::size_t missing_count() const noexcept;
  /// Whether the column may be called so: by its name, the name that an alias took the place of, or its whole header.
  [[nodiscard]] bool is_called(std::string_view text) const noexcept;
};

/// A column given from C++.
struct NamedNumbers {
  std::string name{};
  std::string unit{};
  std::vector<double> numbers{};
};

/// Where a table came from.
struct TableSource {
  std::string name{};    ///< the file's name as given, "standard input", or empty
  std::string sha256{};  ///< of the bytes read, in hexadecimal; empty for a table made in memory
  std::string remark{};  ///< how the file was understood, e.g. "semicolon-separated, decimal comma"
  std::vector<std::string>
      said{};  ///< what was found in it that a user should know, such as a title that was left away
};

/// Named columns of equal length. A value: copying it copies the numbers.
class Table {
 public:
  /// Requires distinct, non-empty names and columns of equal length; throws Error (duplicate_column, bad_argument).
  explicit Table(std::vector<Column> columns, TableSource source = {}, std::vector<std::uint32_t> lines = {});

  /// Of columns of numbers, made in memory. Throws Error as the constructor.
  [[nodiscard]] static Table from_columns(std::vector<NamedNumbers> columns);

  [[nodiscard]] std::size_t rows() const noexcept { return rows_; }
  [[nodiscard]] std::span<const Column> columns() const noexcept { return columns_; }
  [[nodiscard]] const TableSource& source() const noexcept { return source_; }

  /// The column of that name, of that alias, of the name behind an alias, or of that whole header: every room asks
  /// here. Throws Error (unknown_column) that names the nearest column there is.
  [[nodiscard]] const Column& column(std::string_view name) const;
  [[nodiscard]] bool has_column(std::string_view name) const noexcept;

  /// The column that holds the standard uncertainties of a quantity by its name: `u(NAME)` or `u_NAME` for any of the
  /// names under which the quantity's column is found; nullptr where there is none.
  [[nodiscard]] const Column* uncertainty_of(const Column& quantity) const noexcept;

  /// The line of the source at which a row (index from 0) stands; 0 for a table made in memory.
  [[nodiscard]] std::size_t line(std::size_t row) const noexcept;

  /// A table in which the column found under `header` (name or whole header) is called `alias`, too: it is still found
  /// under the names it had. Throws Error (unknown_column, duplicate_column).
  [[nodiscard]] Table with_alias(std::string_view alias, std::string_view header) const;

  /// The same table with another column in the place of the one of that name. Throws Error: unknown_column,
  /// bad_argument (another number of rows).
  [[nodiscard]] Table with_column(Column column) const;

  /// The same table with a column's unit, for a header that states none or another one: values stay as they are. Throws
  /// Error (unknown_column).
  [[nodiscard]] Table with_unit(std::string_view name, std::string_view unit) const;

 private:
  [[nodiscard]] const Column* find(std::string_view name) const noexcept;

  std::vector<Column> columns_;
  TableSource source_;
  std::vector<std::uint32_t> lines_;
  std::size_t rows_ = 0;
};

/// The candidate nearest to a mistyped word (edit distance, letter case ignored), or empty where none is near. Throws
/// no Error of its own.
[[nodiscard]] std::string nearest_name(std::string_view word, std::span<const std::string> candidates);

/// "row 7" for a table in memory, "row 7 (line 9)" for one from a file; `row` counts from 0, the text from 1. Throws no
/// Error of its own.
[[nodiscard]] std::string row_text(const Table& table, std::size_t row);

}  // namespace truecurve
