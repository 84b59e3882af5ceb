// The page of a fit, and of a curve at its starts.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/polynomial.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/assess/variance.hpp>
#include <truecurve/data/resolution.hpp>
#include <truecurve/report/text.hpp>

#include "counted_text.hpp"
#include "deductions.hpp"
#include "page.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::Align;
using detail::by_reason;
using detail::counted_quality_grid;
using detail::counting_sentence;
using detail::csv_field;
using detail::csv_number;
using detail::curved_remark;
using detail::deductions_text;
using detail::degrees_of_freedom_text;
using detail::deviance_sentences;
using detail::Grid;
using detail::groups_grid;
using detail::item;
using detail::level_text;
using detail::page_width;
using detail::paragraph;
using detail::parameters_text;
using detail::plural;
using detail::row_list;
using detail::share_text;
using detail::with_unit;
using detail::wrapped;

// Beyond this relative uncertainty weights that follow the curve and the curvature of a transform make intervals
// approximate: between 92 and 96 % of 95 % ones cover.
constexpr double coarse_uncertainty = 0.15;

// A value with its uncertainty; of a curve without scatter as many digits as a double holds for sure.
std::string value_text(const Fit& fit, double value, double uncertainty) {
  return fit.is_exact() ? fmt::format("{:.15g}", value) : with_uncertainty(value, uncertainty);
}

// How the scatter was said to grow with the response.
std::string growth_text(const Fit& fit) {
  const double power = fit.spread().power();
  return power == 0     ? "the same everywhere"
         : power == 1   ? "proportional to it"
         : power == 0.5 ? "like that of counts, proportional to its square root"
                        : fmt::format("proportional to its power {}", power);
}

std::string uncertainty_sentence(const Fit& fit, Level level) {
  const Observations& observations = fit.observations();
  const std::string& y = observations.response().name;
  if (fit.is_exact())
    return "The curve passes through every row to rounding: there is no scatter from which uncertainties, tests or "
           "criteria could be had.";
  if (fit.is_counted()) return counting_sentence(fit);
  const double factor = fit.estimate().coverage_factor(level);
  if (fit.estimate().has_known_scale()) {
    return fmt::format(
        "Standard uncertainties are propagated from the stated uncertainties of {} ({}); the intervals use the normal "
        "distribution (coverage factor k = {:.3f}).{}",
        y, observations.uncertainty_origin(), factor,
        observations.relative_uncertainty() >= coarse_uncertainty
            ? fmt::format(" With relative uncertainties of {} the intervals are approximate.",
                          share_text(observations.relative_uncertainty()))
            : "");
  }
  const std::string distribution = std::isfinite(factor)
                                       ? fmt::format(
                                             "the intervals use Student's t with {} (coverage factor k = "
                                             "{:.3f})",
                                             degrees_of_freedom_text(fit.degrees_of_freedom()), factor)
                                       : "no degree of freedom is left, so they cannot be given";
  std::string assumed = fmt::format("assuming equal scatter for all rows{}",
                                    fit.model().is_transformed() ? " on the scale of " + fit.model().left_side() : "");
  if (observations.has_uncertainties())
    assumed = fmt::format("the given uncertainties of {} ({}) serve as relative weights", y,
                          observations.uncertainty_origin());
  if (fit.spread().is_given()) assumed = fmt::format("assuming a scatter of {} {}", y, growth_text(fit));
  return fmt::format("Standard uncertainties are estimated from the residuals, {}; {}.", assumed, distribution);
}

std::string chi_squared_sentence(const Quality& q) {
  constexpr double noticeable = 0.05;
  if (std::isnan(q.chi_squared_p)) return "";
  const double two_sided = 2 * std::min(q.chi_squared_p, 1 - q.chi_squared_p);
  const std::string verdict = two_sided >= noticeable ? "consistent with the stated uncertainties"
                              : q.chi_squared_p < 0.5
                                  ? "the residuals are larger than the stated uncertainties explain"
                                  : "the residuals are smaller than the stated uncertainties explain";
  return fmt::format(
      "Chi-squared is {} with {}. If the curve and the stated uncertainties are right, it would be at least this large "
      "with probability {}: {}.",
      rounded(q.chi_squared, 4), degrees_of_freedom_text(q.degrees_of_freedom), probability_text(q.chi_squared_p),
      verdict);
}

