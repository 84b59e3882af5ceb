// truecurve quantify: unknowns read back through a calibration.
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/quantify.hpp>
#include <truecurve/figure/calibration_figure.hpp>
#include <truecurve/io/calibration_record.hpp>
#include <truecurve/report/calibration_page.hpp>

#include "calibration_options.hpp"

#include <algorithm>
#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

struct QuantifyCommand {
  std::string record;
  DataOptions data;
  OutputOptions output;
  ColumnOptions columns;
  double dilution_uncertainty = 0;
  std::string day;
  std::string figure_sample;
};

void require_day(const QuantifyCommand& options, const StoredCalibration& stored) {
  if (options.day.empty() || options.day == stored.day) return;
  throw Error(
      {.code = ErrorCode::bad_record,
       .message = stored.day.empty()
                      ? fmt::format("the calibration record has no date, and --day is '{}'", options.day)
                      : fmt::format("the calibration is dated '{}', and --day is '{}'", stored.day, options.day),
       .subject = "/day",
       .value = stored.day,
       .remedy = "calibrate anew, or omit --day if the older calibration is meant",
       .place = {.file = options.record}});
}

Readings unknowns_of(const QuantifyCommand& options, const StoredCalibration& stored, const Streams& streams) {
  const Table table = read_table(options.data, streams);
  ReadingColumns columns;
  columns.otherwise = ReadingKind::sample;
  columns.signals = !options.columns.replicates.empty() ? listed(options.columns.replicates)
                    : !options.data.y.empty()           ? std::vector<std::string>{options.data.y}
                                                        : stored.columns.signals;
  columns.kind = chosen_or_usual(options.columns.kind, "kind", table);
  columns.sample = chosen_or_usual(options.columns.sample, "sample", table);
  columns.dilution = chosen_or_usual(options.columns.dilution, "dilution", table);
  columns.counting = stored.columns.counting;
  if (!options.data.exposure.empty() && !stored.curve.are_counts) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "an exposure is given, and the calibration is not one of counts",
                 .subject = "--exposure",
                 .value = options.data.exposure,
                 .remedy = "omit it, or calibrate with truecurve calibrate --counts"});
  }
  if (!options.data.exposure.empty()) {
    DataOptions counted = options.data;
    counted.counts = stored.curve.are_counts;
    columns.counting = counting_of(counted, table);
  }
  if (table.has_column(stored.columns.amount)) columns.amount = stored.columns.amount;
  return in_units_of(readings_of(table, columns, rows_left_out(table, options.data.leave_out)), stored.amount,
                     stored.signal);
}

const Quantified& drawn_sample(const Quantities& quantities, const std::string& wanted) {
  if (wanted.empty()) return quantities.unknowns.front();
  const auto at = std::find_if(quantities.unknowns.begin(), quantities.unknowns.end(),
                               [&wanted](const Quantified& q) { return q.sample == wanted; });
  if (at != quantities.unknowns.end()) return *at;
  std::vector<std::string> names;
  for (const Quantified& q : quantities.unknowns) names.push_back(q.sample);
  const std::string nearest = nearest_name(wanted, names);
  throw Error({.code = ErrorCode::unknown_name,
               .message = fmt::format("there is no sample '{}'", wanted),
               .subject = "--figure-sample",
               .value = wanted,
               .remedy = nearest.empty() ? "write a name as it stands in the table"
                                         : fmt::format("did you mean '{}'?", nearest)});
}

int run_quantify(const QuantifyCommand& options, const Streams& streams) {
  const StoredCalibration stored = read_calibration_record(read_text(options.record, streams), options.record);
  require_day(options, stored);
  const Readings readings = unknowns_of(options, stored, streams);
  const Quantities quantities = quantify(
      stored.curve, readings, {.dilution_uncertainty = options.dilution_uncertainty / 100, .limits = stored.limits});
  Drawing drawing(streams);
  drawing.to(options.output.figures, [&](const std::string& file) {
    draw_reading(stored.curve, drawn_sample(quantities, options.figure_sample), stored.amount, stored.signal, file);
  });
  deliver({.page = [&] { return quantities_page(quantities, stored.amount, stored.curve, stored.limits); },
           .record = [&] { return quantities_record(quantities, stored, readings); }},
          options.output, streams);
  return drawing.told(0);
}

}  // namespace

Command add_quantify(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<QuantifyCommand>();
  Arguments command(parser, "quantify", "Determine unknowns from a calibration, each with an uncertainty budget");
  command.add("RECORD", options->record, "Record written by truecurve calibrate ... --output").reads().required();
  add_file(command, options->data);
  command.add("--y", options->data.y, "Column of signals (default: as in the calibration)").takes("NAME");
  add_columns(command, options->columns);
  command
      .add("--exposure", options->data.exposure,
           "Of counts: the time, volume or area of each, a column or one number (default: as in the calibration)")
      .takes("COLUMN|NUMBER");
  command
      .add("--leave-out", options->data.leave_out, "Rows not to use: numbers \"3,7\" or a condition; may be repeated")
      .takes("ROWS|CONDITION");
  add_names(command, options->data);
  command
      .add("--dilution-uncertainty", options->dilution_uncertainty,
           "Relative standard uncertainty of the dilutions, in percent")
      .within(0, 1e6);
  command.add("--day", options->day, "Refuse a calibration of another day").takes("DAY");
  add_output(command, options->output, "result");
  add_drawing(command, "--figure", options->output.figures, "how one sample is read");
  command.add("--figure-sample", options->figure_sample, "Which sample --figure draws (default: the first)")
      .takes("NAME");
  command.example("truecurve quantify demo/lead_calibration.json demo/lead_unknowns.csv");
  return [options, streams] { return run_quantify(*options, streams); };
}

}  // namespace truecurve::app
