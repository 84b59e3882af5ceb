// The left side of a model as a transform of the response: ln(y), 1/y, y/x.
#pragma once

#include "graph.hpp"

#include <string>

namespace truecurve::detail {

/// The inverse of the transform: given `left`, an expression in which the name `response` stands exactly once, the node
/// that gives the response from the value of the left side, which is called `value_name`. Roots are taken positive.
/// Throws Error (not_supported) where the response stands more than once or within a function that has no inverse.
[[nodiscard]] NodeId inverse_of(Graph& graph, NodeId left, int response, const std::string& value_name);

/// What the scatter of the response is proportional to where the left side scatters alike in every row: one over the
/// slope of the left side, constant factors and signs aside. Of a left side that has an inverse (inverse_of()).
[[nodiscard]] NodeId scatter_of_equal(Graph& graph, NodeId left, int response);

/// Why an expression is not finite for given values of its names: "ln(y) is not defined at y = 0". A name whose value
/// is NaN is a parameter: it is taken as 1 and not mentioned.
[[nodiscard]] std::string reason_not_finite(const Graph& graph, NodeId node, const std::vector<double>& values);

}  // namespace truecurve::detail
