// Resolves the names of a written model and examines its structure.
#include <truecurve/base/error.hpp>
#include <truecurve/model/model.hpp>

#include "../base/matrices.hpp"
#include "model_data.hpp"
#include "parser.hpp"
#include "transform.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve {
namespace {

using detail::BoundModel;
using detail::Graph;
using detail::ModelData;
using detail::Monomial;
using detail::NameRole;
using detail::NodeId;
using detail::Op;

// The power of one predictor that a node is, coefficients aside: 3*x^2 is {x, 2}; anything else has degree -1.
Monomial monomial_of(const Graph& graph, NodeId id, const std::vector<NameRole>& roles) {
  const detail::Node& node = graph.at(id);
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

bool depends(const Graph& graph, NodeId id, int name) {
  if (id < 0) return false;
  const std::vector<bool> names = graph.depends_on(id);
  return static_cast<std::size_t>(name) < names.size() && names[static_cast<std::size_t>(name)];
}

// Programs for value and derivatives; the parameters that enter linearly together, found from the derivatives.
void bind_nonlinear(Graph& graph, NodeId right, const std::vector<NodeId>& slopes, const std::vector<int>& names,
                    const std::vector<NameRole>& roles, BoundModel& bound) {
  for (std::size_t j = 0; j < names.size(); ++j) {
    bool alone = !depends(graph, slopes[j], names[j]);
    for (const int other : bound.separable)
      alone = alone && !depends(graph, slopes[j], names[static_cast<std::size_t>(other)]);
    (alone ? bound.separable : bound.entangled).push_back(static_cast<int>(j));
    const detail::Meeting meeting = detail::meeting_of(graph, right, names[j], roles);
    bound.parts.push_back(meeting.part);
    bound.place_signs.push_back(meeting.place_sign);
    bound.turns.push_back(meeting.turn);
  }
  std::vector<NodeId> outputs = {right};
  bound.value = detail::Program(graph, outputs, roles);
  bound.groups = detail::term_groups(graph, right, bound.entangled, bound.separable, names);
  for (const int j : bound.separable) outputs.push_back(slopes[static_cast<std::size_t>(j)]);
  bound.projection = detail::Program(graph, outputs, roles);
  outputs.resize(1);
  outputs.insert(outputs.end(), slopes.begin(), slopes.end());
  bound.jacobian = detail::Program(graph, outputs, roles);
}

// Powers 0..k of one predictor, each once, with coefficient 1: the parameters of a polynomial.
void find_polynomial(const Graph& graph, const std::vector<NodeId>& columns, BoundModel& bound) {
  std::vector<int> powers;
  int predictor = -1;
  for (std::size_t j = 0; j < columns.size(); ++j) {
    const detail::Node& node = graph.at(columns[j]);
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
  bound.left_text = detail::text_of(graph, left);
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
  const NodeId inverse = detail::inverse_of(graph, left, at, detail::left_value_name);
  const int value = graph.index_of(detail::left_value_name);
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
  bound.left = detail::Program(graph, left_outputs, roles);
  bound.inverse = detail::Program(graph, inverse_outputs, roles);
  // Equal scatter of the left side means a scatter of the response proportional to one over the slope.
  const detail::Node node = graph.at(slope);  // a copy: the graph grows beneath
  NodeId scatter = graph.make(Op::divide, graph.constant(1), slope);
  if (node.op == Op::divide)
    scatter = graph.at(node.a).op == Op::constant ? node.b : graph.make(Op::divide, node.b, node.a);
  if (graph.at(scatter).op == Op::multiply && graph.at(graph.at(scatter).a).op == Op::constant)
    scatter = graph.at(scatter).b;
  // 1/y: its derivative is -(1/y)/y, which people write as y².
  if (graph.at(left).op == Op::divide && graph.at(graph.at(left).b).op == Op::name &&
      graph.at(graph.at(left).b).name == at) {
    scatter = graph.integer_power(graph.at(left).b, 2);
  }
  bound.implied_scatter = detail::text_of(graph, scatter);
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

enum class Treat { by_structure, as_curve };

std::shared_ptr<BoundModel> bind(ModelData& data, const std::vector<std::string>& predictors, Treat treat) {
  Graph& graph = data.graph;
  const std::string& text = data.text;
  auto bound = std::make_shared<BoundModel>();
  bound->predictors = predictors;
  data.names.clear();
  for (const std::string& name : data.right_names) {
    if (std::find(predictors.begin(), predictors.end(), name) == predictors.end()) data.names.push_back(name);
  }
  require_known(data.fixed, data.names);
  std::vector<double> held(graph.names().size(), std::nan(""));
  for (const FixedParameter& fixed : data.fixed)
    held[static_cast<std::size_t>(graph.index_of(fixed.name))] = fixed.value;
  const NodeId right = data.fixed.empty() ? data.right : graph.with_values(data.right, held);
  std::vector<NameRole> roles(graph.names().size());
  std::vector<int> parameter_names;
  for (const std::string& name : data.right_names) {
    const auto at = static_cast<std::size_t>(graph.index_of(name));
    if (!std::isnan(held[at])) continue;
    const auto predictor = std::find(predictors.begin(), predictors.end(), name);
    if (predictor != predictors.end()) {
      roles[at] = {NameRole::Kind::variable, static_cast<int>(predictor - predictors.begin())};
    } else {
      roles[at] = {NameRole::Kind::parameter, static_cast<int>(bound->parameters.size())};
      bound->parameters.push_back(name);
      parameter_names.push_back(static_cast<int>(at));
    }
  }

  // A model is linear in a parameter where its derivative by it holds no parameter; that derivative is the term's
  // column.
  std::vector<NodeId> outputs;
  bound->linear = true;
  for (std::size_t j = 0; j < parameter_names.size(); ++j) {
    const NodeId column = graph.derivative(right, parameter_names[j]);
    if (graph.is_constant(column, 0)) {
      throw Error({.code = ErrorCode::parameter_without_effect,
                   .message = fmt::format("the parameter '{}' has no effect in '{}'{}", bound->parameters[j], text,
                                          data.fixed.empty() ? "" : " with the others held as they are"),
                   .subject = bound->parameters[j],
                   .remedy = data.fixed.empty() ? "remove it from the model" : "hold it too, or free another"});
    }
    const std::vector<bool> names = graph.depends_on(column);
    for (const int name : parameter_names) {
      if (static_cast<std::size_t>(name) < names.size() && names[static_cast<std::size_t>(name)]) bound->linear = false;
    }
    outputs.push_back(column);
  }
  if (treat == Treat::as_curve) bound->linear = false;
  if (!bound->linear) {
    bind_nonlinear(graph, right, outputs, parameter_names, roles, *bound);
    return bound;
  }

  int affine = 0;
  for (std::size_t j = 0; j < outputs.size(); ++j) {
    bound->monomials.push_back(monomial_of(graph, outputs[j], roles));
    if (graph.at(outputs[j]).op == Op::constant && bound->constant_term < 0) {
      bound->constant_term = static_cast<int>(j);
      bound->constant_value = graph.at(outputs[j]).value;
    } else if (predictors.size() == 1) {
      const auto name = std::find(graph.names().begin(), graph.names().end(), predictors[0]) - graph.names().begin();
      const NodeId slope = graph.derivative(outputs[j], static_cast<int>(name));
      const bool is_affine = graph.at(slope).op == Op::constant && !graph.is_constant(slope, 0);
      affine += is_affine;
      if (is_affine) bound->falling_column = graph.at(slope).value < 0;
    }
  }
  bound->straight_line = outputs.size() == 2 && bound->constant_term >= 0 && affine == 1;

  find_polynomial(graph, outputs, *bound);
  std::vector<double> zeros(graph.names().size(), std::nan(""));
  for (const int name : parameter_names) zeros[static_cast<std::size_t>(name)] = 0;
  const NodeId offset = graph.with_values(right, zeros);
  bound->has_offset = !graph.is_constant(offset, 0);
  if (bound->has_offset) {
    outputs.push_back(offset);
    // An offset bends the line, unless it is one itself; R and r then refer to the response less the offset.
    bound->straight_line = false;
    bound->powers.clear();
  }
  bound->columns = detail::Program(graph, outputs, roles);
  return bound;
}

// C++ code shows no structure: every parameter is taken as entangled with the others.
std::shared_ptr<BoundModel> bind_function(ModelData& data) {
  auto bound = std::make_shared<BoundModel>();
  auto function = std::make_shared<detail::BoundFunction>();
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
    bound->parts.push_back(detail::ParameterPart::other);
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

}  // namespace

Model Model::written(std::string_view text, const std::vector<std::string>& predictors) {
  auto data = std::make_shared<ModelData>();
  data->text = text;
  const detail::Equation equation = detail::parse_equation(text, data->graph);
  data->left = equation.left;
  data->right = equation.right;
  data->left_names = equation.left_names;
  data->right_names = equation.right_names;
  if (data->left_names.empty()) {
    throw Error({.code = ErrorCode::syntax,
                 .message = fmt::format("the left side of '{}' names no response", text),
                 .subject = "model text",
                 .remedy = "write the response on the left: y = ... or ln(y) = ..."});
  }
  data->response = data->left_names.front();
  for (const std::string& name : data->left_names) {
    if (std::find(data->right_names.begin(), data->right_names.end(), name) == data->right_names.end()) {
      data->response = name;
      break;
    }
  }
  if (std::find(data->right_names.begin(), data->right_names.end(), data->response) != data->right_names.end()) {
    throw Error(
        {.code = ErrorCode::syntax,
         .message = fmt::format("the response '{}' also stands on the right side of '{}'", data->response, text),
         .subject = data->response,
         .remedy = "solve the equation for the response"});
  }
  if (data->right_names.empty()) {
    throw Error({.code = ErrorCode::syntax,
                 .message = fmt::format("there is no parameter in '{}'", text),
                 .subject = "model text",
                 .remedy = "name what is to be found: y = a + b*x"});
  }
  const Model unbound{std::shared_ptr<const ModelData>(std::move(data))};
  return predictors.empty() ? unbound : unbound.with_predictors(predictors);
}

namespace {

Model bound_with(const ModelData& given, const std::vector<std::string>& predictors, Treat treat) {
  auto data = std::make_shared<ModelData>(given);
  if (data->function) {
    if (predictors != data->function_predictors) {
      throw Error({.code = ErrorCode::unknown_name,
                   .message = fmt::format("the function takes {}, and {} are given",
                                          fmt::join(data->function_predictors, ", "), fmt::join(predictors, ", ")),
                   .subject = "predictors",
                   .remedy = "choose the observations' predictors in the order of the function's"});
    }
    data->bound = bind_function(*data);
  } else {
    const std::shared_ptr<BoundModel> bound = bind(*data, predictors, treat);
    bind_left_side(data->graph, data->left, data->response, predictors, data->left_names, *bound);
    data->bound = bound;
  }
  if (data->bound->parameters.empty()) {
    throw Error(
        {.code = data->fixed.empty() ? ErrorCode::syntax : ErrorCode::bad_argument,
         .message = data->fixed.empty()
                        ? fmt::format("every name on the right side of '{}' is a column; nothing is left to be "
                                      "fitted",
                                      data->text)
                        : fmt::format("every parameter of '{}' is held; nothing is left to be fitted", data->text),
         .subject = "model text",
         .remedy = data->fixed.empty() ? "name what is to be found: y = a + b*x" : "free one of them"});
  }
  return detail::made_of(std::move(data));
}

}  // namespace

Model Model::with_predictors(const std::vector<std::string>& predictors) const {
  return bound_with(*data_, predictors, Treat::by_structure);
}

Model detail::as_curve(const Model& model) {
  return bound_with(detail::data_of(model), model.predictors(), Treat::as_curve);
}

Model Model::with_fixed(const std::vector<FixedParameter>& fixed) const {
  auto data = std::make_shared<ModelData>(*data_);
  data->fixed.insert(data->fixed.end(), fixed.begin(), fixed.end());
  if (data->bound) return bound_with(*data, data->bound->predictors, Treat::by_structure);
  return detail::made_of(std::move(data));
}

Model Model::from_row_function(std::vector<std::string> parameters, detail::RowFunction run, FunctionNames names,
                               Predictors predictors, Derivatives derivatives) {
  auto data = std::make_shared<ModelData>();
  const auto refuse = [](const std::string& message, const std::string& subject, const Advice& remedy) {
    throw Error({.code = ErrorCode::bad_argument, .message = message, .subject = subject, .remedy = remedy});
  };
  if (parameters.empty() || parameters.size() > detail::most_function_parameters)
    refuse(fmt::format("a function with {} parameters can't be fitted", parameters.size()), "parameters",
           fmt::format("name 1 to {} parameters", detail::most_function_parameters));
  if (names.predictors.empty() || (predictors == Predictors::one && names.predictors.size() != 1))
    refuse(fmt::format("the function takes its predictor as one double, and {} are named", names.predictors.size()),
           "predictors", "let it take std::span<const double>, or name one predictor");
  std::vector<std::string> all = parameters;
  all.insert(all.end(), names.predictors.begin(), names.predictors.end());
  all.push_back(names.response);
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (!detail::is_plain_name(all[i]))
      refuse(fmt::format("'{}' is no plain name", all[i]), all[i], "use letters, digits and _");
    if (std::find(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(i), all[i]) !=
        all.begin() + static_cast<std::ptrdiff_t>(i))
      refuse(fmt::format("'{}' stands twice among parameters, predictors and response", all[i]), all[i],
             "give each its own name");
  }
  data->text = names.text.empty() ? fmt::format("{} = f({}; {})", names.response, fmt::join(names.predictors, ", "),
                                                fmt::join(parameters, ", "))
                                  : std::move(names.text);
  data->kind = "function";
  data->response = names.response;
  data->left_names = {names.response};
  data->right_names = all;
  data->right_names.pop_back();
  data->function = std::move(run);
  data->function_parameters = std::move(parameters);
  data->function_predictors = std::move(names.predictors);
  data->exact_derivatives = derivatives == Derivatives::exact;
  const Model unbound{std::shared_ptr<const ModelData>(std::move(data))};
  return unbound.with_predictors(detail::data_of(unbound).function_predictors);
}

namespace {
const BoundModel& bound_of(const ModelData& data) {
  if (!data.bound) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the predictors of '{}' are not known yet", data.text),
                 .subject = "model",
                 .remedy = "name them: Model::written(text, {\"x\"}), or fit the model"});
  }
  return *data.bound;
}
}  // namespace

