// A fitted curve and its band as formulas: graphs whose numbers are names, so that they can be computed with the digits
// they are to be written with.
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/fit/estimate.hpp>

#include "../model/formula_text.hpp"
#include "../model/graph.hpp"

#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace truecurve::detail {

/// A node, and names in it that stand for other nodes, each of which may use those before it.
struct WrittenFormula {
  NodeId node = -1;
  std::vector<std::pair<std::string, NodeId>> where{};
};

/// A number that is written with a limited number of digits.
struct WrittenValue {
  std::string name;
  double value = 0;
};

/// The curve's standard uncertainty and the limits of its bands, one of each pair below the other: which of them
/// depends on the way back from the left side. Those of a new observation where its scatter is known from the mean.
struct WrittenBand {
  WrittenFormula standard_uncertainty;
  std::pair<WrittenFormula, WrittenFormula> limits;
  std::optional<std::pair<WrittenFormula, WrittenFormula>> new_limits{};
};

class WrittenCurve {
 public:
  /// Throws Error (not_supported) for a model that was given as code.
  explicit WrittenCurve(const Estimate& estimate);

  /// The response in terms of predictors and parameters.
  [[nodiscard]] WrittenFormula curve() const;
  /// The band at a level, whose numbers join those of the curve. Throws Error: not_supported (the uncertainty is not
  /// known, or the likelihood is the caller's own).
  [[nodiscard]] WrittenBand band(Level level);

  /// The smaller of two formulas at each point, and the larger.
  [[nodiscard]] std::pair<WrittenFormula, WrittenFormula> in_order(
      const std::pair<WrittenFormula, WrittenFormula>& formulas);

  /// Parameters first, in the order of the estimate.
  [[nodiscard]] const std::vector<WrittenValue>& numbers() const { return numbers_; }

  /// A formula at a point, with numbers in the places of those above.
  [[nodiscard]] double value(const WrittenFormula& formula, const std::vector<double>& numbers,
                             const std::vector<double>& point) const;
  /// Throws Error (not_supported) for one that is too long to be of use.
  [[nodiscard]] std::string text(const WrittenFormula& formula, const FormulaStyle& style) const;

 private:
  [[nodiscard]] int index_of(const std::string& name) const { return graph_.index_of(name); }
  [[nodiscard]] NodeId number(double value);
  [[nodiscard]] double size_of(NodeId column) const;
  [[nodiscard]] std::vector<NodeId> centred_columns();
  [[nodiscard]] std::vector<NodeId> polynomial_columns();
  /// The parts of u² = sum of their squares.
  [[nodiscard]] std::vector<NodeId> parts_of_u();
  [[nodiscard]] NodeId scatter(const Scatter& scatter, NodeId mean);
  [[nodiscard]] WrittenFormula responded(NodeId left) const;
  [[nodiscard]] std::pair<WrittenFormula, WrittenFormula> limits(NodeId half_width);
  [[nodiscard]] std::pair<WrittenFormula, WrittenFormula> counted_limits(NodeId half_width);
  [[nodiscard]] double node_value(NodeId root, const std::vector<double>& values) const;

  const Estimate& estimate_;
  Graph graph_;
  NodeId right_ = -1;
  NodeId inverse_ = -1;  // the response as it follows from the value of the left side; -1 where they are one
  std::vector<WrittenValue> numbers_;
};

}  // namespace truecurve::detail
