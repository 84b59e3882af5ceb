// Fit records as JSON, and back.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/counted.hpp>
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/means.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/assess/variance.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/version.hpp>
#include <truecurve/data/table.hpp>
#include <truecurve/fit/separation.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/io/unfinished.hpp>

#include "../src/fit/estimate_parts.hpp"
#include "fit_json.hpp"
#include "json.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <system_error>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::interval_of;
using detail::Json;
using detail::left_out_of;
using detail::list;
using detail::model_of;
using detail::quantity;
using detail::RecordReader;
using detail::text_of;

// The first of Scatter::Form, in its order: what a new reading of a fit may scatter by.
constexpr std::array<std::string_view, 5> kind_names = {"constant", "percent", "power", "left_side", "unknown"};

Json within_of(const Estimate& estimate, std::size_t parameter) {
  const std::vector<Range>& limits = estimate.limits();
  Json within;
  if (!limits.empty() && (std::isfinite(limits[parameter].low) || std::isfinite(limits[parameter].high)))
    within = {{"low", limits[parameter].low}, {"high", limits[parameter].high}};
  if (estimate.is_open(parameter)) {
    const OpenEnd& end = *estimate.open_end();
    within[end.upwards ? "at_least" : "at_most"] = end.bound;
  }
  return within;
}

// Held parameters stand among the fitted ones, in the order of the model.
Json parameters_of(const Fit& fit, Level level, const Trust& trust) {
  Json parameters = Json::array();
  std::vector<ParameterInterval> intervals = parameter_intervals(fit.estimate(), level);
  for (ParameterInterval& p : intervals) {
    // Those of a counted response are by the profile.
    for (const ProfileInterval& made : trust.profiles) {
      if (!fit.is_counted() || made.parameter != p.name || std::isnan(made.interval.low)) continue;
      p.low = made.interval.low;
      p.high = made.interval.high;
    }
  }
  std::size_t next = 0;
  for (const std::string& name : fit.model().all_parameters()) {
    const auto& fixed = fit.model().fixed();
    const auto held = std::find_if(fixed.begin(), fixed.end(), [&](const FixedParameter& f) { return f.name == name; });
    if (held != fixed.end()) {
      parameters.push_back({{"name", name},
                            {"value", held->value},
                            {"standard_uncertainty", 0.0},
                            {"interval", {{"level", level}, {"low", Json()}, {"high", Json()}}},
                            {"t", Json()},
                            {"p", Json()},
                            {"unit", ""},
                            {"fixed", true},
                            {"within", Json()}});
      continue;
    }
    const ParameterInterval& p = intervals[next];
    parameters.push_back({{"name", p.name},
                          {"value", p.value},
                          {"standard_uncertainty", p.standard_uncertainty},
                          {"interval", {{"level", level}, {"low", p.low}, {"high", p.high}}},
                          {"t", p.t},
                          {"p", p.p},
                          {"unit", p.unit},
                          {"fixed", false},
                          {"within", within_of(fit.estimate(), next)}});
    ++next;
  }
  return parameters;
}

// The places of the fitted parameters among all.
std::vector<std::size_t> places_of(const Model& model) {
  std::vector<std::size_t> places;
  for (const std::string& name : model.parameters()) {
    const auto& all = model.all_parameters();
    places.push_back(static_cast<std::size_t>(std::find(all.begin(), all.end(), name) - all.begin()));
  }
  return places;
}

// A matrix of the fitted parameters with a row and a column for each held one, filled with zeros.
Matrix spread_out(const Matrix& values, const Model& model) {
  const auto count = model.all_parameters().size();
  const std::vector<std::size_t> places = places_of(model);
  Matrix all(count, count);
  for (std::size_t i = 0; i < places.size(); ++i) {
    for (std::size_t j = 0; j < places.size(); ++j) all(places[i], places[j]) = values(i, j);
  }
  return all;
}

