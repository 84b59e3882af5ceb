// Resolves the names of a model and examines its structure.
#include "bind_model.hpp"

#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "formula_text.hpp"
#include "parser.hpp"
#include "structure.hpp"
#include "transform.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::detail {
namespace {

// The power of one predictor that a node is, coefficients aside: 3*x^2 is {x, 2}; anything else has degree -1.
Monomial monomial_of(const Graph& graph, NodeId id, const std::vector<NameRole>& roles) {
  const Node& node = graph.at(id);
  const Monomial none;
  switch (node.op) {
    case Op::constant: return {-1, 0};
    case Op::name: return {roles[static_cast<std::size_t>(node.name)].index, 1};
    case Op::negate: return monomial_of(graph, node.a, roles);
    case Op::integer_power: {
      const Monomial base = monomial_of(graph, node.a, roles);
      return base.degree < 0 || node.value < 0 ? none
                                               : Monomial{base.predictor, base.degree * static_cast<int>(node.value)};
    }
    case Op::multiply: {
      const Monomial a = monomial_of(graph, node.a, roles);
      const Monomial b = monomial_of(graph, node.b, roles);
      if (a.degree < 0 || b.degree < 0) return none;
      if (a.predictor >= 0 && b.predictor >= 0 && a.predictor != b.predictor) return none;
      return {std::max(a.predictor, b.predictor), a.degree + b.degree};
    }
    case Op::divide: {
      const Monomial b = monomial_of(graph, node.b, roles);
      return b.degree == 0 ? monomial_of(graph, node.a, roles) : none;
    }
    default: return none;
  }
}

// Programs for value and derivatives; the parameters that enter linearly together, found from the derivatives.
void bind_nonlinear(Graph& graph, NodeId right, const std::vector<NodeId>& slopes, const std::vector<int>& names,
                    const std::vector<NameRole>& roles, BoundModel& bound) {
  for (std::size_t j = 0; j < names.size(); ++j) {
    bool alone = !graph.depends(slopes[j], names[j]);
    for (const int other : bound.separable)
      alone = alone && !graph.depends(slopes[j], names[static_cast<std::size_t>(other)]);
    (alone ? bound.separable : bound.entangled).push_back(static_cast<int>(j));
    const Meeting meeting = meeting_of(graph, right, names[j], roles);
    bound.parts.push_back(meeting.part);
    bound.place_signs.push_back(meeting.place_sign);
    bound.turns.push_back(meeting.turn);
  }
  std::vector<NodeId> outputs = {right};
  bound.value = Program(graph, outputs, roles);
  bound.groups = term_groups(graph, right, bound.entangled, bound.separable, names);
  for (const int j : bound.separable) outputs.push_back(slopes[static_cast<std::size_t>(j)]);
  bound.projection = Program(graph, outputs, roles);
  outputs.resize(1);
  outputs.insert(outputs.end(), slopes.begin(), slopes.end());
  bound.jacobian = Program(graph, outputs, roles);
}

// Powers 0..k of one predictor, each once, with coefficient 1: the parameters of a polynomial.
void find_polynomial(const Graph& graph, const std::vector<NodeId>& columns, BoundModel& bound) {
  std::vector<int> powers;
  int predictor = -1;
  for (std::size_t j = 0; j < columns.size(); ++j) {
    const Node& node = graph.at(columns[j]);
    const bool plain = graph.is_constant(columns[j], 1) || node.op == Op::name ||
                       (node.op == Op::integer_power && node.value > 1 && graph.at(node.a).op == Op::name);
    if (!plain) return;
    powers.push_back(bound.monomials[j].degree);
    if (powers.back() == 0) continue;
    if (predictor >= 0 && predictor != bound.monomials[j].predictor) return;
    predictor = bound.monomials[j].predictor;
  }
  std::vector<int> sorted = powers;
  std::sort(sorted.begin(), sorted.end());
  for (std::size_t d = 0; d < sorted.size(); ++d) {
    if (sorted[d] != static_cast<int>(d)) return;
  }
  if (sorted.size() < 3) return;  // a line is served as well by its own columns
  bound.powers = powers;
  bound.polynomial_predictor = predictor;
}

// The left side, its derivatives and its inverse as programs in the response and the predictors.
void bind_left_side(Graph& graph, NodeId left, const std::string& response, const std::vector<std::string>& predictors,
                    const std::vector<std::string>& left_names, BoundModel& bound) {
  bound.left_node = left;
  bound.left_text = text_of(graph, left);
  bound.transformed = graph.at(left).op != Op::name;
  bound.implied_scatter = "1";
  if (!bound.transformed) return;
  for (const std::string& name : left_names) {
    if (name != response && std::find(predictors.begin(), predictors.end(), name) == predictors.end()) {
      throw Error({.code = ErrorCode::syntax,
                   .message = fmt::format("'{}' on the left side is neither the response nor a column", name),
                   .subject = name,
                   .remedy = "parameters stand on the right side only"});
    }
  }
  const int at = graph.index_of(response);
  const NodeId slope = graph.derivative(left, at);
  const NodeId curvature = graph.derivative(slope, at);
  const NodeId third = graph.derivative(curvature, at);
  const NodeId inverse = inverse_of(graph, left, at, left_value_name);
  const int value = graph.index_of(left_value_name);
  const NodeId inverse_slope = graph.derivative(inverse, value);
  std::vector<NameRole> roles(graph.names().size());
  roles[static_cast<std::size_t>(at)] = {NameRole::Kind::variable, 0};
  roles[static_cast<std::size_t>(value)] = {NameRole::Kind::variable, 0};
  for (std::size_t k = 0; k < predictors.size(); ++k) {
    const int name = graph.index_of(predictors[k]);
    if (name < static_cast<int>(roles.size()))
      roles[static_cast<std::size_t>(name)] = {NameRole::Kind::variable, static_cast<int>(k) + 1};
  }
  const NodeId left_outputs[] = {left, slope, curvature, third};
  const NodeId inverse_outputs[] = {inverse, inverse_slope};
  bound.left = Program(graph, left_outputs, roles);
  bound.inverse = Program(graph, inverse_outputs, roles);
  bound.implied_scatter = text_of(graph, scatter_of_equal(graph, left, at));
}

// Every held parameter must be one of the model's, once.
void require_known(const std::vector<FixedParameter>& fixed, const std::vector<std::string>& names) {
  for (std::size_t i = 0; i < fixed.size(); ++i) {
    const std::string& name = fixed[i].name;
    const bool known = std::find(names.begin(), names.end(), name) != names.end();
    const bool twice = std::any_of(fixed.begin(), fixed.begin() + static_cast<std::ptrdiff_t>(i),
                                   [&name](const FixedParameter& other) { return other.name == name; });
    if (known && !twice && std::isfinite(fixed[i].value)) continue;
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = !known  ? fmt::format("'{}' is to be held, but it is no parameter", name)
                    : twice ? fmt::format("'{}' is to be held at two values", name)
                            : fmt::format("'{}' is to be held at {}", name, fixed[i].value),
         .subject = name,
         .value = fmt::format("{}", fixed[i].value),
         .remedy = fmt::format("hold each parameter once, at a finite value; they are: {}", fmt::join(names, ", "))});
  }
}

