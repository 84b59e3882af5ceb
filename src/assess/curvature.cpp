// The acceleration array of a fitted curve.
#include <truecurve/assess/curvature.hpp>
#include <truecurve/base/distributions.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/small_triangle.hpp"
#include "../fit/weights.hpp"
#include "../model/model_data.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include <Eigen/Core>

namespace truecurve {
namespace {

using Eigen::Index;

constexpr std::size_t most_rows = 20'000;
constexpr double step_share = 0.01;  // of a standard uncertainty: truncation 1e-8, rounding 1e-12 of the curvature

// Weighted derivatives by the parameters in a block of rows.
MatrixXd jacobian_of(const detail::BoundModel& bound, const Observations& observations, const VectorXd& theta,
                     std::size_t start, std::size_t rows) {
  const auto p = static_cast<std::size_t>(theta.size());
  MatrixXd values(static_cast<Index>(rows), static_cast<Index>(p) + 1);
  std::vector<double*> outputs;
  for (std::size_t k = 0; k <= p; ++k) outputs.push_back(values.col(static_cast<Index>(k)).data());
  std::vector<const double*> variables;
  for (std::size_t k = 0; k < observations.predictors().size(); ++k)
    variables.push_back(observations.predictor(k).data() + start);
  detail::Program::Workspace work;
  bound.run_jacobian(variables, rows, {theta.data(), p}, outputs, work);
  MatrixXd slopes = values.rightCols(static_cast<Index>(p));
  const detail::Weights weights(observations);
  if (weights.are_given()) {
    for (std::size_t i = 0; i < rows; ++i)
      slopes.row(static_cast<Index>(i)) /= weights.size(static_cast<Index>(start + i));
  }
  return slopes;
}

// Mean square over all directions of the acceleration along a unit direction, of some rows of the factor.
double mean_square_acceleration(const MatrixXd& factor, Index p, Index from, Index to) {
  double sum = 0;
  for (Index i = from; i < to; ++i) {
    double squares = 0;
    double trace = 0;
    Index column = p;
    for (Index j = 0; j < p; ++j) {
      for (Index m = j; m < p; ++m, ++column) {
        const double a = factor(i, column);
        squares += (j == m ? 1 : 2) * a * a;
        trace += j == m ? a : 0;
      }
    }
    sum += 2 * squares + trace * trace;
  }
  const auto count = static_cast<double>(p);
  return sum / (count * (count + 2));
}

Curvature computed(const Fit& fit, Level level) {
  const Estimate& estimate = fit.estimate();
  const detail::BoundModel& bound = *detail::data_of(fit.model()).bound;
  const Observations& observations = fit.left_side_observations();
  const double scale = estimate.scale();
  const MatrixXd& k_all = detail::parts_of(estimate).working.inverse_factor;
  // Parameters at a limit have no share: their columns are zero.
  Index p = k_all.cols();
  while (p > 0 && k_all.col(p - 1).isZero(0)) --p;
  if (!(scale > 0) || p == 0 || observations.size() > most_rows || !(estimate.scale_degrees_of_freedom() > 0))
    return {};
  const MatrixXd k = k_all.leftCols(p);
  const Index pairs = p * (p + 1) / 2;

  // The triangular factor of [velocities | accelerations]: its first p rows are tangential, the others normal.
  MatrixXd factor = MatrixXd::Zero(0, p + pairs);
  const auto theta = as_eigen(estimate.parameters());
  const double h = step_share * scale;
  for (std::size_t start = 0; start < observations.size(); start += detail::block_rows) {
    const std::size_t rows = std::min(detail::block_rows, observations.size() - start);
    MatrixXd block(static_cast<Index>(rows), p + pairs);
    block.leftCols(p) = detail::product(jacobian_of(bound, observations, theta, start, rows), k);
    Index column = p;
    for (Index j = 0; j < p; ++j) {
      const auto at = [&](double distance) {
        return jacobian_of(bound, observations, theta + distance * k.col(j), start, rows);
      };
      const MatrixXd change = detail::product((8 * (at(h) - at(-h)) - (at(2 * h) - at(-2 * h))) / (12 * h), k);
      for (Index m = j; m < p; ++m) block.col(column++) = change.col(m);
    }
    MatrixXd stacked(factor.rows() + block.rows(), p + pairs);
    stacked << factor, block;
    if (!stacked.allFinite()) return {};
    const Index kept = std::min(stacked.rows(), stacked.cols());
    const auto rows_stacked = static_cast<int>(stacked.rows());
    detail::triangularize(stacked.data(), rows_stacked, static_cast<int>(stacked.cols()), static_cast<int>(kept),
                          rows_stacked);
    factor = stacked.topRows(kept);
  }

  const auto count = static_cast<double>(p);
  const double radius = scale * estimate.region_factor(level, count);
  return {.intrinsic = radius * std::sqrt(mean_square_acceleration(factor, p, p, factor.rows())),
          .parameter_effects = radius * std::sqrt(mean_square_acceleration(factor, p, 0, p))};
}

}  // namespace

Curvature curvature_of(const Fit& fit, Level level) {
  (void)fit.estimate().coverage_factor(level);  // a bad level is refused
  if (fit.is_counted()) return {};              // the surface of expectations has no one scale
  if (fit.model().is_linear()) return {0, 0};
  if (!(fit.estimate().scale() > 0)) return {};
  try {
    return computed(fit, level);
  } catch (const detail::FunctionFailure&) {  // C++ code that is not defined beside the estimates
    return {};
  }
}

}  // namespace truecurve
