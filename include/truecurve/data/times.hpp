// Dates and times of a column as the time since its first row.
// None of these throws an Error of its own.
//
// Example:
//     truecurve::Column column{.name = "when"};
//     column.texts = {{0, "2026-11-24 08:15"}, {1, "2026-11-24 08:45"}};
//     column.numbers = {truecurve::not_a_number, truecurve::not_a_number};
//     const auto elapsed = truecurve::elapsed_time(column);
//     EXPECT_EQ(elapsed->numbers[1], 1800);
//     EXPECT_EQ(elapsed->unit, "s");
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/data/table.hpp>

#include <optional>

namespace truecurve {

/// A column in which every entry is a date or a time, and all are written in one way, as numbers since the first entry:
/// days of dates (2026-11-24, 24.11.2026), seconds of times (08:15, 08:15:30.5) and of both together (2026-11-24 08:15,
/// 2026-11-24T08:15:30Z, 24.11.2026 08:15). None for any other column. Source: ISO 8601, the Gregorian calendar.
[[nodiscard]] std::optional<Column> elapsed_time(const Column& column);

}  // namespace truecurve
