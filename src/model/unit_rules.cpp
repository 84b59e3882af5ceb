#include "unit_rules.hpp"

#include "../data/unit_powers.hpp"
#include "model_data.hpp"
#include "parser.hpp"
#include "unit_text.hpp"

#include <algorithm>

namespace truecurve::detail {
namespace {

Exponents stated_unit(const std::string& unit) {
  Exponents made(1);
  for (const UnitPower& power : unit_powers(unit)) made[0].known[power.key] = power.power;
  return made;
}

}  // namespace

UnitRules::UnitRules(const Model& model, const Quantity& response, const std::vector<Quantity>& predictors) {
  const ModelData& data = data_of(model);
  if (data.right < 0 || data.left < 0) return;
  columns_.push_back(response);
  columns_.insert(columns_.end(), predictors.begin(), predictors.end());
  std::erase_if(columns_, [](const Quantity& column) { return column.unit.empty(); });
  stated_ = !columns_.empty();
  if (!stated_) return;

  formal_ = FormalExponents(data.graph, data.right, model.predictors());
  std::vector<Exponents> without_unit;
  const auto add_column = [&](const std::string& name, const std::string& unit) {
    Exponents exponents = stated_unit(unit);
    if (unit.empty()) {
      exponents = UnitWalk::unknown(formal_, unknowns_);
      without_unit.push_back(exponents);
    }
    names_[name] = {std::move(exponents)};
  };
  for (std::size_t k = 0; k < predictors.size(); ++k) add_column(model.predictors()[k], predictors[k].unit);
  add_column(data.response, response.unit);
  for (const std::string& name : model.all_parameters()) names_[name] = {UnitWalk::unknown(formal_, unknowns_)};

  const auto& parameters = model.all_parameters();
  const auto unit_of = [&](const std::string& name, bool is_log_term) {
    UnitOfNode& unit = names_[name];
    const bool is_parameter = std::find(parameters.begin(), parameters.end(), name) != parameters.end();
    if (is_log_term && is_parameter && is_zero(unit.logarithm_of[0])) {
      for (Exponents& of : unit.logarithm_of) of = UnitWalk::unknown(formal_, unknowns_);
    }
    return unit;
  };
  UnitWalk walk(data.graph, unit_of, formal_, unknowns_);
  walk.equate(data.left, data.right);
  solve(walk.rules(), without_unit);
  for (auto& [name, unit] : names_) {
    unit.unit = equations_.reduced(unit.unit);
    for (Exponents& of : unit.logarithm_of) of = equations_.reduced(of);
  }
}

void UnitRules::solve(const CollectedRules& rules, const std::vector<Exponents>& without_unit) {
  for (const UnitRule& rule : rules.strict) {
    if (equations_.add(rule.zero)) continue;
    contradiction_ = rule.broken;
    return;
  }
  // What follows holds where it can.
  for (const std::vector<Exponents>* wished : {&without_unit, &rules.logarithms, &rules.column_exponents,
                                               &rules.simple_factors, &rules.simple_terms, &rules.log_arguments}) {
    for (const Exponents& zero : *wished) (void)equations_.add(zero);
  }
  for (std::size_t round = 0; round < rules.conditional.size(); ++round) {
    for (const auto& [condition, zero] : rules.conditional) {
      if (is_zero(equations_.reduced(condition))) (void)equations_.add(zero);
    }
  }
}

FoundUnit UnitRules::found(const Exponents& exponents, const FormalExponents& formal) const {
  if (!stated_ || !contradiction_.empty()) return {};
  const Exponents known = equations_.reduced(exponents);
  const bool is_known = std::all_of(known.begin(), known.end(), [](const Exponent& e) { return e.unknown.empty(); });
  if (!is_known) return {};
  return unit_text(known, columns_, formal.names);
}

FoundUnit UnitRules::of_parameter(const std::string& name) const {
  const auto at = names_.find(name);
  return at == names_.end() ? FoundUnit{} : found(at->second.unit, formal_);
}

FoundUnit UnitRules::of_expression(std::string_view text) const {
  Graph graph;
  const NodeId root = parse_expression(text, graph);
  FormalExponents formal = formal_;
  std::fill(formal.nodes.begin(), formal.nodes.end(), -1);  // of another graph
  UnitRules extended = *this;
  const auto unit_of = [this](const std::string& name, bool) {
    const auto at = names_.find(name);
    return at == names_.end() ? UnitOfNode{} : at->second;
  };
  UnitWalk walk(graph, unit_of, formal, extended.unknowns_);
  const Exponents unit = walk.of(root);
  extended.solve(walk.rules(), {});
  return extended.found(unit, formal);
}

}  // namespace truecurve::detail
