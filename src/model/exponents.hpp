// Linear equations between the exponents of units.
#pragma once

#include "../base/rational.hpp"

#include <map>
#include <string>
#include <vector>

namespace truecurve::detail {

/// Powers of units, by their key, and multiples of unknown powers, by their number: what a quantity's unit is, in
/// logarithms.
struct Exponent {
  std::map<std::string, Rational> known{};
  std::map<int, Rational> unknown{};

  [[nodiscard]] bool is_zero() const { return known.empty() && unknown.empty(); }
  /// Adds `times` another one.
  void add(const Exponent& other, const Rational& times);
};

/// The exponent of a unit in which powers may hang on the value of a parameter: the first is the plain one, the k-th is
/// that times the k-th parameter that stands as an exponent. A shorter list ends in zeros.
using Exponents = std::vector<Exponent>;

[[nodiscard]] Exponents sum_of(const Exponents& a, const Exponents& b, const Rational& times = 1);
[[nodiscard]] Exponents multiple_of(const Exponents& a, const Rational& by);
[[nodiscard]] bool is_zero(const Exponents& exponents);

/// What is known of the unknown powers, by Gauss's elimination.
class ExponentEquations {
 public:
  /// Adds what is to be zero; false, and nothing changed, where that contradicts the equations before.
  bool add(const Exponent& zero);
  /// All or none of them.
  bool add(const Exponents& zeros);
  /// With the powers that are known in the place of their numbers.
  [[nodiscard]] Exponent reduced(Exponent exponent) const;
  [[nodiscard]] Exponents reduced(const Exponents& exponents) const;

 private:
  std::map<int, Exponent> solved_;  // by the number of the unknown, which stands in no other one's exponent
};

}  // namespace truecurve::detail
