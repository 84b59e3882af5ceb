// The law of propagation of uncertainty by exact derivatives, and its check by Monte Carlo.
#include <truecurve/assess/derived.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>

#include "../base/dense.hpp"
#include "../model/parser.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include <Eigen/Core>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve {
namespace {

using detail::Graph;
using detail::NodeId;
using Eigen::Index;

constexpr int draws = 20'000;
constexpr std::uint64_t monte_carlo_seed = 1;
// Draws of that number place the limits of a 95 % interval within about a fiftieth of the half width; five times that
// is no longer chance.
constexpr double noticeable_difference = 0.1;

// An expression in the parameters of an estimate.
class ParameterExpression {
 public:
  ParameterExpression(const Estimate& estimate, std::string_view text) : estimate_(estimate) {
    node_ = detail::parse_expression(text, graph_);
    bind();
  }
  ParameterExpression(const Estimate& estimate, const detail::Equation& equation, Graph graph)
      : estimate_(estimate), graph_(std::move(graph)) {
    node_ = graph_.make(detail::Op::subtract, equation.left, equation.right);
    bind();
  }

  [[nodiscard]] double at(const VectorXd& parameters) const {
    std::vector<double> numbers(static_cast<std::size_t>(node_) + 1, 0.0);
    return evaluate(node_, parameters, numbers);
  }

  [[nodiscard]] VectorXd gradient() {
    VectorXd g = VectorXd::Zero(estimate_.parameters().size());
    for (std::size_t i = 0; i < index_.size(); ++i) {
      if (index_[i] < 0) continue;
      const NodeId slope = graph_.derivative(node_, static_cast<int>(i));
      std::vector<double> numbers(static_cast<std::size_t>(slope) + 1, 0.0);
      g[index_[i]] = evaluate(slope, estimate_.parameters(), numbers);
    }
    return g;
  }

 private:
  // Parameters that are held stand for their value.
  void bind() {
    for (const std::string& name : graph_.names()) {
      const auto& fixed = estimate_.model().fixed();
      const auto held =
          std::find_if(fixed.begin(), fixed.end(), [&name](const FixedParameter& f) { return f.name == name; });
      held_.push_back(held == fixed.end() ? not_a_number : held->value);
      index_.push_back(held == fixed.end() ? estimate_.index_of(name) : -1);
    }
    if (index_.empty()) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = "the expression names no parameter",
                   .subject = "expression",
                   .remedy = fmt::format("the parameters are: {}", fmt::join(estimate_.parameter_names(), ", "))});
    }
  }

  double evaluate(NodeId root, const VectorXd& parameters, std::vector<double>& numbers) const {
    for (NodeId id = 0; id <= root; ++id) {
      const detail::Node& node = graph_.at(id);
      const auto number = [&](NodeId child) { return child < 0 ? 0.0 : numbers[static_cast<std::size_t>(child)]; };
      numbers[static_cast<std::size_t>(id)] = node.op == detail::Op::name
                                                  ? value_of(static_cast<std::size_t>(node.name), parameters)
                                                  : detail::apply(node, number(node.a), number(node.b), number(node.c));
    }
    return numbers[static_cast<std::size_t>(root)];
  }

  const Estimate& estimate_;
  Graph graph_;
  NodeId node_ = -1;
  [[nodiscard]] double value_of(std::size_t name, const VectorXd& parameters) const {
    return index_[name] < 0 ? held_[name] : parameters[index_[name]];
  }

  std::vector<Index> index_;  // parameter of each name, -1 for one that is held
  std::vector<double> held_;
};

void require_finite(double value, std::string_view text) {
  if (std::isfinite(value)) return;
  throw Error({.code = ErrorCode::not_finite,
               .message = fmt::format("'{}' is {} at the estimates", text, value),
               .subject = std::string(text),
               .value = fmt::format("{}", value),
               .remedy = "write an expression that is defined there"});
}

