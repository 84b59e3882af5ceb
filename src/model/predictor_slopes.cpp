// Compiles what only some ask for.
#include "predictor_slopes.hpp"

#include "../base/matrices.hpp"
#include "model_data.hpp"
#include "transform.hpp"

namespace truecurve::detail {
namespace {

std::vector<const double*> pointers_to(const VectorXd& values) {
  std::vector<const double*> at;
  for (const double& value : values) at.push_back(&value);
  return at;
}

std::vector<double*> pointers_into(VectorXd& values) {
  std::vector<double*> at;
  for (double& value : values) at.push_back(&value);
  return at;
}

}  // namespace

PredictorSlopes::PredictorSlopes(const Model& model) : transformed_(model.is_transformed()) {
  const ModelData& data = data_of(model);
  Graph graph = data.graph;  // it grows by what is asked for here
  const std::vector<std::string>& predictors = model.predictors();
  const std::vector<std::string>& parameters = model.parameters();
  std::vector<double> held(graph.names().size(), not_a_number);
  for (const FixedParameter& fixed : data.fixed)
    held[static_cast<std::size_t>(graph.index_of(fixed.name))] = fixed.value;
  const NodeId right = graph.with_values(data.right, held);
  std::vector<int> names;
  for (const std::string& predictor : predictors) {
    (void)graph.named(predictor);  // one that the model does not hold has a slope, too: 0
    names.push_back(graph.index_of(predictor));
  }
  const auto roles_of_names = [&](int first_predictor) {
    std::vector<NameRole> roles(graph.names().size());
    for (std::size_t j = 0; j < parameters.size(); ++j) {
      roles[static_cast<std::size_t>(graph.index_of(parameters[j]))] = {NameRole::Kind::parameter, static_cast<int>(j)};
    }
    for (std::size_t k = 0; k < names.size(); ++k)
      roles[static_cast<std::size_t>(names[k])] = {NameRole::Kind::variable, first_predictor + static_cast<int>(k)};
    return roles;
  };
  std::vector<NodeId> outputs = {right};
  for (const int name : names) outputs.push_back(graph.derivative(right, name));
  right_ = Program(graph, outputs, roles_of_names(0));
  if (!transformed_) return;
  const NodeId inverse = inverse_of(graph, data.left, graph.index_of(data.response), left_value_name);
  const int value = graph.index_of(left_value_name);
  std::vector<NodeId> ways = {graph.derivative(inverse, value)};
  for (const int name : names) ways.push_back(graph.derivative(inverse, name));
  std::vector<NameRole> roles = roles_of_names(1);
  roles[static_cast<std::size_t>(value)] = {NameRole::Kind::variable, 0};
  inverse_ = Program(graph, ways, roles);
}

void PredictorSlopes::run(std::span<const double* const> predictors, std::size_t rows,
                          std::span<const double> parameters, std::span<double* const> outputs,
                          Program::Workspace& work) const {
  right_.run(predictors, rows, parameters, outputs, work);
}

VectorXd PredictorSlopes::of_response(const VectorXd& point, double right, const VectorXd& right_slopes) const {
  if (!transformed_) return right_slopes;
  VectorXd at(point.size() + 1);
  at << right, point;
  VectorXd ways(point.size() + 1);
  const std::vector<double*> outputs = pointers_into(ways);
  Program::Workspace work;
  inverse_.run(pointers_to(at), 1, {}, outputs, work);
  return ways[0] * right_slopes + ways.tail(point.size());
}

VectorXd PredictorSlopes::of_response(const VectorXd& point, const VectorXd& parameters) const {
  VectorXd right(point.size() + 1);
  const std::vector<double*> outputs = pointers_into(right);
  Program::Workspace work;
  run(pointers_to(point), 1, {parameters.data(), static_cast<std::size_t>(parameters.size())}, outputs, work);
  return of_response(point, right[0], right.tail(point.size()));
}

}  // namespace truecurve::detail
