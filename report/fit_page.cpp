// The page of a fit.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/variance.hpp>
#include <truecurve/report/fit_page.hpp>

#include "counted_parts.hpp"
#include "fit_parts.hpp"
#include "parts.hpp"
#include "rows_table.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

// A curvature to two decimals: more would be noise.
std::string curvature_text(double curvature) {
  return curvature < 0.005  ? "below 0.01"
         : curvature >= 100 ? fmt::format("{:.2g}", curvature)
                            : fmt::format("{:.2f}", curvature);
}

std::string nonlinearity_sentence(const Trust& trust) {
  const Curvature& curvature = trust.curvature;
  if (!std::isfinite(curvature.intrinsic)) return "";
  const bool all_trusted =
      !trust.profiles.empty() && std::all_of(trust.profiles.begin(), trust.profiles.end(),
                                             [](const ProfileInterval& p) { return p.symmetric_is_trusted; });
  return fmt::format(
      "Nonlinearity (relative curvature at the edge of the confidence region; Bates and Watts): intrinsic {}, "
      "parameter "
      "effects {}. {}",
      curvature_text(curvature.intrinsic), curvature_text(curvature.parameter_effects),
      std::max(curvature.intrinsic, curvature.parameter_effects) < fair_curvature
          ? "Below 0.3 symmetric intervals are adequate."
      : all_trusted ? "Above 0.3, yet the profiles show that the symmetric intervals are adequate."
                    : "Above 0.3 symmetric intervals may be inaccurate.");
}

// How a model that is not linear was solved.
void add_search(Page& page, const Fit& fit, const Trust& trust) {
  if (fit.model().is_linear()) return;
  const SolverReport& solver = fit.solver();
  // Below 1e-8 the offset is mostly rounding, and its digits say nothing.
  const std::string offset =
      solver.relative_offset <= 1e-8 ? "below 1e-8" : fmt::format("{:.1e}", solver.relative_offset);
  std::string text =
      fmt::format("{} ({}{}, {} {}).", solver.converged ? "Converged" : "Not converged", name(solver.method),
                  solver.stop == StopReason::relative_offset ? "" : fmt::format(", {}", name(solver.stop)),
                  fit.is_counted() ? "gradient in units of the uncertainties" : "relative offset", offset);
  if (solver.descents > 2)
    text += fmt::format(" {} starting points were tried; {} led to this minimum.", solver.descents, solver.met_best);
  if (!fit.model().has_exact_derivatives()) text += " Derivatives are differences.";
  PageSection& section = page.section("Convergence");
  section.say(text);
  section.say(nonlinearity_sentence(trust));
  for (const OtherMinimum& minimum : solver.other_minima) {
    std::string at;
    for (std::size_t j = 0; j < minimum.parameters.size(); ++j)
      at +=
          fmt::format("{}{} = {:.5g}", j == 0 ? "" : ", ", fit.estimate().parameter_names()[j], minimum.parameters[j]);
    section.list(fmt::format("Another minimum, {} {:.5g} against {:.5g}: {}.", fit.objective_name(),
                             minimum.chi_squared, fit.chi_squared(), at));
  }
}

bool are_by_profile(const Fit& fit, Intervals intervals) {
  return intervals == Intervals::profile || (intervals == Intervals::automatic && fit.is_counted());
}

// The intervals that are shown; without a profile the symmetric ones.
std::vector<ParameterInterval> shown_intervals(const Fit& fit, const FitPageOptions& options) {
  std::vector<ParameterInterval> shown = parameter_intervals(fit.estimate(), options.level);
  if (!are_by_profile(fit, options.intervals)) return shown;
  for (ParameterInterval& p : shown) {
    for (const ProfileInterval& made : options.trust.profiles) {
      if (made.parameter != p.name) continue;
      if (std::isnan(made.interval.low)) continue;
      p.low = made.interval.low;
      p.high = made.interval.high;
    }
  }
  return shown;
}

void add_checks(Page& page, const std::vector<Check>& checks) {
  PageTable table({{""}, {""}, {"", Align::sentence}}, PageTable::narrow);
  for (const Check& check : checks) table.add({std::string(name(check.kind)), p_equals(check.p), check.sentence});
  page.section("Residual checks").show(std::move(table));
}

