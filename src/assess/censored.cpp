// Profiles of the likelihood with limits, quantiles, plotting positions.
#include <truecurve/assess/censored.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "../base/roots.hpp"
#include "../fit/censored_likelihood.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/refit.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;
using Followed = std::function<std::pair<double, VectorXd>(const VectorXd&)>;

constexpr int pinned_evaluations = 200;
constexpr double pin_in_uncertainties = 1e-4;
constexpr double farthest_of_quantity = 200;  // uncertainties
constexpr int halvings_to_an_edge = 60;
// A distribution whose AIC is smaller by more than this is said to describe the rows better.
constexpr double clearly_better = 4;
constexpr std::size_t few_measured = 20;

// One end of the values of a quantity that the likelihood allows.
double end_of(detail::CensoredLikelihood& likelihood, const CensoredFit& fit, const Followed& quantity, double sign,
              double rise) {
  const auto [value, slope] = quantity(as_eigen(fit.joint));
  const double u = std::sqrt(slope.dot(as_eigen(fit.joint_covariance) * slope));
  if (!(u > 0) || !std::isfinite(u)) return not_a_number;
  VectorXd from = as_eigen(fit.joint);
  // The root of the deviance less that of the quantile: nearly a straight line.
  const auto beyond = [&](double at) {
    const detail::Pin pin{quantity, at, pin_in_uncertainties * u};
    const detail::Maximum held = detail::greatest_likelihood(likelihood, from, pinned_evaluations, &pin);
    if (!std::isfinite(held.value)) return infinity;
    const double reached = quantity(held.joint).first;
    // Where the search did not follow, the likelihood is not known there.
    if (!(std::abs(reached - at) < 0.01 * u + 1e-9 * std::abs(at))) return infinity;
    from = held.joint;
    return std::sqrt(std::max(0.0, 2 * (held.value + fit.log_likelihood))) - std::sqrt(rise);
  };
  double inside = value;
  double below = -std::sqrt(rise);  // there
  for (double step = std::sqrt(rise) / 2; step <= farthest_of_quantity; step *= 1.5) {
    double outside = value + sign * step * u;
    const VectorXd before = from;
    double over = beyond(outside);
    // Towards where the curve is none the steps are halved.
    VectorXd followed = before;
    for (int halving = 0; std::isinf(over) && halving < halvings_to_an_edge; ++halving) {
      from = before;
      const double middle = (inside + outside) / 2;
      const double there = beyond(middle);
      if (there < 0) {
        inside = middle;
        below = there;
        followed = from;
      } else {
        outside = middle;
        over = there;
      }
    }
    if (std::isinf(over)) {
      // As far as the curve goes the likelihood allows it.
      const auto [reached, along] = quantity(followed);
      const VectorXd next = followed + (outside - reached) / along.squaredNorm() * along;
      return std::isinf(likelihood.at(next).value) ? reached : not_a_number;
    }
    if (over < 0) {
      inside = outside;
      below = over;
      continue;
    }
    from = before;
    return detail::smooth_change_of_sign(inside, outside, [&](double place) {
      if (place == inside) return below;
      if (place == outside) return over;
      const double off = beyond(place);
      return std::isinf(off) ? over : off;
    });
  }
  return sign * infinity;
}

Interval profile_of(const CensoredFit& fit, const Followed& quantity, Level level) {
  detail::CensoredLikelihood likelihood(fit.estimate.model(), fit.data, fit.distribution);
  const double rise = chi_squared_quantile(level, 1);
  return {end_of(likelihood, fit, quantity, -1, rise), end_of(likelihood, fit, quantity, 1, rise)};
}

// One entry of the joint vector.
Followed entry(Index index) {
  return
      [index](const VectorXd& joint) { return std::pair(joint[index], VectorXd(VectorXd::Unit(joint.size(), index))); };
}

