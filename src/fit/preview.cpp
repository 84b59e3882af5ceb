// A curve at its starts.
#include <truecurve/fit/preview.hpp>

#include "../base/matrices.hpp"
#include "bind.hpp"
#include "column_evaluator.hpp"
#include "estimate_parts.hpp"
#include "nonlinear.hpp"
#include "predictor_ranges.hpp"
#include "solve.hpp"

#include <cmath>

namespace truecurve {

using Eigen::Index;

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
                           .ranges = detail::ranges_of(observations),
                           .working = working}),
          std::move(point.origins), point.chi_squared, root_mean_square};
}

}  // namespace truecurve
