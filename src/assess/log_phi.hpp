// The logarithm of the normal probability, for a statistic that asks for it twice a row.
#pragma once

#include <truecurve/base/distributions.hpp>

#include <array>
#include <cmath>
#include <cstddef>

namespace truecurve::detail {

// ln Phi from a table by Hermite's cubic, to about 1e-9: a statistic that is drawn a thousand times needs no more, and
// the observed one comes from here too.
class LogPhi {
 public:
  LogPhi() {
    for (int i = 0; i <= cells; ++i) {
      const double z = -reach + i * step;
      value_[static_cast<std::size_t>(i)] = log_normal_probability(z);
      // The slope is the density over the probability.
      slope_[static_cast<std::size_t>(i)] =
          step * std::exp(-0.5 * z * z - half_log_two_pi - value_[static_cast<std::size_t>(i)]);
    }
  }
  [[nodiscard]] double operator()(double z) const {
    const double place = (z + reach) / step;
    if (!(place >= 0 && place < cells)) return log_normal_probability(z);
    const auto cell = static_cast<std::size_t>(place);
    const double t = place - static_cast<double>(cell);
    const double rise = value_[cell + 1] - value_[cell];
    const double a = slope_[cell] - rise;
    const double b = rise - slope_[cell + 1];
    return value_[cell] + t * (rise + (1 - t) * (a * (1 - t) + b * t));
  }

 private:
  static constexpr double reach = 8;
  static constexpr int cells = 512;
  static constexpr double step = 2 * reach / cells;
  static constexpr double half_log_two_pi = 0.91893853320467274;
  std::array<double, cells + 1> value_{};
  std::array<double, cells + 1> slope_{};
};

}  // namespace truecurve::detail
