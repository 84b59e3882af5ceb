// Least squares.
#include "normal_kernel.hpp"

#include "../base/matrices.hpp"

#include <cmath>
#include <numbers>

namespace truecurve::detail {
namespace {

const double ln_two_pi = std::log(2 * std::numbers::pi);

}  // namespace

double NormalKernel::unit_variance(double mean) const { return variance(mean, 1); }

double NormalKernel::variance(double mean, double size) const {
  const double sd = standard_deviation(mean, size);
  return sd * sd;
}

double NormalKernel::standard_deviation(double mean, double size) const {
  return scatter_.form == Scatter::Form::by_row ? size : scatter_.at(mean);
}

double NormalKernel::unit_deviance(double response, double mean) const { return deviance(response, 1, mean); }

double NormalKernel::deviance(double response, double size, double mean) const {
  const double distance = (response - mean) / standard_deviation(mean, size);
  return distance * distance;
}

double NormalKernel::saturated_log_likelihood(double response, double size) const {
  return -0.5 * ln_two_pi - std::log(standard_deviation(response, size));
}

double NormalKernel::log_likelihood(double response, double size, double mean) const {
  return saturated_log_likelihood(mean, size) - deviance(response, size, mean) / 2;
}

double NormalKernel::greatest_log_likelihood(const ResponseBlock& rows, double objective, bool has_known_scale) const {
  const auto n = static_cast<double>(rows.rows);
  double log_weights = 0;
  if (rows.size != nullptr) {
    const Eigen::Map<const VectorXd> sizes(rows.size, static_cast<Eigen::Index>(rows.rows));
    log_weights = -sizes.array().log().sum();
  }
  if (has_known_scale) return -0.5 * (objective + n * ln_two_pi) + log_weights;
  if (!(objective > 0)) return not_a_number;
  return -0.5 * n * (ln_two_pi + std::log(objective / n) + 1) + log_weights;
}

double NormalKernel::objective_of_one_mean(const ResponseBlock& rows) const {
  double weights = 0;
  double mean = 0;
  double squares = 0;
  // Weights against that of the first row: their squares, too, stay in range.
  const double unit = rows.size == nullptr ? 1 : 1 / rows.size[0];
  for (std::size_t i = 0; i < rows.rows; ++i) {
    const double root = rows.size == nullptr ? 1 : 1 / rows.size[i];
    const double w = rows.size == nullptr ? 1 : root / unit * (root / unit);
    const double distance = rows.response[i] - mean;
    weights += w;
    mean += w / weights * distance;
    squares += w * (distance * unit) * ((rows.response[i] - mean) * unit);
  }
  return squares;
}

double NormalKernel::draw(double mean, double size, RandomNumbers& random) const {
  return mean + standard_deviation(mean, size) * random.normal();
}

double NormalKernel::inner_mean(double response, double) const { return response; }

double NormalKernel::linearize(const ResponseBlock& block, const double* mean, double* standardized_residual,
                               double* weight_root, bool) const {
  const double* const y = block.response;
  if (block.size == nullptr) {
    for (std::size_t i = 0; i < block.rows; ++i) standardized_residual[i] = y[i] - mean[i];
    return 0;
  }
  for (std::size_t i = 0; i < block.rows; ++i) {
    weight_root[i] = 1 / block.size[i];
    standardized_residual[i] = (y[i] - mean[i]) * weight_root[i];
  }
  return 0;
}

}  // namespace truecurve::detail
