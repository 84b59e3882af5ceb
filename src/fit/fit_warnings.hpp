// What is said with a fit, and what is refused.
#pragma once

#include <truecurve/base/warning.hpp>
#include <truecurve/fit/fit.hpp>

#include "solve.hpp"

#include <vector>

namespace truecurve::detail {

/// What the way of the search, the degrees of freedom and the columns give to say. `exact`: the residuals are rounding.
void warn_of_search(const Solved& solved, const Observations& observations, UncertaintyBasis basis, double dof,
                    bool exact, std::vector<Warning>& warnings);
/// Estimates that ended at a limit, and places on the axis that no row reaches.
void warn_of_parameters(const Estimate& estimate, std::vector<Warning>& warnings);
/// Of counted responses that the predictors separate.
void warn_of_separation(const Estimate& estimate, const Observations& observations, bool is_separated,
                        std::vector<Warning>& warnings);
/// Scatter that the rounding of the readings alone would make, by chi-squared at 5 %.
void warn_of_rounding(const Fit& fit, std::vector<Warning>& warnings);
/// A scatter that is a power of the (gross) curve vanishes with it: through a reading of 0 the likelihood has no
/// maximum, and the search ends where the curve all but touches it. Throws Error (not_supported).
void refuse_pinned(const Fit& fit);

}  // namespace truecurve::detail
