// Puts the doubts about a fit into words.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/trust.hpp>
#include <truecurve/base/random.hpp>

#include "../base/matrices.hpp"
#include "../fit/column_evaluator.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/simulated_fits.hpp"
#include "../fit/weights.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

constexpr std::size_t cheap_rows = 1000;
constexpr double high_correlation = 0.99;
// A curve at a place that is correlated with a parameter by less than this may be quoted beside it.
constexpr double slight_correlation = 0.3;

bool is_open(const Interval& interval) { return std::isinf(interval.low) || std::isinf(interval.high); }

std::string sentence_of(const ProfileInterval& p, Level level) {
  const std::string which = fmt::format("the {:.6g} % profile interval", 100 * level);
  const std::string low = limit_text(p.interval.low, p.standard_uncertainty);
  const std::string high = limit_text(p.interval.high, p.standard_uncertainty);
  if (std::isinf(p.interval.low) && std::isinf(p.interval.high))
    return fmt::format("These data set no limits for {}: {} is unbounded.", p.parameter, which);
  if (std::isinf(p.interval.low))
    return fmt::format("These data set no lower limit for {}: {} ends at {}.", p.parameter, which, high);
  if (std::isinf(p.interval.high))
    return fmt::format("These data set no upper limit for {}: {} begins at {}.", p.parameter, which, low);
  return fmt::format("The symmetric interval of {} is inaccurate: its level is about {:.0f} %; {} is {} to {}.",
                     p.parameter, 100 * (std::isnan(p.simulated_level) ? p.symmetric_level : p.simulated_level), which,
                     low, high);
}

// How often the symmetric intervals cover the estimates in data sets simulated from the fitted curve and scatter. NaN
// where hardly any of them can be fitted.
VectorXd simulated_levels(const Fit& fit, Level level) {
  constexpr int sets = 400;
  const Estimate& estimate = fit.estimate();
  const Observations& left = fit.left_side_observations();
  const VectorXd truth = as_eigen(estimate.parameters());
  const VectorXd curve = as_eigen(fit.fitted());
  const VectorXd scatter = detail::Weights(left).from_standardized(VectorXd::Constant(curve.size(), estimate.scale()));
  // On the scale of the left side, where the fit was made, with its weights.
  const detail::SimulatedFits again(fit);
  RandomNumbers random(1);
  VectorXd covered = VectorXd::Zero(truth.size());
  int fitted = 0;
  for (int set = 0; set < sets; ++set) {
    VectorXd noise(curve.size());
    random.fill_normal({noise.data(), static_cast<std::size_t>(noise.size())});
    const auto made = again.fitted_to(curve + scatter.cwiseProduct(noise));
    if (!made) continue;
    ++fitted;
    const VectorXd half = estimate.coverage_factor(level) * made->standard_uncertainties;
    covered.array() += ((made->parameters - truth).cwiseAbs().array() <= half.array()).cast<double>();
  }
  return fitted < sets / 2 ? VectorXd::Constant(truth.size(), not_a_number) : VectorXd(covered / fitted);
}

// Where along the one predictor the curve is least correlated with a parameter.
struct Anchor {
  double place = not_a_number;
  double correlation = 1;
  double value = not_a_number;
  double uncertainty = not_a_number;
};

Anchor anchor_for(const Estimate& estimate, Index parameter) {
  constexpr Index looked_at = 201;
  Anchor best;
  if (estimate.predictors().size() != 1 || estimate.model().is_transformed()) return best;
  const Range& range = estimate.ranges()[0];
  const VectorXd x = VectorXd::LinSpaced(looked_at, range.low, range.high);
  const MatrixXd gradients = detail::gradients_at(estimate, x);
  const auto u = as_eigen(estimate.standard_uncertainties());
  const MatrixXd& r = detail::parts_of(estimate).correlation;
  for (Index i = 0; i < looked_at; ++i) {
    const VectorXd parts = gradients.row(i).transpose().cwiseProduct(u);
    const double correlation = parts.dot(r.col(parameter)) / std::sqrt(std::max(0.0, parts.dot(r * parts)));
    if (!(std::abs(correlation) < best.correlation)) continue;
    best = {x[i], std::abs(correlation), not_a_number,
            estimate.standard_uncertainty_along(gradients.row(i).transpose())};
  }
  if (std::isfinite(best.place)) best.value = band_at(estimate, VectorXd::Constant(1, best.place), 0.95)[0].value;
  return best;
}

bool is_open(const Trust& trust, const std::string& parameter) {
  return std::any_of(trust.profiles.begin(), trust.profiles.end(),
                     [&](const ProfileInterval& p) { return p.parameter == parameter && is_open(p.interval); });
}

// Of two strongly correlated parameters, the one that is a level of the curve: the constant, or the one that enters
// linearly.
Index level_of(const Model& model, Index first, Index second) {
  const auto is_level = [&](Index j) {
    const auto& separable = detail::data_of(model).bound->separable;
    return model.is_linear() ? model.constant_index() == static_cast<int>(j)
                             : std::find(separable.begin(), separable.end(), static_cast<int>(j)) != separable.end();
  };
  return is_level(second) && !is_level(first) ? second : first;
}

