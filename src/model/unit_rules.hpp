// What the units of the columns say of the units of the parameters: the sides of an equation and the terms of a sum
// have one unit, the argument of exp or sin has none (JCGM 200:2012, 1.8 and 1.21: quantity equation and unit
// equation).
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/model/model.hpp>

#include "exponents.hpp"
#include "unit_text.hpp"
#include "unit_walk.hpp"

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve::detail {

/// The units of a model's parameters. Numbers written in the formula have no unit where they are simple (2, 1/2, pi, ln
/// 2) and that does not contradict the columns; any other number may have one. A column without a unit is a pure number
/// where that does not contradict the others.
class UnitRules {
 public:
  UnitRules(const Model& model, const Quantity& response, const std::vector<Quantity>& predictors);

  /// Whether any column has a unit and the model is written.
  [[nodiscard]] bool are_stated() const { return stated_; }
  /// What the columns' units and the formula contradict each other in: "the argument of exp has a unit"; else empty.
  [[nodiscard]] const std::string& contradiction() const { return contradiction_; }
  /// Of a parameter, fitted or held.
  [[nodiscard]] FoundUnit of_parameter(const std::string& name) const;
  /// Of an expression in the parameters; none where its own terms contradict each other. Throws Error (syntax) where it
  /// can't be read.
  [[nodiscard]] FoundUnit of_expression(std::string_view text) const;

 private:
  void solve(const CollectedRules& rules, const std::vector<Exponents>& without_unit);
  [[nodiscard]] FoundUnit found(const Exponents& exponents, const FormalExponents& formal) const;

  bool stated_ = false;
  std::string contradiction_{};
  std::vector<Quantity> columns_{};
  std::map<std::string, UnitOfNode> names_{};  // of parameters and columns, as far as they are known
  FormalExponents formal_{};
  ExponentEquations equations_{};
  int unknowns_ = 0;
};

}  // namespace truecurve::detail
