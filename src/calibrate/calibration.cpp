// Puts a calibration together and assesses it.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/assess/variance.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/model/shapes.hpp>

#include "../base/matrices.hpp"
#include "../fit/refit.hpp"
#include "calibration_words.hpp"
#include "limit_routes.hpp"
#include "lines.hpp"
#include "squares.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::CoreCalibration;
using Eigen::Index;
using Kind = SignalScatter::Kind;

struct StraightLine {
  double slope = not_a_number;
  double slope_uncertainty = not_a_number;
  double intercept = not_a_number;
  double intercept_uncertainty = not_a_number;
  double intercept_p = not_a_number;
};

StraightLine straight_line(const CoreCalibration& core) {
  StraightLine line;
  const Model& model = core.model;
  if (!model.is_straight_line()) return line;
  const std::vector<ParameterInterval> parameters = detail::calibration_parameters(core);
  const auto a = static_cast<std::size_t>(model.constant_index());
  line.intercept = parameters[a].value;
  line.slope = parameters[1 - a].value;
  line.intercept_uncertainty = parameters[a].standard_uncertainty;
  line.slope_uncertainty = parameters[1 - a].standard_uncertainty;
  line.intercept_p = parameters[a].p;
  return line;
}

double detection_of(const std::vector<LimitRoute>& routes) {
  for (const LimitRoute& route : routes) {
    if (route.route == LimitRouteKind::critical_value_and_power) return route.detection;
  }
  return not_a_number;
}

// A curve without a constant misses the net signals by the error of the mean blank, which is no bend: its offset is
// left free where the bend is asked for. One whose parameters make a constant by themselves, as those of a + b x^c,
// takes the error up as it is.
Fit with_free_offset(const CoreCalibration& core) {
  const Estimate& curve = core.curve.estimate;
  if (curve.parameter_names().size() == core.fit.model().parameters().size()) return core.fit;
  try {
    return fit(curve.model(), core.fit.observations(),
               {.uncertainty = core.fit.estimate().basis(),
                .starts = detail::starts_at(curve.model(), as_eigen(curve.parameters())),
                .events_as_numbers = true});
  } catch (const Error& error) {
    if (error.code() != ErrorCode::rank_deficient) throw;
    return core.fit;
  }
}

// Whether expected numbers are large enough for a chi-squared distribution (Cochran 1954): none below 1 and at most a
// fifth below 5.
bool are_large_enough(const std::vector<double>& expected) {
  const auto below = [&expected](double value) {
    return std::count_if(expected.begin(), expected.end(), [value](double e) { return e < value; });
  };
  return below(1) == 0 && 5 * below(5) <= static_cast<std::ptrdiff_t>(expected.size());
}

// The deviance of the levels' rates from the curve.
struct CountedLack {
  double statistic = not_a_number;
  double p = not_a_number;
};
CountedLack lack_of_counts(const CoreCalibration& core) {
  const double degrees = static_cast<double>(core.levels.size()) - static_cast<double>(core.reported.free_parameters());
  CountedLack lack;
  std::vector<double> expected;
  double deviance = 0;
  const ResponseKernel& kernel = core.fit.observations().observation_model().kernel();
  for (const CalibrationLevel& level : core.levels) {
    const detail::Total total = detail::total_of(level.readings);
    const double rate = curve_at(core.reported, level.amount).value;
    expected.push_back(total.exposure * rate);
    deviance += kernel.deviance(level.mean, total.exposure, rate);
  }
  if (!(degrees > 0) || !are_large_enough(expected)) return lack;
  lack.statistic = deviance;
  lack.p = chi_squared_upper(deviance, degrees);
  return lack;
}

