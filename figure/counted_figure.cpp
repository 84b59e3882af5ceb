// Draws a fit to events or counts.
#include "counted_figure.hpp"

#include <truecurve/assess/counted.hpp>
#include <truecurve/assess/profile.hpp>
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/fit/separation.hpp>

#include "defined.hpp"
#include "drawing.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using namespace drawing;

constexpr std::size_t counted_points = 961;
constexpr Frame share_frame{page_left, page_right, 0.385, panel_top};
constexpr Frame quantile_frame{page_left, page_right, page_bottom, 0.325};
constexpr double small = 0.55;      // of single events
constexpr double strip = 0.13;      // beyond the ends of the shares, for single events
constexpr std::size_t cells = 110;  // across the page, for events that would lie upon each other
constexpr std::size_t most_groups = 8;
constexpr std::size_t rows_of_group = 8;

struct Marks {
  std::vector<double> x, y, low, high;
  void add(double place, double value, const Interval& interval) {
    x.push_back(place);
    y.push_back(value);
    low.push_back(interval.low);
    high.push_back(interval.high);
  }
};

// Single events: those that happened above 1, the others below 0, away from the curve where several lie together.
Marks events_apart(const Observations& rows, const Ticks& ticks) {
  Marks marks;
  std::vector<std::size_t> above(cells + 1);
  std::vector<std::size_t> below(cells + 1);
  const auto cell_of = [&](double x) {
    const double share = std::clamp(ticks.share(x), 0.0, 1.0);
    return static_cast<std::size_t>(share * static_cast<double>(cells));
  };
  for (std::size_t i = 0; i < rows.responses().size(); ++i) {
    const std::size_t cell = cell_of(rows.predictor(0)[i]);
    ++(rows.responses()[i] > 0.5 ? above : below)[cell];
  }
  const std::size_t most =
      std::max(*std::max_element(above.begin(), above.end()), *std::max_element(below.begin(), below.end()));
  const double step = std::min(0.028, (strip - 0.03) / static_cast<double>(std::max<std::size_t>(most, 1)));
  std::fill(above.begin(), above.end(), 0);
  std::fill(below.begin(), below.end(), 0);
  for (std::size_t i = 0; i < rows.responses().size(); ++i) {
    const double x = rows.predictor(0)[i];
    const bool happened = rows.responses()[i] > 0.5;
    const auto height = static_cast<double>((happened ? above : below)[cell_of(x)]++);
    const double apart = 0.02 + height * step;
    marks.add(x, happened ? 1 + apart : -apart, {});
  }
  return marks;
}

// Neighbouring rows of single events together, as shares at their mean place.
Marks groups_of_events(const Observations& rows, Level level) {
  Marks marks;
  const std::size_t n = rows.size();
  const std::size_t count = std::min(most_groups, n / rows_of_group);
  if (count < 2) return marks;
  const Vector& x = rows.predictor(0);
  std::vector<std::size_t> order(n);
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [&x](std::size_t a, std::size_t b) { return x[a] < x[b]; });
  std::size_t start = 0;
  for (std::size_t g = 0; g < count && start < n; ++g) {
    std::size_t end = std::max((g + 1) * n / count, start + 1);
    while (end < n && x[order[end]] == x[order[end - 1]]) ++end;  // one place, one group
    double place = 0;
    double events = 0;
    for (std::size_t k = start; k < end; ++k) {
      place += x[order[k]];
      events += rows.responses()[order[k]];
    }
    const auto trials = static_cast<double>(end - start);
    marks.add(place / trials, events / trials, exact_interval(ResponseKind::events, events, trials, level));
    start = end;
  }
  return marks;
}

Marks rows_as_shares(const Observations& rows, Level level) {
  Marks marks;
  const Vector numbers = rows.counted_numbers();
  for (std::size_t i = 0; i < numbers.size(); ++i)
    marks.add(rows.predictor(0)[i], rows.responses()[i],
              exact_interval(rows.observation_model().kind(), numbers[i], rows.sizes()[i], level));
  return marks;
}

Marks thinned_marks(const Marks& all) {
  if (all.x.size() <= most_points) return all;
  const std::size_t stride = (all.x.size() + most_points - 1) / most_points;
  Marks marks;
  for (std::size_t i = 0; i < all.x.size(); i += stride) marks.add(all.x[i], all.y[i], {all.low[i], all.high[i]});
  return marks;
}

// Where the share is one half; none where the curve does not pass it once in the data.
std::optional<Root> middle_of(const Fit& fit, Level level) {
  try {
    std::vector<Root> roots = solve(fit.estimate(), 0.5, {.level = level});
    if (roots.size() != 1 || roots[0].is_nearest) return std::nullopt;
    constexpr std::size_t few_rows = 1000;
    const Interval made = fit.size() <= few_rows ? profile_place(fit, 0.5, roots[0].value, level) : Interval{};
    if (!std::isnan(made.low) && !std::isnan(made.high)) roots[0].interval = made;
    return roots[0];
  } catch (const Error&) {  // it is not defined everywhere
  }
  return std::nullopt;
}

}  // namespace