Json derived_of(const Deductions& deductions, Level level) {
  Json list = Json::array();
  for (const DerivedQuantity& q : deductions.derived) {
    Json interval = {{"level", level}, {"low", q.interval.low}, {"high", q.interval.high}};
    list.push_back({{"name", q.name},
                    {"expression", q.expression},
                    {"value", q.value},
                    {"standard_uncertainty", q.standard_uncertainty},
                    {"interval", interval},
                    {"monte_carlo_interval", interval_of(q.monte_carlo)},
                    {"draws_without_value", q.without_value},
                    {"curved", q.curved},
                    {"bounded", !q.is_unbounded},
                    {"excluded", q.is_unbounded && !std::isnan(q.excluded.low) ? interval_of(q.excluded) : Json()}});
  }
  return list;
}

Json checks_of(const std::vector<Check>& checks) {
  Json list = Json::array();
  for (const Check& check : checks) {
    list.push_back({{"name", name(check.kind)},
                    {"statistic", check.statistic},
                    {"p", check.p},
                    {"family_p", check.family_p},
                    {"sentence", check.sentence},
                    {"advice", check.advice.text()},
                    {"row", check.row == 0 ? Json() : Json(check.row)}});
  }
  return list;
}

Json hypotheses_of(const Deductions& deductions) {
  Json list = Json::array();
  for (const HypothesisTest& h : deductions.hypotheses) {
    list.push_back({{"hypothesis", h.hypothesis},
                    {"difference", h.difference},
                    {"standard_uncertainty", h.standard_uncertainty},
                    {"t", h.t},
                    {"p", h.p}});
  }
  return list;
}

Json variance_line(const VarianceLine& line) {
  return {{"source", line.source},
          {"sum_of_squares", line.sum_of_squares},
          {"degrees_of_freedom", line.degrees_of_freedom},
          {"mean_square", line.mean_square},
          {"f", line.f},
          {"p", line.p}};
}

// What only a counted response has; null for a measured one.
Json counted_of(const Fit& fit) {
  Json json = {{"response_kind", name(fit.observations().observation_model().kind())},
               {"event", Json()},
               {"trials", Json()},
               {"exposure", Json()},
               {"deviance", Json()},
               {"null_deviance", Json()},
               {"pearson_chi_squared", Json()},
               {"dispersion", Json()},
               {"dependence", Json()},
               {"separation", Json()}};
  if (!fit.is_counted()) return json;
  const Observations& rows = fit.observations();
  const CountedQuality q = counted_quality(fit);
  if (!rows.event().empty()) json["event"] = rows.event();
  const bool events = rows.observation_model().kind() == ResponseKind::events;
  if (!rows.size_origin().empty()) json[events ? "trials" : "exposure"] = rows.size_origin();
  json["deviance"] = q.deviance;
  json["null_deviance"] = q.null_deviance;
  json["pearson_chi_squared"] = q.pearson_chi_squared;
  json["dispersion"] = q.dispersion;
  if (std::isfinite(q.dependence_p)) {
    json["dependence"] = {
        {"statistic", q.dependence_statistic}, {"degrees_of_freedom", q.dependence_degrees}, {"p", q.dependence_p}};
  }
  if (const auto s = separation_along(rows)) {
    json["separation"] = {{"complete", s->complete},
                          {"below", s->below},
                          {"above", s->above},
                          {"events_above", s->events_above},
                          {"text", separation_text(*s, rows.response().name)}};
  }
  return json;
}

Json variance_of(const Fit& fit) {
  if (fit.is_counted()) return {};
  const VarianceTable table = variance_table(fit);
  Json sequential = Json::array();
  for (const VarianceLine& line : table.sequential) sequential.push_back(variance_line(line));
  Json lack;
  if (const auto split = lack_of_fit(fit))
    lack = {{"lack_of_fit", variance_line(split->lack_of_fit)}, {"pure_error", variance_line(split->pure_error)}};
  return {{"explained", variance_line(table.explained)},
          {"residual", variance_line(table.residual)},
          {"known", table.known ? variance_line(*table.known) : Json()},
          {"total", variance_line(table.total)},
          {"sequential", sequential},
          {"replicates", lack}};
}

// Limits that do not exist are null, and said to be open: JSON has no infinity.
Json profiles_of(const Trust& trust, Level level) {
  Json list = Json::array();
  for (const ProfileInterval& p : trust.profiles) {
    list.push_back({{"name", p.parameter},
                    {"interval", {{"level", level}, {"low", p.interval.low}, {"high", p.interval.high}}},
                    {"open_below", std::isinf(p.interval.low)},
                    {"open_above", std::isinf(p.interval.high)},
                    {"symmetric_level", p.symmetric_level},
                    {"simulated_level", p.simulated_level},
                    {"symmetric_is_trusted", p.symmetric_is_trusted}});
  }
  return list;
}

