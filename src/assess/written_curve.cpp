// Builds the formulas, computes them and writes them.
#include "written_curve.hpp"

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>

#include "../fit/estimate_parts.hpp"
#include "../model/model_data.hpp"
#include "../model/transform.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// Names that no user can write, for what stands in the middle of a formula.
constexpr const char* curve_name = "\x1f(curve)";
constexpr const char* variance_name = "\x1f(variance)";
constexpr const char* one_name = "\x1f(one limit)";
constexpr const char* other_name = "\x1f(other limit)";

// Shares below which numbers are what rounding left.
constexpr double negligible = 1e-12;

Error no_formula(const std::string& message, const std::string& subject, const std::string& remedy) {
  return Error({.code = ErrorCode::not_supported, .message = message, .subject = subject, .remedy = remedy});
}

}  // namespace

WrittenCurve::WrittenCurve(const Estimate& estimate) : estimate_(estimate) {
  const ModelData& data = data_of(estimate.model());
  if (data.function) {
    throw no_formula(fmt::format("'{}' is a function given as code and has no equation", data.text), data.text,
                     "write the model as an equation");
  }
  graph_ = data.graph;
  right_ = data.right;
  std::vector<double> held(graph_.names().size(), not_a_number);
  for (const FixedParameter& fixed : data.fixed) held[static_cast<std::size_t>(index_of(fixed.name))] = fixed.value;
  if (!data.fixed.empty()) right_ = graph_.with_values(right_, held);
  if (data.bound->transformed)
    inverse_ = inverse_of(graph_, data.left, graph_.index_of(data.response), left_value_name);
  for (std::size_t j = 0; j < estimate.parameter_names().size(); ++j)
    numbers_.push_back({estimate.parameter_names()[j], estimate.parameters()[j]});
}

WrittenFormula WrittenCurve::curve() const { return responded(right_); }

WrittenFormula WrittenCurve::responded(NodeId left) const {
  if (inverse_ < 0) return {left};
  return {inverse_, {{left_value_name, left}}};
}

NodeId WrittenCurve::number(double value) {
  numbers_.push_back({fmt::format("\x1f{}", numbers_.size()), value});
  return graph_.named(numbers_.back().name);
}

// The largest value of a column at the ends of the data.
double WrittenCurve::size_of(NodeId column) const {
  std::vector<double> numbers;
  for (const WrittenValue& written : numbers_) numbers.push_back(written.value);
  std::vector<double> low;
  std::vector<double> high;
  for (const Range& range : estimate_.ranges()) {
    low.push_back(range.low);
    high.push_back(range.high);
  }
  double size = 0;
  for (const std::vector<double>& point : {low, high}) {
    const double at = std::abs(value({column}, numbers, point));
    if (at > size) size = at;  // not where there is none
  }
  return size;
}

// The columns of the working form less their centres: derivatives of the curve by the parameters, or Chebyshev's
// polynomials.
std::vector<NodeId> WrittenCurve::centred_columns() {
  const EstimateParts& parts = parts_of(estimate_);
  const BoundModel& bound = *data_of(parts.model).bound;
  std::vector<NodeId> columns;
  if (bound.linear && parts.working.half_width > 0)
    columns = polynomial_columns();
  else
    for (const std::string& name : estimate_.parameter_names())
      columns.push_back(graph_.derivative(right_, index_of(name)));
  for (std::size_t j = 0; j < columns.size(); ++j) {
    const double centre = parts.working.centre[static_cast<Eigen::Index>(j)];
    if (std::abs(centre) > negligible * size_of(columns[j]))
      columns[j] = graph_.make(Op::subtract, columns[j], number(centre));
  }
  return columns;
}

