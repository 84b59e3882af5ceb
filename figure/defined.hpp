// Where a curve and its rows can be drawn.
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>

#include "ticks.hpp"

#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {

/// Those of the points, in their order, at which the curve is finite: a logarithm ends where its axis goes on.
inline Vector where_defined(const Estimate& estimate, const Vector& x) {
  const auto is_finite = [&estimate](const Vector& at) {
    try {
      (void)band_at(estimate, at, 0.95);
      return true;
    } catch (const Error& error) {
      if (error.code() != ErrorCode::not_finite) throw;
      return false;
    }
  };
  if (is_finite(x)) return x;
  std::vector<double> defined;
  for (const double at : x) {
    if (is_finite(Vector(1, at))) defined.push_back(at);
  }
  return defined;
}

/// Places along an axis at which a curve is drawn.
inline Vector places_along(const Ticks& ticks, std::size_t count) {
  Vector places(count);
  for (std::size_t i = 0; i < count; ++i)
    places[i] = ticks.value(static_cast<double>(i) / static_cast<double>(count - 1));
  return places;
}

/// Refuses rows that a logarithmic axis can't show.
inline void require_shown(AxisScale scale, const Vector& values, std::span<const std::uint32_t> rows,
                          const std::string& name) {
  if (scale == AxisScale::linear) return;
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (values[i] > 0) continue;
    const std::uint32_t row = rows[static_cast<std::size_t>(i)];
    throw Error({.code = ErrorCode::unsuitable_row,
                 .message = fmt::format("row {}: {} = {} has no place on a logarithmic axis", row, name, values[i]),
                 .subject = name,
                 .value = fmt::format("{}", values[i]),
                 .remedy = "draw that axis as it is, or leave the row out of the fit"});
  }
}

}  // namespace truecurve::detail
