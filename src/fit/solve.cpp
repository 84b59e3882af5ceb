// Weights, and the rounds in which those that follow from the curve settle.
#include "solve.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/fit/invalid_rows.hpp>

#include "../base/matrices.hpp"
#include "column_evaluator.hpp"
#include "left_side.hpp"
#include "nonlinear.hpp"
#include "refit.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// Beyond this share of the first-order term the second-order one says that the transform bends within the uncertainty.
constexpr double noticeable_bend = 0.1;
// Where twice this share is exceeded the expansion to the second order is no better than the first.
constexpr double largest_bend = 1;
// Weights from the curve settle within a few rounds; a slow one is stopped and said.
constexpr int most_rounds = 100;
constexpr double settled = 1e-12;
// ... or where the rounds move no parameter by more than this share of its uncertainty.
constexpr double settled_in_uncertainties = 1e-9;
// Squares of numbers within these powers of two are far from the ends of the range, sums of them, too.
constexpr int plain_exponent = 300;

std::string row_list(const std::vector<std::uint32_t>& rows) {
  constexpr std::size_t shown = 8;
  std::string text;
  for (std::size_t i = 0; i < std::min(rows.size(), shown); ++i)
    text += fmt::format("{}{}", i == 0 ? "" : ", ", rows[i]);
  return rows.size() > shown ? text + fmt::format(" and {} more", rows.size() - shown) : text;
}

void require_usable_rows(const Model& model, const Observations& observations, const LeftSide& left) {
  for (Index i = 0; i < left.value.size(); ++i) {
    if (std::isfinite(left.value[i]) && std::isfinite(left.slope[i]) && left.slope[i] != 0) continue;
    const auto invalid = invalid_rows(model, observations);
    throw Error({.code = ErrorCode::unsuitable_row,
                 .message = fmt::format(
                     "row {}, column '{}': {}{}", invalid.front().row, model.response(), invalid.front().reason,
                     invalid.size() > 2   ? fmt::format(", and {} more rows can't be taken either", invalid.size() - 1)
                     : invalid.size() > 1 ? fmt::format(", and row {} can't be taken either", invalid.back().row)
                                          : ""),
                 .subject = fmt::format("row {}", invalid.front().row),
                 .value = fmt::format("{}", observations.responses()[i]),
                 .remedy = {"leave exactly these rows out",
                            {Action::leave_invalid_rows_out},
                            ", or fit the curve without the transform"}});
  }
}

bool inside(const Model& model, const VectorXd& parameters, const std::vector<Within>& within) {
  const std::vector<std::string>& names = model.parameters();
  return std::all_of(within.begin(), within.end(), [&](const Within& limits) {
    const auto at = std::find(names.begin(), names.end(), limits.parameter) - names.begin();
    return at < parameters.size() && limits.low < limits.high && limits.low <= parameters[at] &&
           parameters[at] <= limits.high;
  });
}

// The solver that the model's structure calls for.
void solve_least_squares(Solved& problem, const Model& model, const FitOptions& options, OpenEnds open_ends,
                         SearchWatch& watch) {
  if (model.is_linear()) {
    problem.solution = solve_linear(model, problem.left_side);
    if (inside(model, problem.solution.parameters, options.within)) {
      problem.report = {.method = problem.solution.method, .condition = problem.solution.condition};
      return;
    }
  }
  problem.model = model.is_linear() ? as_curve(model) : model;
  NonlinearSolution found = solve_nonlinear(problem.model, problem.left_side, options, open_ends, watch);
  problem.solution = std::move(found.linear);
  problem.report = std::move(found.report);
  problem.open_end = found.open_end;
}

// Where the left side is weighted: the responses, and the factor that makes their law one of standard uncertainties, 0
// while it is not known (a spread in the first round).
struct Place {
  VectorXd responses;
  double scale = 0;
};

// Expectation and variance of the left side g of a response with the standard uncertainty u, to the second order
// (JCGM 100:2008, 5.1.2, note, and the expectation of its expansion): g(y) lies above g of the mean by g" u²/2, and its
// variance is g'² u² + (g"²/2 + g' g"') u⁴. Without them a straightened line through readings of 20 % would be off by
// more than its uncertainty.
void carry_through(const LeftSide& left, double scale, VectorXd& values, VectorXd& u) {
  for (Index i = 0; i < u.size(); ++i) {
    const double own = scale * u[i];
    const double first = left.slope[i] * own;
    const double second = left.curvature[i] * own * own;
    const double variance = first * first + second * second / 2 + first * left.third[i] * own * own * own;
    u[i] *= std::abs(left.slope[i]);
    if (!(std::abs(second) <= largest_bend * std::abs(first)) || !(variance > 0)) continue;  // no expansion holds
    values[i] -= second / 2;
    if (scale > 0) u[i] = std::sqrt(variance) / scale;
  }
}

