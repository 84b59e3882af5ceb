// What has to find room on an axis, and how much of it can be seen apart.
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/base/one_of_each.hpp>

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <string>
#include <vector>

#include <fmt/format.h>

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

// More points than this can't be seen apart on the page; one of each few is drawn, and legends say so.
inline constexpr std::size_t most_points = 4000;

/// The rows that are drawn of so many, rising.
inline std::vector<std::size_t> drawn_rows(std::size_t rows) {
  const std::size_t stride = std::max<std::size_t>((rows + most_points - 1) / most_points, 1);
  std::vector<std::size_t> result;
  for (std::size_t place = 0; place * stride < rows; ++place) result.push_back(one_of_each(place, stride, rows));
  return result;
}

inline std::vector<double> thinned(const Vector& values) {
  std::vector<double> result;
  for (const std::size_t row : drawn_rows(values.size())) result.push_back(values[row]);
  return result;
}

/// " (3900 of 7800 drawn)" for the legend, where not all are.
inline std::string drawn_words(std::size_t rows) {
  return rows <= most_points ? "" : fmt::format(" ({} of {} drawn)", drawn_rows(rows).size(), rows);
}

}  // namespace truecurve::detail
