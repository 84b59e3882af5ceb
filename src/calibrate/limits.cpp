// Detection and quantitation limits.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/limits.hpp>

#include "../assess/curve_slopes.hpp"
#include "../base/matrices.hpp"
#include "../base/names.hpp"
#include "../base/roots.hpp"
#include "limit_routes.hpp"
#include "signal_parts.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

namespace truecurve {

void detail::require_risks(double alpha, double beta) {
  constexpr double least = 1e-12;  // quantiles are taken at the complement, to four digits of the risk here
  for (const auto& [name, value] : {std::pair{"alpha", alpha}, {"beta", beta}}) {
    if (value >= least && value < 1) continue;
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = fmt::format("alpha and beta are probabilities of at least 1e-12 and less than 1, and {} is {}",
                                name, shortest(value)),
         .subject = name,
         .value = shortest(value),
         .remedy = "give numbers such as 0.05"});
  }
}

double detection_noncentrality(double degrees_of_freedom, double alpha, double beta) {
  detail::require_risks(alpha, beta);
  const double t = student_t_quantile(1 - alpha, degrees_of_freedom);
  const auto missed = [&](double noncentrality) {
    return noncentral_t_probability(t, degrees_of_freedom, noncentrality) - beta;
  };
  if (std::isinf(t)) return t;
  if (missed(0) < 0) return 0;
  double high = 1;
  while (missed(high) > 0 && std::isfinite(high)) high *= 2;
  if (std::isinf(high)) return high;
  return detail::smooth_change_of_sign(0, high, missed);
}

CountingLimits counting_limits(double blank, double ratio, double alpha, double beta) {
  constexpr double largest_ratio = 1e6;
  if (!(blank >= 0) || !std::isfinite(blank) || !(ratio >= 1) || ratio > largest_ratio) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a blank of {} counts and a ratio of {} give no limits", blank, ratio),
                 .subject = "counts",
                 .value = fmt::format("{}, {}", blank, ratio),
                 .remedy = "give counts that are not negative, and 2 for a blank counted as long as the sample; 1e6 at "
                           "most"});
  }
  detail::require_risks(alpha, beta);
  const double a = normal_quantile(1 - alpha);
  const double b = normal_quantile(1 - beta);
  const double variance = ratio * blank;
  const double critical = a * std::sqrt(variance);
  return {critical, critical + b * b / 2 + b * std::sqrt(b * b / 4 + critical + variance),
          50 * (1 + std::sqrt(1 + variance / 25))};
}

namespace detail {
namespace {

using Eigen::Index;

constexpr double detection_factor = 3.3;    // 2 * 1.645, rounded up: errors of 5 % each with the normal distribution
constexpr double quantitation_factor = 10;  // a relative standard deviation of 10 %
constexpr double relative_quantitation = 0.1;
constexpr std::size_t enough_blanks = 10;
// A limit is looked for up to this many times the highest standard.
constexpr double farthest_in_ranges = 3;

// The calibration curve near zero, seen as rising, under one weighting.
class Line {
 public:
  Line(const Estimate& estimate, const Scatter& scatter, double weight)
      : estimate_(&estimate), scatter_(&scatter), weight_(weight), degrees_(estimate.scale_degrees_of_freedom()) {
    if (!estimate.model().is_straight_line()) return;
    // Evaluated some ten thousand times where limits are simulated.
    const Index constant = estimate.model().constant_index();
    is_line_ = true;
    line_ = Eigen::Vector2d(estimate.parameters()[constant], estimate.parameters()[1 - constant]);
    const MatrixXd covariance = as_eigen(estimate.covariance());
    covariance_ << covariance(constant, constant), covariance(0, 1), covariance(0, 1),
        covariance(1 - constant, 1 - constant);
  }
  [[nodiscard]] double weight() const { return weight_; }
  [[nodiscard]] double degrees_of_freedom() const { return degrees_; }
  [[nodiscard]] double value(double x) const { return is_line_ ? line_[0] + line_[1] * x : at(x).value; }
  [[nodiscard]] double uncertainty(double x) const {
    if (!is_line_) return at(x).standard_uncertainty;
    const Eigen::Vector2d g(1, x);
    return std::sqrt(g.dot(covariance_ * g));
  }
  /// Standard deviation of one reading.
  [[nodiscard]] double reading(double x) const { return scatter_->at(value(x)); }

