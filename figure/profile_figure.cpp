// Draws profiles and regions.
#include <truecurve/assess/profile.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/profile_figure.hpp>

#include "drawing.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using namespace drawing;

constexpr std::size_t most_profiles = 9;
constexpr std::size_t most_in_regions = 6;

// Parameters that have an uncertainty.
std::vector<std::string> known_parameters(const Fit& fit) {
  std::vector<std::string> names;
  for (std::size_t j = 0; j < fit.estimate().parameters().size(); ++j) {
    const double u = fit.estimate().standard_uncertainties()[j];
    if (u > 0 && std::isfinite(u)) names.push_back(fit.estimate().parameter_names()[static_cast<std::size_t>(j)]);
  }
  return names;
}

[[noreturn]] void fail_count(std::size_t known, const char* what, std::size_t least, std::size_t most) {
  throw Error({.code = ErrorCode::not_supported,
               .message = fmt::format("{} are drawn for {} to {} parameters with an uncertainty, and this fit has {}",
                                      what, least, most, known),
               .subject = "figure",
               .value = fmt::format("{}", known),
               .remedy = known > most ? Advice{"hold some of them", {Action::hold_parameter}}
                                      : "more rows than parameters, or stated uncertainties, are needed"});
}

void draw_profile_panel(Canvas& canvas, const Frame& frame, const Fit& fit, const Profile& profile, bool first) {
  const double minimum = fit.chi_squared();
  const double rise = profile.limit - minimum;
  const ProfileInterval& made = profile.interval;
  const double half = (made.symmetric.high - made.symmetric.low) / 2;
  const double low = std::min(profile.points.front().value, made.symmetric.low - 0.1 * half);
  const double high = std::max(profile.points.back().value, made.symmetric.high + 0.1 * half);
  const Ticks x_ticks = ticks_for(low, high, frame.right - frame.left > 0.35 ? 6 : 3);
  const Ticks y_ticks = ticks_for(0, 1.35 * rise, 4);
  canvas.panel(frame, x_ticks, y_ticks);
  canvas.line(std::vector<double>{x_ticks.low, x_ticks.high}, std::vector<double>{rise, rise}, detail::faint_ink,
              detail::thin_width);
  // Its ends, down to the axis.
  for (const double end : {made.interval.low, made.interval.high}) {
    if (std::isfinite(end))
      canvas.line(std::vector<double>{end, end}, std::vector<double>{y_ticks.low, rise}, detail::curve,
                  detail::thin_width);
  }
  std::vector<double> px;
  std::vector<double> py;
  for (int i = 0; i <= 100; ++i) {
    const double x = x_ticks.low + (x_ticks.high - x_ticks.low) * i / 100;
    const double distance = (x - made.value) / half;
    if (rise * distance * distance > y_ticks.high) continue;
    px.push_back(x);
    py.push_back(rise * distance * distance);
  }
  canvas.line(px, py, detail::point, detail::curve_width, LineStyle::dashed);
  std::vector<double> vx;
  std::vector<double> vy;
  for (const ProfilePoint& point : profile.points) {
    vx.push_back(point.value);
    vy.push_back(std::max(0.0, point.chi_squared - minimum));
  }
  canvas.line(vx, vy, detail::curve, 1.3 * detail::curve_width);
  canvas.points(std::vector<double>{made.value}, std::vector<double>{0.0});
  canvas.axes(axis_title(made.parameter, "", x_ticks),
              first ? axis_title(fmt::format("increase of the {}", fit.objective_name()), "", y_ticks) : "");
}

// A direction without a limit breaks the line.
void draw_outline(Canvas& canvas, const std::vector<ParameterPair>& line, detail::Colour colour, double width,
                  LineStyle style) {
  std::vector<double> px;
  std::vector<double> py;
  const auto flush = [&] {
    if (px.size() > 1) canvas.line(px, py, colour, width, style);
    px.clear();
    py.clear();
  };
  for (const ParameterPair& point : line) {
    if (!std::isfinite(point.first) || !std::isfinite(point.second)) {
      flush();
      continue;
    }
    px.push_back(point.first);
    py.push_back(point.second);
  }
  flush();
}

}  // namespace

