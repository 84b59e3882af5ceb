// The projection and the statistics.
#include "residual_design.hpp"

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../fit/column_evaluator.hpp"
#include "../fit/estimate_parts.hpp"
#include "log_phi.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr double full_leverage = 1 - 1e-9;
// What is left of an added column after projection: below this share the model held it already.
constexpr double held_already = 1e-8;
// From here on Anderson and Darling's statistic tells a shape.
constexpr Index fewest_for_normality = 8;
// Fewer places on the axis have no runs or neighbours to speak of.
constexpr std::size_t fewest_places = 6;

// Q = W^(1/2) G K, whose columns are orthonormal. Parameters at a limit have no column.
MatrixXd weighted_basis(const Fit& fit, const VectorXd& roots) {
  const WorkingForm& working = parts_of(fit.estimate()).working;
  const auto p = working.parameters.size();
  MatrixXd basis(static_cast<Index>(fit.size()), p);
  for_each_block(*data_of(fit.model()).bound, working, fit.observations(),
                 [&](std::size_t start, std::size_t rows, const double* columns) {
                   VectorXd g(p);
                   for (std::size_t i = 0; i < rows; ++i) {
                     const auto row = static_cast<Index>(start + i);
                     for (Index j = 0; j < p; ++j)
                       g[j] = columns[static_cast<std::size_t>(j) * block_rows + i] - working.centre[j];
                     basis.row(row) = roots[row] * (working.inverse_factor.transpose() * g).transpose();
                   }
                 });
  return basis;
}

double correlation_of(const VectorXd& a, const VectorXd& b_centred) {
  const VectorXd da = a.array() - a.mean();
  const double product = da.squaredNorm() * b_centred.squaredNorm();
  return product > 0 ? da.dot(b_centred) / std::sqrt(product) : 0;
}

}  // namespace

ResidualDesign::ResidualDesign(const Fit& fit)
    : stated_(fit.estimate().has_known_scale()),
      degrees_(fit.degrees_of_freedom()),
      places_(fit.observations(), Places::By::first_predictor),
      replicates_(fit.observations()) {
  const VectorXd roots = Weights(fit.left_side_observations()).roots();
  weights_ = roots.cwiseAbs2();
  basis_ = weighted_basis(fit, roots);
  residuals_ = as_eigen(fit.residuals()).cwiseProduct(roots);
  const Index n = rows();
  over_root_ = VectorXd::Zero(n);
  for (Index i = 0; i < n; ++i) {
    const double leverage = basis_.row(i).squaredNorm();
    if (leverage < full_leverage) over_root_[i] = 1 / std::sqrt(1 - leverage);
  }
  fitted_ = as_eigen(fit.fitted());
  fitted_.array() -= fitted_.mean();
  if (!(degrees_ > 0) || fit.residuals_are_rounding()) return;
  if (degrees_ >= 3 && fitted_.squaredNorm() > 0) possible_.push_back(CheckKind::equal_variance);
  if (fit.is_counted()) {
    find_means(fit);
    possible_.clear();
  }
  find_added_columns(fit);
  if (curvature_.size() != 0) possible_.push_back(CheckKind::curvature);
  if (origin_.size() != 0) possible_.push_back(CheckKind::origin);
  if (lower_power_.size() != 0) possible_.push_back(CheckKind::lower_power);
  if (places_.size() >= fewest_places && degrees_ >= 4) {
    possible_.push_back(CheckKind::runs);
    possible_.push_back(CheckKind::serial_correlation);
  }
  if (drift_.size() != 0) possible_.push_back(CheckKind::drift);
  if (!is_counted() && (over_root_.array() > 0).count() >= fewest_for_normality)
    possible_.push_back(CheckKind::normality);
  if (stated_ || degrees_ >= 2) possible_.push_back(CheckKind::outlier);
  if (stated_ && is_counted()) possible_.push_back(CheckKind::chi_squared);
  if (is_counted()) return;
  find_rounding(fit);
  find_replicates(fit);
  // Not where the replicates agree exactly and are no scale.
  if (lack_degrees_ > 0 && pure_error_scale_->of(pure_error(residuals_) / pure_degrees_) > 0)
    possible_.push_back(CheckKind::lack_of_fit);
  if (stated_) possible_.push_back(CheckKind::chi_squared);
}

