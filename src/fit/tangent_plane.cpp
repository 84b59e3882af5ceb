// The triangle of the derivatives, and its inverse.
#include "tangent_plane.hpp"

#include "../base/matrices.hpp"
#include "curve_faults.hpp"
#include "open_end.hpp"
#include "small_triangle.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve::detail {
namespace {

using Eigen::Index;

bool is_negligible(const SmallMatrix& r, Index k) {
  return !(std::abs(r(k, k)) > negligible_pivot * r.col(k).head(k + 1).stableNorm());
}

SmallMatrix inverse_of(const SmallMatrix& r, Index count) {
  SmallMatrix inverse = SmallMatrix::Identity(count, count);
  for (Index column = 0; column < count; ++column)
    substitute_back(r.data(), static_cast<int>(column) + 1, static_cast<int>(r.rows()), inverse.col(column).data());
  return inverse;
}

}  // namespace

FreeColumns free_columns(Curve& curve, const SmallVector& theta, const Box& box) {
  const SmallMatrix all = curve.full_factor(theta);
  std::vector<Index> kept;
  FreeColumns columns;
  for (Index k = 0; k < theta.size(); ++k) {
    const int j = curve.order()[static_cast<std::size_t>(k)];
    if (theta[j] <= box.low[j] || theta[j] >= box.high[j]) continue;
    kept.push_back(k);
    columns.order.push_back(j);
  }
  columns.r = static_cast<Index>(kept.size()) < theta.size() ? factor_of_columns(all, kept) : all;
  return columns;
}

bool has_full_rank(const FreeColumns& columns) {
  for (Index k = 0; k < static_cast<Index>(columns.order.size()); ++k) {
    if (is_negligible(columns.r, k)) return false;
  }
  return true;
}

bool tells_scales(const FreeColumns& columns, const BoundModel& bound, const std::vector<int>& sought, const Box& box,
                  const SmallVector& theta, double scale) {
  constexpr double many = 5;
  const auto count = static_cast<Index>(columns.order.size());
  const SmallMatrix inverse = inverse_of(columns.r, count);
  for (Index i = 0; i < count; ++i) {
    const int j = columns.order[static_cast<std::size_t>(i)];
    const bool is_sought = std::find(sought.begin(), sought.end(), j) != sought.end();
    if (!is_sought || !may_be_open(bound, box, theta, j)) continue;
    if (!(scale * inverse.row(i).stableNorm() <= many * std::abs(theta[j]))) return false;
  }
  return true;
}

void require_separable(Curve& curve, const std::vector<SmallVector>& points, const Box& box) {
  const auto columns_at = [&](SmallVector& theta) {
    const bool is_finite = std::isfinite(curve.project(theta));
    return is_finite ? free_columns(curve, theta, box) : FreeColumns{};
  };
  const bool somewhere =
      std::any_of(points.begin(), points.end(), [&](SmallVector theta) { return has_full_rank(columns_at(theta)); });
  if (points.empty() || somewhere) return;
  SmallVector theta = points.front();
  const FreeColumns columns = columns_at(theta);
  Index k = 0;
  while (!is_negligible(columns.r, k)) ++k;
  fail_inseparable(curve.bound(), columns.r, columns.order, k, theta, "");
}

double keep_tangent_plane(Curve& curve, const Descent& best, const Box& box, LinearSolution& linear) {
  const SmallVector& theta = best.theta;
  const auto p = theta.size();
  const FreeColumns columns = free_columns(curve, theta, box);
  const SmallMatrix& r = columns.r;
  const std::vector<int>& order = columns.order;
  const auto count = static_cast<Index>(order.size());
  const double offset = offset_of(r, curve);
  linear.parameters = theta;
  linear.effects = VectorXd::Zero(p);
  linear.working.centre = VectorXd::Zero(p);
  linear.working.parameters = theta;
  SmallVector norms(count);
  for (Index k = 0; k < count; ++k) {
    norms[k] = r.col(k).head(k + 1).stableNorm();
    if (!is_negligible(r, k)) continue;
    // The best so far of a search that gave up, was asked to end, or was stopped at an end of what a mean may be, is
    // still a result, but nothing is known of its uncertainty. Where it ended by itself, parameters that can't be told
    // apart are why.
    const bool was_ended =
        best.stop == StopReason::evaluations || best.stop == StopReason::stopped || best.stop == StopReason::time_limit;
    const bool gave_up = !best.converged && (was_ended || curve.is_scored());
    if (!gave_up) fail_inseparable(curve.bound(), r, order, k, theta, "at the best curve found ");
    linear.spread = MatrixXd::Constant(p, p, not_a_number);
    linear.working.inverse_factor = linear.spread;
    linear.condition = not_a_number;
    return offset;
  }
  const SmallMatrix inverse = inverse_of(r, count);
  MatrixXd k = MatrixXd::Zero(p, p);
  double scaled = 0;
  double scaled_inverse = 0;
  for (Index i = 0; i < count; ++i) {
    k.row(order[static_cast<std::size_t>(i)]).head(count) = inverse.row(i);
    scaled = std::max(scaled, r.col(i).head(i + 1).lpNorm<1>() / norms[i]);
    scaled_inverse = std::max(scaled_inverse, inverse.col(i).cwiseProduct(norms).lpNorm<1>());
  }
  linear.spread = k;
  linear.working.inverse_factor = k;
  linear.condition = scaled * scaled_inverse;
  return offset;
}

}  // namespace truecurve::detail
