// Draws a fit to events or counts.
#include "counted_figure.hpp"

#include <truecurve/assess/counted.hpp>
#include <truecurve/assess/profile.hpp>
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/fit/separation.hpp>

#include "defined.hpp"
#include "drawing.hpp"
#include "notes.hpp"

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
  Marks marks;
  for (const std::size_t i : drawn_rows(all.x.size())) marks.add(all.x[i], all.y[i], {all.low[i], all.high[i]});
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

// What is drawn of a counted fit.
struct CountedPicture {
  const Fit& fit;
  const FigureOptions& options;
  bool events = false;  // shares, against counts
  bool single = false;  // one event a row
  Ticks x_ticks{};
  Vector along{};
  std::vector<double> places{};
  std::vector<double> value{};
  std::vector<double> low{};
  std::vector<double> high{};
  Marks apart{};   // single events
  Marks shares{};  // groups of them, or the rows themselves

  const Observations& rows() const { return fit.observations(); }
  bool has_band() const { return std::isfinite(low.front()); }
};

CountedPicture picture_of(const Fit& fit, const FigureOptions& options) {
  const Observations& rows = fit.observations();
  CountedPicture picture{.fit = fit, .options = options};
  picture.events = rows.observation_model().kind() == ResponseKind::events;
  picture.single = picture.events && !rows.has_sizes();
  const Extent across(rows.predictor(0));
  picture.x_ticks = ticks_along(options.layout.x, across.low, across.high, 8);
  picture.along = where_defined(fit.estimate(), places_along(picture.x_ticks, counted_points));
  picture.places.assign(picture.along.begin(), picture.along.end());
  for (const BandPoint& at : band_at(fit.estimate(), picture.along, options.level)) {
    picture.value.push_back(at.value);
    picture.low.push_back(at.confidence.low);
    picture.high.push_back(at.confidence.high);
  }
  if (picture.single) picture.apart = thinned_marks(events_apart(rows, picture.x_ticks));
  picture.shares =
      picture.single ? groups_of_events(rows, options.level) : thinned_marks(rows_as_shares(rows, options.level));
  return picture;
}

Ticks share_ticks(const CountedPicture& picture) {
  const AxisScale scale = picture.options.layout.y.scale;
  Extent shown;
  for (const auto* list : {&picture.value, &picture.low, &picture.high, &picture.shares.low, &picture.shares.high}) {
    for (const double v : *list) {
      if (scale == AxisScale::linear || v > 0) shown.add(v);
    }
  }
  if (picture.single) {
    shown.add(-strip + 0.03);
    shown.add(1 + strip - 0.03);
  } else if (picture.events) {
    shown.add(0);
    shown.add(1);
  }
  return ticks_along(picture.options.layout.y, shown.low, shown.high, 6);
}

// Where the share is one half, as a bar along it.
struct Middle {
  Interval interval{};
  bool of_separation = false;  // events and others do not overlap: it lies between them

  bool is_known() const { return std::isfinite(interval.low) && std::isfinite(interval.high); }
};

Middle middle_bar(const CountedPicture& picture) {
  const std::optional<Root> middle = picture.events ? middle_of(picture.fit, picture.options.level) : std::nullopt;
  const auto separated = picture.fit.estimate().open_end() ? separation_along(picture.rows()) : std::nullopt;
  if (separated) return {.interval = {separated->below, separated->above}, .of_separation = true};
  return {.interval = middle ? middle->interval : Interval{}};
}

