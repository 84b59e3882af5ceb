// Responses that were counted: maximum likelihood by scoring, and the rows that least squares would see at its end.
#include "column_evaluator.hpp"
#include "left_side.hpp"
#include "nonlinear.hpp"
#include "solve.hpp"

#include <cmath>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// What least squares would see of a counted response at the fitted curve: on the scale of the left side the working
// response, whose residuals over their uncertainties are those of Pearson.
Observations working_rows(const BoundModel& bound, const WorkingForm& working, const Observations& observations) {
  constexpr double next_to_no_weight = 1e100;
  const VectorXd left = curve_at(bound, working, observations);
  const Response mean = response_at(bound, left, predictor_pointers(observations));
  VectorXd residual(left.size());
  VectorXd root(left.size());
  (void)observations.observation_model().kernel()->linearize(
      {observations.responses().data(), observations.sizes().data(), observations.size()}, mean.value.data(),
      residual.data(), root.data());
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

}  // namespace

Solved solve_counted(const Model& model, const Observations& observations, const FitOptions& options) {
  Solved solved{.model = model.is_linear() ? as_curve(model) : model, .left_side = observations};
  const OpenEnds open_ends =
      options.uncertainty == UncertaintyBasis::scatter ? OpenEnds::by_scatter : OpenEnds::by_known_scale;
  NonlinearSolution found = solve_nonlinear(solved.model, observations, options, open_ends);
  solved.solution = std::move(found.linear);
  solved.report = std::move(found.report);
  solved.open_end = found.open_end;
  solved.left_side = working_rows(*solved.model.data().bound, solved.solution.working, observations);
  return solved;
}

}  // namespace truecurve::detail