Interval monte_carlo_interval(const Estimate& estimate, const ParameterExpression& expression, double level) {
  const MatrixXd root =
      estimate.standard_uncertainties().asDiagonal() * detail::cholesky_factor(estimate.parts().correlation);
  RandomNumbers random(monte_carlo_seed);
  const bool stated = estimate.basis() == UncertaintyBasis::stated;
  std::vector<double> values;
  values.reserve(draws);
  VectorXd z(estimate.parameters().size());
  for (int draw = 0; draw < draws; ++draw) {
    for (double& component : z) component = random.normal();
    // A multivariate t is a normal over the root of an independent chi-squared/dof.
    const double stretch = stated ? 1
                                  : std::sqrt(estimate.degrees_of_freedom() /
                                              chi_squared_quantile(random.uniform(), estimate.degrees_of_freedom()));
    const double value = expression.at(estimate.parameters() + stretch * (root * z));
    if (!std::isnan(value)) values.push_back(value);
  }
  if (values.size() < draws / 2) return {};
  std::sort(values.begin(), values.end());
  const auto at = [&](double p) {
    return values[static_cast<std::size_t>(p * static_cast<double>(values.size() - 1))];
  };
  return {at(0.5 - level / 2), at(0.5 + level / 2)};
}

std::string_view trimmed(std::string_view text) {
  while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
  while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
  return text;
}

}  // namespace

DerivedQuantity derive(const Estimate& estimate, std::string_view definition, double level) {
  const auto equals = definition.find('=');
  const bool named = equals != std::string_view::npos && definition.substr(equals, 2) != "==";
  DerivedQuantity result;
  result.expression = trimmed(named ? definition.substr(equals + 1) : definition);
  result.name = trimmed(named ? definition.substr(0, equals) : definition);
  if (named && !detail::is_plain_name(result.name)) {
    throw Error({.code = ErrorCode::syntax,
                 .message = fmt::format("'{}' can't be the name of a derived quantity", result.name),
                 .subject = result.name,
                 .remedy = "write name = expression, such as t_half = ln(2)/k"});
  }
  ParameterExpression expression(estimate, result.expression);
  result.value = expression.at(estimate.parameters());
  require_finite(result.value, result.expression);
  const VectorXd g = expression.gradient();
  const double u = estimate.standard_uncertainty_along(g);
  const double factor = estimate.coverage_factor(level);
  if (!std::isfinite(u) || !std::isfinite(factor)) return result;
  result.standard_uncertainty = u;
  const double half = factor * result.standard_uncertainty;
  result.interval = {result.value - half, result.value + half};
  result.monte_carlo = monte_carlo_interval(estimate, expression, level);
  const double apart = std::max(std::abs(result.monte_carlo.low - result.interval.low),
                                std::abs(result.monte_carlo.high - result.interval.high));
  result.curved = !(apart <= noticeable_difference * half) && half > 0;
  return result;
}

HypothesisTest test_hypothesis(const Estimate& estimate, std::string_view hypothesis) {
  Graph graph;
  const detail::Equation equation = detail::parse_equation(hypothesis, graph);
  ParameterExpression expression(estimate, equation, std::move(graph));
  HypothesisTest result;
  result.hypothesis = trimmed(hypothesis);
  result.difference = expression.at(estimate.parameters());
  require_finite(result.difference, hypothesis);
  const VectorXd g = expression.gradient();
  result.standard_uncertainty = estimate.standard_uncertainty_along(g);
  if (result.standard_uncertainty > 0) {
    result.t = result.difference / result.standard_uncertainty;
    result.p = student_t_two_sided(
        result.t, estimate.basis() == UncertaintyBasis::stated ? infinity : estimate.degrees_of_freedom());
  }
  return result;
}

Deductions deduce(const Estimate& estimate, double level, const std::vector<std::string>& definitions,
                  const std::vector<std::string>& hypotheses) {
  Deductions made;
  for (const OriginalParameter& original : estimate.model().original_parameters()) {
    // What nobody asked for is left away where it has no value, a half-life of a growing curve say.
    if (!std::isfinite(ParameterExpression(estimate, original.expression).at(estimate.parameters()))) continue;
    made.derived.push_back(derive(estimate, fmt::format("{} = {}", original.name, original.expression), level));
  }
  for (const std::string& definition : definitions) made.derived.push_back(derive(estimate, definition, level));
  for (const std::string& hypothesis : hypotheses) made.hypotheses.push_back(test_hypothesis(estimate, hypothesis));
  return made;
}

}  // namespace truecurve
