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

/// Standardized residuals (of counted numbers quantile residuals) against each predictor, three at most, with the
/// scatter that is assumed (shaded, ±2) and the one that is found (dashed, twice the root of the smoothed squares) and
/// the numbers of the rows that stand out; beside them, on the same vertical axis, how many lie where, with the normal
/// distribution; beneath, the residuals in the order of measurement, or of the rows. Throws Error: bad_argument,
/// too_few_observations (no degrees of freedom), cannot_write.
void draw_checks(const Fit& fit, const std::filesystem::path& file);

}  // namespace truecurve
