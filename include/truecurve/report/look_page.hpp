// The pages of a first look at a table.
// None of these throws an Error of its own.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"t", "min", {1, 2, 3, 4}}, {"T", "", {5, 7, 9, 40}}});
//     EXPECT_NE(truecurve::text_of(truecurve::look_page(table)).find("t (min)"), std::string::npos);
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/data/table.hpp>
#include <truecurve/report/page.hpp>

#include <vector>

namespace truecurve {

/// A table's columns with units, ranges, steps, levels and replicates, missing cells and values far from the others,
/// and the rows around what is remarkable. The data have one row a column.
[[nodiscard]] Page look_page(const Table& table);

/// What two columns look like together: zeros that forbid a transform, a fan, and the axes that straighten them best;
/// as sections for the page of their table.
[[nodiscard]] std::vector<PageSection> pair_sections(const Observations& observations);

}  // namespace truecurve
