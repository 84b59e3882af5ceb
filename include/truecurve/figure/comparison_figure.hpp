// Pictures of a comparison: the curves over the data, the residuals side by side, the criterion.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4, 5, 6},
//         {3.3, 5.6, 7.1, 9.3, 10.7, 12.1});
//     const std::vector<truecurve::Fit> fits = {truecurve::fit(truecurve::shape_model("line"), points),
//                                               truecurve::fit(truecurve::shape_model("logarithm"), points)};
//     const auto file = std::filesystem::temp_directory_path() / "truecurve_comparison_example.svg";
//     truecurve::draw_comparison(truecurve::compare(fits), file);
//     EXPECT_GT(std::filesystem::file_size(file), 1000u);
//     std::filesystem::remove(file);
#pragma once

#include <truecurve/compare/compare.hpp>
#include <truecurve/figure/layout.hpp>

#include <filesystem>
#include <span>

namespace truecurve {

/// Every curve over the rows it was fitted to, and over rows held out where those are given; up to eight candidates, in
/// the order of the table, each with its colour and its kind of line. Throws Error as draw_fit().
void draw_comparison(const Comparison& comparison, const std::filesystem::path& file, const FigureLayout& layout = {});

/// The residuals of up to nine candidates in panels on one common scale, in the order of the table. Throws Error as
/// draw_fit().
void draw_comparison_residuals(const Comparison& comparison, const std::filesystem::path& file);

/// How far each candidate's AICc lies behind the best, as dots on one line each; up to 20 candidates. Throws Error:
/// not_supported where no candidate has an AICc.
void draw_criterion(const Comparison& comparison, const std::filesystem::path& file);

}  // namespace truecurve
