// The table of candidates.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/compare/compare.hpp>

#include "../base/matrices.hpp"
#include "../base/names.hpp"
#include "../model/model_data.hpp"
#include "candidate.hpp"
#include "common_predictors.hpp"
#include "same_observations.hpp"
#include "suggestion.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>
#include <tuple>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

// Curves this near each other, as a share of their size, are one curve.
constexpr double one_curve = 1e-7;

std::string spread_text(const Spread& spread) {
  return spread.power() == 0     ? "constant"
         : spread.power() == 1   ? "proportional"
         : spread.power() == 0.5 ? "counts"
                                 : fmt::format("power:{}", shortest(spread.power()));
}

std::string default_name(const Fit& fit) {
  const Model& model = fit.model();
  const bool is_named = model.kind() != "written" && model.kind() != "function";
  std::string name = is_named ? model.kind() : model.text();
  if (is_named && model.is_transformed()) name += ", linearized";
  for (const FixedParameter& held : model.fixed()) name += fmt::format(", {} = {}", held.name, shortest(held.value));
  if (fit.spread().is_given()) name += ", spread " + spread_text(fit.spread());
  return name;
}

std::vector<std::string> names_of(std::span<const Fit> fits, const CompareOptions& options) {
  if (options.names.empty()) {
    std::vector<std::string> names;
    for (const Fit& fit : fits) {
      std::string name = default_name(fit);
      int same = 1;
      for (const std::string& other : names) same += other == name || other.starts_with(name + " (");
      names.push_back(same > 1 ? fmt::format("{} ({})", name, same) : name);
    }
    return names;
  }
  const std::set<std::string> different(options.names.begin(), options.names.end());
  if (options.names.size() != fits.size() || different.size() != fits.size() || different.contains("")) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} fits need as many different names, and {} are given", fits.size(),
                                        different.size() - different.count("")),
                 .subject = "names",
                 .remedy = "name every candidate differently"});
  }
  return options.names;
}

// The suggested candidate is judged as it would be alone; all others together get a hundredth, so that clean data have
// hardly more remarks than a single fit.
void add_checks(Comparison& comparison) {
  constexpr double others_in_all = 0.01;
  const std::optional<std::size_t> suggested = detail::suggested_place(comparison);
  std::vector<Candidate>& all = comparison.candidates;
  const auto others = static_cast<double>(std::max<std::size_t>(1, all.size() - 1));
  for (std::size_t i = 0; i < all.size(); ++i) {
    for (const Check& check : all[i].checks) {
      const bool speaks = i == suggested ? check.is_significant() : check.family_p <= others_in_all / others;
      if (speaks)
        all[i].remarks.push_back({RemarkCode::check, fmt::format("{} ({})", name(check.kind), p_equals(check.p))});
    }
  }
}

bool is_same_curve(const Candidate& a, const Candidate& b) {
  if (a.parameters != b.parameters) return false;
  const VectorXd one = as_eigen(a.fit.fitted_response());
  const VectorXd other = as_eigen(b.fit.fitted_response());
  const bool same_line = (one - other).cwiseAbs().maxCoeff() <= one_curve * one.cwiseAbs().maxCoeff();
  const bool same_density = (std::isnan(a.log_likelihood) && std::isnan(b.log_likelihood)) ||
                            std::abs(a.log_likelihood - b.log_likelihood) <= 1e-4;
  return same_line && same_density;
}

// In the order given: the first of several equal curves counts.
void remark_on_same_curves(std::vector<Candidate>& candidates) {
  for (std::size_t i = 0; i < candidates.size(); ++i) {
    for (std::size_t j = 0; j < i; ++j) {
      // One whose search failed counts for nothing itself.
      const bool stands = !candidates[j].has(RemarkCode::same_curve) && !candidates[j].has(RemarkCode::not_converged);
      if (!stands || !is_same_curve(candidates[i], candidates[j])) continue;
      candidates[i].remarks.push_back(
          {RemarkCode::same_curve, fmt::format("the same curve as {}: counted once", candidates[j].name)});
      break;
    }
  }
}

bool counts(const Candidate& c) { return !c.has(RemarkCode::not_converged) && !c.has(RemarkCode::same_curve); }

