// The pages of a calibration.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/base/distributions.hpp>
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
using detail::p_text;
using detail::paragraph;
using detail::plural;
using detail::with_unit;

std::string headline(const Calibration& c) {
  std::string others;
  for (const auto& [kind, noun] :
       {std::pair{ReadingKind::blank, "blank"}, {ReadingKind::fortified, "fortified sample"}}) {
    const std::size_t count = c.readings.of(kind).size();
    if (count > 0) others += fmt::format(", {}", plural(count, noun));
  }
  return fmt::format("{}\ncalibration of {} against {} by {} at {}{}{}\n\n", c.fit.model().text(),
                     c.readings.signal.name, c.readings.amount.name, plural(c.used.size(), "reading"),
                     plural(c.levels.size(), "level"), others,
                     c.readings.source.name.empty() ? "" : " of " + c.readings.source.name);
}

std::string blank_sentence(const Calibration& c) {
  if (c.blank.count == 0) return "";
  const std::string& unit = c.readings.signal.unit;
  const std::string mean = with_unit(with_uncertainty(c.blank.mean, c.blank.mean_uncertainty), unit);
  switch (c.options.blank) {
    case BlankUse::none:
      return fmt::format("The mean of {} is {}; it is not part of the line.", plural(c.blank.count, "blank"), mean);
    case BlankUse::include:
      return fmt::format("{} with the mean {} are part of the line as standards of amount 0.",
                         plural(c.blank.count, "blank"), mean);
    case BlankUse::subtract: break;
  }
  const bool cancels = c.fit.model().is_linear() && c.fit.model().constant_index() >= 0;
  return fmt::format(
      "The mean {} of {} is subtracted from every signal; its uncertainty is common to all and is carried as "
      "covariance{}.",
      mean, plural(c.blank.count, "blank"),
      cancels ? ": it is part of the constant's uncertainty, and cancels in unknowns read against the same "
                "blank"
              : "");
}

// What an exposure is in: "min" where the rate is in 1/min.
std::string exposure_unit(const Quantity& rate) { return rate.unit.starts_with("1/") ? rate.unit.substr(2) : ""; }

std::string scatter_sentence(const Calibration& c) {
  const std::string& y = c.readings.signal.name;
  switch (c.options.scatter.kind) {
    case SignalScatter::Kind::constant:
      return fmt::format("All readings weigh the same; their residual standard deviation is {}.",
                         with_unit(number_or_dash(c.curve.scatter.scale, 4), c.readings.signal.unit));
    case SignalScatter::Kind::power:
      return fmt::format("The scatter of {} is taken as proportional to {}{}.", y,
                         c.options.scatter.power == 1 ? y : fmt::format("{}^{}", y, shortest(c.options.scatter.power)),
                         c.options.blank == BlankUse::subtract ? ", the gross signal with its blank" : "");
    case SignalScatter::Kind::both:
      return fmt::format(
          "The readings are weighted by the scatter of the levels: s = sqrt(s0² + (k × net signal)²), the net signal "
          "counted from amount 0, with the most probable values s0 = {} and k = {}. Intervals and limits average over "
          "the {} weightings that the readings allow. They are approximate: in simulated laboratories 91 to 99 % of 95 "
          "% "
          "intervals near the ends held, and up to 7 % of blanks exceeded a critical value meant for 5 %.",
          with_unit(rounded(c.curve.scatter.growing.constant, 3), c.readings.signal.unit),
          rounded(c.curve.scatter.growing.slope, 3), c.curve.weightings.size());
    case SignalScatter::Kind::stated:
      return fmt::format(
          "The stated uncertainties of {}{} are taken as they stand: chi-squared is {} with {} degrees of "
          "freedom (p = {}).",
          y,
          c.has_uncertain_standards
              ? fmt::format(" and of the amounts {} ({})", c.readings.amount.name,
                            c.options.separate_standards ? "each reading of a standard of its own"
                                                         : "readings of one standard share its error")
              : "",
          rounded(c.chi_squared, 4), c.degrees_of_freedom,
          c.degrees_of_freedom > 0 ? p_text(chi_squared_upper(c.chi_squared, c.degrees_of_freedom)) : "-");
    case SignalScatter::Kind::counted:
      return fmt::format(
          "{} is counted: the curve is that of the counts for one unit of the exposure, by maximum likelihood, and "
          "readings scatter as counts do (Poisson). Intervals of levels are exact and hold at least at their level; "
          "those "
          "of unknowns are exact but for the uncertainty of the curve.",
          y);
  }
  return "";
}

