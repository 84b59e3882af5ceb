// Words that several pages share: numbers within sentences, lists, the headings of columns.
#pragma once

#include <truecurve/assess/intervals.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/data/observations.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/report/page.hpp>

#include <algorithm>
#include <cmath>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {

/// Of rows that are alike; the others are counted.
inline constexpr std::size_t rows_listed = 12;

/// "3 parameters (1 at a limit), 17 degrees of freedom".
inline std::string parameters_text(const Estimate& estimate, double degrees) {
  const auto count = static_cast<std::size_t>(estimate.parameters().size());
  const auto at_limit = count - static_cast<std::size_t>(estimate.free_parameters());
  return fmt::format("{}{}, {}", plural(count, "parameter"),
                     at_limit > 0 ? fmt::format(" ({} at a limit)", at_limit) : "", degrees_of_freedom_text(degrees));
}

inline std::string with_unit(const std::string& number, const std::string& unit) {
  return unit.empty() ? number : number + " " + unit;
}

inline std::string level_text(Level level) { return fmt::format("{:.6g} %", 100 * level); }

/// A share in percent, to two digits: "12 %", "0.35 %".
inline std::string share_text(double share) { return rounded(100 * share, 2) + " %"; }

/// A quantity as the heading of a column: "c (mg/g)".
inline std::string headed(const std::string& name, const Quantity& q) {
  return q.unit.empty() ? name : fmt::format("{} ({})", name, q.unit);
}
inline std::string headed(const Quantity& q) { return headed(q.name, q); }

inline std::string number_or_dash(double value, int digits) { return std::isnan(value) ? "-" : rounded(value, digits); }

/// "A is 5.14(55), b is 7.82(37) and s is 0.376(55)."
inline std::string parameters_sentence(std::span<const ParameterInterval> parameters) {
  std::string text;
  for (std::size_t j = 0; j < parameters.size(); ++j) {
    const ParameterInterval& p = parameters[j];
    text += fmt::format("{}{} is {}",
                        j == 0                       ? ""
                        : j + 1 == parameters.size() ? " and "
                                                     : ", ",
                        p.name, with_unit(with_uncertainty(p.value, p.standard_uncertainty), p.unit));
  }
  return text + ".";
}

/// Row numbers as a list, cut where it grows long.
inline std::string row_list(const std::vector<std::size_t>& rows) {
  std::string text;
  for (std::size_t i = 0; i < std::min(rows.size(), rows_listed); ++i)
    text += fmt::format("{}{}", i == 0 ? "" : ", ", rows[i]);
  if (rows.size() > rows_listed) text += fmt::format(" and {} more", rows.size() - rows_listed);
  return text;
}

/// "row 3", "rows 1, 2 and 40 more".
inline std::string rows_text(const std::vector<std::size_t>& rows) {
  return (rows.size() == 1 ? "row " : "rows ") + row_list(rows);
}

/// Rows left out, gathered by their reason, in the order in which the reasons come.
using RowsByReason = std::vector<std::pair<std::string, std::vector<std::size_t>>>;
inline RowsByReason by_reason(std::span<const LeftOut> left_out) {
  RowsByReason gathered;
  for (const LeftOut& left : left_out) {
    const auto at =
        std::find_if(gathered.begin(), gathered.end(), [&](const auto& entry) { return entry.first == left.reason; });
    if (at == gathered.end()) {
      gathered.push_back({left.reason, {left.row}});
    } else {
      at->second.push_back(left.row);
    }
  }
  return gathered;
}

inline std::string p_text(double p) { return std::isnan(p) ? "-" : probability_text(p); }

}  // namespace truecurve::detail
