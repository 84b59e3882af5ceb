// The sentences of a calibration.
#include "calibration_words.hpp"

#include <truecurve/base/distributions.hpp>

#include <algorithm>
#include <cmath>
#include <span>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

constexpr std::size_t fewest_levels_kept = 4;
constexpr std::size_t few_levels = 5;
constexpr double counted_otherwise = 0.01;

std::string four_digits(double value) { return fmt::format("{:.4g}", value); }

Advice counted_suggestion_of(const CountedScatter& scatter) {
  if (std::isnan(scatter.p))
    return scatter.degrees_of_freedom > 0
               ? "The counts are too few to tell whether the replicates scatter as counts do."
               : "Without replicates it can't be seen whether the readings scatter as counts do.";
  const std::string of = fmt::format("chi-squared {} with {}, {}", four_digits(scatter.statistic),
                                     degrees_of_freedom_text(scatter.degrees_of_freedom), p_equals(scatter.p));
  if (!(scatter.p < counted_otherwise)) return fmt::format("No scatter beyond that of counts is detected ({}).", of);
  return {
      fmt::format("The replicates scatter more than counts do ({}): the intervals and limits are too narrow. To take "
                  "the scatter from the readings, calibrate them as measured signals that scatter like counts",
                  of),
      {Action::measure_counts},
      "."};
}

// Whether the weightings differ much in the scatter at amount 0.
bool knows_little_of_zero(const CalibrationCurve& curve) {
  constexpr double share = 0.05;
  constexpr double much = 4;
  std::vector<std::pair<double, double>> scatters;
  for (const Weighting& w : curve.weightings) scatters.emplace_back(w.scatter.at(-curve.scatter.offset), w.weight);
  std::sort(scatters.begin(), scatters.end());
  const auto quantile = [&scatters](double p) {
    double sum = 0;
    for (const auto& [scatter, weight] : scatters) {
      sum += weight;
      if (sum >= p) return scatter;
    }
    return scatters.back().first;
  };
  return !scatters.empty() && quantile(1 - share) > much * quantile(share);
}

}  // namespace

// The highest level up to which the scatter is the same; NaN where no restriction helps.
double equal_up_to(const std::vector<CalibrationLevel>& levels) {
  for (std::size_t count = levels.size() - 1; count >= fewest_levels_kept; --count) {
    if (test_levels(std::span(levels).first(count)).equal_scatter.is_equal) return levels[count - 1].amount;
  }
  return not_a_number;
}

Advice suggestion_of(const Calibration& c) {
  if (c.readings.are_counts) return counted_suggestion_of(c.counted_scatter);
  const EqualScatter& e = c.equal_scatter;
  if (std::isnan(e.family_p)) {
    const auto replicated = std::count_if(c.levels.begin(), c.levels.end(),
                                          [](const CalibrationLevel& level) { return level.readings.size() > 1; });
    return replicated > 1 ? "The replicates of each level are equal: there is no scatter that could be compared."
                          : "Without replicates at two levels or more the scatter can't be compared between levels.";
  }
  if (e.is_equal) {
    return fmt::format(
        "No difference of scatter between the levels is detected ({} for all tests together): equal "
        "weights {}.",
        p_equals(e.family_p),
        c.options.scatter.kind == SignalScatter::Kind::constant ? "are acceptable" : "would be acceptable");
  }
  Advice text =
      fmt::format("The scatter differs between the levels ({} for all tests together).", p_equals(e.family_p));
  if (!c.suspicious.empty()) text += " Look at the suspicious readings first: one mistyped replicate can cause this.";
  if (c.options.scatter.kind == SignalScatter::Kind::constant) {
    const bool can_weigh = std::any_of(c.alternatives.begin(), c.alternatives.end(),
                                       [](const Alternative& a) { return a.name.starts_with("weights"); });
    text += can_weigh ? Advice{" Weights from the levels' scatter",
                               {Action::choose_scatter, "both"},
                               " use all levels and are suggested."}
                      : Advice{" Weights", {Action::choose_scatter}, " need replicates at three levels."};
    const double highest = equal_up_to(c.levels);
    if (std::isfinite(highest))
      text +=
          {fmt::format(" Up to {} no difference is detected; equal weights are acceptable there", shortest(highest)),
           {Action::restrict_range, ".." + shortest(highest)},
           "."};
  } else {
    text += " The chosen weights allow for this.";
  }
  return text;
}

