// Draws the residual checks.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/counted.hpp>
#include <truecurve/assess/smooth.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/checks_figure.hpp>

#include "drawing.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <numeric>
#include <set>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using namespace drawing;

constexpr double across_right = 0.80;
constexpr double across_bottom = 0.47;
constexpr Frame shape_frame{0.825, detail::page_right, across_bottom, detail::panel_top};
constexpr Frame order_frame{detail::page_left, detail::page_right, detail::page_bottom, 0.33};
constexpr std::size_t most_predictors = 3;
// A standardized residual beyond this is named; one in twenty is by chance.
constexpr double suspicious = 2.5;
constexpr std::size_t most_named = 8;

// The p-value of a check that was made.
std::string p_text(const std::vector<Check>& checks, CheckKind kind) {
  for (const Check& check : checks) {
    if (check.kind == kind) return fmt::format(" ({})", p_equals(check.p));
  }
  return "";
}

// The residuals that are known, with what they are drawn against.
struct Residuals {
  std::vector<std::vector<double>> x;  // one a predictor; the rows' numbers where there is none
  std::vector<double> z, order;
  std::vector<std::size_t> rows;
  std::vector<Check> checks;
  bool counted = false;
  bool order_is_rows = true;
};

Residuals residuals_of(const Fit& fit) {
  // Of counted numbers the quantile residuals: Pearson's lie on curves, and are not normal where all is right.
  Residuals r{.x = {}, .z = {}, .order = {}, .rows = {}, .checks = residual_checks(fit), .counted = fit.is_counted()};
  const Vector values = r.counted ? quantile_residuals(fit) : row_measures(fit).standardized;
  const Observations& observations = fit.observations();
  const Vector order = observations.order();
  const std::size_t predictors = std::min(most_predictors, observations.predictors().size());
  r.x.resize(std::max<std::size_t>(1, predictors));
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (!std::isfinite(values[i])) continue;
    const auto row = static_cast<double>(observations.source_rows()[i]);
    for (std::size_t k = 0; k < r.x.size(); ++k) r.x[k].push_back(predictors == 0 ? row : observations.predictor(k)[i]);
    r.z.push_back(values[i]);
    r.order.push_back(order[i]);
    r.order_is_rows = r.order_is_rows && order[i] == row;
    r.rows.push_back(observations.source_rows()[i]);
  }
  if (r.z.size() >= 3) return r;
  throw Error({.code = ErrorCode::too_few_observations,
               .message = "there are too few residuals to be inspected",
               .subject = "residuals",
               .remedy = "measure at more points, or fit a model with fewer parameters"});
}

void note(Canvas& canvas, const Frame& frame, const std::string& words) {
  canvas.text(frame.left, frame.top + 0.025, words, Horizontal::left, 0.9, detail::faint_ink);
}

// The scatter that is assumed, as a band over the width of a panel, and the line of none.
void draw_assumed(Canvas& canvas, const Ticks& x_ticks) {
  const std::vector<double> ends = {x_ticks.low, x_ticks.high};
  canvas.area(ends, std::vector<double>{-2, -2}, std::vector<double>{2, 2}, detail::prediction);
  canvas.line(ends, std::vector<double>{0, 0}, detail::faint_ink, detail::thin_width);
}

// The scatter that is found along x: the root of the smoothed squares, or of their mean where places are few.
void draw_found(Canvas& canvas, const std::vector<double>& x, const std::vector<double>& z, const Ticks& x_ticks) {
  constexpr std::size_t fewest = 12;
  constexpr int places = 101;
  constexpr double smoothness = 0.75;
  std::vector<double> squares;
  double mean = 0;
  for (const double value : z) {
    squares.push_back(value * value);
    mean += squares.back() / static_cast<double>(z.size());
  }
  std::vector<double> at = {x_ticks.low, x_ticks.high};
  std::vector<double> found(2, 2 * std::sqrt(mean));
  if (std::set<double>(x.begin(), x.end()).size() >= fewest) {
    const SmoothGuide guide = smooth_guide(x, squares, places, smoothness);
    at.assign(guide.x.begin(), guide.x.end());
    found.clear();
    for (const double square : guide.y) found.push_back(2 * std::sqrt(std::max(0.0, square)));
  }
  for (const double side : {-1.0, 1.0}) {
    std::vector<double> edge;
    for (const double value : found) edge.push_back(side * value);
    canvas.line(at, edge, detail::curve, detail::curve_width, LineStyle::dashed);
  }
}

