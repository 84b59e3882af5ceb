// The pages of what is asked of an estimate, fresh or stored: places on the curve, roots, derived quantities.
// None of these throws an Error of its own but where it says so.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const auto roots = truecurve::solve(line.estimate(), 6.0);
//     const auto page = truecurve::solution_page(line.estimate(), 6.0, roots, {});
//     EXPECT_NE(truecurve::text_of(page).find("y = 6 is reached at x = 2.5"), std::string::npos);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/base/vector.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/report/page.hpp>

#include <span>

namespace truecurve {

/// The curve at given points with both bands; points column-wise, one vector a predictor. The data have one row a
/// point.
[[nodiscard]] Page prediction_page(const Estimate& estimate, std::span<const Vector> points,
                                   std::span<const BandPoint> values, Level level);

/// The x at which a response is reached. The data have one row a place.
[[nodiscard]] Page solution_page(const Estimate& estimate, double response, std::span<const Root> roots,
                                 const SolveOptions& options);

/// Quantities derived from the parameters, and hypotheses about them. The data have one row a quantity.
[[nodiscard]] Page derivation_page(const Estimate& estimate, const Deductions& deductions, Level level);

/// A polynomial's coefficients about an origin, each with its standard uncertainty, as a section for the page of its
/// fit. Throws Error as polynomial_about().
[[nodiscard]] PageSection about_section(const Estimate& estimate, double origin);

}  // namespace truecurve
