// Walks over the graph.
#include "structure.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <string>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// The terms of the outermost sum, from left to right.
std::vector<NodeId> terms_of(const Graph& graph, NodeId root) {
  std::vector<NodeId> terms;
  std::vector<NodeId> open = {root};
  while (!open.empty()) {
    const NodeId id = open.back();
    open.pop_back();
    const Node& node = graph.at(id);
    if (node.op == Op::add || node.op == Op::subtract) {
      open.push_back(node.b);
      open.push_back(node.a);
    } else if (node.op == Op::negate) {
      open.push_back(node.a);
    } else {
      terms.push_back(id);
    }
  }
  return terms;
}

// A term with its parameters numbered in the order of their appearance, which is kept in `order`: the same text for
// terms that are alike.
std::string likeness_of(const Graph& graph, NodeId term, const std::vector<int>& names, std::vector<int>& order) {
  struct Open {
    NodeId id;
    bool closes;
  };
  std::string text;
  std::vector<Open> open = {{term, false}};
  constexpr std::size_t longest = 20'000;
  while (!open.empty() && text.size() < longest) {
    const Open next = open.back();
    open.pop_back();
    if (next.closes) {
      text += ')';
      continue;
    }
    const Node& node = graph.at(next.id);
    if (node.op == Op::name) {
      const auto parameter = std::find(names.begin(), names.end(), node.name);
      if (parameter == names.end()) {
        text += fmt::format("x{},", node.name);
        continue;
      }
      const auto number = static_cast<int>(parameter - names.begin());
      auto at = std::find(order.begin(), order.end(), number);
      if (at == order.end()) at = order.insert(order.end(), number);
      text += fmt::format("p{},", at - order.begin());
      continue;
    }
    text += fmt::format("{}:{}(", static_cast<int>(node.op), node.value);
    open.push_back({next.id, true});
    for (const NodeId child : {node.c, node.b, node.a}) {
      if (child >= 0) open.push_back({child, false});
    }
  }
  return text;
}

// How fast the argument of a sine above a node turns with the predictor where the parameter is 1; 0 where there is no
// sine, or where the rate depends on more than the parameter.
double turn_of(Graph& graph, NodeId from, NodeId root, int parameter, const std::vector<NameRole>& roles) {
  NodeId argument = -1;
  for (NodeId id = from + 1; id <= root && argument < 0; ++id) {
    const Node& node = graph.at(id);
    if (node.op != Op::sin && node.op != Op::cos) continue;
    // The sine must stand above the node: its argument is the node itself or holds it.
    std::vector<NodeId> open = {node.a};
    while (!open.empty() && argument < 0) {
      const NodeId at = open.back();
      open.pop_back();
      if (at == from) argument = node.a;
      for (const NodeId child : {graph.at(at).a, graph.at(at).b, graph.at(at).c}) {
        if (child >= from) open.push_back(child);
      }
    }
  }
  if (argument < 0) return 0;
  for (std::size_t name = 0; name < roles.size(); ++name) {
    if (roles[name].kind != NameRole::Kind::variable || !graph.depends(argument, static_cast<int>(name))) continue;
    const NodeId rate = graph.derivative(argument, static_cast<int>(name));
    std::vector<double> one(graph.names().size(), std::nan(""));
    one[static_cast<std::size_t>(parameter)] = 1;
    const NodeId value = graph.with_values(rate, one);
    return graph.at(value).op == Op::constant ? std::abs(graph.at(value).value) : 0;
  }
  return 0;
}

// Whether a node is divided by, or stands in a logarithm, a root or a power, by itself or in a product or a power: a
// curve has to keep clear of where it is 0.
bool is_kept_from_zero(const Graph& graph, NodeId id, NodeId root) {
  std::vector<bool> zero_with_it(static_cast<std::size_t>(root) + 1, false);
  zero_with_it[static_cast<std::size_t>(id)] = true;
  for (NodeId above = id + 1; above <= root; ++above) {
    const Node& node = graph.at(above);
    const bool in_a = node.a >= 0 && zero_with_it[static_cast<std::size_t>(node.a)];
    const bool in_b = node.b >= 0 && zero_with_it[static_cast<std::size_t>(node.b)];
    switch (node.op) {
      case Op::divide:
        if (in_b) return true;
        break;
      case Op::ln:
      case Op::log10:
      case Op::log2:
      case Op::sqrt:
      case Op::power:
        if (in_a) return true;
        break;
      case Op::integer_power:
        if (in_a && node.value < 0) return true;
        [[fallthrough]];
      case Op::multiply:
      case Op::negate: zero_with_it[static_cast<std::size_t>(above)] = in_a || in_b; break;
      default: break;
    }
  }
  return false;
}

}  // namespace

