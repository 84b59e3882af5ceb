// Through the solvers, past everything else that a fit does.
#include "simulated_fits.hpp"

#include <truecurve/base/error.hpp>

#include "solve.hpp"

#include <cmath>

namespace truecurve::detail {
namespace {

// Each begins at the estimates: what has not settled by then wanders off.
constexpr int evaluations_of_one = 200;

}  // namespace

SimulatedFits::SimulatedFits(const Fit& fit) : fit_(fit) {
  options_.most_evaluations = evaluations_of_one;
  const EstimateParts& parts = fit.estimate().parts();
  const auto& names = parts.model.parameters();
  for (std::size_t j = 0; j < names.size(); ++j) {
    if (!parts.model.is_linear()) options_.starts.push_back({names[j], parts.parameters[static_cast<Eigen::Index>(j)]});
    if (parts.limits.empty()) continue;
    const Range& limits = parts.limits[j];
    if (std::isfinite(limits.low) || std::isfinite(limits.high))
      options_.within.push_back({names[j], limits.low, limits.high});
  }
}

std::optional<SimulatedFits::Result> SimulatedFits::fitted_to(const VectorXd& left_side) const {
  const Observations& left = fit_.left_side_observations();
  try {
    const Solved solved =
        solve_least_squares(fit_.model(), left.with_response(left_side, left.uncertainties()), options_);
    if (!solved.report.converged) return std::nullopt;
    const double dof = fit_.degrees_of_freedom();
    const bool stated = fit_.estimate().has_known_scale();
    const double scale = stated ? 1 : std::sqrt(solved.solution.chi_squared / dof);
    return Result{solved.solution.parameters, scale * solved.solution.spread.rowwise().norm()};
  } catch (const Error&) {
    return std::nullopt;  // these responses leave something undetermined
  }
}

}  // namespace truecurve::detail
