// The picture of a fit: points with their uncertainties, curve, bands, and the residuals beneath.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto file = std::filesystem::temp_directory_path() / "truecurve_header_example.svg";
//     truecurve::draw_fit(truecurve::fit(truecurve::shape_model("line"), points), file);
//     EXPECT_GT(std::filesystem::file_size(file), 1000u);
//     std::filesystem::remove(file);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/figure/layout.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/fit/preview.hpp>

#include <filesystem>
#include <optional>
#include <string>

namespace truecurve {

/// How a figure is drawn.
struct FigureOptions {
  Level level = 0.95;               ///< of the bands; between 0 and 1
  std::optional<Estimate> start{};  ///< a curve that is drawn beside the fit, dotted: where the search began
  /// Write the equation with its numbers into the figure, with n and, of a measured response, S and R².
  bool equation = false;
  FigureLayout layout{};
};

/// Draws a fit to a file; the ending .png, .svg or .pdf says what. Of several predictors the measured response stands
/// against the fitted one, without any in the order of the rows. Nothing is left behind where it fails. Throws Error:
/// bad_argument (ending, level, layout), unsuitable_row (no place on a logarithmic axis), not_supported (the drawing
/// library lacks its driver), cannot_write.
void draw_fit(const Fit& fit, const std::filesystem::path& file, const FigureOptions& options = {});

/// Draws a curve at its starts over the rows, with the residuals beneath; as draw_fit, without bands. Throws Error as
/// draw_fit().
void draw_preview(const Preview& preview, const Observations& observations, const std::filesystem::path& file,
                  const FigureLayout& layout = {});

}  // namespace truecurve
