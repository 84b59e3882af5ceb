// Local straight lines, their width chosen by generalised cross-validation.
#include <truecurve/assess/smooth.hpp>
#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

constexpr std::size_t most_points = 2000;

struct Points {
  std::vector<double> x, y;  // in the order of x
  [[nodiscard]] Index size() const { return static_cast<Index>(x.size()); }
};

struct LocalFit {
  double value = 0;
  double own_weight = 0;  // d value / d y of the point itself, where the place is a point
};

// The line through the `count` points nearest to `at`; `self` is the index of the point there, or -1.
LocalFit local_line(const Points& points, double at, Index count, Index self) {
  const Index n = points.size();
  Index low = static_cast<Index>(std::lower_bound(points.x.begin(), points.x.end(), at) - points.x.begin());
  Index high = low;
  while (high - low < count) {
    const double left = low > 0 ? at - points.x[static_cast<std::size_t>(low - 1)] : infinity;
    const double right = high < n ? points.x[static_cast<std::size_t>(high)] - at : infinity;
    if (left <= right) {
      --low;
    } else {
      ++high;
    }
  }
  const double reach =
      std::max(at - points.x[static_cast<std::size_t>(low)], points.x[static_cast<std::size_t>(high - 1)] - at) *
      1.0001;
  double sw = 0;
  double sx = 0;
  double sy = 0;
  double sxx = 0;
  double sxy = 0;
  double w_self = 0;
  for (Index i = low; i < high; ++i) {
    const double d = points.x[static_cast<std::size_t>(i)] - at;
    const double u = reach > 0 ? std::abs(d) / reach : 0;
    const double w = std::pow(1 - u * u * u, 3);
    const double y = points.y[static_cast<std::size_t>(i)];
    sw += w;
    sx += w * d;
    sy += w * y;
    sxx += w * d * d;
    sxy += w * d * y;
    if (i == self) w_self = w;
  }
  const double determinant = sw * sxx - sx * sx;
  // Points on top of each other have a mean and no slope.
  if (!(determinant > 1e-12 * sw * sxx)) return {sy / sw, w_self / sw};
  return {(sxx * sy - sx * sxy) / determinant, w_self * sxx / determinant};
}

// A local line through fewer points would follow each of them.
constexpr Index fewest_neighbours = 6;

Index neighbours(double span, Index n) {
  return std::min(n, std::max(fewest_neighbours, static_cast<Index>(std::ceil(span * static_cast<double>(n)))));
}

double cross_validation(const Points& points, double span) {
  double squares = 0;
  double trace = 0;
  const Index n = points.size();
  for (Index i = 0; i < n; ++i) {
    const LocalFit local = local_line(points, points.x[static_cast<std::size_t>(i)], neighbours(span, n), i);
    squares += std::pow(points.y[static_cast<std::size_t>(i)] - local.value, 2);
    trace += local.own_weight;
  }
  const double left = static_cast<double>(n) - trace;
  return left > 1 ? static_cast<double>(n) * squares / (left * left) : infinity;
}

// Divides by a power of two, which changes no digit, to sizes of 1 at most: squares of squares stay in range. Returns
// the power.
int take_out_power(std::vector<double>& values) {
  double largest = 0;
  for (const double value : values) largest = std::max(largest, std::abs(value));
  if (!(largest > 0) || !std::isfinite(largest)) return 0;
  const int power = std::ilogb(largest) + 1;
  for (double& value : values) value = std::ldexp(value, -power);
  return power;
}

}  // namespace

SmoothGuide smooth_guide(const Vector& x, const Vector& y, std::size_t count, double span) {
  Points points;
  const std::size_t stride = (x.size() + most_points - 1) / most_points;
  if (x.size() == y.size() && !x.empty()) {
    std::vector<std::size_t> order(x.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&x](std::size_t a, std::size_t b) { return x[a] < x[b]; });
    for (std::size_t i = 0; i < order.size(); i += stride) {
      points.x.push_back(x[order[i]]);
      points.y.push_back(y[order[i]]);
    }
  }
  std::vector<double> distinct = points.x;
  distinct.erase(std::unique(distinct.begin(), distinct.end()), distinct.end());
  const bool bad_span = !std::isnan(span) && !(span > 0 && span <= 1);
  if (distinct.size() < 4 || bad_span || count < 2) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = bad_span ? fmt::format("the smoothness {} is no share of the points", span)
                                     : fmt::format("a guide curve needs at least 4 different x, and there are {}",
                                                   distinct.size()),
                 .subject = "smooth_guide",
                 .value = fmt::format("{}", span),
                 .remedy = bad_span ? "give a number above 0 and up to 1" : "measure at more places"});
  }
  const int x_power = take_out_power(points.x);
  const int y_power = take_out_power(points.y);
  if (std::isnan(span)) {
    // The score is itself uncertain by about sqrt(2/n): among those it can't tell apart the smoothest is the better
    // guide.
    const double doubt = 1 + std::sqrt(2 / static_cast<double>(points.size())) / 2;
    double best = infinity;
    std::vector<std::pair<double, double>> scores;
    for (const double candidate : {0.15, 0.2, 0.3, 0.4, 0.5, 0.65, 0.8, 1.0}) {
      scores.emplace_back(candidate, cross_validation(points, candidate));
      best = std::min(best, scores.back().second);
    }
    for (const auto& [candidate, score] : scores) {
      if (score <= best * doubt) span = candidate;
    }
  }
  const VectorXd places = VectorXd::LinSpaced(static_cast<Index>(count), points.x.front(), points.x.back());
  SmoothGuide guide{places, places, span};
  for (std::size_t i = 0; i < count; ++i) {
    guide.y[i] = std::ldexp(local_line(points, guide.x[i], neighbours(span, points.size()), -1).value, y_power);
    guide.x[i] = std::ldexp(guide.x[i], x_power);
  }
  return guide;
}

}  // namespace truecurve
