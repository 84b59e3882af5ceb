#include "unit_walk.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

constexpr int largest_simple = 9;  // 10 and its powers convert units more often than not

// 2, 1/2, 3/4, up to `largest` above and beneath. No fifths or ninths, and no decimals, which are made of fifths: 1.8
// and 5/9 convert temperatures.
bool is_simple_fraction(double value, int largest) {
  const auto fraction = rational_of(value, largest);
  if (!fraction || abs(numerator(*fraction)) > largest) return false;
  const auto bottom = static_cast<int>(denominator(*fraction));
  return bottom % 5 != 0 && bottom % 7 != 0 && bottom % 9 != 0;
}

// A number that geometry or a logarithm's base brings in, and no unit: simple fractions, their square roots, and these
// times powers of pi, ln 2 and ln 10 of half steps.
bool is_simple(double value) {
  if (is_simple_fraction(value, largest_simple)) return true;
  if (is_simple_fraction(value * value, largest_simple)) return true;
  for (int pi = -2; pi <= 2; ++pi) {
    for (int two = -2; two <= 2; ++two) {
      for (int ten = -2; ten <= 2; ten += 2) {
        if (pi == 0 && two == 0 && ten == 0) continue;
        const double rest = value * value * std::pow(std::numbers::pi, pi) * std::pow(std::numbers::ln2, two) *
                            std::pow(std::numbers::ln10, ten);
        const auto fraction = rational_of(rest, largest_simple * largest_simple);
        if (fraction && numerator(*fraction) <= largest_simple * largest_simple) return true;
      }
    }
  }
  return false;
}

NodeId without_sign(const Graph& graph, NodeId exponent) {
  return graph.at(exponent).op == Op::negate ? graph.at(exponent).a : exponent;
}

std::string name_of(const Graph& graph, NodeId id) {
  const Node& node = graph.at(id);
  return node.op == Op::name ? graph.names()[static_cast<std::size_t>(node.name)] : "";
}

const char* called(Op op) {
  switch (op) {
    case Op::exp: return "exp";
    case Op::sin: return "sin";
    case Op::cos: return "cos";
    case Op::tan: return "tan";
    case Op::asin: return "asin";
    case Op::acos: return "acos";
    case Op::atan: return "atan";
    case Op::sinh: return "sinh";
    case Op::cosh: return "cosh";
    case Op::tanh: return "tanh";
    case Op::erf: return "erf";
    case Op::erfc: return "erfc";
    default: return "a function";
  }
}

}  // namespace

FormalExponents::FormalExponents(const Graph& graph, NodeId root, std::vector<std::string> named_columns)
    : columns(std::move(named_columns)) {
  const std::vector<bool> is_used = graph.beneath(std::span(&root, 1));
  for (NodeId id = 0; id <= root; ++id) {
    const Node& node = graph.at(id);
    if (!is_used[static_cast<std::size_t>(id)] || node.op != Op::power) continue;
    if (graph.at(node.a).op == Op::constant || number_of(graph, node.b) > 0 || has_column(graph, node.b)) continue;
    const NodeId exponent = without_sign(graph, node.b);
    nodes.push_back(exponent);
    names.push_back(name_of(graph, exponent));
  }
}

bool FormalExponents::has_column(const Graph& graph, NodeId exponent) const {
  const std::vector<bool> depends = graph.depends_on(exponent);
  return std::any_of(columns.begin(), columns.end(), [&](const std::string& column) {
    const auto name = static_cast<std::size_t>(graph.index_of(column));
    return name < depends.size() && depends[name];
  });
}

std::size_t FormalExponents::number_of(const Graph& graph, NodeId exponent) const {
  const NodeId plain = without_sign(graph, exponent);
  const std::string name = name_of(graph, plain);
  for (std::size_t k = 0; k < names.size(); ++k) {
    if (name.empty() ? nodes[k] == plain : names[k] == name) return k + 1;
  }
  return 0;
}

Exponents UnitWalk::unknown(const FormalExponents& exponents, int& unknowns) {
  Exponents made(1 + exponents.names.size());
  for (Exponent& part : made) part.unknown[unknowns++] = 1;
  return made;
}

