// The number of counts to come where its expectation is itself uncertain.
#pragma once

#include <truecurve/base/numeric.hpp>

namespace truecurve::detail {

/// A Poisson distribution whose expectation has a gamma distribution: negative binomial; Poisson where the expectation
/// is known. Source: Greenwood and Yule (1920), J. R. Stat. Soc. 83, 255.
class UncertainCount {
 public:
  /// Of an expectation with a standard uncertainty, both in counts; below 0 the expectation counts as 0.
  UncertainCount(double expected, double uncertainty);

  /// Probabilities of at most and of at least so many counts (whole numbers, 0 or more).
  [[nodiscard]] double at_most(double count) const;
  [[nodiscard]] double at_least(double count) const;
  /// The smallest count that is exceeded with a probability of at most `tail`; as a double, exact below 2^53.
  [[nodiscard]] double exceeded_by(double tail) const;
  /// The expectation below which its own distribution lies with probability p.
  [[nodiscard]] double expectation_quantile(double p) const;

 private:
  double expected_;
  double shape_;  // of the gamma distribution; infinite where the expectation is known
};

}  // namespace truecurve::detail
