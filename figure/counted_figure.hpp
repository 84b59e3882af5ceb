// The picture of a fit to events or counts.
#pragma once

#include <truecurve/figure/fit_figure.hpp>

namespace truecurve::detail {

/// Single events spread apart at the ends, groups as shares with their exact intervals, counts with theirs; the curve
/// and its band; the place of one half with its interval; beneath them the quantile residuals. Throws as draw_fit().
void draw_counted_fit(const Fit& fit, const std::filesystem::path& file, const FigureOptions& options);

}  // namespace truecurve::detail
