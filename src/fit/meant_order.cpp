// Puts like terms into their order and widths to their sign.
#include "meant_order.hpp"

#include "../base/matrices.hpp"
#include "like_terms.hpp"
#include "minima.hpp"
#include "search.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// Of two groups, whether the values of the first belong before those of the second: from left to right, and the slowest
// first.
bool goes_before(ParameterPart part, double a, double b) {
  switch (part) {
    case ParameterPart::factor: return std::abs(a) < std::abs(b);
    case ParameterPart::divisor: return std::abs(a) > std::abs(b);
    default: return a < b;
  }
}

// The values of a parameter that may leave the curve as it is: so far apart, and given about this middle.
struct Turn {
  double middle = 0;
  double length = 0;
};

// Of a phase in radian, in degrees or in turns, about 0; of a place within an oscillation its period, from the first
// row on.
std::vector<Turn> turns_of(const Curve& curve, const SmallVector& theta, int parameter) {
  const BoundModel& bound = curve.bound();
  const ParameterPart part = bound.parts[static_cast<std::size_t>(parameter)];
  std::vector<Turn> periods;
  for (const int k : bound.entangled) {
    const double rate = bound.turns[static_cast<std::size_t>(k)];
    const bool is_period = bound.parts[static_cast<std::size_t>(k)] == ParameterPart::divisor;
    const double length = 2 * std::numbers::pi / rate * (is_period ? std::abs(theta[k]) : 1 / std::abs(theta[k]));
    if (length > 0 && std::isfinite(length)) periods.push_back({scales_of(curve).low + length / 2, length});
  }
  if (part == ParameterPart::place) return periods;
  const bool is_phase = part == ParameterPart::phase || (part == ParameterPart::other && !periods.empty());
  return is_phase ? std::vector<Turn>{{0, 2 * std::numbers::pi}, {0, 360}, {0, 1}} : std::vector<Turn>{};
}

}  // namespace

Descent in_meant_order(Curve& curve, const Descent& found, const SmallVector& starts, const Box& box) {
  const BoundModel& bound = curve.bound();
  Descent result = found;
  const auto try_values = [&](const SmallVector& values) {
    SmallVector theta = values;
    if (box.clamped(theta) != theta) return false;
    const double chi = curve.project(theta);
    if (!(std::abs(chi - result.chi_squared) <= slack(chi, result.chi_squared, curve.size()))) return false;
    Descent polished = descend(curve, theta, box, evaluations_of_a_descent);
    if (!polished.converged ||
        !(polished.chi_squared <= result.chi_squared + slack(polished.chi_squared, result.chi_squared, curve.size())))
      return false;
    polished.iterations += result.iterations;
    result = std::move(polished);
    return true;
  };
  std::vector<int> phases;
  for (const int j : bound.entangled) {
    const ParameterPart part = bound.parts[static_cast<std::size_t>(j)];
    if (std::isnan(starts[j]) && (part == ParameterPart::phase || part == ParameterPart::other)) phases.push_back(j);
  }
  for (const int j : bound.entangled) {
    const ParameterPart part = bound.parts[static_cast<std::size_t>(j)];
    const bool negative = !std::isnan(starts[j]) && starts[j] < 0;
    const bool has_a_sign = part == ParameterPart::place || part == ParameterPart::exponent ||
                            part == ParameterPart::phase || part == ParameterPart::base;
    if ((result.theta[j] < 0) == negative || has_a_sign) continue;
    SmallVector flipped = result.theta;
    flipped[j] = -flipped[j];
    if (try_values(flipped) || !(bound.turns[static_cast<std::size_t>(j)] > 0)) continue;
    // A frequency has the sign of its phase.
    for (const int k : phases) {
      SmallVector both = flipped;
      both[k] = -both[k];
      if (try_values(both)) break;
    }
  }
  // Within one turn, and in that half of it in which amplitudes are positive; where it is another turn after all, or
  // none, the curve is another one.
  const auto negative_ones = [&curve](const SmallVector& theta) {
    return std::count_if(curve.roles().separable.begin(), curve.roles().separable.end(),
                         [&theta](int j) { return theta[j] < 0; });
  };
  for (const int j : bound.entangled) {
    if (!std::isnan(starts[j])) continue;
    for (const Turn& turn : turns_of(curve, result.theta, j)) {
      SmallVector turned = result.theta;
      turned[j] = turn.middle + std::remainder(turned[j] - turn.middle, turn.length);
      if (turned != result.theta) try_values(turned);
      SmallVector opposite = result.theta;
      opposite[j] -= std::copysign(turn.length / 2, opposite[j] - turn.middle);
      if (box.clamped(opposite) != opposite || !std::isfinite(curve.project(opposite))) continue;
      if (negative_ones(opposite) < negative_ones(result.theta)) try_values(opposite);
    }
  }
  // Exchanges of neighbours until the order holds; each is undone by try_values where the terms are not alike after
  // all.
  const std::vector<TermGroup>& groups = bound.groups;
  for (std::size_t pass = 0; pass + 1 < groups.size(); ++pass) {
    for (std::size_t g = 0; g < groups.size(); ++g) {
      for (std::size_t h = g + 1; h < groups.size(); ++h) {
        const std::vector<int>& one = groups[g].entangled;
        const std::vector<int>& other = groups[h].entangled;
        if (groups[g].family != groups[h].family) continue;
        const int first = one.front();
        const int second = other.front();
        const bool given = !std::isnan(starts[first]) && !std::isnan(starts[second]);
        const bool wrong = given ? (starts[first] < starts[second]) != (result.theta[first] < result.theta[second])
                                 : goes_before(bound.parts[static_cast<std::size_t>(first)], result.theta[second],
                                               result.theta[first]);
        if (!wrong) continue;
        SmallVector exchanged = result.theta;
        for (std::size_t k = 0; k < one.size(); ++k) std::swap(exchanged[one[k]], exchanged[other[k]]);
        try_values(exchanged);
      }
    }
  }
  return result;
}

}  // namespace truecurve::detail