CountedScatter counted_scatter_of(const std::vector<CalibrationLevel>& levels) {
  CountedScatter scatter;
  std::vector<double> expected;
  double sum = 0;
  for (const CalibrationLevel& level : levels) {
    scatter.degrees_of_freedom += static_cast<double>(level.readings.size()) - 1;
    if (level.readings.size() < 2) continue;
    for (const Reading& r : level.readings) {
      expected.push_back(r.exposure * level.mean);
      sum += std::pow(r.count() - expected.back(), 2) / expected.back();
    }
  }
  if (!(scatter.degrees_of_freedom > 0) || !are_large_enough(expected)) return scatter;
  scatter.statistic = sum;
  scatter.p = chi_squared_upper(sum, scatter.degrees_of_freedom);
  return scatter;
}

Linearity linearity_of(const CoreCalibration& core, const Readings& readings, const CalibrationOptions& options) {
  Linearity result;
  // Tests of the plain fit would blame the uncertain amounts on the line.
  const bool testable = !core.has_uncertain_standards;
  if (readings.are_counts) {
    const CountedLack lack = lack_of_counts(core);
    result.lack_of_fit_f = lack.statistic;
    result.lack_of_fit_p = lack.p;
  } else if (const auto split = lack_of_fit(with_free_offset(core)); split && testable) {
    result.lack_of_fit_f = split->lack_of_fit.f;
    result.lack_of_fit_p = split->lack_of_fit.p;
  }
  const StraightLine line = straight_line(core);
  result.intercept = line.intercept;
  result.intercept_uncertainty = line.intercept_uncertainty;
  if (core.model.is_straight_line()) {
    result.intercept_p = line.intercept_p;
    if (core.levels.size() > 2 && options.scatter.kind != Kind::power && testable) {
      const Fit quadratic =
          fit(shape_model("polynomial(2)", readings.amount.name, readings.signal.name), core.fit.observations(),
              {.uncertainty = core.fit.estimate().basis(), .events_as_numbers = true});
      const NestedTest test = nested_test(core.fit, quadratic);
      result.mandel = test.statistic;
      result.mandel_p = test.p;
    }
  }
  return result;
}

Alternative alternative_of(const std::string& name, const CoreCalibration& core, const Readings& readings,
                           const CalibrationOptions& options, double mid_signal) {
  const StraightLine line = straight_line(core);
  const Amount mid = amount_of(core.curve, {.signals = {mid_signal}});
  return {.name = name,
          .slope = line.slope,
          .slope_uncertainty = line.slope_uncertainty,
          .intercept = line.intercept,
          .intercept_uncertainty = line.intercept_uncertainty,
          .detection = detection_of(detail::limit_routes(core, readings, options.limits)),
          .mid_amount = mid.amount,
          .mid_uncertainty = mid.standard_uncertainty};
}

void add_alternatives(Calibration& c, const CoreCalibration& core) {
  if (!c.model.is_straight_line() || c.has_uncertain_standards || c.readings.are_counts) return;
  const Range range = c.fit.estimate().ranges()[0];
  const double mid = (range.low + range.high) / 2;
  const double mid_signal = curve_at(c.curve.estimate, mid).value + c.curve.blank;
  c.alternatives.push_back(alternative_of("as calibrated", core, c.readings, c.options, mid_signal));
  const auto try_with = [&](const std::string& name, const CalibrationOptions& options) {
    try {
      c.alternatives.push_back(
          alternative_of(name, detail::core_calibration(c.readings, options), c.readings, options, mid_signal));
    } catch (const Error&) {
      return;  // a treatment that these readings do not allow is no alternative
    }
  };
  CalibrationOptions options = c.options;
  if (options.scatter.kind != Kind::constant) {
    options.scatter = {Kind::constant};
    try_with("equal weights", options);
  }
  if (c.options.scatter.kind != Kind::both) {
    options.scatter = {Kind::both};
    try_with("weights from the levels' scatter", options);
  }
  if (!c.equal_scatter.is_equal) {
    const double highest = detail::equal_up_to(c.levels);
    if (std::isfinite(highest)) {
      options.scatter = {Kind::constant};
      options.high = highest;
      try_with(fmt::format("equal weights up to {}", shortest(highest)), options);
    }
  }
}

