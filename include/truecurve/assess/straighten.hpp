// Which transforms of the axes make the points a straight line?
// None of these throws an Error of its own.
//
// Example:
//     std::vector<double> x, y;
//     for (int i = 0; i < 20; ++i) {
//       x.push_back(1 + i / 4.0);
//       y.push_back(std::exp(0.4 * x.back()) * (i % 2 ? 1.01 : 0.99));
//     }
//     const auto ways = truecurve::straightenings(truecurve::Observations::of(x, y));
//     EXPECT_EQ(ways.front().model, "ln(y) = a + b*x");
//     EXPECT_EQ(ways.front().meaning, "an exponential");
#pragma once

#include <truecurve/base/advice.hpp>
#include <truecurve/data/observations.hpp>
#include <truecurve/fit/fit.hpp>

#include <span>
#include <string>
#include <vector>

namespace truecurve {

/// One way to straighten the data.
struct Straightening {
  std::string model{};                ///< the line in transformed axes, as written maths
  std::string meaning{};              ///< the curve it stands for: "an exponential"
  std::string across{};               ///< its horizontal axis: "1/x"
  Vector places{};                    ///< the rows on that axis
  double delta_aicc = 0;              ///< behind the best, on the density of the measured response
  double curvature_p = not_a_number;  ///< of what bend is left; small: not straight
  std::string sentence{};
  Fit fit;
};

/// The straight lines in the usual transformed axes that the rows allow, best first by AICc of the measured response;
/// those within 2 of the best are about equally well supported and stand with the commonest first. Without
/// stated uncertainties each assumes equal scatter in its own y.
[[nodiscard]] std::vector<Straightening> straightenings(const Observations& observations);

/// Of which of the best of them (within 2 in AICc) no check of the shape (curvature, runs, serial correlation, lack of
/// fit; p below 0.05) detects a departure, or that of none, and then whether a parabola follows the points. Empty
/// without any.
[[nodiscard]] std::string straightness_sentence(const Observations& observations, std::span<const Straightening> ways);

/// What a look at two columns should warn of: zeros and negatives that forbid a logarithm (and how to do without them),
/// a spread that grows. Sentences.
[[nodiscard]] std::vector<Advice> look_remarks(const Observations& observations);

}  // namespace truecurve
