// Columns in a formula by their headers: 'Drying time' where a header is no plain name.
// None of these throws an Error of its own.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"Drying time", "min", {1, 2, 3}}, {"m", "g", {9, 6, 5}}});
//     EXPECT_EQ(truecurve::with_columns_named("m = a + b*Drying time", table), "m = a + b*'Drying time'");
#pragma once

#include <truecurve/data/table.hpp>

#include <string>
#include <string_view>

namespace truecurve {

/// A column's name as it stands in a formula: as it is, or in single quotation marks (a mark within it doubled) where
/// it is no plain name.
[[nodiscard]] std::string name_in_formula(std::string_view name);

/// A formula or condition in which every column stands under its name, in the marks that it needs: headers in marks are
/// looked up in the table, and headers of several words, or with a unit in brackets, are found without marks, as such a
/// text means nothing else. What is found nowhere stays as it is.
[[nodiscard]] std::string with_columns_named(std::string_view formula, const Table& table);

/// A formula in which one plain name is replaced by another text, wherever it stands as a whole word.
[[nodiscard]] std::string with_name_replaced(std::string_view formula, std::string_view name, std::string_view by);

/// The longest header, no plain name, that stands in a formula without its marks (c-Pb in "y = a + b*c-Pb"); empty
/// where there is none.
[[nodiscard]] std::string header_without_marks(std::string_view formula, const Table& table);

}  // namespace truecurve
