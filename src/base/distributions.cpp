// Distributions through Boost.Math, compiled once here so that no other file pays for its templates.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>

#include <algorithm>
#include <cmath>
#include <exception>
#include <string_view>

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

// Without promotion to long double: half the time, and still 14 digits. What is beyond a double's range is infinite.
using Policy =
    boost::math::policies::policy<boost::math::policies::promote_double<false>,
                                  boost::math::policies::overflow_error<boost::math::policies::ignore_error>>;
using Normal = boost::math::normal_distribution<double, Policy>;
using StudentT = boost::math::students_t_distribution<double, Policy>;
using ChiSquared = boost::math::chi_squared_distribution<double, Policy>;
using NoncentralT = boost::math::non_central_t_distribution<double, Policy>;
using FisherF = boost::math::fisher_f_distribution<double, Policy>;

// So many degrees of freedom of the denominator make F chi-squared over its own, to all digits.
constexpr double as_good_as_infinite = 1e15;

void require(bool holds, std::string_view function, std::string_view what, const char* subject, double value,
             const char* remedy) {
  if (holds) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("{}: {}, and this is {}", function, what, shortest(value)),
               .subject = subject,
               .value = shortest(value),
               .remedy = remedy});
}

void require_probability(double p, std::string_view function) {
  require(p > 0 && p < 1, function, "a probability must lie between 0 and 1", "p", p,
          "give a probability such as 0.975");
}

void require_degrees(double degrees, std::string_view function) {
  require(degrees > 0, function, "a number of degrees of freedom must be positive", "degrees_of_freedom", degrees,
          "more rows than parameters are needed");
}

// Of a chi-squared: as many as rows can be.
void require_finite_degrees(double degrees, std::string_view function) {
  constexpr double most = 1e10;
  require_degrees(degrees, function);
  require(degrees <= most, function, "a number of degrees of freedom must be at most 1e10", "degrees_of_freedom",
          degrees, "give the number of rows less that of parameters");
}

void require_number(double value, const char* subject, std::string_view function) {
  require(!std::isnan(value), function, "a number is needed", subject, value, "give a number");
}

void require_not_negative(double value, const char* subject, std::string_view function) {
  require(value >= 0, function, "a number of at least 0 is needed", subject, value,
          "a sum of squares, or a ratio of two, is never negative");
}

// Where a series does not converge or an argument is next to nothing, the library gives up in several ways.
template <class Calculation>
double computed(std::string_view function, double degrees, const Calculation& calculation) {
  double value = not_a_number;
  try {
    value = calculation();
  } catch (const std::exception&) {
    value = not_a_number;
  }
  require(!std::isnan(value), function, "for such a number of degrees of freedom it can't be computed",
          "degrees_of_freedom", degrees, "give arguments nearer to 1");
  return value;
}

}  // namespace

double normal_quantile(double p) {
  require_probability(p, "normal_quantile");
  return quantile(Normal(), p);
}

double normal_probability(double z) noexcept { return 0.5 * std::erfc(-z / std::sqrt(2.0)); }

double log_normal_probability(double z) noexcept {
  // Mills' ratio to five terms; Abramowitz and Stegun (1964), 26.2.12: 2e-14 at -30.
  constexpr double far = -30;
  constexpr double half_log_two_pi = 0.91893853320467274;
  if (z > far) return std::log(normal_probability(z));
  const double w = 1 / (z * z);
  return -0.5 * z * z - half_log_two_pi - std::log(-z) +
         std::log1p(w * (-1 + w * (3 + w * (-15 + w * (105 - 945 * w)))));
}

double student_t_quantile(double p, double degrees_of_freedom) {
  constexpr auto name = "student_t_quantile";
  require_probability(p, name);
  require_degrees(degrees_of_freedom, name);
  if (std::isinf(degrees_of_freedom)) return normal_quantile(p);
  return computed(name, degrees_of_freedom, [&] { return quantile(StudentT(degrees_of_freedom), p); });
}

double student_t_two_sided(double t, double degrees_of_freedom) {
  constexpr auto name = "student_t_two_sided";
  require_number(t, "t", name);
  require_degrees(degrees_of_freedom, name);
  if (std::isinf(t)) return 0;
  if (std::isinf(degrees_of_freedom)) return std::erfc(std::abs(t) / std::sqrt(2.0));
  return computed(name, degrees_of_freedom,
                  [&] { return 2 * cdf(complement(StudentT(degrees_of_freedom), std::abs(t))); });
}

double noncentral_t_probability(double t, double degrees_of_freedom, double delta) {
  constexpr auto name = "noncentral_t_probability";
  require_number(t, "t", name);
  require_degrees(degrees_of_freedom, name);
  require(std::isfinite(delta), name, "a finite number is needed", "delta", delta, "give a finite number");
  if (std::isinf(t)) return t > 0 ? 1 : 0;
  if (std::isinf(degrees_of_freedom)) return normal_probability(t - delta);
  // Beyond what the series reaches: t = (z + delta)/sqrt(chi²/dof) with z next to nothing beside delta.
  constexpr double far = 100;
  constexpr double beyond_all = 1e6;
  if (std::abs(t) > beyond_all && std::abs(delta) <= far) return t > 0 ? 1 : 0;
  if (delta < -far) return 1 - noncentral_t_probability(-t, degrees_of_freedom, -delta);
  if (delta > far)
    return t > 0 ? chi_squared_upper(degrees_of_freedom * (delta / t) * (delta / t), degrees_of_freedom) : 0;
  return computed(name, degrees_of_freedom, [&] { return cdf(NoncentralT(degrees_of_freedom, delta), t); });
}

double chi_squared_upper(double chi_squared, double degrees_of_freedom) {
  constexpr auto name = "chi_squared_upper";
  require_not_negative(chi_squared, "chi_squared", name);
  require_finite_degrees(degrees_of_freedom, name);
  if (std::isinf(chi_squared)) return 0;
  // P(X <= z dof) is at most (z exp(1 - z))^(dof/2) (Chernoff 1952): here below 1e-78, where the series would overflow.
  if (degrees_of_freedom >= 100 && chi_squared < 0.01 * degrees_of_freedom) return 1;
  return computed(name, degrees_of_freedom,
                  [&] { return cdf(complement(ChiSquared(degrees_of_freedom), chi_squared)); });
}

double chi_squared_quantile(double p, double degrees_of_freedom) {
  constexpr auto name = "chi_squared_quantile";
  require_probability(p, name);
  require_finite_degrees(degrees_of_freedom, name);
  return computed(name, degrees_of_freedom, [&] { return quantile(ChiSquared(degrees_of_freedom), p); });
}

double f_upper(double f, double numerator, double denominator) {
  constexpr auto name = "f_upper";
  require_not_negative(f, "f", name);
  require_finite_degrees(numerator, name);
  require_degrees(denominator, name);
  if (std::isinf(f)) return 0;
  if (denominator > as_good_as_infinite) return chi_squared_upper(f * numerator, numerator);
  return computed(name, std::min(numerator, denominator),
                  [&] { return cdf(complement(FisherF(numerator, denominator), f)); });
}

double f_quantile(double p, double numerator, double denominator) {
  constexpr auto name = "f_quantile";
  require_probability(p, name);
  require_finite_degrees(numerator, name);
  require_degrees(denominator, name);
  if (denominator > as_good_as_infinite) return chi_squared_quantile(p, numerator) / numerator;
  return computed(name, std::min(numerator, denominator), [&] { return quantile(FisherF(numerator, denominator), p); });
}

}  // namespace truecurve
