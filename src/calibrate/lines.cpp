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
#include "blank_offset.hpp"
#include "signal_parts.hpp"
#include "squares.hpp"
#include "standards.hpp"
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

// A reading is named where the line through the others leaves less than this share of the sum of squares.
constexpr double much_less = 0.1;
constexpr std::size_t fewest_to_leave_one_out = 5;

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
  if (*std::min_element(x.begin(), x.end()) == *std::max_element(x.begin(), x.end())) return {};
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
  fail_calibration(ErrorCode::rank_deficient,
                   fmt::format("the slope {} is zero within its uncertainty: '{}' does not tell amounts apart{}",
                               with_uncertainty(slope.value, slope.standard_uncertainty), readings.signal.name,
                               far_reading_text(core, readings)),
                   "slope",
                   "measure standards over a wider range, or find out why the signal does not follow the amount");
}

CoreCalibration with_uncertain_standards(CoreCalibration core, const Readings& readings,
                                         const CalibrationOptions& options) {
  const bool blank = options.blank == BlankUse::subtract;
  if (blank || !core.fit.model().is_straight_line() || options.scatter.kind != Kind::stated) {
    Advice remedy = !core.fit.model().is_straight_line() ? Advice("fit a straight line")
                    : blank ? Advice({"do not subtract the blank", {Action::treat_blank, "none"}})
                            : Advice({"state the uncertainty of the signal as well",
                                      {Action::state_uncertainty, readings.signal.name}});
    remedy += {"; or omit the uncertainty of the amounts", {Action::omit_uncertainty, readings.amount.name}};
    fail_calibration(
        ErrorCode::not_supported,
        "uncertain amounts of the standards need a straight line, stated uncertainties of the signals, and no "
        "subtracted blank",
        "uncertainty of the amounts", remedy);
  }
  // Readings of one standard share its error: their weighted mean stands for them.
  struct Standard {
    double amount = 0;
    double uncertainty = 0;
    double weights = 0;
    double sum = 0;
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
    if (!(p.standard_uncertainty > 0)) continue;  // nothing to be tested by
    p.t = (p.value - p.null_value) / p.standard_uncertainty;
    // By the rounding of the weights the sides may make more than 1.
    p.p = std::min(1.0, 2 * std::min(known.below(p.null_value), known.above(p.null_value)));
  }
  return list;
}

