// A comparison of candidates as a page.
// None of these throws an Error of its own.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4, 5, 6},
//         {3.3, 5.6, 7.1, 9.3, 10.7, 12.1});
//     const std::vector<truecurve::Fit> fits = {truecurve::fit(truecurve::shape_model("line"), points),
//                                               truecurve::fit(truecurve::shape_model("logarithm"), points)};
//     const std::string page = truecurve::text_of(truecurve::comparison_page(truecurve::compare(fits)));
//     EXPECT_NE(page.find("best first by AICc"), std::string::npos);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/compare/average.hpp>
#include <truecurve/compare/compare.hpp>
#include <truecurve/report/page.hpp>

#include <span>

namespace truecurve {

/// The suggestion first, then the tables, the curves, and what is to be known of each candidate. Its data have one row
/// a candidate, best first.
[[nodiscard]] Page comparison_page(const Comparison& comparison);

/// The averaged curve at points. The data have one row a point.
[[nodiscard]] Page averaged_prediction_page(std::span<const WeightedEstimate> curves, std::span<const Vector> points,
                                            std::span<const AveragedPoint> values, Level level);

}  // namespace truecurve
