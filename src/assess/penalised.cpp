// Scoring on the penalised likelihood, its slope by differences.
#include <truecurve/assess/penalised.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../base/roots.hpp"
#include "../fit/bind.hpp"
#include "../fit/curve.hpp"
#include "../fit/estimate_parts.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::SmallMatrix;
using detail::SmallVector;
using Eigen::Index;

constexpr double difference = 1e-4;  // of an uncertainty
constexpr double settled_step = 1e-8;
constexpr int most_rounds = 200;
constexpr double farthest_of_uncertainties = 500;

class PenalisedLikelihood {
 public:
  /// The model as a curve, the rows that it must outlive.
  PenalisedLikelihood(const Model& model, const Observations& rows)
      : curve_(*detail::data_of(model).bound, rows, detail::joint_roles(*detail::data_of(model).bound)) {
    const ResponseKernel& kernel = rows.observation_model().kernel();
    for (Index i = 0; i < as_eigen(rows.responses()).size(); ++i)
      saturated_ += kernel.saturated_log_likelihood(rows.responses()[i], rows.sizes()[i]);
  }

  struct At {
    double value = -infinity;
    double log_likelihood = -infinity;
    double penalty = -infinity;
    MatrixXd information{};
  };
  [[nodiscard]] At at(const VectorXd& theta) {
    SmallVector small = theta;
    At result;
    const double deviance = curve_.project(small);
    if (!std::isfinite(deviance)) return result;
    const Index p = theta.size();
    const SmallMatrix r = curve_.full_factor(theta);
    if (!r.allFinite()) return result;
    // The factor's columns stand in the order of the curve.
    MatrixXd triangle = MatrixXd::Zero(p, p);
    double logarithm = 0;
    for (Index j = 0; j < p; ++j) {
      triangle.col(curve_.order()[static_cast<std::size_t>(j)]).head(j + 1) = r.col(j).head(j + 1);
      logarithm += std::log(std::abs(r(j, j)));
    }
    if (!std::isfinite(logarithm)) return result;
    result.information = detail::own_transpose_times(triangle);
    result.log_likelihood = saturated_ - deviance / 2;
    result.penalty = logarithm;
    result.value = result.log_likelihood + logarithm;
    return result;
  }

 private:
  detail::Curve curve_;
  double saturated_ = 0;
};

struct Peak {
  VectorXd theta;
  PenalisedLikelihood::At at;
  bool converged = false;
};

// The greatest penalised likelihood with a parameter held, or with none (-1).
Peak climb(PenalisedLikelihood& likelihood, const VectorXd& theta, Index held) {
  Peak peak{theta, likelihood.at(theta)};
  std::vector<Index> free;
  for (Index j = 0; j < theta.size(); ++j) {
    if (j != held) free.push_back(j);
  }
  const auto q = static_cast<Index>(free.size());
  peak.converged = q == 0;
  for (int round = 0; round < most_rounds && !peak.converged && std::isfinite(peak.at.value); ++round) {
    const MatrixXd information = peak.at.information(free, free);
    const VectorXd scale = information.diagonal().cwiseSqrt();
    const detail::CholeskySolver factor(scale.cwiseInverse().asDiagonal() * information *
                                        scale.cwiseInverse().asDiagonal());
    if (!factor.is_definite()) return peak;
    VectorXd slope(q);
    for (Index k = 0; k < q; ++k) {
      const Index j = free[static_cast<std::size_t>(k)];
      const double h = difference / scale[k];
      VectorXd up = peak.theta;
      VectorXd down = peak.theta;
      up[j] += h;
      down[j] -= h;
      slope[k] = (likelihood.at(up).value - likelihood.at(down).value) / (up[j] - down[j]) / scale[k];
    }
    if (!slope.allFinite()) return peak;
    const VectorXd step = factor.solve(slope);
    const double distance = std::sqrt(std::max(0.0, step.dot(slope)));
    bool better = false;
    for (double share = 1; share > 1e-6 && !better; share /= 2) {
      VectorXd next = peak.theta;
      for (Index k = 0; k < q; ++k) next[free[static_cast<std::size_t>(k)]] += share * step[k] / scale[k];
      PenalisedLikelihood::At there = likelihood.at(next);
      // At the last digits it can't rise any more.
      better = there.value > peak.at.value - (distance < 1e-5 ? 1e-12 * (1 + std::abs(peak.at.value)) : 0);
      if (better) {
        peak.theta = next;
        peak.at = std::move(there);
      }
    }
    peak.converged = distance < settled_step || (distance < 1e-5 && !better);
    if (!better && !peak.converged) return peak;
  }
  return peak;
}

// The fit to rows with half an outcome more on either side, of which every estimate is finite.
Fit inner_fit(const Model& model, const Observations& rows, const FitOptions& options) {
  VectorXd responses = as_eigen(rows.responses());
  const ResponseKernel& kernel = rows.observation_model().kernel();
  for (Index i = 0; i < responses.size(); ++i) responses[i] = kernel.inner_mean(responses[i], rows.sizes()[i]);
  return fit(model, rows.with_counted(responses), options);
}