std::string cautious_choice(const std::vector<LimitRoute>& routes) {
  const LimitRoute* largest = nullptr;
  for (const LimitRoute& route : routes) {
    if (std::isfinite(route.detection) && (largest == nullptr || route.detection > largest->detection))
      largest = &route;
  }
  if (largest == nullptr) return "No route gives a limit within reach of the curve.";
  const bool states_errors =
      largest->route == LimitRouteKind::critical_value_and_power ||
      largest->route == LimitRouteKind::prediction_bands ||
      (largest->route == LimitRouteKind::counts_paired_blank || largest->route == LimitRouteKind::counts_known_blank);
  return fmt::format("The largest detection limit, and so the cautious choice, is that of the route {}{}.",
                     name(largest->route), states_errors ? "" : ", which has no stated error rates");
}

void add_remarks(Calibration& c, double slope) {
  if (c.fit.residuals_are_rounding() && !c.readings.are_counts)
    c.remarks.push_back(
        "The curve passes through every reading to rounding: there is no scatter from which uncertainties, tests or "
        "detection limits could be had.");
  c.remarks.insert(c.remarks.end(), c.readings.remarks.begin(), c.readings.remarks.end());
  if (slope < 0) c.remarks.push_back("The signal falls with the amount: the slope is negative.");
  if (c.levels.size() < few_levels)
    c.remarks.push_back(fmt::format("With only {} levels linearity can hardly be judged.", c.levels.size()));
  const auto [fewest, most] = std::minmax_element(
      c.levels.begin(), c.levels.end(),
      [](const CalibrationLevel& a, const CalibrationLevel& b) { return a.readings.size() < b.readings.size(); });
  if (fewest->readings.size() != most->readings.size())
    c.remarks.push_back(
        fmt::format("The levels have between {} and {} readings.", fewest->readings.size(), most->readings.size()));
  const CalibrationLevel& lowest = c.levels.front();
  const bool rises = !(slope < 0);
  const double lowest_gross = lowest.mean + c.curve.blank;
  if (c.blank.count > 0 && lowest.amount > 0 && (rises ? c.blank.mean > lowest_gross : c.blank.mean < lowest_gross)) {
    c.remarks.push_back(
        fmt::format("The mean blank ({}) lies beyond the mean of the lowest standard ({} at {}): blank or "
                    "standard may be contaminated, or the standard is below the detection limit.",
                    four_digits(c.blank.mean), four_digits(lowest_gross), shortest(lowest.amount)));
  }
  if (c.curve.estimate.has_known_scale() && !c.readings.are_counts && c.degrees_of_freedom > 0) {
    const double p = chi_squared_upper(c.chi_squared, c.degrees_of_freedom);
    if (p < 0.01)
      c.remarks.push_back(
          fmt::format("Chi-squared is {} with {} ({}): the residuals are larger than the stated uncertainties explain.",
                      four_digits(c.chi_squared), degrees_of_freedom_text(c.degrees_of_freedom), p_equals(p)));
  }
  if (c.options.scatter.kind == SignalScatter::Kind::both && !(c.blank.count >= 2) && knows_little_of_zero(c.curve))
    c.remarks.push_back(
        "These standards hardly tell how much a reading scatters at amount 0: limits and intervals near it are wide, "
        "on "
        "the safe side. Blanks would tell.");
  // Two tests of one question: Bonferroni.
  const double lack = std::isnan(c.linearity.lack_of_fit_p) ? 1 : c.linearity.lack_of_fit_p;
  const double bent = std::isnan(c.linearity.mandel_p) ? 1 : c.linearity.mandel_p;
  if (2 * std::min(lack, bent) < curved_line) {
    c.remarks.push_back(fmt::format(
        "The level means do not lie on the {} ({}): restrict the range, or calibrate with {}.",
        c.model.is_straight_line() ? "straight line" : "curve",
        lack < bent ? "lack of fit p = " + probability_text(lack) : "Mandel's test p = " + probability_text(bent),
        c.model.is_straight_line() ? "a curve" : "another"));
  }
}

}  // namespace truecurve::detail
