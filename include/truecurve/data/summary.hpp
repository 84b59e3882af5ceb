// What a column of measurements looks like before anything is fitted.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"x", "", {1, 2, 3, 4, 100}}});
//     const auto summary = truecurve::summary_of(table.column("x"));
//     EXPECT_EQ(summary.median, 3);
//     EXPECT_EQ(summary.beyond_fences, std::vector<std::size_t>{5});
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/data/table.hpp>

#include <cstddef>
#include <vector>

namespace truecurve {

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
};

/// Cost: one sort of the column.
[[nodiscard]] ColumnSummary summary_of(const Column& column);

}  // namespace truecurve
