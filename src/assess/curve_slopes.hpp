// How steep a fitted curve is: what turns an uncertainty of the response into one of a place.
#pragma once

#include <truecurve/fit/estimate.hpp>

#include "../base/matrices.hpp"
#include "../model/predictor_slopes.hpp"

#include <memory>

namespace truecurve::detail {

/// Derivatives of a fitted curve by its predictors, on the scale of the measured response. Exact, a polynomial's in the
/// working form; of C++ code by central differences. The estimate must outlive it.
class CurveSlopes {
 public:
  explicit CurveSlopes(const Estimate& estimate);

  /// At a point with one value a predictor; NaN or infinite where the curve has none.
  [[nodiscard]] VectorXd at(const VectorXd& point) const;
  /// Of a curve with one predictor.
  [[nodiscard]] double at(double x) const { return at(VectorXd::Constant(1, x))[0]; }

 private:
  [[nodiscard]] double of_polynomial(double x) const;
  [[nodiscard]] VectorXd by_differences(const VectorXd& point) const;

  const Estimate& estimate_;
  std::shared_ptr<const PredictorSlopes> exact_;  // null for C++ code
};

}  // namespace truecurve::detail
