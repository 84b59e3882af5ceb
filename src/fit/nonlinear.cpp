// Least squares for curves: where to begin, which minimum is meant, what can't be told.
#include "nonlinear.hpp"

#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/data/resolution.hpp>

#include "../base/matrices.hpp"
#include "curve_faults.hpp"
#include "meant_order.hpp"
#include "minima.hpp"
#include "open_end.hpp"
#include "search.hpp"
#include "tangent_plane.hpp"
#include "weights.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

std::size_t index_of(const BoundModel& bound, const std::string& name, const char* what) {
  const auto at = std::find(bound.parameters.begin(), bound.parameters.end(), name);
  if (at == bound.parameters.end()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} given for '{}', which is not a parameter that is fitted", what, name),
                 .subject = name,
                 .remedy = fmt::format("the parameters are: {}", fmt::join(bound.parameters, ", "))});
  }
  return static_cast<std::size_t>(at - bound.parameters.begin());
}

Box box_of(const BoundModel& bound, const FitOptions& options) {
  Box box = Box::open(bound.parameters.size());
  for (const Within& within : options.within) {
    const auto j = static_cast<Index>(index_of(bound, within.parameter, "a range is"));
    if (!(within.low < within.high)) {
      throw Error(
          {.code = ErrorCode::bad_argument,
           .message = fmt::format("'{}' is to lie between {} and {}", within.parameter, within.low, within.high),
           .subject = within.parameter,
           .value = fmt::format("{}..{}", within.low, within.high),
           .remedy = "give the lower end first; to hold a parameter at a value, fix it"});
    }
    box.low[j] = std::max(box.low[j], within.low);
    box.high[j] = std::min(box.high[j], within.high);
  }
  return box;
}

// NaN where none is given.
SmallVector given_starts(const BoundModel& bound, const FitOptions& options, const Box& box) {
  SmallVector theta = SmallVector::Constant(static_cast<Index>(bound.parameters.size()), not_a_number);
  for (const Start& start : options.starts) {
    const auto j = static_cast<Index>(index_of(bound, start.parameter, "a start is"));
    const bool inside = start.value >= box.low[j] && start.value <= box.high[j];
    if (!std::isfinite(start.value) || !inside) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = std::isfinite(start.value)
                                  ? fmt::format("the start {} = {} lies outside {}..{}", start.parameter, start.value,
                                                box.low[j], box.high[j])
                                  : fmt::format("the start of '{}' is {}", start.parameter, start.value),
                   .subject = start.parameter,
                   .value = fmt::format("{}", start.value),
                   .remedy = inside ? "starts are finite numbers" : "start inside the range, or widen it"});
    }
    theta[j] = start.value;
  }
  return theta;
}

// Looked for where the search did not end in a minimum, or in one that some parameter does not change.
std::optional<OpenEndFound> open_end_of(Curve& curve, const Observations& observations, const Box& box,
                                        const Descent& best, OpenEnds open_ends) {
  const bool is_exact = is_of_rounding(best.chi_squared, curve.size());
  if (best.stop == StopReason::not_finite) return std::nullopt;
  const double degrees = static_cast<double>(curve.rows()) - static_cast<double>(best.theta.size());
  if (!(degrees > 0)) return std::nullopt;
  const bool stated = open_ends == OpenEnds::by_known_scale;
  const double factor = stated ? normal_quantile(0.975) : student_t_quantile(0.975, degrees);
  // Readings that scatter by less than their step are no better known than that.
  const auto y = as_eigen(observations.responses());
  const double rounding = Weights(observations).are_given() || curve.is_scored()
                              ? 0
                              : rounding_variance(resolution_of({y.data(), static_cast<std::size_t>(y.size())}));
  constexpr double rounding_of_numbers = 16 * std::numeric_limits<double>::epsilon();
  const double least = is_exact ? rounding_of_numbers * rounding_of_numbers * curve.size() / degrees : rounding;
  const double variance = stated ? 1 : std::max(best.chi_squared / degrees, least);
  const FreeColumns columns = free_columns(curve, best.theta, box);
  // Through every row a curve may pass with many values of a parameter.
  const bool is_known = !is_exact && has_full_rank(columns) &&
                        tells_scales(columns, curve.bound(), sought_parameters(curve.bound(), observations), box,
                                     best.theta, std::sqrt(variance));
  if (best.converged && is_known) return std::nullopt;
  return find_open_end(curve.bound(), observations, box, best, factor * factor * variance, *curve.watch());
}

// The solver's account of the minimum that was taken and of those beside it.
SolverReport report_of(const Curve& curve, const FoundMinima& found, const Descent& best, int evaluations) {
  SolverReport report;
  report.method = curve.is_scored()                 ? SolverMethod::scoring
                  : curve.bound().separable.empty() ? SolverMethod::levenberg_marquardt
                                                    : SolverMethod::variable_projection;
  report.converged = best.converged;
  report.stop = best.stop;
  report.iterations = best.iterations;
  report.evaluations = found.evaluations + evaluations;
  report.descents = found.descents;
  report.met_best = found.minima.front().met;
  report.built_up = found.minima.front().built_up;
  for (std::size_t i = 1; i < std::min(found.minima.size(), minima_kept); ++i) {
    const Descent& other = found.minima[i].best;
    if (other.converged) report.other_minima.push_back({other.chi_squared, other.theta});
  }
  return report;
}

[[noreturn]] void fail_without_a_place(StopReason why) {
  throw Error({.code = ErrorCode::stopped,
               .message = fmt::format("the search ended before the curve was seen at any place ({})", name(why)),
               .subject = "search",
               .value = std::string(name(why)),
               .remedy = "allow it more time or more evaluations"});
}

