// The pages of a fit, and of a curve at its starts.
// None of these throws an Error of its own.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto page = truecurve::fit_page(truecurve::fit(truecurve::shape_model("line"), points));
//     EXPECT_NE(truecurve::text_of(page).find("1.940(91)"), std::string::npos);
#pragma once

#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/trust.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/fit/preview.hpp>
#include <truecurve/report/page.hpp>

namespace truecurve {

/// Which intervals of the parameters are shown: estimate ± k u, or those of the profile where they were made.
/// Automatic: those of the profile for a response that was counted, else symmetric ones.
enum class Intervals { automatic, symmetric, profile };

/// What a fit's page shows beside the fit.
struct FitPageOptions {
  Level level = 0.95;       ///< of the intervals
  Deductions deductions{};  ///< derived quantities and hypotheses
  Trust trust{};            ///< profiles, and what they say
  Intervals intervals = Intervals::automatic;
  bool rows = false;  ///< also every row with its residual; the data then have one row each
};

/// A fit with all its numbers, values rounded to two digits of their standard uncertainty. Its data have one row a
/// parameter; a limit that is infinite is inf or -inf.
[[nodiscard]] Page fit_page(const Fit& fit, const FitPageOptions& options = {});

/// A curve at its starts: where each value comes from, and how far the curve is from the rows. Its data have one row a
/// parameter.
[[nodiscard]] Page preview_page(const Preview& preview, const Observations& observations);

}  // namespace truecurve
