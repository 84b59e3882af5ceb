// Which model, which columns, which starts.
#include "model_options.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/fit/invalid_rows.hpp>

#include "progress.hpp"

#include <algorithm>
#include <cctype>
#include <map>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

void require_both(const DataOptions& data, const std::string& shape) {
  if (!data.x.empty() && !data.y.empty()) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("the shape '{}' needs to know its columns", shape),
               .subject = data.x.empty() ? "--x" : "--y",
               .remedy = "add --x COLUMN --y COLUMN"});
}

// A name that is no column but nearly is one is a slip, not a parameter.
void refuse_near_misses(const Model& model, const Table& table) {
  std::vector<std::string> columns;
  for (const Column& column : table.columns()) columns.push_back(column.name);
  for (const std::string& name : model.right_side_names()) {
    if (table.has_column(name)) continue;
    const auto same_letters = [&name](const std::string& column) {
      return std::equal(name.begin(), name.end(), column.begin(), column.end(), [](char a, char b) {
        return std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b));
      });
    };
    const auto used = [&model](const std::string& column) {
      const auto& names = model.right_side_names();
      return std::find(names.begin(), names.end(), column) != names.end() || column == model.response();
    };
    for (const std::string& column : columns) {
      const bool alike =
          same_letters(column) || (name.size() > 3 && nearest_name(name, std::span(&column, 1)) == column);
      if (!alike || used(column)) continue;
      throw Error({.code = ErrorCode::unknown_name,
                   .message = fmt::format("'{}' is no column of {}, but '{}' is", name, table.source().name, column),
                   .subject = name,
                   .remedy = fmt::format("did you mean '{}'? If '{}' is meant as a parameter, give it another name",
                                         column, name)});
    }
  }
}

Model chosen_model(const ModelOptions& options, const DataOptions& data, Table& table, Streams streams) {
  if (options.model.find('=') != std::string::npos) {
    if (options.route == Route::linearized) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = "--route is for named shapes; a written model is fitted as it is written",
                   .subject = "--route",
                   .remedy = "transform its left side instead: ln(y) = ..."});
    }
    const Model unbound = Model::written(options.model);
    // A share or a rate has a name of its own: p of the column 'cracked'.
    const bool is_counted = counting_of(data, table).kind != ResponseKind::measured;
    if (is_counted && !data.y.empty() && !table.has_column(unbound.response()))
      table = table.with_alias(unbound.response(), data.y);
    refuse_near_misses(unbound, table);
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
  require_both(data, options.model);
  std::vector<std::string> x;
  for (std::size_t i = 0; i < data.x.size(); ++i) {
    x.push_back(plain_name_of(table, data.x[i], data.x.size() == 1 ? "x" : fmt::format("x{}", i + 1), streams));
  }
  const std::string y = plain_name_of(table, data.y, "y", streams);
  return shape_model_of_several(options.model, x, y, options.route);
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
                 .message = fmt::format("--within '{}' is no range", text),
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
           "Where the search for a parameter begins, for a model that is not linear; default: found from the data");
  add_list(command, "--fix", options.fixed, "NAME=VALUE", "Hold a parameter at a value instead of fitting it");
  add_list(command, "--within", options.within, "NAME=LOW..HIGH",
           "Limits of a parameter; either end may be left away: K=0..");
}

void add_scatter(Arguments& command, ModelOptions& options) {
  static const std::map<std::string, UncertaintyBasis> bases = {{"stated", UncertaintyBasis::stated},
                                                                {"scatter", UncertaintyBasis::scatter}};
  command
      .add(
          "--uncertainty", [&options](const std::string& text) { options.uncertainty = bases.at(text); },
          "stated: believe the given uncertainties (default where given); scatter: let the scatter set the scale")
      .one_of({"stated", "scatter"});
  command
      .add("--most-evaluations", options.most_evaluations,
           "Of a model that is not linear: evaluations over all rows after which a descent gives up")

      .within(1, 1e9);
  command
      .add("--spread", options.spread,
           "How the scatter of the response grows with it, where no uncertainties are given")
      .takes("constant|proportional|counts|power:p");
  command.add_flag("--as-numbers", options.events_as_numbers,
                   "Fit a response of zeros and ones by least squares all the same");
}

Task task_of(const DataOptions& data, const ModelOptions& given, Streams streams) {
  Table table = read_table(data, streams);
  return task_of(data, given, table, streams);
}

ModelAndColumns model_and_columns(const DataOptions& data, const ModelOptions& given, Table& table, Streams streams) {
  Model model = chosen_model(given, data, table, streams);
  Choice columns{.response = model.response(),
                 .predictors = model.predictors(),
                 .response_uncertainty = response_uncertainty(data, table, model.response()),
                 .left_out = rows_left_out(table, data.leave_out),
                 .counting = counting_of(data, table),
                 .order = data.order};
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

Task task_of(const DataOptions& data, const ModelOptions& given, Table& table, Streams streams) {
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
