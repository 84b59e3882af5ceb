// What has to find room on an axis, and how much of it can be seen apart.
#pragma once

#include <truecurve/base/numeric.hpp>

#include <algorithm>
#include <cmath>
#include <vector>

namespace truecurve::detail {

/// The lowest and the highest of the finite values that were added.
class Extent {
 public:
  Extent() = default;
  explicit Extent(const Vector& values) {
    for (const double value : values) add(value);
  }
  void add(double value) {
    if (!std::isfinite(value)) return;
    low = std::min(low, value);
    high = std::max(high, value);
  }
  double low = infinity;
  double high = -infinity;
};

// More points than this can't be seen apart on the page; every k-th is drawn, and legends say so.
inline constexpr std::size_t most_points = 4000;

inline std::vector<double> thinned(const Vector& values, std::size_t most = most_points) {
  const auto size = static_cast<std::size_t>(values.size());
  const std::size_t stride = std::max<std::size_t>((size + most - 1) / most, 1);
  std::vector<double> result;
  for (std::size_t i = 0; i < size; i += stride) result.push_back(values[i]);
  return result;
}

}  // namespace truecurve::detail
