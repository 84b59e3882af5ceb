// A page to draw on: PLplot behind a handful of calls, in pixels and data units, written whole or not at all.
#pragma once

#include <truecurve/figure/layout.hpp>
#include <truecurve/io/files.hpp>

#include "memory_stream.hpp"
#include "style.hpp"
#include "ticks.hpp"

#include <filesystem>
#include <span>
#include <string>
#include <string_view>

namespace truecurve::detail {

/// A panel's place on the page as shares of its width and height, from the lower left corner: on a page with ordinary
/// letters. Larger ones move it with everything else, as the margins grow.
struct Frame {
  double left, right, bottom, top;
};

enum class LineStyle { solid, dashed, dotted, dash_dotted, long_dashed };
enum class Horizontal { left, centre, right };

/// One page. Only one exists at a time in a process (PLplot has one state); the constructor waits for its turn.
class Canvas {
 public:
  /// Throws Error: bad_argument (unknown ending), cannot_write.
  explicit Canvas(const std::filesystem::path& file, const FigureSize& size = {});
  /// Drops the page unless finish() was called.
  ~Canvas();
  Canvas(const Canvas&) = delete;
  Canvas& operator=(const Canvas&) = delete;

  /// Puts the finished picture into its place. Throws Error (cannot_write).
  void finish();

  /// Starts a panel; what follows is in its data units.
  void panel(const Frame& frame, const Ticks& x, const Ticks& y);
  /// Frame, grid, ticks and labels of the current panel; `with_x_labels` as an upper panel may share those of a lower
  /// one.
  enum class Labels { shown, hidden };
  void axes(const std::string& x_title, const std::string& y_title, Labels x_labels = Labels::shown,
            Labels y_labels = Labels::shown);

  void line(std::span<const double> x, std::span<const double> y, Colour colour, double width,
            LineStyle style = LineStyle::solid);
  void area(std::span<const double> x, std::span<const double> low, std::span<const double> high, Colour colour);
  void points(std::span<const double> x, std::span<const double> y, double size = 1, Colour colour = point);
  /// Points that are only outlined: rows that were not fitted.
  void hollow_points(std::span<const double> x, std::span<const double> y);
  void error_bars(std::span<const double> x, std::span<const double> y, std::span<const double> half);
  /// From low to high at each x.
  void interval_bars(std::span<const double> x, std::span<const double> low, std::span<const double> high);

  /// A short text beside a point of the panel.
  void label(double x, double y, const std::string& text, Colour colour);

  /// What is seen, at the top of the page.
  void title(const std::string& words);
  /// Text on the page, its place as shares of width and height.
  void text(double x, double y, const std::string& text, Horizontal place, double scale, Colour colour);
  /// Samples for a legend, in page shares.
  void legend_line(double x, double y, Colour colour, double width, LineStyle style);
  void legend_area(double x, double y, Colour colour);
  void legend_hollow_point(double x, double y);
  void legend_small_point(double x, double y, Colour colour);
  enum class Bar { with, without };
  void legend_point(double x, double y, Bar bar);
  /// The text, or as much of it as fits a width (a share of the page's) with an ellipsis.
  [[nodiscard]] std::string fitted(const std::string& text, double width, double scale) const;
  /// Width of a text as a share of the page's.
  [[nodiscard]] double text_width(std::string_view text, double scale) const;
  /// How far rows of text are apart that are `share` of the height apart on an ordinary page.
  [[nodiscard]] double row_step(double share) const;

 private:
  // Where a place of the ordinary layout is on this page, whose margins are as wide as its letters need.
  [[nodiscard]] double across(double x) const;
  [[nodiscard]] double up(double y) const;
  [[nodiscard]] double across_slope() const;
  void put(double x, double y, const std::string& text, Horizontal place, double scale, Colour colour);
  [[nodiscard]] std::string cut(const std::string& text, double width, double scale) const;
  [[nodiscard]] double width_of(std::string_view text, double scale) const;
  [[nodiscard]] double letters_mm() const { return letters_ * zoom_ * text_mm; }
  void thickness(double width) const;
  void pattern(LineStyle style) const;
  void disc(double x, double y, double scale, Colour colour);
  void whole_page();
  void back_to_panel();

  std::filesystem::path file_;
  double width_;        // of the page, in dots
  double height_;       // of the page
  double zoom_;         // of points and lines against those of an ordinary page
  double letters_ = 1;  // of letters against those that grow with the page
  MemoryStream picture_;
  bool open_ = false;
  Frame frame_{0, 1, 0, 1};
  Ticks x_;
  Ticks y_;
};

}  // namespace truecurve::detail
