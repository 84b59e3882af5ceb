// Limits as arrows; the probability plot.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/censored_figure.hpp>

#include "drawing.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <span>
#include <utility>
#include <vector>

namespace truecurve {
namespace {

using namespace drawing;

constexpr std::size_t censored_points = 241;
constexpr Frame censored_frame{detail::page_left, detail::page_right, detail::page_bottom, detail::panel_top};
constexpr double middle_share = 0.8;

std::string distribution_word(Distribution distribution) {
  return distribution == Distribution::weibull ? "Weibull" : std::string(name(distribution));
}

// The curve's scale to that on which it scatters evenly, and back.
double to_even(const CensoredFit& fit, double response) {
  return fit.distribution == Distribution::normal ? response : std::log(response);
}
double from_even(const CensoredFit& fit, double even) {
  return fit.distribution == Distribution::normal ? even : std::exp(even);
}

// An arrow along the axis of responses, from a limit to where the response lies.
void arrow(Canvas& canvas, const Ticks& x_ticks, const Ticks& y_ticks, double x, double y, bool up) {
  constexpr double length = 0.05;  // shares of the axes
  constexpr double head = 0.016;
  constexpr double half_width = 0.005;
  const double sign = up ? 1 : -1;
  const double tip = y_ticks.value(y_ticks.share(y) + sign * length);
  const double neck = y_ticks.value(y_ticks.share(y) + sign * (length - head));
  const double left = x_ticks.value(x_ticks.share(x) - half_width);
  const double right = x_ticks.value(x_ticks.share(x) + half_width);
  canvas.line(std::vector<double>{x, x}, std::vector<double>{y, tip}, detail::point, detail::thin_width);
  canvas.line(std::vector<double>{left, x, right}, std::vector<double>{neck, tip, neck}, detail::point,
              detail::thin_width);
}

// How many limits stand on one another.
void label_stacked(Canvas& canvas, std::span<const double> x, std::span<const double> y) {
  std::map<std::pair<double, double>, int> stacked;
  for (std::size_t i = 0; i < x.size(); ++i) ++stacked[{x[i], y[i]}];
  for (const auto& [place, count] : stacked) {
    if (count > 1) canvas.label(place.first, place.second, fmt::format("{} limits", count), detail::ink);
  }
}

// Ticks of a probability axis, in units of z.
Ticks probability_ticks(Distribution distribution, double lowest, double highest) {
  static constexpr double shares[] = {0.0001, 0.001, 0.01, 0.02, 0.05, 0.1,  0.2,   0.3,   0.5,
                                      0.7,    0.8,   0.9,  0.95, 0.98, 0.99, 0.999, 0.9999};
  Ticks ticks;
  ticks.low = standard_quantile(distribution, lowest);
  ticks.high = standard_quantile(distribution, highest);
  for (const double share : shares) {
    if (share < lowest || share > highest) continue;
    ticks.at.push_back(standard_quantile(distribution, share));
    ticks.labels.push_back(fmt::format("{:.6g} %", 100 * share));
  }
  return ticks;
}

// The curve along its axis, its band, and between which responses the middle of them lies.
struct CensoredCurve {
  std::vector<double> places{};
  std::vector<double> value{};
  std::vector<double> low{};
  std::vector<double> high{};
  std::vector<double> spread_low{};
  std::vector<double> spread_high{};
};

CensoredCurve curve_along(const CensoredFit& fit, const Ticks& x_ticks, Level level) {
  CensoredCurve of;
  const Vector along = detail::where_defined(fit.estimate, detail::places_along(x_ticks, censored_points));
  of.places.assign(along.begin(), along.end());
  const double tail = (1 - middle_share) / 2;
  const double below = standard_quantile(fit.distribution, tail) * fit.scatter;
  const double above = standard_quantile(fit.distribution, 1 - tail) * fit.scatter;
  for (const BandPoint& at : band_at(fit.estimate, along, level)) {
    of.value.push_back(at.value);
    of.low.push_back(at.confidence.low);
    of.high.push_back(at.confidence.high);
    of.spread_low.push_back(from_even(fit, to_even(fit, at.value) + below));
    of.spread_high.push_back(from_even(fit, to_even(fit, at.value) + above));
  }
  return of;
}

Ticks response_ticks(const CensoredFit& fit, const CensoredCurve& curve, const AxisLayout& axis) {
  const AxisScale scale = axis.scale;
  const Vector& y = fit.data.rows.responses();
  Extent up(y);
  const auto show = [&](double at) {
    if (at > 0 || scale == AxisScale::linear) up.add(at);
  };
  for (const auto* values : {&curve.value, &curve.spread_low, &curve.spread_high}) {
    for (const double at : *values) show(at);
  }
  // Arrows beyond the outermost limits need their room.
  const Ticks rows_only = ticks_for(up.low, up.high, 7, scale);
  for (std::size_t i = 0; i < y.size(); ++i) {
    if (fit.data.of[i] == Censoring::none) continue;
    show(rows_only.value(rows_only.share(y[i]) + (fit.data.of[i] == Censoring::above ? 0.06 : -0.06)));
  }
  return ticks_along(axis, up.low, up.high, 7);
}

void draw_curve(Canvas& canvas, const CensoredCurve& curve, const Ticks& y_ticks, bool logarithmic) {
  // A band may reach where a logarithmic axis does not.
  const auto clamped = [&](std::vector<double> values) {
    for (double& v : values) v = logarithmic ? std::max(v, y_ticks.low) : std::clamp(v, y_ticks.low, y_ticks.high);
    return values;
  };
  canvas.area(curve.places, clamped(curve.spread_low), clamped(curve.spread_high), detail::prediction);
  for (const auto* edge : {&curve.spread_low, &curve.spread_high})
    canvas.line(curve.places, clamped(*edge), detail::curve, detail::thin_width, LineStyle::dashed);
  canvas.area(curve.places, clamped(curve.low), clamped(curve.high), detail::confidence);
  canvas.line(curve.places, clamped(curve.value), detail::curve, detail::curve_width);
}

// Measured responses as points, limits as hollow ones with arrows; whether there are limits.
bool draw_rows(Canvas& canvas, const CensoredFit& fit, const Ticks& x_ticks, const Ticks& y_ticks) {
  const Vector& x = fit.data.rows.predictor(0);
  const Vector& y = fit.data.rows.responses();
  std::vector<double> measured_x, measured_y, limit_x, limit_y;
  for (std::size_t i = 0; i < y.size(); ++i) {
    const Censoring censoring = fit.data.of[i];
    (censoring == Censoring::none ? measured_x : limit_x).push_back(x[i]);
    (censoring == Censoring::none ? measured_y : limit_y).push_back(y[i]);
    if (censoring != Censoring::none) arrow(canvas, x_ticks, y_ticks, x[i], y[i], censoring == Censoring::above);
  }
  canvas.points(measured_x, measured_y);
  canvas.hollow_points(limit_x, limit_y);
  label_stacked(canvas, limit_x, limit_y);
  return !limit_x.empty();
}

// The fitted distribution on a probability axis (`z`), with the profile intervals of its quantiles.
struct FittedDistribution {
  std::vector<double> z{};
  std::vector<double> at{};
  std::vector<double> low{};
  std::vector<double> high{};

