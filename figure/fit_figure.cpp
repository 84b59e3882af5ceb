// Draws a fit.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/fit_figure.hpp>

#include "counted_figure.hpp"
#include "drawing.hpp"
#include "fitted_figure.hpp"
#include "notes.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using namespace drawing;

constexpr std::size_t fit_points = 961;  // smooth through some tens of oscillations
constexpr Frame main_frame{detail::page_left, detail::page_right, 0.385, detail::panel_top};
constexpr Frame residual_frame{detail::page_left, detail::page_right, detail::page_bottom, 0.325};

// The standard uncertainty of a new reading at x where the given ones differ from row to row: that of the rows beside
// it, linearly between them, the nearest beyond them; rows at the same x are averaged.
Vector uncertainty_along(const Fit& fit, const Vector& at) {
  const Observations& observations = fit.observations();
  const double factor = fit.estimate().scale();
  std::map<double, std::pair<double, int>> sums;
  for (std::size_t i = 0; i < observations.responses().size(); ++i) {
    auto& [sum, count] = sums[observations.predictor(0)[i]];
    sum += observations.uncertainties()[i];
    ++count;
  }
  const auto mean = [factor](const auto& entry) { return factor * entry.second.first / entry.second.second; };
  Vector u(at.size());
  for (std::size_t i = 0; i < at.size(); ++i) {
    const auto above = sums.lower_bound(at[i]);
    if (above == sums.begin() || above == sums.end()) {
      u[i] = mean(above == sums.end() ? *std::prev(above) : *above);
      continue;
    }
    const auto below = std::prev(above);
    const double share = (at[i] - below->first) / (above->first - below->first);
    u[i] = (1 - share) * mean(*below) + share * mean(*above);
  }
  return u;
}

struct Curves {
  std::vector<double> x, value, confidence_low, confidence_high, prediction_low, prediction_high;
  [[nodiscard]] bool has_confidence() const { return std::isfinite(confidence_low.front()); }
  [[nodiscard]] bool has_prediction() const { return std::isfinite(prediction_low.front()); }
};

Curves curves_of(const Estimate& estimate, const Vector& x, Level level, const Vector& reading_uncertainty) {
  Curves curves;
  curves.x.assign(x.begin(), x.end());
  for (const BandPoint& at : band_at(estimate, x, level, reading_uncertainty)) {
    curves.value.push_back(at.value);
    curves.confidence_low.push_back(at.confidence.low);
    curves.confidence_high.push_back(at.confidence.high);
    curves.prediction_low.push_back(at.prediction.low);
    curves.prediction_high.push_back(at.prediction.high);
  }
  return curves;
}

// Everything that is drawn.
struct Picture {
  const Observations& observations;
  Vector bars{};       // standard uncertainties of the responses, or empty
  Vector residuals{};  // on the scale of the measured response, whatever the left side was
  Ticks x_ticks{};
  Curves curves{};
  std::string curve_name = "fitted curve";
  std::optional<Curves> start{};
  FigureLayout layout{};
  const Fit* noted = nullptr;  // whose equation is written into the panel
  double level = 0.95;
};

void draw_legend(Canvas& canvas, const Picture& picture, bool has_bars) {
  const std::string share = level_text(picture.level);
  Legend legend(canvas);
  legend.point(fmt::format("{}{}{}", observed_word(picture.observations), has_bars ? " ± standard uncertainty" : "",
                           drawn_words(picture.observations.size())),
               has_bars ? Canvas::Bar::with : Canvas::Bar::without);
  if (picture.start) legend.line("start", detail::ink, LineStyle::dashed);
  legend.line(picture.curve_name, detail::curve);
  // With a start beside it the row of names is full.
  if (picture.curves.has_confidence())
    legend.area(share + (picture.start ? " band of the curve" : " confidence band of the curve"), detail::confidence);
  if (picture.curves.has_prediction()) legend.edged_area(share + " prediction band", detail::prediction);
  legend.draw();
}

