// Suggests the simplest candidate within the best's reach, and says why.
#include "suggestion.hpp"

#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/intervals.hpp>
#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "../fit/refit.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr double noticeable = 0.05;
// Where a further measurement is looked for: the range of the data and half of it on either side.
constexpr int looked_at = 241;
constexpr double beyond = 0.5;

std::string test_text(const NestedTest& test) {
  return fmt::format("{} = {}, {}", name(test.kind), rounded(test.statistic, 3), p_equals(test.p));
}

const NestedPair* pair_of(const Comparison& comparison, std::size_t smaller, std::size_t larger) {
  for (const NestedPair& pair : comparison.nested_tests) {
    if (pair.smaller == smaller && pair.larger == larger) return &pair;
  }
  return nullptr;
}

// Whether two candidates differ only in what they assume of the scatter.
bool is_one_curve(const Comparison& comparison, std::size_t a, std::size_t b) {
  if (comparison.candidates[a].fit.model().text() == comparison.candidates[b].fit.model().text()) return true;
  return std::any_of(comparison.routes.begin(), comparison.routes.end(), [&](const ExplainedRoutes& routes) {
    return (routes.direct == a && routes.linearized == b) || (routes.direct == b && routes.linearized == a);
  });
}

// A curve with the uncertainties of itself and of a new reading at one point; NaN where it is not defined.
struct CurveReading {
  double value = not_a_number;
  double curve = not_a_number;
  double observation = not_a_number;
};

CurveReading reading_at(const Fit& fit, double x) {
  const Observations& rows = fit.observations();
  const bool varies = fit.estimate().new_observation().form == Scatter::Form::by_row;
  VectorXd own;
  if (varies && rows.has_uncertainties()) own = VectorXd::Constant(1, reading_uncertainties(fit, rows).mean());
  try {
    const BandPoint point = band_at(fit.estimate(), VectorXd::Constant(1, x), level_of_one_uncertainty, own)[0];
    const double factor = 2 * fit.estimate().coverage_factor(level_of_one_uncertainty);
    const double whole = (point.prediction.high - point.prediction.low) / factor;
    const double curve = (point.confidence.high - point.confidence.low) / factor;
    return {point.value, curve, std::sqrt(std::max(0.0, whole * whole - curve * curve))};
  } catch (const Error& error) {
    if (error.code() != ErrorCode::not_finite) throw;
    return {};
  }
}

Separation separation_of(const Candidate& chosen, const Candidate& rival) {
  Separation best{.rival = rival.name};
  const Range range = chosen.fit.estimate().ranges()[0];
  const double width = range.high - range.low;
  double low = range.low - beyond * width;
  // A predictor that is never negative is taken to be one that can't be.
  if (range.low >= 0) low = std::max(low, range.low > 0 ? range.low / 10 : 0.0);
  const double high = range.high + beyond * width;
  for (int i = 0; i < looked_at; ++i) {
    const double x = low + (high - low) * i / (looked_at - 1);
    const CurveReading a = reading_at(chosen.fit, x);
    const CurveReading b = reading_at(rival.fit, x);
    const double reading = (a.observation * a.observation + b.observation * b.observation) / 2;
    const double u = std::sqrt(a.curve * a.curve + b.curve * b.curve + reading);
    const double z = std::abs(a.value - b.value) / u;
    if (!std::isfinite(z) || !(std::isnan(best.in_uncertainties) || z > best.in_uncertainties)) continue;
    best.at = x;
    best.difference = a.value - b.value;
    best.in_uncertainties = z;
    best.outside_data = x < range.low || x > range.high;
  }
  return best;
}

std::string separation_text(const Candidate& chosen, const Separation& s) {
  const Observations& rows = chosen.fit.observations();
  const Quantity& x = rows.predictors()[0];
  const auto with_unit = [](double value, const std::string& unit) {
    return rounded(value, 3) + (unit.empty() ? "" : " " + unit);
  };
  if (!std::isfinite(s.in_uncertainties)) return "";
  if (s.in_uncertainties < 1) {
    return fmt::format(
        " No single further measurement within or near the data would distinguish it from {}: the two never differ by "
        "more than {} of the uncertainty of their difference.",
        s.rival, rounded(s.in_uncertainties, 2));
  }
  return fmt::format(
      " A measurement at {1} = {2}{3} would distinguish it best from {0}: they differ there by {4}, {5} times the "
      "uncertainty of that difference.",
      s.rival, x.name, with_unit(s.at, x.unit), s.outside_data ? " (outside the data)" : "",
      with_unit(std::abs(s.difference), rows.response().unit), rounded(s.in_uncertainties, 2));
}

