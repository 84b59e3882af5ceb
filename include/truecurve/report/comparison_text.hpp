// A comparison of candidates as a page of text or as CSV.
// None of these throws an Error of its own.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4, 5, 6},
//         {3.3, 5.6, 7.1, 9.3, 10.7, 12.1});
//     const std::vector<truecurve::Fit> fits = {truecurve::fit(truecurve::shape_model("line"), points),
//                                               truecurve::fit(truecurve::shape_model("logarithm"), points)};
//     const std::string page = truecurve::comparison_text(truecurve::compare(fits));
//     EXPECT_NE(page.find("best first by AICc"), std::string::npos);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/compare/average.hpp>
#include <truecurve/compare/compare.hpp>

#include <span>
#include <string>

namespace truecurve {

/// The suggestion first, then the tables, what is to be known of each candidate, and the curves. No line is longer than
/// 100 characters.
[[nodiscard]] std::string comparison_text(const Comparison& comparison);

/// One row a candidate, best first, numbers in full.
[[nodiscard]] std::string comparison_csv(const Comparison& comparison);

/// The averaged curve at points.
[[nodiscard]] std::string averaged_prediction_text(std::span<const WeightedEstimate> curves,
                                                   std::span<const Vector> points,
                                                   std::span<const AveragedPoint> values, Level level);
[[nodiscard]] std::string averaged_prediction_csv(std::span<const WeightedEstimate> curves,
                                                  std::span<const Vector> points,
                                                  std::span<const AveragedPoint> values);

}  // namespace truecurve
