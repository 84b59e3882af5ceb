// Tails of counts, against sums of their probabilities in long double and against their limits.
#include "../../src/base/count_tails.hpp"

#include <truecurve/base/numeric.hpp>

#include <cmath>
#include <functional>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

using Probability = std::function<long double(long double)>;

long double up_to(double count, const Probability& of) {
  long double sum = 0;
  for (long double k = 0; k <= count; ++k) sum += of(k);
  return sum;
}

Probability poisson(long double mean) {
  return [mean](long double k) { return std::exp(k * std::log(mean) - mean - std::lgamma(k + 1)); };
}

Probability binomial(long double n, long double p) {
  return [n, p](long double k) {
    if (k > n) return 0.0L;
    return std::exp(std::lgamma(n + 1) - std::lgamma(k + 1) - std::lgamma(n - k + 1) + k * std::log(p) +
                    (n - k) * std::log1p(-p));
  };
}

// P(k - 1) < p <= P(k), but for what rounding can't tell.
void expect_quantile(double k, double p, const Probability& of) {
  constexpr long double rounding = 1e-11L;
  EXPECT_EQ(k, std::floor(k));
  EXPECT_GE(up_to(k, of), p * (1 - rounding));
  EXPECT_LT(k == 0 ? 0 : up_to(k - 1, of), p * (1 + rounding));
}

const double probabilities[] = {1e-13, 1e-3, 0.2, 0.5, 0.84, 0.999, 1 - 1e-12};

TEST(CountTails, OfPoissonAreSumsAndTheirQuantilesTurnThemRound) {
  for (const double mean : {1e-4, 0.7, 5.0, 31.0, 640.0, 30000.0}) {
    SCOPED_TRACE(mean);
    for (const double p : probabilities) {
      const double k = detail::poisson_quantile(p, mean);
      expect_quantile(k, p, poisson(mean));
      const auto sum = static_cast<double>(up_to(k, poisson(mean)));
      EXPECT_NEAR(detail::poisson_at_most(k, mean), sum, 1e-11 * sum);
      EXPECT_NEAR(detail::gamma_below(k + 1, mean), 1 - sum, 1e-11);
      const auto density = static_cast<double>(poisson(mean)(k));
      EXPECT_NEAR(detail::gamma_density(k + 1, mean), density, 1e-10 * density);
    }
  }
  EXPECT_EQ(detail::poisson_at_most(-1, 3), 0);
  EXPECT_EQ(detail::poisson_at_most(0, 0), 1);
  EXPECT_EQ(detail::poisson_quantile(0.5, 1e-300), 0);
}

TEST(CountTails, OfTrialsAreSumsAndTheirQuantilesTurnThemRound) {
  for (const double n : {1.0, 12.0, 150.0, 4000.0}) {
    for (const double share : {1e-5, 0.3, 0.98}) {
      SCOPED_TRACE(share);
      for (const double p : probabilities) {
        const double k = detail::binomial_quantile(p, n, share);
        expect_quantile(k, p, binomial(n, share));
        const auto sum = static_cast<double>(up_to(k, binomial(n, share)));
        EXPECT_NEAR(detail::binomial_at_most(k, n, share), sum, 1e-11 * sum);
        if (k < n) EXPECT_NEAR(detail::beta_below(k + 1, n - k, share), 1 - sum, 1e-11);
      }
    }
    EXPECT_EQ(detail::binomial_quantile(0.5, n, 0), 0);
    EXPECT_EQ(detail::binomial_quantile(0.5, n, 1), n);
  }
  EXPECT_EQ(detail::binomial_at_most(-1, 9, 0.5), 0);
  EXPECT_EQ(detail::binomial_at_most(9, 9, 0.5), 1);
  EXPECT_NEAR(detail::ln_factorial(20), std::log(2432902008176640000.0), 1e-13);
  EXPECT_EQ(detail::ln_factorial(0), 0);
}