// A power of two near the largest of some numbers, where their squares would come near the ends of the range; else 1.
double unit_of(double largest) {
  const int exponent = largest > 0 && std::isfinite(largest) ? std::ilogb(largest) : 0;
  return std::abs(exponent) > plain_exponent ? std::ldexp(1.0, exponent) : 1;
}

// Rows whose left side is the response and whose scatter is known before the curve: as they are, and none is copied.
Solved as_they_are(const Model& model, const Observations& observations, const ScatterLaw& law) {
  Solved solved{.model = model, .left_side = observations};
  if (law.is_stated()) return solved;
  const auto y = as_eigen(observations.responses());
  const auto u = as_eigen(observations.row_scatter());
  solved.unit = unit_of(u.size() == 0 ? y.cwiseAbs().maxCoeff() : y.cwiseQuotient(u).cwiseAbs().maxCoeff());
  if (solved.unit == 1) return solved;
  solved.left_side = observations.with_relative_scatter(
      y, u.size() == 0 ? VectorXd::Constant(y.size(), solved.unit) : VectorXd(u * solved.unit));
  return solved;
}

// The left side with the scatter that the rows have at a place.
Solved weighted(const Model& model, const Observations& observations, VectorXd values, const ScatterLaw& law,
                const Place& place) {
  const BoundModel& bound = *data_of(model).bound;
  VectorXd u;
  if (law.is_given()) {
    u = law.at(place.responses, observations);
    if (bound.transformed)
      carry_through(left_side_at(bound, place.responses, predictor_pointers(observations)), place.scale, values, u);
  }
  double unit = 1;
  if (!law.is_stated()) {
    unit = unit_of(u.size() == 0 ? values.cwiseAbs().maxCoeff() : values.cwiseQuotient(u).cwiseAbs().maxCoeff());
    if (unit != 1) u = u.size() == 0 ? VectorXd::Constant(values.size(), unit) : VectorXd(u * unit);
  }
  Observations left =
      law.is_stated() ? observations.with_response(values, u) : observations.with_relative_scatter(values, u);
  return {.model = model, .left_side = std::move(left), .unit = unit};
}

void warn_of_bends(const BoundModel& bound, const Observations& observations, const LeftSide& left, const VectorXd& u,
                   const std::string& response, std::vector<Warning>& warnings) {
  std::vector<std::uint32_t> bent;
  for (Index i = 0; i < left.value.size(); ++i) {
    if (std::abs(0.5 * left.curvature[i] / left.slope[i]) * u[i] > noticeable_bend)
      bent.push_back(observations.source_rows()[static_cast<std::size_t>(i)]);
  }
  if (bent.empty()) return;
  warnings.push_back(
      {WarningCode::transform_bends,
       fmt::format("In row{} {} the stated uncertainty is so large that {} is nonlinear over it: u({}) = "
                   "|slope| u({}) is only a first approximation there; prefer the curve fitted without "
                   "the transform.",
                   bent.size() == 1 ? "" : "s", row_list(bent), bound.left_text, bound.left_text, response)});
}

// The measured responses, zeros replaced by the smallest of the others: the first weights need some value.
VectorXd first_responses(const Observations& observations, const ScatterLaw& law) {
  VectorXd at = as_eigen(observations.responses());
  if (!law.follows_the_response()) return at;
  const double taken_off = law.model().scatter().offset;
  double smallest = infinity;
  for (const double y : at) {
    const double gross = y + taken_off;
    if (gross != 0) smallest = std::min(smallest, std::abs(gross));
  }
  if (std::isinf(smallest)) return at;  // all of them: refused where their scatter is asked for
  for (double& y : at) y = y + taken_off == 0 ? smallest - taken_off : y;
  return at;
}

// The responses on the fitted curve; where the way back from the left side is not defined, the measured ones.
VectorXd responses_on(const Solved& solved, const Observations& observations) {
  const BoundModel& bound = *data_of(solved.model).bound;
  const std::vector<const double*> predictors = predictor_pointers(observations);
  const Response response = response_at(bound, curve_at(bound, solved.solution.working, observations), predictors);
  VectorXd at = response.value;
  if (!bound.transformed) return at;
  const VectorXd slope = left_side_at(bound, at, predictors).slope;
  for (Index i = 0; i < at.size(); ++i) {
    if (!std::isfinite(at[i]) || !std::isfinite(slope[i]) || slope[i] == 0) at[i] = observations.responses()[i];
  }
  return at;
}

