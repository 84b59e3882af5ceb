// Samples of a legend, and how wide texts are.
#include "canvas.hpp"
#include "plotting.hpp"

#include <string_view>
#include <utility>

namespace truecurve::detail {

void Canvas::legend_line(double x, double y, Colour colour, double width, LineStyle style) {
  whole_page();
  use(colour);
  thickness(width);
  pattern(style);
  pljoin(x, y, x + 0.026, y);
  pllsty(1);
  back_to_panel();
}

void Canvas::legend_area(double x, double y, Colour colour) {
  whole_page();
  use(colour);
  const double px[] = {x, x + 0.026, x + 0.026, x};
  const double py[] = {y - 0.011, y - 0.011, y + 0.011, y + 0.011};
  plfill(4, px, py);
  back_to_panel();
}

void Canvas::legend_point(double x, double y, Bar bar) {
  whole_page();
  use(detail::point);
  thickness(1.4);
  if (bar == Bar::with) pljoin(x + 0.013, y - 0.016, x + 0.013, y + 0.016);
  fill_disc(x + 0.013, y, point_radius_mm * zoom_ * dots_per_mm / width_,
            point_radius_mm * zoom_ * dots_per_mm / height_);
  back_to_panel();
}

void Canvas::legend_hollow_point(double x, double y) {
  whole_page();
  const double radius = point_radius_mm * zoom_ * dots_per_mm;
  for (const auto& [scale, colour] : {std::pair{1.4, point}, std::pair{0.9, paper}}) {
    use(colour);
    fill_disc(x + 0.013, y, scale * radius / width_, scale * radius / height_);
  }
  back_to_panel();
}

void Canvas::legend_small_point(double x, double y, Colour colour) {
  constexpr double small = 0.7;
  whole_page();
  use(colour);
  const double radius = small * point_radius_mm * zoom_ * dots_per_mm;
  fill_disc(x + 0.013, y, radius / width_, radius / height_);
  back_to_panel();
}

std::string Canvas::fitted(const std::string& text, double width, double scale) const {
  if (text_width(text, scale) <= width) return text;
  // Character by character, each up to where the next one begins.
  const std::string_view all = text;
  const double room = width - text_width("…", scale);
  double used = 0;
  std::size_t end = 0;
  while (end < all.size()) {
    std::size_t next = end + 1;
    while (next < all.size() && (static_cast<unsigned char>(all[next]) & 0xC0) == 0x80) ++next;
    used += text_width(all.substr(end, next - end), scale);
    if (used > room) break;
    end = next;
  }
  return text.substr(0, end) + "…";
}

double Canvas::text_width(std::string_view text, double scale) const {
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
  return width * 0.95 * text_mm * zoom_ * dots_per_mm * scale / width_;
}

}  // namespace truecurve::detail
