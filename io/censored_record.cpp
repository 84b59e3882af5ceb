// A fit with limits as JSON.
#include <truecurve/base/version.hpp>
#include <truecurve/io/censored_record.hpp>

#include "fit_json.hpp"

#include <cmath>

namespace truecurve {
namespace {

using detail::Json;

Json values_json(const CensoredResults& r, const Vector& values) {
  if (values.size() == 0) return {};
  Json json = Json::object();
  for (std::size_t j = 0; j < r.parameters.size(); ++j) json[r.parameters[j].name] = values[j];
  return json;
}

}  // namespace

std::string censored_record(const CensoredResults& r, const Deductions& deductions) {
  const CensoredFit& fit = r.fit;
  const Observations& rows = fit.data.rows;
  Json json = {{"record", "truecurve.censored/1"}, {"version", version}};
  json.update(detail::estimate_json(fit.estimate));
  json["data"].update(detail::rows_json(rows));
  json["distribution"] = name(fit.distribution);
  json["measured"] = fit.data.count(Censoring::none);
  json["below"] = fit.data.count(Censoring::below);
  json["above"] = fit.data.count(Censoring::above);
  Json intervals = Json::array();
  for (const ParameterInterval& p : r.parameters) {
    intervals.push_back({{"name", p.name},
                         {"value", p.value},
                         {"standard_uncertainty", p.standard_uncertainty},
                         {"interval", detail::open_interval_json(r.level, p.low, p.high)},
                         {"unit", p.unit}});
  }
  json["scatter"] = intervals.back();
  intervals.erase(intervals.end() - 1);
  json["profile_intervals"] = intervals;
  json["covariance_with_ln_s"] = detail::list(fit.joint_covariance);
  Json quantiles = Json::array();
  for (const CensoredQuantile& q : r.quantiles) {
    Json at = Json::object();
    for (std::size_t k = 0; k < rows.predictors().size(); ++k) at[rows.predictors()[k].name] = q.at[k];
    quantiles.push_back({{"share", q.share},
                         {"at", at},
                         {"value", q.value},
                         {"standard_uncertainty", q.standard_uncertainty},
                         {"interval", detail::open_interval_json(r.level, q.interval.low, q.interval.high)}});
  }
  json["quantiles"] = quantiles;
  json.update(detail::deductions_json(deductions, r.level));
  json["log_likelihood"] = fit.log_likelihood;
  json["aic"] = fit.aic;
  json["aicc"] = fit.aicc;
  json["bic"] = fit.bic;
  Json distributions = Json::array();
  for (const DistributionRank& d : r.distributions)
    distributions.push_back(
        {{"distribution", name(d.distribution)}, {"log_likelihood", d.log_likelihood}, {"aicc", d.aicc}});
  json["distributions"] = distributions;
  json["left_out_instead"] = values_json(r, r.otherwise.left_out);
  json["as_measured_instead"] = values_json(r, r.otherwise.as_measured);
  json["remarks"] = r.remarks;
  json["solver"] = {{"converged", fit.converged}, {"evaluations", fit.evaluations}};
  return detail::text_of(json);
}

}  // namespace truecurve