  bool has_band() const {
    const auto finite = [](const std::vector<double>& values) {
      return !values.empty() && std::all_of(values.begin(), values.end(), [](double v) { return std::isfinite(v); });
    };
    return finite(low) && finite(high);
  }
};

FittedDistribution distribution_along(const CensoredFit& fit, const Ticks& z_ticks, Level level) {
  FittedDistribution of;
  constexpr int steps = 33;
  for (int i = 0; i < steps; ++i) {
    const double z = z_ticks.low + (z_ticks.high - z_ticks.low) * i / (steps - 1);
    of.z.push_back(z);
    if (!fit.data.rows.predictors().empty()) {
      of.at.push_back(z);
      continue;
    }
    const double share = fit.distribution == Distribution::weibull ? -std::expm1(-std::exp(z)) : normal_probability(z);
    const CensoredQuantile q = quantile_of(fit, share, Vector(), level);
    of.at.push_back(q.value);
    of.low.push_back(q.interval.low);
    of.high.push_back(q.interval.high);
  }
  return of;
}

// The band lies across: at each response the shares between its two edges.
void draw_band_across(Canvas& canvas, const FittedDistribution& of, const Ticks& x_ticks, bool logarithmic) {
  const auto edge_at = [&](const std::vector<double>& edge, double at) {
    const double v = logarithmic ? std::log(at) : at;
    const auto e = [&](std::size_t k) { return logarithmic ? std::log(edge[k]) : edge[k]; };
    if (v <= e(0)) return of.z.front();
    for (std::size_t k = 1; k < edge.size(); ++k) {
      if (v <= e(k)) return of.z[k - 1] + (of.z[k] - of.z[k - 1]) * (v - e(k - 1)) / (e(k) - e(k - 1));
    }
    return of.z.back();
  };
  std::vector<double> places, low, high;
  for (int i = 0; i <= 240; ++i) {
    places.push_back(x_ticks.value(i / 240.0));
    low.push_back(edge_at(of.high, places.back()));
    high.push_back(edge_at(of.low, places.back()));
  }
  canvas.area(places, low, high, detail::confidence);
}

// A probability axis that reaches as far out as the plotted shares.
Ticks share_ticks(const CensoredFit& fit, std::span<const PlottedShare> plotted) {
  double lowest = 0.01;
  double highest = 0.99;
  for (const PlottedShare& p : plotted) {
    lowest = std::min(lowest, p.share / 2);
    highest = std::max(highest, 1 - (1 - p.share) / 2);
  }
  return probability_ticks(fit.distribution, lowest, highest);
}

// Those with a place on a probability axis.
std::vector<PlottedShare> placed_shares(const CensoredFit& fit) {
  std::vector<PlottedShare> plotted = plotting_positions(fit);
  std::erase_if(plotted, [](const PlottedShare& p) { return !(p.share > 0 && p.share < 1); });
  return plotted;
}

// The limits where they begin; on an axis of distances from a curve they have no place.
std::vector<double> limits_of(const CensoredFit& fit) {
  std::vector<double> limits;
  const Observations& rows = fit.data.rows;
  for (std::size_t i = 0; rows.predictors().empty() && i < rows.responses().size(); ++i) {
    if (fit.data.of[i] != Censoring::none) limits.push_back(rows.responses()[i]);
  }
  return limits;
}

}  // namespace

void draw_censored(const CensoredFit& fit, const std::filesystem::path& file, Level level, const FigureLayout& wanted) {
  FigureLayout layout = wanted;
  const Observations& rows = fit.data.rows;
  if (rows.predictors().empty()) {
    draw_probability(fit, file, level, layout);
    return;
  }
  if (rows.predictors().size() > 1) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a figure shows one predictor, and the curve has {}", rows.predictors().size()),
                 .subject = "figure",
                 .remedy = {"draw the probability plot", {Action::draw_probability}}});
  }
  const Vector& x = rows.predictor(0);
  const Vector& y = rows.responses();
  // Lives that span decades are seen on an axis that does.
  constexpr double decades = 20;
  if (fit.distribution != Distribution::normal && Extent(y).high > decades * Extent(y).low)
    layout.y.scale = AxisScale::logarithmic;
  detail::require_shown(layout.x.scale, x, rows.source_rows(), rows.predictors()[0].name);
  detail::require_shown(layout.y.scale, y, rows.source_rows(), rows.response().name);
  const Ticks x_ticks = ticks_along(layout.x, Extent(x).low, Extent(x).high, 8);
  const CensoredCurve curve = curve_along(fit, x_ticks, level);
  const Ticks y_ticks = response_ticks(fit, curve, layout.y);
  Canvas canvas(file, layout.size);
  canvas.title(title_of(
      layout, fmt::format("{}, {} distribution", fit.estimate.model().text(), distribution_word(fit.distribution))));
  canvas.panel(censored_frame, x_ticks, y_ticks);
  draw_curve(canvas, curve, y_ticks, layout.y.scale == AxisScale::logarithmic);
  const bool has_limits = draw_rows(canvas, fit, x_ticks, y_ticks);
  canvas.axes(axis_title(layout.x, rows.predictors()[0].name, rows.predictors()[0].unit, x_ticks),
              axis_title(layout.y, rows.response().name, rows.response().unit, y_ticks));
  Legend legend(canvas);
  legend.point("measured");
  if (has_limits) legend.hollow_point("limit, the response beyond");
  legend.line(fit.distribution == Distribution::weibull ? "scale" : "curve", detail::curve);
  legend.area(level_text(level) + " band of it", detail::confidence);
  legend.edged_area(fmt::format("middle {:.0f} % of responses", 100 * middle_share), detail::prediction);
  legend.draw();
  canvas.finish();
}