// How far up and down the rows, their uncertainties and the curves reach.
Extent reach_of(const Picture& picture, std::span<const double> responses, std::span<const double> bars) {
  const Curves& curves = picture.curves;
  // A logarithmic axis begins with the rows, as bands and uncertainties may reach to zero and beyond.
  const bool from_rows = picture.layout.y.scale == AxisScale::logarithmic;
  Extent shown(from_rows ? picture.observations.responses() : Vector());
  for (std::size_t i = 0; i < responses.size(); ++i) {
    if (!from_rows) shown.add(responses[i] - bars[i]);
    shown.add(responses[i] + bars[i]);
  }
  for (std::size_t i = 0; i < curves.x.size(); ++i) {
    if (!from_rows) shown.add(curves.value[i]);
    if (!from_rows) shown.add(curves.has_prediction() ? curves.prediction_low[i] : curves.confidence_low[i]);
    shown.add(curves.has_prediction() ? curves.prediction_high[i] : curves.confidence_high[i]);
  }
  // A start may lie far off: it is shown as far as it comes near.
  if (picture.start) {
    const double room = shown.high - shown.low;
    for (const double value : picture.start->value) {
      if (from_rows && !(value > 0)) continue;
      if (std::abs(value - shown.low) < room || std::abs(value - shown.high) < room) shown.add(value);
    }
  }
  return shown;
}

void draw(const Picture& picture, const std::filesystem::path& file) {
  const Observations& observations = picture.observations;
  const bool has_bars = picture.bars.size() != 0;
  const std::vector<double> px = thinned(observations.predictor(0));
  const std::vector<double> py = thinned(observations.responses());
  const std::vector<double> pr = thinned(picture.residuals);
  const std::vector<double> pu = has_bars ? thinned(picture.bars) : std::vector<double>(px.size(), 0.0);
  const Curves& curves = picture.curves;
  const Extent shown = reach_of(picture, py, pu);
  Extent residual_extent;
  for (std::size_t i = 0; i < pr.size(); ++i) {
    residual_extent.add(pr[i] - pu[i]);
    residual_extent.add(pr[i] + pu[i]);
  }
  residual_extent.add(0);
  const Ticks& x_ticks = picture.x_ticks;
  const Ticks y_ticks = ticks_along(picture.layout.y, shown.low, shown.high, 6);
  const Ticks r_ticks = ticks_for(residual_extent.low, residual_extent.high, 4);

  Canvas canvas(file, picture.layout.size);
  canvas.panel(main_frame, x_ticks, y_ticks);
  if (curves.has_prediction()) {
    canvas.area(curves.x, curves.prediction_low, curves.prediction_high, detail::prediction);
    canvas.line(curves.x, curves.prediction_low, detail::curve, detail::thin_width, LineStyle::dashed);
    canvas.line(curves.x, curves.prediction_high, detail::curve, detail::thin_width, LineStyle::dashed);
  }
  if (curves.has_confidence()) canvas.area(curves.x, curves.confidence_low, curves.confidence_high, detail::confidence);
  if (picture.start)
    canvas.line(picture.start->x, picture.start->value, detail::ink, detail::curve_width, LineStyle::dashed);
  canvas.line(curves.x, curves.value, detail::curve, detail::curve_width);
  if (has_bars) canvas.error_bars(px, py, pu);
  canvas.points(px, py);
  canvas.axes("", axis_title(picture.layout.y, response_name(observations), observations.response().unit, y_ticks),
              Canvas::Labels::hidden);
  draw_legend(canvas, picture, has_bars);
  if (picture.noted != nullptr) {
    // Where the curve leaves room.
    const bool rises = curves.value.back() > curves.value.front();
    detail::draw_equation_notes(canvas, main_frame, *picture.noted, rises ? Horizontal::left : Horizontal::right);
  }
  canvas.title(picture.layout.title);

  canvas.panel(residual_frame, x_ticks, r_ticks);
  const std::vector<double> ends = {x_ticks.low, x_ticks.high};
  canvas.line(ends, std::vector<double>{0, 0}, detail::curve, detail::curve_width);
  if (has_bars) canvas.error_bars(px, pr, pu);
  canvas.points(px, pr);
  canvas.axes(
      axis_title(picture.layout.x, observations.predictors()[0].name, observations.predictors()[0].unit, x_ticks),
      axis_title("residual", observations.response().unit, r_ticks), Canvas::Labels::shown);
  canvas.finish();
}