namespace {

// What is fitted, and to what.
struct CoreInput {
  const Readings& readings;
  const CalibrationOptions& options;
  Model model;
  BlankSummary blank;
  std::vector<Reading> used;
  std::vector<CalibrationLevel> levels;
};

// The curve of the signal in the amount: a model of the caller's may not know yet what its predictor is called.
Model model_of(const Readings& readings, const CalibrationOptions& options) {
  if (!options.model) return shape_model("line", readings.amount.name, readings.signal.name);
  const std::vector<std::string> amount = {readings.amount.name};
  return options.model->is_bound() && options.model->predictors() == amount ? *options.model
                                                                            : options.model->with_predictors(amount);
}

CoreInput input_of(const Readings& readings, const CalibrationOptions& options) {
  const BlankSummary blank = summary_of_blanks(readings.of(ReadingKind::blank));
  require_blanks(options, blank);
  std::vector<Reading> used = standards_of(readings, options, blank);
  std::vector<CalibrationLevel> levels = levels_of(used, options.level);
  require_levels(levels, options);
  return {readings, options, model_of(readings, options), blank, std::move(used), std::move(levels)};
}

CoreCalibration core_of(CoreInput in, const Fit& made) {
  return {.model = in.model,
          .used = std::move(in.used),
          .levels = std::move(in.levels),
          .blank = in.blank,
          .fit = made,
          .reported = made.estimate(),
          .curve = {.estimate = made.estimate(), .without_blank = made.estimate(), .level = in.options.level},
          .chi_squared = made.chi_squared(),
          .degrees_of_freedom = made.degrees_of_freedom(),
          .blank_part = VectorXd::Zero(as_eigen(made.estimate().parameters()).size())};
}

// The rates of counts by maximum likelihood.
CoreCalibration counted_calibration(const Readings& readings, const CalibrationOptions& options) {
  require_counts_as_such(readings, options);
  CoreInput in = input_of(readings, options);
  const Fit made = fit(in.model, observations_of(readings, in.used, {}, false));
  CoreCalibration core = core_of(std::move(in), made);
  core.curve.scatter = {.form = Scatter::Form::power, .scale = 1, .power = 0.5};
  core.curve.are_counts = true;
  return core;
}

// The weights that the levels tell of; the blank's readings tell the scatter at amount 0.
EstimatedWeights weights_of_levels(const CoreInput& in) {
  const bool beside = in.options.blank != BlankUse::include && in.blank.count >= 2;
  return weights_of_function({.model = in.model,
                              .amount = in.readings.amount,
                              .signal = in.readings.signal,
                              .levels = in.levels,
                              .blank = in.blank,
                              .blank_signal = !beside                                  ? not_a_number
                                              : in.options.blank == BlankUse::subtract ? 0
                                                                                       : in.blank.mean});
}

// Adds the uncertainty of a subtracted blank to the parameters and the curve.
void carry_blank(CoreCalibration& core) {
  const Fit& made = core.fit;
  const double variance = core.blank.mean_uncertainty * core.blank.mean_uncertainty;
  // The constant of a transformed signal does not take up an offset of the signal itself.
  const bool has_constant =
      made.model().is_linear() && made.model().constant_index() >= 0 && !made.model().is_transformed();
  VectorXd alone = as_eigen(core.reported.standard_uncertainties());
  if (has_constant) {
    core.reported = with_offset(core.reported, variance);
  } else if (!made.is_exact() && (made.degrees_of_freedom() > 0 || made.estimate().has_known_scale())) {
    // Standards without scatter tell the offset exactly: nothing is to be carried.
    WithOffset both = with_estimated_offset(made, core.used, variance);
    alone = as_eigen(made.estimate().standard_uncertainties());
    core.reported = std::move(both.reported);
    core.curve.estimate = std::move(both.curve);
    core.curve.without_blank = made.estimate();
  }
  core.curve.blank_degrees_of_freedom = static_cast<double>(core.blank.count) - 1;
  for (Index j = 0; j < alone.size(); ++j) {
    const double whole = core.reported.standard_uncertainties()[j];
    if (whole > alone[j]) core.blank_part[j] = std::sqrt((whole - alone[j]) * (whole + alone[j]));
  }
}

// Measured signals by least squares.
CoreCalibration measured_calibration(const Readings& readings, const CalibrationOptions& options) {
  CoreInput in = input_of(readings, options);
  const Kind kind = options.scatter.kind;
  if (kind == Kind::power) require_scatter_at_zero(in.levels, options, in.blank);
  std::optional<EstimatedWeights> weights;
  if (kind == Kind::both) weights = weights_of_levels(in);
  const bool stated = kind == Kind::stated;
  FitOptions how{.uncertainty = stated ? UncertaintyBasis::stated : UncertaintyBasis::scatter,
                 .events_as_numbers = true};
  // The scatter follows the gross signal.
  const double off = options.blank == BlankUse::subtract ? in.blank.mean : 0;
  if (kind == Kind::power) how.spread = Spread::of_power(options.scatter.power, off);
  const VectorXd row_scatter = row_scatter_of(in.used, in.levels, kind, weights ? weights->scatter : Scatter{});
  const Fit made = fit(in.model, observations_of(readings, in.used, row_scatter, stated), how);
  CoreCalibration core = core_of(std::move(in), made);
  core.curve.blank = off;
  if (weights) {
    core.reported = core.curve.estimate = core.curve.without_blank = weights->estimate;
    core.curve.scatter = weights->scatter;
    core.curve.weightings = std::move(weights->weightings);
  } else {
    core.curve.scatter = scatter_of(core.fit, options.scatter, core.levels, off);
  }
  if (kind == Kind::power && core.blank.count >= 2) {
    core.curve.scatter_at_zero = core.blank.sd;
    core.curve.scatter_at_zero_degrees_of_freedom = static_cast<double>(core.blank.count) - 1;
  }
  if (options.blank == BlankUse::subtract && core.blank.mean_uncertainty > 0) carry_blank(core);
  const bool uncertain =
      std::any_of(core.used.begin(), core.used.end(), [](const Reading& r) { return r.amount_uncertainty > 0; });
  return uncertain ? with_uncertain_standards(std::move(core), readings, options) : core;
}

}  // namespace

CoreCalibration core_calibration(const Readings& readings, const CalibrationOptions& options) {
  if (!readings.are_counts && options.scatter.kind == Kind::counted)
    fail_calibration(ErrorCode::bad_argument, "a scatter of counts needs readings that are given as counts", "counts",
                     "read them as counts with their exposures, or choose another scatter");
  CoreCalibration core =
      readings.are_counts ? counted_calibration(readings, options) : measured_calibration(readings, options);
  require_slope(core, readings);
  return core;
}

}  // namespace truecurve::detail