void draw_probability(const CensoredFit& fit, const std::filesystem::path& file, Level level,
                      const FigureLayout& layout) {
  const Observations& rows = fit.data.rows;
  const bool by_response = rows.predictors().empty();
  const std::vector<PlottedShare> plotted = placed_shares(fit);
  const Ticks y_ticks = share_ticks(fit, plotted);
  const FittedDistribution fitted = distribution_along(fit, y_ticks, level);
  std::vector<double> across, shares;
  Extent extent;
  for (const double v : fitted.at) extent.add(v);
  for (const PlottedShare& p : plotted) {
    across.push_back(by_response ? rows.responses()[p.row] : p.standardized);
    shares.push_back(standard_quantile(fit.distribution, p.share));
    extent.add(across.back());
  }
  const std::vector<double> limits = limits_of(fit);
  for (const double limit : limits) extent.add(limit);
  const bool logarithmic = by_response && fit.distribution != Distribution::normal;
  // The scales are those on which the distribution is a straight line.
  AxisLayout x_axis = layout.x;
  x_axis.scale = logarithmic ? AxisScale::logarithmic : AxisScale::linear;
  const Ticks x_ticks = ticks_along(x_axis, extent.low, extent.high, 8);
  Canvas canvas(file, layout.size);
  canvas.title(title_of(layout, fmt::format("{}: {} probability plot", fit.estimate.model().text(),
                                            distribution_word(fit.distribution))));
  canvas.panel(censored_frame, x_ticks, y_ticks);
  if (fitted.has_band()) draw_band_across(canvas, fitted, x_ticks, logarithmic);
  canvas.line(fitted.at, fitted.z, detail::curve, detail::curve_width);
  canvas.points(across, shares);
  const std::vector<double> feet(limits.size(), y_ticks.low + 0.02 * (y_ticks.high - y_ticks.low));
  canvas.hollow_points(limits, feet);
  label_stacked(canvas, limits, feet);
  canvas.axes(by_response ? axis_title(x_axis, rows.response().name, rows.response().unit, x_ticks)
                          : axis_title(x_axis, "distance from the curve, in units of the scatter", "", x_ticks),
              layout.y.label.empty() ? "share below" : layout.y.label);
  Legend legend(canvas);
  legend.point("measured, at their plotting positions");
  if (!limits.empty()) legend.hollow_point("limits");
  legend.line("fitted distribution", detail::curve);
  if (fitted.has_band()) legend.area(level_text(level) + " profile intervals of the quantiles", detail::confidence);
  legend.draw();
  canvas.finish();
}

}  // namespace truecurve
