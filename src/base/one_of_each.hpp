// Some of many rows, whatever repeats along them.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <numbers>

namespace truecurve::detail {

/// The row that is taken of the place-th `stride` rows, of `rows` in all, counted from 0: another one each time, by the
/// golden ratio. Every n-th row would be the same place again and again where the places of the rows repeat.
[[nodiscard]] inline std::size_t one_of_each(std::size_t place, std::size_t stride, std::size_t rows) {
  const double turns = static_cast<double>(place) * (std::numbers::phi - 1);
  const auto within = static_cast<std::size_t>(static_cast<double>(stride) * (turns - std::floor(turns)));
  return std::min(place * stride + within, rows - 1);
}

}  // namespace truecurve::detail
