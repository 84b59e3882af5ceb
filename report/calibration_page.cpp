// The page of a calibration.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/report/calibration_page.hpp>

#include "calibration_parts.hpp"
#include "parts.hpp"
#include "rows_table.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::with_unit;

std::string subject_of(const Calibration& c) {
  std::string others;
  for (const auto& [kind, noun] :
       {std::pair{ReadingKind::blank, "blank"}, {ReadingKind::fortified, "fortified sample"}}) {
    const std::size_t count = c.readings.of(kind).size();
    if (count > 0) others += fmt::format(", {}", plural(count, noun));
  }
  return fmt::format("calibration of {} against {} by {} at {}{}{}", c.readings.signal.name, c.readings.amount.name,
                     plural(c.used.size(), "reading"), plural(c.levels.size(), "level"), others,
                     detail::of_source(c.readings.source));
}

// "I = a + b*c_Pb with a = 1.05(2) kcps, b = 6.31(4); detection limit 0.11(1) mg/g (α = 0.05, β = 0.05, one reading)."
std::string answer_sentence(const Calibration& c) {
  std::string sentence = c.fit.model().text() + " with ";
  for (std::size_t j = 0; j < c.parameters.size(); ++j) {
    const ParameterInterval& p = c.parameters[j];
    sentence += fmt::format("{}{} = {}", j == 0 ? "" : ", ", p.name,
                            with_unit(with_uncertainty(p.value, p.standard_uncertainty), p.unit));
  }
  const LimitOptions& o = c.options.limits;
  for (const LimitRoute& route : c.limits) {
    if (route.route != LimitRouteKind::critical_value_and_power || std::isnan(route.detection)) continue;
    sentence += fmt::format("; detection limit {} (α = {}, β = {}, {})",
                            with_unit(detail::detection_text(route), c.readings.amount.unit), shortest(o.alpha),
                            shortest(o.beta), o.readings == 1 ? "one reading" : fmt::format("{} readings", o.readings));
  }
  return sentence + ".";
}

// The remarks that every route has.
std::vector<std::string> common_remarks(const std::vector<LimitRoute>& routes) {
  std::vector<std::string> common = routes.front().remarks;
  std::erase_if(common, [&routes](const std::string& remark) {
    return !std::all_of(routes.begin(), routes.end(), [&remark](const LimitRoute& route) {
      return std::find(route.remarks.begin(), route.remarks.end(), remark) != route.remarks.end();
    });
  });
  return common;
}

void add_limits(Page& page, const Calibration& c) {
  if (c.limits.empty()) return;
  PageSection& section = page.section("Detection and quantitation limits");
  section.in_brief = true;
  section.show(detail::limits_table(c));
  section.say(detail::limits_meaning(c));
  // What is said of every route is said once.
  const std::vector<std::string> common = common_remarks(c.limits);
  for (const std::string& remark : common) section.list(fmt::format("All of them: {}.", remark));
  for (const LimitRoute& route : c.limits) {
    std::string own;
    for (const std::string& remark : route.remarks) {
      if (std::find(common.begin(), common.end(), remark) == common.end()) own += "; " + remark;
    }
    section.list(fmt::format(
        "{}: is based on {}{}{}.", name(route.route), route.rests_on,
        std::isnan(route.sd) ? "" : fmt::format(" ({})", with_unit(rounded(route.sd, 3), c.readings.signal.unit)),
        own));
  }
}

// `of` names one of several samples, as in "Linearity of 'gate'".
void add_suspicions(Page& page, const Calibration& c, const std::string& of) {
  PageSection& section = page.section("Suspicious readings" + of);
  for (const std::string& sentence : detail::suspicions(c)) section.list(sentence);
}

// Standards that the range of the calibration leaves out.
std::string range_sentence(const Calibration& c) {
  std::vector<std::size_t> rows;
  for (const Reading& r : c.readings.of(ReadingKind::standard)) {
    const bool is_outside = r.amount < c.options.low || r.amount > c.options.high;
    if (is_outside && (rows.empty() || rows.back() != r.row)) rows.push_back(r.row);
  }
  return rows.empty() ? "" : fmt::format("Not used, as outside the range: {}.", detail::rows_text(rows));
}