// A single place as observations of the model's predictors.
Observations place_of(const CensoredFit& fit, const Vector& at) {
  const detail::EstimateParts& parts = detail::parts_of(fit.estimate);
  if (static_cast<std::size_t>(at.size()) != parts.predictors.size() || !as_eigen(at).allFinite()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a place of {} numbers is given, and the curve has {} predictors", at.size(),
                                        parts.predictors.size()),
                 .subject = "at",
                 .remedy = "give one finite number for each"});
  }
  std::vector<NamedNumbers> columns;
  Choice choice{.response = parts.response.name, .response_uncertainty = Uncertainty::none()};
  for (std::size_t k = 0; k < parts.predictors.size(); ++k) {
    columns.push_back({parts.predictors[k].name, parts.predictors[k].unit, {at[static_cast<Index>(k)]}});
    choice.predictors.push_back(parts.predictors[k].name);
  }
  columns.push_back({parts.response.name, parts.response.unit, {1}});
  return Observations(Table::from_columns(columns), choice);
}

}  // namespace

Interval censored_interval(const CensoredFit& fit, std::string_view parameter, Level level) {
  const Index last = fit.joint.size() - 1;
  const auto& names = fit.estimate.parameter_names();
  const bool is_scatter =
      parameter == fit.scatter_name() && std::find(names.begin(), names.end(), parameter) == names.end();
  if (!is_scatter) return profile_of(fit, entry(fit.estimate.index_of(parameter)), level);
  const Interval of_log = profile_of(fit, entry(last), level);
  return fit.distribution == Distribution::weibull ? Interval{std::exp(-of_log.high), std::exp(-of_log.low)}
                                                   : Interval{std::exp(of_log.low), std::exp(of_log.high)};
}

CensoredQuantile quantile_of(const CensoredFit& fit, double share, const Vector& at, Level level) {
  if (!(share > 0 && share < 1)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("there is no quantile of the share {}", share),
                 .subject = "share",
                 .value = fmt::format("{}", share),
                 .remedy = "give a number between 0 and 1: 0.01 for the life that 99 % survive"});
  }
  const Observations place = place_of(fit, at);
  const detail::CensoredLikelihood likelihood(fit.estimate.model(), fit.data, fit.distribution);
  const double z = standard_quantile(fit.distribution, share);
  const Followed even = [&](const VectorXd& joint) {
    const Index p = joint.size() - 1;
    const double s = std::exp(joint[p]);
    const detail::EvenCurve curve = likelihood.curve(joint.head(p), place);
    VectorXd slope(p + 1);
    slope << curve.gradient.row(0).transpose(), z * s;
    return std::pair(curve.value[0] + z * s, slope);
  };
  const auto [value, slope] = even(as_eigen(fit.joint));
  if (!std::isfinite(value) || !slope.allFinite()) {
    throw Error({.code = ErrorCode::not_finite,
                 .message = "the curve has no value there",
                 .subject = "at",
                 .remedy = "ask for a place where it is defined"});
  }
  const double u = std::sqrt(slope.dot(as_eigen(fit.joint_covariance) * slope));
  const Interval interval = profile_of(fit, even, level);
  if (fit.distribution == Distribution::normal) return {share, at, value, u, interval};
  const double response = std::exp(value);
  return {share, at, response, response * u, {std::exp(interval.low), std::exp(interval.high)}};
}

CensoredOtherwise fitted_otherwise(const CensoredFit& fit) {
  CensoredOtherwise result;
  const CensoredOptions options{.distribution = fit.distribution,
                                .starts = detail::starts_at(fit.estimate.model(), as_eigen(fit.estimate.parameters()))};
  const auto found = [&](const CensoredRows& data) {
    try {
      const CensoredFit other = fit_censored(fit.estimate.model(), data, options);
      VectorXd values = as_eigen(other.joint);
      values[values.size() - 1] = other.scatter_value();
      return other.converged ? values : VectorXd();
    } catch (const Error&) {
      return VectorXd();  // too little is left: no such fit
    }
  };
  CensoredRows measured = fit.data;
  measured.of.assign(measured.of.size(), Censoring::none);
  result.as_measured = found(measured);
  std::vector<std::size_t> rows;
  for (std::size_t i = 0; i < fit.data.of.size(); ++i) {
    if (fit.data.of[i] != Censoring::none) rows.push_back(fit.data.rows.source_rows()[i]);
  }
  if (rows.empty() || rows.size() == fit.data.of.size()) return result;
  CensoredRows fewer{fit.data.rows.without(rows, "a limit")};
  fewer.of.assign(fewer.rows.size(), Censoring::none);
  result.left_out = found(fewer);
  return result;
}

