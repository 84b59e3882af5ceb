// The sentences of a fit's page.
#include <truecurve/assess/counted.hpp>

#include "counted_parts.hpp"
#include "fit_parts.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// Beyond this relative uncertainty weights that follow the curve and the curvature of a transform make intervals
// approximate: between 92 and 96 % of 95 % ones cover.
constexpr double coarse_uncertainty = 0.15;

// How the scatter was said to grow with the response.
std::string growth_text(const Fit& fit) {
  const double power = fit.spread().power();
  return power == 0     ? "the same everywhere"
         : power == 1   ? "proportional to it"
         : power == 0.5 ? "like that of counts, proportional to its square root"
                        : fmt::format("proportional to its power {}", power);
}

}  // namespace

// A value with its uncertainty; of a curve without scatter as many digits as a double holds for sure.
std::string value_text(const Fit& fit, double value, double uncertainty) {
  return fit.is_exact() ? fmt::format("{:.15g}", value) : with_uncertainty(value, uncertainty);
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
  constexpr double worth_saying = 0.05;
  if (std::isnan(q.chi_squared_p)) return "";
  const double two_sided = 2 * std::min(q.chi_squared_p, 1 - q.chi_squared_p);
  const std::string verdict = two_sided >= worth_saying ? "consistent with the stated uncertainties"
                              : q.chi_squared_p < 0.5
                                  ? "the residuals are larger than the stated uncertainties explain"
                                  : "the residuals are smaller than the stated uncertainties explain";
  return fmt::format(
      "Chi-squared is {} with {}. If the curve and the stated uncertainties are right, it would be at least this large "
      "with probability {}: {}.",
      rounded(q.chi_squared, 4), degrees_of_freedom_text(q.degrees_of_freedom), probability_text(q.chi_squared_p),
      verdict);
}

std::string answer_sentence(const Fit& fit, std::span<const ParameterInterval> parameters) {
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

// What a transform assumes about the scatter of the measured response.
Advice scatter_remark(const Fit& fit) {
  const std::string& y = fit.observations().response().name;
  if (fit.spread().is_given()) return "";  // said with the uncertainties
  if (!fit.model().is_transformed() || fit.observations().has_uncertainties() || fit.is_counted()) return "";
  if (fit.model().implied_scatter() == "1") return "";  // 2*y scatters equally where y does
  return {
      fmt::format("Equal scatter of {} is assumed; for {} itself this means a scatter proportional to {}. Another one "
                  "can be chosen",
                  fit.model().left_side(), y, fit.model().implied_scatter()),
      {Action::choose_scatter, "constant|proportional|counts|power:p"},
      "."};
}

}  // namespace truecurve::detail
