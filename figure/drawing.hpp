// What every figure is drawn with, under short names.
#pragma once

#include <truecurve/figure/axes.hpp>

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
using detail::Extent;
using detail::Frame;
using detail::Horizontal;
using detail::Legend;
using detail::LineStyle;
using detail::thinned;
using detail::Ticks;
using detail::ticks_for;
using Eigen::Index;

inline std::string level_text(double level) { return fmt::format("{:.6g} %", 100 * level); }

}  // namespace truecurve::drawing
