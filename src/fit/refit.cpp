// The same fit to other rows.
#include "refit.hpp"

#include "../base/matrices.hpp"
#include "estimate_parts.hpp"

namespace truecurve::detail {

std::vector<Start> starts_at(const Model& model, const VectorXd& parameters) {
  std::vector<Start> starts;
  for (std::size_t j = 0; j < model.parameters().size() && !model.is_linear(); ++j)
    starts.push_back({model.parameters()[j], parameters[static_cast<Eigen::Index>(j)]});
  return starts;
}

FitOptions options_like(const Fit& made) {
  const EstimateParts& parts = parts_of(made.estimate());
  FitOptions options{.uncertainty = parts.basis,
                     .spread = made.spread(),
                     .starts = starts_at(parts.model, as_eigen(parts.parameters)),
                     .events_as_numbers = true};
  for (std::size_t j = 0; j < parts.limits.size(); ++j) {
    const Range& limits = parts.limits[j];
    if (std::isfinite(limits.low) || std::isfinite(limits.high))
      options.within.push_back({parts.model.parameters()[j], limits.low, limits.high});
  }
  return options;
}

Fit refit(const Fit& made, const Observations& observations) {
  return fit(made.model(), observations, options_like(made));
}

VectorXd reading_uncertainties(const Fit& fit, const Observations& rows) {
  // A share of the response is taken of the curve where it is read.
  if (!rows.has_uncertainties() || rows.relative_uncertainty() > 0) return {};
  return as_eigen(rows.uncertainties()) * fit.estimate().scale();
}

}  // namespace truecurve::detail
