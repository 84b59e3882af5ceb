// The page and the table of quantities read through a calibration.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/report/calibration_text.hpp>

#include "page.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve {
namespace {

using detail::Align;
using detail::csv_field;
using detail::csv_number;
using detail::Grid;
using detail::headed;
using detail::item;
using detail::level_text;
using detail::narrow_gap;
using detail::number_or_dash;

}  // namespace

std::string dilution_advice(double further, double so_far) {
  const std::string total = so_far == 1 ? "" : fmt::format(" more, {:.6g} in all", further * so_far);
  return fmt::format("dilute by about {:.0f}{}", further, total);
}

std::string quantities_text(const Quantities& quantities, const Quantity& amount, const CalibrationCurve& curve,
                            const LimitOptions& limits) {
  std::string text = fmt::format("{}\nread through {}\n\n", headed(amount), curve.estimate.model().text());
  const bool diluted = std::any_of(quantities.unknowns.begin(), quantities.unknowns.end(),
                                   [](const Quantified& q) { return q.unknown.dilution != 1; });
  const bool controls = std::any_of(quantities.unknowns.begin(), quantities.unknowns.end(),
                                    [](const Quantified& q) { return q.kind == ReadingKind::control; });
  std::vector<Grid::Heading> headings = {{"sample", Align::left}, {"n", Align::right}};
  if (diluted) headings.push_back({"factor", Align::point});
  headings.push_back({headed(amount), Align::point});
  headings.push_back({level_text(curve.level) + " interval", Align::left});
  for (const char* part : {"u(readings)", "u(curve)", "u(blank)"}) headings.push_back({part, Align::point});
  if (diluted) headings.push_back({"u(dilution)", Align::point});
  headings.push_back({"", Align::left});
  Grid grid(headings, narrow_gap);
  for (const Quantified& q : quantities.unknowns) {
    const Amount& a = q.amount;
    const double u = a.standard_uncertainty;
    std::vector<std::string> cells = {q.sample, fmt::format("{}", q.unknown.signals.size())};
    if (diluted) cells.push_back(shortest(q.unknown.dilution));
    cells.push_back(std::isnan(a.amount) ? "-" : with_uncertainty(a.amount, u));
    cells.push_back(std::isnan(a.interval.low) ? "-" : interval_text(a.interval.low, a.interval.high, u));
    for (const double part : {a.budget.readings, a.budget.curve, a.budget.blank})
      cells.push_back(number_or_dash(part, 2));
    if (diluted) cells.push_back(number_or_dash(a.budget.dilution, 2));
    std::string remark(name(q.flag));
    if (q.flag == AmountFlag::not_detected && std::isfinite(q.limits.critical))
      remark += fmt::format(" (critical value {})", rounded(q.limits.critical, 3));
    if (q.flag == AmountFlag::below_detection_limit) remark += " " + rounded(q.limits.detection, 3);
    if (q.flag == AmountFlag::below_quantitation_limit) remark += " " + rounded(q.limits.quantitation, 3);
    if (std::isfinite(q.dilute_by)) remark += ": " + dilution_advice(q.dilute_by, q.unknown.dilution);
    for (const double other : a.others)
      remark += fmt::format("{} {}", remark == "ambiguous" ? " with" : ",", rounded(other, 4));
    cells.push_back(remark);
    grid.add(std::move(cells));
  }
  text += grid.text();
  if (controls) {
    text += "\nControls\n";
    Grid recovery({{"control", Align::left},
                   {headed("known", amount), Align::point},
                   {"found", Align::point},
                   {"recovery", Align::point},
                   {"error / u", Align::point}});
    for (const Quantified& q : quantities.unknowns) {
      if (q.kind != ReadingKind::control) continue;
      const bool read = !std::isnan(q.amount.amount);
      recovery.add({q.sample, shortest(q.nominal),
                    read ? with_uncertainty(q.amount.amount, q.amount.standard_uncertainty) : "-",
                    std::isnan(q.recovery)
                        ? "-"
                        : fmt::format("{} %", with_uncertainty(100 * q.recovery, 100 * q.recovery_uncertainty)),
                    read && q.amount.standard_uncertainty > 0
                        ? fmt::format("{:.2f}", (q.amount.amount - q.nominal) / q.amount.standard_uncertainty)
                        : "-"});
    }
    text += recovery.text();
  }
  std::string careful;
  const auto any = [&quantities](AmountFlag flag) {
    return std::any_of(quantities.unknowns.begin(), quantities.unknowns.end(),
                       [flag](const Quantified& q) { return q.flag == flag; });
  };
  if (any(AmountFlag::not_detected))
    careful += item(fmt::format(
        "Not detected: the reading does not exceed the critical value for as many readings, which a blank exceeds with "
        "{} {:.3g}. The upper end of the interval says how much there may be; the value is given so "
        "that it can be averaged.",
        curve.are_counts ? "a nominal probability of at most" : "nominal probability", limits.alpha));
  if (any(AmountFlag::below_detection_limit))
    careful += item("Detected, below the detection limit: analyte is there, in an amount that would often be missed.");
  if (any(AmountFlag::below_zero))
    careful += item("Below zero: the whole interval is. Check blank, matrix and baseline.");
  if (any(AmountFlag::above_range))
    careful += item("Above the highest standard the curve is not known: dilute the sample and measure it again.");
  for (const std::string& remark : quantities.remarks) careful += item(remark);
  return careful.empty() ? text : text + "\nCautions\n" + careful;
}

std::string quantities_csv(const Quantities& quantities) {
  std::string text =
      "sample,kind,readings,dilution,net_signal,amount,standard_uncertainty,low,high,u_readings,u_curve,u_blank,u_"
      "dilution,"
      "flag,critical,detection,quantitation,dilute_by,sd,sd_p,nominal,recovery,recovery_uncertainty\n";
  for (const Quantified& q : quantities.unknowns) {
    const Amount& a = q.amount;
    text += fmt::format(
        "{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{}\n", csv_field(q.sample), name(q.kind),
        q.unknown.signals.size(), csv_number(q.unknown.dilution), csv_number(a.signal), csv_number(a.amount),
        csv_number(a.standard_uncertainty), csv_number(a.interval.low), csv_number(a.interval.high),
        csv_number(a.budget.readings), csv_number(a.budget.curve), csv_number(a.budget.blank),
        csv_number(a.budget.dilution), csv_field(std::string(name(q.flag))), csv_number(q.limits.critical),
        csv_number(q.limits.detection), csv_number(q.limits.quantitation), csv_number(q.dilute_by), csv_number(q.sd),
        csv_number(q.sd_p), csv_number(q.nominal), csv_number(q.recovery), csv_number(q.recovery_uncertainty));
  }
  return text;
}

}  // namespace truecurve
