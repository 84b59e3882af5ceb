// From readings to the rows of a calibration.
#include "standards.hpp"

#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "squares.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;
using Kind = SignalScatter::Kind;

// In which order the readings were measured: as a column says, else as the rows stand, those of a further table last.
VectorXd order_of(const Readings& readings, const std::vector<Reading>& used) {
  VectorXd order(static_cast<Index>(used.size()));
  for (std::size_t i = 0; i < used.size(); ++i) order[static_cast<Index>(i)] = used[i].order;
  if (!order.array().isNaN().all()) {
    const auto missing =
        std::find_if(used.begin(), used.end(), [](const Reading& reading) { return std::isnan(reading.order); });
    if (missing != used.end())
      fail_calibration(ErrorCode::bad_argument,
                       fmt::format("{}: the place of this {} in the order of measurement is missing",
                                   readings.place_of(*missing), name(missing->kind)),
                       "order", "complete it, leave the row out, or omit the order");
    return order;
  }
  const bool is_of_one_table =
      std::all_of(used.begin(), used.end(), [](const Reading& reading) { return reading.table.empty(); });
  return is_of_one_table ? VectorXd() : VectorXd::LinSpaced(order.size(), 1, static_cast<double>(order.size()));
}

// Under the numbers that the readings have in their table, and in the order in which they were measured.
Observations as_in_the_table(const Observations& rows, const Readings& readings, const std::vector<Reading>& used) {
  std::vector<std::uint32_t> numbers;
  for (const Reading& reading : used) numbers.push_back(static_cast<std::uint32_t>(reading.row));
  return rows.numbered(std::move(numbers), order_of(readings, used));
}

}  // namespace

void fail_calibration(ErrorCode code, const std::string& message, const std::string& subject, const Advice& remedy) {
  throw Error({.code = code, .message = message, .subject = subject, .remedy = remedy});
}

std::vector<Reading> standards_of(const Readings& readings, const CalibrationOptions& options,
                                  const BlankSummary& blank) {
  std::vector<Reading> used = readings.of(ReadingKind::standard);
  if (options.blank == BlankUse::include) {
    for (Reading reading : readings.of(ReadingKind::blank)) {
      reading.amount = 0;
      used.push_back(reading);
    }
  }
  std::erase_if(used, [&options](const Reading& r) { return r.amount < options.low || r.amount > options.high; });
  if (options.blank == BlankUse::subtract) {
    for (Reading& reading : used) reading.signal -= blank.mean;
  }
  return used;
}

void require_blanks(const CalibrationOptions& options, const BlankSummary& blank) {
  if (options.blank == BlankUse::none || blank.count >= (options.blank == BlankUse::subtract ? 2U : 1U)) return;
  fail_calibration(
      ErrorCode::bad_argument,
      fmt::format("{} can't be {}", plural(blank.count, "blank reading"),
                  options.blank == BlankUse::subtract ? "subtracted: its scatter is not known" : "included"),
      "blank",
      {"measure two blanks or more (rows of kind blank), or leave the blank alone", {Action::treat_blank, "none"}});
}

void require_levels(const std::vector<CalibrationLevel>& levels, const CalibrationOptions& options) {
  if (levels.size() >= 2) return;
  const bool limited = std::isfinite(options.low) || std::isfinite(options.high);
  fail_calibration(
      ErrorCode::too_few_observations,
      levels.empty() ? fmt::format("there is no standard{}", limited ? " in the range" : "")
                     : fmt::format("all standards have the same amount {}", levels[0].amount),
      "standards",
      limited ? Advice{"widen the range", {Action::restrict_range}} : "measure standards at two levels or more");
}

void require_counts_as_such(const Readings& readings, const CalibrationOptions& options) {
  if (!readings.are_counts) return;
  const auto refuse = [](ErrorCode code, const std::string& what, const Advice& remedy) {
    fail_calibration(code, what, "counts", remedy);
  };
  if (options.blank == BlankUse::subtract)
    refuse(ErrorCode::not_supported,
           "the blank can't be subtracted from counts: the difference of two counts is not a count, and scatters "
           "otherwise",
           {"include the blanks as standards of amount 0",
            {Action::treat_blank, "include"},
            ": the curve's value there is the blank"});
  const Kind kind = options.scatter.kind;
  if (kind != Kind::counted && kind != Kind::constant)
    refuse(ErrorCode::bad_argument, "a spread is given, and the readings are counts, whose scatter is known",
           {"omit the spread; to take the scatter from the readings, calibrate them as measured signals that "
            "scatter "
            "like counts",
            {Action::measure_counts}});
  const bool uncertain =
      std::any_of(readings.all.begin(), readings.all.end(), [](const Reading& r) { return r.amount_uncertainty > 0; });
  if (uncertain)
    refuse(ErrorCode::not_supported, "uncertain amounts of the standards can't be taken into account with counts",
           {"omit their uncertainties", {Action::omit_uncertainty, readings.amount.name}});
}

