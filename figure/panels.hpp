// Panels in rows and columns on one page.
#pragma once

#include "canvas.hpp"

#include <cstddef>

namespace truecurve::detail {

struct Gaps {
  double columns, rows;
};
inline constexpr Gaps with_labels{0.055, 0.125};  // every panel has its own axes
inline constexpr Gaps shared_axes{0.02, 0.03};    // only the outer panels are labelled

/// Place of a panel in a grid that fills the page beneath the title and the legend.
inline Frame panel_of(std::size_t row, std::size_t column, std::size_t rows, std::size_t columns, Gaps gaps) {
  constexpr double left = page_left;
  constexpr double right = page_right;
  constexpr double top = 0.845;
  constexpr double bottom = page_bottom;
  const double between_columns = gaps.columns;
  const double between_rows = gaps.rows;
  const auto r = static_cast<double>(rows);
  const auto c = static_cast<double>(columns);
  const double width = (right - left - between_columns * (c - 1)) / c;
  const double height = (top - bottom - between_rows * (r - 1)) / r;
  const double x = left + static_cast<double>(column) * (width + between_columns);
  const double y = top - static_cast<double>(row) * (height + between_rows);
  return {x, x + width, y - height, y};
}

}  // namespace truecurve::detail