std::string left_out_text(const Observations& observations) {
  std::string text;
  for (const auto& [reason, rows] : by_reason(observations.left_out()))
    text += item(fmt::format("Left out: row{} {}: {}.", rows.size() == 1 ? "" : "s", row_list(rows), reason));
  return text;
}

std::string headline(const Fit& fit) {
  std::string text = fit.model().text();
  if (fit.model().kind() != "written") text += fmt::format("   ({})", fit.model().kind());
  const Observations& observations = fit.observations();
  const std::string from = observations.source().name.empty() ? "" : fmt::format(" of {}", observations.source().name);
  const bool all = observations.size() == observations.rows_read();
  return fmt::format("{}\nfitted to {}{}\n\n", text,
                     all ? fmt::format("all {}", plural(observations.size(), "row"))
                         : fmt::format("{} of {}", observations.size(), plural(observations.rows_read(), "row")),
                     from);
}

std::string answer(const Fit& fit, const std::vector<ParameterInterval>& parameters) {
  std::string text;
  for (std::size_t j = 0; j < parameters.size(); ++j) {
    const ParameterInterval& p = parameters[j];
    std::string role;
    if (fit.model().is_straight_line())
      role = fit.model().constant_index() == static_cast<int>(j) ? "The intercept " : "The slope ";
    if (j > 0) text += j + 1 == parameters.size() ? " and " : ", ";
    if (j > 0 && !role.empty()) role[0] = 't';
    const bool at_limit = fit.estimate().is_at_limit(j);
    const bool open = fit.estimate().is_open(j);
    text += role + p.name + (at_limit && !open ? " is at its limit " : " is ") +
            with_unit(open       ? end_text(*fit.estimate().open_end())
                      : at_limit ? shortest(p.value)
                                 : value_text(fit, p.value, p.standard_uncertainty),
                      p.unit);
    // Beside a step there is an interval and no uncertainty.
    if (std::isnan(p.standard_uncertainty) && std::isfinite(p.low) && std::isfinite(p.high))
      text += fmt::format(" ({})", interval_text(p.low, p.high, (p.high - p.low) / 4));
  }
  text += ".";
  for (const FixedParameter& held : fit.model().fixed())
    text += fmt::format(" {} was held at {}.", held.name, shortest(held.value));
  return text;
}

std::string quality_grid(const Fit& fit, const Quality& q) {
  Grid grid({{"", Align::left}, {"", Align::left}, {"", Align::left}});
  const auto row = [&grid](const char* what, double value, int digits, const std::string& unit,
                           const std::string& remark) {
    grid.add({what, std::isnan(value) ? "-" : with_unit(rounded(value, digits), unit), remark});
  };
  const Observations& observations = fit.observations();
  grid.add({"data points n", fmt::format("{}", fit.size()), parameters_text(fit.estimate(), q.degrees_of_freedom)});
  const bool transformed = fit.model().is_transformed();
  const bool weighted = fit.left_side_observations().row_scatter().size() != 0;
  const std::string scale = transformed ? "on the scale of " + fit.model().left_side() : "";
  row("residual standard deviation S", q.residual_sd, 4, transformed ? "" : observations.response().unit,
      scale + (weighted ? (transformed ? ", unweighted" : "unweighted") : ""));
  if (transformed)
    row("  on the measured scale", q.response_sd, 4, observations.response().unit,
        fmt::format("of {}, unweighted", observations.response().name));
  if (observations.has_uncertainties()) {
    row("chi-squared", q.chi_squared, 4, "",
        std::isnan(q.chi_squared_p) ? "" : "p = " + probability_text(q.chi_squared_p));
    row("chi-squared / degrees of freedom", q.reduced_chi_squared, 4, "",
        std::isnan(q.birge_ratio) ? "" : "Birge ratio " + rounded(q.birge_ratio, 4));
  }
  const std::string about =
      fit.model().is_judged_about_the_mean()
          ? fmt::format("about the {}mean", weighted ? "weighted " : "")
          : fmt::format("about zero{}: the model has no constant term", weighted ? ", weighted" : "");
  row("R²", q.r_squared, 6, "", transformed ? fmt::format("{}, {}", scale, about) : about);
  if (transformed || weighted)
    row("  on the measured scale", q.response_r_squared, 6, "",
        fmt::format("of {}, unweighted, about {}", observations.response().name,
                    transformed || fit.model().is_judged_about_the_mean() ? "the mean" : "zero"));
  row("adjusted R²", q.adjusted_r_squared, 6, "", "");
  if (fit.model().is_straight_line()) row("correlation coefficient r", q.correlation, 6, "", "");
  row("log-likelihood", q.log_likelihood, 6, "",
      transformed ? fmt::format("of the measured {}", observations.response().name) : "");
  row("AIC, AICc", q.aic, 6, "", std::isnan(q.aicc) ? "AICc needs more rows" : rounded(q.aicc, 6));
  row("BIC", q.bic, 6, "", "");
  return grid.text();
}