// What may be quoted in place of one of two parameters that are correlated only by where they are quoted.
std::string instead_of(const Estimate& estimate, Index first, Index second) {
  const Index level = level_of(estimate.model(), first, second);
  const Index kept = level == first ? second : first;
  const Anchor anchor = anchor_for(estimate, kept);
  if (!(anchor.correlation < slight_correlation)) return "";
  const Quantity& x = estimate.predictors()[0];
  const auto& names = estimate.parameter_names();
  return fmt::format(
      " Or quote them about {} = {}{}: the curve there, {}, is hardly correlated with {} and may stand in place of {}.",
      x.name, rounded(anchor.place, 4), x.unit.empty() ? "" : " " + x.unit,
      with_uncertainty(anchor.value, anchor.uncertainty), names[static_cast<std::size_t>(kept)],
      names[static_cast<std::size_t>(level)]);
}

bool is_far_from_zero(const Estimate& estimate) {
  if (estimate.predictors().size() != 1) return false;
  const Range& range = estimate.ranges()[0];
  const double width = range.high - range.low;
  return range.low > width || range.high < -width;
}

void find_pairs(const Fit& fit, Trust& trust) {
  const Estimate& estimate = fit.estimate();
  const auto& names = fit.model().parameters();
  // Raw powers are correlated for their own reason, and are shown about another origin on request.
  if (fit.model().polynomial_degree() > 1) return;
  const Matrix correlations = correlation(estimate);
  const auto r = as_eigen(correlations);
  for (Index i = 0; i < r.rows(); ++i) {
    for (Index j = i + 1; j < r.cols(); ++j) {
      if (!(std::abs(r(i, j)) > high_correlation)) continue;
      CorrelatedPair pair{names[static_cast<std::size_t>(i)], names[static_cast<std::size_t>(j)], r(i, j)};
      pair.is_redundant = is_open(trust, pair.first) || is_open(trust, pair.second);
      trust.pairs.push_back(std::move(pair));
    }
  }
  std::stable_sort(trust.pairs.begin(), trust.pairs.end(), [](const CorrelatedPair& a, const CorrelatedPair& b) {
    return std::abs(a.correlation) > std::abs(b.correlation);
  });
  const auto redundant =
      std::find_if(trust.pairs.begin(), trust.pairs.end(), [](const CorrelatedPair& p) { return p.is_redundant; });
  if (redundant != trust.pairs.end()) {
    trust.sentences.push_back(
        fmt::format("These data hardly determine {} and {} separately (r = {:.5f}): measure where they act "
                    "differently, or fix one of "
                    "them.",
                    redundant->first, redundant->second, redundant->correlation));
  } else if (!trust.pairs.empty()) {
    const CorrelatedPair& pair = trust.pairs.front();
    const std::size_t others = trust.pairs.size() - 1;
    trust.note = fmt::format(
        "The estimates of {} and {} are strongly correlated (r = {:.5f}){}{}: use their covariance in any further "
        "calculation.",
        pair.first, pair.second, pair.correlation,
        others == 0 ? "" : fmt::format(", as {} {}", others == 1 ? "is" : "are", plural(others, "other pair")),
        others > 0 || !is_far_from_zero(estimate) ? ""
        : estimate.model().is_straight_line() || estimate.model().polynomial_degree() > 0
            ? fmt::format(", because {} is far from zero", estimate.predictors()[0].name)
            : fmt::format(", because the range of {} is narrow", estimate.predictors()[0].name));
    if (others == 0) trust.note += instead_of(estimate, estimate.index_of(pair.first), estimate.index_of(pair.second));
  }
}

}  // namespace

Trust trust_of(const Fit& fit, Level level, Profiles profiles) {
  Trust trust{.curvature = curvature_of(fit, level)};
  if (fit.is_exact()) return trust;
  const bool counted = fit.is_counted();  // then the profile intervals are those that are quoted
  // A fit that has not converged has no neighbourhood to speak of.
  const bool makes =
      !fit.model().is_linear() && fit.solver().converged && (profiles == Profiles::always || fit.size() <= cheap_rows);
  if (makes) {
    for (const std::string& name : fit.model().parameters())
      trust.profiles.push_back(profile_interval(fit, name, level));
  }
  const bool in_doubt =
      !counted && std::any_of(trust.profiles.begin(), trust.profiles.end(),
                              [](const ProfileInterval& p) { return !p.symmetric_is_trusted && !is_open(p.interval); });
  if (in_doubt) {
    const VectorXd levels = simulated_levels(fit, level);
    for (std::size_t j = 0; j < trust.profiles.size(); ++j) {
      ProfileInterval& p = trust.profiles[j];
      p.simulated_level = levels[static_cast<Index>(j)];
      if (!std::isnan(p.interval.low) && !is_open(p.interval) && !std::isnan(p.simulated_level))
        p.symmetric_is_trusted = p.simulated_level >= 1 - most_left_out * (1 - level);
    }
  }
  double lower = infinity;
  for (const ProfileInterval& p : trust.profiles) {
    if (!counted && !p.symmetric_is_trusted) trust.sentences.push_back(sentence_of(p, level));
    if (!std::isnan(p.lower_chi_squared)) lower = std::min(lower, p.lower_chi_squared);
  }
  if (std::isfinite(lower)) {
    trust.sentences.insert(
        trust.sentences.begin(),
        fmt::format(
            "On the way to the profile intervals a lower {} was met, {:.6g} against {:.6g}: this is not the best "
            "curve. Start elsewhere, or without starting values.",
            fit.objective_name(), lower, fit.chi_squared()));
  }
  find_pairs(fit, trust);
  if (trust.curvature.intrinsic > fair_curvature) {
    trust.sentences.push_back(fmt::format(
        "The curve is nonlinear over its uncertainty (relative intrinsic curvature {:.2g}, fair below {}): bands and "
        "joint regions are only approximate.",
        trust.curvature.intrinsic, fair_curvature));
  }
  return trust;
}

}  // namespace truecurve
