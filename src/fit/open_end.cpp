// Follows each parameter along its profile, by factors.
#include "open_end.hpp"

#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr int evaluations_enough = 100;  // of a descent: it begins at the neighbour's end
constexpr double farthest = 512;         // powers of two from the best value
constexpr double flat_share = 0.01;      // of the rise: there the curve has all but stopped to change
constexpr double steep_share = 0.5;      // of the rise: what lies less high before a limit is reached is a cliff
// In powers of two:
constexpr double level_enough = 1;
constexpr double first_step = 0.5;
constexpr double precise = 0.02;
constexpr double most_row_evaluations = 1e7;  // evaluated along one parameter: a few seconds
constexpr int most_descents = 40;             // of one way
constexpr double good_offset = 1e-3;          // of Bates and Watts (1981): a thousandth of an uncertainty

class Walk {
 public:
  Walk(const BoundModel& bound, const Observations& observations, const Box& box, const Descent& best, int parameter,
       SearchWatch& watch)
      : bound_(bound), observations_(observations), box_(box), parameter_(parameter), best_(best), watch_(watch) {}

  // The parameter held at so many powers of two times its best value.
  [[nodiscard]] Descent at(double power, const SmallVector& from) const {
    SmallVector theta = from;
    const double ratio = value_at(power) / from[parameter_];
    theta[parameter_] = value_at(power);
    // The place of an edge behind a link is a ratio of its parameters: they grow together.
    if (!observations_.observation_model().is_measured() && bound_.entangled.empty()) theta = from * ratio;
    return descend_held(theta);
  }

  [[nodiscard]] double value_at(double power) const { return best_.theta[parameter_] * std::exp2(power); }

  [[nodiscard]] bool allows(double value) const {
    return box_.low[parameter_] < value && value < box_.high[parameter_];
  }

  [[nodiscard]] Descent descend_held(const SmallVector& theta) const {
    Curve curve(bound_, observations_, without(roles_within(bound_, box_), {parameter_}), 1, &watch_);
    try {
      Descent end = descend(curve, theta, box_, evaluations_enough);
      rows_evaluated_ += static_cast<double>(curve.evaluations()) * static_cast<double>(curve.rows());
      return end;
    } catch (const Error& error) {
      if (error.code() != ErrorCode::unsuitable_row) throw;
      return {.theta = theta};
    }
  }

  // Sum of squares of the weighted data.
  [[nodiscard]] double size() const { return Curve(bound_, observations_, {}).size(); }

  [[nodiscard]] bool is_tired() const { return rows_evaluated_ > most_row_evaluations || watch_.is_over(); }

  // Whether the value of the opposite sign fits as well, and is another curve: a width's is not, nor that of a
  // steepness between two levels that change places.
  [[nodiscard]] bool fits_mirrored(const Descent& held, double limit) const {
    constexpr double same_curve = 1e-9;
    SmallVector theta = held.theta;
    theta[parameter_] = -theta[parameter_];
    if (!allows(theta[parameter_])) return false;
    SmallVector projected = theta;
    Curve curve(bound_, observations_, without(roles_within(bound_, box_), {parameter_}), 1, &watch_);
    if (std::abs(curve.project(projected) - held.chi_squared) <= same_curve * held.chi_squared) return false;
    return descend_held(theta).chi_squared <= limit;
  }

  struct Way {
    bool crosses = false;
    double at = 0;  // powers of two: where chi-squared reaches the limit, or the farthest looked at
    Descent last;   // there
    Descent level;  // the farthest at which chi-squared has hardly risen
    double level_at = 0;
    double lowest = infinity;
  };

  // As far as chi-squared stays below a limit and the model is defined. Steps grow while they succeed: what follows the
  // parameter far out is found from near by only.
  [[nodiscard]] Way follow(double sign, double limit) const {
    Way way{.last = best_, .level = best_, .lowest = best_.chi_squared};
    const double flat = best_.chi_squared + flat_share * (limit - best_.chi_squared);
    double outside = infinity;
    double step = first_step;
    for (int round = 0; round < most_descents && std::abs(way.at) < farthest && !is_tired(); ++round) {
      const double trial_at = way.at + sign * std::min(step, std::abs(outside - way.at) / 2);
      // Derivatives leave the range of numbers before the curve does. A limit that was set ends the way, too.
      const bool is_allowed = allows(value_at(trial_at));
      Descent trial = is_allowed ? at(trial_at, way.last.theta) : Descent{};
      const bool defined = is_allowed && trial.stop != StopReason::not_finite;
      if (defined) way.lowest = std::min(way.lowest, trial.chi_squared);
      if (defined && trial.chi_squared <= limit) {
        way.at = trial_at;
        way.last = std::move(trial);
        if (way.last.chi_squared <= flat) {
          way.level = way.last;
          way.level_at = way.at;
        }
        step *= 2;
        continue;
      }
      way.crosses = defined;
      if (step <= first_step) outside = trial_at;
      step = std::max(first_step, step / 4);
      if (std::abs(outside - way.at) <= precise) break;
    }
    // A cliff is where numbers leave their range.
    const double low = way.lowest + steep_share * (limit - way.lowest);
    way.crosses = std::isfinite(outside) && way.crosses && way.last.chi_squared > low;
    return way;
  }