void draw_profiles(const Fit& fit, const std::filesystem::path& file, Level level) {
  const std::vector<std::string> names = known_parameters(fit);
  if (names.empty() || names.size() > most_profiles) fail_count(names.size(), "profiles", 1, most_profiles);
  std::vector<Profile> profiles;
  profiles.reserve(names.size());
  for (const std::string& name : names) profiles.push_back(profile(fit, name, level));
  const std::size_t columns = names.size() <= 3 ? names.size() : names.size() == 4 ? 2 : 3;
  const std::size_t rows = (names.size() + columns - 1) / columns;
  Canvas canvas(file);
  canvas.title(fmt::format("Profiles of {}", fit.model().text()));
  Legend legend(canvas);
  legend.line(fmt::format("smallest {} at a fixed value", fit.objective_name()), detail::curve, LineStyle::solid,
              1.3 * detail::curve_width);
  legend.line("linear approximation", detail::point, LineStyle::dashed);
  legend.line(fmt::format("limit of the {} interval", level_text(level)), detail::faint_ink, LineStyle::solid,
              detail::thin_width);
  legend.draw();
  for (std::size_t i = 0; i < profiles.size(); ++i)
    draw_profile_panel(canvas, detail::panel_of(i / columns, i % columns, rows, columns, detail::with_labels), fit,
                       profiles[i], i % columns == 0);
  canvas.finish();
}

void draw_regions(const Fit& fit, const std::filesystem::path& file, Level level) {
  const std::vector<std::string> names = known_parameters(fit);
  if (names.size() < 2 || names.size() > most_in_regions) fail_count(names.size(), "regions", 2, most_in_regions);
  // Panels in a triangle: the columns are the first parameters, the rows the second ones.
  const std::size_t side = names.size() - 1;
  std::vector<ConfidenceRegion> regions;
  std::vector<Extent> extents(names.size());
  for (std::size_t row = 0; row < side; ++row) {
    for (std::size_t column = 0; column <= row; ++column) {
      regions.push_back(confidence_region(fit, names[column], names[row + 1], level));
      for (const auto* line : {&regions.back().contour, &regions.back().ellipse}) {
        for (const ParameterPair& point : *line) {
          extents[column].add(point.first);
          extents[row + 1].add(point.second);
        }
      }
    }
  }
  Canvas canvas(file);
  canvas.title(fmt::format("Joint {} confidence regions of {}", level_text(level), fit.model().text()));
  Legend legend(canvas);
  legend.line(fmt::format("from the {} itself", fit.objective_name()), detail::curve, LineStyle::solid,
              1.3 * detail::curve_width);
  legend.line("linear approximation: ellipse of the covariance", detail::point, LineStyle::dashed);
  legend.draw();
  std::size_t next = 0;
  for (std::size_t row = 0; row < side; ++row) {
    for (std::size_t column = 0; column <= row; ++column) {
      const ConfidenceRegion& region = regions[next++];
      const Ticks x_ticks = ticks_for(extents[column].low, extents[column].high, side == 1 ? 8 : side == 2 ? 5 : 3);
      const Ticks y_ticks = ticks_for(extents[row + 1].low, extents[row + 1].high, side == 1 ? 6 : side == 2 ? 4 : 3);
      canvas.panel(detail::panel_of(row, column, side, side, detail::shared_axes), x_ticks, y_ticks);
      draw_outline(canvas, region.ellipse, detail::point, detail::curve_width, LineStyle::dashed);
      draw_outline(canvas, region.contour, detail::curve, 1.3 * detail::curve_width, LineStyle::solid);
      canvas.points(std::vector<double>{fit.parameter(region.first).value},
                    std::vector<double>{fit.parameter(region.second).value});
      const bool lowest = row + 1 == side;
      canvas.axes(lowest ? axis_title(region.first, "", x_ticks) : "",
                  column == 0 ? axis_title(region.second, "", y_ticks) : "",
                  lowest ? Canvas::Labels::shown : Canvas::Labels::hidden,
                  column == 0 ? Canvas::Labels::shown : Canvas::Labels::hidden);
    }
  }
  canvas.finish();
}

}  // namespace truecurve