Meeting meeting_of(Graph& graph, NodeId root, int parameter, const std::vector<NameRole>& roles) {
  std::vector<bool> below(static_cast<std::size_t>(root) + 1, false);  // carries the parameter and no predictor
  const auto is_predictor = [&](NodeId id) {
    return graph.at(id).op == Op::name &&
           roles[static_cast<std::size_t>(graph.at(id).name)].kind == NameRole::Kind::variable;
  };
  const auto has_predictor = [&](NodeId id) {
    const std::vector<bool> names = graph.depends_on(id);
    for (std::size_t k = 0; k < names.size(); ++k) {
      if (names[k] && roles[k].kind == NameRole::Kind::variable) return true;
    }
    return false;
  };
  const auto is_turned = [&](NodeId id) {  // taken into a sine
    for (NodeId above = id + 1; above <= root; ++above) {
      const Node& node = graph.at(above);
      if (node.a == id && (node.op == Op::sin || node.op == Op::cos || node.op == Op::tan)) return true;
    }
    return false;
  };
  for (NodeId id = 0; id <= root; ++id) {
    const Node node = graph.at(id);  // a copy: the graph may grow beneath
    if (node.op == Op::name) {
      below[static_cast<std::size_t>(id)] = node.name == parameter;
      continue;
    }
    for (const NodeId child : {node.a, node.b}) {
      if (child < 0 || !below[static_cast<std::size_t>(child)]) continue;
      const NodeId other = child == node.a ? node.b : node.a;
      if (other < 0 || !has_predictor(other)) {
        below[static_cast<std::size_t>(id)] = true;
        continue;
      }
      switch (graph.at(id).op) {
        case Op::add:
        case Op::subtract: {
          const bool negated = graph.at(other).op == Op::negate;
          if (!is_predictor(negated ? graph.at(other).a : other))
            return {is_turned(id) ? ParameterPart::phase : ParameterPart::other};
          const bool is_itself = graph.at(child).op == Op::name;
          const int sign = (node.op == Op::subtract) != negated ? 1 : -1;
          const bool is_place = is_itself && (sign > 0 || !is_kept_from_zero(graph, id, root));
          return {ParameterPart::place, is_place ? sign : 0};
        }
        case Op::multiply: return {ParameterPart::factor, 0, turn_of(graph, id, root, parameter, roles)};
        case Op::divide:
          return {child == node.b ? ParameterPart::divisor : ParameterPart::factor, 0,
                  turn_of(graph, id, root, parameter, roles)};
        case Op::power: return {child == node.b ? ParameterPart::exponent : ParameterPart::base};
        default: return {};
      }
    }
  }
  return {};
}

std::vector<TermGroup> term_groups(Graph& graph, NodeId root, const std::vector<int>& entangled,
                                   const std::vector<int>& separable, const std::vector<int>& names) {
  const std::vector<NodeId> terms = terms_of(graph, root);
  const auto stands_in = [&](NodeId term, int parameter) {
    return graph.depends(term, names[static_cast<std::size_t>(parameter)]);
  };
  // Entangled parameters that share a term belong together.
  std::vector<std::vector<int>> together;
  for (const int j : entangled) together.push_back({j});
  for (const NodeId term : terms) {
    std::vector<int> joined;
    std::vector<std::vector<int>> apart;
    for (const auto& group : together) {
      const bool touched = std::any_of(group.begin(), group.end(), [&](int j) { return stands_in(term, j); });
      if (touched) {
        joined.insert(joined.end(), group.begin(), group.end());
      } else {
        apart.push_back(group);
      }
    }
    if (joined.empty()) continue;
    std::sort(joined.begin(), joined.end());
    apart.push_back(joined);
    together = std::move(apart);
  }
  std::sort(together.begin(), together.end());

  std::vector<TermGroup> groups;
  std::map<std::string, int> families;
  for (const std::vector<int>& members : together) {
    TermGroup group;
    std::vector<NodeId> own;
    for (const NodeId term : terms) {
      if (std::any_of(members.begin(), members.end(), [&](int j) { return stands_in(term, j); })) own.push_back(term);
    }
    std::string likeness;
    std::vector<int> order;
    for (const NodeId term : own) likeness += likeness_of(graph, term, names, order) + "+";
    std::vector<double> zeros(graph.names().size(), std::nan(""));
    for (const int j : order) {
      if (std::find(members.begin(), members.end(), j) != members.end()) {
        group.entangled.push_back(j);
        continue;
      }
      const bool elsewhere = std::any_of(terms.begin(), terms.end(), [&](NodeId term) {
        return std::find(own.begin(), own.end(), term) == own.end() && stands_in(term, j);
      });
      if (elsewhere || std::find(separable.begin(), separable.end(), j) == separable.end()) continue;
      group.separable.push_back(j);
      zeros[static_cast<std::size_t>(names[static_cast<std::size_t>(j)])] = 0;
    }
    group.can_vanish = std::all_of(own.begin(), own.end(),
                                   [&](NodeId term) { return graph.is_constant(graph.with_values(term, zeros), 0); });
    group.family = families.try_emplace(likeness, static_cast<int>(families.size())).first->second;
    groups.push_back(std::move(group));
  }
  return groups;
}

}  // namespace truecurve::detail
