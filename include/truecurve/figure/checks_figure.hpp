// The residuals of a fit under inspection.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto file = std::filesystem::temp_directory_path() / "truecurve_checks_example.svg";
//     truecurve::draw_checks(truecurve::fit(truecurve::shape_model("line"), points), file);
//     EXPECT_GT(std::filesystem::file_size(file), 1000u);
//     std::filesystem::remove(file);
#pragma once

#include <truecurve/fit/fit.hpp>

#include <filesystem>

namespace truecurve {

/// Three panels: standardized residuals along the first predictor, with limits and the numbers of the suspicious rows;
/// beside it, on the same vertical axis, the residuals against what a normal distribution would give; beneath, the size
/// of the residuals against the fitted value with the tested trend. Throws Error: bad_argument, too_few_observations
/// (no degrees of freedom), cannot_write.
void draw_checks(const Fit& fit, const std::filesystem::path& file);

}  // namespace truecurve
