// Comparisons as JSON, and back.
#include <truecurve/base/version.hpp>
#include <truecurve/io/comparison_record.hpp>

#include "fit_json.hpp"

#include <array>
#include <cmath>

namespace truecurve {
namespace {

using detail::interval_of;
using detail::Json;
using detail::list;
using detail::quantity;
using detail::RecordReader;

constexpr std::array<std::string_view, 3> loo_methods = {"exact", "refitted", "one step"};

Json left_out_rows(const std::vector<LeftOut>& rows) {
  Json list = Json::array();
  for (const LeftOut& left : rows) list.push_back({{"row", left.row}, {"reason", left.reason}});
  return list;
}

Json candidate_json(const Candidate& c, Level level) {
  Json remarks = Json::array();
  for (const CandidateRemark& remark : c.remarks)
    remarks.push_back({{"code", name(remark.code)}, {"text", remark.text}});
  const LeaveOneOut& loo = c.leave_one_out;
  Json added;
  if (!std::isnan(c.added_p)) added = {{"p", c.added_p}, {"to", c.added_to.empty() ? Json() : Json(c.added_to)}};
  return {
      {"name", c.name},
      {"model", c.fit.model().text()},
      {"parameters_count", c.parameters},
      {"residual_sd", c.residual_sd},
      {"reduced_chi_squared", c.reduced_chi_squared},
      {"deviance", c.deviance},
      {"r_squared", c.r_squared},
      {"adjusted_r_squared", c.adjusted_r_squared},
      {"log_likelihood", c.log_likelihood},
      {"aicc", c.aicc},
      {"delta_aicc", c.delta_aicc},
      {"weight", c.weight},
      {"bic", c.bic},
      {"leave_one_out_sd", loo.size.root_mean_square},
      {"leave_one_out",
       {{"method", loo_methods[static_cast<std::size_t>(loo.method)]},
        {"in_uncertainties", loo.size.in_uncertainties},
        {"one_step_difference", loo.method == LeaveOneOut::Method::one_step ? Json(loo.one_step_difference) : Json()}}},
      {"cross_validation_sd", c.cross_validation.root_mean_square},
      {"cross_validation_in_uncertainties", c.cross_validation.in_uncertainties},
      {"added_term", added},
      {"largest_residual",
       {{"standardized", c.largest_residual},
        {"row", c.largest_residual_row == 0 ? Json() : Json(c.largest_residual_row)}}},
      {"remarks", remarks},
      {"fit", detail::fit_json(c.fit, level, c.checks, deduce(c.fit.estimate(), level), {})}};
}

Json nested_json(const Comparison& comparison) {
  Json list = Json::array();
  for (const NestedPair& pair : comparison.nested_tests) {
    list.push_back({{"smaller", comparison.candidates[pair.smaller].name},
                    {"larger", comparison.candidates[pair.larger].name},
                    {"test", name(pair.test.kind)},
                    {"statistic", pair.test.statistic},
                    {"added_parameters", pair.test.added},
                    {"degrees_of_freedom", pair.test.denominator},
                    {"p", pair.test.p}});
  }
  return list;
}

Json routes_json(const Comparison& comparison) {
  Json list = Json::array();
  for (const ExplainedRoutes& routes : comparison.routes) {
    Json parameters = Json::array();
    for (const RouteParameter& p : routes.pair.parameters) {
      parameters.push_back(
          {{"name", p.name},
           {"direct", {{"value", p.direct}, {"standard_uncertainty", p.direct_uncertainty}}},
           {"linearized", {{"value", p.linearized}, {"standard_uncertainty", p.linearized_uncertainty}}}});
    }
    list.push_back({{"direct", comparison.candidates[routes.direct].name},
                    {"linearized", comparison.candidates[routes.linearized].name},
                    {"parameters", parameters},
                    {"direct_scatter", routes.pair.direct_scatter},
                    {"linearized_scatter", routes.pair.linearized_scatter},
                    {"direct_weights", routes.pair.direct_weights},
                    {"linearized_weights", routes.pair.linearized_weights},
                    {"delta_aicc", routes.pair.delta_aicc},
                    {"verdict", routes.pair.verdict}});
  }
  return list;
}

Json suggestion_json(const Suggestion& suggestion) {
  Json separations = Json::array();
  for (const Separation& s : suggestion.separations) {
    separations.push_back({{"rival", s.rival},
                           {"at", s.at},
                           {"difference", s.difference},
                           {"in_uncertainties", s.in_uncertainties},
                           {"outside_data", s.outside_data}});
  }
  return {{"name", suggestion.name.empty() ? Json() : Json(suggestion.name)},
          {"reason", suggestion.reason},
          {"indistinguishable", suggestion.indistinguishable},
          {"separations", separations}};
}

Json held_out_json(const Comparison& comparison) {
  Json list = Json::array();
  for (const HeldOutRows& held : comparison.held_out) {
    Json rows = Json::array();
    for (const HeldOutRow& row : held.rows) {
      rows.push_back({{"row", row.row},
                      {"at", row.at},
                      {"measured", row.measured},
                      {"predicted", row.predicted},
                      {"standard_uncertainty", row.standard_uncertainty},
                      {"error", row.error},
                      {"in_uncertainties", row.in_uncertainties}});
    }
    list.push_back({{"name", held.name}, {"condition", comparison.hold_out}, {"rows", rows}});
  }
  return list;
}

}  // namespace

std::string comparison_record(const Comparison& comparison, Level level) {
  Json candidates = Json::array();
  for (const Candidate& candidate : comparison.candidates) candidates.push_back(candidate_json(candidate, level));
  Json failed = Json::array();
  for (const FailedCandidate& f : comparison.failed) failed.push_back({{"name", f.name}, {"reason", f.reason}});
  const Observations& observations = comparison.candidates.front().fit.observations();
  return detail::text_of(
      {{"record", "truecurve.comparison/1"},
       {"version", version},
       {"data",
        {{"source", observations.source().name},
         {"sha256", observations.source().sha256.empty() ? Json() : Json(observations.source().sha256)},
         {"rows_read", observations.rows_read()},
         {"rows_used", observations.size()},
         {"response", quantity(observations.response())},
         {"not_common", left_out_rows(comparison.not_common)}}},
       {"ordered_by", comparison.ordered_by},
       {"candidates", candidates},
       {"failed", failed},
       {"nested_tests", nested_json(comparison)},
       {"routes", routes_json(comparison)},
       {"hold_out", held_out_json(comparison)},
       {"cross_validation",
        comparison.folds == 0 ? Json() : Json{{"folds", comparison.folds}, {"seed", comparison.seed}}},
       {"suggestion", suggestion_json(comparison.suggestion)},
       {"remarks", comparison.remarks}});
}

namespace {

// Curves that are averaged are of one response in the same predictors.
void require_same_quantities(const RecordReader& reader, const std::string& at, const Estimate& first,
                             const Estimate& estimate) {
  const auto is_same = [](const Quantity& a, const Quantity& b) { return a.name == b.name && a.unit == b.unit; };
  if (!is_same(first.response(), estimate.response()))
    reader.fail(at + "/response", "this is not the response of the first candidate");
  if (!std::equal(first.predictors().begin(), first.predictors().end(), estimate.predictors().begin(),
                  estimate.predictors().end(), is_same))
    reader.fail(at + "/predictors", "these are not the predictors of the first candidate");
}

}  // namespace

std::vector<WeightedEstimate> read_comparison_record(std::string_view json, const std::string& source) {
  const RecordReader reader = RecordReader::of(json, source);
  reader.require_kind({"truecurve.comparison/1"});
  const std::string suggested = reader.is_given("/suggestion/name") ? reader.get<std::string>("/suggestion/name") : "";
  std::vector<WeightedEstimate> curves;
  double sum = 0;
  for (std::size_t i = 0; i < reader.length("/candidates"); ++i) {
    const std::string at = fmt::format("/candidates/{}", i);
    const double weight = reader.number_or_nan(at + "/weight");
    if (std::isnan(weight)) continue;
    sum += weight;
    const auto name = reader.get<std::string>(at + "/name");
    const Estimate estimate = detail::read_fit(reader.inner(at + "/fit"));
    if (!curves.empty()) require_same_quantities(reader, at + "/fit/data", curves.front().estimate, estimate);
    curves.push_back({name, weight, estimate, name == suggested});
  }
  if (curves.empty()) reader.fail("/candidates", "no candidate has a weight, so nothing can be averaged");
  if (!(std::abs(sum - 1) < 1e-9)) reader.fail("/candidates", fmt::format("the weights add up to {}, not to 1", sum));
  return curves;
}

bool is_comparison_record(std::string_view json, const std::string& source) {
  return RecordReader::of(json, source).kind().starts_with("truecurve.comparison/");
}

std::string averaged_prediction_record(std::span<const WeightedEstimate> curves, std::span<const Vector> points,
                                       std::span<const AveragedPoint> values, Level level) {
  const Estimate& first = curves.front().estimate;
  Json averaged = Json::array();
  Json remarks = Json::array();
  for (const WeightedEstimate& curve : curves) {
    averaged.push_back({{"name", curve.name},
                        {"text", curve.estimate.model().text()},
                        {"weight", curve.weight},
                        {"suggested", curve.is_suggested}});
    for (const std::string& remark : limit_remarks(curve.estimate)) remarks.push_back(curve.name + ": " + remark);
  }
  Json list = Json::array();
  for (std::size_t i = 0; i < values.size(); ++i) {
    Json at = Json::object();
    for (std::size_t k = 0; k < points.size(); ++k) at[first.predictors()[k].name] = points[k][i];
    const BandPoint& whole = values[i].whole;
    Json confidences = Json::array();
    for (const Interval& interval : values[i].confidences) confidences.push_back(interval_of(interval));
    list.push_back({{"at", at},
                    {"value", whole.value},
                    {"standard_uncertainty", whole.standard_uncertainty},
                    {"between", values[i].between},
                    {"values", values[i].values},
                    {"confidences", confidences},
                    {"confidence", interval_of(whole.confidence)},
                    {"simultaneous", interval_of(whole.simultaneous)},
                    {"prediction", interval_of(whole.prediction)},
                    {"outside_data", whole.outside}});
  }
  return detail::text_of({{"record", "truecurve.prediction/1"},
                          {"version", version},
                          {"model", {{"text", "average of candidates by weight"}, {"kind", "average"}}},
                          {"averaged", averaged},
                          {"response", quantity(first.response())},
                          {"level", level},
                          {"points", list},
                          {"remarks", remarks}});
}

}  // namespace truecurve
