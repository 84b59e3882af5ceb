// The same fit to other rows.
#pragma once

#include <truecurve/fit/fit.hpp>

#include "../base/matrices.hpp"

namespace truecurve::detail {

/// Where the search for a model's parameters begins, when it begins at these; none for a model that needs none.
[[nodiscard]] std::vector<Start> starts_at(const Model& model, const VectorXd& parameters);

/// Options with which a fit is repeated in the same way: basis, spread and limits, the search beginning at its
/// estimates.
[[nodiscard]] FitOptions options_like(const Fit& fit);

/// Fits the model of a fit to other observations in the same way (spread, basis, limits, held parameters), the search
/// beginning at its estimates. Throws as fit().
[[nodiscard]] Fit refit(const Fit& fit, const Observations& observations);

/// Standard uncertainties of new readings at rows: those given with them, scaled as the fit's were, or empty.
[[nodiscard]] VectorXd reading_uncertainties(const Fit& fit, const Observations& rows);

}  // namespace truecurve::detail
