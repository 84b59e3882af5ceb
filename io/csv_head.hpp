// What stands before the numbers of a table: title lines, remarks, a header, its units.
#pragma once

#include "csv_format.hpp"

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve::detail {

struct CsvHead {
  CsvFormat format{};
  std::size_t first_line = 1;       ///< at which the table begins, counted from 1
  std::string header{};             ///< a line of names that stands in a remark above the table; empty for none
  std::size_t units_line = 0;       ///< that holds the units of the columns; 0 for none
  std::vector<std::string> said{};  ///< what was found, in sentences for the user
};

/// From the head of a file, which is all of it where `whole_file` says so; its first `skipped` lines are not looked at.
/// The separator is recognised where it is not `known`.
///
/// A title or a preamble is what stands above a line of names and has another number of cells; where no names stand
/// above the numbers, only lines of a single cell. Units are a line beneath the names in which every column of numbers
/// has a unit and one at least is known.
[[nodiscard]] CsvHead read_head(std::string_view head, bool whole_file, std::size_t skipped,
                                std::optional<char> known = {}, std::size_t first_number = 1);

/// Throws Error (unsupported_file) where the lines are of the form ##LABEL=: these are no remarks, and what follows
/// them is written by rules of its own (factors, packed ordinates), and would read as a table of wrong numbers.
void refuse_labelled_data(std::string_view head, const std::string& source);

/// The first line that is not blank from one on, as far as the head goes.
[[nodiscard]] std::string first_line_of(std::string_view head, std::size_t number);

/// The cells of a line, as far as they can be told without their neighbours.
[[nodiscard]] std::vector<std::string> cells_of(std::string_view line, const CsvFormat& format);

}  // namespace truecurve::detail