std::string parameters_grid(const Calibration& c) {
  Grid grid({{"name", Align::left},
             {"value", Align::point},
             {"standard uncertainty", Align::point},
             {level_text(c.options.level) + " interval", Align::left},
             {"p (H0: = 0)", Align::left},
             {"unit", Align::left}});
  for (const ParameterInterval& p : c.parameters) {
    const bool known = std::isfinite(p.standard_uncertainty);
    grid.add({p.name, with_uncertainty(p.value, p.standard_uncertainty),
              known ? rounded(p.standard_uncertainty, 2) : "-",
              known ? interval_text(p.low, p.high, p.standard_uncertainty) : "-", p_text(p.p), p.unit});
  }
  return grid.text();
}

std::string levels_grid(const Calibration& c) {
  Grid grid(
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
    grid.add({shortest(level.amount), fmt::format("{}", level.readings.size()), fmt::format("{:.5g}", level.mean),
              number_or_dash(level.sd, 3),
              !(std::abs(level.mean) > 0) || std::isnan(level.sd)
                  ? "-"
                  : fmt::format("{:.2g}", 100 * level.sd / std::abs(level.mean)),
              std::isnan(half) ? "-" : interval_text(level.interval.low, level.interval.high, half / 2),
              fmt::format("{:.5g}", curve)});
  }
  return grid.text();
}

std::string suspicious_text(const Calibration& c) {
  std::string text;
  for (std::size_t i = 0; i < c.suspicious.size(); ++i) {
    const Suspicion& s = c.suspicious[i];
    const bool grubbs = s.test == Suspicion::Test::grubbs;
    const std::string grade = (s.grade == Grade::outlier ? "an " : "a ") + std::string(name(s.grade));
    std::string place = c.readings.place_of(s.reading);
    place[0] = 'R';
    const std::string value = with_unit(shortest(s.reading.signal + c.curve.blank), c.readings.signal.unit);
    std::string sentence =
        grubbs ? fmt::format("{} ({} at level {}) is {} by Grubbs' test (G = {}, p = {}).", place, value,
                             shortest(s.amount), grade, rounded(s.statistic, 3), probability_text(s.p))
               : fmt::format(
                     "The scatter of level {} is {} by Cochran's test (C = {}, p = {}); the reading farthest out "
                     "is that of {} ({}).",
                     shortest(s.amount), grade, rounded(s.statistic, 3), probability_text(s.p),
                     c.readings.place_of(s.reading), value);
    if (i < c.without.size() && std::isfinite(c.without[i].slope)) {
      const auto& parameters = c.parameters;
      const auto constant = static_cast<std::size_t>(c.reported.model().constant_index());
      sentence +=
          fmt::format(" Without that reading the slope would be {} instead of {}, the intercept {} instead of {}.",
                      rounded(c.without[i].slope, 5), rounded(parameters[1 - constant].value, 5),
                      rounded(c.without[i].intercept, 4), rounded(parameters[constant].value, 4));
    }
    text += item(sentence + " Nothing is removed: find out what happened.");
  }
  return text.empty() ? "" : "\nSuspicious readings\n" + text;
}

std::string scatter_grid(const EqualScatter& e) {
  if (std::isnan(e.family_p)) return "";
  Grid grid({{"test", Align::left}, {"statistic", Align::left}, {"p", Align::left}}, narrow_gap);
  if (!std::isnan(e.brown_forsythe))
    grid.add({"Brown-Forsythe", "F = " + rounded(e.brown_forsythe, 3), p_text(e.brown_forsythe_p)});
  grid.add({"Cochran", "C = " + rounded(e.cochran, 3), p_text(e.cochran_p)});
  grid.add({"upper against lower third",
            std::isinf(e.high_to_low) ? "the lower third does not scatter"
                                      : fmt::format("variances {} to 1", rounded(e.high_to_low, 3)),
            p_text(e.high_to_low_p)});
  return grid.text();
}