namespace {

// The places at which standardized responses may have mass: the measured ones, and one beyond each end.
class MassPlaces {
 public:
  explicit MassPlaces(std::vector<double> measured) : at_(std::move(measured)) {
    std::sort(at_.begin(), at_.end());
    at_.erase(std::unique(at_.begin(), at_.end()), at_.end());
  }

  std::size_t size() const { return at_.size() + 2; }  // 0: below all, the last: above all
  std::size_t not_below(double z) const {
    return static_cast<std::size_t>(std::lower_bound(at_.begin(), at_.end(), z) - at_.begin()) + 1;
  }
  std::size_t above(double z) const {
    return static_cast<std::size_t>(std::upper_bound(at_.begin(), at_.end(), z) - at_.begin()) + 1;
  }

 private:
  std::vector<double> at_;
};

// Where a row's mass may lie.
struct MassRange {
  std::size_t first, end;
};

// The most likely mass of each place: Turnbull (1976), a row's mass shared among its places in proportion to theirs.
std::vector<double> masses_of(std::span<const MassRange> rows, std::size_t places) {
  std::vector<double> mass(places, 1.0 / static_cast<double>(places));
  constexpr int most_rounds = 20000;
  constexpr double settled = 1e-12;
  for (int round = 0; round < most_rounds; ++round) {
    std::vector<double> sums(places + 1, 0);
    for (std::size_t j = 0; j < places; ++j) sums[j + 1] = sums[j] + mass[j];
    // The shares as differences of a running sum.
    std::vector<double> edges(places + 1, 0);
    for (const MassRange& row : rows) {
      const double all = sums[row.end] - sums[row.first];
      if (!(all > 0)) continue;
      edges[row.first] += 1 / all;
      edges[row.end] -= 1 / all;
    }
    double running = 0;
    double change = 0;
    for (std::size_t j = 0; j < places; ++j) {
      running += edges[j];
      const double next = mass[j] * running / static_cast<double>(rows.size());
      change = std::max(change, std::abs(next - mass[j]));
      mass[j] = next;
    }
    if (change < settled) break;
  }
  return mass;
}

}  // namespace

std::vector<PlottedShare> plotting_positions(const CensoredFit& fit) {
  detail::CensoredLikelihood likelihood(fit.estimate.model(), fit.data, fit.distribution);
  const auto p = static_cast<Index>(fit.joint.size()) - 1;
  const VectorXd z =
      (likelihood.even() - likelihood.curve(as_eigen(fit.joint).head(p), fit.data.rows).value) / fit.scatter;
  const auto n = static_cast<std::size_t>(z.size());
  std::vector<double> measured;
  for (std::size_t i = 0; i < n; ++i) {
    if (fit.data.of[i] == Censoring::none) measured.push_back(z[static_cast<Index>(i)]);
  }
  const MassPlaces places(std::move(measured));
  std::vector<MassRange> rows;
  for (std::size_t i = 0; i < n; ++i) {
    const double at = z[static_cast<Index>(i)];
    switch (fit.data.of[i]) {
      case Censoring::none: rows.push_back({places.not_below(at), places.not_below(at) + 1}); break;
      case Censoring::below: rows.push_back({0, places.not_below(at)}); break;
      case Censoring::above: rows.push_back({places.above(at), places.size()}); break;
    }
  }
  const std::vector<double> mass = masses_of(rows, places.size());
  std::vector<double> below(mass.size() + 1, 0);
  for (std::size_t j = 0; j < mass.size(); ++j) below[j + 1] = below[j] + mass[j];
  std::vector<PlottedShare> shares;
  for (std::size_t i = 0; i < n; ++i) {
    if (fit.data.of[i] != Censoring::none) continue;
    const double at = z[static_cast<Index>(i)];
    const std::size_t j = places.not_below(at);
    shares.push_back({i, at, (below[j] + below[j + 1]) / 2});
  }
  std::sort(shares.begin(), shares.end(),
            [](const PlottedShare& a, const PlottedShare& b) { return a.standardized < b.standardized; });
  return shares;
}

