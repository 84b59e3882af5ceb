// Draws a calibration.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/calibration_figure.hpp>

#include "drawing.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using namespace drawing;

constexpr std::size_t calibration_points = 361;
constexpr Frame whole_frame{detail::page_left, detail::page_right, detail::page_bottom, detail::panel_top};
constexpr Frame upper_frame{detail::page_left, detail::page_right, 0.50, detail::panel_top};
constexpr Frame lower_frame{detail::page_left, detail::page_right, detail::page_bottom, 0.40};

struct Band {
  std::vector<double> x, value, low, high, prediction_low, prediction_high;
};

Band band_of(const CalibrationCurve& curve, const Ticks& along, double readings = 1) {
  Band band;
  const Vector x = detail::where_defined(curve.estimate, detail::places_along(along, calibration_points));
  for (const double place : x) {
    const SignalBand at = signal_at(curve, place, readings);
    band.x.push_back(place);
    band.value.push_back(at.value);
    band.low.push_back(at.confidence.low);
    band.high.push_back(at.confidence.high);
    band.prediction_low.push_back(at.prediction.low);
    band.prediction_high.push_back(at.prediction.high);
  }
  return band;
}

bool is_known(const std::vector<double>& values) {
  return std::all_of(values.begin(), values.end(), [](double v) { return std::isfinite(v); });
}

void draw_band(Canvas& canvas, const Band& band) {
  if (is_known(band.prediction_low)) {
    canvas.area(band.x, band.prediction_low, band.prediction_high, detail::prediction);
    canvas.line(band.x, band.prediction_low, detail::curve, detail::thin_width, LineStyle::dashed);
    canvas.line(band.x, band.prediction_high, detail::curve, detail::thin_width, LineStyle::dashed);
  }
  if (is_known(band.low)) canvas.area(band.x, band.low, band.high, detail::confidence);
  canvas.line(band.x, band.value, detail::curve, detail::curve_width);
}

Quantity net(const Calibration& c) {
  return {c.options.blank == BlankUse::subtract ? c.readings.signal.name + " less blank" : c.readings.signal.name,
          c.readings.signal.unit};
}

// "of a new count in 10 min".
std::string new_count_text(double exposure, const Quantity& rate) {
  const std::string unit = rate.unit.starts_with("1/") ? " " + rate.unit.substr(2) : "";
  return fmt::format("of a new count in {}{}", shortest(exposure), unit);
}

// A count's distance from the curve in standard deviations of such a count.
double standardized(const Calibration& c, const Reading& r, double curve) {
  if (!(curve > 0)) return 0;  // nothing is expected, and nothing was counted
  return (r.signal - curve) / (c.curve.scatter.at(curve) / std::sqrt(r.exposure));
}

const LimitRoute* stated_route(const Calibration& c) {
  for (const LimitRoute& route : c.limits) {
    if (route.route == LimitRouteKind::critical_value_and_power) return &route;
  }
  return nullptr;
}

// The limits as upright lines, named to the right of them, where nothing crosses the words.
void draw_limits(Canvas& canvas, const LimitRoute& route, const Ticks& x_ticks, const Ticks& y_ticks) {
  double rightmost = not_a_number;
  std::string label;
  for (const auto& [value, kind] : {std::pair{route.detection, "detection"}, {route.quantitation, "quantitation"}}) {
    if (!(value > x_ticks.low && value < x_ticks.high)) continue;
    canvas.line(std::vector<double>{value, value}, std::vector<double>{y_ticks.low, y_ticks.high}, detail::faint_ink,
                detail::thin_width, LineStyle::dash_dotted);
    label += fmt::format("{}{} limit {}", label.empty() ? "" : ", ", kind, rounded(value, 3));
    rightmost = std::isnan(rightmost) ? value : std::max(rightmost, value);
  }
  if (!label.empty())
    canvas.label(rightmost, y_ticks.value(0.95), fmt::format("{} ({})", label, name(route.route)), detail::ink);
}

// The means of the levels with their intervals; a level without one has none.
void draw_levels(Canvas& canvas, std::span<const CalibrationLevel> levels) {
  std::vector<double> x;
  std::vector<double> y;
  std::vector<double> low;
  std::vector<double> high;
  for (const CalibrationLevel& level : levels) {
    const bool known = !std::isnan(level.interval.low);
    x.push_back(level.amount);
    y.push_back(level.mean);
    low.push_back(known ? level.interval.low : level.mean);
    high.push_back(known ? level.interval.high : level.mean);
  }
  canvas.interval_bars(x, low, high);
  canvas.hollow_points(x, y);
}

// Every reading's distance from the curve, and how far the curve says that readings scatter.
struct LevelResiduals {
  std::vector<double> x{};
  std::vector<double> residuals{};
  std::vector<double> absolute{};
  std::vector<double> scatter_x{};
  std::vector<double> scatter{};
  Extent across{};
};