[[noreturn]] void fail_without_minimum(const Model& model, const Observations& observations, const SmallVector& given,
                                       bool searched) {
  if (!searched) {
    SmallVector start = given;
    for (double& value : start) value = std::isnan(value) ? 0 : value;
    fail_not_finite(model, observations, start);
  }
  throw Error(
      {.code = ErrorCode::not_finite,
       .message = fmt::format("no start was found at which '{}' is finite in every row{}", model.text(),
                              never_finite(*data_of(model).bound, observations)),
       .subject = "start",
       .remedy = {
           "give starts at which the model is defined for every row", {Action::give_start}, ", or leave rows out"}});
}

}  // namespace

StartingPoint starting_point(const Model& model, const Observations& observations, const FitOptions& options) {
  const BoundModel& bound = *data_of(model).bound;
  if (!observations.observation_model().is_measured()) {
    StartingPoint begun = starting_point(model, about_measured(bound, observations, 1), options);
    SmallVector theta = begun.parameters;
    begun.chi_squared = Curve(bound, observations, joint_roles(bound)).project(theta);
    return begun;
  }
  const Box box = box_of(bound, options);
  const SmallVector given = given_starts(bound, options, box);
  StartingPoint point;
  Roles roles;  // what is solved for
  for (const int j : bound.separable) {
    if (std::isnan(given[j])) roles.separable.push_back(j);
  }
  for (std::size_t j = 0; j < bound.parameters.size(); ++j) {
    const auto parameter = static_cast<int>(j);
    const bool is_solved =
        std::find(roles.separable.begin(), roles.separable.end(), parameter) != roles.separable.end();
    point.origins.push_back(!std::isnan(given[parameter]) ? StartOrigin::given
                            : is_solved                   ? StartOrigin::solved
                                                          : StartOrigin::proposed);
    if (!is_solved) roles.entangled.push_back(parameter);
  }
  Curve curve(bound, observations, roles);
  std::vector<SmallVector> trials = proposals(model, curve, given);
  const bool sought =
      std::any_of(roles.entangled.begin(), roles.entangled.end(), [&given](int j) { return std::isnan(given[j]); });
  if (!sought) {
    trials = {given};
  } else if (trials.empty()) {
    trials = drawn_points(curve, given, box);
  }
  for (SmallVector trial : trials) {
    for (const int j : roles.separable) trial[j] = 0;
    const double chi = curve.project(trial);
    if (!(chi < point.chi_squared)) continue;
    point.chi_squared = chi;
    point.parameters = trial;
  }
  if (!std::isfinite(point.chi_squared)) {
    SmallVector start = given;
    for (double& value : start) value = std::isnan(value) ? 0 : value;
    fail_not_finite(model, observations, start);
  }
  return point;
}

NonlinearSolution solve_nonlinear(const Model& model, const Observations& observations, const FitOptions& options,
                                  OpenEnds open_ends, SearchWatch& watch) {
  const BoundModel& bound = *data_of(model).bound;
  if (bound.parameters.size() + 1 > most_columns) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = fmt::format("the model has {} parameters; {} are the limit", bound.parameters.size(),
                                        most_columns - 1),
                 .subject = "model",
                 .remedy = "fit a model with fewer parameters"});
  }
  Box box = box_of(bound, options);
  const SmallVector given = given_starts(bound, options, box);
  const Roles roles = roles_within(bound, box);
  Curve curve(bound, observations, roles, 1, &watch);
  const bool searched =
      std::any_of(roles.entangled.begin(), roles.entangled.end(), [&given](int j) { return std::isnan(given[j]); });
  FoundMinima found = curve.is_scored() && given.hasNaN() ? search_likelihood(model, observations, curve, box, options)
                      : searched                          ? search_minima(model, observations, curve, given, box)
                                                          : descend_from_starts(curve, observations, given, box);
  if (found.minima.empty() && watch.is_over()) fail_without_a_place(watch.reason());
  if (found.minima.empty()) fail_without_minimum(model, observations, given, searched);
  const int before = curve.evaluations();
  Descent best = found.minima.front().best;
  NonlinearSolution solution;
  try {
    watch.tell(FitStage::checking);
    if (!watch.is_over()) best = in_meant_order(curve, best, given, box);
    auto open = open_ends == OpenEnds::ignored || watch.is_over()
                    ? std::nullopt
                    : open_end_of(curve, observations, box, best, open_ends);
    if (open) {
      solution.open_end = open->end;
      best = std::move(open->descent);
      box = open->box;
    }
  } catch (const SearchEnded&) {
    // What was not looked at stays as it was found.
  }
  if (watch.is_over()) {
    best.converged = false;
    best.stop = watch.reason();
  } else if (!best.converged && best.stop == StopReason::step_vanished && searched && !curve.is_scored()) {
    // It may have run away along parameters that can't be told apart, until the digits ended.
    constexpr std::size_t looked_at = 5;
    std::vector<SmallVector> points = drawn_points(curve, given, box);
    points.resize(std::min(points.size(), looked_at));
    require_separable(curve, points, box);
  }
  solution.report = report_of(curve, found, best, curve.evaluations() - before);
  solution.report.relative_offset = keep_tangent_plane(curve, best, box, solution.linear);
  solution.linear.chi_squared = best.chi_squared;
  solution.linear.total_sum_of_squares = curve.total();
  solution.linear.method = solution.report.method;
  solution.report.condition = solution.linear.condition;
  return solution;
}

}  // namespace truecurve::detail
