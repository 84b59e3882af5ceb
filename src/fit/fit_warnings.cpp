// The warnings of a fit.
#include "fit_warnings.hpp"

#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/fit/separation.hpp>

#include "../base/matrices.hpp"
#include "column_evaluator.hpp"
#include "estimate_parts.hpp"
#include "left_side.hpp"
#include "weights.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// Beyond this condition even the refined result of a large problem has lost half its digits.
constexpr double doubtful_condition = 1e7;

// A minimum that so few of so many descents met may not be the lowest.
constexpr int few_met = 3;
constexpr int many_descents = 10;

// Where the curve of a counted response runs against an end of what a mean may be, as a straight line for a share does.
std::string end_reached(const Solved& solved, const Observations& observations) {
  constexpr double close = 1e-3;
  const BoundModel& bound = *data_of(solved.model).bound;
  const ResponseKernel& kernel = observations.observation_model().kernel();
  const VectorXd mean =
      response_at(bound, curve_at(bound, solved.solution.working, observations), predictor_pointers(observations))
          .value;
  const double size = std::isfinite(kernel.highest_mean()) ? 1 : mean.maxCoeff();
  for (Index i = 0; i < mean.size(); ++i) {
    const bool low = mean[i] - kernel.lowest_mean() < close * size;
    const bool high = kernel.highest_mean() - mean[i] < close * size;
    if (!low && !high) continue;
    std::string at;
    for (std::size_t k = 0; k < observations.predictors().size(); ++k)
      at += fmt::format("{}{} = {}", k == 0 ? "" : ", ", observations.predictors()[k].name,
                        shortest(observations.predictor(k)[i]));
    const bool events = observations.observation_model().kind() == ResponseKind::events;
    return fmt::format(
        " The curve runs against {} in row {} ({}), and a {} can't go beyond: choose a curve that stays inside{}.",
        shortest(low ? kernel.lowest_mean() : kernel.highest_mean()),
        observations.source_rows()[static_cast<std::size_t>(i)], at, events ? "probability" : "mean",
        events ? ", for one edge share-logistic say" : "");
  }
  return "";
}

// Whether two readings differ by less than the step that could have made the scatter: quicker to see than the step.
bool differ_by_less_than_a_notable_step(const Fit& fit) {
  if (fit.model().is_transformed() || Weights(fit.left_side_observations()).are_given()) return false;
  const double dof = fit.degrees_of_freedom();
  const double quantile = dof + 2 * std::sqrt(2 * dof) + 4;  // chi-squared's for 5 % lies below it
  const double step = std::sqrt(12 * fit.chi_squared() / quantile);
  const auto y = as_eigen(fit.observations().responses());
  return std::any_of(y.begin(), y.end(), [&](double value) {
    const double difference = std::abs(value - y[0]);
    return 0 < difference && difference < step;
  });
}

}  // namespace

void warn_of_search(const Solved& solved, const Observations& observations, UncertaintyBasis basis, double dof,
                    bool exact, std::vector<Warning>& warnings) {
  if (exact && basis == UncertaintyBasis::scatter) {
    warnings.push_back({WarningCode::exact,
                        "The curve passes through every row to rounding: there is no scatter from which uncertainties, "
                        "tests or criteria could be had."});
  } else if (solved.report.stop == StopReason::rounding) {
    warnings.push_back(
        {WarningCode::rounding,
         "The residuals are hardly larger than the rounding of the numbers: the search came as close to the "
         "minimum as that allows."});
  }
  if (dof == 0) {
    warnings.push_back(
        {WarningCode::no_degrees_of_freedom,
         fmt::format("{} determine{} {} exactly: nothing is left to judge the scatter or the curve by{}.",
                     plural(observations.size(), "row"), observations.size() == 1 ? "s" : "",
                     plural(observations.size(), "parameter"),
                     basis == UncertaintyBasis::scatter ? ", so no uncertainties can be given" : "")});
  }
  if (!solved.report.converged) {
    warnings.push_back(
        {WarningCode::not_converged,
         fmt::format("The search did not converge ({}): the numbers are those of the "
                     "best curve so far and should not be used.{}",
                     name(solved.report.stop),
                     observations.observation_model().is_measured() ? "" : end_reached(solved, observations))});
  }
  if (solved.report.converged && solved.report.descents >= many_descents && solved.report.met_best < few_met &&
      !solved.report.built_up) {
    warnings.insert(
        warnings.begin(),
        {WarningCode::few_met, fmt::format("Only {} of {} descents of the search led to this minimum: a lower one may "
                                           "have been missed. Give starting values.",
                                           solved.report.met_best, solved.report.descents)});
  }
  const LinearSolution& solution = solved.solution;
  if (solved.model.is_linear() && solution.condition > doubtful_condition &&
      solution.method != SolverMethod::double_double_qr) {
    warnings.push_back(
        {WarningCode::ill_conditioned,
         fmt::format("The columns of the model are nearly dependent (condition {:.1e}): expect about {} "
                     "correct digits.",
                     solution.condition, std::max(0, 16 - static_cast<int>(std::log10(solution.condition))))});
  }
}