namespace {

std::vector<std::string> remarks_on(const CensoredResults& r) {
  std::vector<std::string> remarks(r.fit.data.rows.remarks().begin(), r.fit.data.rows.remarks().end());
  if (!r.fit.converged) remarks.emplace_back("The search did not converge: do not use the numbers.");
  const DistributionRank& best = r.distributions.front();
  const double better =
      r.fit.log_likelihood < best.log_likelihood ? 2 * (best.log_likelihood - r.fit.log_likelihood) : 0;
  if (better > clearly_better)
    remarks.push_back(fmt::format("A {} distribution describes these data better: its AIC is smaller by {}.",
                                  best.distribution == Distribution::weibull ? "Weibull" : name(best.distribution),
                                  rounded(better, 3)));
  const std::size_t measured = r.fit.data.count(Censoring::none);
  if (measured < few_measured)
    remarks.push_back(fmt::format(
        "Only {} measured: intervals are approximate (with ten measured rows 90 to 95 % of 95 % intervals held in "
        "simulations), and the scatter is underestimated on average.",
        measured == 1 ? "one row is" : fmt::format("{} rows are", measured)));
  return remarks;
}

}  // namespace

CensoredResults censored_results(const CensoredFit& fit, std::span<const double> shares, std::span<const Vector> places,
                                 Level level) {
  CensoredResults results{.fit = fit, .level = level, .parameters = parameter_intervals(fit.estimate, level)};
  for (ParameterInterval& p : results.parameters) {
    const Interval interval = censored_interval(fit, p.name, level);
    p.low = interval.low;
    p.high = interval.high;
  }
  const Interval scatter = censored_interval(fit, fit.scatter_name(), level);
  results.parameters.push_back({.name = fit.scatter_name(),
                                .value = fit.scatter_value(),
                                .standard_uncertainty = fit.scatter_uncertainty(),
                                .low = scatter.low,
                                .high = scatter.high,
                                .unit = fit.distribution == Distribution::normal ? fit.data.rows.response().unit : ""});
  const Vector nowhere;
  const bool needs_no_place = fit.data.rows.predictors().empty() && places.empty();
  for (const Vector& place : needs_no_place ? std::span(&nowhere, 1) : places) {
    for (const double share : shares) results.quantiles.push_back(quantile_of(fit, share, place, level));
  }
  for (const Distribution other : {Distribution::normal, Distribution::lognormal, Distribution::weibull}) {
    if (other == fit.distribution) {
      results.distributions.push_back({other, fit.log_likelihood, fit.aicc});
      continue;
    }
    try {
      const CensoredFit made = fit_censored(fit.estimate.model(), fit.data, {.distribution = other});
      if (made.converged) results.distributions.push_back({other, made.log_likelihood, made.aicc});
    } catch (const Error&) {
      continue;  // responses or a curve that this distribution can't have
    }
  }
  std::stable_sort(
      results.distributions.begin(), results.distributions.end(),
      [](const DistributionRank& a, const DistributionRank& b) { return a.log_likelihood > b.log_likelihood; });
  results.otherwise = fitted_otherwise(fit);
  const std::vector<PlottedShare> plotted = plotting_positions(fit);
  results.lowest_share = plotted.front().share;
  results.highest_share = plotted.back().share;
  results.remarks = remarks_on(results);
  return results;
}

}  // namespace truecurve
