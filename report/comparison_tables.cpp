// The tables of a comparison's page.
#include "comparison_parts.hpp"
#include "lines.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// Two tables of the candidates must fit a line of 100 characters; longer names are cut there and whole below.
constexpr std::size_t name_width = 20;

std::string cut(const std::string& name) {
  if (shown_width(name) <= name_width) return name;
  return first_columns(name, name_width - 1) + "…";
}

std::string place_number(std::size_t place) { return fmt::format("{}", place + 1); }

std::string fixed(double value, int decimals) {
  return std::isnan(value) ? "-" : fmt::format("{:.{}f}", value, decimals);
}

std::string error_text(const ErrorSize& size, bool relative) {
  return number_or_dash(relative ? size.in_uncertainties : size.root_mean_square, 4);
}

// Of a counted response the mean deviance.
std::string of_left_out(const Candidate& c, const ErrorSize& size, bool relative) {
  return c.fit.is_counted() ? number_or_dash(std::pow(size.root_mean_square, 2), 4) : error_text(size, relative);
}

}  // namespace

// Whether every candidate knows uncertainties of the rows; only then can all be measured in them.
bool has_uncertainties(const Comparison& comparison) {
  return std::all_of(comparison.candidates.begin(), comparison.candidates.end(),
                     [](const Candidate& c) { return c.fit.observations().has_uncertainties(); });
}

bool is_counted(const Comparison& comparison) { return comparison.candidates.front().fit.is_counted(); }

PageTable criteria_table(const Comparison& comparison) {
  const bool folds = comparison.folds != 0;
  const bool relative = has_uncertainties(comparison);
  std::vector<Heading> headings = {{"#", Align::right},    {"candidate", Align::left}, {"parameters", Align::right},
                                   {"AICc", Align::point}, {"ΔAICc", Align::point},    {"Akaike weight", Align::point},
                                   {"BIC", Align::point}};
  headings.push_back({is_counted(comparison) ? "leave-one-out deviance" : "leave-one-out RMSE", Align::point});
  if (folds) headings.push_back({fmt::format("{}-fold", comparison.folds), Align::point});
  PageTable table(headings, PageTable::narrow);
  for (std::size_t i = 0; i < comparison.candidates.size(); ++i) {
    const Candidate& c = comparison.candidates[i];
    std::vector<std::string> cells = {place_number(i),
                                      cut(c.name),
                                      fmt::format("{}", c.parameters),
                                      fixed(c.aicc, 1),
                                      fixed(c.delta_aicc, 1),
                                      fixed(c.weight, 3),
                                      fixed(c.bic, 1),
                                      of_left_out(c, c.leave_one_out.size, relative)};
    if (folds) cells.push_back(of_left_out(c, c.cross_validation, relative));
    table.add(std::move(cells));
  }
  return table;
}

namespace {

std::string largest_residual_text(const Candidate& c) {
  return std::isnan(c.largest_residual) ? "-"
                                        : fmt::format("{:.2f}, row {}", c.largest_residual, c.largest_residual_row);
}

PageTable counted_candidates_table(const Comparison& comparison) {
  PageTable table({{"#", Align::right},
                   {"candidate", Align::left},
                   {"deviance", Align::point},
                   {"degrees of freedom", Align::right},
                   {"largest residual", Align::point},
                   {"p (extra term)", Align::left}},
                  PageTable::narrow);
  for (std::size_t i = 0; i < comparison.candidates.size(); ++i) {
    const Candidate& c = comparison.candidates[i];
    table.add({place_number(i), cut(c.name), number_or_dash(c.deviance, 4),
               fmt::format("{}", c.fit.degrees_of_freedom()), largest_residual_text(c), p_text(c.added_p)});
  }
  return table;
}

}  // namespace