// A curvature to two decimals: more would be noise.
std::string curvature_text(double curvature) {
  return curvature < 0.005  ? "below 0.01"
         : curvature >= 100 ? fmt::format("{:.2g}", curvature)
                            : fmt::format("{:.2f}", curvature);
}

// How a model that is not linear was solved.
std::string search_text(const Fit& fit, const Trust& trust) {
  if (fit.model().is_linear()) return "";
  const SolverReport& solver = fit.solver();
  // Below 1e-8 the offset is mostly rounding, and its digits say nothing.
  const std::string offset =
      solver.relative_offset <= 1e-8 ? "below 1e-8" : fmt::format("{:.1e}", solver.relative_offset);
  std::string text =
      fmt::format("{} ({}{}, {} {}).", solver.converged ? "Converged" : "Not converged", name(solver.method),
                  solver.stop == StopReason::relative_offset ? "" : fmt::format(", {}", name(solver.stop)),
                  fit.is_counted() ? "gradient in units of the uncertainties" : "relative offset", offset);
  if (solver.descents > 2) {
    text += fmt::format(" {} starting points were tried; {} led to this minimum.", solver.descents, solver.met_best);
  }
  if (!fit.model().has_exact_derivatives()) text += " Derivatives are differences.";
  text = "\nConvergence\n" + paragraph(text);
  const Curvature& curvature = trust.curvature;
  if (std::isfinite(curvature.intrinsic)) {
    const bool all_trusted =
        !trust.profiles.empty() && std::all_of(trust.profiles.begin(), trust.profiles.end(),
                                               [](const ProfileInterval& p) { return p.symmetric_is_trusted; });
    text += paragraph(fmt::format(
        "Nonlinearity (relative curvature at the edge of the confidence region; Bates and Watts): intrinsic "
        "{}, parameter effects {}. {}",
        curvature_text(curvature.intrinsic), curvature_text(curvature.parameter_effects),
        std::max(curvature.intrinsic, curvature.parameter_effects) < fair_curvature
            ? "Below 0.3 symmetric intervals are adequate."
        : all_trusted ? "Above 0.3, yet the profiles show that the symmetric intervals are adequate."
                      : "Above 0.3 symmetric intervals may be inaccurate."));
  }
  for (const OtherMinimum& minimum : solver.other_minima) {
    std::string at;
    for (std::size_t j = 0; j < minimum.parameters.size(); ++j) {
      at += fmt::format("{}{} = {:.5g}", j == 0 ? "" : ", ",
                        fit.estimate().parameter_names()[static_cast<std::size_t>(j)], minimum.parameters[j]);
    }
    text += item(fmt::format("Another minimum, {} {:.5g} against {:.5g}: {}.", fit.objective_name(),
                             minimum.chi_squared, fit.chi_squared(), at));
  }
  return text;
}

bool are_by_profile(const Fit& fit, Intervals intervals) {
  return intervals == Intervals::profile || (intervals == Intervals::automatic && fit.is_counted());
}

// The intervals that are shown; without a profile the symmetric ones.
std::vector<ParameterInterval> shown_intervals(const Fit& fit, Level level, const Trust& trust, Intervals intervals) {
  std::vector<ParameterInterval> shown = parameter_intervals(fit.estimate(), level);
  if (!are_by_profile(fit, intervals)) return shown;
  for (ParameterInterval& p : shown) {
    for (const ProfileInterval& made : trust.profiles) {
      if (made.parameter != p.name) continue;
      if (std::isnan(made.interval.low)) continue;
      p.low = made.interval.low;
      p.high = made.interval.high;
    }
  }
  return shown;
}

