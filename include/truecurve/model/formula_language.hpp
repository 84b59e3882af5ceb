// The notations in which a formula can be written out.
//
// Example:
//     EXPECT_EQ(truecurve::name(truecurve::FormulaLanguage::spreadsheet), "spreadsheet");
#pragma once

#include <string_view>

namespace truecurve {

enum class FormulaLanguage {
  text,         ///< written maths, as models are given
  latex,        ///< for its mathematics mode, without packages
  c,            ///< C99
  cpp,          ///< C++11
  spreadsheet,  ///< a cell's formula, with the names of functions and signs that spreadsheets share
};
[[nodiscard]] std::string_view name(FormulaLanguage language) noexcept;

}  // namespace truecurve
