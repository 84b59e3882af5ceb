// Scans the range for changes of sign, closes in by bisection, and does the same for the limits of the interval.
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "../base/roots.hpp"
#include "../fit/estimate_parts.hpp"
#include "curve_slopes.hpp"
#include "left_band.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

// So fine a scan finds roots that are a two-thousandth of the range apart.
constexpr Index scan_points = 2001;
constexpr double steps_inside = 500;
// A limit is looked for as far as this many ranges beyond the search.
constexpr double most_ranges_away = 1e6;

class Distance {
 public:
  Distance(const Estimate& estimate, double response, const SolveOptions& options)
      : estimate_(estimate),
        response_(response),
        own_(options.response_uncertainty),
        factor_(estimate.coverage_factor(options.level)),
        slopes_(estimate) {}

  [[nodiscard]] CurvePoint point(double x) const { return curve_at(estimate_, x); }
  /// NaN where the curve has no value, as at a pole.
  [[nodiscard]] double signed_at(double x) const {
    try {
      return point(x).value - response_;
    } catch (const Error& error) {
      if (error.code() != ErrorCode::not_finite) throw;
      return not_a_number;
    }
  }
  /// Positive where the response is compatible with the curve at x.
  [[nodiscard]] double compatible_at(double x) const {
    const CurvePoint at = point(x);
    if (estimate_.is_counted()) {
      // On the scale on which the band is symmetric. So near an end that a double can't tell it from there, nothing is
      // known.
      constexpr double told = 1e-13;
      constexpr double smallest = 1e-290;
      const ResponseKernel& kernel = estimate_.observation_model().kernel();
      const double own = std::hypot(at.standard_uncertainty, own_) * kernel.open_scale_slope(at.value);
      const double away = kernel.open_scale(at.value) - kernel.open_scale(response_);
      const bool is_told = kernel.highest_mean() - at.value >= told && at.value - kernel.lowest_mean() >= smallest;
      if (!is_told || !std::isfinite(away) || !std::isfinite(own)) return not_a_number;
      return factor_ * own - std::abs(away);
    }
    return factor_ * std::hypot(at.standard_uncertainty, own_) - std::abs(at.value - response_);
  }
  /// Whether the curve is a mean all but at an end there, beyond which only numbers leave their range.
  [[nodiscard]] bool is_all_but_at_an_end(double x) const {
    constexpr double far_below = 1e-100;
    constexpr double far_above = 1e-12;
    if (!estimate_.is_counted()) return false;
    const ResponseKernel& kernel = estimate_.observation_model().kernel();
    const double mean = point(x).value;
    return mean - kernel.lowest_mean() < far_below || kernel.highest_mean() - mean < far_above;
  }
  [[nodiscard]] bool has_interval() const {
    const bool is_step = estimate_.is_counted() && estimate_.open_end();  // its uncertainty is not known
    return std::isfinite(factor_) && !is_step;
  }
  [[nodiscard]] double slope_at(double x) const { return slopes_.at(x); }
  [[nodiscard]] double uncertainty_at(double x) const { return std::hypot(point(x).standard_uncertainty, own_); }

 private:
  const Estimate& estimate_;
  double response_;
  double own_;
  double factor_;
  detail::CurveSlopes slopes_;
};

// From a compatible place outwards until the response is no longer compatible; infinite where it stays so. Steps grow,
// but in the range that is searched not so far that they could pass over a stretch.
double limit_from(const Distance& distance, double place, double step, Range searched) {
  const double range = searched.high - searched.low;
  const double largest_inside = range / steps_inside;
  const auto compatible = [&](double x) {
    try {
      return distance.compatible_at(x);
    } catch (const Error&) {
      return not_a_number;  // the model ends here, as 1/x does at zero
    }
  };
  if (!(compatible(place) > 0)) return place;
  double inside = place;
  double reach = std::copysign(std::min(std::abs(step), largest_inside), step);
  constexpr double tiny = 1e-9;
  double gap = infinity;  // to where the model ends, or the mean can no longer be told from an end
  // Where the model ends at zero or at an end of the data it is still defined there, as the root of x.
  const auto at_the_end = [&](double last) {
    for (const double end : {0.0, searched.low, searched.high}) {
      if (std::abs(end - last) <= 2 * tiny * (std::abs(last) + range) && compatible(end) > 0) return end;
    }
    return last;
  };
  while (std::abs(reach) <= most_ranges_away * range) {
    const double outside = place + reach;
    const double value = compatible(outside);
    const bool is_end = std::isnan(value);
    if (value < 0) return detail::change_of_sign(std::min(inside, outside), std::max(inside, outside), compatible);
    if (is_end || std::isfinite(gap)) {  // towards the edge
      gap = is_end ? outside - inside : gap / 2;
      if (!is_end) inside = outside;
      if (!(std::abs(gap) > tiny * (std::abs(outside) + range)))
        return distance.is_all_but_at_an_end(inside) ? std::copysign(infinity, step) : at_the_end(inside);
      reach = inside + gap / 2 - place;
      continue;
    }
    inside = outside;
    const double further = reach / 2;
    const bool is_inside = step > 0 ? inside < searched.high : inside > searched.low;
    reach += is_inside ? std::copysign(std::min(std::abs(further), largest_inside), step) : further;
  }
  return std::copysign(infinity, step);
}