std::vector<NodeId> WrittenCurve::polynomial_columns() {
  const EstimateParts& parts = parts_of(estimate_);
  const BoundModel& bound = *data_of(parts.model).bound;
  const std::string& predictor = bound.predictors[static_cast<std::size_t>(bound.polynomial_predictor)];
  const NodeId about = graph_.make(Op::subtract, graph_.named(predictor), number(parts.working.middle));
  const NodeId t = graph_.make(Op::divide, about, number(parts.working.half_width));
  // T_d in powers of t: the coefficients of 2 t T_(d-1) - T_(d-2) are whole numbers.
  std::vector<std::vector<double>> chebyshev = {{1}, {0, 1}};
  while (chebyshev.size() < bound.powers.size()) {
    const std::vector<double>& last = chebyshev.back();
    std::vector<double> next(last.size() + 1, 0);
    for (std::size_t k = 0; k < last.size(); ++k) next[k + 1] = 2 * last[k];
    const std::vector<double>& before = chebyshev[chebyshev.size() - 2];
    for (std::size_t k = 0; k < before.size(); ++k) next[k] -= before[k];
    chebyshev.push_back(next);
  }
  std::vector<NodeId> columns;
  for (const int power : bound.powers) {
    const std::vector<double>& coefficients = chebyshev[static_cast<std::size_t>(power)];
    NodeId sum = graph_.constant(0);
    for (std::size_t k = coefficients.size(); k-- > 0;) {
      if (coefficients[k] == 0) continue;
      const NodeId raised = k == 0 ? graph_.constant(1) : graph_.integer_power(t, static_cast<int>(k));
      sum = graph_.make(Op::add, sum, graph_.make(Op::multiply, graph_.constant(coefficients[k]), raised));
    }
    columns.push_back(sum);
  }
  return columns;
}

// Those of scale² ||Kᵀ (f - c)||², one for every column of K that is not zero.
std::vector<NodeId> WrittenCurve::parts_of_u() {
  const EstimateParts& parts = parts_of(estimate_);
  const std::vector<NodeId> columns = centred_columns();
  std::vector<NodeId> made;
  for (Eigen::Index i = 0; i < static_cast<Eigen::Index>(columns.size()); ++i) {
    NodeId part = graph_.constant(0);
    double sign = 0;  // a part may be turned around: it begins without a minus
    for (Eigen::Index j = 0; j < static_cast<Eigen::Index>(columns.size()); ++j) {
      const double entry = parts.working.inverse_factor(j, i);
      // What rounding leaves of a zero would only be read.
      if (std::abs(entry) <= negligible * parts.working.inverse_factor.row(j).cwiseAbs().maxCoeff()) continue;
      if (sign == 0) sign = entry < 0 ? -1 : 1;
      const NodeId factor = number(sign * parts.scale * entry);
      part = graph_.make(Op::add, part, graph_.make(Op::multiply, factor, columns[static_cast<std::size_t>(j)]));
    }
    if (sign != 0) made.push_back(part);
  }
  return made;
}

// The standard deviation of a new observation as a fit lets it follow from the mean; -1 where it doesn't.
NodeId WrittenCurve::scatter(const Scatter& scatter, NodeId mean) {
  const auto times = [&](double scale, NodeId of) { return graph_.make(Op::multiply, number(scale), of); };
  switch (scatter.form) {
    case Scatter::Form::constant: return number(scatter.scale);
    case Scatter::Form::percent: return times(scatter.scale / 100, graph_.make(Op::abs, mean));
    case Scatter::Form::power:
      if (scatter.offset != 0) return -1;
      if (scatter.power == 0) return number(scatter.scale);
      return times(scatter.scale, graph_.make(Op::power, graph_.make(Op::abs, mean), graph_.constant(scatter.power)));
    default: return -1;
  }
}

// The curve less and plus a half width on the scale of the left side.
std::pair<WrittenFormula, WrittenFormula> WrittenCurve::limits(NodeId half_width) {
  return {responded(graph_.make(Op::subtract, right_, half_width)),
          responded(graph_.make(Op::add, right_, half_width))};
}

