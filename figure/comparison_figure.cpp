// Draws a comparison.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/comparison_figure.hpp>

#include "drawing.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using namespace drawing;

constexpr std::size_t most_curves = std::size(detail::candidates);
constexpr std::size_t most_panels = 9;
constexpr std::size_t most_dots = 20;
constexpr std::size_t comparison_points = 721;
constexpr Frame overlay_frame{detail::page_left, 0.735, detail::page_bottom, detail::panel_top};
constexpr double legend_left = 0.755;
constexpr double legend_width = 0.185;

// Beyond this the axis of the criterion ends: what lies farther is out of the running, however far.
constexpr double far_behind = 30;

struct Look {
  Colour colour;
  LineStyle style;
  double width;
};

Look look_of(std::size_t place) {
  constexpr LineStyle styles[] = {LineStyle::solid, LineStyle::dashed, LineStyle::dotted, LineStyle::dash_dotted,
                                  LineStyle::long_dashed};
  return {detail::candidates[place % most_curves], styles[place % std::size(styles)],
          place < std::size(styles) ? detail::curve_width : 1.4};
}

void require_one_predictor(const Comparison& comparison) {
  for (const Candidate& c : comparison.candidates) {
    const auto& first = comparison.candidates.front().fit.observations();
    const auto& these = c.fit.observations();
    if (these.predictors().size() == 1 && these.predictors()[0].name == first.predictors()[0].name) continue;
    throw Error({.code = ErrorCode::not_supported,
                 .message = fmt::format("a figure shows one predictor, and '{}' has {}", c.name,
                                        these.predictors().size() == 1 ? "another" : "several or none"),
                 .subject = "figure",
                 .remedy = {"draw candidates of one predictor, or the criterion of any", {Action::draw_criterion}}});
  }
}

std::string behind_text(const Candidate& c) {
  return std::isnan(c.delta_aicc) ? "no AICc"
         : c.delta_aicc == 0      ? "lowest AICc"
                                  : fmt::format("{:.1f} behind", c.delta_aicc);
}

struct Points {
  std::vector<double> x;
  std::vector<double> y;
};

Points held_out_points(const Comparison& comparison) {
  Points points;
  if (comparison.held_out.empty()) return points;
  for (const HeldOutRow& row : comparison.held_out.front().rows) {
    points.x.push_back(row.at.front());
    points.y.push_back(row.measured);
  }
  return points;
}

// The curve where it is defined; breaks elsewhere.
std::vector<Points> pieces_of(const Estimate& estimate, const Ticks& x) {
  std::vector<Points> pieces(1);
  for (const double at : detail::places_along(x, comparison_points)) {
    try {
      const double y = band_at(estimate, Vector(1, at), 0.95)[0].value;
      pieces.back().x.push_back(at);
      pieces.back().y.push_back(y);
    } catch (const Error& error) {
      if (error.code() != ErrorCode::not_finite) throw;
      if (!pieces.back().x.empty()) pieces.emplace_back();
    }
  }
  return pieces;
}

// The names beside the overlay: the rows, and the drawn candidates with what they lie behind the best.
void name_candidates(Canvas& canvas, const Comparison& comparison, std::size_t drawn, bool has_held_out) {
  const Observations& rows = comparison.candidates.front().fit.observations();
  double y = overlay_frame.top - 0.015;
  const bool has_bars = rows.has_uncertainties();
  canvas.legend_point(legend_left, y, has_bars ? Canvas::Bar::with : Canvas::Bar::without);
  canvas.text(legend_left + 0.036, y, observed_word(rows), Horizontal::left, 0.95, detail::ink);
  if (has_bars) {
    y -= canvas.row_step(0.032);
    canvas.text(legend_left + 0.036, y, "± standard uncertainty", Horizontal::left, 0.85, detail::faint_ink);
  }
  if (const std::string words = drawn_words(rows.size()); !words.empty()) {
    y -= canvas.row_step(0.032);
    canvas.text(legend_left + 0.036, y, words.substr(1), Horizontal::left, 0.85, detail::faint_ink);
  }
  if (has_held_out) {
    y -= canvas.row_step(0.042);
    canvas.legend_hollow_point(legend_left, y);
    canvas.text(legend_left + 0.036, y, "held out, not fitted", Horizontal::left, 0.95, detail::ink);
  }
  y -= canvas.row_step(0.06);
  for (std::size_t i = 0; i < drawn; ++i) {
    const Candidate& c = comparison.candidates[i];
    const Look look = look_of(i);
    canvas.legend_line(legend_left, y, look.colour, look.width, look.style);
    canvas.text(legend_left + 0.036, y, canvas.fitted(c.name, legend_width, 0.95), Horizontal::left, 0.95, detail::ink);
    canvas.text(legend_left + 0.036, y - canvas.row_step(0.032),
                behind_text(c) + (c.name == comparison.suggestion.name ? ", suggested" : ""), Horizontal::left, 0.85,
                detail::faint_ink);
    y -= canvas.row_step(0.078);
  }
  if (drawn < comparison.candidates.size())
    canvas.text(legend_left, y, fmt::format("and {} more, not drawn", comparison.candidates.size() - drawn),
                Horizontal::left, 0.85, detail::faint_ink);
}

}  // namespace

