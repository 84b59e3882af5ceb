// Refits with one or two parameters held.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/profile.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "../fit/descend.hpp"
#include "../fit/estimate_parts.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include <Eigen/Core>
#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::SmallVector;
using Eigen::Index;

constexpr int most_evaluations = 200;  // of one refit: it begins at the neighbour's result
constexpr double first_share = 16;
constexpr int most_doublings = 34;  // a profile that has not risen within 10^9 widths never will
constexpr int most_halvings = 30;   // towards the edge of where the model is defined
constexpr double far_widths = 20;
constexpr double level_share = 1e-4;  // of the rise
constexpr double settled = 1e-7;      // of the width: the limits are not better known than that
constexpr double lower_share = 1e-6;  // a chi-squared so much lower, relatively, is another minimum
constexpr int directions = 72;        // of a region's contour

// Chi-squared with some parameters held, all others at their best.
class Profiler {
 public:
  explicit Profiler(const Fit& fit)
      : fit_(fit),
        model_(fit.model().is_linear() ? detail::as_curve(fit.model()) : fit.model()),
        bound_(*detail::data_of(model_).bound),
        box_(detail::Box::open(bound_.parameters.size())) {
    const std::vector<Range>& limits = fit.estimate().limits();
    for (std::size_t j = 0; j < limits.size(); ++j) {
      box_.low[static_cast<Index>(j)] = limits[j].low;
      box_.high[static_cast<Index>(j)] = limits[j].high;
    }
  }

  struct Point {
    SmallVector theta;
    double chi_squared = infinity;
    [[nodiscard]] bool is_finite() const { return std::isfinite(chi_squared); }
  };

  [[nodiscard]] Point best() const { return {as_eigen(fit_.estimate().parameters()), fit_.chi_squared()}; }
  [[nodiscard]] const detail::Box& box() const { return box_; }
  [[nodiscard]] double scale() const { return fit_.estimate().scale(); }
  [[nodiscard]] double lowest() const { return lowest_; }

  // Holds the parameters at their values in `from`, whose other values are where the search begins.
  Point refit(const std::vector<int>& held, const SmallVector& from) {
    // Of a counted response the working rows are those of the estimates only.
    detail::Curve curve(bound_, fit_.is_counted() ? fit_.observations() : fit_.left_side_observations(),
                        detail::without(detail::roles_within(bound_, box_), held));
    try {
      const detail::Descent descent = detail::descend(curve, from, box_, most_evaluations);
      lowest_ = std::min(lowest_, descent.chi_squared);
      return {descent.theta, descent.chi_squared};
    } catch (const Error& error) {
      // C++ code that throws so far from the estimates is not defined there: the profile ends before.
      if (error.code() != ErrorCode::unsuitable_row) throw;
      return {from, infinity};
    }
  }

 private:
  const Fit& fit_;
  Model model_;
  const detail::BoundModel& bound_;
  detail::Box box_;
  double lowest_ = infinity;
};

// The distance along a direction at which chi-squared has risen to a limit. `hold` moves a point to a distance.
struct Crossing {
  double distance = infinity;  // infinite where it never rises so far
  Profiler::Point at;
};

