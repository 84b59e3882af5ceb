// Writes, inverts and explains the left side of a model.
#include "transform.hpp"

#include <truecurve/base/error.hpp>

#include "formula_text.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// Of ln(A/(c - A)), or ln(A) - ln(c - A), with a constant c: A and c; else -1.
struct Odds {
  NodeId part = -1;
  NodeId whole = -1;
};
Odds odds_beneath(const Graph& graph, NodeId at) {
  const Node& node = graph.at(at);
  NodeId above = -1;
  NodeId below = -1;
  if (node.op == Op::ln && graph.at(node.a).op == Op::divide) {
    above = graph.at(node.a).a;
    below = graph.at(node.a).b;
  } else if (node.op == Op::subtract && graph.at(node.a).op == Op::ln && graph.at(node.b).op == Op::ln) {
    above = graph.at(node.a).a;
    below = graph.at(node.b).a;
  } else {
    return {};
  }
  const Node& rest = graph.at(below);
  const bool is_rest = rest.op == Op::subtract && rest.b == above && graph.at(rest.a).op == Op::constant;
  return is_rest ? Odds{above, rest.a} : Odds{};
}

// A product of powers, constant factors and signs aside.
class Product {
 public:
  explicit Product(Graph& graph) : graph_(graph) {}

  void take(NodeId base, double exponent) {
    std::vector<std::pair<NodeId, double>> left = {{base, exponent}};
    while (!left.empty()) {
      const auto [at, power] = left.back();
      left.pop_back();
      const Node& node = graph_.at(at);
      switch (node.op) {
        case Op::constant: break;
        case Op::negate: left.emplace_back(node.a, power); break;
        case Op::multiply:
        case Op::divide:
          left.emplace_back(node.b, node.op == Op::multiply ? power : -power);
          left.emplace_back(node.a, power);
          break;
        case Op::sqrt: left.emplace_back(node.a, power / 2); break;
        case Op::cbrt: left.emplace_back(node.a, power / 3); break;
        case Op::integer_power: left.emplace_back(node.a, power * node.value); break;
        case Op::power:
          if (graph_.at(node.b).op == Op::constant)
            left.emplace_back(node.a, power * graph_.at(node.b).value);
          else
            add(at, power);
          break;
        default: add(at, power);
      }
    }
  }

  [[nodiscard]] NodeId node() const {
    NodeId above = graph_.constant(1);
    NodeId below = graph_.constant(1);
    for (const auto& [base, exponent] : factors_) {
      if (std::abs(exponent) < rounding) continue;
      NodeId& side = exponent > 0 ? above : below;
      side = graph_.make(Op::multiply, side, raised(base, std::abs(exponent)));
    }
    return graph_.make(Op::divide, above, below);
  }

 private:
  static constexpr double rounding = 1e-12;

  void add(NodeId base, double exponent) {
    const auto known = std::find_if(factors_.begin(), factors_.end(), [&](const auto& f) { return f.first == base; });
    if (known == factors_.end())
      factors_.emplace_back(base, exponent);
    else
      known->second += exponent;
  }

  [[nodiscard]] NodeId raised(NodeId base, double exponent) const {
    const double thirds = std::round(3 * exponent);
    if (std::fmod(thirds, 3) != 0 && std::abs(3 * exponent - thirds) < rounding)
      return graph_.integer_power(graph_.make(Op::cbrt, base), static_cast<int>(thirds));
    return graph_.make(Op::power, base, graph_.constant(exponent));
  }

  Graph& graph_;
  std::vector<std::pair<NodeId, double>> factors_;
};

// What the operand of an operation that holds the response is, where the operation has `value`; none where it has no
// inverse here. `in_b`: the response stands in the right operand.
NodeId undone(Graph& graph, const Node& node, bool in_b, NodeId value) {
  const NodeId other = in_b ? node.a : node.b;
  switch (node.op) {
    case Op::add: return graph.make(Op::subtract, value, other);
    case Op::subtract: return in_b ? graph.make(Op::subtract, other, value) : graph.make(Op::add, value, other);
    case Op::multiply: return graph.make(Op::divide, value, other);
    case Op::divide: return in_b ? graph.make(Op::divide, other, value) : graph.make(Op::multiply, value, other);
    case Op::negate: return graph.make(Op::negate, value);
    case Op::exp: return graph.make(Op::ln, value);
    case Op::ln: return graph.make(Op::exp, value);
    case Op::log10: return graph.make(Op::power, graph.constant(10), value);
    case Op::log2: return graph.make(Op::power, graph.constant(2), value);
    case Op::sqrt: return graph.integer_power(value, 2);
    case Op::cbrt: return graph.integer_power(value, 3);
    case Op::integer_power:
      return node.value == -1 ? graph.make(Op::divide, graph.constant(1), value)
                              : graph.make(Op::power, value, graph.constant(1 / node.value));
    case Op::power:
      return in_b ? graph.make(Op::divide, graph.make(Op::ln, value), graph.make(Op::ln, other))
                  : graph.make(Op::power, value, graph.make(Op::divide, graph.constant(1), other));
    default: return -1;
  }
}

}  // namespace

