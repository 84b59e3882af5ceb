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

}  // namespace

void draw_checks(const Fit& fit, const std::filesystem::path& file) {
  // Of counted numbers the quantile residuals: Pearson's lie on curves, and are not normal where all is right.
  const bool counted = fit.is_counted();
  const Vector residuals = counted ? quantile_residuals(fit) : row_measures(fit).standardized;
  const std::vector<Check> checks = residual_checks(fit);
  const Observations& observations = fit.observations();
  std::vector<double> x;
  std::vector<double> z;
  std::vector<double> fitted;
  std::vector<std::size_t> rows;
  const Vector curve = fit.fitted();
  for (std::size_t i = 0; i < residuals.size(); ++i) {
    if (!std::isfinite(residuals[i])) continue;
    x.push_back(observations.predictors().empty() ? static_cast<double>(i + 1) : observations.predictor(0)[i]);
    z.push_back(residuals[i]);
    fitted.push_back(curve[i]);
    rows.push_back(observations.source_rows()[static_cast<std::size_t>(i)]);
  }
  if (z.size() < 3) {
    throw Error({.code = ErrorCode::too_few_observations,
                 .message = "there are too few residuals to be inspected",
                 .subject = "residuals",
                 .remedy = "measure at more points, or fit a model with fewer parameters"});
  }
  const double reach = std::max(
      3.2, *std::max_element(z.begin(), z.end(), [](double a, double b) { return std::abs(a) < std::abs(b); }) * 1.05);
  const auto [x_low, x_high] = std::minmax_element(x.begin(), x.end());
  const Quantity predictor = observations.predictors().empty() ? Quantity{"row", ""} : observations.predictors()[0];
  const Ticks x_ticks = ticks_for(*x_low, *x_high, 6);
  const double limit = std::max(3.2, std::abs(reach));
  const Ticks z_ticks = ticks_for(-limit, limit, 6);

  Canvas canvas(file);
  canvas.title(fmt::format("Residuals of {}", fit.model().text()));

  // Along the predictor.
  canvas.panel(along_frame, x_ticks, z_ticks);
  const auto across = [&](const Ticks& ticks, double level, detail::Colour colour, LineStyle style) {
    canvas.line(std::vector<double>{ticks.low, ticks.high}, std::vector<double>{level, level}, colour,
                level == 0 ? detail::curve_width : detail::thin_width, style);
  };
  across(x_ticks, 0, detail::curve, LineStyle::solid);
  for (const double level : {-2.0, 2.0}) across(x_ticks, level, detail::faint_ink, LineStyle::dashed);
  const std::size_t stride = (z.size() + detail::most_points - 1) / detail::most_points;
  std::vector<double> px;
  std::vector<double> pz;
  std::vector<double> pf;
  std::vector<double> ps;
  for (std::size_t i = 0; i < z.size(); i += stride) {
    px.push_back(x[i]);
    pz.push_back(z[i]);
    pf.push_back(fitted[i]);
    ps.push_back(std::abs(z[i]));
  }
  canvas.points(px, pz);
  std::vector<std::size_t> order(z.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&z](std::size_t a, std::size_t b) { return std::abs(z[a]) > std::abs(z[b]); });
  for (std::size_t k = 0; k < std::min(most_named, order.size()); ++k) {
    if (std::abs(z[order[k]]) > suspicious)
      canvas.label(x[order[k]], z[order[k]], fmt::format("row {}", rows[order[k]]), detail::ink);
  }
  canvas.axes(axis_title(predictor.name, predictor.unit, x_ticks),
              counted ? "quantile residual" : "standardized residual");
  canvas.text(along_frame.left, along_frame.top + 0.025,
              fmt::format("dashed: ±2; about 95 % are expected within{}",
                          p_text(checks, CheckKind::runs).empty() ? "" : "; runs" + p_text(checks, CheckKind::runs)),
              Horizontal::left, 0.9, detail::faint_ink);

  // Against the normal distribution, on the same vertical axis.
  std::vector<double> sorted = z;
  std::sort(sorted.begin(), sorted.end());
  std::vector<double> quantiles;
  std::vector<double> shown;
  const auto n = static_cast<double>(sorted.size());
  for (std::size_t i = 0; i < sorted.size(); i += stride) {
    quantiles.push_back(normal_quantile((static_cast<double>(i) + 0.625) / (n + 0.25)));  // Blom (1958)
    shown.push_back(sorted[i]);
  }
  const Ticks q_ticks = ticks_for(quantiles.front(), quantiles.back(), 4);
  canvas.panel(normal_frame, q_ticks, z_ticks);
  const double diagonal_low = std::max(q_ticks.low, z_ticks.low);
  const double diagonal_high = std::min(q_ticks.high, z_ticks.high);
  canvas.line(std::vector<double>{diagonal_low, diagonal_high}, std::vector<double>{diagonal_low, diagonal_high},
              detail::curve, detail::curve_width);
  canvas.points(quantiles, shown);
  canvas.axes("normal quantile", "", Canvas::Labels::shown, Canvas::Labels::hidden);
  canvas.text(normal_frame.left, normal_frame.top + 0.025,
              "normal probability plot" + p_text(checks, CheckKind::normality), Horizontal::left, 0.9,
              detail::faint_ink);

  // Size against the fitted value, with its trend.
  const auto [f_low, f_high] = std::minmax_element(fitted.begin(), fitted.end());
  const Ticks f_ticks = ticks_for(*f_low, *f_high, 8);
  const Ticks s_ticks = ticks_for(0, *std::max_element(ps.begin(), ps.end()), 4);
  canvas.panel(size_frame, f_ticks, s_ticks);
  double mean_f = 0;
  double mean_s = 0;
  for (std::size_t i = 0; i < z.size(); ++i) {
    mean_f += fitted[i] / n;
    mean_s += std::abs(z[i]) / n;
  }
  double sff = 0;
  double sfs = 0;
  for (std::size_t i = 0; i < z.size(); ++i) {
    sff += (fitted[i] - mean_f) * (fitted[i] - mean_f);
    sfs += (fitted[i] - mean_f) * (std::abs(z[i]) - mean_s);
  }
  std::vector<double> trend_x;
  std::vector<double> trend_y;
  for (int i = 0; i <= 100; ++i) {
    const double f = f_ticks.low + (f_ticks.high - f_ticks.low) * i / 100;
    trend_x.push_back(f);
    trend_y.push_back(std::max(0.0, mean_s + (sff > 0 ? sfs / sff : 0) * (f - mean_f)));
  }
  canvas.line(trend_x, trend_y, detail::curve, detail::curve_width);
  canvas.points(pf, ps);
  const bool plain = !fit.model().is_transformed();
  canvas.axes(axis_title("fitted " + fit.model().left_side(), plain ? observations.response().unit : "", f_ticks),
              "|residual|");
  canvas.text(size_frame.left, size_frame.top + 0.025,
              "line: trend of the size" + p_text(checks, CheckKind::equal_variance), Horizontal::left, 0.9,
              detail::faint_ink);
  canvas.finish();
}

}  // namespace truecurve