void draw_shares(Canvas& canvas, const CountedPicture& picture, const Middle& middle) {
  const Ticks& x_ticks = picture.x_ticks;
  if (picture.has_band()) canvas.area(picture.places, picture.low, picture.high, confidence);
  if (picture.events) {
    for (const double end : {0.0, 1.0})
      canvas.line(std::vector<double>{x_ticks.low, x_ticks.high}, std::vector<double>{end, end}, faint_ink, thin_width,
                  LineStyle::dotted);
  }
  if (const auto& start = picture.options.start) {
    std::vector<double> begun;
    const Vector defined = where_defined(*start, picture.along);
    for (const BandPoint& at : band_at(*start, defined, picture.options.level)) begun.push_back(at.value);
    canvas.line(std::vector<double>(defined.begin(), defined.end()), begun, ink, curve_width, LineStyle::dashed);
  }
  canvas.line(picture.places, picture.value, curve, curve_width);
  if (picture.single) canvas.points(picture.apart.x, picture.apart.y, small, faint_ink);
  canvas.interval_bars(picture.shares.x, picture.shares.low, picture.shares.high);
  canvas.points(picture.shares.x, picture.shares.y);
  if (middle.is_known()) {
    const std::vector<double> from_to = {std::max(middle.interval.low, x_ticks.low),
                                         std::min(middle.interval.high, x_ticks.high)};
    canvas.line(from_to, std::vector<double>{0.5, 0.5}, ink, 2 * curve_width);
  }
}

void draw_names(Canvas& canvas, const CountedPicture& picture, const Middle& middle) {
  const std::string share = level_text(picture.options.level);
  Legend legend(canvas);
  if (picture.single) legend.small_point("single rows" + drawn_words(picture.rows().size()), faint_ink);
  const char* marks = picture.single ? "groups" : picture.events ? "shares" : "counts";
  if (!picture.shares.x.empty())
    legend.point(fmt::format("{} with exact {} interval{}", marks, share,
                             picture.single ? "" : drawn_words(picture.rows().size())),
                 Canvas::Bar::with);
  if (picture.options.start) legend.line("start", ink, LineStyle::dashed);
  legend.line("curve", curve);
  if (picture.has_band()) legend.area(fmt::format("{} band", share), confidence);
  if (middle.is_known())
    legend.line(middle.of_separation ? "the middle lies between" : "middle, interval", ink, LineStyle::solid,
                2 * curve_width);
  legend.draw();
}

void draw_quantile_residuals(Canvas& canvas, const CountedPicture& picture) {
  const Observations& rows = picture.rows();
  const Vector residuals = quantile_residuals(picture.fit);
  Extent extent(residuals);
  extent.add(-2);
  extent.add(2);
  const Ticks ticks = ticks_for(extent.low, extent.high, 4);
  canvas.panel(quantile_frame, picture.x_ticks, ticks);
  const std::vector<double> ends = {picture.x_ticks.low, picture.x_ticks.high};
  canvas.line(ends, std::vector<double>{0, 0}, curve, curve_width);
  for (const double at : {-2.0, 2.0})
    canvas.line(ends, std::vector<double>{at, at}, faint_ink, thin_width, LineStyle::dashed);
  canvas.points(thinned(rows.predictor(0)), thinned(residuals));
  canvas.axes(
      axis_title(picture.options.layout.x, rows.predictors()[0].name, rows.predictors()[0].unit, picture.x_ticks),
      axis_title("quantile residual", "", ticks), Canvas::Labels::shown);
}

}  // namespace

void draw_counted_fit(const Fit& fit, const std::filesystem::path& file, const FigureOptions& options) {
  const Observations& rows = fit.observations();
  (void)fit.estimate().coverage_factor(options.level);
  require_shown(options.layout.x.scale, rows.predictor(0), rows.source_rows(), rows.predictors()[0].name);
  require_shown(options.layout.y.scale, rows.responses(), rows.source_rows(), rows.response().name);
  const CountedPicture picture = picture_of(fit, options);
  const Middle middle = middle_bar(picture);
  const Ticks y_ticks = share_ticks(picture);

  Canvas canvas(file, options.layout.size);
  canvas.panel(share_frame, picture.x_ticks, y_ticks);
  draw_shares(canvas, picture, middle);
  canvas.axes("", axis_title(options.layout.y, response_name(rows), rows.response().unit, y_ticks),
              Canvas::Labels::hidden);
  draw_names(canvas, picture, middle);
  canvas.title(title_of(options.layout, fit.model().text()));
  if (options.equation) {
    const bool rises = picture.value.back() > picture.value.front();
    draw_equation_notes(canvas, share_frame, fit, rises ? Horizontal::left : Horizontal::right);
  }
  draw_quantile_residuals(canvas, picture);
  canvas.finish();
}

}  // namespace truecurve::detail