LevelResiduals level_residuals(const Calibration& c) {
  LevelResiduals of;
  const bool counted = c.readings.are_counts;
  const auto curve_at = [&c](double amount) { return band_at(c.curve.estimate, Vector(1, amount), 0.95)[0].value; };
  for (const Reading& r : c.used) {
    const double curve = curve_at(r.amount);
    of.x.push_back(r.amount);
    of.residuals.push_back(counted ? standardized(c, r, curve) : r.signal - curve);
    of.absolute.push_back(std::abs(of.residuals.back()));
    of.across.add(r.amount);
  }
  for (std::size_t i = 0; i < calibration_points; ++i) {
    const double share = static_cast<double>(i) / (calibration_points - 1);
    const double at = of.across.low + (of.across.high - of.across.low) * share;
    of.scatter_x.push_back(at);
    of.scatter.push_back(counted ? 1 : c.curve.scatter.at(curve_at(at)));
  }
  return of;
}

void name_suspicious(Canvas& canvas, const Calibration& c) {
  std::vector<std::size_t> named;
  for (const Suspicion& s : c.suspicious) {
    if (std::find(named.begin(), named.end(), s.reading.row) != named.end()) continue;
    named.push_back(s.reading.row);
    const double curve = band_at(c.curve.estimate, Vector(1, s.amount), 0.95)[0].value;
    canvas.label(s.amount, s.reading.signal - curve, fmt::format("row {}", s.reading.row), detail::ink);
  }
}

// What the lower panel of residuals shows, in the words above it.
std::string sizes_text(const Calibration& c) {
  if (c.readings.are_counts)
    return fmt::format("line: scatter as of counts (scatter beyond it: {})", p_equals(c.counted_scatter.p));
  return fmt::format(
      "points: |residual|; open: SD of the level; line: assumed scatter (equal scatter of the levels: {})",
      p_equals(c.equal_scatter.family_p));
}

}  // namespace

void draw_calibration(const Calibration& c, const std::filesystem::path& file, const FigureLayout& layout) {
  Extent across;
  Extent up;
  std::vector<double> x;
  std::vector<double> y;
  for (const Reading& r : c.used) {
    x.push_back(r.amount);
    y.push_back(r.signal);
    across.add(r.amount);
    up.add(r.signal);
    const std::uint32_t row[] = {static_cast<std::uint32_t>(r.row)};
    detail::require_shown(layout.x.scale, Vector(1, r.amount), row, c.readings.amount.name);
    detail::require_shown(layout.y.scale, Vector(1, r.signal), row, net(c).name);
  }
  if (across.low > 0 && layout.x.scale == AxisScale::linear) across.add(0);  // the limits lie near zero
  const Ticks x_ticks = ticks_along(layout.x, across.low, across.high, 8);
  const bool counted = c.readings.are_counts;
  const Band band = band_of(c.curve, x_ticks, counted ? c.options.limits.exposure : 1);
  for (const auto* values : {&band.value, &band.prediction_low, &band.prediction_high}) {
    for (const double v : *values) {
      if (v > 0 || layout.y.scale == AxisScale::linear) up.add(v);
    }
  }
  const Ticks y_ticks = ticks_along(layout.y, up.low, up.high, 7);

  Canvas canvas(file, layout.size);
  canvas.title(title_of(layout, "Calibration: " + c.fit.model().text()));
  canvas.panel(whole_frame, x_ticks, y_ticks);
  draw_band(canvas, band);
  if (const LimitRoute* route = stated_route(c)) draw_limits(canvas, *route, x_ticks, y_ticks);
  canvas.points(x, y, 0.7);
  draw_levels(canvas, c.levels);
  canvas.axes(axis_title(layout.x, c.readings.amount.name, c.readings.amount.unit, x_ticks),
              axis_title(layout.y, net(c).name, net(c).unit, y_ticks));
  Legend legend(canvas);
  const std::string share = level_text(c.options.level);
  legend.point("readings");
  legend.hollow_point((counted ? "rates of the levels, " : "level means, ") + share + " interval");
  legend.line("calibration curve", detail::curve);
  legend.area(share + " confidence band", detail::confidence);
  legend.edged_area(counted ? new_count_text(c.options.limits.exposure, c.readings.signal) : "of a new reading",
                    detail::prediction);
  legend.draw();
  canvas.finish();
}

