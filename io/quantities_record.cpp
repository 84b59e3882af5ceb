// Records of what was read from a calibration.
#include <truecurve/base/version.hpp>
#include <truecurve/io/calibration_record.hpp>

#include "json.hpp"

namespace truecurve {

using detail::Json;
using detail::quantity;

std::string quantities_record(const Quantities& quantities, const StoredCalibration& calibration,
                              const Readings& readings) {
  Json list = Json::array();
  for (const Quantified& q : quantities.unknowns) {
    list.push_back(
        {{"sample", q.sample},
         {"kind", name(q.kind)},
         {"rows", q.rows},
         {"readings", q.unknown.signals},
         {"exposures", q.unknown.exposures},
         {"dilution", q.unknown.dilution},
         {"net_signal", q.amount.net_signal},
         {"amount", q.amount.amount},
         {"standard_uncertainty", q.amount.standard_uncertainty},
         {"interval",
          {{"level", calibration.curve.level}, {"low", q.amount.interval.low}, {"high", q.amount.interval.high}}},
         {"budget",
          {{"readings", q.amount.budget.readings},
           {"curve", q.amount.budget.curve},
           {"blank", q.amount.budget.blank},
           {"dilution", q.amount.budget.dilution}}},
         {"flag", name(q.flag)},
         {"limits",
          {{"critical", q.limits.critical},
           {"detection", q.limits.detection},
           {"quantitation", q.limits.quantitation},
           {"largest_count", q.limits.largest_count}}},
         {"dilute_by", q.dilute_by},
         {"sd", q.sd},
         {"sd_p", q.sd_p},
         {"other_amounts", q.amount.other_amounts},
         {"nominal", q.nominal},
         {"recovery", q.recovery},
         {"recovery_uncertainty", q.recovery_uncertainty}});
  }
  return detail::text_of({{"record", "truecurve.quantities/1"},
                          {"version", version},
                          {"calibration_day", calibration.day.empty() ? Json() : Json(calibration.day)},
                          {"data",
                           {{"source", readings.source.name},
                            {"sha256", readings.source.sha256.empty() ? Json() : Json(readings.source.sha256)}}},
                          {"amount", quantity(calibration.amount)},
                          {"signal", quantity(calibration.signal)},
                          {"limit_options", {{"alpha", calibration.limits.alpha}, {"beta", calibration.limits.beta}}},
                          {"level_of_each", quantities.level_of_each},
                          {"unknowns", list},
                          {"remarks", quantities.remarks}});
}

}  // namespace truecurve