VectorXd ResidualDesign::beyond_the_model(VectorXd column) const {
  // Twice is enough (Kahan, in Parlett 1980): the second pass removes what rounding has left of the first.
  for (int pass = 0; pass < 2; ++pass) column -= basis_ * (basis_.transpose() * column);
  return column;
}

// What the model leaves of a column, of unit length; empty where that is nothing.
VectorXd ResidualDesign::left_of(const VectorXd& column) const {
  const VectorXd weighted = column.cwiseProduct(weights_.cwiseSqrt());
  const VectorXd rest = beyond_the_model(weighted);
  const double length = rest.norm();
  return length > held_already * weighted.norm() ? VectorXd(rest / length) : VectorXd();
}

void ResidualDesign::find_missing_terms(const Fit& fit) {
  const BoundModel& bound = *data_of(fit.model()).bound;
  if (!bound.linear || bound.has_offset || bound.monomials.empty()) return;
  const auto& terms = bound.monomials;
  if (!std::all_of(terms.begin(), terms.end(), [](const Monomial& term) { return term.degree >= 0; })) return;
  const bool has_constant =
      std::any_of(terms.begin(), terms.end(), [](const Monomial& term) { return term.degree == 0; });
  if (!has_constant) origin_ = left_of(VectorXd::Ones(rows()));
  int predictor = -1;
  int highest = 0;
  for (const Monomial& term : terms) {
    if (term.degree == 0) continue;
    if (predictor >= 0 && term.predictor != predictor) return;
    predictor = term.predictor;
    highest = std::max(highest, term.degree);
  }
  if (predictor < 0) return;
  const auto is_there = [&terms](int power) {
    return std::any_of(terms.begin(), terms.end(), [power](const Monomial& term) { return term.degree == power; });
  };
  int power = 1;
  while (power < highest && is_there(power)) ++power;
  if (power >= highest) return;
  missing_power_of_ = static_cast<std::size_t>(predictor);
  const auto x = as_eigen(fit.observations().predictor(missing_power_of_));
  const double largest = std::max(x.cwiseAbs().maxCoeff(), std::numeric_limits<double>::min());
  lower_power_ = left_of((x / largest).array().pow(power));
  missing_power_ = power;
}

void ResidualDesign::find_added_columns(const Fit& fit) {
  if (!stated_ && degrees_ < 2) return;
  find_missing_terms(fit);
  const auto n = static_cast<std::size_t>(rows());
  std::vector<std::size_t> by_order(n);
  std::iota(by_order.begin(), by_order.end(), std::size_t{0});
  const VectorXd order = as_eigen(fit.observations().order());
  if (!fit.observations().predictors().empty()) {
    const auto x = as_eigen(fit.observations().predictor(0));
    const VectorXd away = x.array() - x.mean();
    const double half = std::max(away.cwiseAbs().maxCoeff(), std::numeric_limits<double>::min());
    curvature_ = left_of((away / half).cwiseAbs2());
    // What the missing power says as well.
    constexpr double same = 1 - 1e-9;
    if (curvature_.size() != 0 && lower_power_.size() != 0 && std::abs(curvature_.dot(lower_power_)) > same)
      curvature_.resize(0);
    // A drift along rows that were measured in the order of x can't be told from the curve.
    std::stable_sort(by_order.begin(), by_order.end(), [&](std::size_t a, std::size_t b) {
      return order[static_cast<Index>(a)] < order[static_cast<Index>(b)];
    });
    const auto x_at = [&](std::size_t i) { return x[static_cast<Index>(by_order[i])]; };
    bool rises = true;
    bool falls = true;
    for (std::size_t i = 1; i < n; ++i) {
      rises = rises && x_at(i) >= x_at(i - 1);
      falls = falls && x_at(i) <= x_at(i - 1);
    }
    if (rises || falls) return;
  }
  const double width = order.maxCoeff() - order.minCoeff();
  if (width > 0) drift_ = left_of((order.array() - order.mean()) / width);
}

void ResidualDesign::find_replicates(const Fit& fit) {
  const auto levels = static_cast<double>(replicates_.size());
  pure_error_scale_.emplace(fit, levels);
  pure_degrees_ = static_cast<double>(rows()) - levels;
  lack_degrees_ = pure_degrees_ > 0 ? degrees_ - pure_degrees_ : 0;
}

