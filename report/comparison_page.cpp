// The page of a comparison.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/report/comparison_page.hpp>

#include "comparison_parts.hpp"
#include "parts.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::by_reason;
using detail::has_uncertainties;
using detail::is_counted;
using detail::rows_text;
using detail::with_unit;

// Of a long list of candidates only the best are described in full; the record has all.
constexpr std::size_t candidates_described = 10;

std::string uncertainty_sentence(const Comparison& comparison) {
  if (is_counted(comparison)) {
    const Observations& rows = comparison.candidates.front().fit.observations();
    const bool events = rows.observation_model().kind() == ResponseKind::events;
    return fmt::format("Every candidate is fitted by maximum likelihood, the {} of '{}' having {} distribution.",
                       events ? "events" : "counts", rows.response().name, events ? "a binomial" : "a Poisson");
  }
  std::set<std::string> origins;
  std::set<UncertaintyBasis> bases;
  std::set<std::string> scatters;
  for (const Candidate& c : comparison.candidates) {
    origins.insert(c.fit.observations().uncertainty_origin());
    bases.insert(c.fit.estimate().basis());
    scatters.insert(assumed_scatter(c.fit));
  }
  if (origins.size() > 1 || bases.size() > 1)
    return "The candidates use different uncertainties of the data; see below.";
  if (*bases.begin() == UncertaintyBasis::stated)
    return fmt::format("The stated uncertainties ({}) are used as stated by every candidate.", *origins.begin());
  if (!origins.begin()->empty()) {
    return fmt::format(
        "The given uncertainties ({}) are used as relative weights; the scale is estimated from the residuals of each "
        "candidate.",
        *origins.begin());
  }
  return scatters.size() == 1
             ? fmt::format("The scatter is estimated from the residuals of each candidate and assumed to be {}.",
                           *scatters.begin())
             : "The scatter is estimated from the residuals of each candidate; the assumed scatter differs between "
               "candidates; see below.";
}

std::string legend(const Comparison& comparison) {
  const Observations& rows = comparison.candidates.front().fit.observations();
  const std::string& y = rows.response().name;
  const std::string folds =
      comparison.folds == 0 ? ""
                            : fmt::format("; {}-fold: of predicting groups of rows (seed {}), replicates kept together",
                                          comparison.folds, comparison.seed);
  std::string text = fmt::format(
      "AICc, BIC and Akaike weight are computed from the likelihood of the measured {}; {}; R² is about the mean. "
      "Leave-one-out RMSE: root mean square error of predicting each row from the others{}{}. Largest residual: in "
      "standard deviations of that residual.",
      y, has_uncertainties(comparison) ? "chi²/dof uses its uncertainties" : "S is unweighted",
      has_uncertainties(comparison)  ? ", in standard uncertainties of the data"
      : rows.response().unit.empty() ? ""
                                     : fmt::format(", in {}", rows.response().unit),
      folds);
  if (is_counted(comparison)) {
    text = fmt::format(
        "AICc, BIC and Akaike weight are computed from the likelihood of the counted numbers. Leave-one-out deviance: "
        "mean deviance of each row from the curve fitted to the others, the logarithmic score but for a constant{}. "
        "Largest residual: Pearson's, in standard deviations of that residual.",
        folds);
  }
  std::string refitted;
  std::string one_step;
  for (const Candidate& c : comparison.candidates) {
    if (c.leave_one_out.method == LeaveOneOut::Method::refitted)
      refitted = " Nonlinear candidates were refitted without each row.";
    if (c.leave_one_out.method == LeaveOneOut::Method::one_step)
      one_step +=
          fmt::format(" That of {} is approximated by one step (differs by {:.1g} % from refits without some rows).",
                      c.name, 100 * std::abs(c.leave_one_out.one_step_difference));
  }
  return text + refitted + one_step;
}

void add_routes(Page& page, const Comparison& comparison) {
  for (const ExplainedRoutes& routes : comparison.routes) {
    const Candidate& direct = comparison.candidates[routes.direct];
    const Candidate& straight = comparison.candidates[routes.linearized];
    PageSection& section = page.section(fmt::format("One curve by two routes: {} and {}", direct.name, straight.name));
    section.show(detail::routes_table(routes.pair));
    section.say(
        fmt::format("The direct route assumes a scatter of {} that is {} ({}), the linearized route by {} one that is "
                    "{} ({}). {}",
                    direct.fit.observations().response().name, routes.pair.direct_scatter, routes.pair.direct_weights,
                    straight.fit.model().left_side(), routes.pair.linearized_scatter, routes.pair.linearized_weights,
                    routes.pair.verdict));
  }
}