void warn_of_parameters(const Estimate& estimate, std::vector<Warning>& warnings) {
  const BoundModel& bound = *data_of(estimate.model()).bound;
  const auto warn = [&warnings](WarningCode code, const std::string& brief, const std::string& meaning) {
    warnings.push_back({code, brief + ": " + meaning, brief});
  };
  for (Index j = 0; j < as_eigen(estimate.parameters()).size(); ++j) {
    const std::string& name = estimate.parameter_names()[static_cast<std::size_t>(j)];
    const double value = estimate.parameters()[j];
    if (estimate.is_open(j)) {
      warn(
          WarningCode::open_end,
          fmt::format("These data only show that {} is {} (95 %)", name, end_text(*estimate.open_end())),
          fmt::format("beyond that the curve hardly changes. It is held at {:.3g} and has no uncertainty, and those of "
                      "the others hold only for that value. Measure where the curve is steep.",
                      value));
    } else if (estimate.is_at_limit(j)) {
      warn(
          WarningCode::at_limit, fmt::format("{} ended at its limit {:.6g}", name, value),
          "it is held there, has no uncertainty of its own, and those of the others hold only if it truly lies there.");
    } else if (std::find(bound.entangled.begin(), bound.entangled.end(), static_cast<int>(j)) !=
                   bound.entangled.end() &&
               bound.place_signs[static_cast<std::size_t>(j)] != 0 && estimate.ranges().size() == 1) {
      const Range& range = estimate.ranges()[0];
      const bool is_itself = bound.place_signs[static_cast<std::size_t>(j)] > 0;
      const double place = is_itself ? value : -value;
      if (range.low <= place && place <= range.high) continue;
      warn(WarningCode::place_outside_data,
           fmt::format("{} = {:.6g} is a place outside the data, which reach from {:.6g} to {:.6g}",
                       is_itself ? name : fmt::format("{} = -{}", estimate.predictors()[0].name, name), place,
                       range.low, range.high),
           "the form of the curve there is assumed, not measured.");
    }
  }
}

void warn_of_separation(const Estimate& estimate, const Observations& observations, bool is_separated,
                        std::vector<Warning>& warnings) {
  if (estimate.open_end()) {
    if (const auto separated = separation_along(observations))
      warnings.insert(warnings.begin(),
                      {WarningCode::separated, separation_text(*separated, observations.response().name)});
  }
  if (is_separated)
    warnings.insert(warnings.begin(),
                    {WarningCode::separated,
                     "A combination of the predictors separates the outcomes: along it the likelihood grows without "
                     "limit, and these data bound the parameters on one side only."});
}

void refuse_pinned(const Fit& fit) {
  constexpr double next_to_nothing = 1e-6;
  const double taken_off = fit.spread().taken_off();
  const VectorXd curve = (as_eigen(fit.fitted_response()).array() + taken_off).abs();
  const VectorXd y = (as_eigen(fit.observations().responses()).array() + taken_off).abs();
  for (Index i = 0; i < y.size(); ++i) {
    if (!(y[i] <= next_to_nothing * y.maxCoeff()) || !(curve[i] <= next_to_nothing * curve.maxCoeff())) continue;
    const auto row = fit.observations().source_rows()[static_cast<std::size_t>(i)];
    throw Error(
        {.code = ErrorCode::not_supported,
         .message = fmt::format("row {} ({} = {}): a scatter that grows from nothing with the curve pins the "
                                "curve to a reading of zero, whose weight has no limit",
                                row, fit.observations().response().name, shortest(fit.observations().responses()[i])),
         .subject = "spread",
         .remedy = {"state the uncertainties",
                    {Action::state_uncertainty},
                    ", choose a constant scatter",
                    {Action::choose_scatter, "constant"},
                    ", or leave the row out",
                    {Action::leave_row_out, fmt::format("{}", row)},
                    " and say that this biases the curve upwards"}});
  }
}

void warn_of_rounding(const Fit& fit, std::vector<Warning>& warnings) {
  constexpr double share = 0.05;
  const double dof = fit.degrees_of_freedom();
  if (!(dof > 0) || differ_by_less_than_a_notable_step(fit)) return;
  const double rounding = fit.rounding_mean_square();
  if (!(rounding > 0) || fit.residuals_are_rounding()) return;
  if (chi_squared_upper(fit.chi_squared() / rounding, dof) < share) return;
  warnings.push_back(
      {WarningCode::rounded_readings,
       fmt::format(
           "The scatter is no larger than rounding to steps of {} would produce: readings of {} with more digits "
           "would lower the uncertainties. The residual checks allow for the rounding.",
           shortest(fit.resolution()), fit.observations().response().name)});
}

}  // namespace truecurve::detail
