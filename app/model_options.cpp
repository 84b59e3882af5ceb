// Which model, which columns, which starts.
#include "model_options.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/fit/invalid_rows.hpp>

#include "columns.hpp"
#include "progress.hpp"

#include <algorithm>
#include <cctype>
#include <map>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

Model chosen_model(const ModelOptions& options, const DataOptions& given, Table& table, const Streams& streams) {
  if (options.model.find('=') != std::string::npos) {
    if (options.route == Route::linearized) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = "--route is for named shapes; a written model is fitted as it is written",
                   .subject = "--route",
                   .remedy = "transform its left side instead: ln(y) = ..."});
    }
    const Model unbound = Model::written(equation_of(options.model, given, table, streams));
    // A share or a rate has a name of its own: p of the column 'cracked'.
    const bool is_counted = counting_of(given, table).kind != ResponseKind::measured;
    if (is_counted && !given.y.empty() && !table.has_column(unbound.response()))
      table = table.with_alias(unbound.response(), given.y);
    require_columns(unbound, given, table, !options.is_one_of_several);
    std::vector<std::string> predictors;
    for (const auto* names : {&unbound.right_side_names(), &unbound.left_side_names()}) {
      for (const std::string& name : *names) {
        const bool known = std::find(predictors.begin(), predictors.end(), name) != predictors.end();
        if (table.has_column(name) && name != unbound.response() && !known) predictors.push_back(name);
      }
    }
    return unbound.with_predictors(predictors);
  }
  if (!is_shape(options.model)) return shape_model(options.model);  // throws, and names the shapes
  const DataOptions data = with_usual_columns(given, table, streams);
  std::vector<std::string> x;
  for (const std::string& name : data.x) x.push_back(table.column(name).name);
  return shape_model_of_several(options.model, x, table.column(data.y).name, options.route);
}

Spread spread_of(const std::string& text) {
  if (text.empty()) return {};
  if (text == "constant") return Spread::constant();
  if (text == "proportional") return Spread::proportional();
  if (text == "counts") return Spread::counts();
  if (text.starts_with("power:")) return Spread::of_power(number_of(text.substr(6), "--spread"));
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("--spread '{}' is not known", text),
               .subject = "--spread",
               .value = text,
               .remedy = "write constant, proportional, counts, or power:p with a number p"});
}

void add_list(Arguments& command, const char* name, std::vector<std::string>& list, const char* form,
              const char* what) {
  command.add(name, list, what).takes(form);
}

}  // namespace

Within within_of(const std::string& text) {
  const auto [name, range] = assignment(text, "--within");
  const auto dots = range.find("..");
  if (dots == std::string::npos || range == "..") {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("--within '{}' is not a range", text),
                 .subject = "--within",
                 .value = text,
                 .remedy = fmt::format("write --within {}=0..10, {}=0.. or {}=..10", name, name, name)});
  }
  Within within{.parameter = name};
  if (dots > 0) within.low = number_of(range.substr(0, dots), "--within");
  if (dots + 2 < range.size()) within.high = number_of(range.substr(dots + 2), "--within");
  return within;
}

Route route_of(const std::string& text) {
  if (text == "direct") return Route::direct;
  if (text == "linearized") return Route::linearized;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("there is no route '{}'", text),
               .subject = "route",
               .value = text,
               .remedy = "write direct or linearized"});
}

void add_model(Arguments& command, ModelOptions& options) {
  command
      .add("MODEL", options.model,
           "A named shape (truecurve shapes) with --x and --y, or an equation such as \"y = a + b*x\"")
      .required();
  command
      .add(
          "--route", [&options](const std::string& text) { options.route = route_of(text); },
          "Of a named shape: direct fits the curve itself (default), linearized its straightened form")
      .one_of({"direct", "linearized"});
  add_list(command, "--start", options.starts, "NAME=VALUE",
           "Where the search for a parameter begins, for a model that is not linear (default: found from the data)");
  add_list(command, "--fix", options.fixed, "NAME=VALUE", "Hold a parameter at a value instead of fitting it");
  add_list(command, "--within", options.within, "NAME=LOW..HIGH",
           "Limits of a parameter; either end may be omitted: K=0..");
}

void add_scatter(Arguments& command, ModelOptions& options) {
  static const std::map<std::string, UncertaintyBasis> bases = {{"stated", UncertaintyBasis::stated},
                                                                {"scatter", UncertaintyBasis::scatter}};
  command
      .add(
          "--uncertainty", [&options](const std::string& text) { options.uncertainty = bases.at(text); },
          "stated: use the given uncertainties as absolute (default where given); scatter: estimate their scale from "
          "the residuals")
      .one_of({"stated", "scatter"});
  command
      .add("--most-evaluations", options.most_evaluations,
           "Of a model that is not linear: evaluations over the rows after which the search ends")

      .within(1, 1e9);
  command
      .add("--spread", options.spread,
           "How the scatter of the response grows with it, where no uncertainties are given")
      .takes("constant|proportional|counts|power:p");
  command.add_flag("--as-numbers", options.events_as_numbers,
                   "Fit a response of zeros and ones by least squares all the same");
}

Task task_of(const DataOptions& data, const ModelOptions& given, const Streams& streams) {
  Table table = read_table(data, streams);
  return task_of(data, given, table, streams);
}

ModelAndColumns model_and_columns(const DataOptions& data, const ModelOptions& given, Table& table,
                                  const Streams& streams) {
  Model model = chosen_model(given, data, table, streams);
  table = with_elapsed_times(table, model.predictors(), streams);
  Choice columns{.response = model.response(),
                 .predictors = model.predictors(),
                 .response_uncertainty = response_uncertainty(data, table, model.response()),
                 .left_out = rows_left_out(table, data.leave_out),
                 .counting = counting_of(data, table),
                 .order = data.order};
  tell_of_unused_uncertainties(table, columns, streams);
  return {std::move(model), std::move(columns)};
}

std::vector<Start> starts_of(const ModelOptions& options) {
  std::vector<Start> starts;
  for (const std::string& text : options.starts) {
    const auto [name, value] = assignment(text, "--start");
    starts.push_back({name, number_of(value, "--start")});
  }
  return starts;
}

std::vector<FixedParameter> fixed_of(const ModelOptions& options) {
  std::vector<FixedParameter> fixed;
  for (const std::string& text : options.fixed) {
    const auto [name, value] = assignment(text, "--fix");
    fixed.push_back({name, number_of(value, "--fix")});
  }
  return fixed;
}

Task task_of(const DataOptions& data, const ModelOptions& given, Table& table, const Streams& streams) {
  auto [model, columns] = model_and_columns(data, given, table, streams);
  Observations observations(table, columns);
  if (leaves_out_invalid(data.leave_out)) {
    for (const LeftOut& invalid : invalid_rows(model, observations))
      observations = observations.without(std::span(&invalid.row, 1), invalid.reason);
  }
  FitOptions options{.uncertainty = given.uncertainty,
                     .spread = spread_of(given.spread),
                     .most_evaluations = given.most_evaluations,
                     .events_as_numbers = given.events_as_numbers};
  options.starts = starts_of(given);
  options.fixed = fixed_of(given);
  for (const std::string& text : given.within) options.within.push_back(within_of(text));
  return {std::move(model), std::move(observations), std::move(options)};
}

}  // namespace truecurve::app
