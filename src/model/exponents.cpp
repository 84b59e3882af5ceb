#include "exponents.hpp"

#include <algorithm>
#include <utility>

namespace truecurve::detail {
namespace {

template <typename Key>
void add_to(std::map<Key, Rational>& sums, const std::map<Key, Rational>& terms, const Rational& times) {
  for (const auto& [key, power] : terms) {
    Rational& sum = sums[key];
    sum += times * power;
    if (sum == 0) sums.erase(key);
  }
}

}  // namespace

void Exponent::add(const Exponent& other, const Rational& times) {
  if (times == 0) return;
  add_to(known, other.known, times);
  add_to(unknown, other.unknown, times);
}

Exponents sum_of(const Exponents& a, const Exponents& b, const Rational& times) {
  Exponents sum = a;
  sum.resize(std::max(a.size(), b.size()));
  for (std::size_t k = 0; k < b.size(); ++k) sum[k].add(b[k], times);
  return sum;
}

Exponents multiple_of(const Exponents& a, const Rational& by) { return sum_of({}, a, by); }

bool is_zero(const Exponents& exponents) {
  return std::all_of(exponents.begin(), exponents.end(), [](const Exponent& e) { return e.is_zero(); });
}

Exponent ExponentEquations::reduced(Exponent exponent) const {
  const std::map<int, Rational> unknown = exponent.unknown;
  for (const auto& [number, power] : unknown) {
    const auto at = solved_.find(number);
    if (at == solved_.end()) continue;
    exponent.unknown.erase(number);
    exponent.add(at->second, power);
  }
  return exponent;
}

Exponents ExponentEquations::reduced(const Exponents& exponents) const {
  Exponents all;
  for (const Exponent& exponent : exponents) all.push_back(reduced(exponent));
  return all;
}

bool ExponentEquations::add(const Exponent& zero) {
  Exponent rest = reduced(zero);
  if (rest.unknown.empty()) return rest.known.empty();
  // The last unknown by the others: that of a parameter, which comes before those of constants, stays longest.
  const auto [number, power] = *rest.unknown.rbegin();
  rest.unknown.erase(number);
  Exponent solution;
  solution.add(rest, -1 / power);
  for (auto& [other, exponent] : solved_) {
    const auto at = exponent.unknown.find(number);
    if (at == exponent.unknown.end()) continue;
    const Rational times = at->second;
    exponent.unknown.erase(at);
    exponent.add(solution, times);
  }
  solved_.emplace(number, std::move(solution));
  return true;
}

bool ExponentEquations::add(const Exponents& zeros) {
  const std::map<int, Exponent> before = solved_;
  for (const Exponent& zero : zeros) {
    if (add(zero)) continue;
    solved_ = before;
    return false;
  }
  return true;
}

}  // namespace truecurve::detail
