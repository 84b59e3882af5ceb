// The same fit to other rows.
#include "refit.hpp"

namespace truecurve::detail {

Fit refit(const Fit& made, const Observations& observations) {
  const EstimateParts& parts = made.estimate().parts();
  FitOptions options{.uncertainty = parts.basis, .spread = made.spread()};
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
  return fit(parts.model, observations, options);
}

VectorXd reading_uncertainties(const Fit& fit, const Observations& rows) {
  if (!rows.has_uncertainties()) return {};
  return rows.uncertainties() * fit.estimate().parts().scale;
}

}  // namespace truecurve::detail
