// Chooses the solver and assembles the result.
#include <truecurve/base/error.hpp>
#include <truecurve/fit/fit.hpp>

#include "../base/matrices.hpp"
#include "bind.hpp"
#include "column_evaluator.hpp"
#include "estimate_parts.hpp"
#include "fit_parts.hpp"
#include "fit_warnings.hpp"
#include "predictor_ranges.hpp"
#include "response_kind.hpp"
#include "rounding.hpp"
#include "solve.hpp"
#include "weights.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

void require_enough_rows(const Model& model, const Observations& observations) {
  const std::size_t p = model.parameters().size();
  if (observations.size() >= p) return;
  throw Error(
      {.code = ErrorCode::too_few_observations,
       .message = fmt::format("{} can't determine {}", plural(observations.size(), "row"), plural(p, "parameter")),
       .subject = "observations",
       .value = fmt::format("{}", observations.size()),
       .remedy = "measure at more points, or fit a model with fewer parameters"});
}

// A linear model needs no starts, but a start for no parameter is a slip there as well.
void require_known_starts(const Model& model, const std::vector<Start>& starts) {
  if (!model.is_linear()) return;  // its solver looks at them itself
  const std::vector<std::string>& names = model.all_parameters();
  for (const Start& start : starts) {
    if (std::find(names.begin(), names.end(), start.parameter) != names.end()) continue;
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a start is given for '{}', which is not a parameter of '{}'", start.parameter,
                                        model.text()),
                 .subject = start.parameter,
                 .remedy = "name one of its parameters, or omit the start: a linear model needs none"});
  }
}

// A parameter whose value or uncertainty a double can't hold is no result, nor is one that vanished on the way there.
void require_in_range(const Model& model, const Observations& observations, const detail::LinearSolution& solution) {
  // Of columns that are far from either end it is not their units: a curve can run off where its rows do not hold it.
  const auto is_ordinary = [](const auto& column) {
    const double largest = column.cwiseAbs().maxCoeff();
    return largest == 0 || (largest > 1e-50 && largest < 1e50);
  };
  bool are_ordinary = !model.is_linear() && is_ordinary(as_eigen(observations.responses()));
  for (std::size_t k = 0; k < observations.predictors().size(); ++k)
    are_ordinary = are_ordinary && is_ordinary(as_eigen(observations.predictor(k)));
  const auto fail = [&](const std::string& what, const std::string& subject, const std::string& value) {
    if (are_ordinary) {
      throw Error(
          {.code = ErrorCode::not_finite,
           .message = fmt::format("{} is beyond the range of numbers (about 1e-308 to 1e308): these rows do not "
                                  "bound the parameters of '{}'",
                                  what, model.text()),
           .subject = subject,
           .value = value,
           .remedy = {"choose a curve with fewer parameters, set limits",
                      Action::set_limits,
                      ", or hold a parameter",
                      {Action::hold_parameter, ""}}});
    }
    std::string ranges;
    for (std::size_t k = 0; k < observations.predictors().size(); ++k)
      ranges += fmt::format(", '{}' to {:.3g}", observations.predictors()[k].name,
                            as_eigen(observations.predictor(k)).cwiseAbs().maxCoeff());
    throw Error({.code = ErrorCode::not_finite,
                 .message = fmt::format(
                     "{} is beyond the range of numbers (about 1e-308 to 1e308): '{}' reaches to {:.3g}{}", what,
                     observations.response().name, as_eigen(observations.responses()).cwiseAbs().maxCoeff(), ranges),
                 .subject = subject,
                 .value = value,
                 .remedy = "give the columns in units in which their values are nearer to 1"});
  };
  if (!std::isfinite(solution.chi_squared) || !std::isfinite(solution.total_sum_of_squares))
    fail("the sum of squares", observations.response().name, fmt::format("{}", solution.chi_squared));
  for (Index j = 0; j < solution.parameters.size(); ++j) {
    const std::string& name = model.parameters()[static_cast<std::size_t>(j)];
    const double value = solution.parameters[j];
    const auto root = solution.spread.row(j);
    const bool vanished = root.size() > 0 && root.isZero(0) && value == 0 && model.is_linear();
    if (!std::isfinite(value) || vanished) fail(fmt::format("the parameter {}", name), name, fmt::format("{}", value));
    if (!root.hasNaN() && !root.allFinite())
      fail(fmt::format("the uncertainty of {}", name), name, fmt::format("{}", value));
  }
}

