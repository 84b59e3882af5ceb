// Some of many rows, whatever repeats along them.
#include <truecurve/base/one_of_each.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace truecurve {

std::size_t one_of_each(std::size_t place, std::size_t stride, std::size_t rows) noexcept {
  const double turns = static_cast<double>(place) * (std::numbers::phi - 1);
  const auto within = static_cast<std::size_t>(static_cast<double>(stride) * (turns - std::floor(turns)));
  return std::min(place * stride + within, rows - 1);
}

}  // namespace truecurve
