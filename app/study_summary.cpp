// Sentences and tables from records.
#include "study_summary.hpp"

#include <truecurve/assess/derived.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/report/calibration_text.hpp>

#include "censored_summary.hpp"
#include "record_json.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

// The first paragraph: the first lines that are indented by two blanks.
std::string first_paragraph(const std::string& page) {
  const auto at = page.find("\n\n  ");
  std::string paragraph;
  for (std::size_t start = at == std::string::npos ? page.size() : at + 2; start < page.size();) {
    const std::size_t end = std::min(page.find('\n', start), page.size());
    const std::string line = page.substr(start, end - start);
    if (!line.starts_with("  ")) break;
    paragraph += (paragraph.empty() ? "" : " ") + line.substr(2);
    start = end + 1;
  }
  return paragraph;
}

// What stands in place of the uncertainty of a parameter that was held, or ended at a limit.
std::string uncertainty_cell(const Json& parameter) {
  if (parameter.value("fixed", false)) return "held";
  const Json& within = parameter["within"];
  if (within.is_object()) {
    for (const bool upwards : {true, false}) {
      const char* const end = upwards ? "at_least" : "at_most";
      if (within.contains(end)) return "held: it is " + end_text({0, upwards, number(within[end])});
    }
    const double value = number(parameter["value"]);
    if (value == number(within["low"]) || value == number(within["high"])) return "at its limit";
  }
  return digits(parameter["standard_uncertainty"], 2);
}

// Of a quotient without a bounded interval, the rays.
std::string derived_interval(const Json& q) {
  if (q.value("bounded", true)) return interval(q["interval"], number(q["standard_uncertainty"]));
  const Json& out = q["excluded"];
  if (!out.is_object()) return "no bounded interval";
  return rays_text({number(out["low"]), number(out["high"])});
}

ReportTable parameters_table(const Json& fit) {
  ReportTable table{"Parameters", {"name", "value", "standard uncertainty", "interval", "unit"}, {}};
  for (const Json& p : fit["parameters"]) {
    const double u = number(p["standard_uncertainty"]);
    const bool held = p.value("fixed", false);
    table.rows.push_back({text(p["name"]),
                          held ? shortest(number(p["value"])) : with_uncertainty(number(p["value"]), u),
                          uncertainty_cell(p), interval(p["interval"], u), text(p["unit"])});
  }
  return table;
}

ReportTable correlation_table(const Json& fit) {
  ReportTable table{"Correlation", {""}, {}};
  std::vector<std::size_t> free;
  for (std::size_t j = 0; j < fit["parameters"].size(); ++j) {
    if (fit["parameters"][j].value("fixed", false)) continue;
    free.push_back(j);
    table.headings.push_back(text(fit["parameters"][j]["name"]));
  }
  for (const std::size_t i : free) {
    std::vector<std::string> row = {text(fit["parameters"][i]["name"])};
    for (const std::size_t j : free) {
      const double r = number(fit["correlation"][i][j]);
      row.push_back(j > i ? "" : std::isnan(r) ? "-" : fmt::format("{:.3f}", r));
    }
    table.rows.push_back(row);
  }
  return table;
}

ReportTable derived_table(const Json& fit) {
  ReportTable table{"Derived quantities", {"name", "value", "interval", "from"}, {}};
  for (const Json& q : fit["derived"]) {
    const double u = number(q["standard_uncertainty"]);
    table.rows.push_back(
        {text(q["name"]), with_uncertainty(number(q["value"]), u), derived_interval(q), text(q["expression"])});
  }
  return table;
}

