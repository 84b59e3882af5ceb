// Calibrations and quantities as JSON.
#include <truecurve/base/version.hpp>
#include <truecurve/io/calibration_record.hpp>

#include "calibration_json.hpp"
#include "fit_json.hpp"
#include "sha256.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace truecurve {
namespace {

using detail::interval_of;
using detail::Json;
using detail::quantity;

constexpr std::array<std::string_view, 3> blank_names = {"none", "subtract", "include"};
constexpr std::array<std::string_view, 5> scatter_names = {"constant", "power", "both", "stated", "counted"};
constexpr std::array<std::string_view, 3> function_names = {"constant", "proportional", "both"};

Json finite_or_null(double value) { return std::isfinite(value) ? Json(value) : Json(); }

Json levels_json(const Calibration& c) {
  Json list = Json::array();
  for (const CalibrationLevel& level : c.levels) {
    list.push_back({{"level", level.amount},
                    {"n", level.readings.size()},
                    {"mean", level.mean},
                    {"sd", level.sd},
                    {"interval", interval_of(level.interval)}});
  }
  return list;
}

Json suspicious_json(const Calibration& c) {
  Json list = Json::array();
  for (std::size_t i = 0; i < c.suspicious.size(); ++i) {
    const Suspicion& s = c.suspicious[i];
    const bool known = i < c.without.size();
    list.push_back({{"test", s.test == Suspicion::Test::grubbs ? "Grubbs" : "Cochran"},
                    {"level", s.amount},
                    {"row", s.reading.row},
                    {"column", s.reading.replicate < c.readings.signal_columns.size()
                                   ? Json(c.readings.signal_columns[s.reading.replicate])
                                   : Json()},
                    {"signal", s.reading.signal},
                    {"statistic", s.statistic},
                    {"p", s.p},
                    {"family_p", s.family_p},
                    {"grade", name(s.grade)},
                    {"slope_without", known ? Json(c.without[i].slope) : Json()},
                    {"intercept_without", known ? Json(c.without[i].intercept) : Json()}});
  }
  return list;
}

Json parameters_json(const Calibration& c) {
  Json list = Json::array();
  for (const ParameterInterval& p : c.parameters) {
    list.push_back({{"name", p.name},
                    {"value", p.value},
                    {"standard_uncertainty", p.standard_uncertainty},
                    {"interval", interval_of({p.low, p.high})},
                    {"p", p.p},
                    {"unit", p.unit}});
  }
  return list;
}

Json functions_json(const Calibration& c) {
  Json list = Json::array();
  for (const VarianceFunction& f : c.variance_functions) {
    list.push_back({{"form", function_names[static_cast<std::size_t>(f.form)]},
                    {"constant", f.constant},
                    {"slope", f.slope},
                    {"log_likelihood", f.log_likelihood},
                    {"aicc", f.aicc}});
  }
  return list;
}

Json limits_json(const Calibration& c) {
  Json list = Json::array();
  for (const LimitRoute& route : c.limits) {
    list.push_back({{"route", name(route.route)},
                    {"sd", route.sd},
                    {"critical", route.critical},
                    {"detection", route.detection},
                    {"detection_uncertainty", route.detection_uncertainty},
                    {"quantitation", route.quantitation},
                    {"rests_on", route.rests_on},
                    {"remark", route.remark()}});
  }
  return list;
}

Json alternatives_json(const Calibration& c) {
  Json list = Json::array();
  for (const Alternative& a : c.alternatives) {
    list.push_back({{"name", a.name},
                    {"slope", a.slope},
                    {"slope_uncertainty", a.slope_uncertainty},
                    {"intercept", a.intercept},
                    {"intercept_uncertainty", a.intercept_uncertainty},
                    {"detection", a.detection},
                    {"mid_amount", a.mid_amount},
                    {"mid_uncertainty", a.mid_uncertainty}});
  }
  return list;
}

Json scatter_json(const Scatter& scatter) {
  const auto form = std::find(detail::forms.begin(), detail::forms.end(), scatter.form) - detail::forms.begin();
  Json table = Json::array();
  for (const auto& [signal, sd] : scatter.table) table.push_back({{"signal", signal}, {"sd", sd}});
  return {{"form", detail::form_names.at(static_cast<std::size_t>(form))},
          {"scale", scatter.scale},
          {"power", scatter.power},
          {"offset", scatter.offset},
          {"constant", scatter.growing.constant},
          {"slope", scatter.growing.slope},
          {"table", table}};
}

Json curve_json(const CalibrationCurve& curve) {
  Json weightings = Json::array();
  for (const Weighting& w : curve.weightings) {
    weightings.push_back(
        {{"weight", w.weight}, {"estimate", detail::estimate_json(w.estimate)}, {"scatter", scatter_json(w.scatter)}});
  }
  return {{"estimate", detail::estimate_json(curve.estimate)},
          {"without_blank", detail::estimate_json(curve.without_blank)},
          {"scatter", scatter_json(curve.scatter)},
          {"are_counts", curve.are_counts},
          {"blank", curve.blank},
          {"blank_degrees_of_freedom", finite_or_null(curve.blank_degrees_of_freedom)},
          {"scatter_at_zero", curve.scatter_at_zero},
          {"scatter_at_zero_degrees_of_freedom", curve.scatter_at_zero_degrees_of_freedom},
          {"level", curve.level},
          {"weightings", weightings}};
}

// The column of exposures, or the one number for all; null for measured signals.
Json exposure_json(const Counting& counting) {
  if (counting.kind != ResponseKind::counts) return {};
  return counting.size_column.empty() ? Json(counting.size) : Json(counting.size_column);
}

Json data_json(const Calibration& c) {
  const Readings& readings = c.readings;
  Json left_out = Json::array();
  for (const LeftOut& left : readings.left_out) {
    left_out.push_back({{"row", left.row}, {"reason", left.reason}});
    if (!left.column.empty()) left_out.back()["column"] = left.column;
  }
  return {{"source", readings.source.name},
          {"sha256", readings.source.sha256.empty() ? Json() : Json(readings.source.sha256)},
          {"rows_read", readings.rows_read},
          {"left_out", left_out},
          {"standards", readings.of(ReadingKind::standard).size()},
          {"readings_used", c.used.size()}};
}

Json columns_json(const ReadingColumns& columns) {
  return {{"amount", columns.amount},
          {"signals", columns.signals},
          {"kind", columns.kind},
          {"sample", columns.sample},
          {"dilution", columns.dilution},
          {"order", columns.order.empty() ? Json() : Json(columns.order)},
          {"exposure", exposure_json(columns.counting)}};
}

Json treatment_json(const Calibration& c) {
  return {{"blank", blank_names[static_cast<std::size_t>(c.options.blank)]},
          {"scatter", scatter_names[static_cast<std::size_t>(c.options.scatter.kind)]},
          {"power", c.options.scatter.kind == SignalScatter::Kind::power ? Json(c.options.scatter.power) : Json()},
          {"range", {{"low", finite_or_null(c.options.low)}, {"high", finite_or_null(c.options.high)}}},
          {"level", c.options.level},
          {"uncertain_standards", c.has_uncertain_standards}};
}

Json equal_scatter_json(const Calibration& c) {
  return {{"brown_forsythe", c.equal_scatter.brown_forsythe},
          {"brown_forsythe_p", c.equal_scatter.brown_forsythe_p},
          {"cochran", c.equal_scatter.cochran},
          {"cochran_p", c.equal_scatter.cochran_p},
          {"high_to_low", c.equal_scatter.high_to_low},
          {"high_to_low_p", c.equal_scatter.high_to_low_p},
          {"family_p", c.equal_scatter.family_p},
          {"is_equal", c.equal_scatter.is_equal},
          {"suggestion", c.suggestion.text()}};
}

Json linearity_json(const Calibration& c) {
  return {{"lack_of_fit_f", c.linearity.lack_of_fit_f},
          {"lack_of_fit_p", c.linearity.lack_of_fit_p},
          {"mandel", c.linearity.mandel},
          {"mandel_statistic", c.curve.estimate.has_known_scale() ? "chi-squared" : "F"},
          {"mandel_p", c.linearity.mandel_p},
          {"intercept_p", c.linearity.intercept_p}};
}

Json limit_options_json(const LimitOptions& limits) {
  return {{"alpha", limits.alpha},
          {"beta", limits.beta},
          {"readings", limits.readings},
          {"exposure", limits.exposure},
          {"simulations", limits.simulations},
          {"seed", limits.seed}};
}

}  // namespace

