// Negative binomial and Poisson tails.
#include "uncertain_count.hpp"

#include <algorithm>
#include <cmath>

#include <boost/math/special_functions/beta.hpp>
#include <boost/math/special_functions/gamma.hpp>

namespace truecurve::detail {
namespace {

// Beyond it the two distributions differ by less than a double tells.
constexpr double as_good_as_known = 1e12;

}  // namespace

UncertainCount::UncertainCount(double expected, double uncertainty)
    : expected_(std::max(expected, 0.0)), shape_(uncertainty > 0 ? std::pow(expected_ / uncertainty, 2) : infinity) {
  if (!(shape_ < as_good_as_known)) shape_ = infinity;
}

double UncertainCount::at_most(double count) const {
  if (count < 0) return 0;
  if (!(expected_ > 0)) return 1;
  return std::isinf(shape_) ? boost::math::gamma_q(count + 1, expected_)
                            : boost::math::ibeta(shape_, count + 1, shape_ / (shape_ + expected_));
}

double UncertainCount::at_least(double count) const {
  if (count <= 0) return 1;
  if (!(expected_ > 0)) return 0;
  return std::isinf(shape_) ? boost::math::gamma_p(count, expected_)
                            : boost::math::ibeta(count, shape_, expected_ / (shape_ + expected_));
}

double UncertainCount::exceeded_by(double tail) const {
  // Doubling steps upwards, then halving: the probability falls with the count.
  double low = -1;
  double high = 0;
  for (double step = std::max(1.0, std::floor(expected_)); at_least(high + 1) > tail; step *= 2) {
    low = high;
    high += step;
  }
  while (high - low > 1) {
    const double middle = std::floor((low + high) / 2);
    (at_least(middle + 1) > tail ? low : high) = middle;
  }
  return high;
}

double UncertainCount::expectation_quantile(double p) const {
  if (!(expected_ > 0)) return 0;
  return std::isinf(shape_) ? expected_ : boost::math::gamma_p_inv(shape_, p) * expected_ / shape_;
}

}  // namespace truecurve::detail