ReportTable variance_table_of(const Json& fit) {
  ReportTable table{"Variance", {"source", "sum of squares", "degrees of freedom", "mean square", "F", "p"}, {}};
  const auto add = [&table](const Json& line) {
    const auto shown = [](const Json& value, int count) {
      return value.is_number() ? fmt::format("{:.{}g}", value.get<double>(), count) : std::string();
    };
    const double p = number(line["p"]);
    table.rows.push_back({text(line["source"]), shown(line["sum_of_squares"], 6), shown(line["degrees_of_freedom"], 6),
                          shown(line["mean_square"], 6), shown(line["f"], 4),
                          std::isnan(p) ? "" : probability_text(p)});
  };
  const Json& variance = fit["variance"];
  if (variance.is_null()) return table;  // a deviance is not split
  add(variance["explained"]);
  for (const Json& line : variance["sequential"]) add(line);
  add(variance["residual"]);
  if (variance["replicates"].is_object()) {
    add(variance["replicates"]["lack_of_fit"]);
    add(variance["replicates"]["pure_error"]);
  }
  add(variance["total"]);
  return table;
}

ReportTable left_out_table(const Json& data) {
  ReportTable table{"Left out", {"row", "why"}, {}};
  for (const Json& left : data["left_out"])
    table.rows.push_back({fmt::format("{}", left["row"].get<int>()), text(left["reason"])});
  return table;
}

ReportTable checks_table(const Json& fit) {
  ReportTable table{"Residual checks", {"check", "p", "what it says"}, {}};
  for (const Json& check : fit["checks"]) {
    const double p = number(check["p"]);
    table.rows.push_back({text(check["name"]), std::isnan(p) ? "-" : probability_text(p), text(check["sentence"])});
  }
  return table;
}

ReportTable hypotheses_table(const Json& fit) {
  ReportTable table{"Hypotheses", {"hypothesis", "sides differ by", "t", "p"}, {}};
  for (const Json& h : fit["hypotheses"]) {
    const double p = number(h["p"]);
    table.rows.push_back({text(h["hypothesis"]),
                          with_uncertainty(number(h["difference"]), number(h["standard_uncertainty"])),
                          digits(h["t"], 3), std::isnan(p) ? "-" : probability_text(p)});
  }
  return table;
}

bool is_counted(const Json& fit) { return fit.value("response_kind", "measured") != "measured"; }

ReportTable quality_table(const Json& fit) {
  ReportTable table{"Goodness of fit", {"", ""}, {}};
  const auto add = [&table](const char* name, const Json& value, int count) {
    if (value.is_number()) table.rows.push_back({name, digits(value, count)});
  };
  const bool counted = is_counted(fit);
  table.rows.push_back({counted ? "rows n" : "data points n", fmt::format("{}", fit["data"]["rows_used"].get<int>())});
  table.rows.push_back({"degrees of freedom", shortest(number(fit["degrees_of_freedom"]))});
  add("residual standard deviation S", fit["residual_sd"], 4);
  const bool weighted = fit["birge_ratio"].is_number();
  if (weighted) {
    add("chi-squared", fit["chi_squared"], 4);
    add("chi-squared / degrees of freedom", fit["reduced_chi_squared"], 4);
    if (fit["chi_squared_p"].is_number())
      table.rows.push_back({"p-value of chi-squared", probability_text(number(fit["chi_squared_p"]))});
  }
  if (counted) {
    add("deviance", fit["deviance"], 4);
    add("deviance with one mean for all rows", fit["null_deviance"], 4);
    add("Pearson's chi-squared", fit["pearson_chi_squared"], 4);
    add("dispersion", fit["dispersion"], 4);
  }
  add("R²", fit["r_squared"], 6);
  add("AICc", fit["aicc"], 6);
  return table;
}

ReportTable held_out_table(const Json& record) {
  ReportTable table{"Hold-out data", {"candidate", "row", "measured", "predicted", "error / u"}, {}};
  for (const Json& held : record["hold_out"]) {
    for (const Json& row : held["rows"]) {
      const double z = number(row["in_uncertainties"]);
      table.rows.push_back({text(held["name"]), fmt::format("{}", row["row"].get<int>()),
                            shortest(number(row["measured"])),
                            with_uncertainty(number(row["predicted"]), number(row["standard_uncertainty"])),
                            std::isnan(z) ? "-" : fmt::format("{:.2f}", z)});
    }
  }
  return table;
}

// Tables that have something to say.
std::vector<ReportTable> filled(std::vector<ReportTable> tables) {
  std::erase_if(tables, [](const ReportTable& table) { return table.rows.empty(); });
  return tables;
}

