// Descends.
#include "descend.hpp"

#include "../base/matrices.hpp"
#include "small_triangle.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <Eigen/Core>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// Bates and Watts (1981): a thousandth of a thousandth of the confidence region.
constexpr double wanted_offset = 1e-8;
// From here on the gain of a step drowns in rounding, and the offset itself is watched.
constexpr double near_offset = 1e-4;
constexpr double tolerated_offset = 1e-6;  // where rounding lets no step come closer this is still a minimum
constexpr double finest_offset = 1e-13;    // beyond this the offset itself is rounding
constexpr double fast_rate = 0.03;         // of an offset against the one before
constexpr int polishing_rounds = 300;      // a curve far from its rows converges linearly

// A power of two near a length: to scale by it rounds nothing.
double power_of_two(double length) {
  return length > 0 && std::isfinite(length) ? std::ldexp(1.0, std::ilogb(length)) : 1;
}

// Damped step of the entangled parameters: min |R step - c|² + lambda |D step|², found in columns of unit size.
SmallVector damped_step(const SmallMatrix& rn, const SmallVector& c, const SmallVector& d, double lambda) {
  const Index m = rn.cols();
  SmallVector unit(m);
  for (Index k = 0; k < m; ++k) unit[k] = power_of_two(d[k]);
  constexpr int most = static_cast<int>(most_columns);
  // Both blocks above each other, c and zeros as the last column.
  Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, 2 * most, most + 1> stacked(2 * m, m + 1);
  stacked.setZero();
  for (Index k = 0; k < m; ++k) {
    stacked.col(k).head(m) = rn.col(k) / unit[k];
    stacked(m + k, k) = std::sqrt(lambda) * (d[k] / unit[k]);
  }
  stacked.col(m).head(m) = c;
  const auto size = static_cast<int>(m);
  triangularize(stacked.data(), 2 * size, size + 1, size, 2 * size);
  SmallVector step = stacked.col(m).head(m);
  substitute_back(stacked.data(), size, 2 * size, step.data());
  return step.cwiseQuotient(unit);
}

// Where no step helps any more the offset decides whether this is a minimum, or the rounding of the responses, which
// keeps the residuals from being orthogonal to the curve where they are hardly larger themselves.
void end_without_gain(Descent& result, const SmallMatrix& r, const Curve& curve) {
  constexpr double roundings = 32;
  const Index p = r.cols() - 1;
  const double tangent = r.col(p).head(p).norm();
  const bool is_rounding = tangent <= roundings * std::numeric_limits<double>::epsilon() * std::sqrt(curve.size());
  result.converged = result.offset <= tolerated_offset || is_rounding;
  result.stop = result.offset > tolerated_offset && is_rounding ? StopReason::rounding : StopReason::step_vanished;
}

// The factor at a point, without the parameters that a limit holds: those at an end of their range that the steepest
// way down leads out of.
struct LocalFactor {
  SmallMatrix r;
  std::vector<int> stepped;  // the entangled parameters that may move
  Index separable = 0;
};

LocalFactor local_factor(Curve& curve, const SmallVector& theta, const Box& box) {
  LocalFactor local;
  local.r = curve.full_factor(theta);
  local.separable = static_cast<Index>(curve.roles().separable.size());
  const std::vector<int>& entangled = curve.roles().entangled;
  local.stepped = entangled;
  if (box.is_open() || !local.r.allFinite()) return local;
  const Index q = local.separable;
  const auto m = static_cast<Index>(entangled.size());
  const SmallVector down = local.r.block(q, q, m, m).transpose() * local.r.col(q + m).segment(q, m);
  std::vector<Index> kept;
  for (Index k = 0; k < q; ++k) kept.push_back(k);
  local.stepped.clear();
  for (Index k = 0; k < m; ++k) {
    const int j = entangled[static_cast<std::size_t>(k)];
    const bool held = (theta[j] <= box.low[j] && down[k] < 0) || (theta[j] >= box.high[j] && down[k] > 0);
    if (held) continue;
    kept.push_back(q + k);
    local.stepped.push_back(j);
  }
  if (local.stepped.size() < entangled.size()) local.r = factor_of_columns(local.r, kept);
  return local;
}

}  // namespace

Box Box::open(std::size_t parameters) {
  const auto p = static_cast<Index>(parameters);
  return {SmallVector::Constant(p, -infinity), SmallVector::Constant(p, infinity)};
}

bool Box::is_open() const { return (low.array() == -infinity).all() && (high.array() == infinity).all(); }

bool Box::limits(int parameter) const { return low[parameter] > -infinity || high[parameter] < infinity; }