std::string detail::checksum_of(Json record) {
  record.erase("checksum");
  detail::Sha256 sum;
  sum.add(record.dump());
  return sum.hexadecimal();
}

std::string calibration_record(const Calibration& c, const ReadingColumns& columns, const std::string& day,
                               RecordRows rows) {
  Json record = {
      {"record", "truecurve.calibration/1"},
      {"version", version},
      {"day", day.empty() ? Json() : Json(day)},
      {"data", data_json(c)},
      {"amount", quantity(c.readings.amount)},
      {"signal", quantity(c.readings.signal)},
      {"columns", columns_json(columns)},
      {"treatment", treatment_json(c)},
      {"fit", detail::fit_json(c.fit, c.options.level, residual_checks(c.fit), {}, {})},
      {"reported", detail::estimate_json(c.reported)},
      {"parameters", parameters_json(c)},
      {"curve", curve_json(c.curve)},
      {"chi_squared", c.chi_squared},
      {"degrees_of_freedom", c.degrees_of_freedom},
      {"blank",
       {{"n", c.blank.count},
        {"mean", c.blank.mean},
        {"sd", c.blank.sd},
        {"mean_uncertainty", c.blank.mean_uncertainty}}},
      {"levels", levels_json(c)},
      {"suspicious", suspicious_json(c)},
      {"equal_scatter", equal_scatter_json(c)},
      {"counted_scatter",
       {{"statistic", c.counted_scatter.statistic},
        {"degrees_of_freedom", c.counted_scatter.degrees_of_freedom},
        {"p", c.counted_scatter.p}}},
      {"variance_functions", functions_json(c)},
      {"linearity", linearity_json(c)},
      {"alternatives", alternatives_json(c)},
      {"limit_options", limit_options_json(c.options.limits)},
      {"limits", limits_json(c)},
      {"cautious_limit", c.cautious_limit},
      {"remarks", c.remarks},
  };
  if (rows == RecordRows::all) record["fit"]["rows"] = detail::residual_rows_json(c.fit);
  // NaN becomes null on the way to text: the checksum is of what is read back.
  record = Json::parse(record.dump());
  record["checksum"] = detail::checksum_of(record);
  return detail::text_of(record);
}

std::string additions_record(std::span<const StandardAdditions> additions, const ReadingColumns& columns,
                             const std::string& day) {
  Json samples = Json::array();
  for (const StandardAdditions& found : additions) {
    samples.push_back({{"sample", found.sample.empty() ? Json() : Json(found.sample)},
                       {"dilution", found.dilution},
                       {"value", found.amount},
                       {"standard_uncertainty", found.standard_uncertainty},
                       {"interval",
                        {{"level", found.calibration.options.level},
                         {"low", finite_or_null(found.interval.low)},
                         {"high", finite_or_null(found.interval.high)}}},
                       {"calibration", Json::parse(calibration_record(found.calibration, columns, day))}});
  }
  return detail::text_of({{"record", "truecurve.additions/1"},
                          {"version", version},
                          {"amount", quantity(additions.front().calibration.readings.amount)},
                          {"samples", samples}});
}

}  // namespace truecurve