void add_cautions(Page& page, const Fit& fit, const FitPageOptions& options, std::vector<Check> checks,
                  const Quality& q) {
  for (const Warning& warning : fit.warnings()) {
    if (warning.code != WarningCode::exact) page.caution(warning.text);  // it stands in the answer
  }
  for (const std::string& sentence : options.trust.sentences) page.caution(sentence);
  for (const std::string& remark : fit.observations().remarks()) page.caution(remark);
  detail::add_left_out(page, fit.observations().left_out());
  page.caution(detail::scatter_remark(fit));
  // The outlier before the terms and the scatter that it may mimic.
  std::stable_partition(checks.begin(), checks.end(),
                        [](const Check& check) { return check.kind == CheckKind::outlier; });
  for (const Check& check : checks) {
    if (check.is_significant())
      page.caution(fmt::format("{} ({}) Advice: ", check.sentence, p_equals(check.p)) + check.advice + ".");
  }
  for (const DerivedQuantity& derived : options.deductions.derived)
    page.caution(detail::curved_remark(derived, options.level));
  if (q.chi_squared_p < 0.01)
    page.caution(
        {"If the stated uncertainties are right only in proportion to one another, let the scatter set their scale",
         {Action::scale_by_scatter},
         fmt::format(": every standard uncertainty is then multiplied by the Birge ratio {}.",
                     rounded(q.birge_ratio, 3))});
  const bool is_by_scatter = !fit.estimate().has_known_scale() && !fit.is_exact();
  if (is_by_scatter && q.degrees_of_freedom > 0 && q.degrees_of_freedom < 3)
    page.caution(
        fmt::format("With {} the scatter itself is poorly known.", degrees_of_freedom_text(q.degrees_of_freedom)));
}

PageData data_of(std::span<const ParameterInterval> parameters, Level level) {
  PageData data{.names = {"name", "value", "standard_uncertainty", "level", "low", "high", "t", "p", "unit"}};
  for (const ParameterInterval& p : parameters)
    data.rows.push_back(
        {p.name, p.value, p.standard_uncertainty, static_cast<double>(level), p.low, p.high, p.t, p.p, p.unit});
  return data;
}

}  // namespace

Page fit_page(const Fit& fit, const FitPageOptions& options) {
  const std::vector<ParameterInterval> parameters = shown_intervals(fit, options);
  // A linear model's profile is its symmetric interval; of a fit without a minimum none is made.
  const bool by_profile =
      are_by_profile(fit, options.intervals) && (fit.model().is_linear() || !options.trust.profiles.empty());
  const Quality q = quality_of(fit);
  const CountedQuality counted = fit.is_counted() ? counted_quality(fit) : CountedQuality{};

  const std::string& kind = fit.model().kind();
  Page page{.title = fit.model().text() + (kind == "written" ? "" : fmt::format("   ({})", kind)),
            .subject = "fitted to " + detail::rows_used_text(fit.observations()),
            .data = data_of(parameters, options.level)};
  page.lead.say(detail::answer_sentence(fit, parameters));
  page.lead.say(detail::uncertainty_sentence(fit, options.level));
  if (fit.is_counted()) page.lead.say(detail::deviance_sentences(fit, counted));
  page.lead.say(detail::chi_squared_sentence(q));
  page.lead.say(detail::equation_sentence(fit.estimate()));

  PageSection& section = page.section("Parameters");
  section.in_brief = true;
  section.show(detail::parameters_table(fit, parameters, options.level,
                                        by_profile ? detail::IntervalKind::profile : detail::IntervalKind::symmetric));
  section.show(detail::correlation_table(fit));
  section.say(detail::correlation_sentence(fit));
  section.say(options.trust.note);
  for (const std::string& remark : unit_remarks(fit.estimate())) section.say(remark);
  detail::add_deductions(page, options.deductions, options.level);
  if (!fit.is_exact())
    page.section("Goodness of fit")
        .show(fit.is_counted() ? detail::counted_quality_table(fit, q, counted) : detail::quality_table(fit, q));
  page.section("Observed against expected").show(detail::groups_table(fit, counted));
  add_search(page, fit, options.trust);
  if (!fit.is_exact() && !fit.is_counted()) {
    PageSection& variance = page.section("Variance table");
    variance.show(detail::variance_page_table(fit));
    variance.say(detail::replicates_note(fit));
  }
  const std::vector<Check> checks = residual_checks(fit);
  add_checks(page, checks);
  if (options.rows) {
    page.section("Rows").show(detail::rows_table(fit));
    page.data = detail::rows_data(fit);
  }
  add_cautions(page, fit, options, checks, q);
  return page;
}

}  // namespace truecurve
