// Responses that were counted: maximum likelihood by scoring, and the rows that least squares would see at its end.
#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "column_evaluator.hpp"
#include "estimate_parts.hpp"
#include "left_side.hpp"
#include "nonlinear.hpp"
#include "separation.hpp"
#include "solve.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// What least squares would see of a counted response at the fitted curve: on the scale of the left side the working
// response, whose residuals over their uncertainties are those of Pearson.
Observations working_rows(const VectorXd& left, const Response& mean, const Observations& observations) {
  constexpr double next_to_no_weight = 1e100;
  VectorXd residual(left.size());
  VectorXd root(left.size());
  (void)observations.observation_model().kernel().linearize(
      {observations.responses().data(), observations.sizes().data(), observations.size()}, mean.value.data(),
      residual.data(), root.data(), false);
  VectorXd values = left;
  VectorXd u(left.size());
  for (Index i = 0; i < left.size(); ++i) {
    const double weight_root = root[i] * std::abs(mean.slope[i]);
    const bool counts = weight_root > 1 / next_to_no_weight && std::isfinite(weight_root);
    u[i] = counts ? 1 / weight_root : next_to_no_weight;
    if (counts) values[i] += (observations.responses()[i] - mean.value[i]) / mean.slope[i];
  }
  return observations.with_response(values, u);
}

// Of a model that is linear behind a link: the columns of its parameters, n x p.
MatrixXd design_of(const BoundModel& bound, const Observations& observations) {
  const auto p = static_cast<Index>(bound.parameters.size());
  const WorkingForm plain{.centre = VectorXd::Zero(p), .parameters = VectorXd::Zero(p)};
  MatrixXd design(static_cast<Index>(observations.size()), p);
  for_each_block(bound, plain, observations, [&](std::size_t start, std::size_t rows, const double* columns) {
    for (Index j = 0; j < p; ++j) {
      for (std::size_t i = 0; i < rows; ++i)
        design(static_cast<Index>(start + i), j) = columns[static_cast<std::size_t>(j) * block_rows + i];
    }
  });
  return design;
}

// Where the likelihood grows without limit in one direction, and no single parameter tells it.
void refuse_separated(const Model& model, const Observations& observations) {
  if (!model.is_linear()) return;
  const auto direction = separating_direction(design_of(*data_of(model).bound, observations), observations);
  if (!direction) return;
  constexpr double notable = 1e-6;
  std::string running;
  for (Index j = 0; j < direction->size(); ++j) {
    if (std::abs((*direction)[j]) <= notable * direction->cwiseAbs().maxCoeff()) continue;
    running += fmt::format("{}{}", running.empty() ? "" : ", ", model.parameters()[static_cast<std::size_t>(j)]);
  }
  const bool events = observations.observation_model().kind() == ResponseKind::events;
  throw Error({.code = ErrorCode::rank_deficient,
               .message = fmt::format("the {} separated: the likelihood of '{}' has no maximum, it grows without limit "
                                      "with {}",
                                      events ? "outcomes are" : "rows without counts are", model.text(), running),
               .subject = running,
               .value = "",
               .remedy = events ? "measure where both outcomes occur, or leave out the predictor that tells them apart "
                                  "without an error"
                                : "leave out the term that only rows without counts have, or count longer there"});
}

// Whether some response lies at an end, and its mean all but there.
bool comes_near_an_end(const VectorXd& mean, const Observations& observations) {
  constexpr double near = 1e-6;
  const ResponseKernel& kernel = observations.observation_model().kernel();
  for (Index i = 0; i < mean.size(); ++i) {
    const double y = observations.responses()[i];
    const bool at_end = y <= kernel.lowest_mean() || y >= kernel.highest_mean();
    if (at_end && kernel.deviance(y, observations.sizes()[i], mean[i]) < near) return true;
  }
  return false;
}

// Where nothing happened at all, or all of the time, every curve that stays at that end fits, and only a bound is
// known: the mean for which so few, or so many, have the probability 5 %.
void require_both_outcomes(const Observations& observations) {
  constexpr double small = 0.05;
  const ResponseKernel& kernel = observations.observation_model().kernel();
  const auto y = as_eigen(observations.responses());
  const double size = as_eigen(observations.sizes()).sum();
  const bool none = (y.array() <= kernel.lowest_mean()).all();
  const bool all = (y.array() >= kernel.highest_mean()).all();
  const bool events = observations.observation_model().kind() == ResponseKind::events;
  if ((!none && !all) || (!events && observations.observation_model().kind() != ResponseKind::counts)) return;
  const double rare = events ? -std::expm1(std::log(small) / size) : -std::log(small) / size;
  const std::string& name = observations.response().name;
  const std::string found = none
                                ? fmt::format("no {} of '{}' in {} {}", events ? "event" : "count", name,
                                              shortest(size), events ? "trials" : "units of exposure")
                                : fmt::format("every one of the {} trials of '{}' has the event", shortest(size), name);
  throw Error(
      {.code = ErrorCode::too_few_observations,
       .message = fmt::format("{}: no curve can be fitted, and one {} for all rows is only known to be at {} {}", found,
                              events ? "probability" : "mean", none ? "most" : "least",
                              none ? fmt::format("{:.3g} (95 %)", rare) : fmt::format("{:.3g} (95 %)", 1 - rare)),
       .subject = name,
       .remedy = "measure where both outcomes occur"});
}

}  // namespace

Solved solve_counted(const Model& model, const Observations& observations, const FitOptions& options,
                     SearchWatch& watch) {
  require_both_outcomes(observations);
  Solved solved{.model = model.is_linear() ? as_curve(model) : model, .left_side = observations};
  const OpenEnds open_ends =
      options.uncertainty == UncertaintyBasis::scatter ? OpenEnds::by_scatter : OpenEnds::by_known_scale;
  NonlinearSolution found;
  try {
    found = solve_nonlinear(solved.model, observations, options, open_ends, watch);
  } catch (const Error& error) {
    if (error.code() == ErrorCode::rank_deficient) refuse_separated(model, observations);
    throw;
  }
  solved.solution = std::move(found.linear);
  solved.report = std::move(found.report);
  solved.open_end = found.open_end;
  if (solved.open_end && model.is_linear() && observations.predictors().size() > 1)
    solved.is_separated =
        separating_direction(design_of(*data_of(model).bound, observations), observations).has_value();
  const BoundModel& bound = *data_of(solved.model).bound;
  const VectorXd left = curve_at(bound, solved.solution.working, observations);
  const Response mean = response_at(bound, left, predictor_pointers(observations));
  if (!solved.open_end && comes_near_an_end(mean.value, observations)) refuse_separated(model, observations);
  solved.left_side = working_rows(left, mean, observations);
  return solved;
}

}  // namespace truecurve::detail
