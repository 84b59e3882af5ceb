// The tables of a calibration's page.
#include <truecurve/assess/intervals.hpp>

#include "calibration_parts.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {

PageTable calibration_parameters_table(const Calibration& c) {
  PageTable table({{"name", Align::left},
                   {"value", Align::point},
                   {"standard uncertainty", Align::point},
                   {level_text(c.options.level) + " interval", Align::left},
                   {"p (H0: = 0)", Align::left},
                   {"unit", Align::left}});
  for (const ParameterInterval& p : c.parameters) {
    const bool known = std::isfinite(p.standard_uncertainty);
    table.add({p.name, with_uncertainty(p.value, p.standard_uncertainty),
               known ? rounded(p.standard_uncertainty, 2) : "-",
               known ? interval_text(p.low, p.high, p.standard_uncertainty) : "-", p_text(p.p), p.unit});
  }
  return table;
}

PageTable levels_table(const Calibration& c) {
  PageTable table(
      {{headed(c.readings.amount), Align::point},
       {"n", Align::right},
       {headed(c.readings.are_counts ? "rate" : "mean", c.readings.signal), Align::point},
       {"SD", Align::point},
       {"SD (%)", Align::point},
       {level_text(c.options.level) + " interval of the " + (c.readings.are_counts ? "rate" : "mean"), Align::left},
       {"curve", Align::point}});
  for (const CalibrationLevel& level : c.levels) {
    const double curve = curve_at(c.curve.estimate, level.amount).value;
    const double half = (level.interval.high - level.interval.low) / 2;
    table.add({shortest(level.amount), fmt::format("{}", level.readings.size()), fmt::format("{:.5g}", level.mean),
               number_or_dash(level.sd, 3),
               !(std::abs(level.mean) > 0) || std::isnan(level.sd)
                   ? "-"
                   : fmt::format("{:.2g}", 100 * level.sd / std::abs(level.mean)),
               std::isnan(half) ? "-" : interval_text(level.interval.low, level.interval.high, half / 2),
               fmt::format("{:.5g}", curve)});
  }
  return table;
}

PageTable equal_scatter_table(const EqualScatter& e) {
  if (std::isnan(e.family_p)) return {};
  PageTable table({{"test", Align::left}, {"statistic", Align::left}, {"p", Align::left}}, PageTable::narrow);
  if (!std::isnan(e.brown_forsythe))
    table.add({"Brown-Forsythe", "F = " + rounded(e.brown_forsythe, 3), p_text(e.brown_forsythe_p)});
  table.add({"Cochran", "C = " + rounded(e.cochran, 3), p_text(e.cochran_p)});
  table.add({"upper against lower third",
             std::isinf(e.high_to_low) ? "the lower third does not scatter"
                                       : fmt::format("variances {} to 1", rounded(e.high_to_low, 3)),
             p_text(e.high_to_low_p)});
  return table;
}

PageTable alternatives_table(const Calibration& c) {
  if (c.alternatives.size() < 2) return {};
  PageTable table({{"treatment", Align::left},
                   {"slope", Align::point},
                   {"intercept", Align::point},
                   {"detection limit", Align::point},
                   {"an unknown in the middle", Align::point}},
                  PageTable::narrow);
  for (const Alternative& a : c.alternatives) {
    table.add({a.name, with_uncertainty(a.slope, a.slope_uncertainty),
               with_uncertainty(a.intercept, a.intercept_uncertainty), number_or_dash(a.detection, 3),
               std::isnan(a.mid_amount) ? "beyond it" : with_uncertainty(a.mid_amount, a.mid_uncertainty)});
  }
  return table;
}

PageTable linearity_table(const Linearity& l) {
  PageTable table({{""}, {""}, {"", Align::sentence}});
  const auto check = [&table](const char* name, double p, const char* sentence) {
    if (!std::isnan(p)) table.add({name, p_equals(p), sentence});
  };
  check("lack of fit", l.lack_of_fit_p,
        l.lack_of_fit_p < 0.05
            ? "The level means deviate from the line by more than the scatter of the replicates explains."
            : "No lack of fit detected.");
  check("Mandel", l.mandel_p,
        l.mandel_p < 0.05 ? "A quadratic describes the readings significantly better than the line."
                          : "A quadratic is not significantly better.");
  check("intercept zero", l.intercept_p,
        l.intercept_p < 0.05 ? "The intercept differs from zero."
                             : "No intercept detected (which is no proof that there is none).");
  return table;
}

PageTable limits_table(const Calibration& c) {
  PageTable table({{"route", Align::left},
                   {headed("critical value", c.readings.amount), Align::point},
                   {"detection limit", Align::point},
                   {"quantitation limit", Align::point}},
                  PageTable::narrow);
  for (const LimitRoute& route : c.limits)
    table.add({std::string(name(route.route)), number_or_dash(route.critical, 3), detection_text(route),
               number_or_dash(route.quantitation, 3)});
  return table;
}

std::string detection_text(const LimitRoute& route) {
  return std::isnan(route.detection)               ? "-"
         : std::isnan(route.detection_uncertainty) ? rounded(route.detection, 3)
                                                   : with_uncertainty(route.detection, route.detection_uncertainty);
}

}  // namespace truecurve::detail