// What is a term of a logarithm, in the argument of exp or on the side that meets one: sums lead down to it.
std::vector<bool> UnitWalk::log_terms(NodeId root, bool is_logarithm) const {
  const auto size = static_cast<std::size_t>(root) + 1;
  std::vector<bool> is_term(size, false);
  std::vector<bool> is_other(size, false);
  (is_logarithm ? is_term : is_other)[size - 1] = true;
  const std::vector<bool> is_used = graph_.beneath(std::span(&root, 1));
  for (NodeId id = root; id >= 0; --id) {
    const auto i = static_cast<std::size_t>(id);
    if (!is_used[i]) continue;
    const Node& node = graph_.at(id);
    const bool passes = node.op == Op::add || node.op == Op::subtract || node.op == Op::negate;
    const bool opens = node.op == Op::exp || (node.op == Op::power && is_number(node.a));
    for (const NodeId child : {node.a, node.b, node.c}) {
      if (child < 0) continue;
      const auto c = static_cast<std::size_t>(child);
      if (opens || (passes && is_term[i])) is_term[c] = true;
      if (!opens && (!passes || is_other[i])) is_other[c] = true;
    }
  }
  for (std::size_t i = 0; i < size; ++i) is_term[i] = is_term[i] && !is_other[i];
  return is_term;
}

UnitWalk::Unit UnitWalk::walk(NodeId root, bool is_logarithm) {
  const std::vector<bool> is_term = log_terms(root, is_logarithm);
  const std::vector<bool> is_used = graph_.beneath(std::span(&root, 1));
  units_.assign(static_cast<std::size_t>(root) + 1, {});
  for (NodeId id = 0; id <= root; ++id) {
    const auto i = static_cast<std::size_t>(id);
    if (is_used[i]) units_[i] = of_node(id, is_term[i]);
  }
  return units_.back();
}

void UnitWalk::equate(NodeId left, NodeId right) {
  const Unit of_left = walk(left, true);
  const bool is_logarithm =
      !std::all_of(of_left.logarithm_of.begin(), of_left.logarithm_of.end(), [](const auto& u) { return is_zero(u); });
  const Unit of_right = walk(right, is_logarithm);
  if (is_number(right)) return;
  rules_.strict.push_back({sum_of(of_left.unit, of_right.unit, -1), "its sides have different units"});
  for (std::size_t k = 0; k < bases; ++k)
    rules_.logarithms.push_back(sum_of(of_left.logarithm_of[k], of_right.logarithm_of[k], -1));
}

void UnitWalk::require_alike(NodeId a, NodeId b, const char* broken) {
  if (is_number(a) || is_number(b)) {
    const NodeId number = is_number(a) ? a : b;
    const NodeId other = is_number(a) ? b : a;
    const double value = graph_.at(number).value;
    if (value != 0 && is_simple(value)) rules_.simple_terms.push_back(at(other).unit);
    return;
  }
  rules_.strict.push_back({sum_of(at(a).unit, at(b).unit, -1), broken});
}

void UnitWalk::require_pure(NodeId argument, const std::string& broken) {
  if (!is_number(argument)) rules_.strict.push_back({at(argument).unit, broken});
}

// Of a number in a product: none where it is simple, a divisor as the fraction that it makes.
Exponents UnitWalk::factor(NodeId id, bool divides) {
  if (!is_number(id)) return at(id).unit;
  const double value = divides ? 1 / graph_.at(id).value : graph_.at(id).value;
  if (std::abs(value) == 1) return {};
  Exponents made(1);
  made[0].unknown[unknowns_++] = 1;
  if (is_simple(value)) rules_.simple_factors.push_back(made);
  return made;
}

UnitWalk::Unit UnitWalk::of_sum(const Node& node, const Rational& sign) {
  require_alike(node.a, node.b, "terms of different units are added");
  Unit made{is_number(node.a) ? at(node.b).unit : at(node.a).unit};
  for (std::size_t k = 0; k < bases; ++k)
    made.logarithm_of[k] = sum_of(at(node.a).logarithm_of[k], at(node.b).logarithm_of[k], sign);
  return made;
}

UnitWalk::Unit UnitWalk::of_product(const Node& node, const Rational& sign) {
  Unit made{sum_of(factor(node.a, false), factor(node.b, node.op == Op::divide), sign)};
  const bool is_scaled = is_number(node.b) || (is_number(node.a) && node.op == Op::multiply);
  const NodeId scaled = is_number(node.b) ? node.a : node.b;
  const auto by = is_scaled ? rational_of(graph_.at(is_number(node.b) ? node.b : node.a).value, largest_simple)
                            : std::optional<Rational>();
  for (std::size_t k = 0; k < bases; ++k) {
    const Exponents& a = at(node.a).logarithm_of[k];
    const Exponents& b = at(node.b).logarithm_of[k];
    if (is_zero(a) && is_zero(b)) continue;
    if (by && *by != 0) {
      made.logarithm_of[k] = multiple_of(at(scaled).logarithm_of[k], node.op == Op::multiply ? *by : 1 / *by);
      continue;
    }
    // x^b written as exp(b*ln(x)): without a unit where x has none.
    made.logarithm_of[k] = unknown();
    rules_.conditional.emplace_back(is_zero(a) ? b : a, made.logarithm_of[k]);
  }
  return made;
}

