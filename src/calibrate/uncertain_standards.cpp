// Generalised distance regression of a straight line.
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/uncertain_standards.hpp>
#include <truecurve/model/shapes.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"

#include <cmath>

#include <Eigen/LU>
#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

// Gauss-Newton converges here by several digits an iteration; one that does not is refused.
constexpr int most_iterations = 200;
constexpr double settled_line = 1e-13;

void require(bool holds, ErrorCode code, const std::string& message, const Advice& remedy) {
  if (holds) return;
  throw Error({.code = code, .message = message, .subject = "standards", .remedy = remedy});
}

// The line about the centre of the weighted amounts: y = middle + b (x - centre).
struct Line {
  double middle = 0;
  double slope = 0;
};

}  // namespace

UncertainStandards line_with_uncertain_standards(const Quantity& amount, const Quantity& signal, const Vector& amounts,
                                                 const Vector& signals, const Vector& amount_uncertainties,
                                                 const Vector& signal_uncertainties) {
  const auto x = as_eigen(amounts);
  const auto y = as_eigen(signals);
  const auto ux = as_eigen(amount_uncertainties);
  const auto uy = as_eigen(signal_uncertainties);
  const Index n = x.size();
  require(y.size() == n && ux.size() == n && uy.size() == n, ErrorCode::bad_argument,
          "amounts, signals and their uncertainties must be equally many", "give one of each a reading");
  require(n >= 2, ErrorCode::too_few_observations, "a line needs two readings or more", "measure more standards");
  require(ux.allFinite() && uy.allFinite() && ux.minCoeff() >= 0 && uy.minCoeff() > 0, ErrorCode::bad_uncertainty,
          "standard uncertainties must be finite, those of the signals greater than 0", "state them for every reading");
  require(x.maxCoeff() > x.minCoeff(), ErrorCode::rank_deficient, "all standards have the same amount",
          "measure standards at two levels or more");

  const VectorXd first = uy.cwiseAbs2().cwiseInverse();
  const double centre = first.dot(x) / first.sum();
  const VectorXd dx = x.array() - centre;
  Line line{first.dot(y) / first.sum(), 0};
  line.slope = first.dot(dx.cwiseProduct(y)) / first.dot(dx.cwiseAbs2());

  // Gauss-Newton in the true amounts xi, which are eliminated: at each step xi is the best for the line so far, and the
  // residual's derivative by the slope is -xi.
  Eigen::Matrix2d matrix;
  int iteration = 0;
  for (;; ++iteration) {
    const VectorXd weights = (uy.array().square() + line.slope * line.slope * ux.array().square()).inverse().matrix();
    const VectorXd residuals = y.array() - line.middle - line.slope * dx.array();
    const VectorXd xi = dx.array() + weights.array() * line.slope * ux.array().square() * residuals.array();
    matrix << weights.sum(), weights.dot(xi), weights.dot(xi), weights.dot(xi.cwiseAbs2());
    // Residual of the linearised problem at slope 0 step: y - middle - slope*dx, columns 1 and xi.
    const Eigen::Vector2d right(weights.dot(residuals), weights.dot(residuals.cwiseProduct(xi)));
    const Eigen::Vector2d step = matrix.inverse() * right;
    require(step.allFinite(), ErrorCode::not_finite, "the line through uncertain standards is not finite",
            "check the amounts and their uncertainties");
    line.middle += step[0];
    line.slope += step[1];
    const bool small = std::abs(step[1]) <= settled_line * std::abs(line.slope) &&
                       std::abs(step[0]) <= settled_line * (std::abs(line.middle) + y.cwiseAbs().maxCoeff());
    if (small) break;
    require(iteration < most_iterations, ErrorCode::not_finite,
            "the line through uncertain standards did not settle: the amounts are too uncertain against their range",
            "state smaller uncertainties of the amounts, or measure over a wider range");
  }

  const Eigen::Matrix2d centred = matrix.inverse();
  Eigen::Matrix2d back;  // from (middle, slope) to (a, b)
  back << 1, -centre, 0, 1;
  const VectorXd weights = (uy.array().square() + line.slope * line.slope * ux.array().square()).inverse().matrix();
  const VectorXd residuals = y.array() - line.middle - line.slope * dx.array();
  const Model model = shape_model("line", amount.name, signal.name);
  const Eigen::Vector2d parameters(line.middle - line.slope * centre, line.slope);
  Scatter reading{.form = Scatter::Form::by_row};
  if (uy.minCoeff() == uy.maxCoeff()) reading = {.form = Scatter::Form::constant, .scale = uy[0]};
  detail::UncertaintiesAndCorrelation uncertain = detail::taken_apart(back * centred * back.transpose());
  Estimate estimate = detail::made_of({.model = model,
                                       .parameters = parameters,
                                       .standard_uncertainties = uncertain.standard_uncertainties,
                                       .correlation = std::move(uncertain.correlation),
                                       .degrees_of_freedom = static_cast<double>(n - 2),
                                       .basis = UncertaintyBasis::stated,
                                       .scale = 1,
                                       .new_observation = reading,
                                       .response = signal,
                                       .predictors = {amount},
                                       .ranges = {{x.minCoeff(), x.maxCoeff()}},
                                       .working = {.centre = Eigen::Vector2d(0, centre),
                                                   .parameters = Eigen::Vector2d(line.middle, line.slope),
                                                   .inverse_factor = detail::cholesky_factor(centred)}});
  return {std::move(estimate), weights.dot(residuals.cwiseAbs2()), static_cast<double>(n - 2), iteration + 1};
}

}  // namespace truecurve
