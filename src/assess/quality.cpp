// Figures of merit from chi-squared, totals and the density of the response.
#include <truecurve/assess/quality.hpp>
#include <truecurve/base/distributions.hpp>

#include "../base/matrices.hpp"
#include "../fit/left_side.hpp"
#include "../fit/remembered.hpp"
#include "../fit/weights.hpp"
#include "../model/model_data.hpp"

#include <cmath>
#include <numbers>

namespace truecurve {
namespace {

// Without a sum that leaves the range of a double.
double mean_of(const VectorXd& y) { return (y / static_cast<double>(y.size())).sum(); }

// Of the observations as they were fitted, with all constants.
double log_likelihood_of(const Fit& fit, double objective) {
  const Observations& rows = fit.is_counted() ? fit.observations() : fit.left_side_observations();
  const Vector& sizes = fit.is_counted() ? rows.sizes() : rows.row_scatter();
  return rows.observation_model().kernel().greatest_log_likelihood(
      {rows.responses().data(), sizes.size() == 0 ? nullptr : sizes.data(), rows.size()}, objective,
      fit.estimate().has_known_scale());
}

// The criteria from k parameters and n rows; none without a likelihood.
void judge_by_likelihood(Quality& q, double k, double n) {
  if (!std::isfinite(q.log_likelihood)) return;
  q.aic = 2 * k - 2 * q.log_likelihood;
  if (n - k - 1 > 0) q.aicc = q.aic + 2 * k * (k + 1) / (n - k - 1);
  q.bic = k * std::log(n) - 2 * q.log_likelihood;
}

// A number of rows for the corrections that does not depend on how trials are grouped into rows.
Quality quality_of_counted(const Fit& fit) {
  Quality q;
  q.degrees_of_freedom = fit.degrees_of_freedom();
  const Observations& rows = fit.observations();
  q.log_likelihood = log_likelihood_of(fit, fit.chi_squared());
  // With an estimated dispersion there is no likelihood of a distribution to compare by.
  if (!fit.estimate().has_known_scale()) return q;
  const bool events = rows.observation_model().kind() == ResponseKind::events;
  judge_by_likelihood(q, static_cast<double>(fit.estimate().free_parameters()),
                      events ? as_eigen(rows.sizes()).sum() : static_cast<double>(rows.size()));
  return q;
}

Quality quality_of_measured(const Fit& fit) {
  Quality q;
  const auto n = static_cast<double>(fit.size());
  const auto p = static_cast<double>(fit.estimate().free_parameters());
  const Observations& left = fit.left_side_observations();
  const detail::Weights weights(left);
  const bool weighted = weights.are_given();
  const bool stated = fit.estimate().has_known_scale();
  q.degrees_of_freedom = fit.degrees_of_freedom();
  // Residuals that are rounding are none, and have no likelihood.
  const bool exact = fit.is_exact();
  q.chi_squared = exact ? 0 : fit.chi_squared();
  const double length = exact ? 0 : weighted ? as_eigen(fit.residuals()).stableNorm() : std::sqrt(fit.chi_squared());
  q.residual_sum_of_squares = weighted ? length * length : q.chi_squared;
  if (q.degrees_of_freedom > 0) {
    q.reduced_chi_squared = q.chi_squared / q.degrees_of_freedom;
    q.residual_sd = length / std::sqrt(q.degrees_of_freedom);
    if (fit.observations().has_uncertainties()) q.birge_ratio = std::sqrt(q.reduced_chi_squared);
    if (stated) q.chi_squared_p = chi_squared_upper(q.chi_squared, q.degrees_of_freedom);
  }
  const double total = fit.total_sum_of_squares();
  if (total > 0) {
    q.r_squared = 1 - q.chi_squared / total;
    const double total_degrees = fit.model().is_judged_about_the_mean() ? n - 1 : n;
    if (q.degrees_of_freedom > 0) {
      q.adjusted_r_squared = 1 - q.reduced_chi_squared / (total / total_degrees);
    }
    if (fit.model().is_straight_line()) {
      const Eigen::Index slope = fit.model().constant_index() == 0 ? 1 : 0;
      const double sign = detail::data_of(fit.model()).bound->falling_column ? -1 : 1;
      q.correlation_coefficient =
          std::copysign(std::sqrt(std::max(0.0, q.r_squared)), sign * fit.estimate().parameters()[slope]);
    }
  }

  double log_slope = 0;
  const auto y = as_eigen(fit.observations().responses());
  q.measured_scale.residual_sum_of_squares = q.residual_sum_of_squares;
  double response_length = length;
  if (fit.model().is_transformed()) {
    const auto& bound = *detail::data_of(fit.model()).bound;
    log_slope =
        detail::left_side_at(bound, y, detail::predictor_pointers(fit.observations())).slope.array().abs().log().sum();
    response_length = exact ? 0 : (y - as_eigen(fit.fitted_response())).stableNorm();
    q.measured_scale.residual_sum_of_squares = response_length * response_length;
  }
  if (q.degrees_of_freedom > 0) q.measured_scale.residual_sd = response_length / std::sqrt(q.degrees_of_freedom);
  const bool unchanged = !fit.model().is_transformed() && !weighted;
  const bool about_mean = fit.model().is_transformed() || fit.model().is_judged_about_the_mean();
  const double response_total = unchanged    ? std::sqrt(total)
                                : about_mean ? (y.array() - mean_of(y)).matrix().stableNorm()
                                             : y.stableNorm();
  if (response_total > 0) q.measured_scale.r_squared = 1 - std::pow(response_length / response_total, 2);
  q.log_likelihood = log_likelihood_of(fit, q.chi_squared) + log_slope;
  judge_by_likelihood(q, stated ? p : p + 1, n);
  return q;
}

}  // namespace

Quality quality_of(const Fit& fit) {
  return detail::remembered<Quality>(
      fit, [&fit] { return fit.is_counted() ? quality_of_counted(fit) : quality_of_measured(fit); });
}

}  // namespace truecurve