std::string alternatives_grid(const Calibration& c) {
  if (c.alternatives.size() < 2) return "";
  Grid grid({{"treatment", Align::left},
             {"slope", Align::point},
             {"intercept", Align::point},
             {"detection limit", Align::point},
             {"an unknown in the middle", Align::point}},
            narrow_gap);
  for (const Alternative& a : c.alternatives) {
    grid.add({a.name, with_uncertainty(a.slope, a.slope_uncertainty),
              with_uncertainty(a.intercept, a.intercept_uncertainty), number_or_dash(a.detection, 3),
              std::isnan(a.mid_amount) ? "beyond it" : with_uncertainty(a.mid_amount, a.mid_uncertainty)});
  }
  return grid.text();
}

std::string linearity_text(const Calibration& c) {
  std::string text;
  const auto check = [&text](const char* name, double p, const std::string& sentence) {
    if (std::isnan(p)) return;
    text += detail::wrapped(sentence, detail::page_width(), std::string(34, ' '),
                            fmt::format("  {:<16} p = {:<8}    ", name, probability_text(p)));
  };
  const Linearity& l = c.linearity;
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
  return text.empty() ? "" : "\nLinearity\n" + text;
}

// The last part of the remarks, where it is that of every route: "below the lowest standard (0.25)".
std::string common_remark(const std::vector<LimitRoute>& routes) {
  const std::string_view head = "below the lowest standard";
  const auto at = routes.front().remark.find(head);
  if (at == std::string::npos) return "";
  const std::string part = routes.front().remark.substr(at, routes.front().remark.find(';', at) - at);
  const bool all = std::all_of(routes.begin(), routes.end(), [&part](const LimitRoute& route) {
    return route.remark.find(part) != std::string::npos;
  });
  return all ? part : "";
}

std::string without(std::string remark, const std::string& part) {
  if (part.empty()) return remark;
  const auto at = remark.find(part);
  remark.erase(at, part.size());
  // The separator beside it goes with it.
  if (at >= 2) {
    remark.erase(at - 2, 2);
  } else if (remark.starts_with("; ")) {
    remark.erase(0, 2);
  }
  return remark;
}

// What the limits mean.
std::string limits_meaning(const Calibration& c) {
  const LimitOptions& o = c.options.limits;
  const std::string simulated =
      o.simulations >= 20
          ? fmt::format(" The uncertainties of the limits are those of {} simulated calibrations.", o.simulations)
          : "";
  if (c.readings.are_counts)
    return fmt::format(
        "For {} with an exposure of {}. A blank is declared to contain analyte with a nominal probability of at most "
        "{:.3g}, as counts are whole numbers; an amount at the detection limit is missed with nominal probability "
        "{:.3g}; at the "
        "quantitation limit the relative standard uncertainty is 10 %. Samples are judged by 'critical value and "
        "power'.{} {}",
        o.readings == 1 ? "a single count of an unknown"
                        : fmt::format("{} counts of an unknown together, each", o.readings),
        with_unit(shortest(o.exposure), exposure_unit(c.readings.signal)), o.alpha, o.beta, simulated,
        c.cautious_limit);
  return fmt::format(
      "For {} of an unknown. The critical value is exceeded by a blank with nominal probability {:.3g}; an "
      "amount at "
      "the detection limit of 'critical value and power' falls below it with nominal probability {:.3g}; the "
      "quantitation limit of the last two routes is where the relative standard uncertainty is 10 %. The SD "
      "routes have no stated error rates: "
      "3.3 and 10 times a standard deviation, over the slope.{} {}",
      o.readings == 1 ? "a single reading" : fmt::format("the mean of {} readings", o.readings), o.alpha, o.beta,
      simulated, c.cautious_limit);
}

