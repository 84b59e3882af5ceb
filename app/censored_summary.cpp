// Tables from the record of a fit with limits.
#include "censored_summary.hpp"

#include "record_json.hpp"

#include <fmt/format.h>

namespace truecurve::app {
namespace {

std::vector<std::string> parameter_row(const Json& p) {
  const double u = number(p["standard_uncertainty"]);
  return {text(p["name"]), with_uncertainty(number(p["value"]), u), digits(p["standard_uncertainty"], 2),
          interval(p["interval"], u), text(p["unit"])};
}

}  // namespace

std::vector<ReportTable> censored_tables(const Json& record) {
  ReportTable parameters{"Parameters", {"name", "value", "standard uncertainty", "profile interval", "unit"}, {}};
  for (const Json& p : record["profile_intervals"]) parameters.rows.push_back(parameter_row(p));
  parameters.rows.push_back(parameter_row(record["scatter"]));
  ReportTable quantiles{"Quantiles", {"at", "share below", headed(record["data"]["response"]), "profile interval"}, {}};
  for (const Json& q : record["quantiles"]) {
    std::string at;
    for (const auto& [name, value] : q["at"].items())
      at += fmt::format("{}{} = {}", at.empty() ? "" : ", ", name, shortest(number(value)));
    const double u = number(q["standard_uncertainty"]);
    quantiles.rows.push_back({at, fmt::format("{:.6g} %", 100 * number(q["share"])),
                              with_uncertainty(number(q["value"]), u), interval(q["interval"], u)});
  }
  ReportTable distributions{"Distributions about the same curve", {"distribution", "log likelihood", "AICc"}, {}};
  for (const Json& d : record["distributions"]) {
    const auto two = [](const Json& value) {
      return value.is_number() ? fmt::format("{:.2f}", value.get<double>()) : std::string("-");
    };
    distributions.rows.push_back({text(d["distribution"]), two(d["log_likelihood"]), two(d["aicc"])});
  }
  ReportTable otherwise{"If the rows with a limit were treated otherwise", {""}, {}};
  for (const std::vector<std::string>& row : parameters.rows) otherwise.headings.push_back(row.front());
  for (const auto& [field, words] :
       {std::pair{"left_out_instead", "left out"}, {"as_measured_instead", "taken as measured"}}) {
    if (!record[field].is_object()) continue;
    std::vector<std::string> row = {words};
    for (std::size_t j = 1; j < otherwise.headings.size(); ++j)
      row.push_back(digits(record[field][otherwise.headings[j]], 4));
    otherwise.rows.push_back(row);
  }
  return {parameters, quantiles, distributions, otherwise};
}

}  // namespace truecurve::app
