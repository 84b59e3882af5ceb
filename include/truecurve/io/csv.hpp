// Reading a laboratory's table from a text file.
//
// Example:
//     std::istringstream file("t (min);T [degC]\n0;980,5\n5;874,1\n");
//     const auto table = truecurve::read_csv(file, "cooling.csv");
//     EXPECT_EQ(table.column("t").unit, "min");
//     EXPECT_EQ(table.column("T").numbers[1], 874.1);
#pragma once

#include <truecurve/data/table.hpp>

#include <cstddef>
#include <filesystem>
#include <istream>
#include <string>

namespace truecurve {

/// What is told of a file beforehand.
struct CsvOptions {
  std::size_t skipped_lines = 0;  ///< at its beginning, whatever they hold
  std::size_t block = 0;          ///< of several tables beneath each other, from 1; 0 for a file that holds one
  std::string sheet{};            ///< of a spreadsheet: the name of a sheet or its number from 1; empty for the first
                                  ///< that holds a number
  std::string cells{};            ///< of a spreadsheet: the table's cells, A3:D40, columns A:D or rows 3:40; empty for
                                  ///< all
};

/// Reads a table of comma-, semicolon-, tab-, bar- or blank-separated values; separator, decimal comma, header and
/// units are recognised from the first lines. UTF-8 (bytes that are none are taken as Latin-1) and UTF-16, compressed
/// by gzip or not. Of a spreadsheet (.xlsx, .ods) a sheet is read in the same way; dates and times are those that the
/// cells show, and a row's line is its number in the sheet.
///
/// A header cell is `name`, `name (unit)`, `name / unit`, `name [unit]` or, before a known unit, `name, unit`; units
/// may also stand in the line beneath the names. A title above the names is left away, and names in a remark straight
/// above the numbers are taken. Behind a blank line a new line of names begins another table; what was found is said in
/// the table's source. Without names the columns are c1, c2, ... Lines that begin with # or % are remarks; `sep=;` in
/// the first line declares the separator. Empty, NA, NaN, -, -- and n.d. are missing. Quotes, CRLF, wide blanks and
/// apostrophes between thousands, the typographic minus and Fortran's 1.5D+03 are understood; of a column
/// of 2.1±0.1, 2.1 +/- 0.1 or 2.13(15) the uncertainties become a column u(name).
///
/// Throws Error with file, line, column name, cell and remedy: file_not_found, empty_file, binary_file,
/// unsupported_file (names the kind: HDF5, JCAMP-DX ...; a cell whose formula has no result; a sheet or cells of
/// what is no spreadsheet), unknown_name (no such sheet), bad_argument (no range of cells; several tables and none
/// chosen), ragged_row,
/// duplicate_column, number_out_of_range. Reads in one pass; memory is about that of the numbers.
[[nodiscard]] Table read_csv(const std::filesystem::path& file);
/// The same, with the file called `source` in messages and records: as it was named, wherever it was found. Throws
/// Error as the other.
[[nodiscard]] Table read_csv(const std::filesystem::path& file, const std::string& source,
                             const CsvOptions& options = {});

/// The same from a stream; `source` is the name used in messages. Throws Error as the other.
[[nodiscard]] Table read_csv(std::istream& stream, const std::string& source, const CsvOptions& options = {});

}  // namespace truecurve