void add_cautions(Page& page, const Calibration& c, const std::string& before) {
  for (const std::string& remark : c.remarks) page.caution(before + remark);
  if (const std::string outside = range_sentence(c); !outside.empty()) page.caution(before + outside);
  for (const LeftOut& left : c.readings.left_out)
    page.caution(fmt::format("{}Left out: row {}{}: {}.", before, left.row,
                             left.column.empty() ? "" : ", " + left.column, left.reason));
}

}  // namespace

Page calibration_page(const Calibration& c, bool rows) {
  Page page{.title = c.fit.model().text(), .subject = subject_of(c)};
  page.answer = answer_sentence(c);
  page.lead.say(page.answer);
  page.lead.say(detail::verdict_sentence(c));
  page.lead.say(detail::blank_sentence(c));
  page.lead.say(detail::scatter_sentence(c));
  PageSection& parameters = page.section("Parameters");
  parameters.in_brief = true;
  parameters.show(detail::calibration_parameters_table(c));
  page.section("Calibration levels").show(detail::levels_table(c));
  // Weights that do not hold make every uncertainty wrong: that comes first, and then what may be its cause.
  const bool is_alarming = detail::has_wrong_weights(c);
  if (is_alarming) page.caution(c.suggestion);
  for (const std::string& sentence : detail::suspicions(c)) page.caution(sentence);
  PageSection& scatter = page.section("Scatter of the levels");
  if (!is_alarming) scatter.say(c.suggestion);
  scatter.show(detail::equal_scatter_table(c.equal_scatter));
  scatter.show(detail::alternatives_table(c));
  page.section("Linearity").show(detail::linearity_table(c.linearity));
  add_limits(page, c);
  add_cautions(page, c, "");
  page.data.names = {"route", "critical", "detection", "detection_uncertainty", "quantitation", "remark"};
  for (const LimitRoute& route : c.limits)
    page.data.rows.push_back({std::string(name(route.route)), route.critical, route.detection,
                              route.detection_uncertainty, route.quantitation, route.remark()});
  if (rows) {
    page.section("Rows").show(detail::rows_table(c.fit));
    page.data = detail::rows_data(c.fit);
  }
  return page;
}

Page additions_page(std::span<const StandardAdditions> additions) {
  const Calibration& first = additions.front().calibration;
  const bool several = additions.size() > 1;
  std::size_t readings = 0;
  for (const StandardAdditions& found : additions) readings += found.calibration.used.size();
  Page page{.title = first.fit.model().text(),
            .data = {.names = {"sample", "dilution", "amount", "standard_uncertainty", "low", "high"}}};
  const std::string& added = first.readings.amount.name;  // often called so already
  page.subject = fmt::format("standard additions: {} of {}{}", plural(readings, "reading"),
                             several                       ? plural(additions.size(), "sample")
                             : additions[0].sample.empty() ? "one sample"
                                                           : fmt::format("'{}'", additions[0].sample),
                             added == "added" || added == "Added" ? "" : fmt::format(", {} added", added));
  for (const StandardAdditions& found : additions) {
    const Calibration& c = found.calibration;
    page.lead.say(fmt::format(
        "The sample {}{} holds {}{}.", several ? fmt::format("'{}' ", found.sample) : "",
        found.dilution == 1 ? "as measured" : fmt::format("before its dilution by {}", shortest(found.dilution)),
        with_unit(with_uncertainty(found.amount, found.standard_uncertainty), c.readings.amount.unit),
        std::isnan(found.interval.low)
            ? ""
            : fmt::format(" ({} interval {})", detail::level_text(c.options.level),
                          interval_text(found.interval.low, found.interval.high, found.standard_uncertainty))));
    page.data.rows.push_back({found.sample, found.dilution, found.amount, found.standard_uncertainty,
                              found.interval.low, found.interval.high});
  }
  page.lead.say(
      first.options.blank == BlankUse::subtract
          ? detail::blank_sentence(first)
          : Advice{"The signal without any analyte is taken as 0; where it is not, measure blanks and subtract "
                   "them",
                   {Action::treat_blank, "subtract"},
                   "."});
  for (const StandardAdditions& found : additions) {
    const std::string of = several ? fmt::format(" of '{}'", found.sample) : "";
    page.section("Parameters" + of).show(detail::calibration_parameters_table(found.calibration));
    add_suspicions(page, found.calibration, of);
    page.section("Linearity" + of).show(detail::linearity_table(found.calibration.linearity));
    add_cautions(page, found.calibration, several ? fmt::format("'{}': ", found.sample) : "");
  }
  return page;
}

}  // namespace truecurve
