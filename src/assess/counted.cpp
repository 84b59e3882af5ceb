// Deviances and what they say.
#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/counted.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>

#include "../base/count_tails.hpp"
#include "../base/matrices.hpp"
#include "../fit/refit.hpp"
#include "../fit/weights.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

void require_counted(const Fit& fit) {
  if (fit.is_counted()) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = "the response was measured, not counted",
               .subject = fit.observations().response().name,
               .remedy = "ask for the quality of the fit instead"});
}

bool are_events(const Fit& fit) { return fit.observations().observation_model().kind() == ResponseKind::events; }

// Whether the distribution is one of ours, and not a kernel of the user's own.
bool is_of_numbers(const Fit& fit) { return fit.observations().observation_model().kind() != ResponseKind::other; }

// Cochran (1954).
bool are_large(const Fit& fit, const VectorXd& mean) {
  if (!is_of_numbers(fit)) return false;
  Index small = 0;
  Index cells = 0;
  const auto sizes = as_eigen(fit.observations().sizes());
  bool tiny = false;
  const auto add = [&](double expected) {
    ++cells;
    small += expected < 5;
    tiny = tiny || expected < 1;
  };
  for (Index i = 0; i < mean.size(); ++i) {
    add(sizes[i] * mean[i]);
    if (are_events(fit)) add(sizes[i] * (1 - mean[i]));
  }
  return !tiny && 5 * small <= cells;
}

std::vector<CountedGroup> groups_of(const Fit& fit, const VectorXd& mean) {
  constexpr std::size_t most = 10;
  constexpr std::size_t fewest_rows = 5;
  const Observations& rows = fit.observations();
  std::vector<Index> order(rows.size());
  std::iota(order.begin(), order.end(), Index{0});
  std::stable_sort(order.begin(), order.end(), [&mean](Index a, Index b) { return mean[a] < mean[b]; });
  const std::size_t count = std::min(most, rows.size() / fewest_rows);
  if (count < 2) return {};
  const double whole = as_eigen(rows.sizes()).sum();
  std::vector<CountedGroup> groups(1);
  double seen = 0;
  for (std::size_t k = 0; k < order.size(); ++k) {
    const Index i = order[k];
    // Rows of one mean stay together.
    const bool is_new = k == 0 || mean[i] != mean[order[k - 1]];
    const double wanted = whole * static_cast<double>(groups.size()) / static_cast<double>(count);
    if (is_new && seen >= wanted * (1 - 1e-12) && groups.size() < count) groups.emplace_back();
    CountedGroup& group = groups.back();
    if (group.size == 0) group.lowest_mean = mean[i];
    group.highest_mean = mean[i];
    group.size += rows.sizes()[i];
    group.observed += rows.sizes()[i] * rows.responses()[i];
    group.expected += rows.sizes()[i] * mean[i];
    seen += rows.sizes()[i];
  }
  return groups.size() < 2 ? std::vector<CountedGroup>{} : groups;
}

// Trials that the mean tells rightly: events above one half, others below; a mean of one half tells half of them.
double told(double share, double size, double mean) {
  return size * (mean > 0.5 ? share : mean < 0.5 ? 1 - share : 0.5);
}

}  // namespace

CountedQuality counted_quality(const Fit& fit) {
  require_counted(fit);
  CountedQuality q;
  const Observations& rows = fit.observations();
  const VectorXd mean = as_eigen(fit.fitted_response());
  const auto p = static_cast<double>(fit.estimate().free_parameters());
  q.deviance = fit.chi_squared();
  q.null_deviance = fit.total_sum_of_squares();
  q.pearson_chi_squared =
      detail::Weights(fit.left_side_observations()).standardized(as_eigen(fit.residuals())).squaredNorm();
  q.degrees_of_freedom = fit.degrees_of_freedom();
  q.is_grouped = are_large(fit, mean);
  if (q.degrees_of_freedom > 0) {
    q.dispersion = q.pearson_chi_squared / q.degrees_of_freedom;
    if (q.is_grouped) {
      q.deviance_p = chi_squared_upper(q.deviance, q.degrees_of_freedom);
      q.pearson_p = chi_squared_upper(q.pearson_chi_squared, q.degrees_of_freedom);
    }
  }
  const double scale = fit.estimate().scale();
  // A parameter with one end only was fitted, too.
  const double fitted = p + (fit.estimate().open_end() ? 1 : 0);
  if (fitted >= 2 && q.null_deviance >= q.deviance && scale > 0) {
    q.dependence_degrees = fitted - 1;
    q.dependence_statistic = (q.null_deviance - q.deviance) / (scale * scale);
    q.dependence_p = fit.estimate().has_known_scale()
                         ? chi_squared_upper(q.dependence_statistic, fitted - 1)
                         : f_upper(q.dependence_statistic / (fitted - 1), fitted - 1, q.degrees_of_freedom);
  }
  if (are_events(fit)) {
    double right = 0;
    for (Index i = 0; i < mean.size(); ++i) right += told(rows.responses()[i], rows.sizes()[i], mean[i]);
    q.rightly_told = right / as_eigen(rows.sizes()).sum();
  }
  q.groups = groups_of(fit, mean);
  return q;
}

