// The grammar of written maths: text in, graph out.
#pragma once

#include "graph.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace truecurve::detail {

struct Equation {
  NodeId left = -1;
  NodeId right = -1;
  /// Every name written on the right, in order of first appearance, also where it cancels: a*0.
  std::vector<std::string> right_names;
  std::vector<std::string> left_names;
};

/// Parses `left = right` into the graph; names on the right are entered first come, first named.
/// Throws Error with an excerpt that carries a caret under the place.
Equation parse_equation(std::string_view text, Graph& graph);

/// Parses one expression; a comparison or condition is allowed where `parse_condition` is called.
NodeId parse_expression(std::string_view text, Graph& graph);
NodeId parse_condition(std::string_view text, Graph& graph);

/// "'Drying time'" as the name it stands for, its doubled marks single.
[[nodiscard]] std::string without_quotation_marks(std::string_view quoted);

/// Whether a text can stand as a name in written maths.
[[nodiscard]] bool is_plain_name(std::string_view text);

/// A name as it stands in a formula: as it is, or in single quotation marks where it is no plain name.
[[nodiscard]] std::string in_formula(std::string_view name);

}  // namespace truecurve::detail
