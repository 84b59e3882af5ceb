// Looks whether fits are of the same rows.
#include "same_observations.hpp"

#include <truecurve/base/error.hpp>

#include <algorithm>

#include <fmt/format.h>

namespace truecurve::detail {

void require_same_observations(std::span<const Fit> fits) {
  const auto fail = [](const std::string& message) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = message,
                 .subject = "fits",
                 .remedy = "fit all candidates to the same rows of the same response (fit_candidates does)"});
  };
  if (fits.empty()) fail("there is no fit to compare");
  const Observations& first = fits.front().observations();
  for (const Fit& fit : fits) {
    const Observations& these = fit.observations();
    if (these.response().name != first.response().name)
      fail(fmt::format("one fit is of '{}', another of '{}'", first.response().name, these.response().name));
    const bool same_rows = std::equal(first.source_rows().begin(), first.source_rows().end(),
                                      these.source_rows().begin(), these.source_rows().end());
    if (!these.observation_model().is_like(first.observation_model())) {
      fail(fmt::format("'{}' was fitted to {}, '{}' to {}: their likelihoods are of different distributions",
                       fits.front().model().text(), name(first.observation_model().kind()), fit.model().text(),
                       name(these.observation_model().kind())));
    }
    if (!same_rows || first.responses() != these.responses() || first.sizes() != these.sizes())
      fail(fmt::format("'{}' was fitted to other rows than '{}'", fit.model().text(), fits.front().model().text()));
  }
}

}  // namespace truecurve::detail