template <typename Hold>
Crossing crossing_of(Profiler& profiler, const std::vector<int>& held, double width, double farthest, double rise,
                     Hold hold) {
  const Profiler::Point best = profiler.best();
  // tau - tau at the limit, tau the root of the rise: nearly straight in the distance.
  const auto excess = [&](const Profiler::Point& point) {
    return std::sqrt(std::max(0.0, point.chi_squared - best.chi_squared)) - std::sqrt(rise);
  };
  const auto at = [&](double distance, const Profiler::Point& from) {
    return profiler.refit(held, hold(distance, from.theta));
  };

  double inside = 0;
  Profiler::Point inside_point = best;
  double inside_excess = -std::sqrt(rise);
  double outside = infinity;
  Profiler::Point outside_point;
  double outside_excess = 0;
  // Begun closer than the symmetric limit: where that lies beyond a pole of the curve, the wall between must be met.
  double trial = std::min(width / first_share, farthest);
  double edge = infinity;  // beyond it the model is not defined
  double level_since = 0;  // from here on chi-squared has not changed
  double level_chi = best.chi_squared;
  double level_excess = not_a_number;  // there, where it did not change over a factor of 2
  int halvings = 0;
  for (int round = 0; round < most_doublings + most_halvings; ++round) {
    const Profiler::Point point = at(trial, inside_point);
    if (!point.is_finite()) {
      edge = trial;
      if (++halvings > most_halvings) break;
      trial = inside + (edge - inside) / 2;
      continue;
    }
    if (excess(point) >= 0) {
      outside = trial;
      outside_point = point;
      outside_excess = excess(point);
      break;
    }
    if (!(std::abs(point.chi_squared - level_chi) <= level_share * rise)) {
      level_since = trial;
      level_chi = point.chi_squared;
    } else if (trial >= 2 * level_since && level_since > 0) {
      level_excess = excess(point);
    }
    inside = trial;
    inside_point = point;
    inside_excess = excess(point);
    if (inside >= farthest) return {farthest, inside_point};
    if (std::isfinite(edge)) {
      if (edge - inside <= settled * edge) break;
      trial = inside + (edge - inside) / 2;
    } else if (inside >= std::ldexp(width / first_share, most_doublings - 1)) {
      break;
    } else {
      trial = std::min(2 * inside, farthest);
    }
  }
  // A model that overflows only far out, with chi-squared still below the limit, sets no limit either.
  const bool is_level = std::abs(inside_excess - level_excess) < 0.05 * std::sqrt(rise);
  if (std::isinf(outside)) {
    const bool ends = std::isfinite(edge) && inside < far_widths * width && !is_level;
    return {ends ? inside : infinity, inside_point};
  }
  double inside_value = inside_excess;
  // Illinois' false position, which halves the value at an end that does not move.
  for (int round = 0; round < 60 && outside - inside > settled * outside; ++round) {
    double middle = inside - inside_excess * (outside - inside) / (outside_excess - inside_excess);
    const double margin = 0.01 * settled * outside;
    middle = std::clamp(middle, inside + margin, outside - margin);
    const Profiler::Point point = at(middle, inside_point);
    if (!point.is_finite()) break;
    const double value = excess(point);
    if (value >= 0) {
      outside = middle;
      outside_point = point;
      outside_excess = value;
      inside_excess /= 2;
    } else {
      inside = middle;
      inside_point = point;
      inside_excess = value;
      inside_value = value;
      outside_excess /= 2;
    }
    if (std::abs(value) <= settled * std::sqrt(rise)) return {middle, point};
  }
  // A cliff far out is where numbers underflow, not where chi-squared reaches the limit.
  const bool is_cliff = inside_value < -0.01 * std::sqrt(rise);
  if (is_cliff && (inside > far_widths * width || (is_level && !at(4 * outside, inside_point).is_finite())))
    return {infinity, inside_point};
  return {outside, outside_point};
}

Crossing limit_of(Profiler& profiler, Index parameter, double sign, double width, double rise) {
  const double value = profiler.best().theta[parameter];
  const double end = sign > 0 ? profiler.box().high[parameter] : profiler.box().low[parameter];
  const double u = width > 0 ? width : 1;
  return crossing_of(profiler, {static_cast<int>(parameter)}, u, sign * (end - value), rise,
                     [&](double distance, SmallVector theta) {
                       theta[parameter] = value + sign * distance;
                       return theta;
                     });
}

// Of the symmetric interval, wherever the limits of the parameter cut it off.
double half_width(const Fit& fit, Index parameter, Level level) {
  const Estimate& estimate = fit.estimate();
  if (estimate.is_at_limit(parameter)) return not_a_number;
  const double u = estimate.standard_uncertainties()[parameter];
  if (!std::isnan(u) || !estimate.open_end()) return estimate.coverage_factor(level) * u;
  // Beside an open end of a counted response nothing is said of it; the search for the limits begins somewhere.
  return estimate.coverage_factor(level) * estimate.scale() *
         detail::parts_of(estimate).working.inverse_factor.row(parameter).stableNorm();
}