namespace detail {
namespace {

// The predictors of a row, gathered from columns.
class RowReader {
 public:
  explicit RowReader(std::span<const double* const> variables) : variables_(variables), row_(variables.size()) {}
  std::span<const double> at(std::size_t i) {
    for (std::size_t k = 0; k < row_.size(); ++k) row_[k] = variables_[k][i];
    return row_;
  }

 private:
  std::span<const double* const> variables_;
  std::vector<double> row_;
};

VectorXd all_of(const BoundFunction& function, std::span<const double> theta) {
  VectorXd all = function.theta;
  for (std::size_t j = 0; j < theta.size(); ++j) all[function.free[j]] = theta[j];
  return all;
}

template <typename Call>
auto guarded(std::size_t row, Call call) {
  try {
    return call();
  } catch (const std::exception& error) {
    throw FunctionFailure{row, error.what()};
  } catch (...) {
    throw FunctionFailure{row, "an exception that is no std::exception"};
  }
}

}  // namespace

void BoundModel::run_value(std::span<const double* const> variables, std::size_t rows, std::span<const double> theta,
                           std::span<double* const> outputs, Program::Workspace& work) const {
  if (!function) return value.run(variables, rows, theta, outputs, work);
  const VectorXd all = all_of(*function, theta);
  RowReader reader(variables);
  const std::span<const double> parameters_now(all.data(), static_cast<std::size_t>(all.size()));
  for (std::size_t i = 0; i < rows; ++i)
    outputs[0][i] = guarded(i, [&] { return function->run(reader.at(i), parameters_now, nullptr); });
}

void BoundModel::run_jacobian(std::span<const double* const> variables, std::size_t rows, std::span<const double> theta,
                              std::span<double* const> outputs, Program::Workspace& work) const {
  if (!function) return jacobian.run(variables, rows, theta, outputs, work);
  const VectorXd all = all_of(*function, theta);
  RowReader reader(variables);
  const std::span<const double> parameters_now(all.data(), static_cast<std::size_t>(all.size()));
  VectorXd slopes(all.size());
  for (std::size_t i = 0; i < rows; ++i) {
    outputs[0][i] = guarded(i, [&] { return function->run(reader.at(i), parameters_now, slopes.data()); });
    for (std::size_t j = 0; j < theta.size(); ++j) outputs[j + 1][i] = slopes[function->free[j]];
  }
}

void BoundModel::run_projection(std::span<const double* const> variables, std::size_t rows,
                                std::span<const double> theta, std::span<double* const> outputs,
                                Program::Workspace& work) const {
  if (function) return run_value(variables, rows, theta, outputs, work);
  projection.run(variables, rows, theta, outputs, work);
}

}  // namespace detail

