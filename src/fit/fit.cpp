// Chooses the solver and assembles the result.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/data/resolution.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/fit/preview.hpp>
#include <truecurve/fit/separation.hpp>

#include "../base/matrices.hpp"
#include "bind.hpp"
#include "column_evaluator.hpp"
#include "estimate_parts.hpp"
#include "left_side.hpp"
#include "nonlinear.hpp"
#include "remembered.hpp"
#include "response_kind.hpp"
#include "solve.hpp"
#include "weights.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

namespace truecurve {

using Eigen::Index;

Model detail::bound_to(const Model& model, const Observations& observations) {
  if (model.response() != observations.response().name) {
    throw Error({.code = ErrorCode::unknown_name,
                 .message = fmt::format("the model '{}' is for the response '{}', and the observations are of '{}'",
                                        model.text(), model.response(), observations.response().name),
                 .subject = model.response(),
                 .remedy = "choose the response that stands on the left side of the model"});
  }
  const auto predictors = observations.predictors();
  if (model.is_bound() &&
      std::equal(predictors.begin(), predictors.end(), model.predictors().begin(), model.predictors().end(),
                 [](const Quantity& predictor, const std::string& name) { return predictor.name == name; })) {
    return model;
  }
  std::vector<std::string> names;
  for (const Quantity& predictor : predictors) names.push_back(predictor.name);
  return model.with_predictors(names);
}

struct Fit::Parts {
  bool residuals_are_rounding = false;
  Estimate estimate;
  Observations observations;
  Observations left_side;
  Spread spread;
  Vector effects;
  std::vector<int> term_order;
  double chi_squared = 0;
  double total_sum_of_squares = 0;
  SolverReport solver;
  std::vector<Warning> warnings;
  mutable detail::Conclusions conclusions{};
};

detail::Conclusions& detail::FitAccess::conclusions(const Fit& fit) { return fit.parts_->conclusions; }

namespace {

// Beyond this condition even the refined result of a large problem has lost half its digits.
constexpr double doubtful_condition = 1e7;

// A minimum that so few of so many descents met may not be the lowest.
constexpr int few_met = 3;
constexpr int many_descents = 10;

void require_enough_rows(const Model& model, const Observations& observations) {
  const std::size_t p = model.parameters().size();
  if (observations.size() >= p) return;
  throw Error({.code = ErrorCode::too_few_observations,
               .message = fmt::format("{} row{} can't determine {} parameters", observations.size(),
                                      observations.size() == 1 ? "" : "s", p),
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
                 .message = fmt::format("a start is given for '{}', which is no parameter of '{}'", start.parameter,
                                        model.text()),
                 .subject = start.parameter,
                 .remedy = "name one of its parameters, or leave the start away: a linear model needs none"});
  }
}

std::vector<Range> ranges_of(const Observations& observations) {
  std::vector<Range> ranges;
  for (std::size_t k = 0; k < observations.predictors().size(); ++k) {
    const auto x = as_eigen(observations.predictor(k));
    Range range{infinity, -infinity};
    constexpr Index in_cache = 2048;  // both ends of a stretch while it is there
    for (Index from = 0; from < x.size(); from += in_cache) {
      const auto stretch = x.segment(from, std::min(in_cache, x.size() - from));
      range = {std::min(range.low, stretch.minCoeff()), std::max(range.high, stretch.maxCoeff())};
    }
    ranges.push_back(range);
  }
  return ranges;
}

// A parameter whose value or uncertainty a double can't hold is no result, nor is one that vanished on the way there.
void require_in_range(const Model& model, const Observations& observations, const detail::LinearSolution& solution) {
  const auto fail = [&](const std::string& what, const std::string& subject, const std::string& value) {
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

bool are_rounding(const detail::Solved& solved) {
  constexpr std::size_t always_looked_at = 100'000;
  constexpr double clearly_scattered = 1e-18;  // chi-squared against the total: no rounding of so many rows comes near
  constexpr double roundings = 8;
  const detail::LinearSolution& solution = solved.solution;
  const Observations& left = solved.left_side;
  if (left.size() > always_looked_at && solution.chi_squared > clearly_scattered * solution.total_sum_of_squares)
    return false;
  const detail::WorkingForm& working = solution.working;
  const Index p = working.parameters.size();
  const detail::Weights weights(left);
  double squares = 0;
  double sizes = 0;
  const auto add = [&](std::size_t start, std::size_t rows, const double* columns) {
    for (std::size_t i = 0; i < rows; ++i) {
      const auto row = static_cast<Index>(start + i);
      const double y = left.responses()[row];
      double curve = columns[static_cast<std::size_t>(p) * detail::block_rows + i];
      double size = std::abs(y) + std::abs(curve);
      for (Index j = 0; j < p; ++j) {
        const double column = columns[static_cast<std::size_t>(j) * detail::block_rows + i];
        curve += working.parameters[j] * (column - working.centre[j]);
        size += std::abs(working.parameters[j]) * (std::abs(column) + std::abs(working.centre[j]));
      }
      const double root = weights.root(row);
      squares += std::pow((y - curve) * root, 2);
      sizes += std::pow(size * root, 2);
    }
  };
  detail::for_each_block(*detail::data_of(solved.model).bound, working, left, add);
  return std::sqrt(squares) <= roundings * std::numeric_limits<double>::epsilon() * std::sqrt(sizes);
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

// Estimates that ended at a limit, and places on the axis that no row reaches.
void warn_of_parameters(const Estimate& estimate, std::vector<Warning>& warnings) {
  const detail::BoundModel& bound = *detail::data_of(estimate.model()).bound;
  const auto warn = [&warnings](WarningCode code, const std::string& brief, const std::string& meaning) {
    warnings.push_back({code, brief + ": " + meaning, brief});
  };
  for (Index j = 0; j < as_eigen(estimate.parameters()).size(); ++j) {
    const std::string& name = estimate.parameter_names()[static_cast<std::size_t>(j)];
    const double value = estimate.parameters()[j];
    if (estimate.is_open(j)) {
      warn(
          WarningCode::open_end,
          fmt::format("These data only show that {} is {} (95 %)", name, end_text(*estimate.open_end())),
          fmt::format("beyond that the curve hardly changes. It is held at {:.3g} and has no uncertainty, and those of "
                      "the others hold only for that value. Measure where the curve is steep.",
                      value));
    } else if (estimate.is_at_limit(j)) {
      warn(
          WarningCode::at_limit, fmt::format("{} ended at its limit {:.6g}", name, value),
          "it is held there, has no uncertainty of its own, and those of the others hold only if it truly lies there.");
    } else if (std::find(bound.entangled.begin(), bound.entangled.end(), static_cast<int>(j)) !=
                   bound.entangled.end() &&
               bound.place_signs[static_cast<std::size_t>(j)] != 0 && estimate.ranges().size() == 1) {
      const Range& range = estimate.ranges()[0];
      const double place = bound.place_signs[static_cast<std::size_t>(j)] * value;
      if (range.low <= place && place <= range.high) continue;
      warn(WarningCode::place_outside_data,
           fmt::format("{} = {:.6g} is a place outside the data, which reach from {:.6g} to {:.6g}", name, value,
                       range.low, range.high),
           "the form of the curve there is assumed, not measured.");
    }
  }
}

// How far the curve moves anywhere when a parameter is set to 0, against the largest response.
double moved_without(const Model& model, const Observations& left, const VectorXd& parameters, Index j) {
  const Model curve = model.is_linear() ? detail::as_curve(model) : model;
  const detail::BoundModel& bound = *detail::data_of(curve).bound;
  VectorXd without = parameters;
  without[j] = 0;
  VectorXd whole(static_cast<Index>(detail::block_rows));
  VectorXd rest = whole;
  detail::Program::Workspace work;
  const std::vector<const double*> columns = detail::predictor_pointers(left);
  double largest = 0;
  for (std::size_t start = 0; start < left.size(); start += detail::block_rows) {
    const std::size_t rows = std::min(detail::block_rows, left.size() - start);
    std::vector<const double*> at;
    for (const double* column : columns) at.push_back(column + start);
    for (const auto& [theta, value] : {std::pair{&parameters, &whole}, {&without, &rest}}) {
      std::vector<double*> outputs = {value->data()};
      bound.run_value(at, rows, {theta->data(), bound.parameters.size()}, outputs, work);
    }
    const auto count = static_cast<Index>(rows);
    const double moved = (whole - rest).head(count).cwiseAbs().maxCoeff();
    if (!(moved <= largest)) largest = moved;
  }
  return largest / as_eigen(left.responses()).cwiseAbs().maxCoeff();
}

// A parameter that moves the curve by no more than the rounding of the responses is 0: so the constant of points on a
// line through the origin, which else would be some -3.7e-17; and so are parts of the sum of squares.
void take_rounding_for_zero(detail::LinearSolution& solution, const Model& model, const Observations& left) {
  constexpr double roundings = 8 * std::numeric_limits<double>::epsilon();
  const double size = detail::Weights(left).standardized_norm(as_eigen(left.responses()));
  for (double& effect : solution.effects) {
    if (std::abs(effect) <= roundings * size) effect = 0;
  }
  if (detail::data_of(model).function) return;
  for (Index j = 0; j < solution.parameters.size(); ++j) {
    double& value = solution.parameters[j];
    // What the response can't tell from 0 at all, first: the curve is looked at for nothing else.
    if (value == 0 || !(std::abs(value) <= roundings * size * solution.spread.row(j).stableNorm())) continue;
    if (moved_without(model, left, solution.parameters, j) <= roundings) value = 0;
  }
}

// Where the curve of a counted response runs against an end of what a mean may be, as a straight line for a share does.
std::string end_reached(const detail::Solved& solved, const Observations& observations) {
  constexpr double close = 1e-3;
  const detail::BoundModel& bound = *detail::data_of(solved.model).bound;
  const ResponseKernel& kernel = observations.observation_model().kernel();
  const VectorXd mean = detail::response_at(bound, detail::curve_at(bound, solved.solution.working, observations),
                                            detail::predictor_pointers(observations))
                            .value;
  const double size = std::isfinite(kernel.highest_mean()) ? 1 : mean.maxCoeff();
  for (Index i = 0; i < mean.size(); ++i) {
    const bool low = mean[i] - kernel.lowest_mean() < close * size;
    const bool high = kernel.highest_mean() - mean[i] < close * size;
    if (!low && !high) continue;
    std::string at;
    for (std::size_t k = 0; k < observations.predictors().size(); ++k)
      at += fmt::format("{}{} = {}", k == 0 ? "" : ", ", observations.predictors()[k].name,
                        shortest(observations.predictor(k)[i]));
    const bool events = observations.observation_model().kind() == ResponseKind::events;
    return fmt::format(
        " The curve runs against {} in row {} ({}), and a {} can't go beyond: choose a curve that stays inside{}.",
        shortest(low ? kernel.lowest_mean() : kernel.highest_mean()),
        observations.source_rows()[static_cast<std::size_t>(i)], at, events ? "probability" : "mean",
        events ? ", for one edge share-logistic say" : "");
  }
  return "";
}

// A scatter that is a power of the (gross) curve vanishes with it: through a reading of 0 the likelihood has no
// maximum, and the search ends where the curve all but touches it.
void refuse_pinned(const Fit& fit) {
  constexpr double next_to_nothing = 1e-6;
  const double taken_off = fit.spread().taken_off();
  const VectorXd curve = (as_eigen(fit.fitted_response()).array() + taken_off).abs();
  const VectorXd y = (as_eigen(fit.observations().responses()).array() + taken_off).abs();
  for (Index i = 0; i < y.size(); ++i) {
    if (!(y[i] <= next_to_nothing * y.maxCoeff()) || !(curve[i] <= next_to_nothing * curve.maxCoeff())) continue;
    const auto row = fit.observations().source_rows()[static_cast<std::size_t>(i)];
    throw Error(
        {.code = ErrorCode::not_supported,
         .message = fmt::format("row {} ({} = {}): a scatter that grows from nothing with the curve pins the "
                                "curve to a reading of zero, whose weight has no limit",
                                row, fit.observations().response().name, shortest(fit.observations().responses()[i])),
         .subject = "spread",
         .remedy = {"state the uncertainties",
                    {Action::state_uncertainty},
                    ", choose a constant scatter",
                    {Action::choose_scatter, "constant"},
                    ", or leave the row out",
                    {Action::leave_row_out, fmt::format("{}", row)},
                    " and say that this biases the curve upwards"}});
  }
}

// Whether two readings differ by less than the step that could have made the scatter: quicker to see than the step.
bool differ_by_less_than_a_notable_step(const Fit& fit) {
  if (fit.model().is_transformed() || detail::Weights(fit.left_side_observations()).are_given()) return false;
  const double dof = fit.degrees_of_freedom();
  const double quantile = dof + 2 * std::sqrt(2 * dof) + 4;  // chi-squared's for 5 % lies below it
  const double step = std::sqrt(12 * fit.chi_squared() / quantile);
  const auto y = as_eigen(fit.observations().responses());
  return std::any_of(y.begin(), y.end(), [&](double value) {
    const double difference = std::abs(value - y[0]);
    return 0 < difference && difference < step;
  });
}

// Scatter that the rounding of the readings alone would make, by chi-squared at 5 %.
void warn_of_rounding(const Fit& fit, std::vector<Warning>& warnings) {
  constexpr double share = 0.05;
  const double dof = fit.degrees_of_freedom();
  if (!(dof > 0) || differ_by_less_than_a_notable_step(fit)) return;
  const double rounding = fit.rounding_mean_square();
  if (!(rounding > 0) || fit.residuals_are_rounding()) return;
  if (chi_squared_upper(fit.chi_squared() / rounding, dof) < share) return;
  warnings.push_back(
      {WarningCode::rounded_readings,
       fmt::format(
           "The scatter is no larger than rounding to steps of {} would produce: readings of {} with more digits "
           "would lower the uncertainties. The residual checks allow for the rounding.",
           shortest(fit.resolution()), fit.observations().response().name)});
}

}  // namespace

std::string parameter_text(const ParameterEstimate& parameter) {
  return fmt::format("{} = {}{}{}", parameter.name, with_uncertainty(parameter.value, parameter.standard_uncertainty),
                     parameter.unit.empty() ? "" : " ", parameter.unit);
}

const Estimate& Fit::estimate() const noexcept { return parts_->estimate; }
const Observations& Fit::observations() const noexcept { return parts_->observations; }
const Observations& Fit::left_side_observations() const noexcept { return parts_->left_side; }
const Vector& Fit::effects() const noexcept { return parts_->effects; }
const std::vector<int>& Fit::term_order() const noexcept { return parts_->term_order; }
const Spread& Fit::spread() const noexcept { return parts_->spread; }
double Fit::chi_squared() const noexcept { return parts_->chi_squared; }
double Fit::total_sum_of_squares() const noexcept { return parts_->total_sum_of_squares; }
const SolverReport& Fit::solver() const noexcept { return parts_->solver; }
std::span<const Warning> Fit::warnings() const noexcept { return parts_->warnings; }

ParameterEstimate Fit::parameter(std::string_view name) const {
  const std::size_t at = estimate().index_of(name);
  const double u = estimate().is_at_limit(at) ? not_a_number : estimate().standard_uncertainties()[at];
  return {std::string(name), estimate().parameters()[at], u, estimate().unit(at)};
}

Vector Fit::fitted() const {
  return detail::curve_at(*detail::data_of(model()).bound, detail::parts_of(estimate()).working,
                          left_side_observations());
}

Vector Fit::residuals() const { return as_eigen(left_side_observations().responses()) - as_eigen(fitted()); }

Vector Fit::fitted_response() const {
  return detail::response_at(*detail::data_of(model()).bound, as_eigen(fitted()),
                             detail::predictor_pointers(observations()))
      .value;
}

Vector Fit::response_residuals() const { return as_eigen(observations().responses()) - as_eigen(fitted_response()); }

Vector Fit::response_uncertainties() const {
  const double relative = observations().relative_uncertainty();
  return relative > 0 ? Vector(relative * as_eigen(fitted_response()).cwiseAbs()) : observations().uncertainties();
}

bool Fit::has_fixed_weights() const {
  if (is_counted()) return false;
  return detail::ScatterLaw(observations(), spread()).has_fixed_weights(model().is_transformed());
}

std::string_view Fit::objective_name() const {
  if (is_counted()) return "deviance";
  return estimate().has_known_scale()                            ? "chi-squared"
         : detail::Weights(left_side_observations()).are_given() ? "weighted sum of squares"
                                                                 : "sum of squares";
}

bool Fit::residuals_are_rounding() const { return parts_->residuals_are_rounding; }

bool Fit::is_exact() const { return residuals_are_rounding() && !estimate().has_known_scale(); }

double Fit::resolution() const {
  if (is_counted()) return 0;
  const auto y = as_eigen(observations().responses());
  return resolution_of({y.data(), static_cast<std::size_t>(y.size())});
}

double Fit::rounding_mean_square() const {
  const auto y = as_eigen(observations().responses());
  const double variance = rounding_variance(resolution());
  if (!(variance > 0)) return 0;
  VectorXd gain = VectorXd::Ones(y.size());
  if (model().is_transformed())
    gain = detail::left_side_at(*detail::data_of(model()).bound, y, detail::predictor_pointers(observations())).slope;
  const Observations& left = left_side_observations();
  gain = detail::Weights(left).standardized(gain);
  return variance * gain.squaredNorm() / static_cast<double>(y.size());
}

Vector Fit::leverage() const {
  VectorXd values(static_cast<Index>(size()));
  const detail::WorkingForm& working = detail::parts_of(estimate()).working;
  const auto p = static_cast<std::size_t>(working.parameters.size());
  const detail::Weights weights(left_side_observations());
  VectorXd g(static_cast<Index>(p));
  detail::for_each_block(*detail::data_of(model()).bound, working, observations(),
                         [&](std::size_t start, std::size_t rows, const double* columns) {
                           for (std::size_t i = 0; i < rows; ++i) {
                             for (std::size_t j = 0; j < p; ++j) {
                               const auto at = static_cast<Index>(j);
                               g[at] = columns[j * detail::block_rows + i] - working.centre[at];
                             }
                             const auto row = static_cast<Index>(start + i);
                             const double length = (working.inverse_factor.transpose() * g).squaredNorm();
                             const double u = weights.size(row);
                             values[row] = std::min(1.0, length / (u * u));
                           }
                         });
  return values;
}

Fit fit(const Model& given, const Observations& observations, const FitOptions& asked) {
  Model model = detail::bound_to(given, observations);
  FitOptions options = asked;
  if (!options.fixed.empty()) model = model.with_fixed(options.fixed);
  for (const detail::ModelData::Limit& limit : detail::data_of(model).limits) {
    const auto& names = model.parameters();
    if (std::find(names.begin(), names.end(), limit.parameter) != names.end())
      options.within.push_back({limit.parameter, limit.low, limit.high});
  }
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
  model = solved.model;
  take_rounding_for_zero(solution, model, solved.left_side);
  std::vector<Range> limits = limits_of(model, options.within);
  if (solved.open_end) end_at(*solved.open_end, solution.parameters, limits);
  double p = static_cast<double>(model.parameters().size());
  for (std::size_t j = 0; j < limits.size(); ++j) {
    const double value = solution.parameters[static_cast<Index>(j)];
    p -= value <= limits[j].low || value >= limits[j].high;
  }
  const double dof = static_cast<double>(observations.size()) - p;
  const bool only_rounding = measured && are_rounding(solved);
  const bool exact = dof > 0 && only_rounding;
  if (only_rounding) solution.chi_squared = 0;
  const bool needs_squares = basis != UncertaintyBasis::stated && !exact && dof > 0;
  const double squares = measured ? solution.chi_squared : needs_squares ? pearson_sum(solved) : not_a_number;
  const double scale = basis == UncertaintyBasis::stated ? 1
                       : exact                           ? 0
                       : dof > 0                         ? std::sqrt(squares / dof)
                                                         : not_a_number;
  if (exact && basis == UncertaintyBasis::scatter) {
    warnings.push_back({WarningCode::exact,
                        "The curve passes through every row to rounding: there is no scatter from which uncertainties, "
                        "tests or criteria could be had."});
  } else if (solved.report.stop == StopReason::rounding) {
    warnings.push_back(
        {WarningCode::rounding,
         "The residuals are hardly larger than the rounding of the numbers: the search came as close to the "
         "minimum as that allows."});
  }
  if (dof == 0) {
    warnings.push_back(
        {WarningCode::no_degrees_of_freedom,
         fmt::format("{} rows determine {} parameters exactly: nothing is left to judge the scatter or the curve by{}.",
                     observations.size(), observations.size(),
                     basis == UncertaintyBasis::scatter ? ", so no uncertainties can be given" : "")});
  }
  if (!solved.report.converged) {
    warnings.push_back({WarningCode::not_converged,
                        fmt::format("The search did not converge ({}): the numbers are those of the "
                                    "best curve so far and should not be used.{}",
                                    name(solved.report.stop), measured ? "" : end_reached(solved, observations))});
  }
  if (solved.report.converged && solved.report.descents >= many_descents && solved.report.met_best < few_met &&
      !solved.report.built_up) {
    warnings.insert(
        warnings.begin(),
        {WarningCode::few_met, fmt::format("Only {} of {} descents of the search led to this minimum: a lower one may "
                                           "have been missed. Give starting values.",
                                           solved.report.met_best, solved.report.descents)});
  }
  if (model.is_linear() && solution.condition > doubtful_condition &&
      solution.method != SolverMethod::double_double_qr) {
    warnings.push_back(
        {WarningCode::ill_conditioned,
         fmt::format("The columns of the model are nearly dependent (condition {:.1e}): expect about {} "
                     "correct digits.",
                     solution.condition, std::max(0, 16 - static_cast<int>(std::log10(solution.condition))))});
  }
  const bool transformed = model.is_transformed();
  if (model.has_known_part()) solution.total_sum_of_squares = sum_of_squares_about_the_mean(solved.left_side);
  detail::UncertaintiesAndCorrelation uncertain = detail::taken_apart(solution.spread, scale);
  if (!measured && solved.open_end) {
    // Where the curve is a step the information at one steepness says nothing of the others' uncertainty.
    const Index count = uncertain.standard_uncertainties.size();
    const Index open = solved.open_end->parameter;
    for (Index j = 0; j < count; ++j) {
      if (j != open) uncertain.standard_uncertainties[j] = not_a_number;
    }
    uncertain.correlation = MatrixXd::Constant(count, count, not_a_number);
  }
  std::vector<Quantity> predictors(observations.predictors().begin(), observations.predictors().end());
  Estimate estimate =
      detail::made_of({.model = std::move(model),
                       .parameters = solution.parameters,
                       .standard_uncertainties = uncertain.standard_uncertainties,
                       .correlation = std::move(uncertain.correlation),
                       .degrees_of_freedom = dof,
                       .basis = basis,
                       .scale = scale,
                       .new_observation = law.new_observation(observations, transformed, basis, scale * solved.unit),
                       .response = observations.response(),
                       .observation_model = observations.observation_model(),
                       .predictors = std::move(predictors),
                       .ranges = ranges_of(observations),
                       .limits = std::move(limits),
                       .open_end = solved.open_end,
                       .working = std::move(solution.working)});
  warn_of_parameters(estimate, warnings);
  if (estimate.open_end()) {
    if (const auto separated = separation_along(observations))
      warnings.insert(warnings.begin(),
                      {WarningCode::separated, separation_text(*separated, observations.response().name)});
  }
  if (solved.is_separated)
    warnings.insert(warnings.begin(),
                    {WarningCode::separated,
                     "A combination of the predictors separates the outcomes: along it the likelihood grows without an "
                     "end, and these rows bound the parameters on one side only."});
  const std::shared_ptr<Fit::Parts> parts(
      new Fit::Parts{exact, std::move(estimate), observations, std::move(solved.left_side), options.spread,
                     solution.effects, std::move(solution.order), solution.chi_squared, solution.total_sum_of_squares,
                     std::move(solved.report), std::move(warnings)});
  Fit made(parts);
  if (basis == UncertaintyBasis::scatter && measured) warn_of_rounding(made, parts->warnings);
  if (options.spread.is_given() && options.spread.power() > 0) refuse_pinned(made);
  return made;
}

Preview preview(const Model& given, const Observations& observations, const FitOptions& options) {
  Model model = detail::bound_to(given, observations);
  if (!options.fixed.empty()) model = model.with_fixed(options.fixed);
  const bool measured = observations.observation_model().is_measured();
  const Observations left =
      measured ? detail::first_sight(model, observations, options.spread).left_side : observations;
  const Model curve = model.is_linear() ? detail::as_curve(model) : model;
  detail::StartingPoint point = detail::starting_point(curve, left, options);
  const Index p = point.parameters.size();
  const MatrixXd unknown = MatrixXd::Constant(p, p, not_a_number);
  const UncertaintyBasis basis =
      detail::ScatterLaw(observations, options.spread).basis(UncertaintyBasis::automatic, observations);
  const detail::WorkingForm working{VectorXd::Zero(p), point.parameters, unknown};
  const VectorXd rest = as_eigen(left.responses()) - detail::curve_at(*detail::data_of(curve).bound, working, left);
  const double root_mean_square =
      measured ? std::sqrt(rest.squaredNorm() / static_cast<double>(observations.size())) : not_a_number;
  return {detail::made_of({.model = curve,
                           .parameters = point.parameters,
                           .standard_uncertainties = VectorXd::Constant(p, not_a_number),
                           .correlation = unknown,
                           .degrees_of_freedom = 0,
                           .basis = basis,
                           .response = observations.response(),
                           .observation_model = observations.observation_model(),
                           .predictors = {observations.predictors().begin(), observations.predictors().end()},
                           .ranges = ranges_of(observations),
                           .working = working}),
          std::move(point.origins), point.chi_squared, root_mean_square};
}

}  // namespace truecurve
