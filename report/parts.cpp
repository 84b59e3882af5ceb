// Makes them.
#include "parts.hpp"

#include <truecurve/assess/equation.hpp>

#include "words.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {

std::string of_source(const TableSource& source) { return source.name.empty() ? "" : " of " + source.name; }

std::string rows_used_text(const Observations& observations) {
  const std::string from = of_source(observations.source());
  if (observations.size() == 1 && observations.rows_read() == 1) return "the only row" + from;
  return observations.size() == observations.rows_read()
             ? fmt::format("all {}{}", plural(observations.size(), "row"), from)
             : fmt::format("{} of {}{}", observations.size(), plural(observations.rows_read(), "row"), from);
}

void add_left_out(Page& page, std::span<const LeftOut> left_out) {
  for (const auto& [reason, rows] : by_reason(left_out))
    page.caution(fmt::format("Left out: {}: {}.", rows_text(rows), reason));
}

void add_held(PageTable& table, const Model& model) {
  for (const FixedParameter& held : model.fixed()) {
    std::vector<std::string> cells = {held.name, shortest(held.value), "held"};
    for (std::size_t k = cells.size(); k < table.headings.size(); ++k)
      cells.emplace_back(table.headings[k].text == "unit" ? "" : "-");
    table.add(std::move(cells));
  }
}

std::string bounds_text(const Interval& at) {
  return std::isnan(at.low) ? "-" : interval_text(at.low, at.high, (at.high - at.low) / 4);
}

namespace {

// "is 1.2 to 3.4", or which of its limits there is.
std::string interval_predicate(const Interval& interval, double scale) {
  const bool open_below = std::isinf(interval.low);
  const bool open_above = std::isinf(interval.high);
  if (open_below && open_above) return "has no limit on either side";
  if (open_below) return fmt::format("has no lower limit and ends at {}", limit_text(interval.high, scale));
  if (open_above) return fmt::format("begins at {} and has no upper limit", limit_text(interval.low, scale));
  return "is " + interval_text(interval.low, interval.high, scale);
}

}  // namespace

std::string curved_remark(const DerivedQuantity& q, Level level) {
  if (q.is_unbounded) {
    return fmt::format("A divisor in {} may be 0 within its uncertainty: at {} no bounded interval of {} holds{}.",
                       q.name, level_text(level), q.name,
                       std::isnan(q.excluded.low) ? "" : "; it may be " + rays_text(q.excluded));
  }
  if (!q.curved) return "";
  std::string text = fmt::format(
      "The symmetric interval of {} is inaccurate: the expression is nonlinear over the uncertainty of the parameters. "
      "Its {} Monte Carlo interval {}.",
      q.name, level_text(level), interval_predicate(q.monte_carlo, q.standard_uncertainty));
  if (q.without_value > 0)
    text += fmt::format(" In {} of the draws {} has no value.", share_text(q.without_value), q.name);
  return text;
}

void add_deductions(Page& page, const Deductions& deductions, Level level) {
  if (!deductions.derived.empty()) {
    PageTable table({{"name", Align::left},
                     {"value", Align::point},
                     {"standard uncertainty", Align::point},
                     {level_text(level) + " interval", Align::left},
                     {"unit", Align::left},
                     {"from", Align::left}});
    for (const DerivedQuantity& q : deductions.derived) {
      const bool known = std::isfinite(q.standard_uncertainty);
      table.add({q.name, with_uncertainty(q.value, q.standard_uncertainty),
                 known ? rounded(q.standard_uncertainty, 2) : "-",
                 q.is_unbounded ? std::isnan(q.excluded.low) ? "no bounded interval" : rays_text(q.excluded)
                 : known ? interval_text(q.interval.low, q.interval.high, q.standard_uncertainty)
                                : "-",
                 q.unit, q.expression});
    }
    PageSection& section = page.section("Derived quantities");
    section.show(std::move(table));
    section.in_brief = true;
  }
  if (deductions.hypotheses.empty()) return;
  PageSection& section = page.section("Hypotheses");
  section.in_brief = true;
  for (const HypothesisTest& h : deductions.hypotheses) {
    const bool is_significant = h.p < 1 - level;
    const char* const finding = h.is_one_sided   ? is_significant ? "the difference is significant"
                                                                  : "no significant difference in this direction"
                                : is_significant ? "rejected"
                                                 : "not rejected";
    section.list(fmt::format(
        "{}: the sides differ by {}, t = {}, {}{}; {}.", h.hypothesis,
        with_uncertainty(h.difference, h.standard_uncertainty), number_or_dash(h.t, 3),
        h.is_one_sided ? "one-sided " : "", p_equals(h.p),
        std::isnan(h.p) ? "it cannot be tested" : fmt::format("{} at the {} level", finding, level_text(1 - level))));
  }
}

std::string equation_sentence(const Estimate& estimate) {
  // Longer ones are for programs, which ask for them.
  constexpr std::size_t longest = 300;
  const bool is_long = estimate.model().text().size() > longest;
  if (estimate.model().kind() == "function" || estimate.open_end() || is_long) return "";
  const std::string equation = equation_with_numbers(estimate);
  return equation.size() > longest ? "" : "With numbers: " + equation;
}

void add_limit_cautions(Page& page, const Estimate& estimate) {
  for (const std::string& remark : limit_remarks(estimate)) page.caution(remark);
}

std::string joined_remarks(std::initializer_list<std::string> remarks) {
  std::string text;
  for (const std::string& remark : remarks) {
    if (!remark.empty()) text += (text.empty() ? "" : "; ") + remark;
  }
  return text;
}

std::string values_sentence(const Estimate& estimate, std::span<const Vector> points,
                            std::span<const BandPoint> values) {
  if (values.empty()) return "";
  constexpr std::size_t most = 4;
  std::string list;
  for (std::size_t i = 0; i < std::min(most, values.size()); ++i) {
    std::string place;
    for (std::size_t k = 0; k < points.size(); ++k)
      place += fmt::format("{}{} = {}", k == 0 ? "" : ", ", estimate.predictors()[k].name, shortest(points[k][i]));
    list += fmt::format("{}{} at {}", i == 0 ? "" : "; ",
                        with_uncertainty(values[i].value, values[i].standard_uncertainty), place);
  }
  return fmt::format("{} is {}{}.", headed(estimate.response()), list, values.size() > most ? " and so on" : "");
}

}  // namespace truecurve::detail
