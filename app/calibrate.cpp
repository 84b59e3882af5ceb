// truecurve calibrate: a calibration from standards, replicates and blanks.
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/additions.hpp>
#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/figure/calibration_figure.hpp>
#include <truecurve/io/calibration_record.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/report/calibration_page.hpp>

#include "calibration_options.hpp"
#include "columns.hpp"
#include "model_options.hpp"
#include "progress.hpp"

#include <cmath>
#include <map>
#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

struct CalibrateCommand {
  DataOptions data;
  OutputOptions output;
  ColumnOptions columns;
  std::string model = "line";
  std::string blanks_file;
  std::string fortified_file;
  BlankUse blank = BlankUse::none;
  std::string spread;
  std::string range;
  double level = 0.95;
  LimitOptions limits;
  std::uint64_t seed = 1;
  bool separate_standards = false;
  bool additions = false;
  bool rows = false;
  std::string day;
  FigureFiles residual_figures;
};

ReadingColumns columns_of(const CalibrateCommand& options, const Table& table) {
  if (options.data.x.size() != 1 || (options.data.y.empty() == options.columns.replicates.empty())) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "a calibration needs one column of amounts and one of signals (or several replicates)",
                 .subject = options.data.x.size() != 1 ? "--x" : "--y",
                 .remedy = "write --x AMOUNT --y SIGNAL, or --x AMOUNT --replicates S1,S2,S3"});
  }
  ReadingColumns columns;
  columns.amount = table.column(options.data.x[0]).name;
  columns.signals = options.data.y.empty() ? listed(options.columns.replicates)
                                           : std::vector<std::string>{table.column(options.data.y).name};
  columns.kind = chosen_or_usual(options.columns.kind, "kind", table);
  columns.sample = chosen_or_usual(options.columns.sample, "sample", table);
  columns.dilution = chosen_or_usual(options.columns.dilution, "dilution", table);
  if (!options.data.order.empty()) columns.order = table.column(options.data.order).name;
  columns.counting = counting_of(options.data, table);
  return columns;
}

// "--u NAME=VALUE" with the column that is meant; x and y are the amount and the signal, whatever their headers.
std::string uncertainty_with_column(const std::string& text, const Table& table, const ReadingColumns& columns) {
  const auto [name, value] = assignment(text, "--u", names_of(table));
  if (table.has_column(name)) return text;
  if (name == "x") return columns.amount + "=" + value;
  return name == "y" && columns.signals.size() == 1 ? columns.signals[0] + "=" + value : text;
}

Uncertainty stated_or_usual(const CalibrateCommand& options, const Table& table, const std::string& name) {
  DataOptions only = options.data;
  only.uncertainties.clear();
  for (const std::string& text : options.data.uncertainties) {
    const auto [column, value] = assignment(text, "--u", names_of(table));
    if (&table.column(column) == &table.column(name)) only.uncertainties.push_back(text);
  }
  Uncertainty given = response_uncertainty(only, table, name);
  if (given.kind() != Uncertainty::Kind::automatic) return given;
  const Column* const usual = table.uncertainty_of(table.column(name));
  return usual != nullptr ? Uncertainty(usual->name) : Uncertainty::none();
}

void take_uncertainties(CalibrateCommand& options, const Table& table, ReadingColumns& columns) {
  for (std::string& text : options.data.uncertainties) text = uncertainty_with_column(text, table, columns);
  for (const std::string& text : options.data.uncertainties) {
    const auto [column, value] = assignment(text, "--u", names_of(table));
    const bool known = &table.column(column) == &table.column(columns.amount) ||
                       &table.column(column) == &table.column(columns.signals[0]);
    if (known) continue;
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("--u {}: '{}' is neither the amount nor the signal", text, column),
                 .subject = "--u",
                 .value = text,
                 .remedy = "state the uncertainty of one of them"});
  }
  columns.amount_uncertainty = stated_or_usual(options, table, columns.amount);
  if (columns.signals.size() == 1 && (!options.data.counts || !options.data.uncertainties.empty()))
    columns.signal_uncertainty = stated_or_usual(options, table, columns.signals[0]);
}

