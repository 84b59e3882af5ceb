// The law of the rows, and that of a new reading.
#include "scatter_law.hpp"

#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {

using Eigen::Index;

ScatterLaw::ScatterLaw(const Observations& observations, const Spread& spread)
    : model_(observations.observation_model()) {
  if (!spread.is_given()) return;
  if (!model_.is_measured()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a spread is given, but '{}' is counted: its scatter follows from its mean",
                                        observations.response().name),
                 .subject = "spread",
                 .remedy = "omit the spread"});
  }
  if (is_stated()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a spread is given, but '{}' has stated uncertainties ({})",
                                        observations.response().name, observations.uncertainty_origin()),
                 .subject = "spread",
                 .remedy = {"choose one of the two: omit the spread, or the stated uncertainties",
                            {Action::omit_uncertainty, observations.response().name}}});
  }
  if (!std::isfinite(spread.power()) || !std::isfinite(spread.taken_off())) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "the power of a spread, and what was taken off the readings, must be finite",
                 .subject = "spread",
                 .value = fmt::format("{}", spread.power()),
                 .remedy = "write power:1.5"});
  }
  model_ =
      ObservationModel::normal({.form = Scatter::Form::power, .power = spread.power(), .offset = spread.taken_off()});
}

VectorXd ScatterLaw::at(const VectorXd& responses, const Observations& observations) const {
  if (scatter().form == Scatter::Form::by_row) return as_eigen(observations.row_scatter());
  Scatter law = scatter();
  if (!is_stated()) law.scale = 1;
  VectorXd sizes(responses.size());
  for (Index i = 0; i < responses.size(); ++i) {
    sizes[i] = law.at(responses[i]);
    if (sizes[i] > 0 && std::isfinite(sizes[i])) continue;
    const auto row = observations.source_rows()[static_cast<std::size_t>(i)];
    throw Error({.code = ErrorCode::unsuitable_row,
                 .message = fmt::format(
                     "row {}: {} gives no scatter at {} = {}{}", row,
                     is_stated() ? fmt::format("an uncertainty of {:.6g} %", 100 * law.scale)
                                 : fmt::format("a spread of power {}", law.power),
                     observations.response().name, responses[i],
                     law.offset != 0 ? fmt::format(", from which {} was taken off", shortest(law.offset)) : ""),
                 .subject = fmt::format("row {}", row),
                 .value = fmt::format("{}", responses[i]),
                 .remedy = {"leave the row out",
                            {Action::leave_row_out, fmt::format("{}", row)},
                            ", or state the scatter in another way"}});
  }
  return sizes;
}

UncertaintyBasis ScatterLaw::basis(UncertaintyBasis asked, const Observations& observations) const {
  if (!model_.is_measured()) return asked == UncertaintyBasis::scatter ? asked : UncertaintyBasis::stated;
  if (asked == UncertaintyBasis::automatic) return is_stated() ? UncertaintyBasis::stated : UncertaintyBasis::scatter;
  if (asked == UncertaintyBasis::stated && !is_stated()) {
    throw Error({.code = ErrorCode::bad_uncertainty,
                 .message = fmt::format("stated uncertainties are to be used, but none are given for '{}'",
                                        observations.response().name),
                 .subject = observations.response().name,
                 .remedy = {"give them",
                            {Action::state_uncertainty, observations.response().name},
                            ", or let the scatter set the scale",
                            {Action::scale_by_scatter}}});
  }
  return asked;
}

double ScatterLaw::scale(double chi_squared, double degrees, UncertaintyBasis asked) const {
  if (is_believed(asked)) return 1;
  return degrees > 0 ? std::sqrt(chi_squared / degrees) : 0;
}

Scatter ScatterLaw::new_observation(const Observations& observations, bool transformed, UncertaintyBasis basis,
                                    double scale) const {
  using Form = Scatter::Form;
  Scatter unknown{.form = Form::by_row};
  const double factor = is_believed(basis) ? 1 : scale;
  switch (scatter().form) {
    case Form::constant:
      if (!is_stated()) return {.form = transformed ? Form::left_side : Form::constant, .scale = scale};
      return {.form = Form::constant, .scale = factor * scatter().scale};
    case Form::power:
      if (is_stated()) return {.form = Form::percent, .scale = 100 * factor * scatter().scale};
      // Of gross readings a calibration says it, which knows what was taken off.
      return scatter().offset != 0 ? unknown : Scatter{.form = Form::power, .scale = scale, .power = scatter().power};
    case Form::by_row: break;
    default: return unknown;
  }
  const auto u = as_eigen(observations.row_scatter());
  if (u.size() == 0) return unknown;
  if (u.minCoeff() == u.maxCoeff()) return {.form = Form::constant, .scale = factor * u[0]};
  const VectorXd relative = u.cwiseQuotient(as_eigen(observations.responses()).cwiseAbs());
  if (relative.allFinite() && relative.maxCoeff() - relative.minCoeff() < 1e-9 * relative.maxCoeff())
    return {.form = Form::percent, .scale = 100 * factor * relative.mean()};
  return unknown;
}

}  // namespace truecurve::detail