// The names that the right side holds: predictors, parameters to be fitted, and those that are held.
struct RightSide {
  NodeId node = -1;  // with the held values in their places
  std::vector<NameRole> roles;
  std::vector<int> parameters;  // as names of the graph
};

// What stands in quotation marks is a column's header, never a parameter.
void require_plain(const std::string& parameter) {
  if (is_plain_name(parameter)) return;
  throw Error({.code = ErrorCode::unknown_name,
               .message = fmt::format("{} stands in quotation marks and is no predictor", in_formula(parameter)),
               .subject = parameter,
               .remedy = "write a column's header as it stands in the table; a parameter has a plain name"});
}

// e^(-k*t): the base of the exponential function taken for a parameter, which no data could tell from k.
void refuse_euler(const Graph& graph, NodeId right, const std::vector<std::string>& parameters) {
  constexpr const char* euler = "e";
  if (std::find(parameters.begin(), parameters.end(), euler) == parameters.end()) return;
  for (NodeId id = 0; id <= right; ++id) {
    const Node& node = graph.at(id);
    if (node.op != Op::power) continue;
    const Node& base = graph.at(node.a);
    if (base.op != Op::name || graph.names()[static_cast<std::size_t>(base.name)] != euler) continue;
    throw Error({.code = ErrorCode::unknown_name,
                 .message = fmt::format("'e' would be a parameter in {}", text_of(graph, id)),
                 .subject = euler,
                 .remedy = fmt::format("write exp({}) for the exponential function; if a parameter is meant, call it "
                                       "otherwise",
                                       text_of(graph, node.b))});
  }
}

RightSide right_side_of(ModelData& data, const std::vector<std::string>& predictors, BoundModel& bound) {
  Graph& graph = data.graph;
  data.names.clear();
  for (const std::string& name : data.right_names) {
    if (std::find(predictors.begin(), predictors.end(), name) == predictors.end()) data.names.push_back(name);
  }
  require_known(data.fixed, data.names);
  std::vector<double> held(graph.names().size(), std::nan(""));
  for (const FixedParameter& fixed : data.fixed)
    held[static_cast<std::size_t>(graph.index_of(fixed.name))] = fixed.value;
  RightSide right;
  right.node = data.fixed.empty() ? data.right : graph.with_values(data.right, held);
  right.roles.resize(graph.names().size());
  for (const std::string& name : data.right_names) {
    const auto at = static_cast<std::size_t>(graph.index_of(name));
    if (!std::isnan(held[at])) continue;
    const auto predictor = std::find(predictors.begin(), predictors.end(), name);
    if (predictor != predictors.end()) {
      right.roles[at] = {NameRole::Kind::variable, static_cast<int>(predictor - predictors.begin())};
    } else {
      require_plain(name);
      right.roles[at] = {NameRole::Kind::parameter, static_cast<int>(bound.parameters.size())};
      bound.parameters.push_back(name);
      right.parameters.push_back(static_cast<int>(at));
    }
  }
  refuse_euler(graph, right.node, bound.parameters);
  return right;
}