// Curve less response at many points; NaN where the model is not defined.
VectorXd distances(const Estimate& estimate, const VectorXd& x, double response) {
  const detail::EstimateParts& parts = detail::parts_of(estimate);
  const auto at = [&](const Vector& points) -> VectorXd {
    const VectorXd left = detail::left_curve(parts, std::span(&points, 1));
    return detail::WayBack(*detail::data_of(parts.model).bound, std::span(&points, 1)).at(left).value;
  };
  VectorXd curve(x.size());
  try {
    curve = at(x);
  } catch (const Error&) {
    for (Index i = 0; i < x.size(); ++i) {
      try {
        curve[i] = at({x[i]})[0];
      } catch (const Error&) {
        curve[i] = not_a_number;
      }
    }
  }
  for (double& value : curve) value = std::isfinite(value) ? value - response : not_a_number;
  return curve;
}

// Whether a distance from the response is no more than the rounding of the two.
bool is_rounding(double away, double response) {
  constexpr double rounding = 16 * std::numeric_limits<double>::epsilon();
  return std::abs(away) <= rounding * (std::abs(response) + std::abs(response + away));
}

// The changes of sign of curve less response between two places.
std::vector<Root> crossings(const Distance& distance, const Estimate& estimate, double response, double low,
                            double high) {
  // A straight line crosses once, however few points are looked at.
  const Index count = estimate.model().is_straight_line() ? 3 : scan_points;
  const VectorXd x = VectorXd::LinSpaced(count, low, high);
  const VectorXd scan = distances(estimate, x, response);
  std::vector<Root> roots;
  const auto add = [&](double at) { roots.push_back({.value = at}); };
  // Along an asymptote the curve equals the response to rounding over a whole stretch, and is not said to reach it.
  const auto touches = [&](Index i) { return i >= 0 && i < count && is_rounding(scan[i], response); };
  const auto is_stretch = [&](Index i) { return touches(i) && (touches(i - 1) || touches(i + 1)); };
  for (Index i = 0; i < count; ++i) {
    const double here = scan[i];
    if (std::isnan(here) || is_stretch(i)) continue;
    if (here == 0) {
      add(x[i]);
      continue;
    }
    if (i + 1 == count) break;
    const double next = scan[i + 1];
    if (std::isnan(next) || next == 0 || is_stretch(i + 1) || (here < 0) == (next < 0)) continue;
    const auto away = [&](double place) { return distance.signed_at(place); };
    const double at = detail::change_of_sign(x[i], x[i + 1], away);
    if (detail::comes_through_zero(x[i], x[i + 1], at, away)) add(at);
  }
  return roots;
}

void add_interval(Root& root, const Distance& distance, double step, Range searched) {
  if (distance.has_interval())
    root.interval = {limit_from(distance, root.value, -step, searched),
                     limit_from(distance, root.value, step, searched)};
}

void complete(Root& root, const Distance& distance, Range searched) {
  const double range = searched.high - searched.low;
  const double slope = distance.slope_at(root.value);
  if (slope != 0 && std::isfinite(slope))
    root.standard_uncertainty = distance.uncertainty_at(root.value) / std::abs(slope);
  const bool has_step = std::isfinite(root.standard_uncertainty) && root.standard_uncertainty > 0;
  add_interval(root, distance, has_step ? root.standard_uncertainty / 4 : range / 1000, searched);
  // Beside an asymptote the slope at the root says nothing of how far it may lie.
  const double nearer = std::min(root.value - root.interval.low, root.interval.high - root.value);
  const bool is_open = std::isinf(root.interval.low) || std::isinf(root.interval.high);
  if (is_open && root.standard_uncertainty > nearer) root.standard_uncertainty = not_a_number;
}

bool is_covered(double x, const std::vector<Root>& roots) {
  return std::any_of(roots.begin(), roots.end(),
                     [x](const Root& root) { return root.interval.low <= x && x <= root.interval.high; });
}

// Whether distances rise from a place on by more than their rounding before they fall, and before the end: along an
// asymptote they do not.
bool rises(const VectorXd& scan, Index from, Index step, double response) {
  for (Index i = from + step; i >= 0 && i < scan.size() && scan[i] >= scan[from]; i += step) {
    if (!is_rounding(scan[i] - scan[from], response)) return true;
  }
  return false;
}