Json other_minima_of(const Fit& fit) {
  Json minima = Json::array();
  for (const OtherMinimum& minimum : fit.solver().other_minima)
    minima.push_back({{"chi_squared", minimum.chi_squared}, {"parameters", list(minimum.parameters)}});
  return minima;
}

}  // namespace

namespace {

Json predictors_json(const detail::EstimateParts& parts) {
  Json predictors = Json::array();
  for (std::size_t k = 0; k < parts.predictors.size(); ++k) {
    Json predictor = quantity(parts.predictors[k]);
    predictor["low"] = parts.ranges[k].low;
    predictor["high"] = parts.ranges[k].high;
    predictors.push_back(std::move(predictor));
  }
  return predictors;
}

Json working_json(const detail::EstimateParts& parts) {
  return {{"scale", parts.scale},
          {"new_observation",
           {{"kind", kind_names[static_cast<std::size_t>(parts.new_observation.form)]},
            {"value", parts.new_observation.scale},
            {"exponent", parts.new_observation.power}}},
          {"middle", parts.working.middle},
          {"half_width", parts.working.half_width},
          {"centre", list(Vector(parts.working.centre))},
          {"parameters", list(Vector(parts.working.parameters))},
          {"inverse_factor", list(Matrix(parts.working.inverse_factor))}};
}

}  // namespace

Json detail::estimate_json(const Estimate& estimate) {
  const detail::EstimateParts& parts = detail::parts_of(estimate);
  Json parameters = Json::array();
  for (const std::string& name : estimate.model().all_parameters()) {
    const auto& fixed = estimate.model().fixed();
    const auto held = std::find_if(fixed.begin(), fixed.end(), [&](const FixedParameter& f) { return f.name == name; });
    parameters.push_back(
        {{"name", name},
         {"value", held != fixed.end() ? held->value : parts.parameters[estimate.index_of(name)]},
         {"standard_uncertainty",
          held != fixed.end() ? Json() : Json(estimate.standard_uncertainties()[estimate.index_of(name)])},
         {"fixed", held != fixed.end()},
         {"within", held != fixed.end() ? Json() : within_of(estimate, estimate.index_of(name))}});
  }
  return {{"model", model_of(estimate)},
          {"data", {{"response", quantity(parts.response)}, {"predictors", predictors_json(parts)}}},
          {"response_kind", name(parts.observation_model.kind())},
          {"uncertainty", name(parts.basis)},
          {"parameters", parameters},
          {"covariance", list(spread_out(estimate.covariance(), estimate.model()))},
          {"correlation", list(spread_out(correlation(estimate), estimate.model()))},
          {"degrees_of_freedom", parts.degrees_of_freedom},
          {"working", working_json(parts)}};
}

Json detail::rows_json(const Observations& rows) {
  return {{"source", rows.source().name},
          {"sha256", rows.source().sha256.empty() ? Json() : Json(rows.source().sha256)},
          {"rows_read", rows.rows_read()},
          {"rows_used", rows.size()},
          {"left_out", left_out_of(rows)}};
}

Json detail::open_interval_json(Level level, double low, double high) {
  const auto end_of = [](double value) {
    if (std::isinf(value)) return Json(value > 0 ? "inf" : "-inf");
    return std::isnan(value) ? Json() : Json(value);
  };
  return {{"level", level}, {"low", end_of(low)}, {"high", end_of(high)}};
}

Json detail::deductions_json(const Deductions& deductions, Level level) {
  return {{"derived", derived_of(deductions, level)}, {"hypotheses", hypotheses_of(deductions)}};
}

