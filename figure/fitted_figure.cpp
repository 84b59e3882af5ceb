// Measured against fitted.
#include "fitted_figure.hpp"

#include "drawing.hpp"
#include "notes.hpp"

#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using namespace drawing;

constexpr Frame fitted_frame{page_left, page_right, 0.385, panel_top};
constexpr Frame rest_frame{page_left, page_right, page_bottom, 0.325};

}  // namespace

void draw_fitted(const Fit& fit, const std::filesystem::path& file, const FigureOptions& options) {
  const Observations& rows = fit.observations();
  const bool in_order = rows.predictors().empty();
  const Vector& y = rows.responses();
  const Vector residuals = fit.response_residuals();
  const Vector bars = fit.response_uncertainties();
  Vector fitted(y.size());
  Vector x(y.size());
  for (std::size_t i = 0; i < y.size(); ++i) {
    fitted[i] = y[i] - residuals[i];
    x[i] = in_order ? static_cast<double>(rows.source_rows()[i]) : fitted[i];
  }
  require_shown(options.layout.x.scale, x, rows.source_rows(), "fitted value");
  require_shown(options.layout.y.scale, y, rows.source_rows(), rows.response().name);
  Extent up(y);
  for (const double value : fitted) up.add(value);
  Extent down(residuals);
  for (std::size_t i = 0; i < bars.size(); ++i) {
    const bool is_shown = options.layout.y.scale == AxisScale::linear || y[i] > bars[i];
    if (is_shown) up.add(y[i] - bars[i]);
    up.add(y[i] + bars[i]);
    down.add(residuals[i] - bars[i]);
    down.add(residuals[i] + bars[i]);
  }
  down.add(0);
  const Ticks x_ticks = ticks_along(options.layout.x, Extent(x).low, Extent(x).high, 8);
  const Ticks y_ticks = ticks_along(options.layout.y, up.low, up.high, 6);
  const Ticks r_ticks = ticks_for(down.low, down.high, 4);
  const std::vector<double> ends = {x_ticks.low, x_ticks.high};
  const std::vector<double> constant(2, fitted.size() > 0 ? fitted[0] : 0);
  const std::vector<double> px = thinned(x);
  const std::vector<double> pu = bars.size() > 0 ? thinned(bars) : std::vector<double>();

  Canvas canvas(file, options.layout.size);
  canvas.panel(fitted_frame, x_ticks, y_ticks);
  canvas.line(ends, in_order ? constant : ends, curve, curve_width);
  if (!pu.empty()) canvas.error_bars(px, thinned(y), pu);
  canvas.points(px, thinned(y));
  canvas.axes("", axis_title(options.layout.y, response_name(rows), rows.response().unit, y_ticks),
              Canvas::Labels::hidden);
  Legend legend(canvas);
  legend.point(
      fmt::format("{}{}{}", observed_word(rows), pu.empty() ? "" : " ± standard uncertainty", drawn_words(rows.size())),
      pu.empty() ? Canvas::Bar::without : Canvas::Bar::with);
  legend.line(in_order ? "fitted constant" : "where measured and fitted are equal", curve);
  legend.draw();
  canvas.title(title_of(options.layout, fit.model().text()));
  if (options.equation) draw_equation_notes(canvas, fitted_frame, fit, Horizontal::left);

  canvas.panel(rest_frame, x_ticks, r_ticks);
  canvas.line(ends, std::vector<double>{0, 0}, curve, curve_width);
  const std::vector<double> pr = thinned(residuals);
  if (!pu.empty()) canvas.error_bars(px, pr, pu);
  canvas.points(px, pr);
  canvas.axes(in_order ? axis_title(options.layout.x, "row", "", x_ticks)
                       : axis_title(options.layout.x, "fitted " + response_name(rows), rows.response().unit, x_ticks),
              axis_title("residual", rows.response().unit, r_ticks), Canvas::Labels::shown);
  canvas.finish();
}

}  // namespace truecurve::detail