double sum_of_squares_about_the_mean(const Observations& left) {
  const auto y = as_eigen(left.responses());
  const VectorXd roots = detail::Weights(left).roots();
  const double mean = y.dot(roots.cwiseAbs2()) / roots.squaredNorm();
  return (y.array() - mean).matrix().cwiseProduct(roots).squaredNorm();
}

// Pearson's chi-squared of a counted response: what its dispersion is estimated by.
double pearson_sum(const detail::Solved& solved) {
  const Observations& left = solved.left_side;
  const VectorXd curve = detail::curve_at(*detail::data_of(solved.model).bound, solved.solution.working, left);
  return detail::Weights(left).standardized(as_eigen(left.responses()) - curve).squaredNorm();
}

std::vector<Range> limits_of(const Model& model, const std::vector<Within>& within) {
  if (within.empty()) return {};
  std::vector<Range> limits(model.parameters().size(), {-infinity, infinity});
  for (const Within& given : within) {
    const auto at = std::find(model.parameters().begin(), model.parameters().end(), given.parameter);
    if (at == model.parameters().end()) continue;
    Range& range = limits[static_cast<std::size_t>(at - model.parameters().begin())];
    range = {std::max(range.low, given.low), std::min(range.high, given.high)};
  }
  return limits;
}

// An open end is held, as at a limit, where the curve has stopped to change.
void end_at(const OpenEnd& end, const VectorXd& parameters, std::vector<Range>& limits) {
  if (limits.empty()) limits.resize(static_cast<std::size_t>(parameters.size()), {-infinity, infinity});
  Range& range = limits[static_cast<std::size_t>(end.parameter)];
  (end.upwards ? range.high : range.low) = parameters[end.parameter];
}

// The scale of the uncertainties, and what it rests on.
struct FittedScale {
  double degrees_of_freedom = 0;
  double value = not_a_number;
  bool exact = false;  // the residuals are rounding
};

FittedScale scale_of(detail::Solved& solved, const std::vector<Range>& limits, std::size_t rows, UncertaintyBasis basis,
                     bool measured) {
  detail::LinearSolution& solution = solved.solution;
  // A parameter at a limit is held there, and takes no degree of freedom.
  double p = static_cast<double>(solved.model.parameters().size());
  for (std::size_t j = 0; j < limits.size(); ++j) {
    const double value = solution.parameters[static_cast<Index>(j)];
    p -= value <= limits[j].low || value >= limits[j].high;
  }
  FittedScale scale{.degrees_of_freedom = static_cast<double>(rows) - p};
  const double dof = scale.degrees_of_freedom;
  const bool only_rounding = measured && detail::are_rounding(solved);
  scale.exact = dof > 0 && only_rounding;
  if (only_rounding) solution.chi_squared = 0;
  if (basis == UncertaintyBasis::stated) {
    scale.value = 1;
  } else if (scale.exact) {
    scale.value = 0;
  } else if (dof > 0) {
    scale.value = std::sqrt((measured ? solution.chi_squared : pearson_sum(solved)) / dof);
  }
  return scale;
}

detail::UncertaintiesAndCorrelation uncertainties_of(const detail::Solved& solved, double scale, bool measured) {
  detail::UncertaintiesAndCorrelation uncertain = detail::taken_apart(solved.solution.spread, scale);
  if (measured || !solved.open_end) return uncertain;
  // Where the curve is a step the information at one steepness says nothing of the others' uncertainty.
  const Index count = uncertain.standard_uncertainties.size();
  for (Index j = 0; j < count; ++j) {
    if (j != solved.open_end->parameter) uncertain.standard_uncertainties[j] = not_a_number;
  }
  uncertain.correlation = MatrixXd::Constant(count, count, not_a_number);
  return uncertain;
}

