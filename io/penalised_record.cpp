// Penalised estimates as JSON.
#include <truecurve/base/version.hpp>
#include <truecurve/io/penalised_record.hpp>

#include "fit_json.hpp"

namespace truecurve {

std::string penalised_record(const PenalisedEstimates& found, const Observations& rows, Level level,
                             const Deductions& deductions) {
  detail::Json json = {{"record", "truecurve.penalised/1"}, {"version", version}};
  json.update(detail::estimate_json(found.estimate));
  json["data"].update(detail::rows_json(rows));
  detail::Json intervals = detail::Json::array();
  for (const ParameterInterval& p : found.parameters)
    intervals.push_back({{"name", p.name}, {"interval", detail::open_interval_json(level, p.low, p.high)}, {"p", p.p}});
  json["profile_intervals"] = intervals;
  json["log_likelihood"] = found.log_likelihood;
  json["penalty"] = found.penalty;
  json["greatest_log_likelihood"] = found.greatest_log_likelihood;
  json.update(detail::deductions_json(deductions, level));
  json["solver"] = {{"converged", found.converged}};
  return detail::text_of(json);
}

}  // namespace truecurve