ReportTable candidates_table(const Json& record) {
  const bool counted = is_counted(record["candidates"].front()["fit"]);
  ReportTable table{"Candidates", {"name", "parameters", "AICc", "behind", "weight", "leave-one-out", "S", "R²"}, {}};
  if (counted)
    table.headings = {"name", "parameters", "AICc", "behind", "weight", "leave-one-out deviance", "deviance"};
  for (const Json& c : record["candidates"]) {
    const auto fixed = [](const Json& value, int decimals) {
      return value.is_number() ? fmt::format("{:.{}f}", value.get<double>(), decimals) : std::string("-");
    };
    table.rows.push_back({text(c["name"]), fmt::format("{}", c["parameters_count"].get<int>()), fixed(c["aicc"], 1),
                          fixed(c["delta_aicc"], 1), fixed(c["weight"], 3), digits(c["leave_one_out_sd"], 4),
                          digits(c["residual_sd"], 4), digits(c["r_squared"], 6)});
    if (!counted) continue;
    std::vector<std::string>& cells = table.rows.back();
    cells.resize(5);
    const double root = number(c["leave_one_out_sd"]);
    cells.push_back(std::isnan(root) ? "-" : rounded(root * root, 4));
    cells.push_back(digits(c["deviance"], 4));
  }
  return table;
}

ReportTable limits_table(const Json& record) {
  ReportTable table{"Detection and quantitation limits",
                    {"route", "critical value", "detection " + headed(record["amount"]), "quantitation", "rests on"},
                    {}};
  for (const Json& l : record["limits"]) {
    const double u = number(l["detection_uncertainty"]);
    table.rows.push_back({text(l["route"]), digits(l["critical"], 3),
                          std::isfinite(u) ? with_uncertainty(number(l["detection"]), u) : digits(l["detection"], 3),
                          digits(l["quantitation"], 3), text(l["rests_on"])});
  }
  return table;
}

ReportTable levels_table(const Json& record) {
  ReportTable table{"Levels", {headed(record["amount"]), "n", "mean", "SD"}, {}};
  for (const Json& l : record["levels"])
    table.rows.push_back(
        {shortest(number(l["level"])), fmt::format("{}", l["n"].get<int>()), digits(l["mean"], 5), digits(l["sd"], 3)});
  return table;
}

// The line's parameters with everything that is in their covariance, a subtracted blank included.
ReportTable reported_table(const Json& record) {
  ReportTable table{"Parameters", {"name", "value", "standard uncertainty", "interval", "unit"}, {}};
  for (const Json& p : record["parameters"]) {
    const double u = number(p["standard_uncertainty"]);
    table.rows.push_back({text(p["name"]), with_uncertainty(number(p["value"]), u), rounded(u, 2),
                          interval(p["interval"], u), text(p["unit"])});
  }
  return table;
}

ReportTable reported_correlation_table(const Json& record) {
  ReportTable table{"Correlation", {""}, {}};
  const Json& parameters = record["reported"]["parameters"];
  const Json& covariance = record["reported"]["covariance"];
  for (std::size_t i = 0; i < parameters.size(); ++i) {
    table.headings.push_back(text(parameters[i]["name"]));
    std::vector<std::string> row = {text(parameters[i]["name"])};
    for (std::size_t j = 0; j < parameters.size(); ++j) {
      const double r = number(covariance[i][j]) / std::sqrt(number(covariance[i][i]) * number(covariance[j][j]));
      row.push_back(j > i ? "" : std::isnan(r) ? "-" : fmt::format("{:.3f}", r));
    }
    table.rows.push_back(row);
  }
  return table;
}

// The flag with the number that it was given for.
std::string flag_text(const Json& q) {
  const std::string flag = text(q["flag"]);
  if (q["dilute_by"].is_number()) return flag + ": " + dilution_advice(number(q["dilute_by"]), number(q["dilution"]));
  if (flag == "not detected") return fmt::format("{}, critical value {}", flag, digits(q["limits"]["critical"], 3));
  return flag;
}

