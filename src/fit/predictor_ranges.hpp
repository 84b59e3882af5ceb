// From where to where the predictors of observations reach.
#pragma once

#include <truecurve/fit/estimate.hpp>

#include "../base/matrices.hpp"

#include <algorithm>
#include <vector>

namespace truecurve::detail {

inline std::vector<Range> ranges_of(const Observations& observations) {
  std::vector<Range> ranges;
  for (std::size_t k = 0; k < observations.predictors().size(); ++k) {
    const auto x = as_eigen(observations.predictor(k));
    Range range{infinity, -infinity};
    constexpr Eigen::Index in_cache = 2048;  // both ends of a stretch while it is there
    for (Eigen::Index from = 0; from < x.size(); from += in_cache) {
      const auto stretch = x.segment(from, std::min(in_cache, x.size() - from));
      range = {std::min(range.low, stretch.minCoeff()), std::max(range.high, stretch.maxCoeff())};
    }
    ranges.push_back(range);
  }
  return ranges;
}

}  // namespace truecurve::detail