SignalScatter scatter_of(const std::string& text, bool stated) {
  if (text.empty()) return {stated ? SignalScatter::Kind::stated : SignalScatter::Kind::constant};
  if (stated) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "a spread is given, but the signals have stated uncertainties",
                 .subject = "--spread",
                 .remedy = "choose one of the two: omit --spread, or --u SIGNAL=none"});
  }
  if (text == "constant") return {SignalScatter::Kind::constant};
  if (text == "both") return {SignalScatter::Kind::both};
  if (text == "proportional") return {SignalScatter::Kind::power, 1};
  if (text == "counts") return {SignalScatter::Kind::power, 0.5};
  if (text.starts_with("power:")) return {SignalScatter::Kind::power, number_of(text.substr(6), "--spread")};
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("--spread '{}' is not known", text),
               .subject = "--spread",
               .value = text,
               .remedy = "write constant, proportional, counts, power:p or both"});
}

void take_range(const std::string& text, CalibrationOptions& options) {
  if (text.empty()) return;
  const auto [low, high] = range_of(text, "--range");
  if (!std::isnan(low)) options.low = low;
  if (!std::isnan(high)) options.high = high;
}

Readings readings_from(const CalibrateCommand& options, const std::string& file, ReadingKind kind,
                       ReadingColumns columns, const Streams& streams) {
  DataOptions data;
  data.file = file;
  Table table = read_table(data, streams);
  // The same names as in the first table, as far as the columns are there.
  std::vector<std::pair<std::string, std::string>> aliases = {{columns.amount, options.data.x[0]}};
  if (!options.data.y.empty()) aliases.emplace_back(columns.signals[0], options.data.y);
  for (const std::string& text : options.data.aliases) aliases.push_back(assignment(text, "--alias"));
  for (const auto& [alias, header] : aliases) {
    if (table.has_column(header) && !table.has_column(alias)) table = table.with_alias(alias, header);
  }
  columns.otherwise = kind;
  columns.kind = table.has_column(columns.kind) ? columns.kind : "";
  columns.sample = "";
  columns.dilution = "";
  if (!table.has_column(columns.order)) columns.order = "";
  if (!columns.counting.size_column.empty() && !table.has_column(columns.counting.size_column))
    (void)table.column(columns.counting.size_column);  // throws, and names the columns
  if (kind == ReadingKind::blank && !table.has_column(columns.amount)) columns.amount = "";
  return readings_of(table, columns);
}

Model model_of(const std::string& text, const Readings& readings) {
  if (text.find('=') != std::string::npos) return Model::written(text, {readings.amount.name});
  return shape_model(text, readings.amount.name, readings.signal.name);
}

int run_calibrate(CalibrateCommand options, const Streams& streams) {
  const Table table = read_table(options.data, streams);
  if (options.columns.replicates.empty()) options.data = with_usual_columns(options.data, table, streams);
  if (options.model.find('=') != std::string::npos)
    options.model = equation_of(options.model, options.data, table, streams);
  ReadingColumns columns = columns_of(options, table);
  take_uncertainties(options, table, columns);
  Readings readings = readings_of(table, columns, rows_left_out(table, options.data.leave_out));
  for (const auto& [file, kind] :
       {std::pair{options.blanks_file, ReadingKind::blank}, {options.fortified_file, ReadingKind::fortified}}) {
    if (!file.empty()) readings = joined(std::move(readings), readings_from(options, file, kind, columns, streams));
  }
  CalibrationOptions how{
      .model = model_of(options.model, readings),
      .blank = options.blank,
      .scatter = scatter_of(options.spread, columns.signal_uncertainty.kind() != Uncertainty::Kind::none),
      .separate_standards = options.separate_standards,
      .level = options.level,
      .limits = options.limits};
  how.limits.seed = options.seed;
  take_range(options.range, how);
  Drawing drawing(streams);
  if (options.additions) {
    refuse_beside("--additions", {{options.rows, "--rows"}}, "omit it, or calibrate the readings of one sample");
    const std::vector<StandardAdditions> found = standard_additions(readings, how);
    if (!options.output.figures.empty()) {
      if (found.size() > 1) {
        throw Error(
            {.code = ErrorCode::bad_argument,
             .message = fmt::format("a figure shows the additions to one sample, and these are {}", found.size()),
             .subject = "--figure",
             .remedy = fmt::format("leave the others out (--leave-out \"sample != '{}'\")", found[0].sample)});
      }
      drawing.to(options.output.figures,
                 [&](const std::string& file) { draw_calibration(found[0].calibration, file, options.output.layout); });
    }
    deliver({.page = [&] { return additions_page(found); },
             .record = [&] { return additions_record(found, columns, options.day); }},
            options.output, streams);
    return drawing.told(0);
  }
  say(streams, "calibrating");
  const Calibration calibration = calibrate(readings, how);
  drawing.to(options.output.figures,
             [&](const std::string& file) { draw_calibration(calibration, file, options.output.layout); });
  drawing.to(options.residual_figures, [&](const std::string& file) { draw_calibration_residuals(calibration, file); });
  deliver({.page = [&] { return calibration_page(calibration, options.rows); },
           .record =
               [&] {
                 return calibration_record(calibration, columns, options.day,
                                           options.rows ? RecordRows::all : RecordRows::none);
               }},
          options.output, streams);
  return drawing.told(0);
}

}  // namespace

