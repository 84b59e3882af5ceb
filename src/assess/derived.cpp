// The law of propagation of uncertainty by exact derivatives, and its check by Monte Carlo.
#include <truecurve/assess/derived.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "../model/letters.hpp"
#include "../model/parser.hpp"
#include "../model/unit_rules.hpp"

#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

#include <Eigen/Core>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve {
namespace {

using detail::Graph;
using detail::NodeId;
using Eigen::Index;

// So many draws place the limits of a 95 % interval within about a fiftieth of the half width; five times that is no
// longer chance.
constexpr int first_draws = 20'000;
constexpr double noticeable_difference = 0.1;
// For an interval that is quoted: 10^4/(1 - level) draws (JCGM 101:2008, 7.2.1), within bounds.
constexpr double draws_for_level = 1e4;
constexpr double most_draws = 1e6;
constexpr std::uint64_t monte_carlo_seed = 1;

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
    numbers_.resize(static_cast<std::size_t>(node_) + 1);
    return evaluate(node_, parameters, numbers_);
  }

  [[nodiscard]] VectorXd gradient() { return gradient_of(node_); }

  // A divisor, and what is divided by it where the whole expression is that quotient.
  struct Part {
    double value;
    VectorXd gradient;
  };
  struct Quotient {
    std::optional<Part> numerator;
    Part divisor;
  };

  [[nodiscard]] std::vector<Quotient> quotients() {
    std::vector<bool> is_used(static_cast<std::size_t>(node_) + 1, false);
    is_used.back() = true;
    std::vector<Quotient> found;
    const double sign = graph_.at(node_).op == detail::Op::negate ? -1 : 1;
    const NodeId whole = sign < 0 ? graph_.at(node_).a : node_;
    for (NodeId id = node_; id >= 0; --id) {
      if (!is_used[static_cast<std::size_t>(id)]) continue;
      const detail::Node node = graph_.at(id);  // a copy: derivatives make the graph grow
      for (const NodeId child : {node.a, node.b, node.c}) {
        if (child >= 0) is_used[static_cast<std::size_t>(child)] = true;
      }
      const bool is_reciprocal = node.op == detail::Op::integer_power && node.value < 0;
      if (node.op != detail::Op::divide && !is_reciprocal) continue;
      Quotient quotient{std::nullopt, part_of(is_reciprocal ? node.a : node.b)};
      if (quotient.divisor.gradient.isZero(0)) continue;
      if (id == whole && !is_reciprocal) {
        quotient.numerator = part_of(node.a);
        quotient.numerator->value *= sign;
        quotient.numerator->gradient *= sign;
      } else if (id == whole && node.value == -1) {
        quotient.numerator = Part{sign, VectorXd::Zero(as_eigen(estimate_.parameters()).size())};
      }
      found.push_back(std::move(quotient));
    }
    return found;
  }

 private:
  [[nodiscard]] Part part_of(NodeId node) {
    std::vector<double> numbers(static_cast<std::size_t>(node) + 1, 0.0);
    return {evaluate(node, as_eigen(estimate_.parameters()), numbers), gradient_of(node)};
  }

  [[nodiscard]] VectorXd gradient_of(NodeId node) {
    VectorXd g = VectorXd::Zero(as_eigen(estimate_.parameters()).size());
    for (std::size_t i = 0; i < index_.size(); ++i) {
      if (index_[i] < 0) continue;
      const NodeId slope = graph_.derivative(node, static_cast<int>(i));
      std::vector<double> numbers(static_cast<std::size_t>(slope) + 1, 0.0);
      g[index_[i]] = evaluate(slope, as_eigen(estimate_.parameters()), numbers);
    }
    return g;
  }

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
  mutable std::vector<double> numbers_;  // of the nodes, kept from one evaluation to the next
};

void require_finite(double value, std::string_view text) {
  if (std::isfinite(value)) return;
  throw Error({.code = ErrorCode::not_finite,
               .message = fmt::format("'{}' is {} at the estimates", text, value),
               .subject = std::string(text),
               .value = fmt::format("{}", value),
               .remedy = "write an expression that is defined there"});
}

// Draws of the parameters: normal for stated uncertainties, else multivariate t, a normal over the root of an
// independent chi-squared/dof.
class ParameterDraws {
 public:
  explicit ParameterDraws(const Estimate& estimate)
      : estimate_(estimate),
        root_(as_eigen(estimate.standard_uncertainties()).asDiagonal() *
              detail::cholesky_factor(detail::parts_of(estimate).correlation)) {}