SmallVector Box::clamped(const SmallVector& theta) const { return theta.cwiseMax(low).cwiseMin(high); }

Roles roles_within(const BoundModel& bound, const Box& box) {
  std::vector<int> limited;
  for (const int j : bound.separable) {
    if (box.limits(j)) limited.push_back(j);
  }
  Roles roles = without(roles_of(bound), limited);
  roles.entangled.insert(roles.entangled.end(), limited.begin(), limited.end());
  return roles;
}

SmallMatrix factor_of_columns(const SmallMatrix& r, const std::vector<Index>& kept) {
  const auto count = static_cast<Index>(kept.size());
  SmallMatrix columns(r.rows(), count + 1);
  SmallVector unit = SmallVector::Ones(count + 1);
  for (Index k = 0; k < count; ++k) {
    const auto column = r.col(kept[static_cast<std::size_t>(k)]);
    unit[k] = power_of_two(column.cwiseAbs().maxCoeff());
    columns.col(k) = column / unit[k];
  }
  columns.col(count) = r.col(r.cols() - 1);
  const auto rows = static_cast<int>(columns.rows());
  triangularize(columns.data(), rows, static_cast<int>(count) + 1, std::min(rows, static_cast<int>(count) + 1), rows);
  SmallMatrix kept_factor = columns.topRows(count + 1);
  for (Index k = 0; k < count; ++k) kept_factor.col(k) *= unit[k];
  return kept_factor;
}

double relative_offset(const SmallMatrix& r, std::size_t rows) {
  const Index p = r.cols() - 1;
  if (p == 0) return 0;
  const double tangent = r.col(p).head(p).norm();
  const double rest = std::abs(r(p, p));
  const double degrees = std::max(1.0, static_cast<double>(rows) - static_cast<double>(p));
  return rest > 0 ? tangent / std::sqrt(static_cast<double>(p)) / (rest / std::sqrt(degrees))
                  : (tangent > 0 ? infinity : 0.0);
}

double offset_of(const SmallMatrix& r, const Curve& curve) {
  if (!curve.is_scored()) return relative_offset(r, curve.rows());
  const Index p = r.cols() - 1;
  return p == 0 ? 0 : r.col(p).head(p).norm() / std::sqrt(static_cast<double>(p));
}

namespace {

// One descent: where it stands, and how far it trusts the tangent plane there.
class DampedWalk {
 public:
  DampedWalk(Curve& curve, SmallVector theta, const Box& box, int most_evaluations)
      : curve_(curve),
        box_(box),
        boxed_(!box.is_open()),
        first_(curve.evaluations()),
        most_(most_evaluations),
        theta_(boxed_ ? box.clamped(theta) : std::move(theta)),
        sizes_(SmallVector::Zero(theta_.size())) {}

  Descent run() {
    try {
      go();
    } catch (const SearchEnded&) {
      result_.theta = theta_;
      result_.chi_squared = chi_;
    }
    if (!result_.converged && curve_.is_over()) result_.stop = curve_.watch()->reason();
    return result_;
  }

 private:
  void go() {
    chi_ = curve_.project_ahead(theta_);
    result_.theta = theta_;
    result_.chi_squared = chi_;
    if (!std::isfinite(chi_)) {
      result_.stop = StopReason::not_finite;
      return;
    }
    local_ = local_factor(curve_, theta_, box_);
    while (may_go_on() && !has_arrived() && advance()) {
    }
  }

  // One step, in the order of the stepped parameters.
  struct Trial {
    SmallVector theta{};
    double predicted = 0;    // what the tangent plane promises to gain
    bool vanishing = false;  // too short to move any parameter
  };

  bool may_go_on() const { return curve_.evaluations() - first_ < most_ && !curve_.is_over(); }

  // Whether the search ends where it stands; its result says why.
  bool has_arrived() {
    if (!local_.r.allFinite()) {  // at the start only
      result_.stop = StopReason::not_finite;
      return true;
    }
    result_.theta = theta_;
    result_.chi_squared = chi_;
    result_.offset = offset_of(local_.r, curve_);
    if (chi_ <= exact_share * exact_share * curve_.size()) {
      result_.converged = true;
      result_.stop = StopReason::exact_fit;
      return true;
    }
    if (result_.offset <= wanted_offset) {
      // Converged; more rounds for the last digits, as long as they come.
      result_.converged = true;
      const bool at_limit = local_.stepped.size() < curve_.roles().entangled.size();
      result_.stop = at_limit ? StopReason::at_a_limit : StopReason::relative_offset;
    }
    near_ = result_.offset <= near_offset;
    idle_ = near_ && result_.offset > 0.95 * last_offset_ ? idle_ + 1 : 0;
    // Close to rounding the offset wavers; two rounds without gain are enough there.
    const int patience = result_.offset <= 1e-11 ? 1 : 4;
    const bool finished =
        result_.offset <= finest_offset || idle_ > patience || (near_ && ++polished_ > polishing_rounds);
    if (!finished && !local_.stepped.empty()) return false;
    if (!result_.converged) end_without_gain(result_, local_.r, curve_);
    return true;
  }