void require_one_predictor(const Observations& observations) {
  if (observations.predictors().size() == 1) return;
  throw Error(
      {.code = ErrorCode::not_supported,
       .message = fmt::format("a figure shows one predictor, and this fit has {}", observations.predictors().size()),
       .subject = "figure",
       .remedy = "draw fits of one predictor only"});
}

// The axis of the predictor; refuses what a logarithmic axis can't show.
Ticks x_ticks_of(const Observations& observations, const FigureLayout& layout) {
  const Vector& x = observations.predictor(0);
  detail::require_shown(layout.x.scale, x, observations.source_rows(), observations.predictors()[0].name);
  detail::require_shown(layout.y.scale, observations.responses(), observations.source_rows(),
                        observations.response().name);
  return ticks_along(layout.x, Extent(x).low, Extent(x).high, 8);
}

}  // namespace

void draw_fit(const Fit& fit, const std::filesystem::path& file, const FigureOptions& options) {
  const Observations& observations = fit.observations();
  if (observations.predictors().size() != 1) return detail::draw_fitted(fit, file, options);
  if (fit.is_counted()) return detail::draw_counted_fit(fit, file, options);
  (void)fit.estimate().coverage_factor(options.level);
  const Ticks x_ticks = x_ticks_of(observations, options.layout);
  const Vector along = detail::where_defined(fit.estimate(), detail::places_along(x_ticks, fit_points));
  const bool varying =
      observations.has_uncertainties() && fit.estimate().new_observation().form == Scatter::Form::by_row;
  Picture picture{
      .observations = observations,
      .bars = fit.response_uncertainties(),
      .residuals = fit.response_residuals(),
      .x_ticks = x_ticks,
      .curves = curves_of(fit.estimate(), along, options.level, varying ? uncertainty_along(fit, along) : Vector()),
      .layout = options.layout,
      .level = options.level};
  picture.layout.title = title_of(options.layout, fit.model().text());
  if (options.equation) picture.noted = &fit;
  if (options.start)
    picture.start = curves_of(*options.start, detail::where_defined(*options.start, along), options.level, {});
  draw(picture, file);
}

void draw_preview(const Preview& preview, const Observations& observations, const std::filesystem::path& file,
                  const FigureLayout& layout) {
  require_one_predictor(observations);
  const Vector& x = observations.predictor(0);
  const Ticks x_ticks = x_ticks_of(observations, layout);
  const Vector along = detail::where_defined(preview.estimate, detail::places_along(x_ticks, fit_points));
  Vector residuals(x.size());
  const std::vector<BandPoint> at_rows = band_at(preview.estimate, x, 0.95);
  for (std::size_t i = 0; i < x.size(); ++i)
    residuals[i] = observations.responses()[i] - at_rows[static_cast<std::size_t>(i)].value;
  FigureLayout titled = layout;
  titled.title = title_of(layout, preview.estimate.model().text());
  draw({.observations = observations,
        .bars = observations.uncertainties(),
        .residuals = std::move(residuals),
        .x_ticks = x_ticks,
        .curves = curves_of(preview.estimate, along, 0.95, {}),
        .curve_name = "curve at its starting values, not fitted",
        .layout = std::move(titled)},
       file);
}

}  // namespace truecurve
