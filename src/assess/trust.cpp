// Puts the doubts about a fit into words.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/trust.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

constexpr std::size_t cheap_rows = 1000;
constexpr double high_correlation = 0.99;
constexpr double fair_curvature = 0.3;  // Bates and Watts (1988), 7.3

std::string limit_text(double limit, double scale) {
  if (std::isinf(limit)) return limit < 0 ? "minus infinity" : "infinity";
  const std::string both = interval_text(limit, limit, scale);
  return both.substr(0, both.find(" to "));
}

std::string sentence_of(const ProfileInterval& p, double level) {
  const bool open = std::isinf(p.interval.low) || std::isinf(p.interval.high);
  return fmt::format("The symmetric interval of {} can't be trusted; the profile interval is {} to {} ({:.6g} %){}.",
                     p.parameter, limit_text(p.interval.low, p.standard_uncertainty),
                     limit_text(p.interval.high, p.standard_uncertainty), 100 * level,
                     open ? ": these rows do not bound it on that side" : "");
}

}  // namespace

Trust trust_of(const Fit& fit, double level, Profiles profiles) {
  Trust trust{.curvature = curvature_of(fit, level)};
  if (fit.model().is_linear()) return trust;
  const auto& names = fit.model().parameters();
  // A fit that has not converged has no neighbourhood to speak of.
  const bool makes = fit.solver().converged && (profiles == Profiles::always || fit.size() <= cheap_rows);
  if (makes) {
    for (const std::string& name : names) trust.profiles.push_back(profile_interval(fit, name, level));
  }
  double lower = infinity;
  for (const ProfileInterval& p : trust.profiles) {
    if (!p.symmetric_is_trusted) trust.sentences.push_back(sentence_of(p, level));
    if (!std::isnan(p.lower_chi_squared)) lower = std::min(lower, p.lower_chi_squared);
  }
  if (std::isfinite(lower)) {
    trust.sentences.push_back(
        fmt::format("On the way to the profile intervals a lower chi-squared was met, {:.6g} against "
                    "{:.6g}: this is not the best curve. Start elsewhere, or without starts.",
                    lower, fit.chi_squared()));
  }
  const MatrixXd r = correlation(fit.estimate());
  for (Index i = 0; i < r.rows(); ++i) {
    for (Index j = i + 1; j < r.cols(); ++j) {
      if (!(std::abs(r(i, j)) > high_correlation)) continue;
      const CorrelatedPair pair{names[static_cast<std::size_t>(i)], names[static_cast<std::size_t>(j)], r(i, j)};
      trust.sentences.push_back(
          fmt::format("{} and {} are hardly told apart: their correlation is {:.5f}. Quote them together with their "
                      "covariance, or measure where they act differently.",
                      pair.first, pair.second, pair.correlation));
      trust.pairs.push_back(pair);
    }
  }
  if (trust.curvature.intrinsic > fair_curvature) {
    trust.sentences.push_back(fmt::format(
        "The curve bends within its uncertainty (relative intrinsic curvature {:.2g}, fair below {}): bands and "
        "joint regions are only approximate.",
        trust.curvature.intrinsic, fair_curvature));
  }
  return trust;
}

}  // namespace truecurve
