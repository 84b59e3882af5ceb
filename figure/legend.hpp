// The row of samples and words above a panel.
#pragma once

#include "canvas.hpp"

#include <algorithm>
#include <functional>
#include <string>
#include <utility>
#include <vector>

namespace truecurve::detail {

class Legend {
 public:
  explicit Legend(Canvas& canvas, double y = legend_y) : canvas_(canvas), y_(y) {}

  void point(const std::string& words, Canvas::Bar bar = Canvas::Bar::without) {
    add(words, [this, bar](double x) { canvas_.legend_point(x, y_, bar); });
  }
  void hollow_point(const std::string& words) {
    add(words, [this](double x) { canvas_.legend_hollow_point(x, y_); });
  }
  void small_point(const std::string& words, Colour colour) {
    add(words, [this, colour](double x) { canvas_.legend_small_point(x, y_, colour); });
  }
  void line(const std::string& words, Colour colour, LineStyle style = LineStyle::solid, double width = curve_width) {
    add(words, [=, this](double x) { canvas_.legend_line(x, y_, colour, width, style); });
  }
  void area(const std::string& words, Colour colour) {
    add(words, [this, colour](double x) { canvas_.legend_area(x, y_, colour); });
  }
  /// The band of a new observation: an area with dashed edges.
  void edged_area(const std::string& words, Colour colour) {
    add(words, [this, colour](double x) {
      canvas_.legend_area(x, y_, colour);
      canvas_.legend_line(x, y_, curve, thin_width, LineStyle::dashed);
    });
  }

  /// Draws what was named, in smaller letters where the row would leave the page.
  void draw() {
    double words = 0;
    for (const Entry& entry : entries_) words += canvas_.text_width(entry.words, ordinary_scale);
    const double room = page_right - page_left - static_cast<double>(entries_.size()) * (sample + gap) + gap;
    const double scale = ordinary_scale * std::clamp(room / std::max(words, 1e-9), smallest_share, 1.0);
    double x = page_left;
    for (const Entry& entry : entries_) {
      if (x + sample > page_right) return;
      entry.draw_sample(x);
      canvas_.text(x + sample, y_, entry.words, Horizontal::left, scale, ink);
      x += sample + canvas_.text_width(entry.words, scale) + gap;
    }
  }

 private:
  static constexpr double ordinary_scale = 0.95;
  static constexpr double smallest_share = 0.4;
  static constexpr double sample = 0.033;
  static constexpr double gap = 0.022;

  struct Entry {
    std::string words;
    std::function<void(double x)> draw_sample;
  };
  void add(const std::string& words, std::function<void(double x)> draw_sample) {
    entries_.push_back({words, std::move(draw_sample)});
  }

  Canvas& canvas_;
  double y_;
  std::vector<Entry> entries_{};
};

}  // namespace truecurve::detail
