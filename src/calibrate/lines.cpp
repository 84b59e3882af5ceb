// Fits the curve of a calibration and carries the blank's uncertainty.
#include "lines.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/uncertain_standards.hpp>
#include <truecurve/model/shapes.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/refit.hpp"
#include "../fit/weights.hpp"
#include "../model/model_data.hpp"
#include "signal_parts.hpp"
#include "squares.hpp"
#include "weightings.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;
using Kind = SignalScatter::Kind;

// The scatter that the weight of a common offset needs settles within a few rounds.
constexpr int most_rounds = 20;
constexpr double settled = 1e-10;
// A reading is named where the line through the others leaves less than this share of the sum of squares.
constexpr double much_less = 0.1;
constexpr std::size_t fewest_to_leave_one_out = 5;

[[noreturn]] void fail(ErrorCode code, const std::string& message, const std::string& subject, const Advice& remedy) {
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
  fail(ErrorCode::bad_argument,
       fmt::format("{} blank reading{} can't be {}", blank.count, blank.count == 1 ? "" : "s",
                   options.blank == BlankUse::subtract ? "subtracted: its scatter is not known" : "included"),
       "blank",
       {"measure two blanks or more (rows of kind blank), or leave the blank alone", {Action::treat_blank, "none"}});
}

void require_levels(const std::vector<CalibrationLevel>& levels, const CalibrationOptions& options) {
  if (levels.size() >= 2) return;
  const bool limited = std::isfinite(options.low) || std::isfinite(options.high);
  fail(ErrorCode::too_few_observations,
       levels.empty() ? fmt::format("there is no standard{}", limited ? " in the range" : "")
                      : fmt::format("all standards have the same amount {}", levels[0].amount),
       "standards",
       limited ? Advice{"widen the range", {Action::restrict_range}} : "measure standards at two levels or more");
}

// Counts scatter as counts do, and stay counts.
void require_counts_as_such(const Readings& readings, const CalibrationOptions& options) {
  if (!readings.are_counts) return;
  const auto refuse = [](ErrorCode code, const std::string& what, const Advice& remedy) {
    fail(code, what, "counts", remedy);
  };
  if (options.blank == BlankUse::subtract)
    refuse(
        ErrorCode::not_supported,
        "the blank can't be subtracted from counts: the difference of two counts is no count, and scatters otherwise",
        {"include the blanks as standards of amount 0",
         {Action::treat_blank, "include"},
         ": the curve's value there is the blank"});
  const Kind kind = options.scatter.kind;
  if (kind != Kind::counted && kind != Kind::constant)
    refuse(
        ErrorCode::bad_argument, "a spread is asked for, and the readings are counts, whose scatter is known",
        {"leave the spread away; to estimate the scatter from the readings, take them as measured, with a scatter like "
         "that of counts",
         {Action::choose_scatter, "counts"}});
  const bool uncertain =
      std::any_of(readings.all.begin(), readings.all.end(), [](const Reading& r) { return r.amount_uncertainty > 0; });
  if (uncertain)
    refuse(ErrorCode::not_supported, "uncertain amounts of the standards can't be taken into account with counts",
           {"leave their uncertainties away", {Action::omit_uncertainty, readings.amount.name}});
}

// What the used readings scatter by, as stated or relatively; empty where all weigh the same or by the curve.
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
    fail(ErrorCode::bad_argument, fmt::format("row {} has no stated uncertainty", reading.row), "scatter",
         {"state one for every reading of a standard", {Action::state_uncertainty}});
  }
  return u;
}

