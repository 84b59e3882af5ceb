// Records of what is read from a curve: predictions, solutions, derived quantities, a curve at its starts.
#include <truecurve/assess/means.hpp>
#include <truecurve/base/version.hpp>
#include <truecurve/io/record.hpp>

#include "fit_json.hpp"
#include "json.hpp"

#include <array>

#include <fmt/format.h>

namespace truecurve {

using detail::interval_of;
using detail::Json;
using detail::model_of;
using detail::quantity;
using detail::text_of;

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
  Json json = {
      {"record", "truecurve.derivation/1"}, {"version", version}, {"model", model_of(estimate)}, {"level", level}};
  json.update(detail::deductions_json(deductions, level));
  json["remarks"] = limit_remarks(estimate);
  return text_of(json);
}

}  // namespace truecurve