// The limits that a model brings, such as those of a probability, beside those that are asked for.
FitOptions with_limits_of(const Model& model, FitOptions options) {
  const auto& names = model.parameters();
  for (const detail::ModelData::Limit& limit : detail::data_of(model).limits) {
    if (std::find(names.begin(), names.end(), limit.parameter) != names.end())
      options.within.push_back({limit.parameter, limit.low, limit.high});
  }
  return options;
}

}  // namespace

Fit fit(const Model& given, const Observations& observations, const FitOptions& asked) {
  const Model bound = detail::bound_to(given, observations);
  const Model model = asked.fixed.empty() ? bound : bound.with_fixed(asked.fixed);
  const FitOptions options = with_limits_of(model, asked);
  require_enough_rows(model, observations);
  require_known_starts(model, options.starts);
  const bool measured = observations.observation_model().is_measured();
  if (measured && !options.events_as_numbers) detail::require_measured(observations);
  const detail::ScatterLaw law(observations, options.spread);
  const UncertaintyBasis basis = law.basis(options.uncertainty, observations);

  std::vector<Warning> warnings = measured ? detail::remarks_on_response(observations) : std::vector<Warning>{};
  detail::Solved solved = detail::solve_as_meant(model, observations, options, warnings);
  detail::LinearSolution& solution = solved.solution;
  require_in_range(solved.model, observations, solution);
  detail::take_rounding_for_zero(solution, solved.model, solved.left_side);
  std::vector<Range> limits = limits_of(solved.model, options.within);
  if (solved.open_end) end_at(*solved.open_end, solution.parameters, limits);
  const FittedScale scale = scale_of(solved, limits, observations.size(), basis, measured);
  detail::warn_of_search(solved, observations, basis, scale.degrees_of_freedom, scale.exact, warnings);
  if (solved.model.has_known_part()) solution.total_sum_of_squares = sum_of_squares_about_the_mean(solved.left_side);
  detail::UncertaintiesAndCorrelation uncertain = uncertainties_of(solved, scale.value, measured);
  Estimate estimate =
      detail::made_of({.model = solved.model,
                       .parameters = solution.parameters,
                       .standard_uncertainties = uncertain.standard_uncertainties,
                       .correlation = std::move(uncertain.correlation),
                       .degrees_of_freedom = scale.degrees_of_freedom,
                       .basis = basis,
                       .scale = scale.value,
                       .new_observation = law.new_observation(observations, solved.model.is_transformed(), basis,
                                                              scale.value * solved.unit),
                       .response = observations.response(),
                       .observation_model = observations.observation_model(),
                       .predictors = {observations.predictors().begin(), observations.predictors().end()},
                       .ranges = detail::ranges_of(observations),
                       .limits = std::move(limits),
                       .open_end = solved.open_end,
                       .working = std::move(solution.working)});
  detail::warn_of_parameters(estimate, warnings);
  detail::warn_of_separation(estimate, observations, solved.is_separated, warnings);
  const std::shared_ptr<Fit::Parts> parts(
      new Fit::Parts{scale.exact, std::move(estimate), observations, std::move(solved.left_side), options.spread,
                     solution.effects, std::move(solution.order), solution.chi_squared, solution.total_sum_of_squares,
                     std::move(solved.report), std::move(warnings)});
  Fit made(parts);
  if (basis == UncertaintyBasis::scatter && measured) detail::warn_of_rounding(made, parts->warnings);
  if (options.spread.is_given() && options.spread.power() > 0) detail::refuse_pinned(made);
  return made;
}

FitAttempt try_fit(const Model& model, const Observations& observations, const FitOptions& options) {
  try {
    return fit(model, observations, options);
  } catch (const Error& error) {
    return error;
  }
}

}  // namespace truecurve
