// The row of samples and words above a panel.
#pragma once

#include "canvas.hpp"

#include <string>

namespace truecurve::detail {

class Legend {
 public:
  explicit Legend(Canvas& canvas, double y = legend_y) : canvas_(canvas), y_(y) {}

  void point(const std::string& words, Canvas::Bar bar = Canvas::Bar::without) {
    canvas_.legend_point(x_, y_, bar);
    label(words);
  }
  void hollow_point(const std::string& words) {
    canvas_.legend_hollow_point(x_, y_);
    label(words);
  }
  void small_point(const std::string& words, Colour colour) {
    canvas_.legend_small_point(x_, y_, colour);
    label(words);
  }
  void line(const std::string& words, Colour colour, LineStyle style = LineStyle::solid, double width = curve_width) {
    canvas_.legend_line(x_, y_, colour, width, style);
    label(words);
  }
  void area(const std::string& words, Colour colour) {
    canvas_.legend_area(x_, y_, colour);
    label(words);
  }
  /// The band of a new observation: an area with dashed edges.
  void edged_area(const std::string& words, Colour colour) {
    canvas_.legend_area(x_, y_, colour);
    line(words, curve, LineStyle::dashed, thin_width);
  }

 private:
  void label(const std::string& words) {
    canvas_.text(x_ + 0.033, y_, words, Horizontal::left, 0.95, ink);
    x_ += 0.033 + canvas_.text_width(words, 0.95) + 0.022;
  }

  Canvas& canvas_;
  double x_ = page_left;
  double y_;
};

}  // namespace truecurve::detail