std::string limits_text(const Calibration& c) {
  if (c.limits.empty()) return "";
  Grid grid({{"route", Align::left},
             {headed("critical value", c.readings.amount), Align::point},
             {"detection limit", Align::point},
             {"quantitation limit", Align::point}},
            narrow_gap);
  std::string notes;
  // What is said of every route is said once.
  const std::string common = common_remark(c.limits);
  for (const LimitRoute& route : c.limits) {
    grid.add({std::string(name(route.route)), number_or_dash(route.critical, 3),
              std::isnan(route.detection) ? "-"
              : std::isnan(route.detection_uncertainty)
                  ? rounded(route.detection, 3)
                  : with_uncertainty(route.detection, route.detection_uncertainty),
              number_or_dash(route.quantitation, 3)});
    const std::string own = without(route.remark, common);
    notes += item(fmt::format(
        "{}: rests on {}{}{}.", name(route.route), route.rests_on,
        std::isnan(route.sd) ? "" : fmt::format(" ({})", with_unit(rounded(route.sd, 3), c.readings.signal.unit)),
        own.empty() ? "" : "; " + own));
  }
  return "\nDetection and quantitation limits\n" + grid.text() + paragraph(limits_meaning(c)) +
         (common.empty() ? "" : item(fmt::format("All of them lie {}.", common))) + notes;
}

std::string careful_text(const Calibration& c) {
  std::string text;
  for (const std::string& remark : c.remarks) text += item(remark);
  for (const LeftOut& left : c.readings.left_out)
    text += item(
        fmt::format("Left out: row {}{}: {}.", left.row, left.column.empty() ? "" : ", " + left.column, left.reason));
  return text.empty() ? "" : "\nCautions\n" + text;
}

}  // namespace

std::string calibration_text(const Calibration& c) {
  std::string text = headline(c);
  if (const std::string blank = blank_sentence(c); !blank.empty()) text += paragraph(blank);
  text += paragraph(scatter_sentence(c));
  text += "\nParameters\n" + parameters_grid(c);
  text += "\nCalibration levels\n" + levels_grid(c);
  text += suspicious_text(c);
  text += "\nScatter of the levels\n" + paragraph(c.suggestion) + scatter_grid(c.equal_scatter) + alternatives_grid(c);
  text += linearity_text(c);
  text += limits_text(c);
  text += careful_text(c);
  return text;
}

std::string calibration_csv(const Calibration& c) {
  std::string text = "route,critical,detection,detection_uncertainty,quantitation,remark\n";
  for (const LimitRoute& route : c.limits) {
    text += fmt::format("{},{},{},{},{},{}\n", csv_field(std::string(name(route.route))), csv_number(route.critical),
                        csv_number(route.detection), csv_number(route.detection_uncertainty),
                        csv_number(route.quantitation), csv_field(route.remark));
  }
  return text;
}

std::string additions_text(std::span<const StandardAdditions> additions) {
  std::string text;
  for (const StandardAdditions& found : additions) {
    const Calibration& c = found.calibration;
    const Quantity& x = c.readings.amount;
    const std::string sample = found.sample.empty() ? "one sample" : fmt::format("'{}'", found.sample);
    text += fmt::format("{}{}\nstandard additions: {} of {}, {} added\n\n", text.empty() ? "" : "\n",
                        c.fit.model().text(), plural(c.used.size(), "reading"), sample, x.name);
    const bool known = !std::isnan(found.interval.low);
    text += paragraph(fmt::format(
        "The sample {} holds {}{}.",
        found.dilution == 1 ? "as measured" : fmt::format("before its dilution by {}", shortest(found.dilution)),
        with_unit(with_uncertainty(found.amount, found.standard_uncertainty), x.unit),
        known ? fmt::format(" ({} interval {})", level_text(c.options.level),
                            interval_text(found.interval.low, found.interval.high, found.standard_uncertainty))
              : ""));
    text += paragraph(c.options.blank == BlankUse::subtract ? blank_sentence(c)
                                                            : "The signal without any analyte is taken as 0; where it "
                                                              "is not, measure blanks and subtract them (--blank "
                                                              "subtract).");
    text += "\nParameters\n" + parameters_grid(c) + suspicious_text(c) + linearity_text(c) + careful_text(c);
  }
  return text;
}

std::string additions_csv(std::span<const StandardAdditions> additions) {
  std::string text = "sample,dilution,amount,standard_uncertainty,low,high\n";
  for (const StandardAdditions& found : additions)
    text += fmt::format("{},{},{},{},{},{}\n", csv_field(found.sample), csv_number(found.dilution),
                        csv_number(found.amount), csv_number(found.standard_uncertainty),
                        csv_number(found.interval.low), csv_number(found.interval.high));
  return text;
}

}  // namespace truecurve