VectorXd row_scatter_of(const std::vector<Reading>& used, const std::vector<CalibrationLevel>& levels, const Kind kind,
                        const Scatter& scatter) {
  if (kind == Kind::constant || kind == Kind::power) return {};
  VectorXd u(static_cast<Index>(used.size()));
  for (Index i = 0; i < u.size(); ++i) {
    const Reading& reading = used[static_cast<std::size_t>(i)];
    if (kind == Kind::stated) {
      u[i] = reading.signal_uncertainty;
    } else {
      const auto level = std::find_if(levels.begin(), levels.end(),
                                      [&reading](const CalibrationLevel& l) { return l.amount == reading.amount; });
      u[i] = scatter.at(level->mean);
    }
    if (u[i] > 0 || kind != Kind::stated) continue;
    fail_calibration(ErrorCode::bad_argument, fmt::format("row {} has no stated uncertainty", reading.row), "scatter",
                     {"state one for every reading of a standard", {Action::state_uncertainty}});
  }
  return u;
}

Observations observations_of(const Readings& readings, const std::vector<Reading>& used, const VectorXd& row_scatter,
                             bool stated) {
  if (readings.are_counts) {
    NamedNumbers amounts{readings.amount.name, readings.amount.unit};
    NamedNumbers counts{readings.signal.name};
    const bool has_unit = readings.signal.unit.starts_with("1/");
    NamedNumbers exposures{"exposure of " + readings.signal.name, has_unit ? readings.signal.unit.substr(2) : ""};
    for (const Reading& reading : used) {
      amounts.numbers.push_back(reading.amount);
      counts.numbers.push_back(reading.count());
      exposures.numbers.push_back(reading.exposure);
    }
    return as_in_the_table(Observations(Table::from_columns({amounts, counts, exposures}),
                                        {.response = counts.name,
                                         .predictors = {amounts.name},
                                         .counting = {.kind = ResponseKind::counts, .size_column = exposures.name}}),
                           readings, used);
  }
  NamedNumbers x{readings.amount.name, readings.amount.unit};
  NamedNumbers y{readings.signal.name, readings.signal.unit};
  for (const Reading& reading : used) {
    x.numbers.push_back(reading.amount);
    y.numbers.push_back(reading.signal);
  }
  const Observations rows = as_in_the_table(
      Observations(Table::from_columns({x, y}),
                   {.response = y.name, .predictors = {x.name}, .response_uncertainty = Uncertainty::none()}),
      readings, used);
  return stated ? rows.with_response(rows.responses(), row_scatter)
                : rows.with_relative_scatter(rows.responses(), row_scatter);
}

// A scatter proportional to the signal leaves a standard without analyte next to none.
void require_scatter_at_zero(const std::vector<CalibrationLevel>& levels, const CalibrationOptions& options,
                             const BlankSummary& blank) {
  constexpr double least = 0.1;
  const double off = options.blank == BlankUse::subtract ? blank.mean : 0;
  double largest = 0;
  for (const CalibrationLevel& level : levels) largest = std::max(largest, std::abs(level.mean + off));
  for (const CalibrationLevel& level : levels) {
    const double gross = std::abs(level.mean + off);
    if (level.amount != 0 || options.scatter.power < 1 || gross >= least * largest) continue;
    fail_calibration(
        ErrorCode::bad_argument,
        fmt::format("with a scatter proportional to the signal the standard of amount 0 (signal {:.4g}, the largest "
                    "{:.4g}) would hardly scatter at all, and outweigh all others",
                    gross, largest),
        "scatter",
        {"choose a scatter that begins with a constant",
         {Action::choose_scatter, "both"},
         ", or leave amount 0 out",
         {Action::restrict_range, "LOW.."}});
  }
}

Scatter scatter_of(const Fit& fit, const SignalScatter& scatter, const std::vector<CalibrationLevel>& levels,
                   double blank) {
  const double scale = fit.estimate().scale();
  if (scatter.kind == Kind::constant) return {.form = Scatter::Form::constant, .scale = scale};
  if (scatter.kind == Kind::power)
    return {.form = Scatter::Form::power, .scale = scale, .power = scatter.power, .offset = blank};
  Scatter table{.form = Scatter::Form::tabulated, .scale = scale};
  for (const CalibrationLevel& level : levels) {
    double sum = 0;
    for (const Reading& r : level.readings) sum += r.signal_uncertainty;
    table.table.emplace_back(level.mean, sum / static_cast<double>(level.readings.size()));
  }
  std::sort(table.table.begin(), table.table.end());
  return table;
}

BlankSummary summary_of_blanks(const std::vector<Reading>& blanks) {
  BlankSummary blank{.count = blanks.size()};
  if (blanks.empty()) return blank;
  if (!std::isnan(blanks.front().exposure)) {
    const Total total = total_of(blanks);
    blank.mean = total.rate();
    blank.sd = squares_of(blanks).sd();
    blank.mean_uncertainty = std::sqrt(std::max(total.count, 1.0)) / total.exposure;
    return blank;
  }
  const Squares squares = squares_of(blanks);
  blank.mean = squares.mean;
  blank.sd = squares.sd();
  blank.mean_uncertainty = blank.sd / std::sqrt(static_cast<double>(blanks.size()));
  return blank;
}

}  // namespace truecurve::detail
