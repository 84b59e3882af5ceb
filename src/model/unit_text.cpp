#include "unit_text.hpp"

#include "../data/unit_powers.hpp"

#include <algorithm>
#include <optional>
#include <set>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::detail {
namespace {

struct WrittenPower {
  std::string text;
  Rational power;
  std::string exponent{};  // the parameter by which the power is multiplied, if one is
};

// The columns whose product of powers is the unit: the first that suffice. No unit but that of a column is needed.
std::optional<std::vector<Rational>> by_columns(const Exponent& unit, const std::vector<Quantity>& columns) {
  // An unknown power a column, and an equation a unit.
  std::set<std::string> keys;
  for (const auto& [key, power] : unit.known) keys.insert(key);
  std::vector<std::vector<UnitPower>> powers;
  for (const Quantity& column : columns) {
    powers.push_back(unit_powers(column.unit));
    for (const UnitPower& power : powers.back()) keys.insert(power.key);
  }
  ExponentEquations equations;
  for (const std::string& key : keys) {
    Exponent zero;
    const auto wanted = unit.known.find(key);
    if (wanted != unit.known.end()) zero.known["1"] = -wanted->second;
    for (std::size_t k = 0; k < columns.size(); ++k) {
      for (const UnitPower& power : powers[k]) {
        if (power.key == key) zero.unknown[static_cast<int>(k)] = power.power;
      }
    }
    if (!equations.add(zero)) return {};
  }
  // The last columns go first; those left are free, and none.
  std::vector<Rational> found;
  for (std::size_t k = columns.size(); k-- > 0;) (void)equations.add(Exponent{{}, {{static_cast<int>(k), 1}}});
  for (std::size_t k = 0; k < columns.size(); ++k) {
    const Exponent value = equations.reduced(Exponent{{}, {{static_cast<int>(k), 1}}});
    found.push_back(value.known.empty() ? Rational(0) : value.known.begin()->second);
  }
  return found;
}

bool is_compound(const std::string& text) { return text.find_first_of("/*^ ()") != std::string::npos; }

// Whether a unit is better written by its parts: two columns share one, or a reciprocal stands beneath a stroke.
bool is_better_by_parts(const std::vector<Rational>& powers, const std::vector<Quantity>& columns) {
  std::set<std::string> seen;
  for (std::size_t k = 0; k < columns.size(); ++k) {
    if (powers[k] == 0) continue;
    if (powers[k] != 1 && columns[k].unit.starts_with("1/")) return true;
    for (const UnitPower& power : unit_powers(columns[k].unit)) {
      if (!seen.insert(power.key).second) return true;
    }
  }
  return false;
}

std::vector<WrittenPower> factors_of(const Exponent& unit, const std::vector<Quantity>& columns) {
  std::vector<WrittenPower> factors;
  const auto powers = by_columns(unit, columns);
  if (powers && !is_better_by_parts(*powers, columns)) {
    for (std::size_t k = 0; k < columns.size(); ++k) {
      if ((*powers)[k] != 0) factors.push_back({columns[k].unit, (*powers)[k]});
    }
    return factors;
  }
  // In the order and the spelling in which the columns bring them.
  std::map<std::string, Rational> left = unit.known;
  for (const Quantity& column : columns) {
    for (const UnitPower& power : unit_powers(column.unit)) {
      const auto at = left.find(power.key);
      if (at == left.end()) continue;
      factors.push_back({power.text, at->second});
      left.erase(at);
    }
  }
  return factors;
}

std::string power_text(const WrittenPower& factor, bool is_alone) {
  const Rational size = abs(factor.power);
  const std::string exponent = !factor.exponent.empty() ? "^" + factor.exponent
                               : size == 1              ? ""
                               : denominator(size) == 1 ? "^" + size.str()
                                                        : "^(" + size.str() + ")";
  const bool is_product = factor.text.find_first_of("/^()") == std::string::npos;  // mPa s
  const bool needs_brackets = is_compound(factor.text) && ((!is_alone && !is_product) || !exponent.empty());
  return (needs_brackets ? "(" + factor.text + ")" : factor.text) + exponent;
}

}  // namespace

FoundUnit unit_text(const Exponents& unit, const std::vector<Quantity>& columns,
                    const std::vector<std::string>& exponents) {
  std::vector<WrittenPower> factors;
  for (std::size_t k = 0; k < unit.size(); ++k) {
    for (WrittenPower& factor : factors_of(unit[k], columns)) {
      if (k > 0) {
        factor.exponent = exponents[k - 1];
        // As 2*b or the like: not written.
        if (factor.exponent.empty() || abs(factor.power) != 1) return {false, "", factor.exponent};
      }
      factors.push_back(std::move(factor));
    }
  }
  std::vector<std::string> above;
  std::vector<std::string> beneath;
  for (const WrittenPower& factor : factors) {
    const bool is_alone = factors.size() == 1 && factor.power > 0;
    (factor.power > 0 ? above : beneath).push_back(power_text(factor, is_alone));
  }
  std::string text = fmt::format("{}", fmt::join(above, " "));
  if (!beneath.empty()) {
    const std::string list = fmt::format("{}", fmt::join(beneath, " "));
    const bool is_one = beneath.size() == 1 && list.find(' ') == std::string::npos;
    text = (above.empty() ? "1" : text) + (is_one ? "/" + list : "/(" + list + ")");
  }
  return {true, text, ""};
}

}  // namespace truecurve::detail
