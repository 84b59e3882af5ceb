// Results as a page of a laboratory notebook: the answer in a sentence, then the numbers, then what to be careful
// about.
// None of these throws an Error of its own but where it says so.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto text =
//     truecurve::fit_text(truecurve::fit(truecurve::shape_model("line"), points), 0.95);
//     EXPECT_NE(text.find("1.940(91)"), std::string::npos);
#pragma once

#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/solve.hpp>
#include <truecurve/assess/trust.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/data/table.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/fit/preview.hpp>

#include <span>
#include <string>

namespace truecurve {

/// Which intervals of the parameters are shown: estimate ± k u, or those of the profile where they were made.
/// Automatic: those of the profile for a response that was counted, else symmetric ones.
enum class Intervals { automatic, symmetric, profile };

/// A fit with all its numbers, values rounded to two digits of their standard uncertainty; UTF-8, at most 100 columns
/// wide where names and units allow.
[[nodiscard]] std::string fit_text(const Fit& fit, Level level, const Deductions& deductions = {},
                                   const Trust& trust = {}, Intervals intervals = Intervals::automatic);

/// A curve at its starts: where each value comes from, and how far the curve is from the rows.
[[nodiscard]] std::string preview_text(const Preview& preview, const Observations& observations);
[[nodiscard]] std::string preview_csv(const Preview& preview);

/// A polynomial's coefficients about an origin, each with its standard uncertainty. Throws Error as polynomial_about().
[[nodiscard]] std::string about_text(const Estimate& estimate, double origin);

/// The curve at given points with both bands; points column-wise, one vector a predictor.
[[nodiscard]] std::string prediction_text(const Estimate& estimate, std::span<const Vector> points,
                                          std::span<const BandPoint> values, Level level);
[[nodiscard]] std::string prediction_csv(const Estimate& estimate, std::span<const Vector> points,
                                         std::span<const BandPoint> values, Level level);

/// The x at which a response is reached.
[[nodiscard]] std::string solution_text(const Estimate& estimate, double response, std::span<const Root> roots,
                                        const SolveOptions& options);
[[nodiscard]] std::string solution_csv(std::span<const Root> roots);

/// Quantities derived from the parameters, and hypotheses about them.
[[nodiscard]] std::string derivation_text(const Estimate& estimate, const Deductions& deductions, Level level);
[[nodiscard]] std::string derivation_csv(const Deductions& deductions);

/// A table's columns, units, first and last rows, summary, missing cells and values beyond the box-plot fences.
[[nodiscard]] std::string look_text(const Table& table);

/// What two columns look like together: zeros that forbid a transform, a fan, and the axes that straighten them best.
[[nodiscard]] std::string pair_text(const Observations& observations);

/// The parameters of a fit as CSV with full precision: one row a parameter. A limit that is infinite is inf or -inf.
[[nodiscard]] std::string fit_csv(const Fit& fit, Level level, const Trust& trust = {},
                                  Intervals intervals = Intervals::automatic);

/// The summary of a table as CSV with full precision: one row a column.
[[nodiscard]] std::string look_csv(const Table& table);

}  // namespace truecurve