// Best first; what can't be ranked stands behind.
void order(Comparison& comparison) {
  std::vector<Candidate>& all = comparison.candidates;
  const bool any = std::any_of(all.begin(), all.end(),
                               [](const Candidate& c) { return std::isfinite(c.aicc) || c.has(RemarkCode::exact); });
  comparison.ordered_by = any ? "AICc" : "leave-one-out";
  const auto value = [any](const Candidate& c) {
    const double by = c.has(RemarkCode::exact) ? -infinity : any ? c.aicc : c.leave_one_out.size.root_mean_square;
    return std::isnan(by) ? infinity : by;
  };
  std::stable_sort(all.begin(), all.end(), [&](const Candidate& a, const Candidate& b) {
    if (a.has(RemarkCode::not_converged) != b.has(RemarkCode::not_converged)) return b.has(RemarkCode::not_converged);
    if (value(a) != value(b)) return value(a) < value(b);
    return a.parameters < b.parameters;
  });
}

void weigh(std::vector<Candidate>& all) {
  double best = infinity;
  double sum = 0;
  for (const Candidate& c : all) {
    if (counts(c) && std::isfinite(c.aicc)) best = std::min(best, c.aicc);
  }
  const auto exact =
      std::find_if(all.begin(), all.end(), [](const Candidate& c) { return counts(c) && c.has(RemarkCode::exact); });
  if (exact != all.end()) {
    exact->weight = 1;
    return;
  }
  for (Candidate& c : all) {
    if (!std::isfinite(c.aicc) || !std::isfinite(best)) continue;
    c.delta_aicc = c.aicc - best;
    if (counts(c)) sum += c.weight = std::exp(-c.delta_aicc / 2);
  }
  for (Candidate& c : all) c.weight /= sum;
}

// Is the highest power of a polynomial zero? NaN for any other model.
double highest_power_p(const Fit& fit) {
  if (!fit.model().is_linear()) return not_a_number;
  const auto p_of = [&fit](std::ptrdiff_t at) {
    return parameter_intervals(fit.estimate(), 0.95)[static_cast<std::size_t>(at)].p;
  };
  if (fit.model().is_straight_line()) return p_of(fit.model().constant_index() == 0 ? 1 : 0);
  const int degree = fit.model().polynomial_degree();
  if (degree < 1) return not_a_number;
  const auto& powers = detail::data_of(fit.model()).bound->powers;
  return p_of(std::find(powers.begin(), powers.end(), degree) - powers.begin());
}

void find_nested(Comparison& comparison) {
  std::vector<Candidate>& all = comparison.candidates;
  for (std::size_t larger = 0; larger < all.size(); ++larger) {
    Candidate& c = all[larger];
    std::size_t closest = 0;
    for (std::size_t smaller = 0; smaller < all.size(); ++smaller) {
      const Candidate& s = all[smaller];
      if (c.has(RemarkCode::exact) || s.has(RemarkCode::exact) || c.has(RemarkCode::not_converged) ||
          s.has(RemarkCode::not_converged))
        continue;
      if (s.has(RemarkCode::same_curve) || c.has(RemarkCode::same_curve)) continue;
      if (!is_special_case(s.fit, c.fit)) continue;
      comparison.nested_tests.push_back({smaller, larger, nested_test(s.fit, c.fit)});
      if (s.parameters <= closest) continue;
      closest = s.parameters;
      c.added_p = comparison.nested_tests.back().test.p;
      c.added_to = s.name;
    }
    if (closest == 0) c.added_p = highest_power_p(c.fit);
  }
  // From the smallest up, each beside its nearest special case first.
  std::stable_sort(comparison.nested_tests.begin(), comparison.nested_tests.end(),
                   [&all](const NestedPair& a, const NestedPair& b) {
                     const auto key = [&all](const NestedPair& pair) {
                       return std::tuple(all[pair.larger].parameters, pair.larger,
                                         all[pair.larger].parameters - all[pair.smaller].parameters);
                     };
                     return key(a) < key(b);
                   });
}