Command add_calibrate(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<CalibrateCommand>();
  Arguments command(parser, "calibrate",
                    "Calibration from standards, replicates and blanks: line, scatter, detection limits");
  add_file(command, options->data);
  add_choice(command, options->data);
  add_names(command, options->data);
  add_columns(command, options->columns);
  add_counts(command, options->data);
  command.add("--model", options->model, "Of the signal in the amount: a shape or an equation").takes("MODEL");
  command.add("--blanks", options->blanks_file, "A table of blanks beside FILE").reads().takes("FILE");
  command.add("--fortified", options->fortified_file, "A table of fortified samples beside FILE").reads().takes("FILE");
  command
      .add("--unknown-exposure", options->limits.exposure,
           "Of a reading of an unknown, for the limits of counts (default: the middle one of the standards)")
      .takes("NUMBER");
  static const std::map<std::string, BlankUse> uses = {
      {"none", BlankUse::none}, {"subtract", BlankUse::subtract}, {"include", BlankUse::include}};
  command
      .add(
          "--blank", [options](const std::string& text) { options->blank = uses.at(text); },
          "What is done with the blanks: none (default), subtract their mean, or include them as standards of amount 0")
      .one_of({"none", "subtract", "include"});
  command
      .add("--spread", options->spread,
           "How a reading scatters: the same everywhere, as a power of the signal, or from a constant upwards with the "
           "signal, told from the replicates (both)")
      .takes("constant|proportional|counts|power:p|both");
  command
      .add(
          "--standards", [options](const std::string& text) { options->separate_standards = text == "separate"; },
          "Readings of equal amounts with a stated uncertainty (--u AMOUNT=...) are of one standard and share its "
          "error "
          "(shared, default), or each is of a standard of its own (separate)")
      .one_of({"shared", "separate"});
  command.add("--range", options->range, "Use only standards within these amounts: 0..8, 0.. or ..8")
      .takes("LOW..HIGH");
  command.add_share("--level", options->level, "Level of the intervals, between 0 and 1");
  command.add_share("--alpha", options->limits.alpha,
                    "Probability of a false positive: a blank declared to contain analyte");
  command.add_share("--beta", options->limits.beta, "Probability of a false negative at the detection limit");
  command.add("--readings", options->limits.readings, "Readings of an unknown that are averaged, for the limits");
  command.add("--simulations", options->limits.simulations,
              "Simulated calibrations for the uncertainties of the limits; 0 for none");
  command.add("--seed", options->seed, "Seed of the random numbers for --simulations");
  command.add_flag("--additions", options->additions,
                   "Standard additions: the rows are samples (one, or those of the column sample) with known amounts "
                   "added, and their "
                   "own amounts are wanted");
  command.add_flag("--rows", options->rows,
                   "Also every reading: fitted value, residual, its standardized size, leverage, Cook's distance; in "
                   "the record and as CSV, too");
  command.add("--day", options->day, "The day of the calibration, kept in the record; quantify --day asks for it")
      .takes("DAY");
  add_output(command, options->output, "calibration");
  add_figure(command, options->output, "the calibration");
  add_drawing(command, "--figure-residuals", options->residual_figures, "the residuals by level");
  command.example("truecurve calibrate demo/lead_calibration.csv --x c_Pb --y I --blank subtract --spread both");
  return [options, streams] { return run_calibrate(*options, streams); };
}

}  // namespace truecurve::app
