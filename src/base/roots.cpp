// Through Boost.Math.
#include "roots.hpp"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <utility>

#include <boost/math/tools/minima.hpp>
#include <boost/math/tools/roots.hpp>

namespace truecurve::detail {

double change_of_sign(double low, double high, const std::function<double(double)>& function) {
  const double at_low = function(low);
  const double at_high = function(high);
  if (at_low == 0) return low;
  if (at_high == 0) return high;
  const double beyond = at_low < 0 ? 1 : -1;
  bool is_finite = std::isfinite(at_low) && std::isfinite(at_high);
  const auto sign = [&](double x) {
    const double value = function(x);
    if (!std::isfinite(value)) is_finite = false;
    return std::isnan(value) ? beyond : value;
  };
  const auto adjacent = [](double a, double b) { return std::nextafter(a, b) == b || a == b; };
  std::uintmax_t steps = 200;  // more than the digits of a double
  std::pair<double, double> ends = {low, high};
  // Quickly while the function is smooth; whatever is left is halved.
  if (is_finite) {
    ends = boost::math::tools::toms748_solve(
        sign, low, high, at_low, at_high,
        [&](double a, double b) { return !is_finite || std::abs(b - a) <= 4 * std::abs(std::nextafter(a, b) - a); },
        steps);
    steps = 200;
  }
  if (adjacent(ends.first, ends.second)) return ends.first + (ends.second - ends.first) / 2;
  // Among the smallest numbers of all, interpolation may lose the sign: then everything is halved.
  const double at_first = sign(ends.first);
  const double at_second = sign(ends.second);
  if (at_first == 0) return ends.first;
  if (at_second == 0) return ends.second;
  if ((at_first < 0) == (at_second < 0)) ends = {low, high};
  // Signs alone: products of the smallest values have none.
  const auto unit = [&](double x) {
    const double value = sign(x);
    return value < 0 ? -1.0 : value > 0 ? 1.0 : 0.0;
  };
  ends = boost::math::tools::bisect(unit, ends.first, ends.second, adjacent, steps);
  return ends.first + (ends.second - ends.first) / 2;
}

double smooth_change_of_sign(double low, double high, const std::function<double(double)>& function) {
  if (low > high) return smooth_change_of_sign(high, low, function);
  const double at_low = function(low);
  const double at_high = function(high);
  if (at_low == 0) return low;
  if (at_high == 0) return high;
  constexpr int bits = 47;
  std::uintmax_t steps = 200;
  const auto [left, right] = boost::math::tools::toms748_solve(function, low, high, at_low, at_high,
                                                               boost::math::tools::eps_tolerance<double>(bits), steps);
  return left + (right - left) / 2;
}

bool comes_through_zero(double low, double high, double place, const std::function<double(double)>& function) {
  const auto away = [&](double share) {
    return std::abs(function(std::clamp(place + share * (high - low), low, high)));
  };
  const double farthest = std::fmax(away(-1e-3), away(1e-3));
  // The value at a pole itself may be anything.
  return away(-1e-9) <= farthest && away(0) <= farthest && away(1e-9) <= farthest;
}

double lowest_place(double low, double high, const std::function<double(double)>& function) {
  constexpr int bits = 26;  // half of a double's: closer the function does not tell places apart
  std::uintmax_t steps = 200;
  return boost::math::tools::brent_find_minima(function, low, high, bits, steps).first;
}

double last_whole_number(double low, double step, const std::function<bool(double)>& holds) {
  double high = low + step;
  for (; holds(high); high += step) {
    low = high;
    step *= 2;
  }
  while (high - low > 1) {
    const double middle = std::floor((low + high) / 2);
    (holds(middle) ? low : high) = middle;
  }
  return low;
}

}  // namespace truecurve::detail