void draw_calibration_residuals(const Calibration& c, const std::filesystem::path& file) {
  const bool counted = c.readings.are_counts;
  const LevelResiduals of = level_residuals(c);
  Extent sizes;
  sizes.add(0);
  for (const double size : of.absolute) sizes.add(size);
  const double reach = sizes.high;
  for (const double scatter : of.scatter) sizes.add(scatter);
  const Ticks x_ticks = ticks_for(of.across.low, of.across.high, 8);
  const Ticks r_ticks = ticks_for(-reach, reach, 5);
  const Ticks s_ticks = ticks_for(sizes.low, sizes.high, 4);
  std::vector<double> level_x;
  std::vector<double> sds;
  for (const CalibrationLevel& level : c.levels) {
    if (std::isnan(level.sd) || counted) continue;
    level_x.push_back(level.amount);
    sds.push_back(level.sd);
  }

  Canvas canvas(file);
  canvas.title(fmt::format("Residuals by level: {}", c.fit.model().text()));
  canvas.panel(upper_frame, x_ticks, r_ticks);
  canvas.line(std::vector<double>{x_ticks.low, x_ticks.high}, std::vector<double>{0, 0}, detail::curve,
              detail::curve_width);
  canvas.points(of.x, of.residuals);
  name_suspicious(canvas, c);
  const std::string unit = counted ? "" : c.readings.signal.unit;
  canvas.axes("", axis_title(counted ? "standardized residual" : "residual", unit, r_ticks), Canvas::Labels::hidden);
  canvas.text(upper_frame.left, upper_frame.top + 0.022,
              counted ? "distance from the curve, in standard deviations of counts"
                      : "named: suspicious readings (Grubbs, Cochran)",
              Horizontal::left, 0.9, detail::faint_ink);
  canvas.panel(lower_frame, x_ticks, s_ticks);
  if (is_known(of.scatter)) canvas.line(of.scatter_x, of.scatter, detail::curve, detail::curve_width);
  canvas.points(of.x, of.absolute, 0.7);
  canvas.hollow_points(level_x, sds);
  canvas.axes(axis_title(c.readings.amount.name, c.readings.amount.unit, x_ticks),
              axis_title(counted ? "|standardized residual|" : "|residual|", unit, s_ticks));
  canvas.text(lower_frame.left, lower_frame.top + 0.022, sizes_text(c), Horizontal::left, 0.9, detail::faint_ink);
  canvas.finish();
}

void draw_reading(const CalibrationCurve& curve, const Quantified& unknown, const Quantity& amount,
                  const Quantity& signal, const std::filesystem::path& file) {
  const Amount& a = unknown.amount;
  if (std::isnan(a.amount)) {
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = fmt::format("the signal {} of '{}' is not reached by the curve", a.net_signal, unknown.sample),
         .subject = unknown.sample,
         .remedy = {"draw another sample", {Action::draw_sample}}});
  }
  const double dilution = unknown.unknown.dilution;
  const double x = a.amount / dilution;
  const double low = a.interval.low / dilution;
  const double high = a.interval.high / dilution;
  const Range range = curve.estimate.ranges()[0];
  Extent across;
  for (const double at : {range.low, range.high, x}) across.add(at);
  if (std::isfinite(low) && low > range.low - (range.high - range.low)) across.add(low);
  if (std::isfinite(high) && high < range.high + (range.high - range.low)) across.add(high);
  const Ticks x_ticks = ticks_for(across.low, across.high, 8);
  // The amount's interval ends where the signal leaves the band of the mean of as many readings.
  const std::vector<double>& exposures = unknown.unknown.exposures;
  const double m = curve.are_counts ? std::accumulate(exposures.begin(), exposures.end(), 0.0)
                                    : static_cast<double>(unknown.unknown.signals.size());
  const Band band = band_of(curve, x_ticks, m);
  Extent up;
  for (const auto* values : {&band.value, &band.prediction_low, &band.prediction_high}) {
    for (const double v : *values) up.add(v);
  }
  up.add(a.net_signal);
  const Ticks y_ticks = ticks_for(up.low, up.high, 7);

  Canvas canvas(file);
  canvas.title(fmt::format("{}: {} = {}{}", unknown.sample, amount.name,
                           with_uncertainty(x, a.standard_uncertainty / dilution),
                           amount.unit.empty() ? "" : " " + amount.unit));
  canvas.panel(whole_frame, x_ticks, y_ticks);
  const auto clamped = [](double v, const Ticks& ticks) { return std::clamp(v, ticks.low, ticks.high); };
  if (std::isfinite(low) && std::isfinite(high)) {
    const std::vector<double> ends = {clamped(low, x_ticks), clamped(high, x_ticks)};
    canvas.area(ends, std::vector<double>(2, y_ticks.low), std::vector<double>(2, clamped(a.net_signal, y_ticks)),
                detail::rule);
  }
  draw_band(canvas, band);
  canvas.line(std::vector<double>{x_ticks.low, x, x}, std::vector<double>{a.net_signal, a.net_signal, y_ticks.low},
              detail::point, detail::curve_width, LineStyle::dashed);
  canvas.points(std::vector<double>{x}, std::vector<double>{a.net_signal}, 1.6);
  canvas.axes(axis_title(amount.name, amount.unit, x_ticks),
              axis_title(curve.blank != 0 ? signal.name + " less blank" : signal.name, signal.unit, y_ticks));
  Legend legend(canvas);
  legend.line("calibration curve", detail::curve);
  const std::string share = level_text(curve.level);
  legend.area(share + " confidence band", detail::confidence);
  legend.edged_area(curve.are_counts ? new_count_text(m, signal)
                    : m == 1         ? "of a new reading"
                                     : fmt::format("of the mean of {} new readings", m),
                    detail::prediction);
  legend.area(share + " interval of the amount", detail::rule);
  legend.draw();
  canvas.finish();
}

}  // namespace truecurve
