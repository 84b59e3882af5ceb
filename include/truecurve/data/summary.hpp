// What a column of measurements looks like before anything is fitted.
// None of these throws an Error of its own.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"x", "", {1, 2, 4, 3, 100}}});
//     const auto summary = truecurve::summary_of(table.column("x"));
//     EXPECT_EQ(summary.median, 3);
//     EXPECT_EQ(summary.levels, 5u);
//     EXPECT_EQ(summary.beyond_fences, std::vector<std::size_t>{5});
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/data/table.hpp>

#include <cstddef>
#include <vector>

namespace truecurve {

/// How the numbers of a column follow one another.
enum class ColumnOrder { none, ascending, descending };

/// Counts and order statistics of the numbers in a column; NaN where there are too few.
struct ColumnSummary {
  std::size_t count = 0;  ///< numbers
  std::size_t missing = 0;
  std::size_t texts = 0;  ///< cells that are neither number nor missing
  double mean = not_a_number;
  double sd = not_a_number;  ///< divisor count - 1
  double minimum = not_a_number;
  double lower_quartile = not_a_number;  ///< by linear interpolation; Hyndman and Fan (1996), definition 7
  double median = not_a_number;
  double upper_quartile = not_a_number;
  double maximum = not_a_number;
  /// Numbers of the rows (from 1) more than 1.5 interquartile ranges outside the quartiles; Tukey (1977).
  std::vector<std::size_t> beyond_fences{};
  /// Those of them that nothing explains: the column is not ordered, the value does not return, and where all numbers
  /// are above zero their logarithms lie outside the same fences.
  std::vector<std::size_t> unusual{};
  std::size_t levels = 0;         ///< different numbers
  std::size_t least_repeats = 0;  ///< how often the rarest of them stands there, and the most frequent
  std::size_t most_repeats = 0;
  ColumnOrder order =
      ColumnOrder::none;  ///< of two numbers and more, equal ones in a row allowed; none if all are equal
  double step = 0;        ///< of which all are multiples; 0 where there is none (resolution_of())
};

/// Cost: one sort of the column.
[[nodiscard]] ColumnSummary summary_of(const Column& column);

}  // namespace truecurve
