// The fitted equation with its numbers, ready to be copied: with so many digits that the copied curve is the fitted
// one.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     EXPECT_EQ(truecurve::equation_with_numbers(line.estimate()), "y = 1.15 + 1.94*x");
//     EXPECT_EQ(truecurve::equation_with_numbers(line.estimate(), truecurve::FormulaLanguage::spreadsheet, {"B7"}),
//               "=1.15 + 1.94*B7");
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/model/formula_language.hpp>

#include <string>
#include <vector>

namespace truecurve {

/// The measured response as an equation in the predictors, the estimates in the places of the parameters; a transformed
/// left side is solved for the response. All numbers have as few digits as leave the curve within a hundredth of its
/// standard uncertainty everywhere over the range of the data (17 where it has none).
///
/// In text an equation that a model can be given as; in LaTeX a line for its mathematics mode; in C and C++ a function
/// of the predictors with a comment above it, which needs math.h or cmath; in a spreadsheet a cell's formula without
/// the response, with `cells` in the places of the predictors (A2, B2, ... where none are given). Throws Error:
/// not_supported (a model given as C++ code, or one that is longer than
/// 20,000 letters), bad_argument (other than one cell a predictor, or a text that is no
/// reference to a cell).
[[nodiscard]] std::string equation_with_numbers(const Estimate& estimate,
                                                FormulaLanguage language = FormulaLanguage::text,
                                                const std::vector<std::string>& cells = {});

/// One formula of a band.
struct BandFormula {
  std::string name;         ///< u, low, high, new_low or new_high
  std::string description;  ///< "lower limit of the 95 % confidence band of the curve"
  std::string text;         ///< the formula: of a response y "y_low = ...", a function y_low, "=..."
};

/// The standard uncertainty of the curve, both limits of its confidence band at a level and, where the scatter of a new
/// observation is known or follows from the mean, of the band of new observations: the numbers of `band` as formulas
/// like those above, with so few digits that each stays within a hundredth of the half width it describes, over the
/// range of the data. Throws Error: not_supported (as above; a band whose limits leave every number within the range,
/// as of 1/y near zero; a response whose distribution is given as code), bad_argument.
[[nodiscard]] std::vector<BandFormula> band_with_numbers(const Estimate& estimate, Level level,
                                                         FormulaLanguage language = FormulaLanguage::text,
                                                         const std::vector<std::string>& cells = {});

}  // namespace truecurve