// Against one predictor, with the rows of those that are far off.
void draw_along(Canvas& canvas, const Residuals& r, std::size_t k, const Quantity& predictor, const Ticks& z_ticks) {
  const auto panels = static_cast<double>(r.x.size());
  constexpr double gap = 0.02;
  const double width = (across_right - detail::page_left - gap * (panels - 1)) / panels;
  const double left = detail::page_left + static_cast<double>(k) * (width + gap);
  const Frame frame{left, left + width, across_bottom, detail::panel_top};
  const std::vector<double>& x = r.x[k];
  const Ticks x_ticks = ticks_for(Extent(x).low, Extent(x).high, r.x.size() == 1 ? 8 : 4);
  canvas.panel(frame, x_ticks, z_ticks);
  draw_assumed(canvas, x_ticks);
  draw_found(canvas, x, r.z, x_ticks);
  canvas.points(thinned(x), thinned(r.z));
  std::vector<std::size_t> order(r.z.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&r](std::size_t a, std::size_t b) { return std::abs(r.z[a]) > std::abs(r.z[b]); });
  for (std::size_t i = 0; i < std::min(most_named, order.size()); ++i) {
    if (std::abs(r.z[order[i]]) > suspicious)
      canvas.label(x[order[i]], r.z[order[i]], fmt::format("row {}", r.rows[order[i]]), detail::ink);
  }
  canvas.axes(axis_title(predictor.name, predictor.unit, x_ticks),
              k > 0       ? ""
              : r.counted ? "quantile residual"
                          : "standardized residual",
              Canvas::Labels::shown, k == 0 ? Canvas::Labels::shown : Canvas::Labels::hidden);
  if (k == 0)
    note(canvas, frame,
         "shaded: assumed scatter, ±2; dashed: scatter found; equal variance" +
             p_text(r.checks, CheckKind::equal_variance));
}

// How many lie where, turned so that both share one axis, and how many a normal distribution would have there.
void draw_shape(Canvas& canvas, const Residuals& r, const Ticks& z_ticks) {
  constexpr std::size_t many = 100;
  const double step = r.z.size() < many ? 0.5 : 0.25;
  std::map<int, double> counts;
  for (const double z : r.z) counts[static_cast<int>(std::floor(z / step))] += 1;
  const auto n = static_cast<double>(r.z.size());
  std::vector<double> normal;
  std::vector<double> at;
  for (int i = 0; i <= 200; ++i) {
    at.push_back(z_ticks.low + (z_ticks.high - z_ticks.low) * i / 200);
    normal.push_back(n * step * std::exp(-at.back() * at.back() / 2) / std::sqrt(2 * std::numbers::pi));
  }
  double most = *std::max_element(normal.begin(), normal.end());
  for (const auto& [bin, count] : counts) most = std::max(most, count);
  Ticks n_ticks = ticks_along({.low = 0, .high = 1.05 * most}, 0, most, 3);
  canvas.panel(shape_frame, n_ticks, z_ticks);
  for (const auto& [bin, count] : counts) {
    const double low = bin * step;
    canvas.area(std::vector<double>{0, count}, std::vector<double>(2, low + 0.05 * step),
                std::vector<double>(2, low + 0.95 * step), detail::count_bar);
  }
  canvas.line(normal, at, detail::curve, detail::curve_width);
  canvas.axes("readings", "", Canvas::Labels::shown, Canvas::Labels::hidden);
  note(canvas, shape_frame, "line: normal" + p_text(r.checks, CheckKind::normality));
}

// In the order of measurement, neighbours joined.
void draw_order(Canvas& canvas, const Residuals& r, const Ticks& z_ticks) {
  std::vector<std::size_t> by_order(r.z.size());
  std::iota(by_order.begin(), by_order.end(), std::size_t{0});
  std::stable_sort(by_order.begin(), by_order.end(),
                   [&r](std::size_t a, std::size_t b) { return r.order[a] < r.order[b]; });
  std::vector<double> at;
  std::vector<double> z;
  for (const std::size_t i : by_order) {
    at.push_back(r.order[i]);
    z.push_back(r.z[i]);
  }
  const Ticks o_ticks = ticks_for(at.front(), at.back(), 10);
  const Ticks ticks = ticks_for(z_ticks.low, z_ticks.high, 4);
  canvas.panel(order_frame, o_ticks, ticks);
  draw_assumed(canvas, o_ticks);
  canvas.line(thinned(at), thinned(z), detail::faint_ink, detail::thin_width);
  canvas.points(thinned(at), thinned(z), 0.8);
  canvas.axes(r.order_is_rows ? "row" : "order of measurement", "residual");
  const std::string drift = p_text(r.checks, CheckKind::drift);
  const std::string runs = p_text(r.checks, CheckKind::runs);
  note(canvas, order_frame,
       fmt::format("in the order of {}{}{}{}", r.order_is_rows ? "the rows" : "measurement", drawn_words(at.size()),
                   drift.empty() ? "" : "; drift" + drift, runs.empty() ? "" : "; runs along the predictor" + runs));
}

}  // namespace

void draw_checks(const Fit& fit, const std::filesystem::path& file) {
  const Residuals r = residuals_of(fit);
  const Observations& observations = fit.observations();
  const Extent extent(r.z);
  const double limit = std::max(3.2, 1.05 * std::max(-extent.low, extent.high));
  const Ticks z_ticks = ticks_for(-limit, limit, 6);
  Canvas canvas(file);
  canvas.title(fmt::format("Residuals of {}", fit.model().text()));
  for (std::size_t k = 0; k < r.x.size(); ++k)
    draw_along(canvas, r, k, observations.predictors().empty() ? Quantity{"row", ""} : observations.predictors()[k],
               z_ticks);
  draw_shape(canvas, r, z_ticks);
  draw_order(canvas, r, z_ticks);
  canvas.finish();
}

}  // namespace truecurve
