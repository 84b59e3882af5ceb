// truecurve fit: one model, all its numbers.
#include <truecurve/base/error.hpp>
#include <truecurve/figure/checks_figure.hpp>
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/fit/invalid_rows.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/model/shapes.hpp>
#include <truecurve/report/text.hpp>

#include "command.hpp"

#include <algorithm>
#include <cctype>
#include <map>
#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

struct Options {
  DataOptions data;
  OutputOptions output;
  std::string model;
  double level = 0.95;
  FitOptions fit;
  std::string spread;
  std::vector<std::string> derive;
  std::vector<std::string> hypotheses;
  std::string checks_file;
  std::string about;
  std::vector<std::string> starts;
};

void require_both(const DataOptions& data, const std::string& shape) {
  if (!data.x.empty() && !data.y.empty()) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("the shape '{}' needs to know its columns", shape),
               .subject = data.x.empty() ? "--x" : "--y",
               .remedy = fmt::format("write truecurve fit {} {} --x COLUMN --y COLUMN", data.file, shape)});
}

// A shape's columns may have any header: one that is no plain name is called x or y in the formula.
std::string plain_or(Table& table, const std::string& column, const std::string& instead, Streams streams) {
  const std::string& name = table.column(column).name;
  if (is_plain_name(name)) return name;
  streams.error << fmt::format("truecurve: in the formula {} stands for '{}'\n", instead, name);
  table = table.with_alias(instead, column);
  return instead;
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

Model chosen_model(const Options& options, Table& table, Streams streams) {
  if (options.model.find('=') != std::string::npos) {
    const Model unbound = Model::written(options.model);
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
  require_both(options.data, options.model);
  std::vector<std::string> x;
  for (std::size_t i = 0; i < options.data.x.size(); ++i) {
    x.push_back(
        plain_or(table, options.data.x[i], options.data.x.size() == 1 ? "x" : fmt::format("x{}", i + 1), streams));
  }
  const std::string y = plain_or(table, options.data.y, "y", streams);
  return shape_model_of_several(options.model, x, y);
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

int run_fit(const Options& options, Streams streams) {
  Table table = read_table(options.data, streams);
  const Model model = chosen_model(options, table, streams);
  Observations observations(table, {.response = model.response(),
                                    .predictors = model.predictors(),
                                    .response_uncertainty = response_uncertainty(options.data, table, model.response()),
                                    .left_out = rows_left_out(table, options.data.leave_out)});
  if (leaves_out_invalid(options.data.leave_out)) {
    for (const LeftOut& invalid : invalid_rows(model, observations))
      observations = observations.without(std::span(&invalid.row, 1), invalid.reason);
  }
  FitOptions fit_options = options.fit;
  fit_options.spread = spread_of(options.spread);
  for (const std::string& text : options.starts) {
    const auto [name, value] = assignment(text, "--start");
    fit_options.starts.push_back({name, number_of(value, "--start")});
  }
  const Fit result = fit(model, observations, fit_options);
  const double level = options.level;
  (void)result.estimate().coverage_factor(level);  // a bad level is refused before anything is written
  const Deductions deductions = deduce(result.estimate(), level, options.derive, options.hypotheses);
  std::string about;
  if (!options.about.empty()) {
    const double origin =
        options.about == "mean" ? observations.predictor(0).mean() : number_of(options.about, "--about");
    about = about_text(result.estimate(), origin);
  }
  if (!options.output.figure_file.empty()) draw_fit(result, options.output.figure_file, {.level = level});
  if (!options.checks_file.empty()) draw_checks(result, options.checks_file);
  const bool wants_record = !options.output.record_file.empty() || options.output.format == Format::json;
  const std::string record = wants_record ? fit_record(result, level, deductions) : "";
  if (!options.output.record_file.empty()) write_file(options.output.record_file, record);
  switch (options.output.format) {
    case Format::text: streams.out << fit_text(result, level, deductions) << about; break;
    case Format::json: streams.out << record; break;
    case Format::csv: streams.out << fit_csv(result, level); break;
  }
  if (result.solver().converged) return 0;
  streams.error << "truecurve: the search ended without a minimum (" << result.solver().stop
                << "); the numbers can't be trusted\n";
  return 4;
}

}  // namespace

Command add_fit(CLI::App& parser, Streams streams) {
  auto options = std::make_shared<Options>();
  CLI::App* command =
      parser.add_subcommand("fit", "Fit one model: parameters with uncertainties, chi-squared, quality of the fit");
  add_file(*command, options->data);
  command
      ->add_option("MODEL", options->model,
                   "A named shape (truecurve shapes) with --x and --y, or an equation such as \"y = a + b*x\"")
      ->required();
  add_choice(*command, options->data);
  add_aliases(*command, options->data);
  static const std::map<std::string, UncertaintyBasis> bases = {{"stated", UncertaintyBasis::stated},
                                                                {"scatter", UncertaintyBasis::scatter}};
  command
      ->add_option_function<std::string>(
          "--uncertainty", [options](const std::string& text) { options->fit.uncertainty = bases.at(text); },
          "stated: believe the given uncertainties (default where given); scatter: let the scatter set the scale")
      ->check(CLI::IsMember({"stated", "scatter"}))
      ->type_name("stated|scatter");
  command->add_option("--level", options->level, "Level of the intervals and bands, between 0 and 1")
      ->capture_default_str();
  command
      ->add_option(
          "--start", options->starts,
          "Where the search for a parameter begins, for a model that is not linear; default: found from the data")
      ->take_all()
      ->allow_extra_args(false)
      ->type_name("NAME=VALUE");
  command
      ->add_option("--spread", options->spread,
                   "How the scatter of the response grows with it, where no uncertainties are given")
      ->type_name("constant|proportional|counts|power:p");
  command
      ->add_option("--derive", options->derive,
                   "A quantity derived from the parameters: \"t_half = ln(2)/k\"; may be repeated")
      ->take_all()
      ->allow_extra_args(false)
      ->type_name("NAME=EXPRESSION");
  command
      ->add_option("--hypothesis", options->hypotheses,
                   "An equation between parameters to be tested: \"p + q = -1\"; may be repeated")
      ->take_all()
      ->allow_extra_args(false)
      ->type_name("EQUATION");
  command
      ->add_option("--about", options->about,
                   "Show a polynomial's coefficients also about this origin: a number, or mean")
      ->type_name("NUMBER|mean");
  command
      ->add_option("--figure-checks", options->checks_file, "Draw the residual checks to this file: .png, .svg or .pdf")
      ->type_name("FILE");
  add_format(*command, options->output);
  command->add_option("--output", options->output.record_file, "Write the result as a record (JSON) to this file")
      ->type_name("FILE");
  command->add_option("--figure", options->output.figure_file, "Draw the fit to this file: .png, .svg or .pdf")
      ->type_name("FILE");
  command->footer(
      "Example:\n  truecurve fit demo/thermometers.csv line --x t_ref --y t_test --figure thermometers.png");
  return [options, streams] { return run_fit(*options, streams); };
}

}  // namespace truecurve::app
