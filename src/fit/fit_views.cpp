// What a fit says of itself.
#include <truecurve/base/error.hpp>
#include <truecurve/data/resolution.hpp>
#include <truecurve/fit/fit.hpp>

#include "../base/matrices.hpp"
#include "column_evaluator.hpp"
#include "estimate_parts.hpp"
#include "fit_parts.hpp"
#include "left_side.hpp"
#include "scatter_law.hpp"
#include "weights.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {

using Eigen::Index;

detail::Conclusions& detail::FitAccess::conclusions(const Fit& fit) { return fit.parts_->conclusions; }

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

}  // namespace truecurve