void add_without(Calibration& c) {
  if (!c.model.is_straight_line()) return;
  for (const Suspicion& suspicion : c.suspicious) {
    Readings fewer = c.readings;
    std::erase_if(fewer.all, [&suspicion](const Reading& r) {
      return r.row == suspicion.reading.row && r.replicate == suspicion.reading.replicate &&
             r.kind == suspicion.reading.kind;
    });
    WithoutReading without{.suspicion = suspicion};
    try {
      const StraightLine line = straight_line(detail::core_calibration(fewer, c.options));
      without.slope = line.slope;
      without.intercept = line.intercept;
    } catch (const Error&) {
      // without it there is no line: the numbers stay open
    }
    c.without.push_back(without);
  }
}

void require_options(const Readings& readings, const CalibrationOptions& options) {
  const auto fail = [](const std::string& message, const Advice& remedy) {
    throw Error({.code = ErrorCode::bad_argument, .message = message, .subject = "options", .remedy = remedy});
  };
  if (!(options.low < options.high)) fail("the range of standards is empty", "give the lower end first");
  if (options.limits.readings < 1)
    fail(fmt::format("{} readings of an unknown are averaged", options.limits.readings), "give 1 or more");
  if (!std::isnan(options.limits.exposure) && !(options.limits.exposure > 0 && std::isfinite(options.limits.exposure)))
    fail(fmt::format("an unknown is to be counted for {}", options.limits.exposure), "give an exposure above 0");
  if (!std::isnan(options.limits.exposure) && !readings.are_counts)
    fail("an exposure of unknowns is given, and the readings are not counts",
         {"read them as counts", {Action::read_counts}, ", or omit it"});
  detail::require_risks(options.limits.alpha, options.limits.beta);
}

}  // namespace

Calibration calibrate(const Readings& readings, const CalibrationOptions& options) {
  require_options(readings, options);
  CoreCalibration core = detail::core_calibration(readings, options);
  Calibration c{.options = options,
                .readings = readings,
                .used = core.used,
                .levels = core.levels,
                .blank = core.blank,
                .model = core.model,
                .fit = core.fit,
                .reported = core.reported,
                .parameters = detail::calibration_parameters(core),
                .curve = core.curve,
                .chi_squared = core.chi_squared,
                .degrees_of_freedom = core.degrees_of_freedom,
                .has_uncertain_standards = core.has_uncertain_standards};
  if (readings.are_counts) {
    c.options.scatter = {Kind::counted};
    if (std::isnan(c.options.limits.exposure)) c.options.limits.exposure = detail::usual_exposure(c.used);
    c.counted_scatter = counted_scatter_of(c.levels);
  } else {
    LevelTests tests = test_levels(c.levels);
    c.suspicious = std::move(tests.suspicious);
    c.readings_tested = tests.readings_tested;
    c.equal_scatter = tests.equal_scatter;
    detail::name_the_farther_of_two(core, c.suspicious);
    c.variance_functions = variance_functions(c.levels);
  }
  c.linearity = linearity_of(core, readings, options);
  add_without(c);
  add_alternatives(c, core);
  c.suggestion = detail::suggestion_of(c);
  try {
    c.limits = detail::limit_routes(core, readings, c.options.limits);
    detail::simulate_limits(core, readings, c.options, c.limits);
    if (!c.equal_scatter.is_equal && c.curve.scatter.form == Scatter::Form::constant) {
      for (LimitRoute& route : c.limits) {
        if (route.route == LimitRouteKind::blank_sd || route.route == LimitRouteKind::fortified_sd) continue;
        route.remarks.push_back(fmt::format("is based on one scatter for all levels, and the levels differ ({})",
                                            p_equals(c.equal_scatter.family_p)));
      }
    }
    c.cautious_limit = detail::cautious_choice(c.limits);
  } catch (const Error& error) {
    if (error.code() != ErrorCode::not_finite) throw;
    c.remarks.push_back("The curve is not defined at amount 0, so no detection limit follows from it.");
  }
  detail::add_remarks(c, straight_line(core).slope);
  return c;
}

}  // namespace truecurve