void draw_comparison(const Comparison& comparison, const std::filesystem::path& file, const FigureLayout& layout) {
  require_one_predictor(comparison);
  const Observations& rows = comparison.candidates.front().fit.observations();
  const Points measured{thinned(rows.predictor(0)), thinned(rows.responses())};
  const std::vector<double> bars = rows.has_uncertainties() ? thinned(rows.uncertainties()) : std::vector<double>();
  const Points held = held_out_points(comparison);
  detail::require_shown(layout.x.scale, rows.predictor(0), rows.source_rows(), rows.predictors()[0].name);
  detail::require_shown(layout.y.scale, rows.responses(), rows.source_rows(), rows.response().name);
  Extent across;
  Extent up;
  for (const Points* points : {&measured, &held}) {
    for (const double x : points->x) across.add(x);
    for (const double y : points->y) up.add(y);
  }
  for (std::size_t i = 0; i < bars.size(); ++i) {
    up.add(measured.y[i] + bars[i]);
    if (layout.y.scale == AxisScale::linear) up.add(measured.y[i] - bars[i]);
  }
  const Ticks x_ticks = ticks_along(layout.x, across.low, across.high, 6);
  const std::size_t drawn = std::min(most_curves, comparison.candidates.size());
  std::vector<std::vector<Points>> curves;
  for (std::size_t i = 0; i < drawn; ++i) curves.push_back(pieces_of(comparison.candidates[i].fit.estimate(), x_ticks));

  // The rows set the height; a curve that leaves them by far is cut where it leaves the page.
  const bool is_linear = layout.y.scale == AxisScale::linear;
  const double room = 0.35 * (up.high - up.low);
  const double lowest = is_linear ? up.low - room : up.low;
  const double highest = up.high + room;
  for (const auto& pieces : curves) {
    for (const Points& piece : pieces) {
      for (const double y : piece.y) up.add(std::clamp(y, lowest, highest));
    }
  }
  const Ticks y_ticks = ticks_along(layout.y, up.low, up.high, 7);

  Canvas canvas(file, layout.size);
  canvas.title(title_of(layout, fmt::format("{} candidates for {} against {}", comparison.candidates.size(),
                                            rows.response().name, rows.predictors()[0].name)));
  canvas.panel(overlay_frame, x_ticks, y_ticks);
  // The best is drawn last, on top.
  for (std::size_t i = drawn; i-- > 0;) {
    const Look look = look_of(i);
    for (const Points& piece : curves[i]) {
      if (piece.x.size() > 1) canvas.line(piece.x, piece.y, look.colour, look.width, look.style);
    }
  }
  if (!bars.empty()) canvas.error_bars(measured.x, measured.y, bars);
  canvas.points(measured.x, measured.y);
  if (!held.x.empty()) canvas.hollow_points(held.x, held.y);
  canvas.axes(axis_title(layout.x, rows.predictors()[0].name, rows.predictors()[0].unit, x_ticks),
              axis_title(layout.y, response_name(rows), rows.response().unit, y_ticks));
  name_candidates(canvas, comparison, drawn, !held.x.empty());
  canvas.finish();
}

