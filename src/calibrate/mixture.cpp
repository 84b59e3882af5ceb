// Mixtures of Student's t.
#include "mixture.hpp"

#include <truecurve/base/distributions.hpp>

#include "../base/roots.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve::detail {
double effective_degrees(double u1, double v1, double u2, double v2) {
  const double u = std::hypot(u1, u2);
  if (!(u > 0)) return std::min(v1, v2);
  const double inverse = std::pow(u1 / u, 4) / v1 + std::pow(u2 / u, 4) / v2;
  return inverse > 0 ? 1 / inverse : infinity;
}

double Mixture::tail(double x, int side) const {
  double sum = 0;
  for (const Part& part : parts_) {
    const double off = side * (x - part.value);
    if (!(part.u > 0)) {
      sum += off > 0 ? part.weight : off < 0 ? 0 : part.weight / 2;
      continue;
    }
    const double far = student_t_two_sided(std::abs(off) / part.u, part.degrees_of_freedom) / 2;
    sum += part.weight * (off > 0 ? 1 - far : far);
  }
  return sum;
}

double Mixture::quantile(double p) const {
  double low = infinity;
  double high = -infinity;
  for (const Part& part : parts_) {
    const double at = part.value + part.u * student_t_quantile(p, part.degrees_of_freedom);
    low = std::min(low, at);
    high = std::max(high, at);
  }
  if (!(low < high)) return low;
  return smooth_change_of_sign(low, high, [&](double x) { return below(x) - p; });
}

double Mixture::standard_uncertainty(double about) const {
  if (parts_.size() == 1 && parts_[0].value == about) return parts_[0].u;
  double sum = 0;
  for (const Part& part : parts_)
    sum = std::hypot(sum, std::sqrt(part.weight) * part.u, std::sqrt(part.weight) * (part.value - about));
  return sum;
}

}  // namespace truecurve::detail
