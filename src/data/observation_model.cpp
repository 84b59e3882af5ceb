// Binomial and Poisson.
#include <truecurve/base/error.hpp>
#include <truecurve/data/observation_model.hpp>

#include "../base/count_tails.hpp"
#include "normal_kernel.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace truecurve {
namespace {

double x_ln_x(double x) { return x == 0 ? 0 : x * std::log(x); }

// x*ln(x/m) - (x - m), without cancellation where they are close; not negative. Source: Loader (2000), Fast and
// accurate computation of binomial probabilities: (x - m)²/(x + m) + 2x(v³/3 + v⁵/5 + ...), v = (x - m)/(x + m).
double deviance_part(double x, double m) {
  constexpr double close = 0.1;
  if (x == 0) return m;
  const double apart = x - m;
  if (std::abs(apart) > close * m) return x * std::log(x / m) - apart;
  const double v = apart / (x + m);
  const double square = v * v;  // at most 0.0028: seven terms reach the last digit
  double sum = 1.0 / 15;
  for (const double over : {1.0 / 13, 1.0 / 11, 1.0 / 9, 1.0 / 7, 1.0 / 5, 1.0 / 3}) sum = over + square * sum;
  return apart * v + 2 * x * v * square * sum;
}

using detail::ln_factorial;

// Beyond so many the distributions are normal to the last digits that a count has room for.
constexpr double many = 1e7;

double drawn_normal(double mean, double sd, RandomNumbers& random) {
  return std::max(0.0, std::round(mean + sd * random.normal()));
}

// Of many trials: the rarer outcome is Poisson where it is rare.
double drawn_of_many(double mean, double trials, RandomNumbers& random) {
  constexpr double not_rare = 1e4;
  const double rarer = std::min(mean, 1 - mean);
  const double count = rarer * trials < not_rare
                           ? detail::poisson_quantile(random.uniform(), std::max(rarer * trials, 1e-300))
                           : drawn_normal(rarer * trials, std::sqrt(rarer * (1 - rarer) * trials), random);
  return mean <= 0.5 ? count : trials - count;
}

class Events final : public ResponseKernel {
 public:
  [[nodiscard]] ResponseKind kind() const noexcept override { return ResponseKind::events; }
  [[nodiscard]] double highest_mean() const noexcept override { return 1; }
  [[nodiscard]] double unit_variance(double mean) const override { return mean * (1 - mean); }
  [[nodiscard]] double unit_deviance(double share, double mean) const override {
    if (share == 0) return -2 * std::log1p(-mean);
    if (share == 1) return -2 * std::log(mean);
    return 2 * (deviance_part(share, mean) + deviance_part(1 - share, 1 - mean));
  }
  [[nodiscard]] double saturated_log_likelihood(double share, double trials) const override {
    const double events = std::round(share * trials);
    return ln_factorial(trials) - ln_factorial(events) - ln_factorial(trials - events) +
           trials * (x_ln_x(share) + x_ln_x(1 - share));
  }
  [[nodiscard]] double draw(double mean, double trials, RandomNumbers& random) const override {
    constexpr double few = 100;  // as many uniform numbers are drawn sooner than a quantile is found
    if (trials <= few) {
      double events = 0;
      for (double t = 0; t < trials; ++t) events += random.uniform() < mean;
      return events / trials;
    }
    if (trials > many) return drawn_of_many(mean, trials, random) / trials;
    return detail::binomial_quantile(random.uniform(), trials, mean) / trials;
  }
  [[nodiscard]] double inner_mean(double share, double trials) const override {
    return (share * trials + 0.5) / (trials + 1);
  }
  [[nodiscard]] double open_scale(double mean) const override { return std::log(mean / (1 - mean)); }
  [[nodiscard]] double open_scale_slope(double mean) const override { return 1 / (mean * (1 - mean)); }
  [[nodiscard]] double from_open_scale(double value) const override { return 1 / (1 + std::exp(-value)); }
};

class Counts final : public ResponseKernel {
 public:
  [[nodiscard]] ResponseKind kind() const noexcept override { return ResponseKind::counts; }
  [[nodiscard]] double unit_variance(double mean) const override { return mean; }
  [[nodiscard]] double unit_deviance(double rate, double mean) const override { return 2 * deviance_part(rate, mean); }
  [[nodiscard]] double saturated_log_likelihood(double rate, double exposure) const override {
    const double count = std::round(rate * exposure);
    return x_ln_x(count) - count - ln_factorial(count);
  }
  [[nodiscard]] double draw(double mean, double exposure, RandomNumbers& random) const override {
    constexpr double few = 30;
    if (mean * exposure < few) {  // Knuth (1969): how many uniform numbers multiply to less than exp(-mean)
      const double end = std::exp(-mean * exposure);
      double count = 0;
      for (double product = random.uniform(); product > end; product *= random.uniform()) ++count;
      return count / exposure;
    }
    if (mean * exposure > many) return drawn_normal(mean * exposure, std::sqrt(mean * exposure), random) / exposure;
    return detail::poisson_quantile(random.uniform(), mean * exposure) / exposure;
  }
  [[nodiscard]] double inner_mean(double rate, double exposure) const override { return rate + 0.5 / exposure; }
  [[nodiscard]] double open_scale(double mean) const override { return std::log(mean); }
  [[nodiscard]] double open_scale_slope(double mean) const override { return 1 / mean; }
  [[nodiscard]] double from_open_scale(double value) const override { return std::exp(value); }
};

}  // namespace

