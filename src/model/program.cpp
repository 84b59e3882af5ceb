// Compiles a graph and runs it over blocks.
#include "program.hpp"

#include <algorithm>
#include <cstring>

namespace truecurve::detail {
namespace {

template <typename Function>
void each(std::size_t rows, double* result, const double* a, Function function) {
  for (std::size_t i = 0; i < rows; ++i) result[i] = function(a[i]);
}

// A block operand or one value for all rows.
struct Value {
  const double* block = nullptr;
  double uniform = 0;
};

template <typename Function>
void each(std::size_t rows, double* result, Value a, Value b, Function function) {
  if (a.block != nullptr && b.block != nullptr) {
    for (std::size_t i = 0; i < rows; ++i) result[i] = function(a.block[i], b.block[i]);
  } else if (a.block != nullptr) {
    for (std::size_t i = 0; i < rows; ++i) result[i] = function(a.block[i], b.uniform);
  } else {
    for (std::size_t i = 0; i < rows; ++i) result[i] = function(a.uniform, b.block[i]);
  }
}

void whole_power(std::size_t rows, double* result, const double* base, int exponent) {
  switch (exponent) {
    case 2: return each(rows, result, base, [](double x) { return x * x; });
    case 3: return each(rows, result, base, [](double x) { return x * x * x; });
    case -1: return each(rows, result, base, [](double x) { return 1 / x; });
    case -2: return each(rows, result, base, [](double x) { return 1 / (x * x); });
    default: {
      const Node node{.op = Op::integer_power, .value = static_cast<double>(exponent)};
      return each(rows, result, base, [&node](double x) { return apply(node, x, 0, 0); });
    }
  }
}

DoubleDouble whole_power(DoubleDouble base, int exponent) {
  DoubleDouble result(1);
  for (int n = std::abs(exponent); n > 0; n >>= 1, base = base * base) {
    if (n & 1) result = result * base;
  }
  return exponent < 0 ? DoubleDouble(1) / result : result;
}

// The slope of a function at a, for the first-order correction f(high + low) = f(high) + f'(high)*low.
double slope(Op op, double a, double value) {
  switch (op) {
    case Op::exp: return value;
    case Op::ln: return 1 / a;
    case Op::log10: return 1 / (a * 2.302585092994046);
    case Op::log2: return 1 / (a * 0.6931471805599453);
    case Op::cbrt: return value / (3 * a);
    case Op::sin: return std::cos(a);
    case Op::cos: return -std::sin(a);
    case Op::tan: return 1 + value * value;
    case Op::asin: return 1 / std::sqrt(1 - a * a);
    case Op::acos: return -1 / std::sqrt(1 - a * a);
    case Op::atan: return 1 / (1 + a * a);
    case Op::sinh: return std::cosh(a);
    case Op::cosh: return std::sinh(a);
    case Op::tanh: return 1 - value * value;
    case Op::erf: return 1.1283791670955126 * std::exp(-a * a);
    case Op::erfc: return -1.1283791670955126 * std::exp(-a * a);
    default: return 0;
  }
}

DoubleDouble apply_precise(const Node& node, DoubleDouble a, DoubleDouble b, DoubleDouble c) {
  switch (node.op) {
    case Op::constant: return {node.value};
    case Op::add: return a + b;
    case Op::subtract: return a - b;
    case Op::multiply: return a * b;
    case Op::multiply_slope: return b.high == 0 ? DoubleDouble() : a * b;
    case Op::divide: return a / b;
    case Op::negate: return -a;
    case Op::sqrt: return sqrt(a);
    case Op::abs: return abs(a);
    case Op::integer_power: return whole_power(a, static_cast<int>(node.value));
    case Op::choose: return a.high != 0 ? b : c;
    case Op::minimum: return b.high < a.high ? b : a;
    case Op::maximum: return b.high > a.high ? b : a;
    default: break;
  }
  const double value = apply(node, a.high, b.high, c.high);
  if (operand_count(node.op) == 1 && a.low != 0) {
    const double correction = slope(node.op, a.high, value) * a.low;
    if (std::isfinite(correction)) return two_sum(value, correction);
  }
  return {value};
}

}  // namespace

Program::Program(const Graph& graph, std::span<const NodeId> outputs, std::span<const NameRole> roles) {
  const std::size_t count = graph.nodes().size();
  const std::vector<bool> needed = graph.beneath(outputs);
  std::vector<NodeId> renumbered(count, -1);
  for (std::size_t i = 0; i < count; ++i) {
    if (!needed[i]) continue;
    Node node = graph.nodes()[i];
    for (NodeId* child : {&node.a, &node.b, &node.c}) {
      if (*child >= 0) *child = renumbered[static_cast<std::size_t>(*child)];
    }
    renumbered[i] = static_cast<NodeId>(nodes_.size());
    Operand operand;
    NameRole role;
    if (node.op == Op::name) {
      role = roles[static_cast<std::size_t>(node.name)];
      operand.uniform = role.kind == NameRole::Kind::parameter;
      if (!operand.uniform) variables_ = std::max(variables_, role.index + 1);
    }
    for (const NodeId child : {node.a, node.b, node.c}) {
      if (child >= 0) operand.uniform = operand.uniform && operands_[static_cast<std::size_t>(child)].uniform;
    }
    nodes_.push_back(node);
    roles_.push_back(role);
    operands_.push_back(operand);
  }
  output_slot_of_.assign(nodes_.size(), -1);
  for (const NodeId id : outputs) {
    const NodeId node = renumbered[static_cast<std::size_t>(id)];
    const auto at = static_cast<std::size_t>(node);
    const bool computed = !operands_[at].uniform && nodes_[at].op != Op::name;
    if (computed && output_slot_of_[at] < 0) output_slot_of_[at] = static_cast<int>(output_nodes_.size());
    output_nodes_.push_back(node);
  }
  place_blocks();
}

// A block's memory is free again after its last use, so that the working set stays small.
void Program::place_blocks() {
  std::vector<std::size_t> last_use(nodes_.size(), 0);
  for (std::size_t i = 0; i < nodes_.size(); ++i) {
    for (const NodeId child : {nodes_[i].a, nodes_[i].b, nodes_[i].c}) {
      if (child >= 0) last_use[static_cast<std::size_t>(child)] = i;
    }
  }
  std::vector<int> free_slots;
  for (std::size_t i = 0; i < nodes_.size(); ++i) {
    Operand& operand = operands_[i];
    if (operand.uniform) {
      operand.at = static_cast<int>(i);
      continue;
    }
    if (nodes_[i].op == Op::name) continue;
    if (output_slot_of_[i] < 0) {
      if (free_slots.empty()) free_slots.push_back(slots_++);
      operand.at = free_slots.back();
      free_slots.pop_back();
    }
    // A child may give its memory to this node only after this node, since a loop may not read what it has written.
    const NodeId children[] = {nodes_[i].a, nodes_[i].b != nodes_[i].a ? nodes_[i].b : -1,
                               nodes_[i].c != nodes_[i].a && nodes_[i].c != nodes_[i].b ? nodes_[i].c : -1};
    for (const NodeId child : children) {
      if (child < 0) continue;
      const auto j = static_cast<std::size_t>(child);
      if (last_use[j] == i && !operands_[j].uniform && nodes_[j].op != Op::name && output_slot_of_[j] < 0) {
        free_slots.push_back(operands_[j].at);
      }
    }
  }
}

int Program::copies_variable(std::size_t output) const {
  const auto at = static_cast<std::size_t>(output_nodes_[output]);
  const bool variable = nodes_[at].op == Op::name && roles_[at].kind == NameRole::Kind::variable;
  return variable ? roles_[at].index : -1;
}

// The plain loops in the widest registers that the processor has; without fused operations every width gives the same
// bits. Sanitizers start too late for the choice that the loader makes.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(__SANITIZE_ADDRESS__)
__attribute__((target_clones("avx2", "default")))
#endif
void Program::run(std::span<const double* const> variables, std::size_t rows, std::span<const double> parameters,
                  std::span<double* const> outputs, Workspace& work) const {
  work.uniform.resize(nodes_.size());
  // No more memory than these rows need: clearing that of a whole block costs a small fit a tenth of its time.
  const std::size_t stride = (rows + 7) / 8 * 8;
  if (work.blocks.size() < static_cast<std::size_t>(slots_) * stride)
    work.blocks.resize(static_cast<std::size_t>(slots_) * stride);
  const auto value_of = [&](NodeId id) -> Value {
    if (id < 0) return {};
    const auto at = static_cast<std::size_t>(id);
    if (operands_[at].uniform) return {nullptr, work.uniform[at]};
    if (nodes_[at].op == Op::name) return {variables[static_cast<std::size_t>(roles_[at].index)], 0};
    if (output_slot_of_[at] >= 0) return {outputs[static_cast<std::size_t>(output_slot_of_[at])], 0};
    return {work.blocks.data() + static_cast<std::size_t>(operands_[at].at) * stride, 0};
  };
  for (std::size_t i = 0; i < nodes_.size(); ++i) {
    const Node& node = nodes_[i];
    if (operands_[i].uniform) {
      if (node.op == Op::name) {
        work.uniform[i] = parameters[static_cast<std::size_t>(roles_[i].index)];
      } else {
        const auto number = [&](NodeId id) { return id < 0 ? 0.0 : work.uniform[static_cast<std::size_t>(id)]; };
        work.uniform[i] = apply(node, number(node.a), number(node.b), number(node.c));
      }
      continue;
    }
    if (node.op == Op::name) continue;
    double* const result = output_slot_of_[i] >= 0
                               ? outputs[static_cast<std::size_t>(output_slot_of_[i])]
                               : work.blocks.data() + static_cast<std::size_t>(operands_[i].at) * stride;
    const Value a = value_of(node.a);
    const Value b = value_of(node.b);
    switch (node.op) {
      case Op::add: each(rows, result, a, b, [](double x, double y) { return x + y; }); break;
      case Op::subtract: each(rows, result, a, b, [](double x, double y) { return x - y; }); break;
      case Op::multiply: each(rows, result, a, b, [](double x, double y) { return x * y; }); break;
      case Op::divide: each(rows, result, a, b, [](double x, double y) { return x / y; }); break;
      case Op::multiply_slope: each(rows, result, a, b, [](double x, double y) { return y == 0 ? 0.0 : x * y; }); break;
      case Op::power: each(rows, result, a, b, [](double x, double y) { return std::pow(x, y); }); break;
      case Op::negate: each(rows, result, a.block, [](double x) { return -x; }); break;
      case Op::exp: each(rows, result, a.block, [](double x) { return std::exp(x); }); break;
      case Op::ln: each(rows, result, a.block, [](double x) { return std::log(x); }); break;
      case Op::sqrt: each(rows, result, a.block, [](double x) { return std::sqrt(x); }); break;
      case Op::integer_power: whole_power(rows, result, a.block, static_cast<int>(node.value)); break;
      case Op::choose: {
        const Value c = value_of(node.c);
        for (std::size_t k = 0; k < rows; ++k) {
          const bool holds = (a.block != nullptr ? a.block[k] : a.uniform) != 0;
          const Value& chosen = holds ? b : c;
          result[k] = chosen.block != nullptr ? chosen.block[k] : chosen.uniform;
        }
        break;
      }
      default:
        if (operand_count(node.op) == 1) {
          each(rows, result, a.block, [&node](double x) { return apply(node, x, 0, 0); });
        } else {
          each(rows, result, a, b, [&node](double x, double y) { return apply(node, x, y, 0); });
        }
    }
  }
  for (std::size_t k = 0; k < output_nodes_.size(); ++k) {
    const Value value = value_of(output_nodes_[k]);
    if (value.block == nullptr) {
      std::fill_n(outputs[k], rows, value.uniform);
    } else if (value.block != outputs[k]) {
      std::memcpy(outputs[k], value.block, rows * sizeof(double));
    }
  }
}

void Program::run_precise(std::span<const DoubleDouble> variables, std::span<const DoubleDouble> parameters,
                          std::span<DoubleDouble> outputs) const {
  std::vector<DoubleDouble> values(nodes_.size());
  for (std::size_t i = 0; i < nodes_.size(); ++i) {
    const Node& node = nodes_[i];
    if (node.op == Op::name) {
      const auto index = static_cast<std::size_t>(roles_[i].index);
      values[i] = roles_[i].kind == NameRole::Kind::variable ? variables[index] : parameters[index];
      continue;
    }
    const auto operand = [&](NodeId id) { return id < 0 ? DoubleDouble() : values[static_cast<std::size_t>(id)]; };
    values[i] = apply_precise(node, operand(node.a), operand(node.b), operand(node.c));
  }
  for (std::size_t k = 0; k < output_nodes_.size(); ++k)
    outputs[k] = values[static_cast<std::size_t>(output_nodes_[k])];
}

}  // namespace truecurve::detail
