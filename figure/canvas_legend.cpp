// Samples of a legend, and how wide texts are.
#include "canvas.hpp"
#include "plotting.hpp"

#include <string_view>
#include <utility>

namespace truecurve::detail {

void Canvas::legend_line(double at_x, double at_y, Colour colour, double width, LineStyle style) {
  const double x = across(at_x);
  const double y = up(at_y);
  whole_page();
  use(colour);
  thickness(width);
  pattern(style);
  pljoin(x, y, x + 0.026 * across_slope(), y);
  pllsty(1);
  back_to_panel();
}

void Canvas::legend_area(double at_x, double at_y, Colour colour) {
  const double x = across(at_x);
  const double y = up(at_y);
  whole_page();
  use(colour);
  const double px[] = {x, x + 0.026 * across_slope(), x + 0.026 * across_slope(), x};
  const double py[] = {y - 0.011, y - 0.011, y + 0.011, y + 0.011};
  plfill(4, px, py);
  back_to_panel();
}

void Canvas::legend_point(double at_x, double at_y, Bar bar) {
  const double x = across(at_x);
  const double y = up(at_y);
  whole_page();
  use(detail::point);
  thickness(1.4);
  if (bar == Bar::with) pljoin(x + 0.013 * across_slope(), y - 0.016, x + 0.013 * across_slope(), y + 0.016);
  fill_disc(x + 0.013 * across_slope(), y, point_radius_mm * zoom_ * dots_per_mm / width_,
            point_radius_mm * zoom_ * dots_per_mm / height_);
  back_to_panel();
}

void Canvas::legend_hollow_point(double at_x, double at_y) {
  const double x = across(at_x);
  const double y = up(at_y);
  whole_page();
  const double radius = point_radius_mm * zoom_ * dots_per_mm;
  for (const auto& [scale, colour] : {std::pair{1.4, point}, std::pair{0.9, paper}}) {
    use(colour);
    fill_disc(x + 0.013 * across_slope(), y, scale * radius / width_, scale * radius / height_);
  }
  back_to_panel();
}

void Canvas::legend_small_point(double at_x, double at_y, Colour colour) {
  const double x = across(at_x);
  const double y = up(at_y);
  constexpr double small = 0.7;
  whole_page();
  use(colour);
  const double radius = small * point_radius_mm * zoom_ * dots_per_mm;
  fill_disc(x + 0.013 * across_slope(), y, radius / width_, radius / height_);
  back_to_panel();
}

std::string Canvas::fitted(const std::string& text, double width, double scale) const {
  return cut(text, width * across_slope(), scale);
}

std::string Canvas::cut(const std::string& text, double width, double scale) const {
  if (width_of(text, scale) <= width) return text;
  // Character by character, each up to where the next one begins.
  const std::string_view all = text;
  const double room = width - width_of("…", scale);
  double used = 0;
  std::size_t end = 0;
  while (end < all.size()) {
    std::size_t next = end + 1;
    while (next < all.size() && (static_cast<unsigned char>(all[next]) & 0xC0) == 0x80) ++next;
    used += width_of(all.substr(end, next - end), scale);
    if (used > room) break;
    end = next;
  }
  return text.substr(0, end) + "…";
}

double Canvas::text_width(std::string_view text, double scale) const { return width_of(text, scale) / across_slope(); }

double Canvas::width_of(std::string_view text, double scale) const {
  // Widths in shares of the type size, close enough to any sans-serif face to space the entries of a legend.
  double width = 0;
  for (const char c : text) {
    if ((static_cast<unsigned char>(c) & 0xC0) == 0x80) continue;
    const std::string_view narrow = "iljtf.,:;'|()[]I ";
    const std::string_view wide = "mwMW%@";
    const bool fills_square = static_cast<unsigned char>(c) >= 0xE3;  // from U+3000 on: East Asian letters, pictures
    width += narrow.find(c) != std::string_view::npos ? 0.35
             : fills_square                           ? 1.1
             : wide.find(c) != std::string_view::npos ? 0.92
                                                      : 0.62;
  }
  return width * 0.95 * letters_mm() * dots_per_mm * scale / width_;
}

}  // namespace truecurve::detail