  /// The same vector with new values every time.
  [[nodiscard]] const VectorXd& next() {
    random_.fill_normal({z_.data(), static_cast<std::size_t>(z_.size())});
    const double dof = estimate_.degrees_of_freedom();
    const double stretch = estimate_.has_known_scale() ? 1 : std::sqrt(dof / random_.chi_squared(dof));
    drawn_ = as_eigen(estimate_.parameters());
    for (Index j = 0; j < z_.size(); ++j) drawn_ += stretch * z_[j] * root_.col(j);
    return drawn_;
  }

 private:
  const Estimate& estimate_;
  MatrixXd root_;
  VectorXd z_ = VectorXd(as_eigen(estimate_.parameters()).size());
  VectorXd drawn_;
  RandomNumbers random_{monte_carlo_seed};
};

// What an expression goes to on the straight way from the estimates to parameters at which it is not defined: the value
// at the border, or an infinite one where it grows without bound there, as a logarithm does.
double limit_towards(const ParameterExpression& expression, const VectorXd& from, const VectorXd& to) {
  const auto at = [&](double share) { return expression.at(from + share * (to - from)); };
  double inside = 0;
  double outside = 1;
  for (int i = 0; i < 52; ++i) {
    const double middle = (inside + outside) / 2;
    (std::isnan(at(middle)) ? outside : inside) = middle;
  }
  // Each thousandth of the way closer changes a converging value by less than before, a logarithm by as much.
  constexpr double still_moving = 0.5;
  const double centre = at(0);
  const double far = at(inside * (1 - 1e-6));
  const double near = at(inside * (1 - 1e-9));
  const double nearest = at(inside * (1 - 1e-12));
  const bool converges = std::abs(nearest - near) <= still_moving * std::abs(near - far);
  return converges ? nearest : std::copysign(infinity, nearest - centre);
}

struct MonteCarlo {
  Interval interval{};
  double without_value = 0;
};

MonteCarlo monte_carlo(const Estimate& estimate, const ParameterExpression& expression, Level level, int draws) {
  ParameterDraws parameters(estimate);
  std::vector<double> values;
  values.reserve(static_cast<std::size_t>(draws));
  int undefined = 0;
  for (int draw = 0; draw < draws; ++draw) {
    const VectorXd& theta = parameters.next();
    double value = expression.at(theta);
    if (std::isnan(value)) {
      ++undefined;
      value = limit_towards(expression, as_eigen(estimate.parameters()), theta);
    }
    values.push_back(value);
  }
  const auto quantile = [&](double p) {
    const auto at = values.begin() + static_cast<std::ptrdiff_t>(p * static_cast<double>(values.size() - 1));
    std::nth_element(values.begin(), at, values.end());
    return *at;
  };
  const double low = quantile(0.5 - level / 2);
  return {{low, quantile(0.5 + level / 2)}, static_cast<double>(undefined) / draws};
}

// Of a quotient n/d whose divisor may be 0, the values q at which (n - q d)² > k² u²(n - q d): between two rays, or
// none (Fieller 1954).
Interval excluded_from(const Estimate& estimate, const ParameterExpression::Part& n, const ParameterExpression::Part& d,
                       double factor) {
  const double un = estimate.standard_uncertainty_along(n.gradient);
  const double ud = estimate.standard_uncertainty_along(d.gradient);
  // In units of the uncertainties; of a numerator that is known in its own.
  const double unit = un > 0 ? un : std::abs(n.value);
  if (!(unit > 0)) return {};
  const auto u = as_eigen(estimate.standard_uncertainties());
  const double r = un > 0 ? (n.gradient.cwiseProduct(u) / un)
                                .dot(detail::parts_of(estimate).correlation * (d.gradient.cwiseProduct(u) / ud))
                          : 0;
  const double k2 = factor * factor;
  const double top = n.value / unit;
  const double bottom = d.value / ud;
  const double a = bottom * bottom - k2;
  const double b = top * bottom - k2 * r;
  const double c = top * top - (un > 0 ? k2 : 0);
  const double root = b * b - a * c;
  if (!(root > 0) || !(a < 0)) return {};
  const double first = (b + std::sqrt(root)) / a;
  const double second = (b - std::sqrt(root)) / a;
  return {std::min(first, second) * unit / ud, std::max(first, second) * unit / ud};
}

// Whether two intervals differ noticeably against a half width; an infinite limit differs.
bool differ(const Interval& one, const Interval& other, double half) {
  const double apart = std::max(std::abs(one.low - other.low), std::abs(one.high - other.high));
  return !(apart <= noticeable_difference * half);
}

std::string_view trimmed(std::string_view text) {
  while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
  while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
  return text;
}

