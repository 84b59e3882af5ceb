// A fit whose curve can't be drawn against one predictor.
#pragma once

#include <truecurve/figure/fit_figure.hpp>

namespace truecurve::detail {

/// Of a fit with several predictors the measured response against the fitted one, with the line on which they are
/// equal; of one without any the response in the order of the rows, with the fitted constant. The residuals beneath.
/// Throws Error as draw_fit().
void draw_fitted(const Fit& fit, const std::filesystem::path& file, const FigureOptions& options);

}  // namespace truecurve::detail
