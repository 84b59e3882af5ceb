// Where an axis has its ticks and what stands beside them.
#pragma once

#include <truecurve/figure/layout.hpp>

#include <string>
#include <vector>

namespace truecurve::detail {

/// Ticks at round values. A label is (value - offset) / 10^power; both are said in the axis title where they are not 0.
struct Ticks {
  double low = 0;  ///< ends of the axis
  double high = 1;
  std::vector<double> at{};
  std::vector<std::string> labels{};
  int power = 0;
  double offset = 0;
  AxisScale scale = AxisScale::linear;

  /// The place of a value as a share of the axis, 0 at its low end; below 0 for what a logarithmic axis can't show.
  [[nodiscard]] double share(double value) const;
  /// The value at a share of the axis.
  [[nodiscard]] double value(double share) const;
};

/// Ticks for data between low and high, about `wanted` of them, the axis a little longer than the data.
[[nodiscard]] Ticks ticks_for(double low, double high, int wanted, AxisScale scale = AxisScale::linear);

/// The same along an axis whose ends may be given: the axis then ends there. Throws Error (bad_argument) where these
/// leave it no length, or no place above zero on a logarithmic one.
[[nodiscard]] Ticks ticks_along(const AxisLayout& axis, double low, double high, int wanted);

/// "t (min)" with what the labels leave out: "(t - 1000000000) / 10^3 (min)".
[[nodiscard]] std::string axis_title(const std::string& name, const std::string& unit, const Ticks& ticks);
/// The same with the label that is asked for, or else the quantity.
[[nodiscard]] std::string axis_title(const AxisLayout& axis, const std::string& name, const std::string& unit,
                                     const Ticks& ticks);

}  // namespace truecurve::detail
