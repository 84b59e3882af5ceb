// The equation of a fit and how well it describes the data, written into a panel.
#pragma once

#include <truecurve/fit/fit.hpp>

#include "canvas.hpp"

namespace truecurve::detail {

/// The equation with its numbers where the model has one, n and, of a measured response, S and R²; in the upper left
/// corner, or in the upper right one.
void draw_equation_notes(Canvas& canvas, const Frame& frame, const Fit& fit, Horizontal side);

}  // namespace truecurve::detail
