// Mean and sum of squares of a group of readings.
#pragma once

#include <truecurve/base/numeric.hpp>

#include <vector>

namespace truecurve {
struct Reading;
}

namespace truecurve::detail {

struct Squares {
  double mean = 0;
  double squares = 0;  ///< about the mean; 0 for equal readings, not the rounding of their mean
  double degrees = 0;  ///< n - 1

  /// NaN for a single reading.
  [[nodiscard]] double variance() const;
  [[nodiscard]] double sd() const;
};

[[nodiscard]] Squares squares_of(const std::vector<double>& group);
[[nodiscard]] Squares squares_of(const std::vector<Reading>& readings);

/// Counted readings together.
struct Total {
  double count = 0;
  double exposure = 0;
  [[nodiscard]] double rate() const { return count / exposure; }
};
[[nodiscard]] Total total_of(const std::vector<Reading>& readings);

}  // namespace truecurve::detail
