// From one start to the minimum beneath it: Levenberg-Marquardt steps on the parameters that do not enter linearly, the
// others projected out, within limits.
#pragma once

#include <truecurve/fit/solver_report.hpp>

#include "../base/matrices.hpp"
#include "curve.hpp"

#include <string_view>

namespace truecurve::detail {

inline constexpr double exact_share = 1e-15;  // residuals this small against the data are rounding

/// Between which values each parameter may lie; infinite where it is free.
struct Box {
  SmallVector low;
  SmallVector high;
  [[nodiscard]] static Box open(std::size_t parameters);
  [[nodiscard]] bool is_open() const;
  [[nodiscard]] bool limits(int parameter) const;
  [[nodiscard]] SmallVector clamped(const SmallVector& theta) const;
};

/// The structure's roles, with separable parameters that have a limit among the stepped ones: what has a limit can't be
/// projected out.
[[nodiscard]] Roles roles_within(const BoundModel& bound, const Box& box);

/// Where a descent ended.
struct Descent {
  SmallVector theta;
  double chi_squared = infinity;
  double offset = infinity;  // of Bates and Watts (1981), over the parameters that are not held at a limit
  int iterations = 0;
  bool converged = false;
  StopReason stop = StopReason::evaluations;
  bool proposed = false;  // its start came from the model itself
  bool built_up = false;  // its start was built up term by term
};

/// Evaluations after which a descent is lost.
inline constexpr int evaluations_of_a_descent = 2000;

/// Parameters with a limit must be among the entangled ones. Cost: at most `most_evaluations` of the curve.
[[nodiscard]] Descent descend(Curve& curve, SmallVector theta, const Box& box, int most_evaluations);

/// The triangular factor of some of the columns of another (the last, the residuals, is always kept).
[[nodiscard]] SmallMatrix factor_of_columns(const SmallMatrix& r, const std::vector<Eigen::Index>& kept);

/// What is left to go at a point of the curve: relative_offset(), or of a counted response, whose scatter is known, the
/// gradient of half the deviance in units of the uncertainties, over sqrt(p).
[[nodiscard]] double offset_of(const SmallMatrix& r, const Curve& curve);

/// ||Q1ᵀ r|| / sqrt(p) against ||Q2ᵀ r|| / sqrt(n - p) from the triangular factor of p columns and the residuals.
[[nodiscard]] double relative_offset(const SmallMatrix& r, std::size_t rows);

}  // namespace truecurve::detail