std::string_view name(ResponseKind kind) noexcept {
  switch (kind) {
    case ResponseKind::measured: return "measured";
    case ResponseKind::events: return "events";
    case ResponseKind::counts: return "counts";
    case ResponseKind::other: break;
  }
  return "other";
}

double ResponseKernel::standard_deviation(double mean, double size) const { return std::sqrt(variance(mean, size)); }

double ResponseKernel::greatest_log_likelihood(const ResponseBlock& rows, double objective, bool) const {
  double saturated = 0;
  for (std::size_t i = 0; i < rows.rows; ++i) saturated += saturated_log_likelihood(rows.response[i], rows.size[i]);
  return saturated - objective / 2;
}

double ResponseKernel::objective_of_one_mean(const ResponseBlock& rows) const {
  double responses = 0;
  double sizes = 0;
  for (std::size_t i = 0; i < rows.rows; ++i) {
    responses += rows.size[i] * rows.response[i];
    sizes += rows.size[i];
  }
  // Of single trials most rows are one of two: their logarithms are taken once.
  const double mean = responses / sizes;
  const double low = lowest_mean();
  const double high = highest_mean();
  const double of_low = unit_deviance(low, mean);
  const double of_high = std::isfinite(high) ? unit_deviance(high, mean) : 0;
  double deviance = 0;
  for (std::size_t i = 0; i < rows.rows; ++i) {
    const double y = rows.response[i];
    deviance += rows.size[i] * (y == low ? of_low : y == high ? of_high : unit_deviance(y, mean));
  }
  return std::isfinite(deviance) ? deviance : 0;  // the mean lies at an end, as every row does
}

double ResponseKernel::linearize(const ResponseBlock& block, const double* mean, double* standardized_residual,
                                 double* weight_root, bool with_objective) const {
  const double low = lowest_mean();
  const double high = highest_mean();
  double deviance = 0;
  for (std::size_t i = 0; i < block.rows; ++i) {
    const double mu = mean[i];
    const double y = block.response[i];
    if (mu > low && mu < high) {
      const double root = std::sqrt(block.size[i] / unit_variance(mu));
      standardized_residual[i] = (y - mu) * root;
      weight_root[i] = root;
      if (with_objective) deviance += block.size[i] * unit_deviance(y, mu);
    } else {
      const bool shared = mu == y && (mu == low || mu == high);
      standardized_residual[i] = shared ? 0 : not_a_number;
      weight_root[i] = shared ? 0 : not_a_number;
      if (!shared) deviance = infinity;
    }
  }
  return deviance;
}

ObservationModel::ObservationModel() : ObservationModel(normal()) {}

ObservationModel::ObservationModel(std::shared_ptr<const ResponseKernel> kernel) : kernel_(std::move(kernel)) {
  if (kernel_) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = "a kind of response needs a kernel, and none is given",
               .subject = "kernel",
               .remedy = "give an object of a class that derives from ResponseKernel"});
}

ObservationModel ObservationModel::normal(Scatter scatter) {
  // Readings that all scatter alike are most of all: they share one.
  static const auto alike = std::make_shared<const detail::NormalKernel>(Scatter{});
  const bool is_plain = scatter.form == Scatter::Form::constant && std::isnan(scatter.scale);
  ObservationModel made(is_plain ? alike : std::make_shared<const detail::NormalKernel>(scatter));
  made.scatter_ = std::move(scatter);
  return made;
}

ObservationModel ObservationModel::events() {
  static const auto kernel = std::make_shared<const Events>();
  return ObservationModel(kernel);
}

ObservationModel ObservationModel::counts() {
  static const auto kernel = std::make_shared<const Counts>();
  return ObservationModel(kernel);
}

ObservationModel ObservationModel::of(ResponseKind kind) {
  return kind == ResponseKind::events ? events() : kind == ResponseKind::counts ? counts() : normal();
}

bool ObservationModel::is_like(const ObservationModel& other) const noexcept {
  return kind() == other.kind() && (kind() != ResponseKind::other || kernel_ == other.kernel_);
}

bool ObservationModel::has_stated_scatter() const noexcept { return is_measured() && !std::isnan(scatter_.scale); }

}  // namespace truecurve
