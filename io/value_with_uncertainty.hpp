// Cells that hold a value and its uncertainty: 2.1±0.1, 2.1 +/- 0.1, 2.13(15).
#pragma once

#include <truecurve/data/table.hpp>

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace truecurve::detail {

/// Value and standard uncertainty; of digits in brackets, without a decimal point of their own, they are those of the
/// value's last places (JCGM 100:2008, 7.2.2).
[[nodiscard]] std::optional<std::pair<double, double>> value_with_uncertainty(std::string_view cell);

/// Parts every column all of whose entries are such cells into its values and a column u(name) behind it, unless there
/// is one of that name, and says so.
void part_values_and_uncertainties(std::vector<Column>& columns, std::vector<std::string>& said);

}  // namespace truecurve::detail