// What lack of fit is judged by where the replicates hardly differ.
std::string replicates_note(const Fit& fit) {
  const auto split = lack_of_fit(fit);
  if (!split) return "";
  if (std::isnan(split->lack_of_fit.f)) {
    return paragraph("The replicates agree exactly: there is no scatter by which lack of fit could be judged.");
  }
  if (split->pure_error.mean_square < fit.rounding_mean_square()) {
    return paragraph(fmt::format(
        "The replicates agree better than readings in steps of {} can: lack of fit is judged by the rounding.",
        shortest(fit.resolution())));
  }
  return "";
}

std::string variance_grid(const Fit& fit) {
  const VarianceTable table = variance_table(fit);
  Grid grid({{"source", Align::left},
             {"sum of squares", Align::point},
             {"degrees of freedom", Align::right},
             {"mean square", Align::point},
             {"F", Align::point},
             {"p", Align::left}});
  const auto add = [&grid](const VarianceLine& line, const std::string& name) {
    grid.add({name, fmt::format("{:.6g}", line.sum_of_squares), fmt::format("{}", line.degrees_of_freedom),
              std::isnan(line.mean_square) ? "" : fmt::format("{:.6g}", line.mean_square),
              std::isnan(line.f) ? "" : fmt::format("{:.4g}", line.f),
              std::isnan(line.p) ? "" : probability_text(line.p)});
  };
  add(table.explained, "explained");
  if (table.sequential.size() > 1) {
    for (const VarianceLine& line : table.sequential) add(line, "  by " + line.source);
  }
  add(table.residual, "residual");
  if (const auto split = lack_of_fit(fit)) {
    add(split->lack_of_fit, "  lack of fit");
    add(split->pure_error, "  pure error");
  }
  add(table.total, "total");
  return grid.text() + replicates_note(fit);
}

std::string checks_text(const std::vector<Check>& checks) {
  std::string text;
  for (const Check& check : checks) {
    const std::string head = fmt::format("  {:<18} p = {:<8}", name(check.kind), probability_text(check.p));
    text += wrapped(check.sentence, page_width(), std::string(head.size() + 2, ' '), head + "  ");
  }
  return text;
}

// What a transform assumes about the scatter of the measured response.
std::string scatter_remark(const Fit& fit) {
  const std::string& y = fit.observations().response().name;
  if (fit.spread().is_given()) return "";  // said with the uncertainties
  if (!fit.model().is_transformed() || fit.observations().has_uncertainties() || fit.is_counted()) return "";
  return item(
      fmt::format("Equal scatter of {} is assumed; for {} itself this means a scatter proportional to {}. --spread "
                  "constant|proportional|counts|power:p assumes another one.",
                  fit.model().left_side(), y, fit.model().implied_scatter()));
}

// Of the parameters that have an uncertainty: one at a limit is correlated with nothing.
std::string correlation_text(const Fit& fit) {
  const Matrix r = correlation(fit.estimate());
  const auto& names = fit.estimate().parameter_names();
  std::vector<std::size_t> shown;
  for (std::size_t j = 0; j < r.rows(); ++j) {
    if (std::isfinite(r(j, j))) shown.push_back(j);
  }
  const auto name = [&](std::size_t k) { return names[static_cast<std::size_t>(shown[k])]; };
  if (shown.size() < 2) return "";
  if (shown.size() == 2)
    return paragraph(
        fmt::format("The correlation between {} and {} is {:.3f}.", name(0), name(1), r(shown[0], shown[1])));
  std::vector<Grid::Heading> headings = {{"correlation", Align::left}};
  for (std::size_t k = 0; k < shown.size(); ++k) headings.push_back({name(k), Align::right});
  Grid grid(headings);
  for (std::size_t i = 0; i < shown.size(); ++i) {
    std::vector<std::string> cells = {name(i)};
    for (std::size_t j = 0; j < shown.size(); ++j)
      cells.push_back(j > i ? "" : fmt::format("{:.3f}", r(shown[i], shown[j])));
    grid.add(std::move(cells));
  }
  return grid.text();
}