// The derivative by each parameter. A model is linear in a parameter where its derivative by it holds no parameter;
// that derivative is the term's column.
std::vector<NodeId> columns_of(ModelData& data, const RightSide& right, BoundModel& bound) {
  Graph& graph = data.graph;
  std::vector<NodeId> columns;
  bound.linear = true;
  for (std::size_t j = 0; j < right.parameters.size(); ++j) {
    const NodeId column = graph.derivative(right.node, right.parameters[j]);
    if (graph.is_constant(column, 0)) {
      throw Error({.code = ErrorCode::parameter_without_effect,
                   .message = fmt::format("the parameter '{}' has no effect in '{}'{}", bound.parameters[j], data.text,
                                          data.fixed.empty() ? "" : " with the others held as they are"),
                   .subject = bound.parameters[j],
                   .remedy = data.fixed.empty() ? "remove it from the model" : "hold it too, or free another"});
    }
    for (const int name : right.parameters) bound.linear = bound.linear && !graph.depends(column, name);
    columns.push_back(column);
  }
  return columns;
}

void bind_linear(Graph& graph, const RightSide& right, std::vector<NodeId> columns, BoundModel& bound) {
  int affine = 0;
  for (std::size_t j = 0; j < columns.size(); ++j) {
    bound.monomials.push_back(monomial_of(graph, columns[j], right.roles));
    if (graph.at(columns[j]).op == Op::constant && bound.constant_term < 0) {
      bound.constant_term = static_cast<int>(j);
      bound.constant_value = graph.at(columns[j]).value;
    } else if (bound.predictors.size() == 1) {
      const auto name =
          std::find(graph.names().begin(), graph.names().end(), bound.predictors[0]) - graph.names().begin();
      const NodeId slope = graph.derivative(columns[j], static_cast<int>(name));
      const bool is_affine = graph.at(slope).op == Op::constant && !graph.is_constant(slope, 0);
      affine += is_affine;
      if (is_affine) bound.falling_column = graph.at(slope).value < 0;
    }
  }
  bound.straight_line = columns.size() == 2 && bound.constant_term >= 0 && affine == 1;
  find_polynomial(graph, columns, bound);
  std::vector<double> zeros(graph.names().size(), std::nan(""));
  for (const int name : right.parameters) zeros[static_cast<std::size_t>(name)] = 0;
  const NodeId offset = graph.with_values(right.node, zeros);
  bound.has_offset = !graph.is_constant(offset, 0);
  if (bound.has_offset) {
    columns.push_back(offset);
    // An offset bends the line, unless it is one itself; R and r then refer to the response less the offset.
    bound.straight_line = false;
    bound.powers.clear();
  }
  bound.columns = Program(graph, columns, right.roles);
}

}  // namespace

std::shared_ptr<BoundModel> bind_text(ModelData& data, const std::vector<std::string>& predictors, Treat treat) {
  auto bound = std::make_shared<BoundModel>();
  bound->predictors = predictors;
  const RightSide right = right_side_of(data, predictors, *bound);
  std::vector<NodeId> columns = columns_of(data, right, *bound);
  if (treat == Treat::as_curve) bound->linear = false;
  if (bound->linear) {
    bind_linear(data.graph, right, std::move(columns), *bound);
  } else {
    bind_nonlinear(data.graph, right.node, columns, right.parameters, right.roles, *bound);
  }
  bind_left_side(data.graph, data.left, data.response, predictors, data.left_names, *bound);
  return bound;
}

std::shared_ptr<BoundModel> bind_function(ModelData& data) {
  auto bound = std::make_shared<BoundModel>();
  auto function = std::make_shared<BoundFunction>();
  data.names = data.function_parameters;
  require_known(data.fixed, data.names);
  function->run = data.function;
  function->theta = VectorXd::Zero(static_cast<Eigen::Index>(data.names.size()));
  for (std::size_t j = 0; j < data.names.size(); ++j) {
    const auto held = std::find_if(data.fixed.begin(), data.fixed.end(),
                                   [&](const FixedParameter& fixed) { return fixed.name == data.names[j]; });
    if (held != data.fixed.end()) {
      function->theta[static_cast<Eigen::Index>(j)] = held->value;
      continue;
    }
    bound->entangled.push_back(static_cast<int>(bound->parameters.size()));
    bound->groups.push_back(
        {.entangled = {bound->entangled.back()}, .separable = {}, .family = static_cast<int>(bound->groups.size())});
    bound->parts.push_back(ParameterPart::other);
    bound->place_signs.push_back(0);
    bound->turns.push_back(0);
    bound->parameters.push_back(data.names[j]);
    function->free.push_back(static_cast<int>(j));
  }
  bound->predictors = data.function_predictors;
  bound->left_text = data.response;
  bound->implied_scatter = "1";
  bound->function = std::move(function);
  return bound;
}

}  // namespace truecurve::detail