// The probability of t beyond the root of chi-squared's rise at a value of a parameter.
double tail_beyond(Profiler& profiler, const Fit& fit, Index parameter, double value) {
  SmallVector theta = profiler.best().theta;
  const detail::Box& box = profiler.box();
  theta[parameter] = value;
  if (box.clamped(theta)[parameter] != value) return 0;                       // a limit that was set lies before it
  if (value <= box.low[parameter] || value >= box.high[parameter]) return 0;  // or there, with nothing beyond it
  const double rise = profiler.refit({static_cast<int>(parameter)}, theta).chi_squared - fit.chi_squared();
  if (!std::isfinite(rise)) return 0;
  const double t = std::sqrt(std::max(0.0, rise)) / profiler.scale();
  return student_t_two_sided(t, fit.estimate().scale_degrees_of_freedom()) / 2;
}

ProfileInterval interval_of(Profiler& profiler, const Fit& fit, Index j, Level level) {
  const ParameterInterval symmetric = parameter_intervals(fit.estimate(), level)[static_cast<std::size_t>(j)];
  ProfileInterval result{.parameter = symmetric.name,
                         .value = symmetric.value,
                         .standard_uncertainty = symmetric.standard_uncertainty,
                         .symmetric = {symmetric.low, symmetric.high}};
  const double half = half_width(fit, j, level);
  if (!std::isfinite(half) || !(half > 0)) return result;
  result.interval = result.symmetric;
  if (fit.model().is_linear()) return result;
  const double k = fit.estimate().coverage_factor(level) * profiler.scale();
  const double below = limit_of(profiler, j, -1, half, k * k).distance;
  const double above = limit_of(profiler, j, 1, half, k * k).distance;
  result.interval = {symmetric.value - below, symmetric.value + above};
  const double outside = tail_beyond(profiler, fit, j, symmetric.low) + tail_beyond(profiler, fit, j, symmetric.high);
  result.symmetric_level = 1 - outside;
  const bool is_open = std::isinf(result.interval.low) || std::isinf(result.interval.high);
  result.symmetric_is_trusted = !is_open && outside <= most_left_out * (1 - level);
  if (profiler.lowest() < fit.chi_squared() * (1 - lower_share) - detail::exact_share * fit.total_sum_of_squares())
    result.lower_chi_squared = profiler.lowest();
  return result;
}

}  // namespace

ProfileInterval profile_interval(const Fit& fit, std::string_view parameter, Level level) {
  const Index j = fit.estimate().index_of(parameter);
  Profiler profiler(fit);
  return interval_of(profiler, fit, j, level);
}

Profile profile(const Fit& fit, std::string_view parameter, Level level) {
  constexpr int points = 20;  // on each side, closer together near the estimate
  constexpr double beyond = 1.15;
  const Index j = fit.estimate().index_of(parameter);
  Profiler profiler(fit);
  Profile result{.interval = interval_of(profiler, fit, j, level)};
  const ProfileInterval& made = result.interval;
  const double half = half_width(fit, j, level);
  if (!std::isfinite(half) || !(half > 0)) return result;
  const double k = fit.estimate().coverage_factor(level) * profiler.scale();
  result.limit = fit.chi_squared() + k * k;
  // Where a side has no limit the profile is followed for three half widths.
  const double below = std::isfinite(made.interval.low) ? beyond * (made.value - made.interval.low) : 3 * half;
  const double above = std::isfinite(made.interval.high) ? beyond * (made.interval.high - made.value) : 3 * half;
  const std::vector<int> held = {static_cast<int>(j)};
  for (const double reach : {-below, above}) {
    Profiler::Point last = profiler.best();
    for (int i = 1; i <= points; ++i) {
      SmallVector theta = last.theta;
      const double distance = reach * std::pow(static_cast<double>(i) / points, 1.5);
      theta[j] = std::clamp(made.value + distance, profiler.box().low[j], profiler.box().high[j]);
      if (fit.model().is_linear()) {
        // A parabola, and the others follow on a line: no refit could be as exact.
        const auto u = as_eigen(fit.estimate().standard_uncertainties());
        const double in_uncertainties = distance / u[j];
        const double rise = std::pow(profiler.scale() * in_uncertainties, 2);
        const VectorXd along = u.cwiseProduct(detail::parts_of(fit.estimate()).correlation.col(j)) * in_uncertainties;
        result.points.push_back({theta[j], fit.chi_squared() + rise, as_eigen(fit.estimate().parameters()) + along});
        continue;
      }
      const Profiler::Point point = profiler.refit(held, theta);
      if (!point.is_finite()) break;
      last = point;
      result.points.push_back({theta[j], point.chi_squared, point.theta});
    }
  }
  result.points.push_back({made.value, fit.chi_squared(), as_eigen(fit.estimate().parameters())});
  std::stable_sort(result.points.begin(), result.points.end(),
                   [](const ProfilePoint& a, const ProfilePoint& b) { return a.value < b.value; });
  return result;
}