// Where a hypothesis compares its sides with < or >: outside brackets, where no = stands; npos for an equation.
std::size_t inequality_in(std::string_view text) {
  int depth = 0;
  std::size_t found = std::string_view::npos;
  for (std::size_t at = 0; at < text.size(); ++at) {
    const char c = text[at];
    depth += c == '(' ? 1 : c == ')' ? -1 : 0;
    if (depth != 0) continue;
    const bool is_sign = c == '<' || c == '>';
    if (is_sign && found == std::string_view::npos) found = at;
    const bool belongs_to_sign = at > 0 && (text[at - 1] == '<' || text[at - 1] == '>');
    if (c == '=' && !belongs_to_sign) return std::string_view::npos;
  }
  return found;
}

}  // namespace

std::string rays_text(const Interval& excluded) {
  const double scale = (excluded.high - excluded.low) / 20;
  return fmt::format("below {} or above {}", limit_text(excluded.low, scale), limit_text(excluded.high, scale));
}

DerivedQuantity derive(const Estimate& estimate, std::string_view definition, Level level) {
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
  result.value = expression.at(as_eigen(estimate.parameters()));
  require_finite(result.value, result.expression);
  result.unit = detail::unit_rules_of(estimate).of_expression(result.expression).unit;
  const VectorXd g = expression.gradient();
  const double u = estimate.standard_uncertainty_along(g);
  const double factor = estimate.coverage_factor(level);
  if (!std::isfinite(u) || !std::isfinite(factor)) return result;
  result.standard_uncertainty = u;
  const double half = factor * result.standard_uncertainty;
  result.interval = {result.value - half, result.value + half};
  if (!(half > 0)) {
    result.monte_carlo = result.interval;
    return result;
  }
  for (const ParameterExpression::Quotient& quotient : expression.quotients()) {
    const double divisor_half = factor * estimate.standard_uncertainty_along(quotient.divisor.gradient);
    if (!(std::abs(quotient.divisor.value) <= divisor_half)) continue;
    result.is_unbounded = true;
    result.interval = result.monte_carlo = {-infinity, infinity};
    if (quotient.numerator) result.excluded = excluded_from(estimate, *quotient.numerator, quotient.divisor, factor);
  }
  if (result.is_unbounded) return result;
  MonteCarlo drawn = monte_carlo(estimate, expression, level, first_draws);
  result.curved = differ(drawn.interval, result.interval, half);
  if (result.curved)
    drawn =
        monte_carlo(estimate, expression, level, static_cast<int>(std::min(most_draws, draws_for_level / (1 - level))));
  result.monte_carlo = drawn.interval;
  result.without_value = drawn.without_value;
  return result;
}

HypothesisTest test_hypothesis(const Estimate& estimate, std::string_view hypothesis) {
  Graph graph;
  std::string text = detail::plain_formula(hypothesis);
  // A strict or a weak inequality is the same statement about numbers that are nowhere exactly equal.
  double side = 0;
  if (const auto sign = inequality_in(text); sign != std::string::npos) {
    side = text[sign] == '>' ? 1 : -1;
    const bool weak = text.compare(sign + 1, 1, "=") == 0;
    text.replace(sign, weak ? 2 : 1, "=");
  }
  const detail::Equation equation = detail::parse_equation(text, graph);
  ParameterExpression expression(estimate, equation, std::move(graph));
  HypothesisTest result;
  result.hypothesis = trimmed(hypothesis);
  result.difference = expression.at(as_eigen(estimate.parameters()));
  require_finite(result.difference, hypothesis);
  const VectorXd g = expression.gradient();
  result.standard_uncertainty = estimate.standard_uncertainty_along(g);
  if (result.standard_uncertainty > 0) {
    result.t = result.difference / result.standard_uncertainty;
    result.p = student_t_two_sided(result.t, estimate.scale_degrees_of_freedom());
    result.is_one_sided = side != 0;
    if (side != 0) result.p = side * result.t > 0 ? result.p / 2 : 1 - result.p / 2;
  }
  return result;
}

Deductions deduce(const Estimate& estimate, Level level, const std::vector<std::string>& definitions,
                  const std::vector<std::string>& hypotheses) {
  Deductions made;
  // Where the outcomes are separated the parameters say nothing of what follows from them.
  const bool is_step = estimate.is_counted() && estimate.open_end();
  for (const OriginalParameter& original : estimate.model().original_parameters()) {
    if (is_step) break;
    // What nobody asked for is omitted where it has no value, a half-life of a growing curve say.
    const double value = ParameterExpression(estimate, original.expression).at(as_eigen(estimate.parameters()));
    if (!std::isfinite(value) || (original.only_positive && !(value > 0))) continue;
    made.derived.push_back(derive(estimate, fmt::format("{} = {}", original.name, original.expression), level));
  }
  for (const std::string& definition : definitions) made.derived.push_back(derive(estimate, definition, level));
  for (const std::string& hypothesis : hypotheses) made.hypotheses.push_back(test_hypothesis(estimate, hypothesis));
  return made;
}

}  // namespace truecurve
