// What every figure is drawn with, under short names.
#pragma once

#include <truecurve/figure/layout.hpp>

#include "canvas.hpp"
#include "defined.hpp"
#include "extent.hpp"
#include "legend.hpp"
#include "panels.hpp"

#include <fmt/format.h>

namespace truecurve::drawing {

using detail::axis_title;
using detail::Canvas;
using detail::Colour;
using detail::drawn_words;
using detail::Extent;
using detail::Frame;
using detail::Horizontal;
using detail::Legend;
using detail::LineStyle;
using detail::thinned;
using detail::Ticks;
using detail::ticks_along;
using detail::ticks_for;

inline std::string level_text(Level level) { return fmt::format("{:.6g} %", 100 * level); }

/// The title that is asked for, or what is drawn.
inline std::string title_of(const FigureLayout& layout, const std::string& drawn) {
  return layout.title.empty() ? drawn : layout.title;
}

/// What an axis shows of a response: "probability of cracked" of events, else its name.
inline std::string response_name(const Observations& rows) {
  return rows.observation_model().kind() == ResponseKind::events ? "probability of " + rows.event()
                                                                 : rows.response().name;
}

/// "measured", or of a counted response "counted".
inline std::string observed_word(const Observations& rows) {
  return rows.observation_model().is_measured() ? "measured" : "counted";
}

}  // namespace truecurve::drawing
