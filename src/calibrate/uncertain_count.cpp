// Negative binomial and Poisson tails.
#include "uncertain_count.hpp"

#include "../base/count_tails.hpp"
#include "../base/roots.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve::detail {
namespace {

// The expectation's own variance below this share of that of the counts leaves the distribution as it is.
constexpr double as_good_as_known = 1e-7;
// An uncertainty beyond a hundred times the expectation counts as that.
constexpr double least_shape = 1e-4;

}  // namespace

UncertainCount::UncertainCount(double expected, double uncertainty)
    : expected_(std::max(expected, 0.0)), shape_(uncertainty > 0 ? std::pow(expected_ / uncertainty, 2) : infinity) {
  if (!(as_good_as_known * shape_ < std::max(expected_, 1.0))) shape_ = infinity;
  shape_ = std::max(shape_, least_shape);
}

double UncertainCount::at_most(double count) const { return mixed_poisson_at_most(count, expected_, shape_); }

double UncertainCount::at_least(double count) const {
  if (count <= 0) return 1;
  if (!(expected_ > 0)) return 0;
  // Where there is an upper tail itself it is not got by a difference.
  constexpr double few = 1e7;
  if (std::max(count, expected_) >= few) return 1 - at_most(count - 1);
  return std::isinf(shape_) ? gamma_below(count, expected_)
                            : beta_below(count, shape_, expected_ / (shape_ + expected_));
}

double UncertainCount::exceeded_by(double tail) const {
  // The probability falls with the count.
  if (at_least(1) <= tail) return 0;
  return 1 + last_whole_number(0, std::max(1.0, std::floor(expected_)),
                               [&](double count) { return at_least(count + 1) > tail; });
}

double UncertainCount::expectation_quantile(double p) const {
  if (!(expected_ > 0)) return 0;
  return std::isinf(shape_) ? expected_ : gamma_quantile(shape_, p) * expected_ / shape_;
}

}  // namespace truecurve::detail