NodeId inverse_of(Graph& graph, NodeId left, int response, const std::string& value_name) {
  const auto refuse = [&](const std::string& why) {
    throw Error(
        {.code = ErrorCode::not_supported,
         .message = fmt::format("the left side '{}' can't be solved for '{}': {}", text_of(graph, left),
                                graph.names()[static_cast<std::size_t>(response)], why),
         .subject = graph.names()[static_cast<std::size_t>(response)],
         .remedy = "write a left side in which the response stands once, inside ln, exp, sqrt, 1/y, a power or y/x"});
  };
  NodeId value = graph.named(value_name);
  NodeId at = left;
  while (graph.at(at).op != Op::name) {
    const Node node = graph.at(at);
    if (const auto [part, whole] = odds_beneath(graph, at); part >= 0) {
      // ln(A/(c - A)) = value: A = c/(1 + exp(-value)), which stays finite however large the value.
      const NodeId decay = graph.make(Op::exp, graph.make(Op::negate, value));
      value = graph.make(Op::divide, whole, graph.make(Op::add, graph.constant(1), decay));
      at = part;
      continue;
    }
    const bool in_a = graph.depends(node.a, response);
    const bool in_b = graph.depends(node.b, response);
    if (in_a == in_b || graph.depends(node.c, response)) refuse("it stands there more than once");
    value = undone(graph, node, in_b, value);
    if (value < 0) refuse(fmt::format("'{}' has no inverse here", text_of(graph, at)));
    at = in_a ? node.a : node.b;
  }
  return value;
}

NodeId scatter_of_equal(Graph& graph, NodeId left, int response) {
  // The inverse of the chain rule, factor by factor down to the response.
  Product scatter(graph);
  NodeId at = left;
  while (graph.at(at).op != Op::name) {
    const Node node = graph.at(at);
    if (const auto [part, whole] = odds_beneath(graph, at); part >= 0) {
      scatter.take(part, 1);
      scatter.take(graph.make(Op::subtract, whole, part), 1);
      at = part;
      continue;
    }
    const bool in_b = graph.depends(node.b, response);
    const NodeId inner = in_b ? node.b : node.a;
    const NodeId other = in_b ? node.a : node.b;
    switch (node.op) {
      case Op::multiply: scatter.take(other, -1); break;
      case Op::divide:
        if (in_b) scatter.take(inner, 2);
        scatter.take(other, in_b ? -1 : 1);
        break;
      case Op::exp: scatter.take(at, -1); break;
      case Op::ln:
      case Op::log10:
      case Op::log2: scatter.take(inner, 1); break;
      case Op::sqrt: scatter.take(inner, 1.0 / 2); break;
      case Op::cbrt: scatter.take(inner, 2.0 / 3); break;
      case Op::integer_power: scatter.take(inner, 1 - node.value); break;
      case Op::power:
        scatter.take(at, -1);
        scatter.take(in_b ? graph.make(Op::ln, other) : other, -1);
        if (!in_b) scatter.take(inner, 1);
        break;
      default: break;  // sums and signs
    }
    at = inner;
  }
  return scatter.node();
}

std::string reason_not_finite(const Graph& graph, NodeId root, const std::vector<double>& values) {
  std::vector<double> numbers(static_cast<std::size_t>(root) + 1, 0.0);
  const std::vector<bool> needed = graph.beneath(std::array{root});
  for (NodeId id = 0; id <= root; ++id) {
    if (!needed[static_cast<std::size_t>(id)]) continue;
    const Node& node = graph.at(id);
    const auto number = [&](NodeId child) { return child < 0 ? 0.0 : numbers[static_cast<std::size_t>(child)]; };
    double& result = numbers[static_cast<std::size_t>(id)];
    if (node.op == Op::name) {
      const double value = values[static_cast<std::size_t>(node.name)];
      result = std::isnan(value) ? 1 : value;
      continue;
    }
    result = apply(node, number(node.a), number(node.b), number(node.c));
    if (std::isfinite(result)) continue;
    std::string at;
    const std::vector<bool> names = graph.depends_on(id);
    for (std::size_t k = 0; k < names.size(); ++k) {
      if (names[k] && !std::isnan(values[k]))
        at += fmt::format("{}{} = {}", at.empty() ? "" : ", ", graph.names()[k], values[k]);
    }
    return fmt::format("{} is not defined{}{}", text_of(graph, id), at.empty() ? "" : " at ", at);
  }
  return text_of(graph, root) + " is not finite";
}

}  // namespace truecurve::detail