UnitWalk::Unit UnitWalk::of_logarithm(const Node& node, std::size_t base) {
  Unit made;
  if (is_number(node.a)) return made;
  made.logarithm_of[base] = at(node.a).unit;
  rules_.log_arguments.push_back(at(node.a).unit);
  return made;
}

UnitWalk::Unit UnitWalk::exponential(NodeId argument, std::size_t base) {
  require_pure(argument, base == 0 ? "the argument of exp has a unit" : "an exponent has a unit");
  return {at(argument).logarithm_of[base]};
}

// A power whose exponent is no number: its unit's exponents are those of the base times the exponent.
Exponents UnitWalk::raised(NodeId base, NodeId exponent) {
  const std::size_t number = exponents_.number_of(graph_, exponent);
  // One that stood nowhere before: nothing is known of what it does.
  if (number == 0) {
    Exponents made = unknown();
    rules_.conditional.emplace_back(at(base).unit, made);
    return made;
  }
  const bool is_negative = graph_.at(exponent).op == Op::negate;
  const Exponents& unit = at(base).unit;
  Exponents made(1 + number);
  if (!unit.empty()) made.back().add(unit[0], is_negative ? -1 : 1);
  // The power of a power is not followed.
  if (unit.size() > 1)
    rules_.strict.push_back({Exponents(unit.begin() + 1, unit.end()), "a power is raised to a power"});
  return made;
}

UnitWalk::Unit UnitWalk::of_power(const Node& node) {
  if (is_number(node.b)) {
    if (const auto power = rational_of(graph_.at(node.b).value, 24)) return {multiple_of(at(node.a).unit, *power)};
  }
  if (!is_number(node.a) && exponents_.has_column(graph_, node.b)) {
    // The base then is that of one unit of the column, and has no unit itself.
    require_pure(node.a, "a quantity with a unit is raised to the power of a column");
    rules_.column_exponents.push_back(at(node.b).unit);
    return {};
  }
  require_pure(node.b, "an exponent has a unit");
  if (!is_number(node.a)) return {raised(node.a, node.b)};
  const double base = graph_.at(node.a).value;
  return base == 10 ? exponential(node.b, 1) : base == 2 ? exponential(node.b, 2) : Unit{};
}

UnitWalk::Unit UnitWalk::of_choice(const Node& node) {
  require_alike(node.b, node.c, "a choice is between different units");
  return {is_number(node.b) ? at(node.c).unit : at(node.b).unit};
}

UnitWalk::Unit UnitWalk::of_node(NodeId id, bool is_log_term) {
  const Node& node = graph_.at(id);
  switch (node.op) {
    case Op::constant: return {};
    case Op::name: return unit_of_(graph_.names()[static_cast<std::size_t>(node.name)], is_log_term);
    case Op::add: return of_sum(node, 1);
    case Op::subtract: return of_sum(node, -1);
    case Op::negate: {
      Unit made{at(node.a).unit};
      for (std::size_t k = 0; k < bases; ++k) made.logarithm_of[k] = multiple_of(at(node.a).logarithm_of[k], -1);
      return made;
    }
    case Op::multiply: return of_product(node, 1);
    case Op::divide: return of_product(node, -1);
    case Op::power: return of_power(node);
    case Op::integer_power: return {multiple_of(at(node.a).unit, static_cast<int>(node.value))};
    case Op::sqrt: return {multiple_of(at(node.a).unit, Rational(1, 2))};
    case Op::cbrt: return {multiple_of(at(node.a).unit, Rational(1, 3))};
    case Op::abs: return {at(node.a).unit};
    case Op::minimum:
    case Op::maximum:
      require_alike(node.a, node.b, "values of different units are compared");
      return {is_number(node.a) ? at(node.b).unit : at(node.a).unit};
    case Op::less:
    case Op::less_equal:
    case Op::equal: require_alike(node.a, node.b, "values of different units are compared"); return {};
    case Op::both:
    case Op::either:
    case Op::opposite:
    case Op::sign: return {};
    case Op::choose: return of_choice(node);
    case Op::exp: return exponential(node.a, 0);
    case Op::ln: return of_logarithm(node, 0);
    case Op::log10: return of_logarithm(node, 1);
    case Op::log2: return of_logarithm(node, 2);
    case Op::multiply_log:
    case Op::multiply_slope: return {unknown()};  // only in derivatives
    default: require_pure(node.a, fmt::format("the argument of {} has a unit", called(node.op))); return {};
  }
}

}  // namespace truecurve::detail
