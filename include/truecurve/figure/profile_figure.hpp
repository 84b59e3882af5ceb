// How well the parameters of a fit are known: profiles of chi-squared, and regions of each pair.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto file = std::filesystem::temp_directory_path() / "truecurve_profile_example.svg";
//     truecurve::draw_regions(truecurve::fit(truecurve::shape_model("line"), points), file, 0.95);
//     EXPECT_GT(std::filesystem::file_size(file), 1000u);
//     std::filesystem::remove(file);
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>

#include <filesystem>

namespace truecurve {

/// One panel a parameter: the smallest chi-squared at each held value, less the minimum, with the parabola that
/// symmetric intervals assume and the rise at which the interval of the level ends. Throws Error: not_supported (more
/// than 9 parameters, none with an uncertainty), bad_argument, cannot_write.
void draw_profiles(const Fit& fit, const std::filesystem::path& file, Level level);

/// One panel a pair of parameters: the region of the level from chi-squared itself, with the ellipse of the covariance.
/// Throws Error: not_supported (fewer than 2 or more than 6 parameters with an uncertainty), bad_argument,
/// cannot_write.
void draw_regions(const Fit& fit, const std::filesystem::path& file, Level level);

}  // namespace truecurve