double rightly_told_left_out(const Fit& fit) {
  require_counted(fit);
  if (!are_events(fit)) return not_a_number;
  const Observations& rows = fit.observations();
  double right = 0;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const std::size_t number = rows.source_rows()[i];
    try {
      const Fit without = detail::refit(fit, rows.without(std::span(&number, 1), "left out for a prediction"));
      std::vector<Vector> at;
      for (std::size_t k = 0; k < rows.predictors().size(); ++k) at.push_back({rows.predictor(k)[i]});
      right += told(rows.responses()[i], rows.sizes()[i], curve_at(without.estimate(), at).value);
    } catch (const Error&) {
      return not_a_number;
    }
  }
  return right / as_eigen(rows.sizes()).sum();
}

Interval exact_interval(ResponseKind kind, double counted, double size, Level level) {
  if (kind != ResponseKind::events && kind != ResponseKind::counts) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("there is no exact interval of the kind '{}'", name(kind)),
                 .subject = "exact_interval",
                 .value = std::string(name(kind)),
                 .remedy = "ask for events or counts"});
  }
  const auto refuse = [](const std::string& what, double value, const char* remedy) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{}, and this is {}", what, shortest(value)),
                 .subject = "exact_interval",
                 .value = shortest(value),
                 .remedy = remedy});
  };
  if (!(size > 0) || !std::isfinite(size))
    refuse("a number of trials or an exposure is greater than 0", size, "give the trials or the exposure");
  if (!(counted >= 0) || counted != std::floor(counted) || !std::isfinite(counted))
    refuse("what was counted is a whole number of at least 0", counted, "give the number itself, no share or rate");
  const double tail = (1 - level) / 2;
  if (kind == ResponseKind::events) {
    if (size != std::floor(size)) refuse("a number of trials is whole", size, "give the number of trials");
    if (counted > size) refuse("of so many trials no more can be events", counted, "exchange events and trials");
    return {counted > 0 ? detail::beta_quantile(counted, size - counted + 1, tail) : 0,
            counted < size ? detail::beta_quantile(counted + 1, size - counted, 1 - tail) : 1};
  }
  return {(counted > 0 ? detail::gamma_quantile(counted, tail) : 0) / size,
          detail::gamma_exceeded(counted + 1, tail) / size};
}

Vector quantile_residuals(const Fit& fit, Seed seed) {
  require_counted(fit);
  if (!is_of_numbers(fit)) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = "the distribution function of a kernel of one's own is not known",
                 .subject = fit.observations().response().name,
                 .remedy = "look at Pearson's residuals (row_measures) instead"});
  }
  const Observations& rows = fit.observations();
  const VectorXd mean = as_eigen(fit.fitted_response());
  const VectorXd numbers = as_eigen(rows.counted_numbers());
  RandomNumbers random(seed);
  VectorXd residuals(mean.size());
  for (Index i = 0; i < mean.size(); ++i) {
    const double n = rows.sizes()[i];
    const double k = numbers[i];
    const double m = std::clamp(mean[i], 0.0, are_events(fit) ? 1.0 : infinity);
    // P(at most k), and P(fewer than k).
    const auto below = [&](double count) {
      if (count < 0) return 0.0;
      if (are_events(fit)) return detail::binomial_at_most(count, n, m);
      return detail::poisson_at_most(count, n * m);
    };
    const double low = below(k - 1);
    const double high = below(k);
    const double at = low + (high - low) * random.uniform();
    residuals[i] = normal_quantile(std::clamp(at, 1e-16, 1 - 1e-16));
  }
  return residuals;
}

}  // namespace truecurve
