// What the parts of the canvas share: PLplot's colours, filled circles, and the measure of an ordinary page.
#pragma once

#include "style.hpp"

#include <cmath>
#include <numbers>

#include <plplot/plplot.h>

namespace truecurve::detail {

inline constexpr double mm_an_inch = 25.4;
inline constexpr double dots_per_mm = 96 / mm_an_inch;  // of such a page: 96 dots an inch

inline void use(Colour colour) {
  plscol0(15, colour.red, colour.green, colour.blue);
  plcol0(15);
}

// A polygon that is a circle to the eye, and a tenth of the bytes of PLplot's own.
inline void fill_disc(double x, double y, double half_width, double half_height) {
  constexpr int corners = 24;
  PLFLT px[corners];
  PLFLT py[corners];
  for (int i = 0; i < corners; ++i) {
    const double angle = 2 * std::numbers::pi * i / corners;
    px[i] = x + half_width * std::cos(angle);
    py[i] = y + half_height * std::sin(angle);
  }
  plfill(corners, px, py);
}

}  // namespace truecurve::detail
