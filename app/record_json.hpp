// Fields of records as cells of tables.
#pragma once

#include <truecurve/base/numeric.hpp>

#include <cmath>
#include <string>

#include <nlohmann/json.hpp>

namespace truecurve::app {

using Json = nlohmann::json;

inline double number(const Json& value) {
  if (value == "inf") return infinity;
  if (value == "-inf") return -infinity;
  return value.is_number() ? value.get<double>() : not_a_number;
}
inline std::string text(const Json& value) { return value.is_string() ? value.get<std::string>() : ""; }
inline std::string unit_of(const Json& quantity) {
  const std::string unit = text(quantity.value("unit", Json()));
  return unit.empty() ? "" : " " + unit;
}
inline std::string headed(const Json& quantity) {
  const std::string unit = text(quantity["unit"]);
  return text(quantity["name"]) + (unit.empty() ? "" : " (" + unit + ")");
}
inline std::string digits(const Json& value, int count) {
  return value.is_number() ? rounded(value.get<double>(), count) : "-";
}
inline std::string interval(const Json& limits, double scale) {
  const double low = number(limits["low"]);
  const double high = number(limits["high"]);
  if (std::isnan(low) || std::isnan(high)) return "-";
  return interval_text(low, high, std::isfinite(scale) ? scale : (high - low) / 4);
}

}  // namespace truecurve::app
