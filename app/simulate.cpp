// truecurve simulate: made-up data with a known truth and seeded scatter.
#include <truecurve/assess/simulate.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/io/files.hpp>
#include <truecurve/model/shapes.hpp>
#include <truecurve/report/renderers.hpp>

#include "command.hpp"
#include "grid_values.hpp"
#include "output.hpp"
#include "progress.hpp"

#include <algorithm>
#include <cmath>
#include <memory>
#include <ostream>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::app {
namespace {

struct SimulateCommand {
  std::string model;
  std::string y;
  std::vector<std::string> at;
  std::vector<std::string> truth;
  std::string uncertainty;
  std::string trials;
  bool counts = false;
  std::string exposure;
  SimulateOptions simulate;
  std::uint64_t seed = 1;
  std::string file;
  CsvStyle csv{};
};

// Names that are listed under --at are data; a shape is told its columns.
Model model_of(const SimulateCommand& options, const std::vector<std::string>& predictors) {
  if (options.model.find('=') != std::string::npos) {
    const Model model = Model::written(options.model);
    for (const std::string& name : predictors) {
      const std::vector<std::string>& known = model.right_side_names();
      if (std::find(known.begin(), known.end(), name) == known.end())
        throw Error({.code = ErrorCode::unknown_name,
                     .message = fmt::format("--at: '{}' does not stand on the right of '{}'", name, options.model),
                     .subject = name,
                     .remedy = fmt::format("its names are: {}", fmt::join(known, ", "))});
    }
    return model.with_predictors(predictors);
  }
  if (!is_shape(options.model)) return shape_model(options.model);  // throws, and names the shapes
  return shape_model_of_several(options.model, predictors, options.y.empty() ? "y" : options.y);
}

struct Places {
  std::vector<std::string> names;
  std::vector<Vector> values;  // of each name
};

Places places_given(const SimulateCommand& options) {
  Places places;
  for (const std::string& text : options.at) {
    const auto [name, list] = assignment(text, "--at");
    if (std::find(places.names.begin(), places.names.end(), name) != places.names.end())
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("--at gives '{}' twice", name),
                   .subject = name,
                   .remedy = fmt::format("write all its values in one list: --at {}=1,2,3", name)});
    places.names.push_back(name);
    places.values.emplace_back(grid_values(list, "--at"));
  }
  return places;
}

std::vector<Vector> in_order_of(const Model& model, const Places& places) {
  std::vector<Vector> in_order;
  for (const std::string& predictor : model.predictors()) {
    const auto at = std::find(places.names.begin(), places.names.end(), predictor);
    if (at == places.names.end())
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("'{}' is a predictor, and nothing says where it is measured", predictor),
                   .subject = predictor,
                   .remedy = fmt::format("add --at {}=1,2,3", predictor)});
    in_order.push_back(places.values[static_cast<std::size_t>(at - places.names.begin())]);
  }
  return in_order;
}

// How the responses scatter: by --u, as events or as counts.
SimulateOptions scatter_asked(const SimulateCommand& options, const Model& model) {
  SimulateOptions how = options.simulate;
  how.seed = options.seed;
  if (!options.uncertainty.empty()) {
    const auto [name, value] = assignment(options.uncertainty, "--u");
    if (name != model.response())
      throw Error({.code = ErrorCode::unknown_name,
                   .message = fmt::format("--u: '{}' is not the response of '{}'", name, model.text()),
                   .subject = name,
                   .remedy = fmt::format("write --u {}=VALUE", model.response())});
    const bool is_percent = value.ends_with('%');
    const double number = number_of(is_percent ? value.substr(0, value.size() - 1) : value, "--u");
    (is_percent ? how.relative_scatter : how.scatter) = is_percent ? number / 100 : number;
  }
  if (!options.trials.empty() && options.counts)
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "--trials and --counts are both given",
                 .subject = "--trials",
                 .remedy = "events among so many trials, or counts: choose one"});
  if (!options.exposure.empty() && !options.counts)
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "--exposure belongs to counts",
                 .subject = "--exposure",
                 .remedy = "add --counts"});
  if (!options.trials.empty()) how.observation_model = ObservationModel::events();
  if (options.counts) how.observation_model = ObservationModel::counts();
  if (!options.trials.empty()) how.size = number_of(options.trials, "--trials");
  if (!options.exposure.empty()) how.size = number_of(options.exposure, "--exposure");
  return how;
}

