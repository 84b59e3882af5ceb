// The rules of units, collected node by node from a written formula.
#pragma once

#include "exponents.hpp"
#include "graph.hpp"

#include <array>
#include <functional>
#include <string>
#include <utility>
#include <vector>

namespace truecurve::detail {

/// What is to be zero, and what it means if it can't be.
struct UnitRule {
  Exponents zero;
  std::string broken{};
};

/// The rules that a formula sets, in the order in which they count: those that must hold, and those that are given up
/// where they contradict.
struct CollectedRules {
  std::vector<UnitRule> strict{};
  std::vector<Exponents> logarithms{};        // what logarithms on both sides share
  std::vector<Exponents> column_exponents{};  // x in b^x has no unit
  std::vector<Exponents> simple_factors{};    // 2 in 2*x has no unit
  std::vector<Exponents> simple_terms{};      // 1 in 1 + x has none
  std::vector<Exponents> log_arguments{};     // x in ln(x) has none
  /// Where the first is zero the second is as well.
  std::vector<std::pair<Exponents, Exponents>> conditional{};
};

/// A quantity's unit, and where it is a logarithm (natural, decimal, binary) the unit of what it is the logarithm of.
struct UnitOfNode {
  Exponents unit{};
  std::array<Exponents, 3> logarithm_of{};
};

/// What stands as an exponent and is no number: the names of parameters, "" for any other expression.
struct FormalExponents {
  std::vector<std::string> columns{};
  std::vector<std::string> names{};
  std::vector<NodeId> nodes{};

  FormalExponents() = default;
  FormalExponents(const Graph& graph, NodeId root, std::vector<std::string> named_columns);
  /// Whether it holds a column, and is therefore none of them: b^x.
  [[nodiscard]] bool has_column(const Graph& graph, NodeId exponent) const;
  /// Its number from 1 on, 0 where it is none of them.
  [[nodiscard]] std::size_t number_of(const Graph& graph, NodeId exponent) const;
};

class UnitWalk {
 public:
  using Unit = UnitOfNode;
  /// What a name's unit is; `is_log_term` tells that it may be a logarithm, as c in ln(y) = c - k*t.
  using UnitOf = std::function<Unit(const std::string& name, bool is_log_term)>;

  /// `unknowns` counts the unknown powers in use, and grows.
  UnitWalk(const Graph& graph, UnitOf unit_of, const FormalExponents& exponents, int& unknowns)
      : graph_(graph), unit_of_(std::move(unit_of)), exponents_(exponents), unknowns_(unknowns) {}

  /// The unit of an expression, its rules collected.
  [[nodiscard]] Exponents of(NodeId root) { return walk(root, false).unit; }
  /// That both sides are alike, and the rules of both.
  void equate(NodeId left, NodeId right);
  [[nodiscard]] const CollectedRules& rules() const { return rules_; }

  /// A unit of which nothing is known yet.
  [[nodiscard]] static Exponents unknown(const FormalExponents& exponents, int& unknowns);

 private:
  static constexpr std::size_t bases = 3;

  [[nodiscard]] Exponents unknown() { return unknown(exponents_, unknowns_); }
  [[nodiscard]] Unit walk(NodeId root, bool is_logarithm);
  [[nodiscard]] std::vector<bool> log_terms(NodeId root, bool is_logarithm) const;
  [[nodiscard]] Unit of_node(NodeId id, bool is_log_term);
  [[nodiscard]] Unit of_sum(const Node& node, const Rational& sign);
  [[nodiscard]] Unit of_product(const Node& node, const Rational& sign);
  [[nodiscard]] Unit of_power(const Node& node);
  [[nodiscard]] Unit of_choice(const Node& node);
  [[nodiscard]] Unit of_logarithm(const Node& node, std::size_t base);
  [[nodiscard]] Unit exponential(NodeId argument, std::size_t base);
  void require_alike(NodeId a, NodeId b, const char* broken);
  void require_pure(NodeId argument, const std::string& broken);
  [[nodiscard]] Exponents factor(NodeId id, bool divides);
  [[nodiscard]] Exponents raised(NodeId base, NodeId exponent);
  [[nodiscard]] bool is_number(NodeId id) const { return graph_.at(id).op == Op::constant; }
  [[nodiscard]] const Unit& at(NodeId id) const { return units_[static_cast<std::size_t>(id)]; }

  const Graph& graph_;
  UnitOf unit_of_;
  const FormalExponents& exponents_;
  int& unknowns_;
  std::vector<Unit> units_{};
  CollectedRules rules_{};
};

}  // namespace truecurve::detail
