// A graph written out as a formula, in the notation of mathematics or of a programming language.
#pragma once

#include <truecurve/model/formula_language.hpp>

#include "graph.hpp"

#include <functional>
#include <string>

namespace truecurve::detail {

/// How tightly a written name or number binds where it stands for more than a name: see formula_text.cpp.
struct WrittenName {
  static constexpr int whole = 9;
  std::string text;
  int binding = whole;
};

struct FormulaStyle {
  FormulaLanguage language = FormulaLanguage::text;
  /// What stands for a name of the graph; without it the name itself, in the marks that it needs.
  std::function<WrittenName(const std::string&)> name_of{};
};

/// A node written out again, with as few brackets as its meaning needs.
[[nodiscard]] WrittenName written(const Graph& graph, NodeId node, const FormulaStyle& style);

/// The same as written maths: what the parser reads as the same expression.
[[nodiscard]] std::string text_of(const Graph& graph, NodeId node);

/// A number as it stands in a formula of that language; a negative one binds as a sign does.
[[nodiscard]] WrittenName written_number(const std::string& shortest_text, FormulaLanguage language);

}  // namespace truecurve::detail
