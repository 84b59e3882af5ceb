// Leave-one-out, cross-validation and held-out rows.
#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/intervals.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/one_of_each.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/compare/prediction_error.hpp>

#include "../base/matrices.hpp"
#include "../fit/left_side.hpp"
#include "../fit/refit.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numeric>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

// Refits of as many rows as this take well below a second.
constexpr std::size_t most_refitted = 500;
constexpr std::size_t checked = 25;
// A leverage this near 1 leaves a row that nothing else predicts.
constexpr double full_leverage = 1 - 1e-9;
// The level of a normal interval of one standard uncertainty: the nearest to the curve, where a transform bends least.

// Values of the left side taken back to the measured response.
VectorXd on_the_measured_scale(const Fit& fit, const VectorXd& left) {
  if (!fit.model().is_transformed()) return left;
  return detail::response_at(*detail::data_of(fit.model()).bound, left, detail::predictor_pointers(fit.observations()))
      .value;
}

// Measured less predicted responses. Of counted ones the signed roots of the deviances: their mean square is the
// logarithmic score but for what is the same for every curve.
VectorXd errors_of(const Observations& rows, const VectorXd& predicted) {
  const ResponseKernel& kernel = rows.observation_model().kernel();
  VectorXd errors = as_eigen(rows.responses()) - predicted;
  if (rows.observation_model().is_measured()) return errors;
  for (Index i = 0; i < errors.size(); ++i) {
    const double deviance = kernel.deviance(rows.responses()[i], rows.sizes()[i], predicted[i]);
    errors[i] = std::copysign(std::sqrt(std::max(0.0, deviance)), errors[i]);
  }
  return errors;
}

// On the tangent plane; exact for a linear model.
VectorXd errors_by_leverage(const Fit& fit) {
  const VectorXd residuals = as_eigen(fit.residuals());
  const VectorXd leverage = as_eigen(fit.leverage());
  VectorXd predicted = as_eigen(fit.left_side_observations().responses());
  for (Index i = 0; i < predicted.size(); ++i)
    predicted[i] -= leverage[i] < full_leverage ? residuals[i] / (1 - leverage[i]) : not_a_number;
  return errors_of(fit.observations(), on_the_measured_scale(fit, predicted));
}

// The curve at rows; NaN everywhere where it can't be read at one of them.
VectorXd curve_at_rows(const Fit& fit, const Observations& rows) {
  std::vector<Vector> points;
  for (std::size_t k = 0; k < rows.predictors().size(); ++k) points.push_back(rows.predictor(k));
  VectorXd values(static_cast<Index>(rows.size()));
  const std::vector<BandPoint> band_points = band(fit.estimate(), points, 0.95);
  for (Index i = 0; i < values.size(); ++i) values[i] = band_points[static_cast<std::size_t>(i)].value;
  return values;
}

// Rows (numbers in the table) predicted by the curve fitted to the rest; NaN where that can't be fitted or read.
VectorXd errors_of_rows(const Fit& fit, const std::vector<std::size_t>& rows) {
  const Observations& all = fit.observations();
  std::vector<std::size_t> others;
  for (const std::uint32_t row : all.source_rows()) {
    if (!std::binary_search(rows.begin(), rows.end(), row)) others.push_back(row);
  }
  const auto unknown = VectorXd::Constant(static_cast<Index>(rows.size()), not_a_number);
  if (others.empty()) return unknown;
  try {
    const Fit rest = detail::refit(fit, all.without(rows, "predicted by the others"));
    if (!rest.solver().converged) return unknown;
    const Observations those = all.without(others, "not predicted here");
    return errors_of(those, curve_at_rows(rest, those));
  } catch (const Error&) {
    return unknown;  // without these rows the model can't be fitted: that is the result
  }
}

ErrorSize size_of(VectorXd errors, const Fit& fit) {
  ErrorSize size;
  if (!errors.allFinite() || errors.size() == 0) return size;
  // Errors that are the rounding of the responses are none.
  constexpr double roundings = 32 * std::numeric_limits<double>::epsilon();
  const double least = roundings * as_eigen(fit.observations().responses()).cwiseAbs().maxCoeff();
  for (double& error : errors) error = std::abs(error) <= least ? 0 : error;
  const VectorXd uncertainties = as_eigen(fit.response_uncertainties());
  const auto n = static_cast<double>(errors.size());
  size.root_mean_square = std::sqrt(errors.squaredNorm() / n);
  if (uncertainties.size() != 0)
    size.in_uncertainties = std::sqrt(errors.cwiseQuotient(uncertainties).squaredNorm() / n);
  return size;
}

// Rows for the check of the one-step errors: that of the highest leverage first, the others evenly through the table.
std::vector<Index> rows_to_check(const VectorXd& leverage) {
  std::vector<Index> rows;
  Index highest = 0;
  leverage.maxCoeff(&highest);
  rows.push_back(highest);
  const auto n = static_cast<std::size_t>(leverage.size());
  const std::size_t stride = n / checked;
  for (std::size_t k = 0; k * stride < n && rows.size() < checked; ++k) {
    const auto row = static_cast<Index>(one_of_each(k, stride, n));
    if (row != highest) rows.push_back(row);
  }
  return rows;
}

}  // namespace