 private:
  [[nodiscard]] CurvePoint at(double x) const { return curve_at(*estimate_, x); }
  const Estimate* estimate_;
  const Scatter* scatter_;
  double weight_;
  double degrees_;
  bool is_line_ = false;
  Eigen::Vector2d line_ = Eigen::Vector2d::Zero();
  Eigen::Matrix2d covariance_ = Eigen::Matrix2d::Zero();
};

// The curve of a calibration with all its weightings.
class WeightedCurve {
 public:
  WeightedCurve(const CalibrationCurve& curve, double readings)
      : main_(curve.estimate, curve.scatter, 1),
        blank_(curve.scatter_at_zero),
        blank_degrees_(curve.scatter_at_zero_degrees_of_freedom),
        readings_(readings),
        slopes_(curve.estimate),
        high_(farthest_in_ranges * curve.estimate.ranges()[0].high) {
    for (const Weighting& w : curve.weightings) lines_.emplace_back(w.estimate, w.scatter, w.weight);
    if (lines_.empty()) lines_.push_back(main_);
    const Range range = curve.estimate.ranges()[0];
    sign_ = main_.value(range.high) >= main_.value(range.low) ? 1 : -1;
    zero_ = main_.value(0);
  }
  [[nodiscard]] double rise(double x) const { return sign_ * (main_.value(x) - zero_); }
  [[nodiscard]] double slope(double x) const { return sign_ * slopes_.at(x); }
  /// Standard deviation of one reading of a blank.
  [[nodiscard]] double scatter_at_zero() const { return std::isnan(blank_) ? main_.reading(0) : blank_; }
  /// Of the curve, averaged over the weightings.
  [[nodiscard]] double uncertainty(double x) const {
    double sum = 0;
    for (const Line& line : lines_)
      sum = std::hypot(sum, std::sqrt(line.weight()) * line.uncertainty(x),
                       std::sqrt(line.weight()) * (line.value(x) - main_.value(x)));
    return sum;
  }
  /// Of an amount that is read from the mean of the readings, as a signal.
  [[nodiscard]] double reading_uncertainty(double x) const {
    double sum = uncertainty(x);
    for (const Line& line : lines_) sum = std::hypot(sum, std::sqrt(line.weight()) * own(line, x));
    return sum;
  }
  /// What a blank's mean signal exceeds with probability alpha, above the curve at amount 0.
  [[nodiscard]] double critical(double alpha) const { return around(0).quantile(1 - alpha); }
  /// Smallest amount whose readings fall below a rise of `critical` with probability beta, each amount's reading with
  /// its own scatter: by one-sided prediction bands, or by the noncentral distribution of the difference from the curve
  /// at amount 0.
  [[nodiscard]] double detected_by_bands(double critical, double beta) const {
    return first([&](double x) { return beta - around(x).below(critical); });
  }
  [[nodiscard]] double detected_with_power(double critical, double beta) const {
    return first([&](double x) {
      double missed = 0;
      for (const Line& line : lines_) {
        const Known sd = known(line, x, 0);
        if (!std::isfinite(sd.u)) return not_a_number;  // where the curve is not defined
        const double rise = sign_ * (line.value(x) - line.value(0)) + sign_ * (line.value(0) - zero_);
        missed += line.weight() * noncentral_t_probability(critical / sd.u, sd.degrees, rise / sd.u);
      }
      return beta - missed;
    });
  }
  /// Smallest x > 0 at which a function that is negative at 0 is no longer; NaN where it stays so.
  template <typename Function>
  [[nodiscard]] double first(Function function) const {
    constexpr int steps = 100;
    double low = 0;
    for (int i = 1; i <= steps; ++i) {
      // Finer near zero, where limits lie.
      const double high = high_ * std::pow(static_cast<double>(i) / steps, 2);
      if (!(function(high) >= 0)) {
        low = high;
        continue;
      }
      return function(low) >= 0 ? low : smooth_change_of_sign(low, high, function);
    }
    return not_a_number;
  }
  [[nodiscard]] double where_it_rises_by(double signal) const {
    if (!std::isfinite(signal)) return not_a_number;
    return first([&](double x) { return rise(x) - signal; });
  }

