// A sheet of a spreadsheet as lines of separated values, so that it is read as any table is: a line for each row.
#pragma once

#include <truecurve/io/csv.hpp>

#include "table_text.hpp"

#include <string>

namespace truecurve::detail {

/// The cells of a sheet, or of a part of it. Of several sheets that one which is asked for, else the first that holds a
/// number. Throws Error: binary_file, unsupported_file, unknown_name (no such sheet), bad_argument (no range of cells),
/// empty_file. A
/// formula whose result is not in the file is unsupported_file, with its cell.
[[nodiscard]] TableText sheet_text(std::string bytes, const std::string& source, const CsvOptions& options);

}  // namespace truecurve::detail
