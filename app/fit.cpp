// truecurve fit: one model, all its numbers.
#include "command.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/model/shapes.hpp>
#include <truecurve/report/text.hpp>

#include <algorithm>
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
};

void require_both(const DataOptions& data, const std::string& shape) {
  if (!data.x.empty() && !data.y.empty()) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("the shape '{}' needs to know its columns", shape),
               .subject = data.x.empty() ? "--x" : "--y",
               .remedy = fmt::format("write truecurve fit {} {} --x COLUMN --y COLUMN", data.file, shape)});
}

// A shape's columns may have any header: one that is no plain name is called x or y in the formula.
std::string plain_or(Table& table, const std::string& column, const char* instead, Streams streams) {
  const std::string& name = table.column(column).name;
  if (is_plain_name(name)) return name;
  streams.error << fmt::format("truecurve: in the formula {} stands for '{}'\n", instead, name);
  table = table.with_alias(instead, column);
  return instead;
}

Model chosen_model(const Options& options, Table& table, Streams streams) {
  if (options.model.find('=') != std::string::npos) {
    const Model unbound = Model::written(options.model);
    std::vector<std::string> predictors;
    for (const std::string& name : unbound.right_side_names()) {
      if (table.has_column(name)) predictors.push_back(name);
    }
    return unbound.with_predictors(predictors);
  }
  if (!is_shape(options.model)) return shape_model(options.model);  // throws, and names the shapes
  require_both(options.data, options.model);
  const std::string x = plain_or(table, options.data.x, "x", streams);
  const std::string y = plain_or(table, options.data.y, "y", streams);
  return shape_model(options.model, x, y);
}

int run_fit(const Options& options, Streams streams) {
  Table table = read_table(options.data, streams);
  const Model model = chosen_model(options, table, streams);
  const Observations observations(table, {.response = model.response(),
                                          .predictors = model.predictors(),
                                          .response_uncertainty = response_uncertainty(options.data, table, model.response()),
                                          .left_out = rows_left_out(table, options.data.leave_out)});
  const Fit result = fit(model, observations, options.fit);
  const double level = options.level;
  (void)result.estimate().coverage_factor(level);  // a bad level is refused before anything is written
  if (!options.output.figure_file.empty()) draw_fit(result, options.output.figure_file, {.level = level});
  const bool wants_record = !options.output.record_file.empty() || options.output.format == Format::json;
  const std::string record = wants_record ? fit_record(result, level) : "";
  if (!options.output.record_file.empty()) write_file(options.output.record_file, record);
  switch (options.output.format) {
    case Format::text: streams.out << fit_text(result, level); break;
    case Format::json: streams.out << record; break;
    case Format::csv: streams.out << fit_csv(result, level); break;
  }
  return 0;
}

}  // namespace

Command add_fit(CLI::App& parser, Streams streams) {
  auto options = std::make_shared<Options>();
  CLI::App* command = parser.add_subcommand("fit", "Fit one model: parameters with uncertainties, chi-squared, quality of the fit");
  add_file(*command, options->data);
  command->add_option("MODEL", options->model, "A named shape (truecurve shapes) with --x and --y, or an equation such as \"y = a + b*x\"")->required();
  add_choice(*command, options->data);
  add_aliases(*command, options->data);
  static const std::map<std::string, UncertaintyBasis> bases = {{"stated", UncertaintyBasis::stated}, {"scatter", UncertaintyBasis::scatter}};
  command->add_option_function<std::string>("--uncertainty", [options](const std::string& text) { options->fit.uncertainty = bases.at(text); },
                                            "stated: believe the given uncertainties (default where given); scatter: let the scatter set the scale")
      ->check(CLI::IsMember({"stated", "scatter"}))->type_name("stated|scatter");
  command->add_option("--level", options->level, "Level of the intervals and bands, between 0 and 1")->capture_default_str();
  add_format(*command, options->output);
  command->add_option("--output", options->output.record_file, "Write the result as a record (JSON) to this file")->type_name("FILE");
  command->add_option("--figure", options->output.figure_file, "Draw the fit to this file: .png, .svg or .pdf")->type_name("FILE");
  command->footer("Example:\n  truecurve fit demo/thermometers.csv line --x t_ref --y t_test --figure thermometers.png");
  return [options, streams] { return run_fit(*options, streams); };
}

}  // namespace truecurve::app
