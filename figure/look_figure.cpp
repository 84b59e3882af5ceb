// Draws a first look.
#include <truecurve/assess/smooth.hpp>
#include <truecurve/assess/straighten.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/look_figure.hpp>

#include "drawing.hpp"

#include <algorithm>
#include <cmath>
#include <set>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using namespace drawing;

constexpr Frame scatter_frame{detail::page_left, 0.60, detail::page_bottom, detail::panel_top};
constexpr std::size_t panels = 3;

void draw_way(Canvas& canvas, const Frame& frame, const Straightening& way) {
  const Vector& x = way.places;
  const Vector& z = way.fit.left_side_observations().responses();
  const Ticks x_ticks = ticks_for(Extent(x).low, Extent(x).high, 4);
  const Ticks z_ticks = ticks_for(Extent(z).low, Extent(z).high, 3);
  canvas.panel(frame, x_ticks, z_ticks);
  const Vector& p = way.fit.estimate().parameters();
  canvas.line(std::vector<double>{x_ticks.low, x_ticks.high},
              std::vector<double>{p[0] + p[1] * x_ticks.low, p[0] + p[1] * x_ticks.high}, detail::curve,
              detail::curve_width);
  canvas.points(thinned(x), thinned(z), 0.8);
  canvas.axes(axis_title(way.across, "", x_ticks), axis_title(way.fit.model().left_side(), "", z_ticks));
  canvas.text(frame.left, frame.top + 0.022, way.sentence, Horizontal::left, 0.85, detail::ink);
}

}  // namespace

void draw_look(const Observations& observations, const std::filesystem::path& file, double span,
               const FigureLayout& layout) {
  if (observations.predictors().size() != 1) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "a first look shows one column against another",
                 .subject = "look",
                 .remedy = {"choose two columns", {Action::choose_predictor}, {Action::choose_response}}});
  }
  const Vector& x = observations.predictor(0);
  const Vector& y = observations.responses();
  detail::require_shown(layout.x.scale, x, observations.source_rows(), observations.predictors()[0].name);
  detail::require_shown(layout.y.scale, y, observations.source_rows(), observations.response().name);
  const Ticks x_ticks = ticks_along(layout.x, Extent(x).low, Extent(x).high, 6);
  const Ticks y_ticks = ticks_along(layout.y, Extent(y).low, Extent(y).high, 6);
  std::set<double> distinct(x.begin(), x.end());
  const bool guided = distinct.size() >= 4;
  SmoothGuide guide;
  if (guided || !std::isnan(span)) guide = smooth_guide(x, y, 201, span);
  const std::vector<Straightening> ways = straightenings(observations);

  Canvas canvas(file, layout.size);
  const std::string& x_name = observations.predictors()[0].name;
  const std::string& y_name = observations.response().name;
  canvas.title(title_of(layout, fmt::format("{} against {}", y_name, x_name)));
  canvas.panel(scatter_frame, x_ticks, y_ticks);
  if (guide.x.size() > 0) {
    const std::vector<double> gx(guide.x.begin(), guide.x.end());
    const std::vector<double> gy(guide.y.begin(), guide.y.end());
    canvas.line(gx, gy, detail::curve, detail::curve_width);
  }
  canvas.points(thinned(x), thinned(y));
  canvas.axes(axis_title(layout.x, x_name, observations.predictors()[0].unit, x_ticks),
              axis_title(layout.y, y_name, observations.response().unit, y_ticks));
  if (guide.x.size() > 0) {
    canvas.text(scatter_frame.left, scatter_frame.top + 0.025,
                fmt::format("line: smooth guide, each place from {:.0f} % of the points{}", 100 * guide.span,
                            drawn_words(x.size())),
                Horizontal::left, 0.9, detail::faint_ink);
  }
  for (std::size_t k = 0; k < std::min(panels, ways.size()); ++k) {
    const double top = 0.90 - 0.305 * static_cast<double>(k);
    draw_way(canvas, {0.705, 0.975, top - 0.175, top}, ways[k]);
  }
  canvas.finish();
}

}  // namespace truecurve
