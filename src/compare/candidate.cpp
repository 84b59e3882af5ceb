// The figures and the remarks of one candidate.
#include "candidate.hpp"

#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/curvature.hpp>
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/quality.hpp>

#include "../base/matrices.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr double high_correlation = 0.99;

void add_warnings(const Fit& fit, std::vector<CandidateRemark>& remarks) {
  for (const Warning& warning : fit.warnings()) {
    if (warning.code == WarningCode::not_converged) {
      remarks.push_back(
          {RemarkCode::not_converged, fmt::format("the search did not converge ({})", name(fit.solver().stop))});
    } else if (warning.code == WarningCode::at_limit) {
      remarks.push_back({RemarkCode::at_limit, warning.brief});
    } else if (warning.code == WarningCode::open_end) {
      remarks.push_back({RemarkCode::open_end, warning.brief});
    } else if (warning.code == WarningCode::place_outside_data) {
      remarks.push_back({RemarkCode::place_outside_data, warning.brief});
    }
  }
}

void add_doubts(const Fit& fit, Level level, std::vector<CandidateRemark>& remarks) {
  if (!fit.solver().converged) return;
  const double bend = curvature_of(fit, level).intrinsic;
  if (bend > fair_curvature)
    remarks.push_back({RemarkCode::curvature,
                       fmt::format("it is nonlinear over its uncertainty (intrinsic curvature {:.2g})", bend)});
  if (fit.model().is_linear()) return;
  // Parameters that are hardly known and move together are not determined separately.
  const Matrix correlations = correlation(fit.estimate());
  const auto r = as_eigen(correlations);
  const auto& names = fit.model().parameters();
  const auto is_known = [&](Index j) {
    return fit.estimate().standard_uncertainties()[j] < 0.5 * std::abs(fit.estimate().parameters()[j]);
  };
  for (Index i = 0; i < r.rows(); ++i) {
    for (Index j = i + 1; j < r.cols(); ++j) {
      if (!(std::abs(r(i, j)) > high_correlation) || is_known(i) || is_known(j)) continue;
      remarks.push_back({RemarkCode::not_told_apart,
                         fmt::format("{} and {} are hardly determined separately (r = {:.5f})",
                                     names[static_cast<std::size_t>(i)], names[static_cast<std::size_t>(j)], r(i, j))});
      return;
    }
  }
}

}  // namespace

Candidate candidate_of(std::string name, const Fit& fit, const CompareOptions& options) {
  Candidate c{.name = std::move(name), .fit = fit};
  c.parameters = static_cast<std::size_t>(fit.estimate().free_parameters());
  const Quality q = quality_of(fit);
  const auto y = as_eigen(fit.observations().responses());
  const VectorXd residuals = y - as_eigen(fit.fitted_response());
  const double squares = residuals.squaredNorm();
  const double total = (y.array() - y.mean()).square().sum();
  const double dof = fit.degrees_of_freedom();
  const auto n = static_cast<double>(fit.size());
  constexpr double rounding_share = 1e-14;  // a constant explains nothing of what it is the mean of
  const bool counted = fit.is_counted();    // no sum of squares says anything of it
  if (counted) {
    c.deviance = fit.chi_squared();
  } else if (total > 0)
    c.r_squared = std::abs(total - squares) <= rounding_share * total ? 0 : 1 - squares / total;
  if (dof > 0 && !counted) {
    c.residual_sd = std::sqrt(squares / dof);
    if (total > 0) c.adjusted_r_squared = 1 - (1 - c.r_squared) * (n - 1) / dof;
    if (fit.observations().has_uncertainties())
      c.reduced_chi_squared = residuals.cwiseQuotient(as_eigen(fit.response_uncertainties())).squaredNorm() / dof;
  }
  add_warnings(fit, c.remarks);
  // Without degrees of freedom every curve passes through its rows, and that says nothing.
  if (dof > 0 && fit.is_exact()) {
    c.remarks.push_back({RemarkCode::exact, "it passes through every row to rounding"});
  } else {
    if (dof > 0) {
      c.log_likelihood = q.log_likelihood;
      c.aicc = q.aicc;
      c.bic = q.bic;
    }
    if (std::isnan(c.aicc)) {
      c.remarks.push_back(
          {RemarkCode::few_rows, fmt::format("{} {} too few for the AICc of its {}", plural(fit.size(), "row"),
                                             fit.size() == 1 ? "is" : "are", plural(c.parameters, "parameter"))});
    }
    add_doubts(fit, options.level, c.remarks);
    if (fit.solver().converged) c.checks = residual_checks(fit);
  }
  if (dof > 0 && fit.is_exact()) c.residual_sd = 0;
  c.leave_one_out = leave_one_out(fit);
  if (options.folds != 0) c.cross_validation = cross_validation(fit, options.folds, options.seed);
  if (dof > 0 && !fit.is_exact()) {
    const RowMeasures measures = row_measures(fit);
    for (std::size_t i = 0; i < measures.standardized.size(); ++i) {
      const double z = measures.standardized[i];
      if (std::isnan(z) || std::abs(z) <= std::abs(std::isnan(c.largest_residual) ? 0 : c.largest_residual)) continue;
      c.largest_residual = z;
      c.largest_residual_row = fit.observations().source_rows()[i];
    }
  }
  return c;
}

}  // namespace truecurve::detail