void ResidualDesign::find_rounding(const Fit& fit) {
  constexpr double notable = 0.01;  // of the mean square of the residuals
  constexpr double least = 0.1;     // of a step: scatter that makes some readings fall into the next one
  rounding_ = fit.rounding_mean_square();
  const double mean_square = residuals_.squaredNorm() / degrees_;
  if (!stated_) sigma_ = std::sqrt(mean_square);
  if (stated_ || fit.model().is_transformed() || !(rounding_ > notable * mean_square)) return;
  step_ = fit.resolution();
  sigma_ = std::sqrt(std::max(mean_square - rounding_, 12 * least * least * rounding_));
  curve_ = as_eigen(fit.fitted());
}

void ResidualDesign::find_means(const Fit& fit) {
  kernel_ = &fit.observations().observation_model().kernel();
  means_ = as_eigen(fit.fitted_response());
  sizes_ = as_eigen(fit.observations().sizes());
  root_of_variance_.resize(means_.size());
  for (Index i = 0; i < means_.size(); ++i) root_of_variance_[i] = kernel_->standard_deviation(means_[i], sizes_[i]);
}

VectorXd ResidualDesign::simulated(RandomNumbers& random) const {
  VectorXd errors(rows());
  if (is_counted()) {
    for (Index i = 0; i < errors.size(); ++i) {
      const bool scatters = root_of_variance_[i] > 0;
      errors[i] = scatters ? (kernel_->draw(means_[i], sizes_[i], random) - means_[i]) / root_of_variance_[i] : 0;
    }
    return errors - basis_ * (basis_.transpose() * errors);
  }
  random.fill_normal({errors.data(), static_cast<std::size_t>(errors.size())});
  if (!(step_ > 0)) return sigma_ * (errors - basis_ * (basis_.transpose() * errors));
  VectorXd rounded(errors.size());
  for (Index i = 0; i < errors.size(); ++i) {
    const double root = std::sqrt(weights_[i]);
    const double reading = step_ * std::round((curve_[i] + sigma_ * errors[i] / root) / step_);
    rounded[i] = (reading - curve_[i]) * root;
  }
  return rounded - basis_ * (basis_.transpose() * rounded);
}

VectorXd ResidualDesign::standardized(const VectorXd& residuals) const {
  const double scale = stated_ ? 1 : std::sqrt(degrees_) / residuals.norm();
  return scale * residuals.cwiseProduct(over_root_);
}

// The t of a column (what the model leaves of it, of unit length) added to the model.
double ResidualDesign::added_term(const VectorXd& column, const VectorXd& residuals) const {
  const double explained = column.dot(residuals);
  const double left = residuals.squaredNorm() - explained * explained;
  return explained / std::sqrt(stated_ ? 1 : std::max(0.0, left) / (degrees_ - 1));
}

// The mean residual of each place, in the scale of a single one.
VectorXd ResidualDesign::along(const VectorXd& residuals) const {
  VectorXd sums(static_cast<Index>(places_.size()));
  for (std::size_t k = 0; k < places_.size(); ++k) {
    double sum = 0;
    for (const Index i : places_.rows_at(k)) sum += residuals[i];
    sums[static_cast<Index>(k)] = sum / std::sqrt(static_cast<double>(places_.rows_at(k).size()));
  }
  return sums;
}

ResidualDesign::Signs ResidualDesign::signs(const VectorXd& residuals) const { return signs_of(along(residuals)); }

ResidualDesign::Signs ResidualDesign::signs_of(const VectorXd& along) {
  Signs signs;
  int last = 0;
  for (const double value : along) {
    const int sign = (value > 0) - (value < 0);
    if (sign == 0) continue;
    (sign > 0 ? signs.positive : signs.negative) += 1;
    signs.runs += sign != last;
    last = sign;
  }
  return signs;
}

double ResidualDesign::serial_correlation(const VectorXd& along) {
  const Index last = along.size() - 1;
  return along.head(last).dot(along.tail(last)) / along.squaredNorm();
}

// With A the sums of along(), whose rows are orthonormal, A(1 - QQᵀ)ε has the covariance 1 - SSᵀ, S = AQ. That is the
// one of (1 - S F Sᵀ)ε, F = (1 + √(1 - SᵀS))⁻¹.
VectorXd ResidualDesign::drawn_along(RandomNumbers& random) const {
  if (shrinking_.rows() == 0) {
    MatrixXd sums(places(), basis_.cols());
    for (Index j = 0; j < basis_.cols(); ++j) sums.col(j) = along(basis_.col(j));
    const SymmetricEigen squares = symmetric_eigen(own_transpose_times(sums));
    const VectorXd left = (1 - squares.values.array()).max(0.0).sqrt();
    shrinking_ = sums * squares.vectors * (1 + left.array()).rsqrt().matrix().asDiagonal();
  }
  VectorXd errors(places());
  random.fill_normal({errors.data(), static_cast<std::size_t>(errors.size())});
  return errors - shrinking_ * (shrinking_.transpose() * errors);
}