std::string doubts_text(const Candidate& chosen) {
  std::string doubts;
  for (const CandidateRemark& remark : chosen.remarks) {
    // How the parameters are written is no fault of the curve.
    if (remark.code == RemarkCode::not_told_apart) continue;
    doubts += (doubts.empty() ? "" : "; ") + remark.text;
  }
  return doubts.empty() ? "" : fmt::format(" However: {}.", doubts);
}

// Of a larger candidate within reach, why it is not the suggested one.
std::string extra_terms_text(const Comparison& comparison, const NestedPair& pair) {
  const Candidate& larger = comparison.candidates[pair.larger];
  if (!(pair.test.p < noticeable))
    return fmt::format(" What {} adds to it is not significant ({}).", larger.name, test_text(pair.test));
  return fmt::format(
      " What {} adds to it is significant at 5 % ({}), but its AICc, which charges more for a parameter the fewer the "
      "data are, is not lower.",
      larger.name, test_text(pair.test));
}

std::size_t with_lowest_leave_one_out(const std::vector<Candidate>& all, const std::vector<std::size_t>& among) {
  // In the uncertainties of the rows only where every candidate knows them.
  const bool relative = std::all_of(among.begin(), among.end(), [&all](std::size_t i) {
    return !std::isnan(all[i].leave_one_out.size.in_uncertainties);
  });
  const auto error = [&](std::size_t i) {
    const ErrorSize& size = all[i].leave_one_out.size;
    const double e = relative ? size.in_uncertainties : size.root_mean_square;
    return std::isnan(e) ? infinity : e;
  };
  return *std::min_element(among.begin(), among.end(),
                           [&error](std::size_t a, std::size_t b) { return error(a) < error(b); });
}

}  // namespace

namespace {

// The candidates that can be judged, best first.
std::vector<std::size_t> judged_of(const std::vector<Candidate>& all) {
  std::vector<std::size_t> judged;
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (std::isfinite(all[i].weight)) judged.push_back(i);
  }
  return judged;
}

// Whether a larger candidate of lower AICc, within the best's reach as well, is significantly better.
bool is_rejected_within(const Comparison& comparison, std::size_t place) {
  const std::vector<Candidate>& all = comparison.candidates;
  return std::any_of(comparison.nested_tests.begin(), comparison.nested_tests.end(), [&](const NestedPair& pair) {
    return pair.smaller == place && pair.test.p < noticeable && all[pair.larger].delta_aicc < all[place].delta_aicc;
  });
}

// Those within the best's reach.
std::vector<std::size_t> reach_of(const std::vector<Candidate>& all, const std::vector<std::size_t>& judged) {
  std::vector<std::size_t> reach;
  for (const std::size_t i : judged) {
    if (all[i].delta_aicc <= aicc_reach) reach.push_back(i);
  }
  return reach;
}

}  // namespace

// Of those within the best's reach that no nested test rejects for a larger one of lower AICc there, the fewest
// parameters win, then the lowest AICc.
std::optional<std::size_t> suggested_place(const Comparison& comparison) {
  const std::vector<Candidate>& all = comparison.candidates;
  const std::vector<std::size_t> judged = judged_of(all);
  if (judged.empty()) return std::nullopt;
  if (all[judged[0]].has(RemarkCode::exact)) return judged[0];
  std::vector<std::size_t> reach = reach_of(all, judged);
  std::erase_if(reach, [&](std::size_t i) { return is_rejected_within(comparison, i); });
  return *std::min_element(reach.begin(), reach.end(), [&all](std::size_t a, std::size_t b) {
    return all[a].parameters != all[b].parameters ? all[a].parameters < all[b].parameters : a < b;
  });
}

