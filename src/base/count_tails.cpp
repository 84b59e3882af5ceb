// Gamma, beta, Poisson and binomial tails by Boost.Math where its series end soon, by their limits beyond; compiled
// once here, as the other distributions are in distributions.cpp.
#include "count_tails.hpp"

#include <truecurve/base/distributions.hpp>

#include "roots.hpp"

#include <algorithm>
#include <cmath>
#include <functional>

#include <boost/math/special_functions/beta.hpp>
#include <boost/math/special_functions/gamma.hpp>

namespace truecurve::detail {
namespace {

constexpr double many_events = 1e7;
constexpr double many_trials = 1e8;
// So many of the rarer outcome make a binomial distribution of many trials a normal one.
constexpr double not_rare = 1e4;

// The smallest whole number at which a distribution function reaches p; it is looked for around the expansion of
// Cornish and Fisher (1938), Rev. Inst. Int. Stat. 5, 307, to the skewness.
double smallest_reaching(double p, double mean, double sd, double skewness,
                         const std::function<double(double)>& at_most) {
  const double z = normal_quantile(p);
  const double guess = std::max(0.0, std::floor(mean + sd * (z + skewness * (z * z - 1) / 6)));
  const auto is_below = [&](double count) { return at_most(count) < p; };
  if (is_below(guess)) return 1 + last_whole_number(guess, 1, is_below);
  return guess - last_whole_number(0, 1, [&](double lower) { return lower <= guess && !is_below(guess - lower); });
}

// P(X <= x) of a gamma distribution is at most exp(shape + shape ln(x/shape) - x) below its mean (Chernoff 1952): here
// next to nothing, where the series would overflow.
bool is_far_below(double shape, double x) {
  constexpr double next_to_nothing = -745;
  return x < shape && shape + shape * std::log(x / shape) - x < next_to_nothing;
}

}  // namespace

double gamma_below(double shape, double x) {
  if (!(x > 0) || is_far_below(shape, x)) return 0;
  if (shape < many_events) return boost::math::gamma_p(shape, x);
  return normal_probability((std::cbrt(x / shape) - (1 - 1 / (9 * shape))) * 3 * std::sqrt(shape));
}

double gamma_quantile(double shape, double p) {
  if (shape < many_events) return boost::math::gamma_p_inv(shape, p);
  return shape * std::pow(1 - 1 / (9 * shape) + normal_quantile(p) / (3 * std::sqrt(shape)), 3);
}

double gamma_exceeded(double shape, double q) {
  if (shape < many_events) return boost::math::gamma_q_inv(shape, q);
  return shape * std::pow(1 - 1 / (9 * shape) - normal_quantile(q) / (3 * std::sqrt(shape)), 3);
}

double gamma_density(double shape, double x) { return boost::math::gamma_p_derivative(shape, x); }

double poisson_at_most(double count, double mean) {
  if (count < 0) return 0;
  if (!(mean > 0) || is_far_below(count + 1, mean)) return 1;
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

double poisson_quantile(double p, double mean) {
  const double sd = std::sqrt(mean);
  return smallest_reaching(p, mean, sd, 1 / sd, [&](double count) { return poisson_at_most(count, mean); });
}

double binomial_quantile(double p, double trials, double probability) {
  const double sd = std::sqrt(trials * probability * (1 - probability));
  return smallest_reaching(p, trials * probability, sd, (1 - 2 * probability) / sd,
                           [&](double count) { return binomial_at_most(count, trials, probability); });
}

double ln_factorial(double n) { return boost::math::lgamma(n + 1); }

double beta_below(double a, double b, double x) { return boost::math::ibeta(a, b, x); }

double beta_quantile(double a, double b, double p) {
  const double sum = a + b;
  if (sum < many_trials) return boost::math::ibeta_inv(a, b, p);
  if (a < not_rare) return gamma_quantile(a, p) / sum;
  if (b < not_rare) return 1 - gamma_exceeded(b, p) / sum;
  return a / sum + normal_quantile(p) * std::sqrt(a / sum * (b / sum) / sum);
}

double mixed_poisson_at_most(double count, double mean, double shape) {
  if (count < 0) return 0;
  if (!(mean > 0)) return 1;
  if (std::isinf(shape)) return poisson_at_most(count, mean);
  if (std::max(count, mean) < many_events) return beta_below(shape, count + 1, shape / (shape + mean));
  const double both = 1 / (1 / mean + 1 / shape);
  return gamma_below(both, both * ((count + 0.5) / mean));
}

}  // namespace truecurve::detail