ReportTable unknowns_table(const Json& record) {
  ReportTable table{"Unknowns", {"sample", "readings", headed(record["amount"]), "interval", "remark"}, {}};
  for (const Json& q : record["unknowns"]) {
    const double u = number(q["standard_uncertainty"]);
    const std::string recovery =
        q["recovery"].is_number() ? fmt::format("control, recovery {} %", rounded(100 * number(q["recovery"]), 4)) : "";
    table.rows.push_back({text(q["sample"]), fmt::format("{}", q["readings"].size()),
                          q["amount"].is_number() ? with_uncertainty(number(q["amount"]), u) : "-",
                          interval(q["interval"], u), flag_text(q) + recovery});
  }
  return table;
}

ReportTable points_table(const Json& record) {
  ReportTable table{"Prediction", {}, {}};
  for (const auto& [name, value] : record["points"].front()["at"].items()) table.headings.push_back(name);
  table.headings.insert(table.headings.end(),
                        {headed(record["response"]), "band of the curve", "of a new observation", ""});
  for (const Json& point : record["points"]) {
    std::vector<std::string> row;
    for (const auto& [name, value] : point["at"].items()) row.push_back(shortest(number(value)));
    row.push_back(with_uncertainty(number(point["value"]), number(point["standard_uncertainty"])));
    row.push_back(interval(point["confidence"], not_a_number));
    row.push_back(interval(point["prediction"], not_a_number));
    row.push_back(number(point["outside_data"]) > 0 ? "outside the data" : "");
    table.rows.push_back(row);
  }
  return table;
}

ReportTable budgets_table(const Json& record) {
  ReportTable table{"What the uncertainties are made of", {"sample", "readings", "curve", "blank", "dilution"}, {}};
  for (const Json& q : record["unknowns"]) {
    const Json& b = q["budget"];
    table.rows.push_back({text(q["sample"]), digits(b["readings"], 2), digits(b["curve"], 2), digits(b["blank"], 2),
                          digits(b["dilution"], 2)});
  }
  return table;
}

ReportTable roots_table(const Json& record) {
  ReportTable table{"Where it is reached", {headed(record["predictor"]), "interval", ""}, {}};
  for (const Json& root : record["roots"]) {
    const double u = number(root["standard_uncertainty"]);
    table.rows.push_back({with_uncertainty(number(root["value"]), u), interval(root["interval"], u),
                          number(root["outside_data"]) > 0 ? "outside the data" : ""});
  }
  return table;
}

std::string quantities_sentence(const Json& record) {
  std::string sentence;
  for (const Json& q : record["unknowns"]) {
    const std::string value =
        q["amount"].is_number() ? with_uncertainty(number(q["amount"]), number(q["standard_uncertainty"])) : "-";
    const std::string flag = flag_text(q);
    sentence += fmt::format("{}{}: {}{}", sentence.empty() ? "" : "; ", text(q["sample"]), value,
                            flag.empty() ? "" : " (" + flag + ")");
  }
  return fmt::format("{}{}: {}.", text(record["amount"]["name"]),
                     text(record["amount"]["unit"]).empty() ? "" : " in" + unit_of(record["amount"]), sentence);
}

std::string calibration_sentence(const Json& record) {
  std::string sentence = text(record["fit"]["model"]["text"]) + " with ";
  for (const Json& p : record["parameters"]) {
    const std::string unit = text(p["unit"]);
    sentence += fmt::format("{}{} = {}{}", &p == &record["parameters"].front() ? "" : ", ", text(p["name"]),
                            with_uncertainty(number(p["value"]), number(p["standard_uncertainty"])),
                            unit.empty() ? "" : " " + unit);
  }
  const Json& o = record["limit_options"];
  for (const Json& l : record["limits"]) {
    if (text(l["route"]) != "critical value and power" || !l["detection"].is_number()) continue;
    const double u = number(l["detection_uncertainty"]);
    sentence += fmt::format("; detection limit {}{} (α = {}, β = {}, {})",
                            std::isfinite(u) ? with_uncertainty(number(l["detection"]), u) : digits(l["detection"], 3),
                            unit_of(record["amount"]), shortest(number(o["alpha"])), shortest(number(o["beta"])),
                            o["readings"] == 1 ? "one reading" : fmt::format("{} readings", o["readings"].get<int>()));
  }
  for (const Json& s : record["suspicious"])
    sentence += fmt::format("; row {} is {} {} ({})", s["row"].get<int>(), text(s["grade"]) == "outlier" ? "an" : "a",
                            text(s["grade"]), text(s["test"]));
  return sentence + ". " + text(record["equal_scatter"]["suggestion"]);
}

