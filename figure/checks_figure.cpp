// Draws the residual checks.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/counted.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/checks_figure.hpp>

#include "drawing.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using namespace drawing;

constexpr Frame along_frame{detail::page_left, 0.62, 0.47, detail::panel_top};
constexpr Frame normal_frame{0.67, detail::page_right, 0.47, detail::panel_top};
constexpr Frame size_frame{detail::page_left, detail::page_right, detail::page_bottom, 0.33};
// A standardized residual beyond this is named; one in twenty is by chance.
constexpr double suspicious = 2.5;
constexpr std::size_t most_named = 8;

// The p-value of a check that was made.
std::string p_text(const std::vector<Check>& checks, CheckKind kind) {
  for (const Check& check : checks) {
    if (check.kind == kind) return fmt::format("  (p = {})", probability_text(check.p));
  }
  return "";
}

// The residuals that are known, with what they are drawn against.
struct Residuals {
  std::vector<double> x, z, fitted;
  std::vector<std::size_t> rows;
  std::vector<Check> checks;
  bool counted = false;
};

Residuals residuals_of(const Fit& fit) {
  // Of counted numbers the quantile residuals: Pearson's lie on curves, and are not normal where all is right.
  Residuals r{.x = {}, .z = {}, .fitted = {}, .rows = {}, .checks = residual_checks(fit), .counted = fit.is_counted()};
  const Vector values = r.counted ? quantile_residuals(fit) : row_measures(fit).standardized;
  const Observations& observations = fit.observations();
  const Vector curve = fit.fitted();
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (!std::isfinite(values[i])) continue;
    r.x.push_back(observations.predictors().empty() ? static_cast<double>(i + 1) : observations.predictor(0)[i]);
    r.z.push_back(values[i]);
    r.fitted.push_back(curve[i]);
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

// Along the predictor, with the rows of those that are far off.
void draw_along(Canvas& canvas, const Residuals& r, const Quantity& predictor, const Ticks& z_ticks) {
  const Ticks x_ticks = ticks_for(Extent(r.x).low, Extent(r.x).high, 6);
  canvas.panel(along_frame, x_ticks, z_ticks);
  const std::vector<double> ends = {x_ticks.low, x_ticks.high};
  canvas.line(ends, std::vector<double>{0, 0}, detail::curve, detail::curve_width);
  for (const double level : {-2.0, 2.0})
    canvas.line(ends, std::vector<double>{level, level}, detail::faint_ink, detail::thin_width, LineStyle::dashed);
  canvas.points(thinned(r.x), thinned(r.z));
  std::vector<std::size_t> order(r.z.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&r](std::size_t a, std::size_t b) { return std::abs(r.z[a]) > std::abs(r.z[b]); });
  for (std::size_t k = 0; k < std::min(most_named, order.size()); ++k) {
    if (std::abs(r.z[order[k]]) > suspicious)
      canvas.label(r.x[order[k]], r.z[order[k]], fmt::format("row {}", r.rows[order[k]]), detail::ink);
  }
  canvas.axes(axis_title(predictor.name, predictor.unit, x_ticks),
              r.counted ? "quantile residual" : "standardized residual");
  const std::string runs = p_text(r.checks, CheckKind::runs);
  note(canvas, along_frame,
       fmt::format("dashed: ±2; about 95 % are expected within{}", runs.empty() ? "" : "; runs" + runs));
}

// Against the normal distribution, on the same vertical axis.
void draw_normal(Canvas& canvas, const Residuals& r, const Ticks& z_ticks) {
  std::vector<double> sorted = r.z;
  std::sort(sorted.begin(), sorted.end());
  std::vector<double> quantiles;
  const auto n = static_cast<double>(sorted.size());
  for (std::size_t i = 0; i < sorted.size(); ++i)
    quantiles.push_back(normal_quantile((static_cast<double>(i) + 0.625) / (n + 0.25)));  // Blom (1958)
  const std::vector<double> shown = thinned(quantiles);
  const Ticks q_ticks = ticks_for(shown.front(), shown.back(), 4);
  canvas.panel(normal_frame, q_ticks, z_ticks);
  const std::vector<double> diagonal = {std::max(q_ticks.low, z_ticks.low), std::min(q_ticks.high, z_ticks.high)};
  canvas.line(diagonal, diagonal, detail::curve, detail::curve_width);
  canvas.points(shown, thinned(sorted));
  canvas.axes("normal quantile", "", Canvas::Labels::shown, Canvas::Labels::hidden);
  note(canvas, normal_frame, "normal probability plot" + p_text(r.checks, CheckKind::normality));
}

// Size against the fitted value, with its trend by least squares.
void draw_sizes(Canvas& canvas, const Residuals& r, const std::string& title, const std::string& unit) {
  std::vector<double> sizes;
  for (const double z : r.z) sizes.push_back(std::abs(z));
  const std::vector<double> shown = thinned(sizes);
  const Ticks f_ticks = ticks_for(Extent(r.fitted).low, Extent(r.fitted).high, 8);
  const Ticks s_ticks = ticks_for(0, *std::max_element(shown.begin(), shown.end()), 4);
  canvas.panel(size_frame, f_ticks, s_ticks);
  const auto n = static_cast<double>(sizes.size());
  double mean_f = 0;
  double mean_s = 0;
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    mean_f += r.fitted[i] / n;
    mean_s += sizes[i] / n;
  }
  double sff = 0;
  double sfs = 0;
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    sff += (r.fitted[i] - mean_f) * (r.fitted[i] - mean_f);
    sfs += (r.fitted[i] - mean_f) * (sizes[i] - mean_s);
  }
  std::vector<double> trend_x;
  std::vector<double> trend_y;
  for (int i = 0; i <= 100; ++i) {
    const double f = f_ticks.low + (f_ticks.high - f_ticks.low) * i / 100;
    trend_x.push_back(f);
    trend_y.push_back(std::max(0.0, mean_s + (sff > 0 ? sfs / sff : 0) * (f - mean_f)));
  }
  canvas.line(trend_x, trend_y, detail::curve, detail::curve_width);
  canvas.points(thinned(r.fitted), shown);
  canvas.axes(axis_title(title, unit, f_ticks), "|residual|");
  note(canvas, size_frame, "line: trend of the size" + p_text(r.checks, CheckKind::equal_variance));
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
  draw_along(canvas, r, observations.predictors().empty() ? Quantity{"row", ""} : observations.predictors()[0],
             z_ticks);
  draw_normal(canvas, r, z_ticks);
  draw_sizes(canvas, r, "fitted " + fit.model().left_side(),
             fit.model().is_transformed() ? "" : observations.response().unit);
  canvas.finish();
}

}  // namespace truecurve
