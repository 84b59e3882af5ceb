// Tails of the distributions of counts, for counts of any size.
#pragma once

namespace truecurve::detail {

/// Distribution function, density and quantile of a gamma distribution of scale 1; all but the density from a shape of
/// 1e7 on by the cube root (Wilson and Hilferty 1931, PNAS 17, 684), which then is right to 1e-8 and better.
[[nodiscard]] double gamma_below(double shape, double x);
[[nodiscard]] double gamma_density(double shape, double x);
[[nodiscard]] double gamma_quantile(double shape, double p);
/// What is exceeded with probability q > 0, however small.
[[nodiscard]] double gamma_exceeded(double shape, double q);

/// Probability of at most so many (a whole number) of a Poisson distribution, and of a binomial one; of more than 1e8
/// trials by Poisson's or the normal distribution.
[[nodiscard]] double poisson_at_most(double count, double mean);
[[nodiscard]] double binomial_at_most(double count, double trials, double probability);

/// The smallest count at which that probability reaches p (between 0 and 1), where those functions give it to the last
/// digits: of a mean below 1e7, or of fewer than 1e8 trials.
[[nodiscard]] double poisson_quantile(double p, double mean);
[[nodiscard]] double binomial_quantile(double p, double trials, double probability);

/// Logarithm of n!.
[[nodiscard]] double ln_factorial(double n);

/// Distribution function of a beta distribution.
[[nodiscard]] double beta_below(double a, double b, double x);

/// Quantile of a beta distribution; where a + b is beyond 1e8 by the gamma or the normal distribution.
[[nodiscard]] double beta_quantile(double a, double b, double p);

/// Probability that a Poisson count whose mean has a gamma distribution of this mean and shape is at most so many:
/// negative binomial; beyond a mean of 1e7 by the gamma distribution with the same two moments.
[[nodiscard]] double mixed_poisson_at_most(double count, double mean, double shape);

}  // namespace truecurve::detail