Json detail::fit_json(const Fit& fit, Level level, const std::vector<Check>& checks, const Deductions& deductions,
                      const Trust& trust) {
  const Observations& observations = fit.observations();
  const detail::EstimateParts& parts = detail::parts_of(fit.estimate());
  const Quality q = quality_of(fit);
  Json warnings = Json::array();
  for (const Warning& warning : fit.warnings())
    warnings.push_back({{"code", name(warning.code)}, {"text", warning.text}});
  for (const std::string& sentence : trust.sentences) warnings.push_back({{"code", "trust"}, {"text", sentence}});
  Json json = {
      {"record", "truecurve.fit/1"},
      {"version", version},
      {"model",
       {{"text", fit.model().text()},
        {"kind", fit.model().kind()},
        {"route", fit.model().is_transformed() ? "linearized" : "direct"}}},
      {"data",
       {{"source", observations.source().name},
        {"sha256", observations.source().sha256.empty() ? Json() : Json(observations.source().sha256)},
        {"rows_read", observations.rows_read()},
        {"rows_used", observations.size()},
        {"left_out", left_out_of(observations)},
        {"response", quantity(parts.response)},
        {"predictors", predictors_json(parts)},
        {"response_uncertainty", observations.has_uncertainties() ? Json(observations.uncertainty_origin()) : Json()}}},
      {"uncertainty", name(parts.basis)},
      {"spread", fit.spread().is_given() ? Json(fit.spread().power()) : Json()},
      {"parameters", parameters_of(fit, level, trust)},
      {"covariance", list(spread_out(fit.estimate().covariance(), fit.model()))},
      {"correlation", list(spread_out(correlation(fit.estimate()), fit.model()))},
      {"derived", derived_of(deductions, level)},
      {"hypotheses", hypotheses_of(deductions)},
      {"variance", variance_of(fit)},
      {"checks", checks_of(checks)},
      {"chi_squared", q.chi_squared},
      {"degrees_of_freedom", q.degrees_of_freedom},
      {"reduced_chi_squared", q.reduced_chi_squared},
      {"chi_squared_p", q.chi_squared_p},
      {"birge_ratio", q.birge_ratio},
      {"residual_sum_of_squares", q.residual_sum_of_squares},
      {"residual_sd", q.residual_sd},
      {"r_squared", q.r_squared},
      {"adjusted_r_squared", q.adjusted_r_squared},
      {"correlation_coefficient", q.correlation},
      {"measured_scale",
       {{"residual_sum_of_squares", q.response_sum_of_squares},
        {"residual_sd", q.response_sd},
        {"r_squared", q.response_r_squared}}},
      {"log_likelihood", q.log_likelihood},
      {"aic", q.aic},
      {"aicc", q.aicc},
      {"bic", q.bic},
      {"solver",
       {{"method", name(fit.solver().method)},
        {"converged", fit.solver().converged},
        {"stop", name(fit.solver().stop)},
        {"iterations", fit.solver().iterations},
        {"evaluations", fit.solver().evaluations},
        {"relative_offset", fit.solver().relative_offset},
        {"condition", fit.solver().condition},
        {"descents", fit.solver().descents},
        {"met_best", fit.solver().met_best},
        {"other_minima", other_minima_of(fit)}}},
      {"profiles", profiles_of(trust, level)},
      {"curvature",
       {{"intrinsic", trust.curvature.intrinsic}, {"parameter_effects", trust.curvature.parameter_effects}}},
      {"warnings", warnings},
      {"working", working_json(parts)},
  };
  json.update(counted_of(fit));
  return json;
}

namespace {

// The rows of a counted response, from which the profiles of places are made; null where they are many.
Json counted_rows_of(const Fit& fit) {
  constexpr std::size_t most = 1000;
  const Observations& rows = fit.observations();
  if (!fit.is_counted() || rows.observation_model().kind() == ResponseKind::other || rows.size() > most) return {};
  Json predictors = Json::array();
  for (std::size_t k = 0; k < rows.predictors().size(); ++k) predictors.push_back(list(rows.predictor(k)));
  return {{"predictors", predictors}, {"numbers", list(rows.counted_numbers())}, {"sizes", list(rows.sizes())}};
}

}  // namespace

std::string fit_record(const Fit& fit, Level level, const Deductions& deductions, const Trust& trust) {
  Json json = detail::fit_json(fit, level, residual_checks(fit), deductions, trust);
  json["counted_rows"] = counted_rows_of(fit);
  return text_of(json);
}