// In which order the readings were measured: as a column says, else as the rows stand, those of a further table last.
VectorXd order_of(const Readings& readings, const std::vector<Reading>& used) {
  VectorXd order(static_cast<Index>(used.size()));
  for (std::size_t i = 0; i < used.size(); ++i) order[static_cast<Index>(i)] = used[i].order;
  if (!order.array().isNaN().all()) {
    const auto missing =
        std::find_if(used.begin(), used.end(), [](const Reading& reading) { return std::isnan(reading.order); });
    if (missing != used.end())
      fail(ErrorCode::bad_argument,
           fmt::format("{}: the place of this {} in the order of measurement is missing", readings.place_of(*missing),
                       name(missing->kind)),
           "order", "complete it, leave the row out, or leave the order away");
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
    fail(ErrorCode::bad_argument,
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

// Of scatters that are not estimated from the levels.
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

// The same estimate with the variance of a common offset added to its additive constant. A constant column is the
// same in the working form, so only the constant's working variance grows.
Estimate with_offset(const Estimate& estimate, double offset_variance) {
  EstimateParts parts = parts_of(estimate);
  const Index at = parts.model.constant_index();
  const double column = data_of(parts.model).bound->constant_value;
  const double variance = offset_variance / (column * column);
  const double scale = parts.scale > 0 ? parts.scale : 1;
  double& u = parts.standard_uncertainties[at];
  const double wider = std::hypot(u, std::sqrt(variance));
  for (Index j = 0; j < parts.correlation.rows() && wider > 0; ++j) {
    if (j == at) continue;
    parts.correlation(at, j) *= u / wider;
    parts.correlation(j, at) = parts.correlation(at, j);
  }
  u = wider;
  MatrixXd working = detail::times_own_transpose(parts.working.inverse_factor);
  working(at, at) += variance / (scale * scale);
  parts.working.inverse_factor = cholesky_factor(working);
  return made_of(std::move(parts));
}

std::string free_name(const Model& model, std::string name) {
  const auto& taken = model.right_side_names();
  while (std::find(taken.begin(), taken.end(), name) != taken.end() || name == model.response()) name += "_0";
  return name;
}

// A model without an additive constant: the offset of the blank is estimated with the parameters.
struct WithOffset {
  Estimate reported;
  Estimate curve;
};

Estimate part_of(const Fit& joint, const Estimate& plain, const Model& model, Index count) {
  EstimateParts parts = parts_of(plain);
  const VectorXd u = as_eigen(joint.estimate().standard_uncertainties()).head(count);
  const MatrixXd correlation = parts_of(joint.estimate()).correlation.topLeftCorner(count, count);
  const double scale = joint.estimate().scale();
  parts.model = model;
  parts.parameters = as_eigen(joint.estimate().parameters()).head(count);
  parts.standard_uncertainties = u;
  parts.correlation = correlation;
  parts.scale = scale;
  parts.limits.clear();
  parts.working = {.centre = VectorXd::Zero(count),
                   .parameters = as_eigen(parts.parameters),
                   .inverse_factor = (u / scale).asDiagonal() * cholesky_factor(correlation)};
  return made_of(std::move(parts));
}

WithOffset with_estimated_offset(const Fit& plain, const std::vector<Reading>& used, double variance) {
  const Model& model = plain.model();
  if (model.is_transformed()) {
    fail(ErrorCode::not_supported,
         fmt::format("the blank can't be subtracted from '{}' with its transform", model.text()), "blank",
         {"include the blanks as standards of amount 0", {Action::treat_blank, "include"}});
  }
  const std::string& text = model.text();
  const auto equal = text.find('=');
  const std::string right = text.substr(equal + 1);
  const std::string left = text.substr(0, equal);
  const std::string offset = free_name(model, "blank_offset");
  const std::string indicator = free_name(model, "is_standard");
  const Quantity x = plain.estimate().predictors()[0];
  const Quantity y = plain.estimate().response();
  const Model joint =
      Model::written(fmt::format("{}= {}*({}) + {}", left, indicator, right, offset), {x.name, indicator});
  const bool stated = plain.estimate().has_known_scale();
  double scale = plain.estimate().scale();
  NamedNumbers amounts{x.name, x.unit};
  NamedNumbers signals{y.name, y.unit};
  NamedNumbers which{indicator, ""};
  for (const Reading& reading : used) {
    amounts.numbers.push_back(reading.amount);
    signals.numbers.push_back(reading.signal);
    which.numbers.push_back(1);
  }
  // One more row says how well the offset is known: 0 with the standard uncertainty of the mean blank.
  amounts.numbers.push_back(used.front().amount);
  signals.numbers.push_back(0);
  which.numbers.push_back(0);
  const Observations rows(
      Table::from_columns({amounts, signals, which}),
      {.response = y.name, .predictors = {x.name, indicator}, .response_uncertainty = Uncertainty::none()});
  VectorXd row_scatter = VectorXd::Ones(as_eigen(rows.responses()).size());
  row_scatter.head(row_scatter.size() - 1) = Weights(plain.left_side_observations()).sizes();
  std::vector<Start> starts = starts_at(model, as_eigen(plain.estimate().parameters()));
  if (!joint.is_linear()) starts.push_back({offset, 0});
  for (int round = 0;; ++round) {
    row_scatter[row_scatter.size() - 1] = std::sqrt(variance) / scale;
    const Observations weighted = stated ? rows.with_response(rows.responses(), row_scatter)
                                         : rows.with_relative_scatter(rows.responses(), row_scatter);
    const Fit made =
        fit(joint, weighted, {.uncertainty = plain.estimate().basis(), .starts = starts, .events_as_numbers = true});
    const double now = made.estimate().scale();
    const bool done = stated || std::abs(now - scale) <= settled * scale || round == most_rounds;
    scale = now;
    if (!done) continue;
    const auto p = static_cast<Index>(model.parameters().size());
    const Model with_offset = Model::written(fmt::format("{}= ({}) + {}", left, right, offset), {x.name});
    return {part_of(made, plain.estimate(), model, p), part_of(made, plain.estimate(), with_offset, p + 1)};
  }
}

// The straight line through the used readings but some.
std::optional<Fit> line_without(const CoreCalibration& core, const std::function<bool(const Reading&)>& is_out) {
  std::vector<double> x;
  std::vector<double> y;
  for (const Reading& r : core.used) {
    if (is_out(r)) continue;
    x.push_back(r.amount);
    y.push_back(r.signal);
  }
  const auto as_vector = [](std::vector<double>& v) {
    return VectorXd(Eigen::Map<VectorXd>(v.data(), static_cast<Index>(v.size())));
  };
  if (x.size() < 3 || *std::min_element(x.begin(), x.end()) == *std::max_element(x.begin(), x.end())) return {};
  return fit(shape_model("line"), Observations::of(as_vector(x), as_vector(y)), {.events_as_numbers = true});
}

// A reading that may be what spoils a line, from its replicates, or from the other rows.
std::string far_reading_text(const CoreCalibration& core, const Readings& readings) {
  const auto about = [&](const Reading& r, const char* from) {
    return fmt::format("; look at {} first ({} at {}), which lies far from {}", readings.place_of(r),
                       shortest(r.signal + core.curve.blank), shortest(r.amount), from);
  };
  std::vector<Suspicion> suspicious = test_levels(core.levels).suspicious;
  name_the_farther_of_two(core, suspicious);
  if (!suspicious.empty()) return about(suspicious.front().reading, "its replicates");
  // Without each reading in turn: the one whose absence lets the others agree.
  const Reading* worst = nullptr;
  double least = much_less * core.fit.chi_squared();
  for (const Reading& reading : core.used) {
    const auto line = line_without(core, [&reading](const Reading& r) { return &r == &reading; });
    if (core.used.size() < fewest_to_leave_one_out || !line || !(line->chi_squared() < least)) continue;
    least = line->chi_squared();
    worst = &reading;
  }
  return worst == nullptr ? "" : about(*worst, "the others");
}

void require_slope(const CoreCalibration& core, const Readings& readings) {
  if (!core.model.is_straight_line()) return;
  const std::vector<ParameterInterval> parameters = calibration_parameters(core);
  const ParameterInterval& slope = parameters[core.model.constant_index() == 0 ? 1 : 0];
  if (!std::isfinite(slope.standard_uncertainty) || !(slope.low <= 0 && slope.high >= 0)) return;
  fail(ErrorCode::rank_deficient,
       fmt::format("the slope {} is zero within its uncertainty: '{}' does not tell amounts apart{}",
                   with_uncertainty(slope.value, slope.standard_uncertainty), readings.signal.name,
                   far_reading_text(core, readings)),
       "slope", "measure standards over a wider range, or find out why the signal does not follow the amount");
}

CoreCalibration with_uncertain_standards(CoreCalibration core, const Readings& readings,
                                         const CalibrationOptions& options) {
  if (!core.fit.model().is_straight_line() || options.scatter.kind != Kind::stated ||
      options.blank == BlankUse::subtract) {
    fail(ErrorCode::not_supported,
         "uncertain amounts of the standards need a straight line, stated uncertainties of the signals, and no "
         "subtracted blank",
         "uncertainty of the amounts",
         {"state the uncertainty of the signal as well",
          {Action::state_uncertainty, readings.signal.name},
          ", or omit that of the amounts",
          {Action::omit_uncertainty, readings.amount.name}});
  }
  // Readings of one standard share its error: their weighted mean stands for them.
  struct Standard {
    double amount = 0;
    double uncertainty = 0;
    double weights = 0;
    double sum = 0;
    double readings = 0;
  };
  std::vector<Standard> standards;
  std::vector<std::size_t> standard_of;
  for (const Reading& r : core.used) {
    const double u = std::isnan(r.amount_uncertainty) ? 0 : r.amount_uncertainty;
    auto at = std::find_if(standards.begin(), standards.end(),
                           [&](const Standard& s) { return s.amount == r.amount && s.uncertainty == u; });
    if (at == standards.end() || options.separate_standards) at = standards.insert(standards.end(), {r.amount, u});
    const double weight = 1 / (r.signal_uncertainty * r.signal_uncertainty);
    at->weights += weight;
    at->sum += weight * r.signal;
    at->readings += 1;
    standard_of.push_back(static_cast<std::size_t>(at - standards.begin()));
  }
  const auto n = static_cast<Index>(standards.size());
  VectorXd x(n);
  VectorXd y(n);
  VectorXd ux(n);
  VectorXd uy(n);
  for (Index i = 0; i < n; ++i) {
    const Standard& s = standards[static_cast<std::size_t>(i)];
    x[i] = s.amount;
    y[i] = s.sum / s.weights;
    ux[i] = s.uncertainty;
    uy[i] = 1 / std::sqrt(s.weights);
  }
  UncertainStandards line = line_with_uncertain_standards(readings.amount, readings.signal, x, y, ux, uy);
  for (std::size_t i = 0; i < core.used.size(); ++i) {
    const Standard& s = standards[standard_of[i]];
    const double z = (core.used[i].signal - s.sum / s.weights) / core.used[i].signal_uncertainty;
    line.chi_squared += z * z;
  }
  line.degrees_of_freedom += static_cast<double>(core.used.size()) - static_cast<double>(n);
  EstimateParts parts = parts_of(line.estimate);
  parts.degrees_of_freedom = line.degrees_of_freedom;
  line.estimate = made_of(std::move(parts));
  core.reported = line.estimate;
  core.curve.estimate = line.estimate;
  core.curve.without_blank = line.estimate;
  core.chi_squared = line.chi_squared;
  core.degrees_of_freedom = line.degrees_of_freedom;
  core.has_uncertain_standards = true;
  return core;
}

}  // namespace

void name_the_farther_of_two(const CoreCalibration& core, std::vector<Suspicion>& suspicious) {
  if (!core.fit.model().is_straight_line()) return;
  for (Suspicion& s : suspicious) {
    const auto level = std::find_if(core.levels.begin(), core.levels.end(),
                                    [&s](const CalibrationLevel& l) { return l.amount == s.amount; });
    if (level->readings.size() != 2) continue;
    const auto others = line_without(core, [&s](const Reading& r) { return r.amount == s.amount; });
    if (!others) continue;
    const double expected = curve_at(others->estimate(), s.amount).value;
    const auto off = [expected](const Reading& r) { return std::abs(r.signal - expected); };
    s.reading = off(level->readings[0]) > off(level->readings[1]) ? level->readings[0] : level->readings[1];
  }
}

Mixture parameter_mixture(const CoreCalibration& core, Index parameter) {
  const double value = core.reported.parameters()[parameter];
  const double u = core.reported.standard_uncertainties()[parameter];
  const double blank = core.blank_part[parameter];
  const double blank_degrees = core.curve.blank_degrees_of_freedom;
  const double alone = blank > 0 ? std::sqrt((u - blank) * (u + blank)) : u;
  if (core.curve.weightings.empty())
    return Mixture(
        {{1, value, u, effective_degrees(alone, core.reported.scale_degrees_of_freedom(), blank, blank_degrees)}});
  std::vector<Mixture::Part> parts;
  const double moved = value - core.curve.without_blank.parameters()[parameter];
  for (const Weighting& w : core.curve.weightings) {
    const double own = w.estimate.standard_uncertainties()[parameter];
    parts.push_back({w.weight, w.estimate.parameters()[parameter] + moved, std::hypot(own, blank),
                     effective_degrees(own, w.estimate.scale_degrees_of_freedom(), blank, blank_degrees)});
  }
  return Mixture(std::move(parts));
}

std::vector<ParameterInterval> calibration_parameters(const CoreCalibration& core) {
  const double level = core.curve.level;
  std::vector<ParameterInterval> list = parameter_intervals(core.reported, level);
  if (core.curve.weightings.empty() && core.blank_part.isZero(0)) return list;
  for (std::size_t j = 0; j < list.size(); ++j) {
    ParameterInterval& p = list[j];
    const Mixture known = parameter_mixture(core, static_cast<Index>(j));
    p.standard_uncertainty = known.standard_uncertainty(p.value);
    p.low = known.quantile((1 - level) / 2);
    p.high = known.quantile((1 + level) / 2);
    const double below = known.below(p.null_value);
    p.t = (p.value - p.null_value) / p.standard_uncertainty;
    p.p = 2 * std::min(below, 1 - below);
  }
  return list;
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

namespace {

// The rates of counts by maximum likelihood.
CoreCalibration counted_calibration(const Readings& readings, const CalibrationOptions& options) {
  require_counts_as_such(readings, options);
  const BlankSummary blank = summary_of_blanks(readings.of(ReadingKind::blank));
  require_blanks(options, blank);
  std::vector<Reading> used = standards_of(readings, options, blank);
  std::vector<CalibrationLevel> levels = levels_of(used, options.level);
  require_levels(levels, options);
  const Model model = options.model ? *options.model : shape_model("line", readings.amount.name, readings.signal.name);
  Fit made = fit(model, observations_of(readings, used, {}, false));
  CoreCalibration core{.model = model,
                       .used = std::move(used),
                       .levels = std::move(levels),
                       .blank = blank,
                       .fit = made,
                       .reported = made.estimate(),
                       .curve = {.estimate = made.estimate(),
                                 .without_blank = made.estimate(),
                                 .scatter = {.form = Scatter::Form::power, .scale = 1, .power = 0.5},
                                 .are_counts = true,
                                 .level = options.level},
                       .chi_squared = made.chi_squared(),
                       .degrees_of_freedom = made.degrees_of_freedom(),
                       .blank_part = VectorXd::Zero(as_eigen(made.estimate().parameters()).size())};
  require_slope(core, readings);
  return core;
}

}  // namespace

CoreCalibration core_calibration(const Readings& readings, const CalibrationOptions& options) {
  if (readings.are_counts) return counted_calibration(readings, options);
  if (options.scatter.kind == Kind::counted)
    fail(ErrorCode::bad_argument, "the scatter of counts is asked for, and the readings are not given as counts",
         "counts", "read them as counts with their exposures, or choose another scatter");
  const BlankSummary blank = summary_of_blanks(readings.of(ReadingKind::blank));
  require_blanks(options, blank);
  std::vector<Reading> used = standards_of(readings, options, blank);
  std::vector<CalibrationLevel> levels = levels_of(used, options.level);
  require_levels(levels, options);
  if (options.scatter.kind == Kind::power) require_scatter_at_zero(levels, options, blank);
  const Model model = options.model ? *options.model : shape_model("line", readings.amount.name, readings.signal.name);
  std::optional<EstimatedWeights> weights;
  if (options.scatter.kind == Kind::both) {
    const bool beside = options.blank != BlankUse::include && blank.count >= 2;
    const LevelWeights about{.model = model,
                             .amount = readings.amount,
                             .signal = readings.signal,
                             .levels = levels,
                             .blank = blank,
                             .blank_signal = !beside                               ? not_a_number
                                             : options.blank == BlankUse::subtract ? 0
                                                                                   : blank.mean};
    weights = weights_of_function(about);
  }
  const bool stated = options.scatter.kind == Kind::stated;
  const VectorXd row_scatter =
      row_scatter_of(used, levels, options.scatter.kind, weights ? weights->scatter : Scatter{});
  FitOptions how{.uncertainty = stated ? UncertaintyBasis::stated : UncertaintyBasis::scatter,
                 .events_as_numbers = true};
  // The scatter follows the gross signal.
  const double off = options.blank == BlankUse::subtract ? blank.mean : 0;
  if (options.scatter.kind == Kind::power) how.spread = Spread::of_power(options.scatter.power, off);
  Fit made = fit(model, observations_of(readings, used, row_scatter, stated), how);
  CoreCalibration core{
      .model = model,
      .used = std::move(used),
      .levels = std::move(levels),
      .blank = blank,
      .fit = made,
      .reported = made.estimate(),
      .curve = {.estimate = made.estimate(), .without_blank = made.estimate(), .blank = off, .level = options.level},
      .chi_squared = made.chi_squared(),
      .degrees_of_freedom = made.degrees_of_freedom()};
  if (weights) {
    core.reported = core.curve.estimate = core.curve.without_blank = weights->estimate;
    core.curve.scatter = weights->scatter;
    core.curve.weightings = std::move(weights->weightings);
  } else {
    core.curve.scatter = scatter_of(made, options.scatter, core.levels, off);
  }
  if (options.scatter.kind == Kind::power && blank.count >= 2) {
    core.curve.scatter_at_zero = blank.sd;
    core.curve.scatter_at_zero_degrees_of_freedom = static_cast<double>(blank.count) - 1;
  }
  const double variance = blank.mean_uncertainty * blank.mean_uncertainty;
  VectorXd alone = as_eigen(core.reported.standard_uncertainties());
  if (options.blank == BlankUse::subtract && variance > 0) {
    // The constant of a transformed signal does not take up an offset of the signal itself.
    const bool has_constant =
        made.model().is_linear() && made.model().constant_index() >= 0 && !made.model().is_transformed();
    if (has_constant) {
      core.reported = with_offset(core.reported, variance);
    } else if (made.degrees_of_freedom() > 0 || stated) {
      WithOffset both = with_estimated_offset(made, core.used, variance);
      alone = as_eigen(made.estimate().standard_uncertainties());
      core.reported = std::move(both.reported);
      core.curve.estimate = std::move(both.curve);
      core.curve.without_blank = made.estimate();
    }
    core.curve.blank_degrees_of_freedom = static_cast<double>(blank.count) - 1;
  }
  core.blank_part = VectorXd::Zero(alone.size());
  for (Index j = 0; j < alone.size(); ++j) {
    const double whole = core.reported.standard_uncertainties()[j];
    if (whole > alone[j]) core.blank_part[j] = std::sqrt((whole - alone[j]) * (whole + alone[j]));
  }
  const bool uncertain =
      std::any_of(core.used.begin(), core.used.end(), [](const Reading& r) { return r.amount_uncertainty > 0; });
  if (uncertain) core = with_uncertain_standards(std::move(core), readings, options);
  require_slope(core, readings);
  return core;
}

}  // namespace truecurve::detail