std::string_view origin_text(StartOrigin origin) {
  switch (origin) {
    case StartOrigin::given: return "given";
    case StartOrigin::proposed: return "proposed from the data";
    case StartOrigin::solved: return "solved for: it enters linearly";
  }
  return "";
}

}  // namespace

std::string fit_text(const Fit& fit, Level level, const Deductions& deductions, const Trust& trust,
                     Intervals intervals) {
  const std::vector<ParameterInterval> parameters = shown_intervals(fit, level, trust, intervals);
  // A linear model's profile is its symmetric interval; of a fit without a minimum none is made.
  const bool by_profile = are_by_profile(fit, intervals) && (fit.model().is_linear() || !trust.profiles.empty());
  const Quality q = quality_of(fit);
  std::string text = headline(fit);
  text += paragraph(answer(fit, parameters));
  text += paragraph(uncertainty_sentence(fit, level));
  CountedQuality counted;
  if (fit.is_counted()) {
    counted = counted_quality(fit);
    text += paragraph(deviance_sentences(fit, counted));
  }
  if (const std::string chi = chi_squared_sentence(q); !chi.empty()) text += paragraph(chi);

  text += "\nParameters\n";
  const bool has_base =
      std::any_of(parameters.begin(), parameters.end(), [](const ParameterInterval& p) { return p.null_value != 0; });
  Grid grid({{"name", Align::left},
             {"value", Align::point},
             {"standard uncertainty", Align::point},
             {level_text(level) + (by_profile ? " profile interval" : " interval"), Align::left},
             {"t", Align::point},
             {has_base ? "p (H0)" : "p (H0: = 0)", Align::left},
             {"unit", Align::left}});
  for (const FixedParameter& held : fit.model().fixed())
    grid.add({held.name, shortest(held.value), "held", "-", "-", "-", ""});
  for (const ParameterInterval& p : parameters) {
    const bool known = std::isfinite(p.standard_uncertainty);
    const bool at_limit = fit.estimate().is_at_limit(&p - parameters.data());
    const bool open = fit.estimate().is_open(&p - parameters.data());
    grid.add({p.name,
              open       ? fmt::format("{:.3g}", p.value)
              : at_limit ? shortest(p.value)
                         : value_text(fit, p.value, p.standard_uncertainty),
              known      ? rounded(p.standard_uncertainty, 2)
              : open     ? "held: it is " + end_text(*fit.estimate().open_end())
              : at_limit ? "at its limit"
                         : "-",
              known                  ? interval_text(p.low, p.high, p.standard_uncertainty)
              : std::isfinite(p.low) ? interval_text(p.low, p.high, (p.high - p.low) / 4)
                                     : "-",
              std::isnan(p.t) ? "-" : rounded(p.t, 4),
              std::isnan(p.p) ? "-" : probability_text(p.p) + (has_base ? fmt::format(" (= {})", p.null_value) : ""),
              p.unit});
  }
  text += grid.text();
  text += correlation_text(fit);
  if (!trust.note.empty()) text += paragraph(trust.note);
  text += deductions_text(deductions, level);
  if (!fit.is_exact())
    text += "\nGoodness of fit\n" + (fit.is_counted() ? counted_quality_grid(fit, q, counted) : quality_grid(fit, q));
  if (const std::string groups = groups_grid(fit, counted); !groups.empty())
    text += "\nObserved against expected\n" + groups;
  text += search_text(fit, trust);
  if (!fit.is_exact() && !fit.is_counted()) text += "\nVariance table\n" + variance_grid(fit);
  const std::vector<Check> checks = residual_checks(fit);
  if (!checks.empty()) text += "\nResidual checks\n" + checks_text(checks);

  std::string careful;
  for (const Warning& warning : fit.warnings()) {
    if (warning.code != WarningCode::exact) careful += item(warning.text);  // it stands in the answer
  }
  for (const std::string& sentence : trust.sentences) careful += item(sentence);
  for (const std::string& remark : fit.observations().remarks()) careful += item(remark);
  careful += left_out_text(fit.observations());
  careful += scatter_remark(fit);
  // The outlier before the terms and the scatter that it may mimic.
  std::vector<Check> found = checks;
  std::stable_partition(found.begin(), found.end(),
                        [](const Check& check) { return check.kind == CheckKind::outlier; });
  for (const Check& check : found) {
    if (check.is_significant())
      careful += item(fmt::format("{} (p = {}) Advice: {}.", check.sentence, probability_text(check.p), check.advice));
  }
  for (const DerivedQuantity& derived : deductions.derived) careful += curved_remark(derived, level);
  if (q.chi_squared_p < 0.01) {
    careful +=
        item(fmt::format("If the stated uncertainties are right only in proportion to one another, use --uncertainty "
                         "scatter: every standard uncertainty is multiplied by the Birge ratio {}.",
                         rounded(q.birge_ratio, 3)));
  }
  if (q.degrees_of_freedom > 0 && q.degrees_of_freedom < 3 && !fit.is_exact()) {
    careful +=
        item(fmt::format("With {} the scatter itself is poorly known.", degrees_of_freedom_text(q.degrees_of_freedom)));
  }
  if (!careful.empty()) text += "\nCautions\n" + careful;
  return text;
}