namespace {

// Why the chosen one, of those within reach of the best.
std::string headline(const Comparison& comparison, const std::vector<std::size_t>& judged,
                     const std::vector<std::size_t>& reach, std::size_t at) {
  const std::vector<Candidate>& all = comparison.candidates;
  const Candidate& chosen = all[at];
  if (judged.size() == 1) return fmt::format("{} is the only candidate that can be judged.", chosen.name);
  if (reach.size() == 1)
    return fmt::format("{} has the lowest AICc; the next, {}, lies {} behind.", chosen.name, all[judged[1]].name,
                       rounded(all[judged[1]].delta_aicc, 3));
  const auto kept =
      std::count_if(reach.begin(), reach.end(), [&](std::size_t i) { return !is_rejected_within(comparison, i); });
  const auto as_few = std::count_if(reach.begin(), reach.end(), [&](std::size_t i) {
    return all[i].parameters == chosen.parameters && !is_rejected_within(comparison, i);
  });
  return fmt::format(
      "{} {} of the {} candidates within {} of the lowest AICc{}{}.", chosen.name,
      as_few == 1 ? fmt::format("has the fewest parameters ({})", chosen.parameters)
                  : fmt::format("has the lowest AICc of those with the fewest parameters ({})", chosen.parameters),
      reach.size(), aicc_reach, static_cast<std::size_t>(kept) == reach.size() ? "" : " that no nested test rejects",
      at == judged[0] ? ""
                      : fmt::format(" (that of {}, {} lower)", all[judged[0]].name, rounded(chosen.delta_aicc, 2)));
}

// What the terms of the chosen one add to the largest of its special cases.
std::string added_terms_text(const Comparison& comparison, std::size_t at) {
  const std::vector<Candidate>& all = comparison.candidates;
  const NestedPair* below = nullptr;
  for (const NestedPair& pair : comparison.nested_tests) {
    if (pair.larger == at && (below == nullptr || all[pair.smaller].parameters > all[below->smaller].parameters))
      below = &pair;
  }
  if (below == nullptr) return "";
  return fmt::format(" What it adds to {} is {} ({}).", all[below->smaller].name,
                     below->test.p < noticeable ? "significant" : "not significant", test_text(below->test));
}

std::string leave_one_out_text(const std::vector<Candidate>& all, const std::vector<std::size_t>& judged,
                               std::size_t at) {
  if (judged.size() < 2) return "";
  if (std::isnan(all[at].leave_one_out.size.root_mean_square)) return " Its leave-one-out error could not be computed.";
  const std::size_t lowest = with_lowest_leave_one_out(all, judged);
  if (lowest != at) return fmt::format(" The lowest leave-one-out error is that of {}.", all[lowest].name);
  const bool all_have = std::none_of(judged.begin(), judged.end(), [&all](std::size_t i) {
    return std::isnan(all[i].leave_one_out.size.root_mean_square);
  });
  return all_have ? " It also has the lowest leave-one-out error."
                  : " It also has the lowest leave-one-out error of those for which one could be computed.";
}

// What can't be told from the chosen one, and what would tell them apart.
std::string rivals_text(const Comparison& comparison, const std::vector<std::size_t>& rivals, std::size_t at,
                        Suggestion& suggestion) {
  if (rivals.empty()) return "";
  const std::vector<Candidate>& all = comparison.candidates;
  const Candidate& chosen = all[at];
  for (const std::size_t i : rivals) suggestion.indistinguishable.push_back(all[i].name);
  std::string text = fmt::format(" {} and {} are about equally well supported (AICc within {}).", chosen.name,
                                 fmt::join(suggestion.indistinguishable, ", "), aicc_reach);
  for (const std::size_t i : rivals) {
    if (is_one_curve(comparison, at, i)) {
      text += fmt::format(
          " {} is the same curve with another assumption on the scatter: replicates at both ends would show which is "
          "right.",
          all[i].name);
      continue;
    }
    if (chosen.fit.is_counted() || chosen.fit.observations().predictors().size() != 1 ||
        all[i].fit.observations().predictors().size() != 1)
      continue;
    suggestion.separations.push_back(separation_of(chosen, all[i]));
    text += separation_text(chosen, suggestion.separations.back());
  }
  return text;
}

}  // namespace

Suggestion suggest(const Comparison& comparison) {
  const std::vector<Candidate>& all = comparison.candidates;
  Suggestion suggestion;
  const std::vector<std::size_t> judged = judged_of(all);
  if (judged.empty()) {
    suggestion.headline = "No candidate can be suggested: none converged with rows enough for its AICc.";
    suggestion.reason = suggestion.headline;
    return suggestion;
  }
  if (all[judged[0]].has(RemarkCode::exact)) {
    const Candidate& exact = all[judged[0]];
    suggestion.name = exact.name;
    suggestion.headline = fmt::format(
        "{} passes through every row to rounding, with {} the fewest of those that do: "
        "there is no scatter to judge by.",
        exact.name, plural(exact.parameters, "parameter"));
    suggestion.reason = suggestion.headline;
    return suggestion;
  }

  const std::vector<std::size_t> reach = reach_of(all, judged);
  const std::size_t at = *suggested_place(comparison);
  suggestion.name = all[at].name;
  suggestion.headline = headline(comparison, judged, reach, at);
  suggestion.reason = suggestion.headline;
  // Neighbours of which one is a special case of the other.
  std::vector<std::size_t> rivals;
  for (const std::size_t i : reach) {
    if (i == at) continue;
    if (const NestedPair* pair = pair_of(comparison, at, i)) {
      suggestion.reason += extra_terms_text(comparison, *pair);
    } else if (pair_of(comparison, i, at) == nullptr) {
      rivals.push_back(i);
    }
  }
  suggestion.reason += added_terms_text(comparison, at);
  suggestion.reason += leave_one_out_text(all, judged, at);
  suggestion.reason += rivals_text(comparison, rivals, at, suggestion);
  suggestion.reason += doubts_text(all[at]);
  return suggestion;
}

}  // namespace truecurve::detail