double ResidualDesign::drawn_along(CheckKind kind, RandomNumbers& random) const {
  const VectorXd drawn = drawn_along(random);
  return kind == CheckKind::runs ? signs_of(drawn).runs : serial_correlation(drawn);
}

double ResidualDesign::beyond_rounding(Index row) const {
  const double beyond = std::abs(residuals_[row]) - step_ / 2 * std::sqrt(weights_[row]);
  return std::max(0.0, beyond) * over_root_[row] / sigma_;
}

Index ResidualDesign::farthest(const VectorXd& residuals) const {
  Index at = 0;
  standardized(residuals).cwiseAbs().maxCoeff(&at);
  return at;
}

double ResidualDesign::normality(const VectorXd& standardized) const {
  std::vector<double> z;
  z.reserve(static_cast<std::size_t>(standardized.size()));
  double mean = 0;
  for (Index i = 0; i < standardized.size(); ++i) {
    if (over_root_[i] == 0) continue;
    z.push_back(standardized[i]);
    mean += standardized[i];
  }
  const auto n = static_cast<double>(z.size());
  mean /= n;
  double squares = 0;
  for (const double value : z) squares += (value - mean) * (value - mean);
  const double over_sd = std::sqrt((n - 1) / squares);
  std::sort(z.begin(), z.end());
  double sum = 0;
  static const LogPhi log_phi;
  for (std::size_t i = 0; i < z.size(); ++i) {
    // ln Phi(z) stands 2i + 1 times in the sum, ln Phi(-z) the remaining 2n - 2i - 1 times.
    const double value = (z[i] - mean) * over_sd;
    const auto below = static_cast<double>(2 * i + 1);
    sum += below * log_phi(value) + (2 * n - below) * log_phi(-value);
  }
  return -n - sum / n;
}

// The sum of squares within replicates.
double ResidualDesign::pure_error(const VectorXd& residuals) const {
  double pure = 0;
  for (std::size_t k = 0; k < replicates_.size(); ++k) {
    const std::span<const Index> rows = replicates_.rows_at(k);
    // Residuals carry the roots of their weights, and the mean is weighted.
    double weights = 0;
    double mean = 0;
    for (const Index i : rows) {
      weights += weights_[i];
      mean += std::sqrt(weights_[i]) * residuals[i];
    }
    mean /= weights;
    for (const Index i : rows) pure += std::pow(residuals[i] - std::sqrt(weights_[i]) * mean, 2);
  }
  return pure;
}

double ResidualDesign::lack_of_fit(const VectorXd& residuals) const {
  const double pure = pure_error(residuals);
  const double lack = std::max(0.0, residuals.squaredNorm() - pure);
  return lack / lack_degrees_ / pure_error_scale_->of(pure / pure_degrees_);
}

VectorXd ResidualDesign::statistics(const std::vector<CheckKind>& kinds, const VectorXd& residuals) const {
  const VectorXd z = standardized(residuals);
  VectorXd result(static_cast<Index>(kinds.size()));
  for (std::size_t k = 0; k < kinds.size(); ++k) {
    double& value = result[static_cast<Index>(k)];
    switch (kinds[k]) {
      case CheckKind::equal_variance: value = correlation_of(z.cwiseAbs(), fitted_); break;
      case CheckKind::curvature: value = added_term(curvature_, residuals); break;
      case CheckKind::origin: value = added_term(origin_, residuals); break;
      case CheckKind::lower_power: value = added_term(lower_power_, residuals); break;
      case CheckKind::drift: value = added_term(drift_, residuals); break;
      case CheckKind::runs: value = signs(residuals).runs; break;
      case CheckKind::serial_correlation: value = serial_correlation(along(residuals)); break;
      case CheckKind::normality: value = normality(z); break;
      case CheckKind::outlier: value = z.cwiseAbs().maxCoeff(); break;
      case CheckKind::lack_of_fit: value = lack_of_fit(residuals); break;
      case CheckKind::chi_squared: value = residuals.squaredNorm(); break;
    }
  }
  return result;
}

}  // namespace truecurve::detail