ConfidenceRegion confidence_region(const Fit& fit, std::string_view first, std::string_view second, Level level) {
  const Estimate& estimate = fit.estimate();
  const Index a = estimate.index_of(first);
  const Index b = estimate.index_of(second);
  if (a == b) {
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = fmt::format("a joint region needs two different parameters, and '{}' is given twice", first),
         .subject = std::string(first),
         .remedy = "name two parameters"});
  }
  (void)estimate.coverage_factor(level);  // a bad level is refused
  ConfidenceRegion region{.first = std::string(first), .second = std::string(second)};
  if (!(estimate.scale_degrees_of_freedom() > 0)) return region;
  Profiler profiler(fit);
  const double rise = std::pow(profiler.scale() * estimate.region_factor(level, 2), 2);
  region.limit = fit.chi_squared() + rise;
  const auto u = as_eigen(estimate.standard_uncertainties());
  const double r = detail::parts_of(estimate).correlation(a, b);
  Eigen::Matrix2d root;  // lower triangular, its square the covariance of the two
  root << u[a], 0, r * u[b], std::sqrt(1 - r * r) * u[b];
  if (!root.allFinite() || !(root(0, 0) > 0) || !(root(1, 1) > 0)) return region;
  const Eigen::Vector2d middle(estimate.parameters()[a], estimate.parameters()[b]);
  const double radius = std::sqrt(rise) / profiler.scale();
  for (int d = 0; d <= directions; ++d) {
    const double angle = 2 * std::numbers::pi * d / directions;
    const Eigen::Vector2d unit = root * Eigen::Vector2d(std::cos(angle), std::sin(angle));
    const auto along = [&](double distance) {
      const Eigen::Vector2d at = middle + distance * unit;
      return ParameterPair{at[0], at[1]};
    };
    region.ellipse.push_back(along(radius));
    if (d == directions || fit.model().is_linear()) {
      region.contour.push_back(d == directions ? region.contour.front() : region.ellipse.back());
      continue;
    }
    // In each direction from the estimates, as far as the set limits reach.
    double farthest = infinity;
    for (const auto& [index, component] : {std::pair{a, unit[0]}, {b, unit[1]}}) {
      const double end = component > 0 ? profiler.box().high[index] : profiler.box().low[index];
      if (component != 0) farthest = std::min(farthest, (end - estimate.parameters()[index]) / component);
    }
    const Crossing crossing = crossing_of(profiler, {static_cast<int>(a), static_cast<int>(b)}, radius, farthest, rise,
                                          [&](double distance, SmallVector theta) {
                                            theta[a] = middle[0] + distance * unit[0];
                                            theta[b] = middle[1] + distance * unit[1];
                                            return theta;
                                          });
    region.contour.push_back(std::isfinite(crossing.distance) ? along(crossing.distance) : ParameterPair{});
  }
  return region;
}

}  // namespace truecurve
