// truecurve predict: the curve of a record at given points.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/compare/average.hpp>
#include <truecurve/data/units.hpp>
#include <truecurve/io/comparison_record.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/report/comparison_page.hpp>
#include <truecurve/report/estimate_page.hpp>

#include "command.hpp"
#include "equation_options.hpp"
#include "grid_values.hpp"
#include "progress.hpp"

#include <algorithm>
#include <cmath>
#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

struct PredictCommand {
  std::string record;
  std::vector<std::string> at;
  std::string at_file;
  CsvOptions at_table{};
  double level = 0.95;
  std::string reading_uncertainty;
  OutputOptions output;
  EquationOptions equation;
};

std::vector<Vector> points_of(const PredictCommand& options, const Estimate& estimate, const Streams& streams) {
  std::vector<Vector> points(estimate.predictors().size());
  const auto name_of = [&](std::size_t k) { return estimate.predictors()[k].name; };
  if (!options.at_file.empty()) {
    const Table table = read_csv(streams.folder / options.at_file, options.at_file, options.at_table);
    for (const std::string& found : table.source().said) remark(streams, found);
    for (std::size_t k = 0; k < points.size(); ++k) {
      const Column& column = table.column(name_of(k));
      for (std::size_t i = 0; i < table.rows(); ++i) {
        if (std::isnan(column.numbers[i])) {
          throw Error({.code = ErrorCode::text_in_numbers,
                       .message = fmt::format("{}, column '{}': a number is needed", row_text(table, i), column.name),
                       .subject = column.name,
                       .remedy = "complete the cell or remove the row",
                       .place = {.file = options.at_file, .line = table.line(i)}});
        }
      }
      const std::string& unit = estimate.predictors()[k].unit;
      const auto factor = unit_factor(column.unit, unit);
      if (!factor) {
        throw Error(
            {.code = ErrorCode::bad_argument,
             .message = fmt::format("column '{}' is in {}, and the fit has it in {}", column.name, column.unit, unit),
             .subject = column.name,
             .value = column.unit,
             .remedy = "convert the column",
             .place = {.file = options.at_file}});
      }
      if (*factor != 1)
        remark(streams, fmt::format("{} was converted from {} to {} (factor {})", column.name, column.unit, unit,
                                    shortest(*factor)));
      points[k] = column.numbers;
      for (double& x : points[k]) x *= *factor;
    }
    return points;
  }
  // An equation alone needs no places.
  if (options.equation.is_wanted() && options.at.empty()) return points;
  return places_of(options.at, estimate, "--at");
}

Vector own_uncertainties(const PredictCommand& options, const std::vector<Vector>& points) {
  if (options.reading_uncertainty.empty()) return {};
  return Vector(points.front().size(), number_of(options.reading_uncertainty, "--reading-uncertainty"));
}

// A comparison is read as the average of its candidates.
int predict_average(const std::string& record, const PredictCommand& options, const Streams& streams) {
  if (options.equation.is_wanted()) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = "a comparison is averaged over its candidates, and an average has no equation",
                 .subject = "--equation",
                 .remedy = "fit the candidate alone (truecurve fit ... --equation text)"});
  }
  const std::vector<WeightedEstimate> curves = read_comparison_record(record, options.record);
  const std::vector<Vector> points = points_of(options, curves.front().estimate, streams);
  const std::vector<AveragedPoint> values =
      averaged_band(curves, points, options.level, own_uncertainties(options, points));
  deliver({.page = [&] { return averaged_prediction_page(curves, points, values, options.level); },
           .record = [&] { return averaged_prediction_record(curves, points, values, options.level); }},
          options.output, streams);
  return 0;
}

int run_predict(const PredictCommand& options, const Streams& streams) {
  require_equation_alone(options.equation, options.output);
  if (options.equation.band)
    refuse_beside("--band", {{!options.reading_uncertainty.empty(), "--reading-uncertainty"}},
                  "omit it: the formulas are those of a new observation as in the fit");
  const std::string record = read_text(options.record, streams);
  if (is_comparison_record(record, options.record)) return predict_average(record, options, streams);
  const Estimate estimate = read_fit_record(record, options.record);
  const std::vector<Vector> points = points_of(options, estimate, streams);
  const std::vector<BandPoint> values = band(estimate, points, options.level, own_uncertainties(options, points));
  deliver({.page = [&] { return prediction_page(estimate, points, values, options.level); },
           .record = [&] { return prediction_record(estimate, points, values, options.level); },
           .instead = equation_text(estimate, options.level, options.equation)},
          options.output, streams);
  return 0;
}

}  // namespace

Command add_predict(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<PredictCommand>();
  Arguments command(parser, "predict",
                    "Read a fitted curve at given points, with the band of the curve and of a new observation");
  command
      .add("RECORD", options->record,
           "Record written by truecurve fit or compare ... --output; a comparison is averaged by weight; - "
           "reads standard "
           "input")
      .reads()
      .required();
  Argument at =
      command.add("--at", options->at, "Where: x=5, x=1,2,3 or \"x=0..10 step 0.5\"; once for every predictor")
          .takes("NAME=VALUES");
  const Argument file =
      command.add("--at-file", options->at_file, "Points from a table with a column for every predictor")
          .reads()
          .takes("FILE");
  at.excludes(file);
  add_table_choice(command, options->at_table, "the FILE of --at-file", &file);
  command.add_share("--level", options->level, "Level of the bands, between 0 and 1");
  command
      .add("--reading-uncertainty", options->reading_uncertainty,
           "Standard uncertainty of a new observation, if different from the fit's")
      .takes("NUMBER");
  add_equation(command, options->equation);
  add_output(command, options->output, "result");
  command.example("truecurve predict demo/density.json --at w_Sn=18,20,22");
  return [options, streams] { return run_predict(*options, streams); };
}

}  // namespace truecurve::app
