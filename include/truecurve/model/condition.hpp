// Rows of a table picked by a written condition.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"x", "", {1, 20, 60}}});
//     EXPECT_EQ(truecurve::rows_where(table, "x > 10 and x < 50"), std::vector<std::size_t>{2});
#pragma once

#include <truecurve/data/table.hpp>

#include <cstddef>
#include <string_view>
#include <vector>

namespace truecurve {

/// The numbers (from 1) of the rows in which a condition on the table's columns holds: "t > 5", "Drying time > 5" (see
/// with_columns_named). A row in which a column of the
/// condition is missing or text is not picked. Throws Error: the model-text codes, unknown_column.
[[nodiscard]] std::vector<std::size_t> rows_where(const Table& table, std::string_view condition);

}  // namespace truecurve