std::string preview_record(const Preview& preview, const Observations& observations) {
  constexpr std::array<std::string_view, 3> origins = {"given", "proposed", "solved"};
  Json parameters = Json::array();
  for (std::size_t j = 0; j < preview.estimate.parameters().size(); ++j) {
    const auto at = static_cast<std::size_t>(j);
    parameters.push_back({{"name", preview.estimate.parameter_names()[at]},
                          {"start", preview.estimate.parameters()[j]},
                          {"origin", origins[static_cast<std::size_t>(preview.origins[at])]}});
  }
  return text_of({{"record", "truecurve.preview/1"},
                  {"version", version},
                  {"model", model_of(preview.estimate)},
                  {"rows_used", observations.size()},
                  {"parameters", parameters},
                  {"chi_squared", preview.chi_squared},
                  {"root_mean_square", preview.residual_sd}});
}

std::string prediction_record(const Estimate& estimate, std::span<const Vector> points,
                              std::span<const BandPoint> values, Level level) {
  const std::vector<MeanPoint> mean = means(estimate, points, level);
  Json list = Json::array();
  for (std::size_t i = 0; i < values.size(); ++i) {
    Json at = Json::object();
    for (std::size_t k = 0; k < points.size(); ++k) at[estimate.predictors()[k].name] = points[k][i];
    const BandPoint& value = values[i];
    list.push_back({{"at", at},
                    {"value", value.value},
                    {"standard_uncertainty", value.standard_uncertainty},
                    {"mean", mean[i].value},
                    {"mean_standard_uncertainty", mean[i].standard_uncertainty},
                    {"mean_interval", interval_of(mean[i].interval)},
                    {"confidence", interval_of(value.confidence)},
                    {"simultaneous", interval_of(value.simultaneous)},
                    {"prediction", interval_of(value.prediction)},
                    {"outside_data", value.outside}});
  }
  return text_of({{"record", "truecurve.prediction/1"},
                  {"version", version},
                  {"model", model_of(estimate)},
                  {"response", quantity(estimate.response())},
                  {"level", level},
                  {"points", list},
                  {"remarks", limit_remarks(estimate)}});
}

std::string solution_record(const Estimate& estimate, double response, std::span<const Root> roots,
                            const SolveOptions& options) {
  Json list = Json::array();
  for (const Root& root : roots) {
    list.push_back({{"value", root.value},
                    {"standard_uncertainty", root.standard_uncertainty},
                    {"interval", {{"level", options.level}, {"low", root.interval.low}, {"high", root.interval.high}}},
                    {"by_profile", root.is_by_profile},
                    {"reached", !root.is_nearest},
                    {"outside_data", root.outside}});
  }
  return text_of({{"record", "truecurve.solution/1"},
                  {"version", version},
                  {"model", model_of(estimate)},
                  {"for",
                   {{"name", estimate.response().name},
                    {"value", response},
                    {"standard_uncertainty", options.response_uncertainty}}},
                  {"predictor", quantity(estimate.predictors()[0])},
                  {"roots", list},
                  {"remarks", limit_remarks(estimate)}});
}

std::string derivation_record(const Estimate& estimate, const Deductions& deductions, Level level) {
  return text_of({{"record", "truecurve.derivation/1"},
                  {"version", version},
                  {"model", model_of(estimate)},
                  {"level", level},
                  {"derived", derived_of(deductions, level)},
                  {"hypotheses", hypotheses_of(deductions)},
                  {"remarks", limit_remarks(estimate)}});
}

namespace {

// From uncertainties and correlations, which stay in range where the squares of a covariance do not; an older record
// within another holds the covariance only.
detail::UncertaintiesAndCorrelation uncertainties_of(const detail::RecordReader& reader, std::size_t count,
                                                     const std::vector<std::size_t>& places) {
  const Matrix covariance = reader.matrix("/covariance", count);
  if (!reader.is_given("/correlation")) return detail::taken_apart(as_eigen(covariance)(places, places));
  const Matrix correlation = reader.matrix("/correlation", count);
  Vector uncertainties(places.size());
  detail::UncertaintiesAndCorrelation made{{}, as_eigen(correlation)(places, places)};
  for (std::size_t j = 0; j < places.size(); ++j) {
    uncertainties[j] = reader.number_or_nan(fmt::format("/parameters/{}/standard_uncertainty", places[j]));
    // Beside a parameter at its limit, or whose uncertainty is not known, nothing is correlated.
    if (!std::isnan(uncertainties[j]) || covariance(places[j], places[j]) != 0) continue;
    uncertainties[j] = 0;
    made.correlation.row(static_cast<Eigen::Index>(j)).setZero();
    made.correlation.col(static_cast<Eigen::Index>(j)).setZero();
  }
  made.standard_uncertainties = as_eigen(uncertainties);
  return made;
}

}  // namespace