// Where the series are left for limits the values go on.
TEST(CountTails, GoOnBeyondTheirSeries) {
  for (const double z : {-2.5, -0.4, 1.0, 3.0}) {
    SCOPED_TRACE(z);
    const auto gamma = [z](double shape) { return detail::gamma_below(shape, shape + z * std::sqrt(shape)); };
    EXPECT_NEAR(gamma(0.999999e7), gamma(1e7), 1e-7);
    const auto counts = [z](double mean) {
      return detail::poisson_at_most(std::round(mean + z * std::sqrt(mean)), mean);
    };
    EXPECT_NEAR(counts(0.99e7), counts(1.01e7), 2e-4);
    const auto trials = [z](double n, double share) {
      return detail::binomial_at_most(std::round(n * share + z * std::sqrt(n * share * (1 - share))), n, share);
    };
    EXPECT_NEAR(trials(0.99e8, 0.2), trials(1.01e8, 0.2), 2e-4);
    // Few events go in steps: their counts are those of Poisson, on either side.
    for (const double n : {0.99e8, 1.01e8}) {
      const double k = std::round(3000 + z * std::sqrt(3000));
      EXPECT_NEAR(detail::binomial_at_most(k, n, 3000 / n), detail::poisson_at_most(k, 3000), 1e-4);
      EXPECT_NEAR(detail::binomial_at_most(n - k - 1, n, 1 - 3000 / n), 1 - detail::poisson_at_most(k, 3000), 1e-4);
    }
  }
  for (const double p : {0.001, 0.5, 0.97}) {
    EXPECT_NEAR(detail::gamma_quantile(0.999999e7, p) / 0.999999e7, detail::gamma_quantile(1e7, p) / 1e7, 1e-9);
    // Few of the one kind are a gamma distribution's quantile; many of both are normal.
    const auto few = [p](double others) { return detail::beta_quantile(20, others, p) * (20 + others); };
    EXPECT_NEAR(few(0.99e8) / detail::gamma_quantile(20, p), 1, 1e-6);
    EXPECT_NEAR(few(1.01e8) / detail::gamma_quantile(20, p), 1, 1e-6);
    const auto few_others = [p](double many) { return (1 - detail::beta_quantile(many, 20, p)) * (20 + many); };
    EXPECT_NEAR(few_others(0.99e8) / few_others(1.01e8), 1, 1e-6);
    EXPECT_NEAR(few_others(1.01e8) / detail::gamma_exceeded(20, p), 1, 1e-6);
    const auto both = [p](double sum) {
      return (detail::beta_quantile(0.3 * sum, 0.7 * sum, p) - 0.3) / std::sqrt(0.21 / sum);
    };
    EXPECT_NEAR(both(0.99e8), both(1.01e8), 1e-3);
    EXPECT_NEAR(detail::beta_below(3, 7, detail::beta_quantile(3, 7, p)), p, 1e-12);
  }
  EXPECT_NEAR((1 - detail::beta_quantile(1e9, 1, 1e-17)) * 1e9 / -std::log(1e-17), 1, 1e-6);
  // Far from the mean the series would overflow, and the tail is 0 or 1: P(N > 0) = 1 - exp(-mean).
  for (const double mean : {5e-324, 1e-300, 1e-10, 0.01, 3.0, 100.0}) {
    EXPECT_NEAR(detail::poisson_at_most(0, mean), std::exp(-mean), 1e-15) << mean;
    for (const double count : {1000.0, 1754.0, 1e5, 9e6}) {
      EXPECT_EQ(detail::poisson_at_most(count, mean), 1) << mean;
      EXPECT_EQ(detail::gamma_below(count, mean), 0) << mean;
      EXPECT_EQ(detail::binomial_at_most(count, 2e8, mean / 2e8), 1) << mean;
    }
  }
  // ... but not sooner: 20 of a mean of 1 is the sum of a few terms.
  double beyond = 0, term = std::exp(-1);
  for (int k = 1; k < 60; ++k) {
    term /= k;
    if (k > 20) beyond += term;
  }
  EXPECT_NEAR(detail::gamma_below(21, 1) / beyond, 1, 1e-12);
  // What is exceeded with a small probability: exponential for shape 1, and the same quantile otherwise.
  for (const double q : {1e-300, 1e-17, 0.025, 0.5}) EXPECT_NEAR(detail::gamma_exceeded(1, q) / -std::log(q), 1, 1e-14);
  for (const double shape : {3.0, 0.999999e7, 1e7})
    EXPECT_NEAR(detail::gamma_exceeded(shape, 0.025) / detail::gamma_quantile(shape, 0.975), 1, 1e-12);
  // A gamma mean that is known makes Poisson's counts; of shape 1 each count has a share of the one before.
  EXPECT_NEAR(detail::mixed_poisson_at_most(7, 5, infinity), detail::poisson_at_most(7, 5), 1e-15);
  EXPECT_NEAR(detail::mixed_poisson_at_most(7, 5, 1), 1 - std::pow(5.0 / 6, 8), 1e-13);
  const auto mixed = [](double mean) { return detail::mixed_poisson_at_most(std::round(1.001 * mean), mean, 1e6); };
  EXPECT_NEAR(mixed(0.99e7), mixed(1.01e7), 2e-3);
}

}  // namespace
}  // namespace truecurve