// The estimate at other values, with another covariance.
Estimate moved(const Estimate& estimate, const VectorXd& theta, const MatrixXd& covariance) {
  detail::EstimateParts parts = detail::parts_of(estimate);
  const detail::UncertaintiesAndCorrelation known = detail::taken_apart(covariance);
  parts.parameters = theta;
  parts.standard_uncertainties = known.standard_uncertainties;
  parts.correlation = known.correlation;
  parts.basis = UncertaintyBasis::stated;
  parts.scale = 1;
  parts.open_end.reset();
  parts.limits.clear();
  parts.working = {
      .centre = VectorXd::Zero(theta.size()),
      .parameters = theta,
      .inverse_factor = known.standard_uncertainties.asDiagonal() * detail::cholesky_factor(known.correlation)};
  return detail::made_of(std::move(parts));
}

}  // namespace

PenalisedEstimates penalised_estimates(const Model& given, const Observations& rows, Level level,
                                       const FitOptions& options) {
  if (rows.observation_model().is_measured()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "a penalised likelihood needs a response of events or counts, and this one is measured",
                 .subject = "penalised",
                 .remedy = "it is for events and counts; omit it"});
  }
  const Model model = detail::bound_to(given.with_fixed(options.fixed), rows);
  FitOptions how = options;
  how.fixed.clear();  // the model knows
  if (!model.is_linear() || !model.is_transformed()) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = fmt::format("'{}' is not linear behind a link: the penalty depends on how a curve's "
                                        "parameters are chosen, and for these has no reason",
                                        model.text()),
                 .subject = "penalised",
                 .remedy =
                     "write the link on the left side: \"ln(p/(1-p)) = a + b*x\", or \"ln(N) = a + b*x\"; middle and "
                     "width follow by derive (-a/b, 1/b)"});
  }
  const Fit inner = inner_fit(model, rows, how);
  PenalisedLikelihood likelihood(inner.model(), rows);
  const Peak best = climb(likelihood, as_eigen(inner.estimate().parameters()), -1);
  if (!std::isfinite(best.at.value)) {
    throw Error({.code = ErrorCode::rank_deficient,
                 .message = "the data do not determine the parameters, not even with a penalty",
                 .subject = "penalised",
                 .remedy = "choose a simpler curve, or measure at more places"});
  }
  const Index p = best.theta.size();
  const VectorXd scale = best.at.information.diagonal().cwiseSqrt().cwiseInverse();
  const detail::CholeskySolver factor(scale.asDiagonal() * best.at.information * scale.asDiagonal());
  const MatrixXd covariance = scale.asDiagonal() * factor.inverse() * scale.asDiagonal();
  const Estimate estimate = moved(inner.estimate(), best.theta, covariance);
  PenalisedEstimates result{.estimate = estimate,
                            .parameters = parameter_intervals(estimate, level),
                            .log_likelihood = best.at.log_likelihood,
                            .penalty = best.at.penalty,
                            .converged = best.converged};
  try {
    const Fit plain = fit(model, rows, how);
    if (plain.estimate().open_end()) {
      result.why_none = "the outcomes are separated";
    } else if (plain.solver().converged) {
      result.greatest_log_likelihood = quality_of(plain).log_likelihood;
    }
  } catch (const Error& error) {
    if (error.code() != ErrorCode::rank_deficient) throw;
    result.why_none = "the outcomes are separated";
  }
  const double rise = chi_squared_quantile(level, 1);
  for (Index j = 0; j < p; ++j) {
    ParameterInterval& shown = result.parameters[static_cast<std::size_t>(j)];
    const double u = std::sqrt(covariance(j, j));
    VectorXd from = best.theta;
    const auto fall = [&](double at) {
      // The others follow as far as their covariance tells.
      VectorXd start = from + (at - from[j]) / covariance(j, j) * covariance.col(j);
      start[j] = at;
      const Peak peak = climb(likelihood, start, j);
      if (!std::isfinite(peak.at.value)) return infinity;
      from = peak.theta;
      return std::max(0.0, 2 * (best.at.value - peak.at.value));
    };
    const auto end = [&](double sign) {
      from = best.theta;
      double inside = best.theta[j];
      double below = -std::sqrt(rise);
      for (double step = std::sqrt(rise) / 2; step < farthest_of_uncertainties; step *= 1.5) {
        const double at = best.theta[j] + sign * step * u;
        const double over = std::sqrt(fall(at)) - std::sqrt(rise);
        if (std::isinf(over)) return not_a_number;
        if (over < 0) {
          inside = at;
          below = over;
          continue;
        }
        return detail::smooth_change_of_sign(inside, at, [&](double place) {
          if (place == inside) return below;
          if (place == at) return over;
          return std::sqrt(fall(place)) - std::sqrt(rise);
        });
      }
      return sign * infinity;
    };
    shown.low = end(-1);
    shown.high = end(1);
    from = best.theta;
    const double at_null = fall(shown.null_value);
    shown.p = std::isfinite(at_null) ? chi_squared_upper(at_null, 1) : not_a_number;
  }
  return result;
}

}  // namespace truecurve
