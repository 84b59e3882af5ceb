// The page of quantities read through a calibration.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/report/calibration_page.hpp>

#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::headed;
using detail::level_text;
using detail::number_or_dash;

std::string dilution_advice(double further, double so_far) {
  const std::string total = so_far == 1 ? "" : fmt::format(" more, {:.6g} in all", further * so_far);
  return fmt::format("dilute by about {:.0f}{}", further, total);
}

// The flag with the number that it was given for.
std::string flag_text(const Quantified& q) {
  std::string remark(name(q.flag));
  if (q.flag == AmountFlag::not_detected && std::isfinite(q.limits.critical))
    remark += fmt::format(" (critical value {})", rounded(q.limits.critical, 3));
  if (q.flag == AmountFlag::below_detection_limit) remark += " " + rounded(q.limits.detection, 3);
  if (q.flag == AmountFlag::below_quantitation_limit) remark += " " + rounded(q.limits.quantitation, 3);
  if (std::isfinite(q.dilute_by)) remark += ": " + dilution_advice(q.dilute_by, q.unknown.dilution);
  for (const double other : q.amount.other_amounts)
    remark += fmt::format("{} {}", remark == "ambiguous" ? " with" : ",", rounded(other, 4));
  return remark;
}

std::string amount_text(const Amount& a) {
  return std::isnan(a.amount) ? "-" : with_uncertainty(a.amount, a.standard_uncertainty);
}

// "c_Pb (mg/g): 1.23(4) in gate; 0.02(3) in rim [not detected] and so on."
std::string answer_sentence(const Quantities& quantities, const Quantity& amount) {
  if (quantities.unknowns.empty()) return "";
  constexpr std::size_t most = 6;
  std::string list;
  for (std::size_t i = 0; i < std::min(most, quantities.unknowns.size()); ++i) {
    const Quantified& q = quantities.unknowns[i];
    const std::string flag = flag_text(q);
    list += fmt::format("{}{} in {}{}", i == 0 ? "" : "; ", amount_text(q.amount), q.sample,
                        flag.empty() ? "" : fmt::format(" [{}]", flag));
  }
  return fmt::format("{}: {}{}.", headed(amount), list, quantities.unknowns.size() > most ? " and so on" : "");
}

// A part of the uncertainty, shown where it is one of any sample.
struct BudgetColumn {
  const char* heading;
  double UncertaintyBudget::*part;
};
constexpr BudgetColumn budget_columns[] = {{"u(readings)", &UncertaintyBudget::readings},
                                           {"u(curve)", &UncertaintyBudget::curve},
                                           {"u(blank)", &UncertaintyBudget::blank},
                                           {"u(dilution)", &UncertaintyBudget::dilution}};

PageTable unknowns_table(const Quantities& quantities, const Quantity& amount, Level level) {
  const std::vector<Quantified>& unknowns = quantities.unknowns;
  const auto any = [&unknowns](const auto& test) { return std::any_of(unknowns.begin(), unknowns.end(), test); };
  const bool diluted = any([](const Quantified& q) { return q.unknown.dilution != 1; });
  const bool flagged = any([](const Quantified& q) { return !flag_text(q).empty(); });
  PageTable table({{"sample", Align::left}, {"n", Align::right}}, PageTable::narrow);
  if (diluted) table.headings.push_back({"factor", Align::point});
  table.headings.push_back({headed(amount), Align::point});
  table.headings.push_back({level_text(level) + " interval", Align::left});
  // A flag stands near its sample, before what is of interest to few.
  if (flagged) table.headings.push_back({"flag", Align::left});
  std::vector<double UncertaintyBudget::*> parts;
  for (const BudgetColumn& column : budget_columns) {
    if (!any([&column](const Quantified& q) { return q.amount.budget.*column.part > 0; })) continue;
    table.headings.push_back({column.heading, Align::point});
    parts.push_back(column.part);
  }
  for (const Quantified& q : unknowns) {
    const Amount& a = q.amount;
    std::vector<std::string> cells = {q.sample, fmt::format("{}", q.unknown.signals.size())};
    if (diluted) cells.push_back(shortest(q.unknown.dilution));
    cells.push_back(amount_text(a));
    cells.push_back(
        std::isnan(a.interval.low) ? "-" : interval_text(a.interval.low, a.interval.high, a.standard_uncertainty));
    if (flagged) cells.push_back(flag_text(q));
    for (const auto part : parts) cells.push_back(number_or_dash(a.budget.*part, 2));
    table.add(std::move(cells));
  }
  return table;
}