// Shares and rates: limits made on the scale without ends. With h = k u, from ln(m) ± h/m follows m exp(±h/m), from
// ln(m/(1 - m)) ± h/(m (1 - m)) follows m/(m + (1 - m) exp(∓h/(m (1 - m)))).
std::pair<WrittenFormula, WrittenFormula> WrittenCurve::counted_limits(NodeId half_width) {
  const NodeId m = graph_.named(curve_name);
  const bool is_share = estimate_.observation_model().kind() == ResponseKind::events;
  const NodeId other = graph_.make(Op::subtract, graph_.constant(1), m);
  const NodeId spread = is_share ? graph_.make(Op::multiply, m, other) : m;
  const NodeId moved = graph_.make(Op::divide, half_width, spread);
  const auto limit = [&](bool upper) -> WrittenFormula {
    const NodeId grown = graph_.make(Op::exp, upper != is_share ? moved : graph_.make(Op::negate, moved));
    if (!is_share) return {graph_.make(Op::multiply, m, grown), {{curve_name, right_}}};
    const NodeId whole = graph_.make(Op::add, m, graph_.make(Op::multiply, other, grown));
    return {graph_.make(Op::divide, m, whole), {{curve_name, right_}}};
  };
  return {limit(false), limit(true)};
}

WrittenBand WrittenCurve::band(Level level) {
  const EstimateParts& parts = parts_of(estimate_);
  const ResponseKind kind = parts.observation_model.kind();
  const bool bounded = estimate_.is_counted() && inverse_ < 0;
  if (parts.open_end && !parts.observation_model.is_measured()) {
    throw no_formula("the curve is a step whose uncertainty is not known, and has no band", "band", "omit the band");
  }
  if (bounded && kind != ResponseKind::events && kind != ResponseKind::counts) {
    throw no_formula("the band of a response whose distribution is given as code has no formula", "band",
                     "ask for the band at places");
  }
  const NodeId factor = number(estimate_.coverage_factor(level));
  const std::vector<NodeId> parts_of_it = parts_of_u();
  NodeId squares = graph_.constant(0);
  for (const NodeId part : parts_of_it) squares = graph_.make(Op::add, squares, graph_.integer_power(part, 2));
  // A single part is its own root, and a number alone (they are all turned to be positive) needs no bars.
  const bool is_number = parts_of_it.size() == 1 && graph_.at(parts_of_it[0]).op == Op::name;
  const NodeId u = is_number                 ? parts_of_it[0]
                   : parts_of_it.size() == 1 ? graph_.make(Op::abs, parts_of_it[0])
                                             : graph_.make(Op::sqrt, squares);
  const auto wide = [&](NodeId uncertainty) { return graph_.make(Op::multiply, factor, uncertainty); };
  WrittenBand made;
  if (inverse_ < 0) {
    made.standard_uncertainty = {u};
  } else {
    const NodeId slope = graph_.derivative(inverse_, graph_.index_of(left_value_name));
    const NodeId steepness = graph_.is_positive(slope) ? slope : graph_.make(Op::abs, slope);
    made.standard_uncertainty = {
        graph_.make(Op::multiply, steepness, graph_.make(Op::sqrt, graph_.named(variance_name))),
        {{left_value_name, right_}, {variance_name, squares}}};
  }
  made.limits = bounded ? counted_limits(wide(u)) : limits(wide(u));
  if (parts.new_observation.form == Scatter::Form::left_side) {
    const NodeId own = graph_.integer_power(number(parts.new_observation.scale), 2);
    made.new_limits = limits(wide(graph_.make(Op::sqrt, graph_.make(Op::add, squares, own))));
    return made;
  }
  const NodeId mean = inverse_ < 0 ? right_ : graph_.named(curve_name);
  const NodeId own = scatter(parts.new_observation, mean);
  if (own < 0) return made;
  WrittenFormula limit;
  NodeId of_curve = squares;
  if (inverse_ >= 0) {
    const NodeId slope = graph_.derivative(inverse_, graph_.index_of(left_value_name));
    of_curve = graph_.make(Op::multiply, graph_.integer_power(slope, 2), graph_.named(variance_name));
    limit.where = {{left_value_name, right_}, {variance_name, squares}, {curve_name, inverse_}};
  }
  const NodeId half = wide(graph_.make(Op::sqrt, graph_.make(Op::add, of_curve, graph_.integer_power(own, 2))));
  made.new_limits = {limit, limit};
  made.new_limits->first.node = graph_.make(Op::subtract, mean, half);
  made.new_limits->second.node = graph_.make(Op::add, mean, half);
  return made;
}