Estimate read_fit_record(std::string_view json, const std::string& source) {
  const RecordReader reader = RecordReader::of(json, source);
  // Other records that hold one curve.
  if (reader.kind() != "truecurve.censored/1" && reader.kind() != "truecurve.penalised/1")
    reader.require_kind("truecurve.fit/1");
  return detail::read_fit(reader);
}

std::optional<Fit> read_counted_fit(std::string_view json, const std::string& source) {
  const RecordReader reader = RecordReader::of(json, source);
  if (reader.kind() == "truecurve.censored/1" || reader.kind() == "truecurve.penalised/1") return std::nullopt;
  reader.require_kind("truecurve.fit/1");
  const Estimate estimate = detail::read_fit(reader);
  if (!estimate.is_counted() || !reader.is_given("/counted_rows")) return std::nullopt;
  const auto numbers = reader.get<std::vector<double>>("/counted_rows/numbers");
  std::vector<NamedNumbers> columns = {{estimate.response().name, estimate.response().unit, numbers},
                                       {"(size)", "", reader.get<std::vector<double>>("/counted_rows/sizes")}};
  Choice choice{.response = estimate.response().name,
                .counting = {.kind = estimate.observation_model().kind(), .size_column = "(size)"}};
  for (std::size_t k = 0; k < estimate.predictors().size(); ++k) {
    const Quantity& predictor = estimate.predictors()[k];
    columns.push_back({predictor.name, predictor.unit,
                       reader.get<std::vector<double>>(fmt::format("/counted_rows/predictors/{}", k))});
    choice.predictors.push_back(predictor.name);
  }
  FitOptions options{.uncertainty = estimate.basis()};
  const auto& names = estimate.parameter_names();
  for (std::size_t j = 0; j < names.size(); ++j) {
    options.starts.push_back({names[j], estimate.parameters()[j]});
    if (estimate.limits().empty()) continue;
    options.within.push_back({names[j], estimate.limits()[j].low, estimate.limits()[j].high});
  }
  try {
    return fit(estimate.model(), Observations(Table::from_columns(columns), choice), options);
  } catch (const Error& error) {
    reader.fail("/counted_rows", fmt::format("the curve can't be fitted to these rows again: {}", error.what()));
  }
}