void draw_counted_fit(const Fit& fit, const std::filesystem::path& file, const FigureOptions& options) {
  const Observations& rows = fit.observations();
  const bool events = rows.observation_model().kind() == ResponseKind::events;
  const bool single = events && !rows.has_sizes();
  (void)fit.estimate().coverage_factor(options.level);
  const Vector& x = rows.predictor(0);
  require_shown(options.axes.x, x, rows.source_rows(), rows.predictors()[0].name);
  require_shown(options.axes.y, rows.responses(), rows.source_rows(), rows.response().name);
  const Ticks x_ticks = ticks_for(Extent(x).low, Extent(x).high, 8, options.axes.x);
  const Vector along = where_defined(fit.estimate(), places_along(x_ticks, counted_points));

  std::vector<double> value;
  std::vector<double> low;
  std::vector<double> high;
  for (const BandPoint& at : band_at(fit.estimate(), along, options.level)) {
    value.push_back(at.value);
    low.push_back(at.confidence.low);
    high.push_back(at.confidence.high);
  }
  const bool has_band = std::isfinite(low.front());
  const Marks apart = single ? thinned_marks(events_apart(rows, x_ticks)) : Marks{};
  const Marks shares =
      single ? groups_of_events(rows, options.level) : thinned_marks(rows_as_shares(rows, options.level));

  Extent shown;
  for (const std::vector<double>* list :
       std::initializer_list<const std::vector<double>*>{&value, &low, &high, &shares.low, &shares.high}) {
    for (const double v : *list) {
      if (options.axes.y == AxisScale::linear || v > 0) shown.add(v);
    }
  }
  if (single) {
    shown.add(-strip + 0.03);
    shown.add(1 + strip - 0.03);
  } else if (events) {
    shown.add(0);
    shown.add(1);
  }
  const Ticks y_ticks = ticks_for(shown.low, shown.high, 6, options.axes.y);
  const Vector residuals = quantile_residuals(fit);
  Extent of_residuals(residuals);
  of_residuals.add(-2);
  of_residuals.add(2);
  const Ticks r_ticks = ticks_for(of_residuals.low, of_residuals.high, 4);

  Canvas canvas(file);
  canvas.panel(share_frame, x_ticks, y_ticks);
  const std::vector<double> places(along.begin(), along.end());
  if (has_band) canvas.area(places, low, high, confidence);
  const std::vector<double> ends = {x_ticks.low, x_ticks.high};
  if (events) {
    for (const double end : {0.0, 1.0})
      canvas.line(ends, std::vector<double>{end, end}, faint_ink, thin_width, LineStyle::dotted);
  }
  if (options.start) {
    std::vector<double> begun;
    const Vector defined = where_defined(*options.start, along);
    for (const BandPoint& at : band_at(*options.start, defined, options.level)) begun.push_back(at.value);
    canvas.line(std::vector<double>(defined.begin(), defined.end()), begun, ink, curve_width, LineStyle::dashed);
  }
  canvas.line(places, value, curve, curve_width);
  if (single) canvas.points(apart.x, apart.y, small, faint_ink);
  canvas.interval_bars(shares.x, shares.low, shares.high);
  canvas.points(shares.x, shares.y);
  const std::optional<Root> middle = events ? middle_of(fit, options.level) : std::nullopt;
  const auto separated = fit.estimate().open_end() ? separation_along(rows) : std::nullopt;
  Interval of_middle = middle ? middle->interval : Interval{};
  if (separated) of_middle = {separated->below, separated->above};
  const bool has_middle = std::isfinite(of_middle.low) && std::isfinite(of_middle.high);
  if (has_middle) {
    const std::vector<double> from_to = {std::max(of_middle.low, x_ticks.low), std::min(of_middle.high, x_ticks.high)};
    canvas.line(from_to, std::vector<double>{0.5, 0.5}, ink, 2 * curve_width);
  }
  canvas.axes("", axis_title(response_name(rows), rows.response().unit, y_ticks), Canvas::Labels::hidden);
  const std::string share = level_text(options.level);
  Legend legend(canvas);
  if (single) legend.small_point("single rows", faint_ink);
  if (!shares.x.empty())
    legend.point(fmt::format("{} with exact {} interval",
                             single   ? "groups"
                             : events ? "shares"
                                      : "counts",
                             share),
                 Canvas::Bar::with);
  if (options.start) legend.line("start", ink, LineStyle::dashed);
  legend.line("curve", curve);
  if (has_band) legend.area(fmt::format("{} band", share), confidence);
  if (has_middle)
    legend.line(separated ? "the middle lies between" : "middle, interval", ink, LineStyle::solid, 2 * curve_width);
  canvas.title(options.title.empty() ? fit.model().text() : options.title);

  canvas.panel(quantile_frame, x_ticks, r_ticks);
  canvas.line(ends, std::vector<double>{0, 0}, curve, curve_width);
  for (const double at : {-2.0, 2.0})
    canvas.line(ends, std::vector<double>{at, at}, faint_ink, thin_width, LineStyle::dashed);
  canvas.points(thinned(x), thinned(residuals));
  canvas.axes(axis_title(rows.predictors()[0].name, rows.predictors()[0].unit, x_ticks),
              axis_title("quantile residual", "", r_ticks), Canvas::Labels::shown);
  canvas.finish();
}

}  // namespace truecurve::detail
