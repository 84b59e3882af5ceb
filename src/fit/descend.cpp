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
constexpr double negligible_step = 1e-15;  // relative to the parameters: rounding
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

Descent descend(Curve& curve, SmallVector theta, const Box& box, int most_evaluations) {
  Descent result;
  const bool boxed = !box.is_open();
  if (boxed) theta = box.clamped(theta);
  const int first = curve.evaluations();
  double chi = curve.project_ahead(theta);
  result.theta = theta;
  result.chi_squared = chi;
  if (!std::isfinite(chi)) {
    result.stop = StopReason::not_finite;
    return result;
  }
  double lambda = 1e-3;
  double growth = 2;
  SmallVector sizes = SmallVector::Zero(theta.size());
  int polished = 0;
  int idle = 0;
  double last_offset = infinity;
  LocalFactor local = local_factor(curve, theta, box);
  while (curve.evaluations() - first < most_evaluations) {
    const SmallMatrix& r = local.r;
    if (!r.allFinite()) {  // at the start only
      result.stop = StopReason::not_finite;
      return result;
    }
    result.theta = theta;
    result.chi_squared = chi;
    result.offset = offset_of(r, curve);
    if (chi <= exact_share * exact_share * curve.size()) {
      result.converged = true;
      result.stop = StopReason::exact_fit;
      return result;
    }
    if (result.offset <= wanted_offset) {
      // Converged; more rounds for the last digits, as long as they come.
      result.converged = true;
      result.stop =
          local.stepped.size() < curve.roles().entangled.size() ? StopReason::at_a_limit : StopReason::relative_offset;
    }
    const bool near = result.offset <= near_offset;
    idle = near && result.offset > 0.95 * last_offset ? idle + 1 : 0;
    // Close to rounding the offset wavers; two rounds without gain are enough there.
    const int patience = result.offset <= 1e-11 ? 1 : 4;
    const bool finished = result.offset <= finest_offset || idle > patience || (near && ++polished > polishing_rounds);
    if (finished || local.stepped.empty()) {
      if (!result.converged) end_without_gain(result, r, curve);
      return result;
    }
    // Where the next step will reach rounding it is taken without another look at the derivatives.
    const double rate = result.offset / last_offset;
    const bool is_last_step = result.converged && rate < fast_rate && rate * result.offset <= finest_offset;
    last_offset = result.offset;
    const Index q = local.separable;
    const auto m = static_cast<Index>(local.stepped.size());
    const SmallMatrix rn = r.block(q, q, m, m);
    const SmallVector c = r.col(q + m).segment(q, m);
    SmallVector d(m);
    for (Index k = 0; k < m; ++k) {
      double& size = sizes[local.stepped[static_cast<std::size_t>(k)]];
      size = std::max(size, rn.col(k).stableNorm());
      d[k] = size == 0 ? 1 : size;
    }
    ++result.iterations;
    bool accepted = false;
    while (!accepted && curve.evaluations() - first < most_evaluations) {
      SmallVector step = damped_step(rn, c, d, lambda);
      SmallVector trial = theta;
      for (Index k = 0; k < m; ++k) trial[local.stepped[static_cast<std::size_t>(k)]] += step[k];
      if (boxed) {
        trial = box.clamped(trial);
        for (Index k = 0; k < m; ++k) {
          const int j = local.stepped[static_cast<std::size_t>(k)];
          step[k] = trial[j] - theta[j];
        }
      }
      const double predicted = c.squaredNorm() - (c - rn * step).squaredNorm();
      const double scale = d.cwiseProduct(step).norm();
      double reach = 0;
      for (Index k = 0; k < m; ++k)
        reach = std::max(reach, d[k] * std::abs(theta[local.stepped[static_cast<std::size_t>(k)]]));
      const bool vanishing = !(scale > negligible_step * std::max(reach, std::sqrt(chi) * negligible_step));
      const double trial_chi = trial.allFinite() ? curve.project_ahead(trial) : infinity;
      const double gain = predicted > 0 ? (chi - trial_chi) / predicted : -1;
      // Near the minimum the gain drowns in rounding: a step that does no visible harm is taken.
      const bool harmless = near && trial_chi <= chi * (1 + 1e-12);
      LocalFactor next;
      const bool better = gain > 1e-4 || harmless;
      if (better && is_last_step) {
        result.theta = trial;
        result.chi_squared = trial_chi;
        result.offset *= rate;
        return result;
      }
      // A point whose derivatives overflow leads nowhere, however good its curve.
      if (better) next = local_factor(curve, trial, box);
      if (better && next.r.allFinite()) {
        accepted = true;
        local = std::move(next);
        theta = trial;
        chi = trial_chi;
        // Nielsen (1999); a step that did just what the tangent plane promised needs hardly any damping.
        const bool as_promised = std::abs(gain - 1) < 0.1;
        lambda *= near || as_promised ? 0.1 : std::max(1.0 / 3, 1 - std::pow(2 * gain - 1, 3));
        lambda = std::max(lambda, 1e-20);
        growth = 2;
      } else {
        if (vanishing || lambda > 1e30) {
          if (!result.converged) end_without_gain(result, local.r, curve);
          return result;
        }
        lambda *= growth;
        growth *= 2;
      }
    }
  }
  return result;
}

}  // namespace truecurve::detail
