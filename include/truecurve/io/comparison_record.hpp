// A comparison as a record, and the candidates restored from one.
// None of these throws an Error of its own but where it says so.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4, 5, 6},
//         {3.3, 5.6, 7.1, 9.3, 10.7, 12.1});
//     const std::vector<truecurve::Fit> fits = {truecurve::fit(truecurve::shape_model("line"), points),
//                                               truecurve::fit(truecurve::shape_model("logarithm"), points)};
//     const std::string record = truecurve::comparison_record(truecurve::compare(fits), 0.95);
//     EXPECT_EQ(truecurve::read_comparison_record(record, "memory").size(), 2u);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/compare/average.hpp>
#include <truecurve/compare/compare.hpp>

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// The record `truecurve.comparison/1`; the fits within it are records `truecurve.fit/1` with intervals at `level`.
[[nodiscard]] std::string comparison_record(const Comparison& comparison, Level level);

/// The candidates that count in a comparison record, with their weights. Throws Error (bad_record) that names the
/// field; also where no candidate has a weight.
[[nodiscard]] std::vector<WeightedEstimate> read_comparison_record(std::string_view json, const std::string& source);

/// Whether a text is a comparison record (of any version). Throws Error (bad_record) where it is no record at all.
[[nodiscard]] bool is_comparison_record(std::string_view json, const std::string& source);

/// The record `truecurve.prediction/1` of an averaged curve.
[[nodiscard]] std::string averaged_prediction_record(std::span<const WeightedEstimate> curves,
                                                     std::span<const Vector> points,
                                                     std::span<const AveragedPoint> values, Level level);

}  // namespace truecurve