std::string lines_joined(std::string text) {
  for (std::size_t at = 0; (at = text.find('\n', at)) != std::string::npos;) text.replace(at, 1, ", ");
  return text;
}

std::string prediction_sentence(const Json& record) {
  constexpr std::size_t most = 4;
  std::string sentence;
  for (std::size_t i = 0; i < std::min(most, record["points"].size()); ++i) {
    const Json& point = record["points"][i];
    std::string place;
    for (const auto& [name, value] : point["at"].items())
      place += fmt::format("{}{} = {}", place.empty() ? "" : ", ", name, shortest(number(value)));
    sentence += fmt::format("{}{} at {}", i == 0 ? "" : "; ",
                            with_uncertainty(number(point["value"]), number(point["standard_uncertainty"])), place);
  }
  return fmt::format("{} is {}{}.", headed(record["response"]), sentence,
                     record["points"].size() > most ? " and so on" : "");
}

std::string summary_of(const Json& record, const std::string& page) {
  const std::string kind = record.is_object() ? text(record["record"]) : "";
  if (kind == "truecurve.quantities/1") return quantities_sentence(record);
  if (kind == "truecurve.calibration/1") return calibration_sentence(record);
  if (kind == "truecurve.comparison/1") return text(record["suggestion"]["reason"]);
  if (kind == "truecurve.prediction/1") {
    return prediction_sentence(record);
  }
  if (record.is_null()) return lines_joined(page.substr(0, page.find("\n\n")));  // a look keeps no record
  return first_paragraph(page);
}

// The first sentence.
std::string answer_of(const std::string& summary) {
  const auto end = summary.find(". ");
  return end == std::string::npos ? summary : summary.substr(0, end + 1);
}

// Of a comparison: " logistic has m = 33.1(6), ...".
std::string suggested_parameters(const Json& record) {
  if (!record.is_object() || text(record["record"]) != "truecurve.comparison/1") return "";
  for (const Json& c : record["candidates"]) {
    if (c["name"] != record["suggestion"]["name"]) continue;
    std::string list;
    for (const Json& p : c["fit"]["parameters"])
      list += fmt::format("{}{} = {}{}", list.empty() ? "" : ", ", text(p["name"]),
                          with_uncertainty(number(p["value"]), number(p["standard_uncertainty"])), unit_of(p));
    return fmt::format(" {} has {}.", text(c["name"]), list);
  }
  return "";
}

