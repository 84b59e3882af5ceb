// The curve on the scale of the left side, and the way back from there to the measured response.
#pragma once

#include <truecurve/assess/bands.hpp>

#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "../model/model_data.hpp"

#include <span>
#include <vector>

namespace truecurve::detail {

/// At points given column-wise (a curve without predictors has one point): the curve and its standard uncertainty on
/// the scale of the left side.
struct LeftBand {
  VectorXd value;
  VectorXd uncertainty;
};
[[nodiscard]] LeftBand left_band(const EstimateParts& parts, std::span<const Vector> points);
/// The curve alone, a fraction of the price.
[[nodiscard]] VectorXd left_curve(const EstimateParts& parts, std::span<const Vector> points);

/// How the response follows from the left side at each of some points.
class WayBack {
 public:
  WayBack(const BoundModel& bound, std::span<const Vector> points);

  struct Responses {
    VectorXd value;
    VectorXd slope;  // d response / d left side
  };
  /// At one value of the left side for each point.
  [[nodiscard]] Responses at(const VectorXd& left) const;

  /// The responses between two values of the left side at each point, `middle` that of the curve. Where the inverse is
  /// lost on the way, as 1/y at zero, that side has no limit.
  [[nodiscard]] std::vector<Interval> intervals(const VectorXd& low, const VectorXd& high, const VectorXd& middle,
                                                const Responses& at_middle) const;

 private:
  const BoundModel& bound_;
  std::vector<const double*> points_;
};

}  // namespace truecurve::detail
