// Gamma, beta, Poisson and binomial tails by Boost.Math where its series end soon, by their limits beyond.
#include "count_tails.hpp"

#include <truecurve/base/distributions.hpp>

#include <algorithm>
#include <cmath>

#include <boost/math/special_functions/beta.hpp>
#include <boost/math/special_functions/gamma.hpp>

namespace truecurve::detail {
namespace {

constexpr double many_events = 1e7;
constexpr double many_trials = 1e8;
// So many of the rarer outcome make a binomial distribution of many trials a normal one.
constexpr double not_rare = 1e4;

}  // namespace

double gamma_below(double shape, double x) {
  if (!(x > 0)) return 0;
  if (shape < many_events) return boost::math::gamma_p(shape, x);
  return normal_probability((std::cbrt(x / shape) - (1 - 1 / (9 * shape))) * 3 * std::sqrt(shape));
}

double gamma_quantile(double shape, double p) {
  if (shape < many_events) return boost::math::gamma_p_inv(shape, p);
  return shape * std::pow(1 - 1 / (9 * shape) + normal_quantile(p) / (3 * std::sqrt(shape)), 3);
}

double poisson_at_most(double count, double mean) {
  if (count < 0) return 0;
  if (!(mean > 0)) return 1;
  return std::max(count, mean) < many_events ? boost::math::gamma_q(count + 1, mean) : 1 - gamma_below(count + 1, mean);
}

double binomial_at_most(double count, double trials, double probability) {
  if (count < 0) return 0;
  if (count >= trials) return 1;
  if (trials < many_trials) return boost::math::ibetac(count + 1, trials - count, probability);
  if (trials * probability < not_rare) return poisson_at_most(count, trials * probability);
  if (trials * (1 - probability) < not_rare) return 1 - poisson_at_most(trials - count - 1, trials * (1 - probability));
  return normal_probability((count + 0.5 - trials * probability) / std::sqrt(trials * probability * (1 - probability)));
}

double beta_quantile(double a, double b, double p) {
  const double sum = a + b;
  if (sum < many_trials) return boost::math::ibeta_inv(a, b, p);
  if (a < not_rare) return gamma_quantile(a, p) / sum;
  if (b < not_rare) return 1 - gamma_quantile(b, 1 - p) / sum;
  return a / sum + normal_quantile(p) * std::sqrt(a / sum * (b / sum) / sum);
}

double mixed_poisson_at_most(double count, double mean, double shape) {
  if (count < 0) return 0;
  if (!(mean > 0)) return 1;
  if (std::isinf(shape)) return poisson_at_most(count, mean);
  if (std::max(count, mean) < many_events) return boost::math::ibeta(shape, count + 1, shape / (shape + mean));
  const double both = 1 / (1 / mean + 1 / shape);
  return gamma_below(both, both * ((count + 0.5) / mean));
}

}  // namespace truecurve::detail
