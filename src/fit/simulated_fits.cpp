// Through the solvers, past everything else that a fit does.
#include "simulated_fits.hpp"

#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "refit.hpp"
#include "solve.hpp"

#include <cmath>

namespace truecurve::detail {
namespace {

// Each begins at the estimates: what has not settled by then wanders off.
constexpr int evaluations_of_one = 200;

}  // namespace

SimulatedFits::SimulatedFits(const Fit& fit) : fit_(fit), options_(options_like(fit)) {
  options_.most_evaluations = evaluations_of_one;
}

std::optional<SimulatedFits::Result> SimulatedFits::fitted_to(const VectorXd& left_side) const {
  const Observations& left = fit_.left_side_observations();
  try {
    const Solved solved = solve_least_squares(fit_.model(), left.with_response(left_side), options_);
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
