// Deviance in place of sums of squares.
#include "counted_parts.hpp"

#include <truecurve/base/distributions.hpp>

#include "words.hpp"

#include <cmath>
#include <numeric>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

constexpr double noticeable = 0.05;
constexpr std::size_t refitted_rows = 300;  // at most so many for the leave-one-out form

bool are_events(const Fit& fit) { return fit.observations().observation_model().kind() == ResponseKind::events; }

std::string whole_text(double number) { return fmt::format("{:.10g}", number); }

}  // namespace

std::string counting_sentence(const Fit& fit) {
  const Observations& rows = fit.observations();
  const std::string& y = rows.response().name;
  std::string text;
  const bool is_own = rows.observation_model().kind() == ResponseKind::other;
  if (is_own) {
    text = fmt::format("{} scatters as a kernel of its own says, and the curve is its mean.", y);
  } else if (are_events(fit)) {
    const std::string event = rows.event().empty() ? y : rows.event();
    text = rows.has_sizes() ? fmt::format(
                                  "'{}' counts the events among the trials of its row ({}), and the curve is their "
                                  "probability.",
                                  event, rows.size_origin())
                            : fmt::format("Each row is one trial, and the curve is the probability of '{}'.", event);
  } else {
    text =
        rows.has_sizes()
            ? fmt::format("{} is a count, its exposure {}, and the curve is the mean count for one unit of exposure.",
                          y, rows.size_origin())
            : fmt::format("{} is a count, and the curve is its mean.", y);
  }
  text += fmt::format(" The parameters have the greatest likelihood{}.", is_own            ? ""
                                                                         : are_events(fit) ? " (binomial distribution)"
                                                                                           : " (Poisson distribution)");
  if (fit.estimate().has_known_scale()) {
    text += " Standard uncertainties come from the expected information.";
  } else if (std::isfinite(fit.estimate().scale())) {
    text += fmt::format(
        " Standard uncertainties come from the expected information, multiplied by {}, the root of the dispersion.",
        rounded(fit.estimate().scale(), 3));
  }
  return text;
}

std::string deviance_sentences(const Fit& fit, const CountedQuality& q) {
  std::string text;
  const char* one_for_all = are_events(fit) ? "one probability" : "one mean";
  if (std::isfinite(q.dependence_p)) {
    const bool several = fit.observations().predictors().size() > 1;
    const std::string& x = fit.observations().predictors().empty() ? "" : fit.observations().predictors()[0].name;
    text += fmt::format("Against {} for all rows the deviance falls by {} ({}, {}): {} on {} {}detected.", one_for_all,
                        rounded(q.null_deviance - q.deviance, 4),
                        fit.estimate().has_known_scale()
                            ? fmt::format("chi-squared, {}", degrees_of_freedom_text(q.dependence_degrees))
                            : fmt::format("F = {}", rounded(q.dependence_statistic / q.dependence_degrees, 4)),
                        p_equals(q.dependence_p), q.dependence_p < noticeable ? "a dependence" : "no dependence",
                        several ? "the predictors" : x, q.dependence_p < noticeable ? "is " : "");
  }
  if (std::isfinite(q.pearson_p) && fit.estimate().has_known_scale()) {
    const double two_sided = 2 * std::min(q.pearson_p, 1 - q.pearson_p);
    text += fmt::format(
        " Pearson's chi-squared is {} with {}; if curve and distribution are right, it would be at least this large "
        "with "
        "probability {}: {}.",
        rounded(q.pearson_chi_squared, 4), degrees_of_freedom_text(q.degrees_of_freedom), probability_text(q.pearson_p),
        two_sided >= noticeable ? "no scatter beyond that of the distribution was detected"
        : q.pearson_p < 0.5     ? "the data scatter more than the distribution explains, or the curve is unsuitable"
                                : "the data scatter less than independent ones would");
  } else if (!q.is_grouped && q.degrees_of_freedom > 0 &&
             fit.observations().observation_model().kind() != ResponseKind::other) {
    text += fmt::format(
        " {} in too many rows for the deviance to have a chi-squared distribution: it does not tell whether the curve "
        "fits.",
        are_events(fit) ? "Fewer than five events or non-events are expected" : "Fewer than five counts are expected");
  }
  return text;
}

PageTable counted_quality_table(const Fit& fit, const Quality& quality, const CountedQuality& q) {
  PageTable table({{"", Align::left}, {"", Align::left}, {"", Align::left}});
  const Observations& rows = fit.observations();
  table.add({"rows n", fmt::format("{}", fit.size()), parameters_text(fit.estimate(), q.degrees_of_freedom)});
  const auto sum = [](const Vector& values) { return std::accumulate(values.begin(), values.end(), 0.0); };
  const double numbers = sum(rows.counted_numbers());
  if (are_events(fit)) {
    table.add({"events, trials", whole_text(numbers), whole_text(sum(rows.sizes()))});
  } else {
    table.add(
        {"counts in all", whole_text(numbers), rows.has_sizes() ? "exposure " + whole_text(sum(rows.sizes())) : ""});
  }
  const auto p = [](double value) { return std::isnan(value) ? "" : p_equals(value); };
  table.add({"deviance", number_or_dash(q.deviance, 4), p(q.deviance_p)});
  table.add({are_events(fit) ? "  with one probability for all" : "  with one mean for all",
             number_or_dash(q.null_deviance, 4), ""});
  table.add({"Pearson's chi-squared", number_or_dash(q.pearson_chi_squared, 4), p(q.pearson_p)});
  table.add({"dispersion", number_or_dash(q.dispersion, 4), "Pearson's chi-squared / degrees of freedom"});
  table.add({"log-likelihood", number_or_dash(quality.log_likelihood, 6), "with all constants"});
  table.add({"AIC, AICc", number_or_dash(quality.aic, 6),
             std::isnan(quality.aicc)
                 ? (std::isnan(quality.aic) ? "not with an estimated dispersion" : "AICc needs more rows")
                 : rounded(quality.aicc, 6)});
  table.add({"BIC", number_or_dash(quality.bic, 6), ""});
  if (std::isfinite(q.rightly_told)) {
    const double left_out = fit.size() <= refitted_rows && fit.solver().converged && !fit.estimate().open_end()
                                ? rightly_told_left_out(fit)
                                : not_a_number;
    table.add({"trials on the right side of 1/2", fmt::format("{:.1f} %", 100 * q.rightly_told),
               std::isnan(left_out) ? "" : fmt::format("{:.1f} % with each row left out in turn", 100 * left_out)});
  }
  return table;
}

PageTable groups_table(const Fit& fit, const CountedQuality& q) {
  if (q.groups.empty()) return {};
  const bool events = are_events(fit);
  PageTable table({{events ? "fitted probability" : "fitted mean", Align::left},
                   {events ? "trials" : "exposure", Align::right},
                   {events ? "events observed" : "counts observed", Align::right},
                   {"expected", Align::point}});
  for (const CountedGroup& group : q.groups) {
    const std::string low = rounded(group.lowest_mean, 3);
    const std::string high = rounded(group.highest_mean, 3);
    table.add({low == high ? low : fmt::format("{} to {}", low, high), whole_text(group.size),
               whole_text(group.observed), fmt::format("{:.2f}", group.expected)});
  }
  return table;
}

}  // namespace truecurve::detail
