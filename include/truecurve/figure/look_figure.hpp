// A first look at two columns: the points with a smooth guide, and the axes in which they would be straight.
//
// Example:
//     std::vector<double> x, y;
//     for (int i = 0; i < 20; ++i) {
//       x.push_back(1 + i / 4.0);
//       y.push_back(std::log(x.back()) + 1);
//     }
//     const auto file = std::filesystem::temp_directory_path() / "truecurve_look_example.svg";
//     truecurve::draw_look(truecurve::Observations::of(x, y), file);
//     EXPECT_GT(std::filesystem::file_size(file), 1000u);
//     std::filesystem::remove(file);
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/figure/layout.hpp>

#include <filesystem>

namespace truecurve {

/// Draws the response against the one predictor; `span` is the smoothness of the guide (NaN: chosen by
/// cross-validation). Throws Error: bad_argument, cannot_write.
void draw_look(const Observations& observations, const std::filesystem::path& file, double span = not_a_number,
               const FigureLayout& layout = {});

}  // namespace truecurve