  // Between a power where chi-squared lies below a limit and one where it does not, where it crosses that.
  [[nodiscard]] double crossing(double inside, double outside, double limit, const SmallVector& from) const {
    SmallVector theta = from;
    while (std::abs(outside - inside) > precise) {
      const double middle = inside + (outside - inside) / 2;
      const Descent trial = at(middle, theta);
      if (trial.chi_squared <= limit) {
        inside = middle;
        theta = trial.theta;
      } else {
        outside = middle;
      }
    }
    return inside;
  }

 private:
  const BoundModel& bound_;
  const Observations& observations_;
  const Box& box_;
  int parameter_;
  const Descent& best_;
  SearchWatch& watch_;
  mutable double rows_evaluated_ = 0;
};

}  // namespace

std::vector<int> sought_parameters(const BoundModel& bound, const Observations& observations) {
  return observations.observation_model().is_measured() ? bound.entangled : joint_roles(bound).entangled;
}

bool may_be_open(const BoundModel& bound, const Box& box, const SmallVector& theta, int parameter) {
  const ParameterPart part = bound.parts[static_cast<std::size_t>(parameter)];
  const bool has_a_scale =
      part == ParameterPart::factor || part == ParameterPart::divisor || part == ParameterPart::exponent;
  const bool is_inside = box.low[parameter] < theta[parameter] && theta[parameter] < box.high[parameter];
  return has_a_scale && theta[parameter] != 0 && is_inside;
}

std::optional<OpenEndFound> find_open_end(const BoundModel& bound, const Observations& observations, const Box& box,
                                          const Descent& best, double rise, SearchWatch& watch) {
  if (!std::isfinite(best.chi_squared) || !(rise > 0)) return std::nullopt;
  // A mean that is linear as it stands leaves what it may be before any parameter runs away.
  const bool is_counted = !observations.observation_model().is_measured();
  if (is_counted && bound.entangled.empty() && !bound.transformed) return std::nullopt;
  for (const int parameter : sought_parameters(bound, observations)) {
    if (!may_be_open(bound, box, best.theta, parameter)) continue;
    const Walk walk(bound, observations, box, best, parameter, watch);
    const double high = best.chi_squared + rise;
    const Walk::Way inwards = walk.follow(-1, high);
    const Walk::Way outwards = walk.follow(1, high);
    if (inwards.crosses == outwards.crosses || walk.is_tired()) continue;
    const Walk::Way& open = inwards.crosses ? outwards : inwards;
    const Walk::Way& closed = inwards.crosses ? inwards : outwards;
    const double flat = std::min(open.lowest, closed.lowest) + flat_share * rise;
    // Not where the best value is a minimum after all.
    if (open.level.chi_squared > flat || (std::abs(open.level_at) < level_enough && open.level_at != open.at)) continue;
    const double held_at = walk.crossing(open.level_at, closed.at, flat, open.level.theta);
    Descent held = walk.at(held_at, open.level.theta);
    // What fits on both sides of 0, or of infinity as a divisor, has no end there.
    if (walk.fits_mirrored(held, high)) continue;
    // Through every row there is no residual against which an offset could be seen.
    const bool has_met = held.offset < good_offset || is_of_rounding(held.chi_squared, walk.size());
    if (!has_met || !(held.chi_squared <= flat + flat_share * rise)) continue;
    if (!held.converged) held.stop = StopReason::relative_offset;
    held.converged = true;
    const double value = held.theta[parameter];
    const bool upwards = (&open == &outwards) == (value > 0);
    Box ended = box;
    (upwards ? ended.high : ended.low)[parameter] = value;
    return OpenEndFound{{parameter, upwards, walk.value_at(closed.at)}, std::move(held), ended};
  }
  return std::nullopt;
}

}  // namespace truecurve::detail