// Predictors, response, and the columns that a fit asks for.
PageData table_of(const Simulation& made, const Model& model, const SimulateOptions& how, bool scatters,
                  const std::string& size_name) {
  const bool is_counted = !how.observation_model.is_measured();
  const bool has_size = is_counted && how.size != 1;
  PageData table{.names = model.predictors()};
  table.names.push_back(model.response());
  if (scatters) table.names.push_back(fmt::format("u({})", model.response()));
  if (has_size) table.names.push_back(size_name);
  for (std::size_t i = 0; i < made.responses.size(); ++i) {
    std::vector<Datum> row;
    for (const Vector& values : made.predictors) row.emplace_back(values[i]);
    row.emplace_back(is_counted ? std::round(made.responses[i] * how.size) : made.responses[i]);
    if (scatters) row.emplace_back(made.uncertainties[i]);
    if (has_size) row.emplace_back(how.size);
    table.rows.push_back(std::move(row));
  }
  return table;
}

int run_simulate(const SimulateCommand& options, const Streams& streams) {
  const Places places = places_given(options);
  const Model model = model_of(options, places.names);
  std::vector<Start> truth;
  for (const std::string& text : options.truth) {
    const auto [name, value] = assignment(text, "--truth");
    truth.push_back({name, number_of(value, "--truth")});
  }
  const std::vector<Vector> at = in_order_of(model, places);
  const SimulateOptions how = scatter_asked(options, model);
  const Simulation made = simulate(model, truth, at, how);
  const Page page{.data =
                      table_of(made, model, how, !options.uncertainty.empty(), options.counts ? "exposure" : "trials")};
  end_progress(streams);
  if (options.file.empty() || options.file == "-") {
    streams.out << csv_of(page, options.csv);
  } else {
    write_file(options.file, options.file.ends_with(".xlsx") ? xlsx_of(page) : csv_of(page, options.csv));
    streams.out << fmt::format("{} of {} {} in {}\n", plural(made.responses.size(), "row"), model.text(),
                               made.responses.size() == 1 ? "is" : "are", options.file);
  }
  return 0;
}

}  // namespace

Command add_simulate(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<SimulateCommand>();
  Arguments command(parser, "simulate",
                    "Make up a table with a known truth and seeded scatter, to try a plan or an analysis");
  command.add("MODEL", options->model, "A named shape (truecurve shapes), or an equation such as \"y = a + b*x\"")
      .required();
  command
      .add("--at", options->at,
           "Where it is measured: x=1,2,3 or \"x=0..10 step 0.5\"; once for every predictor, all of equal length")
      .required()
      .takes("NAME=VALUES");
  command.add("--truth", options->truth, "The true value of a parameter; required for each of them")
      .takes("NAME=VALUE");
  command
      .add("--u", options->uncertainty,
           "Standard deviation of the scatter: a number in the unit of the response, or a percentage of it")
      .takes("NAME=NUMBER|PERCENT%");
  command
      .add("--trials", options->trials,
           "Events: the model is their probability, and the response how many happen in so many trials (1: 0 or 1)")
      .takes("NUMBER");
  command.add_flag("--counts", options->counts, "Counts: the model is their mean for one unit of exposure");
  command.add("--exposure", options->exposure, "Of counts: the exposure of each (default: 1)").takes("NUMBER");
  command.add("--y", options->y, "What the response of a named shape is called (default: y)").takes("NAME");
  command.add("--replicates", options->simulate.replicates, "Measurements at each point");
  command.add("--seed", options->seed, "The same seed makes the same table");
  command
      .add("--output", options->file,
           "Write the table to this file: CSV, or .xlsx for a spreadsheet program; - is standard output")
      .writes();
  add_csv_style(command, options->csv);
  command.example(
      "truecurve simulate \"y = a*exp(-t/tau)\" --at \"t=0..60 step 5\" --truth a=10 --truth tau=20 --u "
      "y=2%");
  return [options, streams] { return run_simulate(*options, streams); };
}

}  // namespace truecurve::app