 private:
  struct Known {
    double u = not_a_number;
    double degrees = infinity;
  };
  // Whether the blanks say what a reading of x scatters by: near zero they are the least.
  [[nodiscard]] bool is_of_blanks(const Line& line, double x) const {
    return !std::isnan(blank_) && !(x > 0 && line.reading(x) > blank_);
  }
  // Of the mean of the readings.
  [[nodiscard]] double own(const Line& line, double x) const {
    return (is_of_blanks(line, x) ? blank_ : line.reading(x)) / std::sqrt(readings_);
  }
  // Of the difference of the mean of readings of x from the curve, whose own uncertainty is that at `curve_at`.
  [[nodiscard]] Known known(const Line& line, double x, double curve_at) const {
    const double reading = own(line, x);
    const double curve = line.uncertainty(curve_at);
    return {std::hypot(reading, curve),
            is_of_blanks(line, x) ? effective_degrees(reading, blank_degrees_, curve, line.degrees_of_freedom())
                                  : line.degrees_of_freedom()};
  }
  // The mean of the readings of an amount, less the curve at amount 0.
  [[nodiscard]] Mixture around(double x) const {
    std::vector<Mixture::Part> parts;
    for (const Line& line : lines_) {
      const Known sd = known(line, x, x);
      parts.push_back({line.weight(), sign_ * (line.value(x) - zero_), sd.u, sd.degrees});
    }
    return Mixture(std::move(parts));
  }
  Line main_;
  std::vector<Line> lines_;
  double blank_;
  double blank_degrees_;
  double readings_;
  detail::CurveSlopes slopes_;
  double high_;
  double sign_ = 1;
  double zero_ = 0;
};

// Pooled over the levels of the fortified samples.
struct Fortified {
  double sd = not_a_number;
  double degrees = 0;
  double highest = not_a_number;
};

Fortified fortified_of(const Readings& readings) {
  Fortified result;
  double squares = 0;
  const std::vector<Reading> fortified = readings.of(ReadingKind::fortified);
  for (const CalibrationLevel& level : levels_of(fortified)) {
    if (level.readings.size() < 2) continue;
    const auto degrees = static_cast<double>(level.readings.size()) - 1;
    squares += degrees * level.sd * level.sd;
    result.degrees += degrees;
    result.highest = level.amount;
  }
  if (result.degrees > 0) result.sd = std::sqrt(squares / result.degrees);
  return result;
}

LimitRoute by_factor(const WeightedCurve& curve, LimitRouteKind route, double sd, std::string rests_on) {
  return {.route = route,
          .sd = sd,
          .detection = curve.where_it_rises_by(detection_factor * sd),
          .quantitation = curve.where_it_rises_by(quantitation_factor * sd),
          .rests_on = std::move(rests_on)};
}

void remark_on_reach(const std::vector<CalibrationLevel>& levels, std::vector<LimitRoute>& routes) {
  double lowest = infinity;
  for (const CalibrationLevel& level : levels) {
    if (level.amount > 0) lowest = std::min(lowest, level.amount);
  }
  for (LimitRoute& route : routes) {
    if (std::isnan(route.detection)) {
      route.remarks.emplace_back("the curve does not reach it");
    } else if (route.detection < lowest) {
      route.remarks.push_back(fmt::format("below the lowest standard ({})", shortest(lowest)));
    }
  }
}

}  // namespace

std::vector<LimitRoute> limit_routes(const CoreCalibration& core, const Readings& readings,
                                     const LimitOptions& options) {
  if (core.curve.are_counts) {
    std::vector<LimitRoute> routes = counted_limit_routes(core, readings, options);
    remark_on_reach(core.levels, routes);
    return routes;
  }
  const WeightedCurve curve(core.curve, options.readings);
  if (!(core.curve.estimate.scale_degrees_of_freedom() > 0)) return {};
  const bool falls_back = !std::isnan(core.curve.scatter_at_zero);
  const double zero = curve.scatter_at_zero();
  if (!(zero > 0)) return {};  // readings without scatter tell no limit
  const std::string zero_text =
      falls_back                                            ? "the SD of the blanks"
      : core.curve.scatter.form == Scatter::Form::constant  ? "the residual SD of all standards"
      : core.curve.scatter.form == Scatter::Form::tabulated ? "the stated scatter of the lowest level"
                                                            : "the fitted scatter at amount 0";

  std::vector<LimitRoute> routes;
  routes.push_back(
      by_factor(curve, LimitRouteKind::residual_sd, zero,
                falls_back ? "the SD of the blanks, as a scatter that is a power of the signal says little about zero"
                           : zero_text));
  routes.push_back(by_factor(curve, LimitRouteKind::intercept_sd, curve.uncertainty(0),
                             "the standard uncertainty of the curve at amount 0; ignores the scatter of the reading"));
  if (core.blank.count >= 2) {
    routes.push_back(by_factor(curve, LimitRouteKind::blank_sd, core.blank.sd,
                               fmt::format("the SD of {} blank readings", core.blank.count)));
    if (core.blank.count < enough_blanks) {
      routes.back().remarks.push_back(fmt::format("{} blanks are few: their SD is known to {:.0f} % only",
                                                  core.blank.count,
                                                  100 / std::sqrt(2.0 * static_cast<double>(core.blank.count - 1))));
    }
  }
  const Fortified fortified = fortified_of(readings);
  if (fortified.degrees > 0) {
    routes.push_back(
        by_factor(curve, LimitRouteKind::fortified_sd, fortified.sd,
                  fmt::format("the SD of fortified samples ({})", degrees_of_freedom_text(fortified.degrees))));
    if (fortified.highest > 5 * routes.back().detection)
      routes.back().remarks.emplace_back(
          "the samples were fortified far above the limit, where the scatter may be larger");
  }
  // A scatter like that of counts: the signal itself is a count.
  const bool are_counts = core.curve.scatter.form == Scatter::Form::power && core.curve.scatter.power == 0.5;
  if (are_counts && core.blank.mean > 0) {
    const double ratio = 1 + 1 / static_cast<double>(core.blank.count);
    const CountingLimits counts = counting_limits(core.blank.mean, ratio, options.alpha, options.beta);
    routes.push_back({.route = LimitRouteKind::counting_statistics,
                      .critical = curve.where_it_rises_by(counts.critical),
                      .detection = curve.where_it_rises_by(counts.detection),
                      .quantitation = curve.where_it_rises_by(counts.quantitation),
                      .rests_on = "the Poisson distribution of the signal, which must be a plain count"});
  }
  const bool is_known = std::isfinite(curve.reading_uncertainty(0));
  const DecisionLimits decision = decision_limits(core.curve, options);
  routes.push_back(
      {.route = LimitRouteKind::prediction_bands,
       .critical = decision.critical,
       .detection = is_known ? curve.detected_by_bands(curve.critical(options.alpha), options.beta) : not_a_number,
       .quantitation = decision.quantitation,
       .rests_on = fmt::format("{} and the uncertainty of the curve, one-sided bands", zero_text)});
  routes.push_back({.route = LimitRouteKind::critical_value_and_power,
                    .critical = decision.critical,
                    .detection = decision.detection,
                    .quantitation = decision.quantitation,
                    .rests_on = fmt::format("{} and the uncertainty of the curve; errors of {:.3g} and {:.3g}",
                                            zero_text, options.alpha, options.beta)});

  remark_on_reach(core.levels, routes);
  return routes;
}

}  // namespace detail

