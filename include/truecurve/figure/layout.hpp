// How a figure is laid out: its size, its title, its axes.
//
// Example:
//     const truecurve::FigureLayout layout{.x = {.scale = truecurve::AxisScale::logarithmic, .high = 1000},
//                                          .title = "Melt 7",
//                                          .size = {160, 100, truecurve::LengthUnit::millimetre}};
//     EXPECT_EQ(layout.y.scale, truecurve::AxisScale::linear);
#pragma once

#include <truecurve/base/numeric.hpp>

#include <string>

namespace truecurve {

enum class AxisScale { linear, logarithmic };

/// A logarithmic axis shows only what is above zero: a row that is not is refused with its number, a band is drawn as
/// far as it goes.
struct AxisLayout {
  AxisScale scale = AxisScale::linear;
  double low = not_a_number;  ///< where the axis begins and ends; NaN: from the data, with a margin
  double high = not_a_number;
  std::string label{};  ///< empty: the quantity and its unit
};

enum class LengthUnit { pixel, millimetre };

/// Width and height, and how large the letters are. In millimetres a PNG has 300 dots an inch, otherwise 96; a pixel is
/// 1/96 inch in SVG and PDF.
struct FigureSize {
  double width = 0;  ///< 0: 1280 x 800 pixels of PNG and SVG, A4 across of PDF
  double height = 0;
  LengthUnit unit = LengthUnit::pixel;
  double font = 0;  ///< in points (1/72 inch); 0: 11.3 on a page of 1280 x 800 pixels, and in proportion on others
};

/// Points and lines grow and shrink with the size, and so do letters unless their size is given.
struct FigureLayout {
  AxisLayout x{};
  AxisLayout y{};
  std::string title{};  ///< empty: what is drawn, as a model's text
  FigureSize size{};
};

}  // namespace truecurve
