// What is known of a number where several weightings of the standards are possible.
#pragma once

#include <truecurve/base/numeric.hpp>

#include <vector>

namespace truecurve::detail {

/// Effective degrees of freedom of u² = u1² + u2² from those of both: u⁴/(u1⁴/v1 + u2⁴/v2); Welch (1947),
/// Satterthwaite (1946), JCGM 100:2008, G.4.1. Infinite where both are.
[[nodiscard]] double effective_degrees(double u1, double v1, double u2, double v2);

/// Weighted sum of Student's t distributions, each about its value with its standard uncertainty.
class Mixture {
 public:
  struct Part {
    double weight = 1;
    double value = not_a_number;
    double u = not_a_number;  ///< 0 or more
    double degrees_of_freedom = infinity;
  };

  explicit Mixture(std::vector<Part> parts) : parts_(std::move(parts)) {}

  /// Probability of lying at or below x.
  [[nodiscard]] double below(double x) const { return tail(x, 1); }
  /// Probability of lying at or above x: where it is small it keeps digits that 1 - below(x) has not.
  [[nodiscard]] double above(double x) const { return tail(x, -1); }
  /// The x below which it lies with probability p. Requires 0 < p < 1.
  [[nodiscard]] double quantile(double p) const;
  /// sqrt(sum w (u² + (value - about)²)): the degrees of freedom go into intervals, as in JCGM 100:2008.
  [[nodiscard]] double standard_uncertainty(double about) const;
  [[nodiscard]] const std::vector<Part>& parts() const { return parts_; }
  /// Where there is one distribution, not a mixture, and it has a width.
  [[nodiscard]] const Part* only_part() const {
    return parts_.size() == 1 && parts_[0].u > 0 && parts_[0].degrees_of_freedom > 0 ? parts_.data() : nullptr;
  }

 private:
  // Of lying beyond x on one side: below for 1, above for -1.
  [[nodiscard]] double tail(double x, int side) const;

  std::vector<Part> parts_;
};

}  // namespace truecurve::detail