void explain(Comparison& comparison) {
  const auto& all = comparison.candidates;
  for (std::size_t i = 0; i < all.size(); ++i) {
    for (std::size_t j = 0; j < all.size(); ++j) {
      if (all[i].has(RemarkCode::not_converged) || all[j].has(RemarkCode::not_converged) ||
          all[i].has(RemarkCode::same_curve))
        continue;
      // Two routes differ in the route only: the spread is that of both.
      if (all[i].fit.spread() != all[j].fit.spread()) continue;
      if (auto pair = explain_routes(all[i].fit, all[j].fit)) comparison.routes.push_back({i, j, std::move(*pair)});
    }
  }
}

// The rows of observations that are, or are not, among those held out.
std::vector<std::size_t> rows_that(const Observations& observations, const HoldOut& hold_out, bool are_held_out) {
  const std::set<std::size_t> held(hold_out.rows.begin(), hold_out.rows.end());
  std::vector<std::size_t> rows;
  for (const std::uint32_t row : observations.source_rows()) {
    if (held.contains(row) == are_held_out) rows.push_back(row);
  }
  return rows;
}

void require_both_kinds(const Observations& observations, const HoldOut& hold_out) {
  const std::size_t held = rows_that(observations, hold_out, true).size();
  if (held > 0 && held < observations.size()) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = held == 0 ? fmt::format("'{}' holds out no row that has values", hold_out.reason)
                                    : fmt::format("'{}' holds out every row", hold_out.reason),
               .subject = "hold-out",
               .value = hold_out.reason,
               .remedy = "choose a condition that is true for some of the rows"});
}

}  // namespace

std::string_view name(RemarkCode code) noexcept {
  return detail::name_among(
      std::array<std::string_view, 10>{"not_converged", "at_limit", "open_end", "place_outside_data", "curvature",
                                       "not_told_apart", "exact", "few_rows", "same_curve", "check"},
      code);
}

bool Candidate::has(RemarkCode code) const noexcept {
  return std::any_of(remarks.begin(), remarks.end(), [code](const CandidateRemark& r) { return r.code == code; });
}

Comparison compare(std::span<const Fit> fits, const CompareOptions& options) {
  detail::require_same_observations(fits);
  const std::vector<std::string> names = names_of(fits, options);
  Comparison comparison{.folds = options.folds, .seed = options.seed};
  for (std::size_t i = 0; i < fits.size(); ++i)
    comparison.candidates.push_back(detail::candidate_of(names[i], fits[i], options));
  remark_on_same_curves(comparison.candidates);
  order(comparison);
  weigh(comparison.candidates);
  find_nested(comparison);
  explain(comparison);
  add_checks(comparison);
  comparison.suggestion = detail::suggest(comparison);
  if (comparison.ordered_by == "leave-one-out") {
    comparison.remarks.push_back(fmt::format(
        "{} {} too few for the AICc of any candidate (it needs two more than parameters, the scatter counted as one); "
        "the order is that of the leave-one-out error.",
        plural(fits.front().size(), "row"), fits.front().size() == 1 ? "is" : "are"));
  }
  return comparison;
}

Comparison compare_candidates(std::span<const CandidateModel> candidates, const CompareOptions& options,
                              const HoldOut& hold_out, UnsuitableRows unsuitable) {
  std::vector<CandidateModel> fitted = detail::with_common_predictors(candidates);
  std::vector<std::pair<std::string, Observations>> held;
  if (!hold_out.rows.empty() || !hold_out.reason.empty()) {
    for (CandidateModel& candidate : fitted) {
      const Observations all = candidate.observations;
      require_both_kinds(all, hold_out);
      held.emplace_back(candidate.name, all.without(rows_that(all, hold_out, false), "fitted"));
      candidate.observations = all.without(rows_that(all, hold_out, true), "held out: " + hold_out.reason);
    }
  }
  FittedCandidates made = fit_candidates(fitted, unsuitable);
  CompareOptions named = options;
  named.names = made.names;
  Comparison comparison = compare(made.fits, named);
  comparison.failed = std::move(made.failed);
  comparison.not_common = std::move(made.not_common);
  comparison.hold_out = hold_out.reason;
  for (const Candidate& candidate : comparison.candidates) {
    for (const auto& [name, rows] : held) {
      if (name == candidate.name) comparison.held_out.push_back({name, truecurve::held_out(candidate.fit, rows)});
    }
  }
  return comparison;
}

}  // namespace truecurve