std::string LimitRoute::remark() const {
  std::string text;
  for (const std::string& part : remarks) text += (text.empty() ? "" : "; ") + part;
  return text;
}

std::string_view name(LimitRouteKind route) noexcept {
  return detail::name_among(
      std::array<std::string_view, 9>{"residual SD", "intercept SD", "blank SD", "fortified SD", "counting statistics",
                                      "prediction bands", "critical value and power", "counts, paired blank",
                                      "counts, known blank"},
      route);
}

DecisionLimits decision_limits(const CalibrationCurve& curve, const LimitOptions& options) {
  detail::require_risks(options.alpha, options.beta);
  if (curve.are_counts) return detail::counted_decision_limits(curve, options);
  if (!(curve.estimate.scale_degrees_of_freedom() > 0)) return {};
  const detail::WeightedCurve near_zero(curve, options.readings);
  if (!(near_zero.scatter_at_zero() > 0) || !std::isfinite(near_zero.reading_uncertainty(0))) return {};
  const double critical = near_zero.critical(options.alpha);
  return {near_zero.where_it_rises_by(critical), near_zero.detected_with_power(critical, options.beta),
          near_zero.first([&](double x) {
            return detail::relative_quantitation * x - near_zero.reading_uncertainty(x) / near_zero.slope(x);
          })};
}

}  // namespace truecurve
