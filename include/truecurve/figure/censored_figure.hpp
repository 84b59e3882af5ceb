// Draws a fit with limits among its responses, and its probability plot.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"life", "h", {120, 190, 260, 310, 340}}});
//     const auto fit = truecurve::fit_censored(truecurve::Model::written("life = scale"),
//                                              truecurve::censored_rows(table, {.response = "life"}),
//                                              {.distribution = truecurve::Distribution::weibull});
//     const auto file = std::filesystem::temp_directory_path() / "lives.svg";
//     truecurve::draw_probability(fit, file, 0.95);
//     EXPECT_TRUE(std::filesystem::remove(file));
#pragma once

#include <truecurve/assess/censored.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/figure/layout.hpp>

#include <filesystem>

namespace truecurve {

/// The curve with its confidence band and the range of the middle 80 % of all responses; limits as arrows that point to
/// where the response lies; the axis of lognormal and Weibull responses that span a factor of 20 is logarithmic. Of a
/// curve without a predictor the probability plot. Throws Error: bad_argument (several
/// predictors, an ending that is not known), cannot_write.
void draw_censored(const CensoredFit& fit, const std::filesystem::path& file, Level level,
                   const FigureLayout& layout = {});

/// Shares against the response on axes on which the distribution is a straight line, the pointwise profile intervals of
/// its quantiles as a band, the measured rows at their plotting positions. With predictors: against the distance from
/// the curve, in units of the scatter, without a band. Of the layout its size, title, labels and the range of x are
/// taken. Throws Error: bad_argument, cannot_write.
void draw_probability(const CensoredFit& fit, const std::filesystem::path& file, Level level,
                      const FigureLayout& layout = {});

}  // namespace truecurve
