// Distributions through Boost.Math, compiled once here so that no other file pays for its templates.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>

#include <cmath>

#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/fisher_f.hpp>
#include <boost/math/distributions/non_central_t.hpp>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <fmt/format.h>

namespace truecurve {
namespace {

using boost::math::cdf;
using boost::math::complement;
using boost::math::quantile;

// Without promotion to long double: half the time, and still 14 digits.
using Policy = boost::math::policies::policy<boost::math::policies::promote_double<false>>;
using Normal = boost::math::normal_distribution<double, Policy>;
using StudentT = boost::math::students_t_distribution<double, Policy>;
using ChiSquared = boost::math::chi_squared_distribution<double, Policy>;
using NoncentralT = boost::math::non_central_t_distribution<double, Policy>;
using FisherF = boost::math::fisher_f_distribution<double, Policy>;

void require_probability(double p, const char* function) {
  if (!(p > 0 && p < 1)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{}: a probability must lie between 0 and 1, and this is {}", function, p),
                 .subject = "p",
                 .value = fmt::format("{}", p),
                 .remedy = "give a probability such as 0.975"});
  }
}

void require_degrees(double degrees, const char* function) {
  if (!(degrees > 0)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{}: degrees of freedom must be positive, and these are {}", function, degrees),
                 .subject = "degrees_of_freedom",
                 .value = fmt::format("{}", degrees),
                 .remedy = "more rows than parameters are needed"});
  }
}

}  // namespace

double normal_quantile(double p) {
  require_probability(p, "normal_quantile");
  return quantile(Normal(), p);
}

double normal_probability(double z) { return 0.5 * std::erfc(-z / std::sqrt(2.0)); }

double log_normal_probability(double z) {
  // Mills' ratio to five terms; Abramowitz and Stegun (1964), 26.2.12: 2e-14 at -30.
  constexpr double far = -30;
  constexpr double half_log_two_pi = 0.91893853320467274;
  if (z > far) return std::log(normal_probability(z));
  const double w = 1 / (z * z);
  return -0.5 * z * z - half_log_two_pi - std::log(-z) +
         std::log1p(w * (-1 + w * (3 + w * (-15 + w * (105 - 945 * w)))));
}

double student_t_quantile(double p, double degrees_of_freedom) {
  require_probability(p, "student_t_quantile");
  require_degrees(degrees_of_freedom, "student_t_quantile");
  if (std::isinf(degrees_of_freedom)) return normal_quantile(p);
  return quantile(StudentT(degrees_of_freedom), p);
}

double student_t_two_sided(double t, double degrees_of_freedom) {
  require_degrees(degrees_of_freedom, "student_t_two_sided");
  if (std::isinf(t)) return 0;
  if (std::isinf(degrees_of_freedom)) return std::erfc(std::abs(t) / std::sqrt(2.0));
  return 2 * cdf(complement(StudentT(degrees_of_freedom), std::abs(t)));
}

double noncentral_t_probability(double t, double degrees_of_freedom, double delta) {
  require_degrees(degrees_of_freedom, "noncentral_t_probability");
  if (std::isinf(degrees_of_freedom)) return normal_probability(t - delta);
  // Beyond what the series reaches: t = (z + delta)/sqrt(chi²/dof) with z next to nothing beside delta.
  constexpr double far = 100;
  constexpr double beyond_all = 1e6;
  if (std::abs(t) > beyond_all && std::abs(delta) <= far) return t > 0 ? 1 : 0;
  if (delta < -far) return 1 - noncentral_t_probability(-t, degrees_of_freedom, -delta);
  if (delta > far)
    return t > 0 ? chi_squared_upper(degrees_of_freedom * (delta / t) * (delta / t), degrees_of_freedom) : 0;
  return cdf(NoncentralT(degrees_of_freedom, delta), t);
}

double chi_squared_upper(double chi_squared, double degrees_of_freedom) {
  require_degrees(degrees_of_freedom, "chi_squared_upper");
  if (std::isinf(chi_squared)) return 0;
  // P(X <= z dof) is at most (z exp(1 - z))^(dof/2) (Chernoff 1952): here below 1e-78, where the series would overflow.
  if (degrees_of_freedom >= 100 && chi_squared < 0.01 * degrees_of_freedom) return 1;
  return cdf(complement(ChiSquared(degrees_of_freedom), chi_squared));
}

double chi_squared_quantile(double p, double degrees_of_freedom) {
  require_probability(p, "chi_squared_quantile");
  require_degrees(degrees_of_freedom, "chi_squared_quantile");
  return quantile(ChiSquared(degrees_of_freedom), p);
}

double f_upper(double f, double numerator, double denominator) {
  require_degrees(numerator, "f_upper");
  require_degrees(denominator, "f_upper");
  if (std::isinf(f)) return 0;
  if (std::isinf(denominator)) return chi_squared_upper(f * numerator, numerator);
  return cdf(complement(FisherF(numerator, denominator), f));
}

double f_quantile(double p, double numerator, double denominator) {
  require_probability(p, "f_quantile");
  require_degrees(numerator, "f_quantile");
  require_degrees(denominator, "f_quantile");
  if (std::isinf(denominator)) return chi_squared_quantile(p, numerator) / numerator;
  return quantile(FisherF(numerator, denominator), p);
}

}  // namespace truecurve