PageTable controls_table(const Quantities& quantities, const Quantity& amount) {
  PageTable table({{"control", Align::left},
                   {headed("known", amount), Align::point},
                   {"found", Align::point},
                   {"recovery", Align::point},
                   {"error / u", Align::point}});
  for (const Quantified& q : quantities.unknowns) {
    if (q.kind != ReadingKind::control) continue;
    const bool read = !std::isnan(q.amount.amount);
    table.add({q.sample, shortest(q.nominal), amount_text(q.amount),
               std::isnan(q.recovery)
                   ? "-"
                   : fmt::format("{} %", with_uncertainty(100 * q.recovery, 100 * q.recovery_uncertainty)),
               read && q.amount.standard_uncertainty > 0
                   ? fmt::format("{:.2f}", (q.amount.amount - q.nominal) / q.amount.standard_uncertainty)
                   : "-"});
  }
  return table;
}

PageData data_of(const Quantities& quantities) {
  PageData data{.names = {"sample",
                          "kind",
                          "readings",
                          "dilution",
                          "net_signal",
                          "amount",
                          "standard_uncertainty",
                          "low",
                          "high",
                          "u_readings",
                          "u_curve",
                          "u_blank",
                          "u_dilution",
                          "flag",
                          "critical",
                          "detection",
                          "quantitation",
                          "dilute_by",
                          "sd",
                          "sd_p",
                          "nominal",
                          "recovery",
                          "recovery_uncertainty"}};
  for (const Quantified& q : quantities.unknowns) {
    const Amount& a = q.amount;
    data.rows.push_back({q.sample,
                         std::string(name(q.kind)),
                         q.unknown.signals.size(),
                         q.unknown.dilution,
                         a.net_signal,
                         a.amount,
                         a.standard_uncertainty,
                         a.interval.low,
                         a.interval.high,
                         a.budget.readings,
                         a.budget.curve,
                         a.budget.blank,
                         a.budget.dilution,
                         std::string(name(q.flag)),
                         q.limits.critical,
                         q.limits.detection,
                         q.limits.quantitation,
                         q.dilute_by,
                         q.sd,
                         q.sd_p,
                         q.nominal,
                         q.recovery,
                         q.recovery_uncertainty});
  }
  return data;
}

}  // namespace

Page quantities_page(const Quantities& quantities, const Quantity& amount, const CalibrationCurve& curve,
                     const LimitOptions& limits) {
  Page page{.title = headed(amount),
            .subject = "read through " + curve.without_blank.model().text(),
            .answer = answer_sentence(quantities, amount),
            .data = data_of(quantities)};
  page.lead.show(unknowns_table(quantities, amount, curve.level));
  page.section("Controls").show(controls_table(quantities, amount));
  const auto any = [&quantities](AmountFlag flag) {
    return std::any_of(quantities.unknowns.begin(), quantities.unknowns.end(),
                       [flag](const Quantified& q) { return q.flag == flag; });
  };
  if (any(AmountFlag::not_detected))
    page.caution(fmt::format(
        "Not detected: the reading does not exceed the critical value for as many readings, which a blank exceeds with "
        "{} {:.3g}. The upper end of the interval says how much there may be; the value is given so "
        "that it can be averaged.",
        curve.are_counts ? "a nominal probability of at most" : "nominal probability", limits.alpha));
  if (any(AmountFlag::below_detection_limit))
    page.caution("Detected, but below the detection limit: such an amount would often be missed.");
  if (any(AmountFlag::below_zero))
    page.caution("The whole interval lies below zero: check blank, matrix and baseline.");
  if (any(AmountFlag::above_range))
    page.caution("Above the highest standard the curve is not known: dilute the sample and measure it again.");
  for (const std::string& remark : quantities.remarks) page.caution(remark);
  return page;
}

}  // namespace truecurve
