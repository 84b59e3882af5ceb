// Written maths as a graph of shared nodes: built once, simplified as it is built, differentiated by rule.
//
// Equal sub-expressions are one node, so a model and all its derivatives share their exponentials. Children always
// stand before their parents, so every walk over the graph is a loop and never a recursion.
#pragma once

#include <cstdint>
#include <map>
#include <span>
#include <string>
#include <string_view>
#include <tuple>
#include <vector>

namespace truecurve::detail {

enum class Op : std::uint8_t {
  constant,
  name,
  // two operands
  add,
  subtract,
  multiply,
  divide,
  power,
  minimum,
  maximum,
  multiply_log,    // a*ln(b), and 0 where a is 0: the derivative of b^c stays finite at b = 0
  multiply_slope,  // a*b, and 0 where b is 0, whatever a is: what does not move has no slope, even where a is infinite
  less,
  less_equal,
  equal,
  both,
  either,
  // one operand
  negate,
  integer_power,  // exponent in `value`
  exp,
  ln,
  log10,
  log2,
  sqrt,
  cbrt,
  abs,
  sign,
  sin,
  cos,
  tan,
  asin,
  acos,
  atan,
  sinh,
  cosh,
  tanh,
  erf,
  erfc,
  opposite,  // logical not
  // three operands
  choose,  // a where the condition holds, else b
};

using NodeId = std::int32_t;

struct Node {
  Op op = Op::constant;
  NodeId a = -1;
  NodeId b = -1;
  NodeId c = -1;
  double value = 0;  // of a constant; the exponent of an integer power
  int name = -1;     // index into the names
};

/// How many operands an operation takes.
[[nodiscard]] int operand_count(Op op);

/// One operation on numbers; conditions are 1 and 0.
[[nodiscard]] double apply(const Node& node, double a, double b, double c);

class Graph {
 public:
  [[nodiscard]] const std::vector<Node>& nodes() const noexcept { return nodes_; }
  [[nodiscard]] const std::vector<std::string>& names() const noexcept { return names_; }
  [[nodiscard]] const Node& at(NodeId id) const { return nodes_[static_cast<std::size_t>(id)]; }

  /// The index of a name, names().size() where there is no such name.
  [[nodiscard]] int index_of(std::string_view name) const;

  NodeId constant(double value);
  NodeId named(std::string_view name);
  /// Adds an operation, simplified where an operand is a constant that makes it trivial.
  NodeId make(Op op, NodeId a, NodeId b = -1, NodeId c = -1);
  NodeId integer_power(NodeId base, int exponent);

  /// The derivative of a node by a name; exact, by rule.
  NodeId derivative(NodeId of, int by_name);

  /// The node with some names replaced by constants: `values[name]`, NaN where the name stays.
  NodeId with_values(NodeId of, const std::vector<double>& values);

  /// The nodes that some are made of, themselves included: one flag a node of the graph.
  [[nodiscard]] std::vector<bool> beneath(std::span<const NodeId> of) const;
  /// Which names a node depends on, one flag a name.
  [[nodiscard]] std::vector<bool> depends_on(NodeId of) const;
  /// Whether a name is among them; of no node (-1) none is.
  [[nodiscard]] bool depends(NodeId id, int name) const;
  [[nodiscard]] bool is_constant(NodeId id, double value) const;
  /// Whether a node's value is above zero whatever the names stand for, as of 1 + exp(x); false where that can't be
  /// seen from the structure.
  [[nodiscard]] bool is_positive(NodeId of) const;

 private:
  NodeId intern(const Node& node);
  NodeId simplified(Op op, NodeId a, NodeId b, NodeId c);

  std::vector<Node> nodes_;
  std::vector<std::string> names_;
  std::map<std::tuple<Op, NodeId, NodeId, NodeId, std::uint64_t, int>, NodeId> known_;
};

}  // namespace truecurve::detail