std::vector<std::string> cautions_of(const Json& record) {
  std::vector<std::string> cautions;
  const auto add = [&cautions](const std::string& sentence) {
    if (!sentence.empty()) cautions.push_back(sentence);
  };
  const std::string kind = text(record["record"]);
  for (const Json& q : record.value("derived", Json::array())) {
    const std::string name = text(q["name"]);
    if (!q.value("bounded", true)) {
      add(fmt::format("A divisor in {} may be 0 within its uncertainty: no bounded interval of {} holds.", name, name));
    } else if (q.value("curved", false)) {
      add(fmt::format("The symmetric interval of {} is inaccurate: the Monte Carlo interval is {}.", name,
                      interval(q["monte_carlo_interval"], number(q["standard_uncertainty"]))));
    }
  }
  if (kind == "truecurve.fit/1") {
    for (const Json& warning : record["warnings"]) add(text(warning["text"]));
    for (const Json& check : record["checks"]) {
      if (!text(check["advice"]).empty()) add(text(check["sentence"]) + " Advice: " + text(check["advice"]) + ".");
    }
  } else if (kind == "truecurve.comparison/1") {
    for (const Json& remark : record["remarks"]) add(text(remark));
    // Of those that may be chosen; what speaks against the others stands in the text.
    const Json& suggestion = record["suggestion"];
    for (const Json& c : record["candidates"]) {
      const bool counts =
          suggestion["name"].is_null() || c["name"] == suggestion["name"] ||
          std::count(suggestion["indistinguishable"].begin(), suggestion["indistinguishable"].end(), c["name"]) > 0;
      for (const Json& remark : c["remarks"]) add(counts ? text(c["name"]) + ": " + text(remark["text"]) : "");
    }
    for (const Json& f : record["failed"]) add(text(f["name"]) + " could not be fitted: " + text(f["reason"]));
  } else if (kind == "truecurve.calibration/1") {
    for (const Json& remark : record["remarks"]) add(text(remark));
    for (const Json& s : record["suspicious"])
      add(fmt::format("Row {} ({} = {}) is an {} by {}'s test.", s["row"].get<int>(), text(record["amount"]["name"]),
                      shortest(number(s["level"])), text(s["grade"]), text(s["test"])));
    add(text(record["cautious_limit"]));
  } else if (record.contains("remarks")) {  // quantities, predictions, solutions, derivations
    for (const Json& remark : record["remarks"]) add(text(remark));
  }
  return cautions;
}

// The tables of one fit; `of` names it where it is not the whole matter.
std::vector<ReportTable> fit_tables(const Json& fit, const std::string& of) {
  auto tables = filled({parameters_table(fit), derived_table(fit), hypotheses_table(fit), correlation_table(fit),
                        quality_table(fit), variance_table_of(fit), checks_table(fit)});
  if (!of.empty()) {
    for (ReportTable& table : tables) table.caption += " of " + of;
  }
  return tables;
}

std::vector<ReportTable> tables_of(const Json& record) {
  const std::string kind = text(record["record"]);
  std::vector<ReportTable> tables;
  const auto append = [&tables](std::vector<ReportTable> more) {
    tables.insert(tables.end(), more.begin(), more.end());
  };
  if (kind == "truecurve.fit/1") {
    append(fit_tables(record, ""));
    append(filled({left_out_table(record["data"])}));
  } else if (kind == "truecurve.comparison/1") {
    append(filled({candidates_table(record), held_out_table(record)}));
    for (const Json& c : record["candidates"]) {
      if (text(c["name"]) == text(record["suggestion"]["name"])) append(fit_tables(c["fit"], text(c["name"])));
    }
    append(filled({left_out_table(record["candidates"].front()["fit"]["data"])}));
  } else if (kind == "truecurve.calibration/1") {
    append(filled({levels_table(record), limits_table(record)}));
    append(filled({reported_table(record), reported_correlation_table(record), quality_table(record["fit"]),
                   variance_table_of(record["fit"]), checks_table(record["fit"])}));
    append(filled({left_out_table(record["data"])}));
  } else if (kind == "truecurve.quantities/1") {
    append(filled({unknowns_table(record), budgets_table(record)}));
  } else if (kind == "truecurve.censored/1") {
    append(filled(censored_tables(record)));
    append(filled({left_out_table(record["data"])}));
  } else if (kind == "truecurve.prediction/1") {
    if (!record["points"].empty()) append({points_table(record)});
  } else if (kind == "truecurve.solution/1") {
    append(filled({roots_table(record)}));
  } else if (kind == "truecurve.derivation/1") {
    append(filled({derived_table(record), hypotheses_table(record)}));
  }
  return tables;
}

}  // namespace

ReportSection section_from(const std::string& record_text, const std::string& page) {
  const Json record = record_text.empty() ? Json() : Json::parse(record_text);
  ReportSection section{.subject = record.is_null() ? "" : lines_joined(page.substr(0, page.find("\n\n"))),
                        .summary = summary_of(record, page),
                        .text = page};
  section.answer = answer_of(section.summary) + suggested_parameters(record);
  if (record.is_object()) {
    section.careful = cautions_of(record);
    section.tables = tables_of(record);
  }
  return section;
}

}  // namespace truecurve::app