const std::vector<FixedParameter>& Model::fixed() const noexcept { return data_->fixed; }
const std::vector<std::string>& Model::all_parameters() const {
  (void)bound_of(*data_);
  return data_->names;
}
bool Model::has_exact_derivatives() const noexcept { return data_->exact_derivatives; }
const std::vector<std::string>& Model::left_side_names() const noexcept { return data_->left_names; }
const std::vector<OriginalParameter>& Model::original_parameters() const noexcept { return data_->originals; }
const std::string& Model::text() const noexcept { return data_->text; }
const std::string& Model::kind() const noexcept { return data_->kind; }
const std::string& Model::response() const noexcept { return data_->response; }
const std::vector<std::string>& Model::right_side_names() const noexcept { return data_->right_names; }
bool Model::is_bound() const noexcept { return data_->bound != nullptr; }
const std::vector<std::string>& Model::predictors() const { return bound_of(*data_).predictors; }
const std::vector<std::string>& Model::parameters() const { return bound_of(*data_).parameters; }
bool Model::is_linear() const { return bound_of(*data_).linear; }
bool Model::has_constant() const { return bound_of(*data_).constant_term >= 0 || !bound_of(*data_).linear; }
bool Model::has_known_part() const { return bound_of(*data_).linear && bound_of(*data_).has_offset; }
int Model::constant_index() const { return bound_of(*data_).constant_term; }
bool Model::is_transformed() const { return bound_of(*data_).transformed; }
const std::string& Model::left_side() const { return bound_of(*data_).left_text; }
const std::string& Model::implied_scatter() const { return bound_of(*data_).implied_scatter; }
int Model::polynomial_degree() const { return std::max(0, static_cast<int>(bound_of(*data_).powers.size()) - 1); }
bool Model::is_straight_line() const { return bound_of(*data_).straight_line; }

}  // namespace truecurve
