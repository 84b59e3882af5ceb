// Dates and times as spreadsheets keep them: days since the end of 1899, shown by the format of the cell.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace truecurve::detail {

enum class TimeFormat { none, date, time, date_and_time };

/// What a format such as "dd/mm/yyyy hh:mm" shows (ECMA-376, part 1, 18.8.31).
[[nodiscard]] TimeFormat time_format(std::string_view code);
/// The same of a format that every program has, by its number (18.8.30).
[[nodiscard]] TimeFormat built_in_time_format(const std::string& number);

/// "2026-11-24", "2026-11-24 08:15:30", "08:15:30" with as many decimals as the number has, at most milliseconds. Days
/// are counted from 1899-12-31, with a 29 February 1900 that never was, or from 1904-01-01. None for numbers that are
/// no date (negative, beyond the year 9999).
[[nodiscard]] std::optional<std::string> time_text(double days, TimeFormat format, bool from_1904);

}  // namespace truecurve::detail