void add_cautions(Page& page, const Comparison& comparison) {
  for (const std::string& remark : comparison.remarks) page.caution(remark);
  for (const auto& [reason, rows] : by_reason(comparison.not_common)) {
    std::string list = rows_text(rows);
    list[0] = 'R';
    page.caution(fmt::format("{} {} fitted by no candidate, so that all are judged on the same rows: {}.", list,
                             rows.size() == 1 ? "was" : "were", reason));
  }
  const std::size_t described = std::min(candidates_described, comparison.candidates.size());
  for (std::size_t i = 0; i < described; ++i) {
    const Candidate& c = comparison.candidates[i];
    if (c.remarks.empty()) continue;
    std::string list;
    for (const CandidateRemark& remark : c.remarks) list += (list.empty() ? "" : "; ") + remark.text;
    page.caution(fmt::format("{} {}: {}.", i + 1, c.name, list));
  }
  if (described < comparison.candidates.size())
    page.caution(fmt::format("Remarks on the other {} are in the record.",
                             plural(comparison.candidates.size() - described, "candidate")));
  for (const FailedCandidate& failed : comparison.failed)
    page.caution(fmt::format("Not fitted: {}: {}.", failed.name, failed.reason));
}

// "m = 33.1(6) mm, k = 0.12(1) 1/min"
std::string parameters_list(const Candidate& c) {
  std::string values;
  for (const ParameterInterval& p : parameter_intervals(c.fit.estimate(), 0.95))
    values += (values.empty() ? "" : ", ") + p.name + " = " +
              with_unit(with_uncertainty(p.value, p.standard_uncertainty), p.unit);
  return values;
}

PageTable curves_table(const Comparison& comparison) {
  std::set<std::string> scatters;
  for (const Candidate& c : comparison.candidates) scatters.insert(assumed_scatter(c.fit));
  PageTable table({{"", Align::right}, {"", Align::sentence}}, PageTable::narrow);
  for (std::size_t i = 0; i < std::min(candidates_described, comparison.candidates.size()); ++i) {
    const Candidate& c = comparison.candidates[i];
    const std::string formula = c.name == c.fit.model().text() ? c.name : c.name + ": " + c.fit.model().text();
    const std::string scatter = scatters.size() > 1 ? "; scatter " + assumed_scatter(c.fit) : "";
    table.add({fmt::format("{}", i + 1), formula + scatter});
    table.add({"", parameters_list(c)});
  }
  return table;
}

// The suggestion, with the parameters of what is suggested.
std::string short_answer(const Comparison& comparison) {
  const auto& suggestion = comparison.suggestion;
  const auto at = std::find_if(comparison.candidates.begin(), comparison.candidates.end(),
                               [&](const Candidate& c) { return c.name == suggestion.name; });
  if (at == comparison.candidates.end()) return suggestion.headline;
  return fmt::format("{} {} has {}.", suggestion.headline, at->name, parameters_list(*at));
}

PageData data_of(const Comparison& comparison) {
  PageData data{.names = {"name", "parameters", "aicc", "delta_aicc", "weight", "bic", "leave_one_out_sd",
                          "leave_one_out_in_uncertainties", "cross_validation_sd", "residual_sd", "reduced_chi_squared",
                          "r_squared", "adjusted_r_squared", "largest_residual", "largest_residual_row", "added_term_p",
                          "added_to", "remarks"}};
  for (const Candidate& c : comparison.candidates) {
    std::string remarks;
    for (const CandidateRemark& remark : c.remarks) remarks += (remarks.empty() ? "" : "; ") + remark.text;
    data.rows.push_back(
        {c.name, c.parameters, c.aicc, c.delta_aicc, c.weight, c.bic, c.leave_one_out.size.root_mean_square,
         c.leave_one_out.size.in_uncertainties, c.cross_validation.root_mean_square, c.residual_sd,
         c.reduced_chi_squared, c.r_squared, c.adjusted_r_squared, c.largest_residual,
         c.largest_residual_row == 0 ? Datum("") : Datum(c.largest_residual_row), c.added_p, c.added_to, remarks});
  }
  return data;
}

}  // namespace

Page comparison_page(const Comparison& comparison) {
  const Observations& rows = comparison.candidates.front().fit.observations();
  Page page{.title = rows.response().name,
            .subject = fmt::format("{} compared by their fits to {}", plural(comparison.candidates.size(), "candidate"),
                                   detail::rows_used_text(rows)),
            .answer = short_answer(comparison),
            .data = data_of(comparison)};
  page.lead.say(comparison.suggestion.reason);
  page.lead.say(uncertainty_sentence(comparison));
  page.section(fmt::format("The candidates, best first by {}",
                           comparison.ordered_by == "AICc" ? "AICc" : "leave-one-out error"))
      .show(detail::criteria_table(comparison));
  PageSection& described = page.section("Goodness of fit");
  described.show(detail::description_table(comparison));
  described.say(legend(comparison));
  page.section("Nested candidates").show(detail::nested_table(comparison));
  if (!comparison.held_out.empty())
    page.section(fmt::format("Hold-out data: {} with {}", plural(comparison.held_out.front().rows.size(), "row"),
                             comparison.hold_out))
        .show(detail::hold_out_table(comparison));
  add_routes(page, comparison);
  page.section("The curves").show(curves_table(comparison));
  add_cautions(page, comparison);
  return page;
}

}  // namespace truecurve