std::string preview_text(const Preview& preview, const Observations& observations) {
  const Estimate& estimate = preview.estimate;
  std::string text = fmt::format("{}\nat its starts, over {}{}; nothing is fitted\n\n", estimate.model().text(),
                                 plural(observations.size(), "row"),
                                 observations.source().name.empty() ? "" : " of " + observations.source().name);
  Grid grid({{"name", Align::left}, {"start", Align::point}, {"", Align::left}});
  for (std::size_t j = 0; j < estimate.parameters().size(); ++j) {
    const auto at = static_cast<std::size_t>(j);
    grid.add({estimate.parameter_names()[at], fmt::format("{:.6g}", estimate.parameters()[j]),
              std::string(origin_text(preview.origins[at]))});
  }
  for (const FixedParameter& held : estimate.model().fixed())
    grid.add({held.name, fmt::format("{:.6g}", held.value), "held"});
  text += grid.text() + "\n";
  const bool stated = observations.has_uncertainties();
  const bool transformed = estimate.model().is_transformed();
  if (estimate.is_counted())
    return text + paragraph(std::isfinite(preview.chi_squared)
                                ? fmt::format("The deviance is {:.6g}.", preview.chi_squared)
                                : std::string("There the curve leaves what a mean may be."));
  const std::string unit = transformed ? "" : observations.response().unit;
  return text + paragraph(fmt::format("{} is {}{}; the root mean square residual is {}{}.",
                                      stated ? "Chi-squared" : "The sum of squared residuals",
                                      fmt::format("{:.6g}", preview.chi_squared),
                                      stated ? fmt::format(" for {}", plural(observations.size(), "row")) : "",
                                      with_unit(fmt::format("{:.4g}", preview.residual_sd), unit),
                                      transformed ? " on the scale of " + estimate.model().left_side() : ""));
}

std::string preview_csv(const Preview& preview) {
  std::string text = "name,start,origin\n";
  for (std::size_t j = 0; j < preview.estimate.parameters().size(); ++j) {
    const auto at = static_cast<std::size_t>(j);
    const std::string_view origin = preview.origins[at] == StartOrigin::given    ? "given"
                                    : preview.origins[at] == StartOrigin::solved ? "solved"
                                                                                 : "proposed";
    text += fmt::format("{},{},{}\n", csv_field(preview.estimate.parameter_names()[at]),
                        shortest(preview.estimate.parameters()[j]), origin);
  }
  return text;
}

std::string fit_csv(const Fit& fit, Level level, const Trust& trust, Intervals intervals) {
  std::string text = "name,value,standard_uncertainty,level,low,high,t,p,unit\n";
  for (const ParameterInterval& p : shown_intervals(fit, level, trust, intervals)) {
    text += fmt::format("{},{},{},{},{},{},{},{},{}\n", csv_field(p.name), csv_number(p.value),
                        csv_number(p.standard_uncertainty), csv_number(level), csv_number(p.low), csv_number(p.high),
                        csv_number(p.t), csv_number(p.p), csv_field(p.unit));
  }
  return text;
}

}  // namespace truecurve
