// Results as a page of a laboratory notebook: the answer in a sentence, then the numbers, then what to be careful about.
//
// Example:
//     const auto points = truecurve::Observations::of(Eigen::Vector4d(1, 2, 3, 4), Eigen::Vector4d(3.1, 4.9, 7.2, 8.8));
//     const auto text = truecurve::fit_text(truecurve::fit(truecurve::shape_model("line"), points), 0.95);
//     EXPECT_NE(text.find("1.940(91)"), std::string::npos);
#pragma once

#include <truecurve/data/table.hpp>
#include <truecurve/fit/fit.hpp>

#include <string>

namespace truecurve {

/// A fit with all its numbers, values rounded to two digits of their standard uncertainty; UTF-8, at most 100 columns
/// wide where names and units allow.
[[nodiscard]] std::string fit_text(const Fit& fit, double level);

/// A table's columns, units, first and last rows, summary, missing cells and values beyond the box-plot fences.
[[nodiscard]] std::string look_text(const Table& table);

/// The parameters of a fit as CSV with full precision: one row a parameter.
[[nodiscard]] std::string fit_csv(const Fit& fit, double level);

/// The summary of a table as CSV with full precision: one row a column.
[[nodiscard]] std::string look_csv(const Table& table);

}  // namespace truecurve
