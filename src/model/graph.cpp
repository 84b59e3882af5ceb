// Builds, simplifies and differentiates the graph of a written expression.
#include "graph.hpp"

#include <truecurve/base/error.hpp>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

namespace truecurve::detail {
namespace {

// More nodes than any model written by hand needs; a bound keeps a hostile text from filling the memory.
constexpr std::size_t largest_graph = 200'000;

constexpr double two_over_root_pi = 1.1283791670955126;  // derivative of erf at 0
constexpr double ln_10 = 2.302585092994046;
constexpr double ln_2 = 0.6931471805599453;

}  // namespace

int operand_count(Op op) {
  if (op == Op::constant || op == Op::name) return 0;
  if (op == Op::choose) return 3;
  return op < Op::negate ? 2 : 1;
}

double apply(const Node& node, double a, double b, double c) {
  switch (node.op) {
    case Op::constant: return node.value;
    case Op::name: return a;
    case Op::add: return a + b;
    case Op::subtract: return a - b;
    case Op::multiply: return a * b;
    case Op::divide: return a / b;
    case Op::power: return std::pow(a, b);
    // Written so that a NaN operand gives NaN.
    case Op::minimum: return std::isnan(b) || b < a ? b : a;
    case Op::maximum: return std::isnan(b) || b > a ? b : a;
    case Op::multiply_log: return a == 0 ? 0.0 : a * std::log(b);
    case Op::multiply_slope: return b == 0 ? 0.0 : a * b;
    case Op::less: return a < b ? 1.0 : 0.0;
    case Op::less_equal: return a <= b ? 1.0 : 0.0;
    case Op::equal: return a == b ? 1.0 : 0.0;
    case Op::both: return a != 0 && b != 0 ? 1.0 : 0.0;
    case Op::either: return a != 0 || b != 0 ? 1.0 : 0.0;
    case Op::negate: return -a;
    case Op::integer_power: {
      auto n = static_cast<int>(std::abs(node.value));
      double result = 1;
      for (double base = a; n > 0; n >>= 1, base *= base) {
        if (n & 1) result *= base;
      }
      return node.value < 0 ? 1 / result : result;
    }
    case Op::exp: return std::exp(a);
    case Op::ln: return std::log(a);
    case Op::log10: return std::log10(a);
    case Op::log2: return std::log2(a);
    case Op::sqrt: return std::sqrt(a);
    case Op::cbrt: return std::cbrt(a);
    case Op::abs: return std::abs(a);
    case Op::sign: return static_cast<double>((a > 0) - (a < 0));
    case Op::sin: return std::sin(a);
    case Op::cos: return std::cos(a);
    case Op::tan: return std::tan(a);
    case Op::asin: return std::asin(a);
    case Op::acos: return std::acos(a);
    case Op::atan: return std::atan(a);
    case Op::sinh: return std::sinh(a);
    case Op::cosh: return std::cosh(a);
    case Op::tanh: return std::tanh(a);
    case Op::erf: return std::erf(a);
    case Op::erfc: return std::erfc(a);
    case Op::opposite: return a == 0 ? 1.0 : 0.0;
    case Op::choose: return a != 0 ? b : c;
  }
  return std::nan("");
}

NodeId Graph::intern(const Node& node) {
  const auto key = std::tuple(node.op, node.a, node.b, node.c, std::bit_cast<std::uint64_t>(node.value), node.name);
  const auto [at, fresh] = known_.try_emplace(key, static_cast<NodeId>(nodes_.size()));
  if (fresh) {
    if (nodes_.size() >= largest_graph) {
      throw Error({.code = ErrorCode::model_too_large,
                   .message = "the expression and its derivatives are too large",
                   .remedy = "write a shorter expression, or give the model as a C++ function"});
    }
    nodes_.push_back(node);
  }
  return at->second;
}

NodeId Graph::constant(double value) { return intern({.op = Op::constant, .value = value}); }

int Graph::index_of(std::string_view name) const {
  return static_cast<int>(std::find(names_.begin(), names_.end(), name) - names_.begin());
}

NodeId Graph::named(std::string_view name) {
  const int at = index_of(name);
  if (at == static_cast<int>(names_.size())) names_.emplace_back(name);
  return intern({.op = Op::name, .name = at});
}

bool Graph::is_constant(NodeId id, double value) const { return at(id).op == Op::constant && at(id).value == value; }

NodeId Graph::integer_power(NodeId base, int exponent) {
  if (exponent == 0) return constant(1);
  if (exponent == 1) return base;
  Node node{.op = Op::integer_power, .a = base, .value = static_cast<double>(exponent)};
  if (at(base).op == Op::constant) return constant(apply(node, at(base).value, 0, 0));
  return intern(node);
}

NodeId Graph::make(Op op, NodeId a, NodeId b, NodeId c) {
  const int operands = operand_count(op);
  bool all_constant = at(a).op == Op::constant;
  if (operands > 1) all_constant = all_constant && at(b).op == Op::constant;
  if (operands > 2) all_constant = all_constant && at(c).op == Op::constant;
  if (all_constant) {
    return constant(apply({.op = op}, at(a).value, operands > 1 ? at(b).value : 0, operands > 2 ? at(c).value : 0));
  }
  return simplified(op, a, b, c);
}

NodeId Graph::simplified(Op op, NodeId a, NodeId b, NodeId c) {
  switch (op) {
    case Op::add:
      if (is_constant(a, 0)) return b;
      if (is_constant(b, 0)) return a;
      if (at(b).op == Op::negate) return make(Op::subtract, a, at(b).a);
      break;
    case Op::subtract:
      if (is_constant(b, 0)) return a;
      if (is_constant(a, 0)) return make(Op::negate, b);
      if (a == b) return constant(0);
      if (at(b).op == Op::negate) return make(Op::add, a, at(b).a);
      break;
    case Op::multiply:
      if (is_constant(a, 0) || is_constant(b, 0)) return constant(0);
      if (is_constant(a, 1)) return b;
      if (is_constant(b, 1)) return a;
      if (is_constant(a, -1)) return make(Op::negate, b);
      if (is_constant(b, -1)) return make(Op::negate, a);
      break;
    case Op::divide:
      if (is_constant(a, 0)) return constant(0);
      if (is_constant(b, 1)) return a;
      break;
    case Op::power:
      if (at(b).op == Op::constant && at(b).value == std::floor(at(b).value) && std::abs(at(b).value) <= 64) {
        return integer_power(a, static_cast<int>(at(b).value));
      }
      if (is_constant(b, 0.5)) return make(Op::sqrt, a);
      break;
    case Op::multiply_log:
      if (is_constant(a, 0)) return constant(0);
      break;
    case Op::multiply_slope:
      if (at(a).op == Op::constant || at(b).op == Op::constant) return make(Op::multiply, a, b);
      break;
    case Op::negate:
      if (at(a).op == Op::negate) return at(a).a;
      break;
    case Op::choose:
      if (b == c) return b;
      if (at(a).op == Op::constant) return at(a).value != 0 ? b : c;
      break;
    default: break;
  }
  return intern({.op = op, .a = a, .b = b, .c = c});
}

std::vector<bool> Graph::beneath(std::span<const NodeId> of) const {
  std::vector<bool> reached(nodes_.size(), false);
  NodeId last = -1;
  for (const NodeId id : of) {
    reached[static_cast<std::size_t>(id)] = true;
    last = std::max(last, id);
  }
  for (NodeId id = last; id >= 0; --id) {  // children come first
    if (!reached[static_cast<std::size_t>(id)]) continue;
    for (const NodeId child : {at(id).a, at(id).b, at(id).c}) {
      if (child >= 0) reached[static_cast<std::size_t>(child)] = true;
    }
  }
  return reached;
}

std::vector<bool> Graph::depends_on(NodeId of) const {
  const std::vector<bool> reached = beneath(std::array{of});
  std::vector<bool> names(names_.size(), false);
  for (NodeId id = 0; id <= of; ++id) {
    const Node& node = at(id);
    if (reached[static_cast<std::size_t>(id)] && node.op == Op::name) names[static_cast<std::size_t>(node.name)] = true;
  }
  return names;
}

bool Graph::depends(NodeId id, int name) const {
  if (id < 0) return false;
  const std::vector<bool> names = depends_on(id);
  return static_cast<std::size_t>(name) < names.size() && names[static_cast<std::size_t>(name)];
}

NodeId Graph::with_values(NodeId of, const std::vector<double>& values) {
  std::vector<NodeId> replaced(static_cast<std::size_t>(of) + 1, -1);
  const auto image = [&](NodeId id) { return id < 0 ? -1 : replaced[static_cast<std::size_t>(id)]; };
  for (NodeId id = 0; id <= of; ++id) {
    const Node node = at(id);
    NodeId made = id;
    if (node.op == Op::name) {
      const double value = static_cast<std::size_t>(node.name) < values.size()
                               ? values[static_cast<std::size_t>(node.name)]
                               : std::nan("");
      if (!std::isnan(value)) made = constant(value);
    } else if (node.op == Op::integer_power) {
      made = integer_power(image(node.a), static_cast<int>(node.value));
    } else if (node.op != Op::constant) {
      made = make(node.op, image(node.a), image(node.b), image(node.c));
    }
    replaced[static_cast<std::size_t>(id)] = made;
  }
  return replaced[static_cast<std::size_t>(of)];
}

bool Graph::is_positive(NodeId of) const {
  // Above zero, and zero or above, for every node beneath.
  std::vector<bool> above(static_cast<std::size_t>(of) + 1, false);
  std::vector<bool> not_below(static_cast<std::size_t>(of) + 1, false);
  for (NodeId id = 0; id <= of; ++id) {
    const Node& node = at(id);
    const auto is_above = [&](NodeId child) { return above[static_cast<std::size_t>(child)]; };
    const auto is_not_below = [&](NodeId child) { return not_below[static_cast<std::size_t>(child)]; };
    bool positive = false;
    bool nonnegative = false;
    switch (node.op) {
      case Op::constant: positive = node.value > 0; break;  // 0 is no term or factor
      case Op::exp:
      case Op::sqrt:
      case Op::abs:
        // exp may round to zero: its square root or power is then zero too, and 0/0 must not come of it.
        nonnegative = true;
        break;
      case Op::cosh: positive = true; break;
      case Op::integer_power: nonnegative = static_cast<int>(node.value) % 2 == 0 && node.value > 0; break;
      case Op::add:
        positive = (is_above(node.a) && is_not_below(node.b)) || (is_not_below(node.a) && is_above(node.b));
        nonnegative = is_not_below(node.a) && is_not_below(node.b);
        break;
      case Op::multiply: nonnegative = is_not_below(node.a) && is_not_below(node.b); break;
      default: break;
    }
    above[static_cast<std::size_t>(id)] = positive;
    not_below[static_cast<std::size_t>(id)] = positive || nonnegative;
  }
  return above[static_cast<std::size_t>(of)];
}

namespace {

// Of u^v: v*u^(v-1)*du + u^v*ln(u)*dv.
NodeId slope_of_power(Graph& graph, NodeId id, NodeId du, NodeId dv) {
  const NodeId zero = graph.constant(0);
  const NodeId u = graph.at(id).a;
  const NodeId v = graph.at(id).b;
  const auto times = [&](NodeId p, NodeId q) { return graph.make(Op::multiply, p, q); };
  // Where u can't be zero u^(v-1) is u^v/u, and the power is there already.
  // Where it can, u^(v-1) may be infinite, and a parameter that only scales u, as in (x/tau)^b, moves nothing at 0.
  const auto by_moving_base = [&] {
    if (graph.is_positive(u)) return times(times(v, graph.make(Op::divide, id, u)), du);
    const NodeId less_one = graph.make(Op::subtract, v, graph.constant(1));
    return graph.make(Op::multiply_slope, times(v, graph.make(Op::power, u, less_one)), du);
  };
  const NodeId by_base = du == zero ? zero : by_moving_base();
  const NodeId by_exponent = dv == zero ? zero : times(graph.make(Op::multiply_log, id, u), dv);
  return graph.make(Op::add, by_base, by_exponent);
}

// Of the operations with two operands, or with three.
NodeId slope_of_operation(Graph& graph, NodeId id, NodeId du, NodeId dv, NodeId dw) {
  const Node node = graph.at(id);
  const NodeId zero = graph.constant(0);
  const NodeId u = node.a;
  const NodeId v = node.b;
  const auto make = [&graph](Op op, NodeId p, NodeId q) { return graph.make(op, p, q); };
  switch (node.op) {
    case Op::add: return make(Op::add, du, dv);
    case Op::subtract: return make(Op::subtract, du, dv);
    case Op::multiply: return make(Op::add, make(Op::multiply, du, v), make(Op::multiply, u, dv));
    case Op::divide: return make(Op::divide, make(Op::subtract, du, make(Op::multiply, id, dv)), v);
    case Op::power: return slope_of_power(graph, id, du, dv);
    case Op::multiply_log:
      return make(Op::add, du == zero ? zero : make(Op::multiply_log, du, v),
                  dv == zero ? zero : make(Op::multiply, make(Op::divide, u, v), dv));
    case Op::multiply_slope: return make(Op::add, make(Op::multiply_slope, du, v), make(Op::multiply_slope, u, dv));
    case Op::minimum: return graph.make(Op::choose, make(Op::less, v, u), dv, du);
    case Op::maximum: return graph.make(Op::choose, make(Op::less, u, v), dv, du);
    case Op::choose: return graph.make(Op::choose, u, dv, dw);
    default: return zero;  // comparisons are level but for their steps
  }
}

// Of the functions of one operand.
NodeId slope_of_function(Graph& graph, NodeId id, NodeId du) {
  const Node node = graph.at(id);
  const NodeId zero = graph.constant(0);
  const NodeId u = node.a;
  const auto number = [&graph](double value) { return graph.constant(value); };
  const auto times = [&](NodeId p, NodeId q) { return graph.make(Op::multiply, p, q); };
  const auto over = [&](NodeId p, NodeId q) { return graph.make(Op::divide, p, q); };
  const auto square = [&](NodeId p) { return graph.integer_power(p, 2); };
  switch (node.op) {
    case Op::negate: return graph.make(Op::negate, du);
    case Op::integer_power: {
      const auto exponent = static_cast<int>(node.value);
      return times(times(number(node.value), graph.integer_power(u, exponent - 1)), du);
    }
    case Op::exp: return times(id, du);
    case Op::ln: return over(du, u);
    case Op::log10: return over(du, times(number(ln_10), u));
    case Op::log2: return over(du, times(number(ln_2), u));
    case Op::sqrt: return graph.make(Op::multiply_slope, over(number(0.5), id), du);
    case Op::cbrt: return graph.make(Op::multiply_slope, over(number(1), times(number(3), square(id))), du);
    case Op::abs: return times(graph.make(Op::sign, u), du);
    case Op::sin: return du == zero ? zero : times(graph.make(Op::cos, u), du);
    case Op::cos: return du == zero ? zero : graph.make(Op::negate, times(graph.make(Op::sin, u), du));
    case Op::tan: return times(graph.make(Op::add, number(1), square(id)), du);
    case Op::asin:
    case Op::acos: {
      const NodeId root = graph.make(Op::sqrt, graph.make(Op::subtract, number(1), square(u)));
      return graph.make(Op::multiply_slope, over(number(node.op == Op::asin ? 1 : -1), root), du);
    }
    case Op::atan: return over(du, graph.make(Op::add, number(1), square(u)));
    case Op::sinh: return du == zero ? zero : times(graph.make(Op::cosh, u), du);
    case Op::cosh: return du == zero ? zero : times(graph.make(Op::sinh, u), du);
    case Op::tanh: return times(graph.make(Op::subtract, number(1), square(id)), du);
    case Op::erf:
    case Op::erfc: {
      const NodeId bell = graph.make(Op::exp, graph.make(Op::negate, square(u)));
      const double factor = node.op == Op::erf ? two_over_root_pi : -two_over_root_pi;
      return du == zero ? zero : times(times(number(factor), bell), du);
    }
    default: return zero;  // the sign and what is not so are level but for their steps
  }
}

}  // namespace

NodeId Graph::derivative(NodeId of, int by_name) {
  std::vector<NodeId> slope(static_cast<std::size_t>(of) + 1, -1);
  const NodeId zero = constant(0);
  // Only what `of` is made of is differentiated: the graph also holds other derivatives.
  const std::vector<bool> needed = beneath(std::array{of});
  for (NodeId id = 0; id <= of; ++id) {
    if (!needed[static_cast<std::size_t>(id)]) continue;
    const Node node = at(id);
    const auto slope_at = [&](NodeId child) { return child >= 0 ? slope[static_cast<std::size_t>(child)] : zero; };
    NodeId& result = slope[static_cast<std::size_t>(id)];
    if (node.op == Op::constant) {
      result = zero;
    } else if (node.op == Op::name) {
      result = node.name == by_name ? constant(1) : zero;
    } else if (node.b < 0) {
      result = slope_of_function(*this, id, slope_at(node.a));
    } else {
      result = slope_of_operation(*this, id, slope_at(node.a), slope_at(node.b), slope_at(node.c));
    }
  }
  return slope[static_cast<std::size_t>(of)];
}

}  // namespace truecurve::detail