// The places at which the curve comes nearest to the response without reaching it, where they are compatible.
void add_nearest(const Distance& distance, const Estimate& estimate, double response, Range searched,
                 std::vector<Root>& roots) {
  if (estimate.model().is_straight_line()) return;
  const VectorXd x = VectorXd::LinSpaced(scan_points, searched.low, searched.high);
  const VectorXd scan = distances(estimate, x, response).cwiseAbs();
  for (Index i = 1; i + 1 < scan_points; ++i) {
    if (!(scan[i] <= scan[i - 1] && scan[i] < scan[i + 1]) || is_rounding(scan[i], response)) continue;
    if (!rises(scan, i, 1, response) || !rises(scan, i, -1, response)) continue;
    const double at =
        detail::lowest_place(x[i - 1], x[i + 1], [&](double place) { return std::abs(distance.signed_at(place)); });
    if (is_covered(at, roots) || !(distance.compatible_at(at) > 0)) continue;
    Root root{.value = at, .is_nearest = true};
    add_interval(root, distance, (searched.high - searched.low) / static_cast<double>(scan_points), searched);
    roots.push_back(root);
  }
}

// An end of the search at which the response is compatible with the curve: where that is an end of the data the root
// within half their range beyond it, else the end itself as the nearest place.
void add_at_end(const Distance& distance, const Estimate& estimate, double response, Range searched, bool at_high,
                bool may_lie_beyond, std::vector<Root>& roots) {
  constexpr double share = 0.5;
  const double range = searched.high - searched.low;
  const double end = at_high ? searched.high : searched.low;
  try {
    if (is_covered(end, roots) || !(distance.compatible_at(end) > 0)) return;
  } catch (const Error&) {
    return;  // the curve does not reach the end of the data
  }
  if (may_lie_beyond) {
    const double far = at_high ? end + share * range : end - share * range;
    for (Root& root : crossings(distance, estimate, response, std::min(end, far), std::max(end, far))) {
      complete(root, distance, searched);
      if (!(root.interval.low <= end && end <= root.interval.high)) continue;
      roots.push_back(root);
      return;
    }
  }
  Root root{.value = end, .is_nearest = true};
  add_interval(root, distance, range / static_cast<double>(scan_points), searched);
  roots.push_back(root);
}

}  // namespace

std::vector<Root> solve(const Estimate& estimate, double response, const SolveOptions& options) {
  const detail::EstimateParts& parts = detail::parts_of(estimate);
  if (parts.predictors.size() != 1) {
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = fmt::format("solving needs a model with one predictor, and this has {}", parts.predictors.size()),
         .subject = "solve",
         .remedy = "fit a model in one predictor"});
  }
  const double low = std::isnan(options.low) ? parts.ranges[0].low : options.low;
  const double high = std::isnan(options.high) ? parts.ranges[0].high : options.high;
  if (!(low < high) || !std::isfinite(low) || !std::isfinite(high) || !std::isfinite(response) ||
      !(options.response_uncertainty >= 0)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a response of {} ± {} between {} and {} can't be looked for", response,
                                        options.response_uncertainty, low, high),
                 .subject = "solve",
                 .remedy = "give finite numbers, the lower end of the range first, the uncertainty not negative"});
  }
  if (estimate.is_counted()) {
    const ResponseKernel& kernel = parts.observation_model.kernel();
    if (!(response > kernel.lowest_mean() && response < kernel.highest_mean())) {
      const bool bounded = std::isfinite(kernel.highest_mean());
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("{} = {} is no {}", parts.response.name, shortest(response),
                                          bounded ? "probability that a curve passes" : "mean count"),
                   .subject = "solve",
                   .value = shortest(response),
                   .remedy = bounded ? "give a number between 0 and 1: 0.5 for one half" : "give a number above 0"});
    }
  }
  const Distance distance(estimate, response, options);
  const Range data = parts.ranges[0];
  const Range searched{low, high};
  std::vector<Root> roots = crossings(distance, estimate, response, low, high);
  for (Root& root : roots) complete(root, distance, searched);
  if (distance.has_interval() && options.nearest_places) {
    add_nearest(distance, estimate, response, searched, roots);
    for (const bool at_high : {false, true}) {
      const bool is_given = !std::isnan(at_high ? options.high : options.low);
      add_at_end(distance, estimate, response, searched, at_high, !is_given, roots);
    }
  }
  for (Root& root : roots) {
    const double width = data.high - data.low;
    const double beyond = std::max({0.0, data.low - root.value, root.value - data.high});
    root.outside = beyond > 0 ? (width > 0 ? beyond / width : infinity) : 0;
  }
  std::sort(roots.begin(), roots.end(), [](const Root& a, const Root& b) { return a.value < b.value; });
  return roots;
}

}  // namespace truecurve
