// What predictors and responses are called in the notations of an equation.
#pragma once

#include <set>
#include <string>

namespace truecurve::detail {

/// A name of a programming language: letters, digits and _, no word of C, C++ or their functions, none twice.
class Identifiers {
 public:
  [[nodiscard]] std::string of(const std::string& name);

 private:
  std::set<std::string> used_;
};

/// A name in mathematics: Greek letters by their names, what follows _ lowered, words upright; an ending is lowered
/// behind it.
[[nodiscard]] std::string latex_name(const std::string& name, const std::string& ending = "");

/// B7, $B$7 or Sheet1.B7: what a cell is called; nothing that would change the formula. Throws Error (bad_argument).
void require_cell(const std::string& cell);

}  // namespace truecurve::detail
