// How a file of separated values is written: its separator and decimal mark, its remarks, headings and bytes.
#pragma once

#include "number.hpp"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve::detail {

inline constexpr char blanks = ' ';

struct CsvFormat {
  char separator = ',';
  DecimalMark mark = DecimalMark::point;
};

/// "semicolon-separated, decimal comma".
[[nodiscard]] std::string describe(const CsvFormat& format);

/// From the first lines of a file, blank ones and comments left out; with the separator where it is declared.
[[nodiscard]] CsvFormat recognise(const std::vector<std::string>& lines, std::optional<char> declared);

/// The cells of a line, trimmed and without their quotes; of a line that is framed by bars without these. Of separated
/// blanks each run of them is one.
[[nodiscard]] std::vector<std::string> split_line(std::string_view line, char separator);

/// "|---|:--:|", the rule beneath the names of a table that is drawn with bars.
[[nodiscard]] bool is_rule(std::string_view line);
/// A line without the bars at its ends.
[[nodiscard]] std::string_view without_frame(std::string_view line);

/// Lines that begin with # or %.
[[nodiscard]] bool is_comment(std::string_view line);

/// Runs of blanks outside quotes become one tab, so that libcsv, which knows single separators only, can split the
/// line.
[[nodiscard]] std::string blanks_to_tabs(std::string_view line);

/// Bytes that are no UTF-8 are taken as Latin-1, which is what old instruments write for the degree sign and mu.
[[nodiscard]] std::string as_utf8(std::string_view text);

struct CsvHeading {
  std::string name;
  std::string unit;
};

/// A unit that stands alone in its cell: "min", "(min)", "[min]"; "-" is none.
[[nodiscard]] std::string unit_alone(std::string_view cell);

/// "T (degC)", "T [degC]", "T / degC"; "u(T)" and "ln(I)" are names although they end with a bracket.
[[nodiscard]] CsvHeading read_heading(std::string_view text);

}  // namespace truecurve::detail