std::pair<WrittenFormula, WrittenFormula> WrittenCurve::in_order(
    const std::pair<WrittenFormula, WrittenFormula>& formulas) {
  WrittenFormula both = formulas.first;
  both.where.emplace_back(one_name, formulas.first.node);
  both.where.insert(both.where.end(), formulas.second.where.begin(), formulas.second.where.end());
  both.where.emplace_back(other_name, formulas.second.node);
  const NodeId one = graph_.named(one_name);
  const NodeId other = graph_.named(other_name);
  std::pair<WrittenFormula, WrittenFormula> made{both, both};
  made.first.node = graph_.make(Op::minimum, one, other);
  made.second.node = graph_.make(Op::maximum, one, other);
  return made;
}

double WrittenCurve::value(const WrittenFormula& formula, const std::vector<double>& numbers,
                           const std::vector<double>& point) const {
  std::vector<double> values(graph_.names().size(), not_a_number);
  // A predictor may stand on the left side only, or nowhere.
  const auto set = [&](const std::string& name, double value) {
    const auto at = static_cast<std::size_t>(index_of(name));
    if (at < values.size()) values[at] = value;
  };
  for (std::size_t j = 0; j < numbers.size(); ++j) set(numbers_[j].name, numbers[j]);
  for (std::size_t k = 0; k < point.size(); ++k) set(estimate_.model().predictors()[k], point[k]);
  for (const auto& [name, node] : formula.where) set(name, node_value(node, values));
  return node_value(formula.node, values);
}

double WrittenCurve::node_value(NodeId root, const std::vector<double>& values) const {
  std::vector<double> numbers(static_cast<std::size_t>(root) + 1, 0.0);
  const std::vector<bool> needed = graph_.beneath(std::array{root});
  for (NodeId id = 0; id <= root; ++id) {
    if (!needed[static_cast<std::size_t>(id)]) continue;
    const Node& node = graph_.at(id);
    const auto number = [&](NodeId child) { return child < 0 ? 0.0 : numbers[static_cast<std::size_t>(child)]; };
    numbers[static_cast<std::size_t>(id)] = node.op == Op::name
                                                ? values[static_cast<std::size_t>(node.name)]
                                                : apply(node, number(node.a), number(node.b), number(node.c));
  }
  return numbers.back();
}

std::string WrittenCurve::text(const WrittenFormula& formula, const FormulaStyle& style) const {
  std::vector<std::pair<std::string, WrittenName>> inner;
  FormulaStyle around = style;
  around.name_of = [&](const std::string& name) {
    // A name may stand for one node and later for another.
    const auto known =
        std::find_if(inner.rbegin(), inner.rend(), [&](const auto& entry) { return entry.first == name; });
    return known == inner.rend() ? style.name_of(name) : known->second;
  };
  for (const auto& [name, node] : formula.where) inner.emplace_back(name, written(graph_, node, around));
  std::string made = written(graph_, formula.node, around).text;
  // The writer cuts what has grown beyond all sense.
  const bool is_cut = made.find("...") != std::string::npos;
  constexpr std::size_t longest_in_a_cell = 8192;
  if (is_cut || (style.language == FormulaLanguage::spreadsheet && made.size() >= longest_in_a_cell)) {
    throw no_formula(is_cut ? "the formula with its numbers is too long to be written out"
                            : "the formula with its numbers is longer than a cell can hold (8,192 letters)",
                     "equation", "read the curve at places instead");
  }
  return made;
}

}  // namespace truecurve::detail