Estimate detail::read_fit(const RecordReader& reader) {
  std::vector<Quantity> predictors;
  std::vector<std::string> names;
  std::vector<Range> ranges;
  for (std::size_t k = 0; k < reader.length("/data/predictors"); ++k) {
    const std::string at = fmt::format("/data/predictors/{}", k);
    predictors.push_back({reader.get<std::string>(at + "/name"), reader.get<std::string>(at + "/unit")});
    names.push_back(predictors.back().name);
    ranges.push_back({reader.get<double>(at + "/low"), reader.get<double>(at + "/high")});
  }
  if (reader.get<std::string>("/model/kind") == "function")
    reader.fail("/model/kind", "this is the fit of C++ code, which a record can't hold: its curve can't be restored");
  const std::size_t count = reader.length("/parameters");
  std::vector<FixedParameter> fixed;
  std::vector<double> fitted;
  std::vector<Range> limits;
  bool limited = false;
  std::optional<OpenEnd> open_end;
  std::vector<std::string> listed;
  for (std::size_t j = 0; j < count; ++j) {
    const std::string at = fmt::format("/parameters/{}", j);
    listed.push_back(reader.get<std::string>(at + "/name"));
    const auto value = reader.get<double>(at + "/value");
    if (reader.get<bool>(at + "/fixed")) {
      fixed.push_back({listed.back(), value});
      continue;
    }
    fitted.push_back(value);
    const bool has_limits = reader.is_given(at + "/within");
    limited = limited || has_limits;
    const double low = has_limits ? reader.number_or_nan(at + "/within/low") : -infinity;
    const double high = has_limits ? reader.number_or_nan(at + "/within/high") : infinity;
    limits.push_back({std::isnan(low) ? -infinity : low, std::isnan(high) ? infinity : high});
    for (const bool upwards : {true, false}) {
      const std::string end = at + (upwards ? "/within/at_least" : "/within/at_most");
      if (!has_limits || !reader.is_given(end)) continue;
      open_end = OpenEnd{static_cast<int>(fitted.size()) - 1, upwards, reader.get<double>(end)};
      if (open_end->bound == 0) reader.fail(end, "the bound of a parameter with one end only is not 0");
    }
  }
  const Model free = Model::written(reader.get<std::string>("/model/text")).with_predictors(names);
  if (free.all_parameters() != listed) reader.fail("/parameters", "the parameters are not those of the model");
  const Model model = fixed.empty() ? free : free.with_fixed(fixed);
  const std::size_t p = fitted.size();
  const std::vector<std::size_t> places = places_of(model);
  detail::UncertaintiesAndCorrelation uncertain = uncertainties_of(reader, count, places);
  if (!limited) limits.clear();
  const auto basis = reader.get<std::string>("/uncertainty");
  if (basis != "stated" && basis != "scatter") reader.fail("/uncertainty", "stated or scatter is needed here");
  // Records of before 0.2 know measured responses only.
  const auto response_kind = reader.is_given("/response_kind") ? reader.get<std::string>("/response_kind") : "measured";
  constexpr std::array kinds = {ResponseKind::measured, ResponseKind::events, ResponseKind::counts};
  const auto response_at =
      std::find_if(kinds.begin(), kinds.end(), [&](ResponseKind kind) { return name(kind) == response_kind; });
  if (response_at == kinds.end()) reader.fail("/response_kind", "measured, events or counts is needed here");
  const auto kind_at =
      std::find(kind_names.begin(), kind_names.end(), reader.get<std::string>("/working/new_observation/kind"));
  if (kind_at == kind_names.end()) reader.fail("/working/new_observation/kind", "this kind is not known");
  return detail::made_of(
      {.model = model,
       .parameters = fitted,
       .standard_uncertainties = uncertain.standard_uncertainties,
       .correlation = std::move(uncertain.correlation),
       .degrees_of_freedom = reader.get<double>("/degrees_of_freedom"),
       .basis = basis == "stated" ? UncertaintyBasis::stated : UncertaintyBasis::scatter,
       .scale = reader.number_or_nan("/working/scale"),
       .new_observation = {.form = static_cast<Scatter::Form>(kind_at - kind_names.begin()),
                           .scale = reader.number_or_nan("/working/new_observation/value"),
                           .power = reader.number_or_nan("/working/new_observation/exponent")},
       .response = {reader.get<std::string>("/data/response/name"), reader.get<std::string>("/data/response/unit")},
       .observation_model = ObservationModel::of(*response_at),
       .predictors = predictors,
       .ranges = ranges,
       .limits = limits,
       .open_end = open_end,
       .working = {.centre = as_eigen(reader.vector("/working/centre", p)),
                   .parameters = as_eigen(reader.vector("/working/parameters", p)),
                   .inverse_factor = as_eigen(reader.matrix("/working/inverse_factor", p)),
                   .middle = reader.get<double>("/working/middle"),
                   .half_width = reader.get<double>("/working/half_width")}});
}

void write_file(const std::filesystem::path& file, std::string_view text) {
  const auto fail = [&file](const std::string& why) {
    throw Error({.code = ErrorCode::cannot_write,
                 .message = fmt::format("the file can't be written: {}", why),
                 .subject = file.string(),
                 .remedy = "check the folder, the permission and the space on the disk; nothing was left behind",
                 .place = {.file = file.string()}});
  };
  const Unfinished unfinished(file);
  std::ofstream stream(unfinished.path(), std::ios::binary);
  stream.write(text.data(), static_cast<std::streamsize>(text.size()));
  stream.close();
  if (!stream) {
    std::error_code ignored;
    fail(std::filesystem::is_directory(file.parent_path().empty() ? "." : file.parent_path(), ignored)
             ? "no permission or no space"
             : "there is no such folder");
  }
  if (const std::error_code code = unfinished.take_place()) fail(code.message());
}

}  // namespace truecurve