PageTable description_table(const Comparison& comparison) {
  if (is_counted(comparison)) return counted_candidates_table(comparison);
  const Observations& rows = comparison.candidates.front().fit.observations();
  const bool stated = has_uncertainties(comparison);
  const std::string& unit = rows.response().unit;
  PageTable table({{"#", Align::right},
                   {"candidate", Align::left},
                   {stated         ? "chi²/dof"
                    : unit.empty() ? "S"
                                   : fmt::format("S ({})", unit),
                    Align::point},
                   {"R²", Align::point},
                   {"adjusted R²", Align::point},
                   {"largest residual", Align::point},
                   {"p (extra term)", Align::left}},
                  PageTable::narrow);
  for (std::size_t i = 0; i < comparison.candidates.size(); ++i) {
    const Candidate& c = comparison.candidates[i];
    table.add({place_number(i), cut(c.name), number_or_dash(stated ? c.reduced_chi_squared : c.residual_sd, 4),
               number_or_dash(c.r_squared, 6), number_or_dash(c.adjusted_r_squared, 6), largest_residual_text(c),
               p_text(c.added_p)});
  }
  return table;
}

PageTable nested_table(const Comparison& comparison) {
  PageTable table({{"smaller", Align::left},
                   {"larger", Align::left},
                   {"test", Align::left},
                   {"statistic", Align::point},
                   {"degrees of freedom", Align::left},
                   {"p", Align::left}},
                  PageTable::narrow);
  for (const NestedPair& pair : comparison.nested_tests) {
    table.add({cut(comparison.candidates[pair.smaller].name), cut(comparison.candidates[pair.larger].name),
               std::string(name(pair.test.kind)), number_or_dash(pair.test.statistic, 4),
               std::isnan(pair.test.denominator) ? shortest(pair.test.added)
                                                 : fmt::format("{}, {}", pair.test.added, pair.test.denominator),
               p_text(pair.test.p)});
  }
  return table;
}

PageTable hold_out_table(const Comparison& comparison) {
  const Observations& observations = comparison.candidates.front().fit.observations();
  const std::string& unit = observations.response().unit;
  PageTable table({{"#", Align::right},
                   {"candidate", Align::left},
                   {"row", Align::right},
                   {unit.empty() ? "measured" : fmt::format("measured ({})", unit), Align::point},
                   {"predicted", Align::point},
                   {"error", Align::point},
                   {"error / u", Align::point}},
                  PageTable::narrow);
  for (std::size_t i = 0; i < comparison.held_out.size(); ++i) {
    const HeldOutRows& held = comparison.held_out[i];
    double squares = 0;
    double relative = 0;
    std::size_t count = 0;
    for (const HeldOutRow& row : held.rows) {
      if (count < rows_listed) {
        const bool first = count == 0;
        table.add({first ? place_number(i) : "", first ? cut(held.name) : "", fmt::format("{}", row.row),
                   shortest(row.measured),
                   std::isnan(row.predicted) ? "-" : with_uncertainty(row.predicted, row.standard_uncertainty),
                   number_or_dash(row.error, 3), fixed(row.in_uncertainties, 2)});
      }
      squares += row.error * row.error;
      relative += row.in_uncertainties * row.in_uncertainties;
      ++count;
    }
    if (count > 1) {
      const auto n = static_cast<double>(count);
      table.add({"", "  root mean square", "", "", "", number_or_dash(std::sqrt(squares / n), 3),
                 fixed(std::sqrt(relative / n), 2)});
    }
  }
  return table;
}

PageTable routes_table(const RoutePair& pair) {
  PageTable table({{"parameter", Align::left},
                   {"direct", Align::point},
                   {"linearized", Align::point},
                   {"difference / u(direct)", Align::point}});
  for (const RouteParameter& p : pair.parameters) {
    table.add({p.name, with_uncertainty(p.direct, p.direct_uncertainty),
               with_uncertainty(p.linearized, p.linearized_uncertainty),
               fixed((p.linearized - p.direct) / p.direct_uncertainty, 2)});
  }
  return table;
}

}  // namespace truecurve::detail
