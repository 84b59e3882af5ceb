// The same fit to other rows.
#include "refit.hpp"

namespace truecurve::detail {

FitOptions options_like(const Fit& made) {
  const EstimateParts& parts = made.estimate().parts();
  FitOptions options{.uncertainty = parts.basis, .spread = made.spread(), .events_as_numbers = true};
  const auto& names = parts.model.parameters();
  for (std::size_t j = 0; j < names.size(); ++j) {
    const double value = parts.parameters[static_cast<Eigen::Index>(j)];
    if (!parts.limits.empty()) {
      const Range& limits = parts.limits[j];
      if (std::isfinite(limits.low) || std::isfinite(limits.high))
        options.within.push_back({names[j], limits.low, limits.high});
    }
    if (!parts.model.is_linear()) options.starts.push_back({names[j], value});
  }
  return options;
}

Fit refit(const Fit& made, const Observations& observations) {
  return fit(made.model(), observations, options_like(made));
}

VectorXd reading_uncertainties(const Fit& fit, const Observations& rows) {
  // A share of the response is taken of the curve where it is read.
  if (!rows.has_uncertainties() || rows.relative_uncertainty() > 0) return {};
  return rows.uncertainties() * fit.estimate().parts().scale;
}

}  // namespace truecurve::detail
