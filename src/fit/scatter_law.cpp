// Stated for each row, a share of the response, or a power of it.
#include "scatter_law.hpp"

#include <truecurve/base/error.hpp>

#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {

using Eigen::Index;

ScatterLaw::ScatterLaw(const Observations& observations, const Spread& spread)
    : stated_(observations.has_uncertainties()),
      power_given_(spread.is_given()),
      spread_(spread.is_given()),
      power_(spread.power()) {
  counted_ = !observations.observation_model().is_measured();
  if (spread_ && counted_) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a spread is asked for, but '{}' is counted: its scatter follows from its mean",
                                        observations.response().name),
                 .subject = "spread",
                 .remedy = "leave the spread away"});
  }
  if (spread_ && stated_) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a spread is asked for, but '{}' has stated uncertainties ({})",
                                        observations.response().name, observations.uncertainty_origin()),
                 .subject = "spread",
                 .remedy = fmt::format("choose one of the two: leave the spread away, or --u {}=none",
                                       observations.response().name)});
  }
  if (!std::isfinite(power_)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "the power of a spread must be finite",
                 .subject = "spread",
                 .value = fmt::format("{}", power_),
                 .remedy = "write power:1.5"});
  }
  if (observations.relative_uncertainty() > 0) {
    power_given_ = true;
    factor_ = observations.relative_uncertainty();
    power_ = 1;
  }
}

VectorXd ScatterLaw::at(const VectorXd& responses, const Observations& observations) const {
  if (!power_given_) return observations.uncertainties();
  VectorXd scatter(responses.size());
  for (Index i = 0; i < responses.size(); ++i) {
    scatter[i] = factor_ * (power_ == 0 ? 1 : std::pow(std::abs(responses[i]), power_));
    if (scatter[i] > 0 && std::isfinite(scatter[i])) continue;
    const auto row = observations.source_rows()[static_cast<std::size_t>(i)];
    throw Error(
        {.code = ErrorCode::unsuitable_row,
         .message = fmt::format("row {}: {} gives no scatter at {} = {}", row,
                                stated_ ? fmt::format("an uncertainty of {:.6g} %", 100 * factor_)
                                        : fmt::format("a spread of power {}", power_),
                                observations.response().name, responses[i]),
         .subject = fmt::format("row {}", row),
         .value = fmt::format("{}", responses[i]),
         .remedy = fmt::format("leave the row out (--leave-out {}), or state the scatter in another way", row)});
  }
  return scatter;
}

UncertaintyBasis ScatterLaw::basis(UncertaintyBasis asked, const Observations& observations) const {
  if (counted_) return asked == UncertaintyBasis::scatter ? asked : UncertaintyBasis::stated;
  if (asked == UncertaintyBasis::automatic) return stated_ ? UncertaintyBasis::stated : UncertaintyBasis::scatter;
  if (asked == UncertaintyBasis::stated && !stated_) {
    throw Error({.code = ErrorCode::bad_uncertainty,
                 .message = fmt::format("stated uncertainties are asked for, but none are given for '{}'",
                                        observations.response().name),
                 .subject = observations.response().name,
                 .remedy = "give them (--u NAME=COLUMN, NUMBER or PERCENT%), or let the scatter set the scale "
                           "(--uncertainty scatter)"});
  }
  return asked;
}

double ScatterLaw::scale(double chi_squared, double degrees, UncertaintyBasis asked) const {
  if (is_believed(asked)) return 1;
  return degrees > 0 ? std::sqrt(chi_squared / degrees) : 0;
}

NewObservation ScatterLaw::new_observation(const Observations& observations, bool transformed, UncertaintyBasis basis,
                                           double scale) const {
  if (counted_) return {};
  if (spread_) return {NewObservation::Kind::power, scale, power_};
  if (!stated_) return {transformed ? NewObservation::Kind::left_side : NewObservation::Kind::constant, scale};
  const double factor = is_believed(basis) ? 1 : scale;
  if (power_given_) return {NewObservation::Kind::percent, 100 * factor * factor_};
  const VectorXd& u = observations.uncertainties();
  if (u.minCoeff() == u.maxCoeff()) return {NewObservation::Kind::constant, factor * u[0]};
  const VectorXd relative = u.cwiseQuotient(observations.responses().cwiseAbs());
  if (relative.allFinite() && relative.maxCoeff() - relative.minCoeff() < 1e-9 * relative.maxCoeff()) {
    return {NewObservation::Kind::percent, 100 * factor * relative.mean()};
  }
  return {};
}

}  // namespace truecurve::detail
