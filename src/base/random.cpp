// Normal variates by inversion.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>

#include <algorithm>
#include <cmath>
#include <random>

#include <fmt/format.h>

namespace truecurve {

struct RandomNumbers::Engine {
  explicit Engine(Seed seed) : twister(seed) {}
  // The largest of all would be rounded to 1.
  [[nodiscard]] double uniform() {
    return std::min((static_cast<double>(twister() >> 11) + 0.5) * 0x1p-53, 1 - 0x1p-53);
  }
  std::mt19937_64 twister;
};

RandomNumbers::RandomNumbers(Seed seed) : engine_(std::make_unique<Engine>(seed)) {}
RandomNumbers::~RandomNumbers() = default;
RandomNumbers::RandomNumbers(const RandomNumbers& other) : engine_(std::make_unique<Engine>(*other.engine_)) {}
RandomNumbers& RandomNumbers::operator=(const RandomNumbers& other) {
  *engine_ = *other.engine_;
  return *this;
}

double RandomNumbers::uniform() { return engine_->uniform(); }

double RandomNumbers::normal() { return normal_quantile(uniform()); }

void RandomNumbers::fill_normal(std::span<double> values) {
  for (std::size_t i = 0; i < values.size();) {
    const double u = 2 * engine_->uniform() - 1;
    const double v = 2 * engine_->uniform() - 1;
    const double square = u * u + v * v;
    if (square >= 1 || square == 0) continue;
    const double factor = std::sqrt(-2 * std::log(square) / square);
    values[i++] = u * factor;
    if (i < values.size()) values[i++] = v * factor;
  }
}

double RandomNumbers::chi_squared(double degrees_of_freedom) {
  if (!(degrees_of_freedom > 0) || !std::isfinite(degrees_of_freedom)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("chi-squared has a positive number of degrees of freedom, and this is {}",
                                        degrees_of_freedom),
                 .subject = "degrees_of_freedom",
                 .value = fmt::format("{}", degrees_of_freedom),
                 .remedy = "give a number above 0"});
  }
  const double shape = degrees_of_freedom / 2;
  // Below 1 the variate of shape + 1 is multiplied by a power of a uniform.
  const double boost = shape < 1 ? std::pow(uniform(), 1 / shape) : 1;
  const double d = (shape < 1 ? shape + 1 : shape) - 1.0 / 3;
  const double c = 1 / std::sqrt(9 * d);
  for (;;) {
    const double x = normal();
    const double root = 1 + c * x;
    const double v = root * root * root;
    if (v > 0 && std::log(uniform()) < x * x / 2 + d - d * v + d * std::log(v)) return 2 * d * v * boost;
  }
}

}  // namespace truecurve