bool has_settled(const LinearSolution& now, const VectorXd& last) {
  if (last.size() == 0) return false;
  const VectorXd change = now.working.parameters - last;
  if (change.norm() <= settled * now.working.parameters.norm()) return true;
  for (Index j = 0; j < change.size(); ++j) {
    if (!(std::abs(change[j]) <= settled_in_uncertainties * now.working.inverse_factor.row(j).norm())) return false;
  }
  return true;
}

}  // namespace

Solved first_sight(const Model& model, const Observations& observations, const Spread& spread) {
  const BoundModel& bound = *data_of(model).bound;
  const ScatterLaw law(observations, spread);
  if (!bound.transformed && !law.follows_the_response()) return as_they_are(model, observations, law);
  const LeftSide left = left_side_at(bound, as_eigen(observations.responses()), predictor_pointers(observations));
  if (bound.transformed) require_usable_rows(model, observations, left);
  return weighted(model, observations, left.value, law, {first_responses(observations, law)});
}

Solved solve_least_squares(const Model& model, const Observations& left_side, const FitOptions& options) {
  Solved solved{.model = model, .left_side = left_side};
  SearchWatch watch(options);
  solve_least_squares(solved, model, options, OpenEnds::ignored, watch);
  return solved;
}

double least_chi_squared(const Model& model, const Observations& left_side, const FitOptions& options) {
  return solve_least_squares(model, left_side, options).solution.chi_squared;
}

Solved solve_as_meant(const Model& model, const Observations& observations, const FitOptions& options,
                      std::vector<Warning>& warnings) {
  SearchWatch watch(options);
  if (!observations.observation_model().is_measured()) return solve_counted(model, observations, options, watch);
  const BoundModel& bound = *data_of(model).bound;
  const ScatterLaw law(observations, options.spread);
  const OpenEnds open_ends = law.is_believed(options.uncertainty) ? OpenEnds::by_known_scale : OpenEnds::by_scatter;
  if (!bound.transformed && !law.follows_the_response()) {
    Solved solved = as_they_are(model, observations, law);
    solve_least_squares(solved, model, options, open_ends, watch);
    return solved;
  }
  const LeftSide left = left_side_at(bound, as_eigen(observations.responses()), predictor_pointers(observations));
  if (bound.transformed) require_usable_rows(model, observations, left);
  const VectorXd at = first_responses(observations, law);
  if (bound.transformed && law.is_stated())
    warn_of_bends(bound, observations, left, law.at(at, observations), model.response(), warnings);

  Solved solved = weighted(model, observations, left.value, law, {at});
  solve_least_squares(solved, model, options, open_ends, watch);
  const bool iterated = !law.has_fixed_weights(bound.transformed);
  if (!iterated) return solved;
  const SolverReport first = solved.report;
  FitOptions round_options = options;
  // A linear model has no search, but rounds that can be ended all the same.
  const auto ended = [&watch](Solved&& so_far) {
    so_far.report.converged = false;
    so_far.report.stop = watch.reason();
    return std::move(so_far);
  };
  if (watch.is_over()) return ended(std::move(solved));
  for (int round = 1;; ++round) {
    const VectorXd last = solved.solution.working.parameters;
    // The next round begins where this one ended.
    round_options.starts = starts_at(model, last);
    const double degrees =
        static_cast<double>(observations.size()) - static_cast<double>(solved.model.parameters().size());
    const Place place{responses_on(solved, observations),
                      law.scale(solved.solution.chi_squared, degrees, options.uncertainty) * solved.unit};
    const int evaluations = solved.report.evaluations;
    solved = weighted(model, observations, left.value, law, place);
    solve_least_squares(solved, model, round_options, open_ends, watch);
    solved.report.evaluations += evaluations;
    if (watch.is_over()) return ended(std::move(solved));
    if (!has_settled(solved.solution, last) && round < most_rounds) continue;
    if (round == most_rounds)
      warnings.push_back({WarningCode::weights_not_settled,
                          "The weights that follow from the curve did not settle; the result is that of the last "
                          "round."});
    // What the search met, it met in the first round.
    solved.report.descents = first.descents;
    solved.report.met_best = first.met_best;
    solved.report.built_up = first.built_up;
    solved.report.other_minima = first.other_minima;
    return solved;
  }
}

}  // namespace truecurve::detail