LeaveOneOut leave_one_out(const Fit& fit) {
  LeaveOneOut result;
  const Observations& all = fit.observations();
  const auto row_at = [&all](std::size_t i) { return std::size_t{all.source_rows()[i]}; };
  const bool exact = fit.model().is_linear() && fit.has_fixed_weights();
  if (exact || fit.size() > most_refitted) {
    result.errors = errors_by_leverage(fit);
  } else {
    result.method = LeaveOneOut::Method::refitted;
    result.errors = Vector(fit.size(), not_a_number);
    for (std::size_t i = 0; i < fit.size(); ++i) result.errors[i] = errors_of_rows(fit, {row_at(i)})[0];
  }
  if (!exact && fit.size() > most_refitted) {
    result.method = LeaveOneOut::Method::one_step;
    double one_step = 0;
    double refitted = 0;
    for (const Index i : rows_to_check(as_eigen(fit.leverage()))) {
      const double error = errors_of_rows(fit, {row_at(static_cast<std::size_t>(i))})[0];
      one_step += result.errors[i] * result.errors[i];
      refitted += error * error;
    }
    result.one_step_difference = std::sqrt(one_step / refitted) - 1;
  }
  result.size = size_of(as_eigen(result.errors), fit);
  return result;
}

ErrorSize cross_validation(const Fit& fit, int folds, Seed seed) {
  const Observations& all = fit.observations();
  // Rows at the same predictors are one group.
  std::map<std::vector<double>, std::vector<Index>> groups;
  for (std::size_t i = 0; i < all.size(); ++i) {
    std::vector<double> at;
    for (std::size_t k = 0; k < all.predictors().size(); ++k) at.push_back(all.predictor(k)[static_cast<Index>(i)]);
    groups[at].push_back(static_cast<Index>(i));
  }
  if (folds < 2 || static_cast<std::size_t>(folds) > groups.size()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} folds are not possible; between 2 and {} can be made, as rows with equal "
                                        "predictors stay together",
                                        folds, groups.size()),
                 .subject = "folds",
                 .value = fmt::format("{}", folds),
                 .remedy = "5 or 10 are usual"});
  }
  std::vector<const std::vector<Index>*> dealt;
  for (const auto& [at, rows] : groups) dealt.push_back(&rows);
  // Durstenfeld (1964), with our own random numbers: the same on every machine.
  RandomNumbers random(seed);
  for (std::size_t i = dealt.size(); i > 1; --i)
    std::swap(dealt[i - 1], dealt[static_cast<std::size_t>(random.uniform() * static_cast<double>(i))]);
  VectorXd errors = VectorXd::Constant(static_cast<Index>(all.size()), not_a_number);
  for (std::size_t fold = 0; fold < static_cast<std::size_t>(folds); ++fold) {
    std::vector<Index> members;
    for (std::size_t g = fold; g < dealt.size(); g += static_cast<std::size_t>(folds))
      members.insert(members.end(), dealt[g]->begin(), dealt[g]->end());
    std::sort(members.begin(), members.end());
    std::vector<std::size_t> rows;
    for (const Index i : members) rows.push_back(all.source_rows()[static_cast<std::size_t>(i)]);
    const VectorXd part = errors_of_rows(fit, rows);
    for (std::size_t i = 0; i < members.size(); ++i) errors[members[i]] = part[static_cast<Index>(i)];
  }
  return size_of(errors, fit);
}

std::vector<HeldOutRow> held_out(const Fit& fit, const Observations& rows) {
  std::vector<HeldOutRow> result;
  const VectorXd own = detail::reading_uncertainties(fit, rows);
  for (Index i = 0; i < as_eigen(rows.responses()).size(); ++i) {
    HeldOutRow held{.row = rows.source_rows()[static_cast<std::size_t>(i)], .measured = rows.responses()[i]};
    std::vector<Vector> at;
    for (std::size_t k = 0; k < rows.predictors().size(); ++k) {
      held.at.push_back(rows.predictor(k)[i]);
      at.push_back({held.at.back()});
    }
    try {
      const Vector reading = own.size() != 0 ? Vector{own[i]} : Vector();
      const BandPoint point = band(fit.estimate(), at, level_of_one_uncertainty, reading)[0];
      held.predicted = point.value;
      held.standard_uncertainty =
          (point.prediction.high - point.prediction.low) / 2 / fit.estimate().coverage_factor(level_of_one_uncertainty);
      held.error = held.measured - held.predicted;
      held.in_uncertainties = held.error / held.standard_uncertainty;
    } catch (const Error& error) {
      if (error.code() != ErrorCode::not_finite) throw;  // a curve that does not reach the row predicts nothing there
    }
    result.push_back(held);
  }
  return result;
}

}  // namespace truecurve