void draw_comparison_residuals(const Comparison& comparison, const std::filesystem::path& file) {
  require_one_predictor(comparison);
  const Observations& rows = comparison.candidates.front().fit.observations();
  const std::size_t drawn = std::min(most_panels, comparison.candidates.size());
  const std::size_t columns = drawn <= 2 ? 1 : drawn <= 6 ? 2 : 3;
  const std::size_t lines = (drawn + columns - 1) / columns;
  const Vector& x = rows.predictor(0);
  std::vector<Vector> residuals;
  Extent up;
  for (std::size_t i = 0; i < drawn; ++i) {
    residuals.push_back(comparison.candidates[i].fit.response_residuals());
    for (const double r : residuals.back()) up.add(r);
  }
  const double reach = std::max(-up.low, up.high);
  const Ticks x_ticks = ticks_for(Extent(x).low, Extent(x).high, columns == 1 ? 8 : 5);
  const Ticks y_ticks = ticks_for(-reach, reach, 4);
  Canvas canvas(file);
  canvas.title(fmt::format("Residuals of {}, one scale for all", rows.response().name));
  for (std::size_t i = 0; i < drawn; ++i) {
    const Candidate& c = comparison.candidates[i];
    const std::size_t row = i / columns;
    const std::size_t column = i % columns;
    const Frame frame = detail::panel_of(row, column, lines, columns, detail::Gaps{0.025, 0.07});
    canvas.panel(frame, x_ticks, y_ticks);
    const Look look = look_of(i);
    canvas.line(std::vector<double>{x_ticks.low, x_ticks.high}, std::vector<double>{0, 0}, look.colour,
                detail::curve_width);
    const Points points{thinned(x), thinned(residuals[i])};
    canvas.points(points.x, points.y, columns == 3 ? 0.75 : 1);
    const bool lowest = i + columns >= drawn;
    canvas.axes(lowest ? axis_title(rows.predictors()[0].name, rows.predictors()[0].unit, x_ticks) : "",
                column == 0 ? axis_title("residual", rows.response().unit, y_ticks) : "",
                lowest ? Canvas::Labels::shown : Canvas::Labels::hidden,
                column == 0 ? Canvas::Labels::shown : Canvas::Labels::hidden);
    const std::string remark = fmt::format("{}. {}", i + 1, c.name);
    canvas.text(frame.left, frame.top + 0.022, canvas.fitted(remark, 0.68 * (frame.right - frame.left), 0.9),
                Horizontal::left, 0.9, detail::ink);
    canvas.text(frame.right, frame.top + 0.022, behind_text(c), Horizontal::right, 0.85, detail::faint_ink);
  }
  canvas.finish();
}

void draw_criterion(const Comparison& comparison, const std::filesystem::path& file) {
  std::vector<const Candidate*> shown;
  for (const Candidate& c : comparison.candidates) {
    if (std::isfinite(c.delta_aicc) && shown.size() < most_dots) shown.push_back(&c);
  }
  if (shown.empty()) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = "no candidate has an AICc to be drawn",
                 .subject = "figure",
                 .remedy = "measure at more points, or compare candidates with fewer parameters"});
  }
  double farthest = 4;
  for (const Candidate* c : shown) farthest = std::max(farthest, c->delta_aicc);
  const bool is_cut = farthest > far_behind;
  const Ticks x_ticks = ticks_for(0, is_cut ? far_behind : farthest, 7);
  const auto count = static_cast<double>(shown.size());
  const Ticks y_ticks{.low = 0, .high = count};
  constexpr double name_space = 0.25;
  const Frame frame{0.05 + name_space, 0.80, 0.125, 0.86};
  Canvas canvas(file);
  canvas.title(
      fmt::format("AICc above the lowest, for {}", comparison.candidates.front().fit.observations().response().name));
  canvas.panel(frame, x_ticks, y_ticks);
  const std::vector<double> reach = {std::max(0.0, x_ticks.low), aicc_reach};
  canvas.area(reach, std::vector<double>{0, 0}, std::vector<double>{count, count}, detail::prediction);
  for (std::size_t i = 0; i < shown.size(); ++i) {
    const Candidate& c = *shown[i];
    const double y = count - 0.5 - static_cast<double>(i);
    const double page_y = frame.bottom + (frame.top - frame.bottom) * y / count;
    const double x = std::min(c.delta_aicc, far_behind);
    canvas.line(std::vector<double>{std::max(0.0, x_ticks.low), x_ticks.high}, std::vector<double>{y, y}, detail::rule,
                detail::thin_width);
    const bool suggested = c.name == comparison.suggestion.name;
    if (is_cut && c.delta_aicc > far_behind) {
      canvas.text(frame.right + 0.004, page_y, "→", Horizontal::left, 1, detail::point);
    } else {
      canvas.points(std::vector<double>{x}, std::vector<double>{y}, suggested ? 2.2 : 1.6,
                    suggested ? detail::curve : detail::point);
    }
    canvas.text(frame.left - 0.018, page_y, canvas.fitted(c.name, name_space - 0.02, 0.95), Horizontal::right, 0.95,
                detail::ink);
    const std::string weight = std::isnan(c.weight) ? "not counted" : fmt::format("{:.3f}", c.weight);
    canvas.text(0.895, page_y, fmt::format("{:.1f}", c.delta_aicc), Horizontal::right, 0.95, detail::ink);
    canvas.text(0.985, page_y, weight, Horizontal::right, std::isnan(c.weight) ? 0.8 : 0.95, detail::ink);
  }
  canvas.axes("AICc behind the lowest", "");
  canvas.text(0.895, frame.top + 0.03, "behind", Horizontal::right, 0.85, detail::faint_ink);
  canvas.text(0.985, frame.top + 0.03, "weight", Horizontal::right, 0.85, detail::faint_ink);
  canvas.text(frame.left, frame.top + 0.03,
              comparison.suggestion.name.empty() ? "shaded: within 2 of the lowest"
                                                 : "large: suggested; shaded: within 2 of the lowest",
              Horizontal::left, 0.85, detail::faint_ink);
  canvas.finish();
}

}  // namespace truecurve