  // To a better place; false where there is none, or where it is the last one.
  bool advance() {
    // Where the next step will reach rounding it is taken without another look at the derivatives.
    const double rate = result_.offset / last_offset_;
    const bool is_last = result_.converged && rate < fast_rate && rate * result_.offset <= finest_offset;
    last_offset_ = result_.offset;
    const SmallVector d = sizes_of_steps();
    ++result_.iterations;
    while (may_go_on()) {
      Trial trial = trial_with(d);
      const double chi = trial.theta.allFinite() ? curve_.project_ahead(trial.theta) : infinity;
      const double gain = trial.predicted > 0 ? (chi_ - chi) / trial.predicted : -1;
      // Near the minimum the gain drowns in rounding: a step that does no visible harm is taken.
      const bool harmless = near_ && chi <= chi_ * (1 + 1e-12);
      const bool better = gain > 1e-4 || harmless;
      if (better && is_last) {
        result_.theta = trial.theta;
        result_.chi_squared = chi;
        result_.offset *= rate;
        return false;
      }
      // A point whose derivatives overflow leads nowhere, however good its curve.
      if (better) {
        LocalFactor next = local_factor(curve_, trial.theta, box_);
        if (next.r.allFinite()) {
          local_ = std::move(next);
          theta_ = trial.theta;
          chi_ = chi;
          trust(gain);
          return true;
        }
      }
      if (trial.vanishing || lambda_ > 1e30) {
        if (!result_.converged) end_without_gain(result_, local_.r, curve_);
        return false;
      }
      lambda_ *= growth_;
      growth_ *= 2;
    }
    return true;
  }

  // In what units the steps are damped: the greatest slope seen of each stepped parameter.
  SmallVector sizes_of_steps() {
    const Index q = local_.separable;
    const auto m = static_cast<Index>(local_.stepped.size());
    const SmallMatrix rn = local_.r.block(q, q, m, m);
    SmallVector d(m);
    for (Index k = 0; k < m; ++k) {
      double& size = sizes_[local_.stepped[static_cast<std::size_t>(k)]];
      size = std::max(size, rn.col(k).stableNorm());
      d[k] = size == 0 ? 1 : size;
    }
    return d;
  }

  Trial trial_with(const SmallVector& d) const {
    const Index q = local_.separable;
    const auto m = static_cast<Index>(local_.stepped.size());
    const SmallMatrix rn = local_.r.block(q, q, m, m);
    const SmallVector c = local_.r.col(q + m).segment(q, m);
    SmallVector step = damped_step(rn, c, d, lambda_);
    Trial trial{.theta = theta_};
    for (Index k = 0; k < m; ++k) trial.theta[local_.stepped[static_cast<std::size_t>(k)]] += step[k];
    if (boxed_) {
      trial.theta = box_.clamped(trial.theta);
      for (Index k = 0; k < m; ++k) {
        const int j = local_.stepped[static_cast<std::size_t>(k)];
        step[k] = trial.theta[j] - theta_[j];
      }
    }
    trial.predicted = c.squaredNorm() - (c - rn * step).squaredNorm();
    trial.vanishing = trial.theta == theta_;
    return trial;
  }

  // Nielsen (1999); a step that did just what the tangent plane promised needs hardly any damping.
  void trust(double gain) {
    const bool as_promised = std::abs(gain - 1) < 0.1;
    lambda_ *= near_ || as_promised ? 0.1 : std::max(1.0 / 3, 1 - std::pow(2 * gain - 1, 3));
    lambda_ = std::max(lambda_, 1e-20);
    growth_ = 2;
  }

  Curve& curve_;
  const Box& box_;
  bool boxed_;
  int first_;  // evaluations before it
  int most_;
  SmallVector theta_;
  SmallVector sizes_;
  double chi_ = infinity;
  LocalFactor local_{};
  double lambda_ = 1e-3;
  double growth_ = 2;
  double last_offset_ = infinity;
  bool near_ = false;
  int idle_ = 0;
  int polished_ = 0;
  Descent result_{};
};

}  // namespace

Descent descend(Curve& curve, SmallVector theta, const Box& box, int most_evaluations) {
  return DampedWalk(curve, std::move(theta), box, most_evaluations).run();
}

}  // namespace truecurve::detail
