// Takes values and uncertainties apart.
#include "value_with_uncertainty.hpp"

#include "number.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

std::optional<double> number_in(std::string_view text) {
  for (const DecimalMark mark : {DecimalMark::point, DecimalMark::comma}) {
    const CellValue value = read_cell(text, mark);
    if (value.kind == CellKind::number) return value.number;
  }
  return {};
}

// "1.230(45)e-9": what stands before the bracket, in it, and behind it.
std::optional<std::pair<double, double>> bracketed(std::string_view cell) {
  const std::size_t open = cell.find('(');
  const std::size_t close = cell.find(')');
  if (open == std::string_view::npos || close == std::string_view::npos || close < open + 2) return {};
  const std::string_view value = trimmed(cell.substr(0, open));
  const std::string_view digits = cell.substr(open + 1, close - open - 1);
  const std::string_view power = cell.substr(close + 1);
  if (value.find_first_of("eE") != std::string_view::npos) return {};
  if (!power.empty() && power.front() != 'e' && power.front() != 'E') return {};
  const auto whole = number_in(std::string(value) + std::string(power));
  auto uncertainty = number_in(digits);
  if (!whole || !uncertainty) return {};
  const bool in_last_places = digits.find_first_not_of("0123456789") == std::string_view::npos;
  const std::size_t point = value.find_first_of(".,");
  if (in_last_places && point != std::string_view::npos) {
    const auto places = static_cast<int>(value.size() - point - 1);
    uncertainty = number_in(fmt::format("{}e-{}", digits, places));
  }
  if (!power.empty()) {
    const auto factor = number_in("1" + std::string(power));
    if (!factor) return {};
    *uncertainty *= *factor;
  }
  return std::pair(*whole, *uncertainty);
}

}  // namespace

std::optional<std::pair<double, double>> value_with_uncertainty(std::string_view cell) {
  static constexpr std::array<std::string_view, 3> signs = {"±", "+/-", "+-"};
  for (const std::string_view sign : signs) {
    const std::size_t at = cell.find(sign);
    if (at == std::string_view::npos) continue;
    const auto value = number_in(trimmed(cell.substr(0, at)));
    const auto uncertainty = number_in(trimmed(cell.substr(at + sign.size())));
    if (!value || !uncertainty) return {};
    return std::pair(*value, *uncertainty);
  }
  return bracketed(cell);
}

void part_values_and_uncertainties(std::vector<Column>& columns, std::vector<std::string>& said) {
  for (std::size_t i = 0; i < columns.size(); ++i) {
    Column& column = columns[i];
    const auto numbers =
        std::count_if(column.numbers.begin(), column.numbers.end(), [](double x) { return !std::isnan(x); });
    if (column.texts.empty() || numbers > 0) continue;
    Column uncertainties{.name = fmt::format("u({})", column.name),
                         .unit = column.unit,
                         .numbers = std::vector<double>(column.numbers.size(), std::nan("")),
                         .header = fmt::format("u({})", column.name)};
    const bool is_taken = std::any_of(columns.begin(), columns.end(),
                                      [&](const Column& other) { return other.name == uncertainties.name; });
    std::vector<double> values(column.numbers.size(), std::nan(""));
    bool all = !is_taken;
    for (const TextCell& cell : column.texts) {
      const auto parts = all ? value_with_uncertainty(cell.text) : std::nullopt;
      all = all && parts.has_value();
      if (!all) break;
      values[cell.row] = parts->first;
      uncertainties.numbers[cell.row] = parts->second;
    }
    if (!all) continue;
    column.numbers = std::move(values);
    column.texts.clear();
    said.push_back(fmt::format("'{}' was read as values with their standard uncertainties, which are the column '{}'",
                               column.name, uncertainties.name));
    columns.insert(columns.begin() + static_cast<std::ptrdiff_t>(i) + 1, std::move(uncertainties));
    ++i;
  }
}

}  // namespace truecurve::detail
