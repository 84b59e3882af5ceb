// The tables of a fit's page.
#include <truecurve/assess/variance.hpp>
#include <truecurve/data/resolution.hpp>

#include "fit_parts.hpp"
#include "parts.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
PageTable parameters_table(const Fit& fit, std::span<const ParameterInterval> parameters, Level level,
                           IntervalKind kind) {
  const bool has_base =
      std::any_of(parameters.begin(), parameters.end(), [](const ParameterInterval& p) { return p.null_value != 0; });
  PageTable table(
      {{"name", Align::left},
       {"value", Align::point},
       {"standard uncertainty", Align::point},
       {level_text(level) + (kind == IntervalKind::profile ? " profile interval" : " interval"), Align::left},
       {"t", Align::point},
       {has_base ? "p (H0)" : "p (H0: = 0)", Align::left},
       {"unit", Align::left}});
  add_held(table, fit.model());
  for (std::size_t j = 0; j < parameters.size(); ++j) {
    const ParameterInterval& p = parameters[j];
    const bool known = std::isfinite(p.standard_uncertainty);
    const bool at_limit = fit.estimate().is_at_limit(j);
    const bool open = fit.estimate().is_open(j);
    table.add({p.name,
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
               number_or_dash(p.t, 4),
               std::isnan(p.p) ? "-" : probability_text(p.p) + (has_base ? fmt::format(" (= {})", p.null_value) : ""),
               p.unit});
  }
  return table;
}

PageTable quality_table(const Fit& fit, const Quality& q) {
  PageTable table({{"", Align::left}, {"", Align::left}, {"", Align::left}});
  const auto row = [&table](const char* what, double value, int digits, const std::string& unit,
                            const std::string& remark) {
    table.add({what, std::isnan(value) ? "-" : with_unit(rounded(value, digits), unit), remark});
  };
  const Observations& observations = fit.observations();
  table.add({"data points n", fmt::format("{}", fit.size()), parameters_text(fit.estimate(), q.degrees_of_freedom)});
  const bool transformed = fit.model().is_transformed();
  const bool weighted = fit.left_side_observations().row_scatter().size() != 0;
  const std::string scale = transformed ? "on the scale of " + fit.model().left_side() : "";
  row("residual standard deviation S", q.residual_sd, 4, transformed ? "" : observations.response().unit,
      scale + (weighted ? (transformed ? ", unweighted" : "unweighted") : ""));
  if (transformed)
    row("  on the measured scale", q.measured_scale.residual_sd, 4, observations.response().unit,
        fmt::format("of {}, unweighted", observations.response().name));
  if (observations.has_uncertainties()) {
    row("chi-squared", q.chi_squared, 4, "", std::isnan(q.chi_squared_p) ? "" : p_equals(q.chi_squared_p));
    row("chi-squared / degrees of freedom", q.reduced_chi_squared, 4, "",
        std::isnan(q.birge_ratio) ? "" : "Birge ratio " + rounded(q.birge_ratio, 4));
  }
  const std::string about =
      fit.model().is_judged_about_the_mean()
          ? fmt::format("about the {}mean", weighted ? "weighted " : "")
          : fmt::format("about zero{}: the model has no constant term", weighted ? ", weighted" : "");
  row("R²", q.r_squared, 6, "", transformed ? fmt::format("{}, {}", scale, about) : about);
  if (transformed || weighted)
    row("  on the measured scale", q.measured_scale.r_squared, 6, "",
        fmt::format("of {}, unweighted, about {}", observations.response().name,
                    transformed || fit.model().is_judged_about_the_mean() ? "the mean" : "zero"));
  row("adjusted R²", q.adjusted_r_squared, 6, "", "");
  if (fit.model().is_straight_line()) row("correlation coefficient r", q.correlation_coefficient, 6, "", "");
  row("log-likelihood", q.log_likelihood, 6, "",
      transformed ? fmt::format("of the measured {}", observations.response().name) : "");
  row("AIC, AICc", q.aic, 6, "", std::isnan(q.aicc) ? "AICc needs more rows" : rounded(q.aicc, 6));
  row("BIC", q.bic, 6, "", "");
  return table;
}

// What lack of fit is judged by where the replicates hardly differ.
std::string replicates_note(const Fit& fit) {
  const auto split = lack_of_fit(fit);
  if (!split) return "";
  if (std::isnan(split->lack_of_fit.f)) {
    return "The replicates agree exactly: there is no scatter by which lack of fit could be judged.";
  }
  if (split->pure_error.mean_square < fit.rounding_mean_square()) {
    return fmt::format(
        "The replicates agree better than readings in steps of {} can: lack of fit is judged by the rounding.",
        shortest(fit.resolution()));
  }
  return "";
}

PageTable variance_page_table(const Fit& fit) {
  const VarianceTable split_up = variance_table(fit);
  PageTable table({{"source", Align::left},
                   {"sum of squares", Align::point},
                   {"degrees of freedom", Align::right},
                   {"mean square", Align::point},
                   {"F", Align::point},
                   {"p", Align::left}});
  const auto add = [&table](const VarianceLine& line, const std::string& name) {
    table.add({name, fmt::format("{:.6g}", line.sum_of_squares), fmt::format("{}", line.degrees_of_freedom),
               std::isnan(line.mean_square) ? "" : fmt::format("{:.6g}", line.mean_square),
               std::isnan(line.f) ? "" : fmt::format("{:.4g}", line.f),
               std::isnan(line.p) ? "" : probability_text(line.p)});
  };
  add(split_up.explained, "explained");
  if (split_up.sequential.size() > 1) {
    for (const VarianceLine& line : split_up.sequential) add(line, "  by " + line.source);
  }
  add(split_up.residual, "residual");
  if (const auto split = lack_of_fit(fit)) {
    add(split->lack_of_fit, "  lack of fit");
    add(split->pure_error, "  pure error");
  }
  add(split_up.total, "total");
  return table;
}

namespace {

// Those that have an uncertainty.
std::vector<std::size_t> correlated(const Matrix& correlations) {
  std::vector<std::size_t> shown;
  for (std::size_t j = 0; j < correlations.rows(); ++j) {
    if (std::isfinite(correlations(j, j))) shown.push_back(j);
  }
  return shown;
}

}  // namespace

std::string correlation_sentence(const Fit& fit) {
  const Matrix r = correlation(fit.estimate());
  const std::vector<std::size_t> shown = correlated(r);
  const auto& names = fit.estimate().parameter_names();
  return shown.size() == 2 ? fmt::format("The correlation between {} and {} is {:.3f}.", names[shown[0]],
                                         names[shown[1]], r(shown[0], shown[1]))
                           : "";
}

PageTable correlation_table(const Fit& fit) {
  const Matrix r = correlation(fit.estimate());
  const std::vector<std::size_t> shown = correlated(r);
  if (shown.size() < 3) return {};
  const auto& names = fit.estimate().parameter_names();
  PageTable table({{"correlation", Align::left}});
  for (const std::size_t j : shown) table.headings.push_back({names[j], Align::right});
  for (std::size_t i = 0; i < shown.size(); ++i) {
    std::vector<std::string> cells = {names[shown[i]]};
    for (std::size_t j = 0; j < shown.size(); ++j)
      cells.push_back(j > i ? "" : fmt::format("{:.3f}", r(shown[i], shown[j])));
    table.add(std::move(cells));
  }
  return table;
}

}  // namespace truecurve::detail
