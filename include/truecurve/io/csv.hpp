// Reading a laboratory's table from a text file.
//
// Example:
//     std::istringstream file("t (min);T [degC]\n0;980,5\n5;874,1\n");
//     const auto table = truecurve::read_csv(file, "cooling.csv");
//     EXPECT_EQ(table.column("t").unit, "min");
//     EXPECT_EQ(table.column("T").numbers[1], 874.1);
#pragma once

#include <truecurve/data/table.hpp>

#include <filesystem>
#include <istream>
#include <string>

namespace truecurve {

/// Reads a table of comma-, semicolon-, tab- or blank-separated values; separator, decimal comma and header are
/// recognised from the first lines.
///
/// A header cell is `name`, `name (unit)`, `name / unit` or `name [unit]`; without a header the columns are c1, c2, ...
/// Lines that begin with # are comments. Empty, NA, NaN, -, -- and n.d. are missing. Quotes, CRLF, UTF-8 with or
/// without byte-order mark, non-breaking blanks and the typographic minus are understood.
///
/// Throws Error with file, line, column name, cell and remedy: file_not_found, empty_file, binary_file, ragged_row,
/// duplicate_column, number_out_of_range. Reads in one pass; memory is about that of the numbers.
[[nodiscard]] Table read_csv(const std::filesystem::path& file);
/// The same, with the file called `source` in messages and records: as it was named, wherever it was found.
[[nodiscard]] Table read_csv(const std::filesystem::path& file, const std::string& source);

/// The same from a stream; `source` is the name used in messages. Throws Error as the other.
[[nodiscard]] Table read_csv(std::istream& stream, const std::string& source);

}  // namespace truecurve
