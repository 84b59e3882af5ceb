// Fit records as JSON.
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

#include "../src/fit/estimate_parts.hpp"
#include "fit_json.hpp"
#include "json.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::interval_of;
using detail::Json;
using detail::left_out_of;
using detail::list;
using detail::model_of;
using detail::quantity;
using detail::text_of;

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

// A matrix of the fitted parameters with a row and a column for each held one, filled with zeros.
Matrix spread_out(const Matrix& values, const Model& model) {
  const auto count = model.all_parameters().size();
  const std::vector<std::size_t> places = detail::places_of(model);
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
                    {"unit", q.unit},
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
                    {"p", h.p},
                    {"one_sided", h.is_one_sided}});
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
           {{"kind", detail::scatter_form_names[static_cast<std::size_t>(parts.new_observation.form)]},
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
      {"correlation_coefficient", q.correlation_coefficient},
      {"measured_scale",
       {{"residual_sum_of_squares", q.measured_scale.residual_sum_of_squares},
        {"residual_sd", q.measured_scale.residual_sd},
        {"r_squared", q.measured_scale.r_squared}}},
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
      {"unit_remarks", unit_remarks(fit.estimate())},
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

std::string fit_record(const Fit& fit, Level level, const Deductions& deductions, const Trust& trust, RecordRows rows) {
  Json json = detail::fit_json(fit, level, residual_checks(fit), deductions, trust);
  if (rows == RecordRows::all) json["rows"] = detail::residual_rows_json(fit);
  json["counted_rows"] = counted_rows_of(fit);
  return text_of(json);
}

}  // namespace truecurve
