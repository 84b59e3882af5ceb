// Where a curve can be drawn.
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>

#include <vector>

namespace truecurve::detail {

/// Those of the points, in their order, at which the curve is finite: a logarithm ends where its axis goes on.
inline VectorXd where_defined(const Estimate& estimate, const VectorXd& x) {
  const auto is_finite = [&estimate](const VectorXd& at) {
    try {
      (void)band_at(estimate, at, 0.95);
      return true;
    } catch (const Error& error) {
      if (error.code() != ErrorCode::not_finite) throw;
      return false;
    }
  };
  if (is_finite(x)) return x;
  std::vector<double> defined;
  for (const double at : x) {
    if (is_finite(VectorXd::Constant(1, at))) defined.push_back(at);
  }
  return Eigen::Map<const VectorXd>(defined.data(), static_cast<Eigen::Index>(defined.size()));
}

}  // namespace truecurve::detail
