// Guesses by simple looks at the data: ends, middle, highest point, strongest frequency.
#include "shape_starts.hpp"

#include "../base/matrices.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <initializer_list>
#include <numbers>
#include <numeric>

namespace truecurve::detail {
namespace {

using Eigen::Index;
using Guesses = std::vector<VectorXd>;

VectorXd guess(std::initializer_list<double> values) {
  VectorXd result(static_cast<Index>(values.size()));
  std::copy(values.begin(), values.end(), result.begin());
  return result;
}

double width_of(const VectorXd& x) {
  const double width = x.maxCoeff() - x.minCoeff();
  return width > 0 ? width : 1;
}

double size_of(const VectorXd& x) {
  const double size = x.cwiseAbs().maxCoeff();
  return size > 0 ? size : 1;
}

// Time constants as shares of the range, of either direction.
constexpr std::array<double, 4> time_shares = {0.1, 0.3, 1, 3};

// The places of the strongest departures from the straight line between the ends, strongest first.
std::vector<double> departures(const VectorXd& x, const VectorXd& y) {
  std::vector<Index> order(static_cast<std::size_t>(x.size()));
  std::iota(order.begin(), order.end(), Index{0});
  std::stable_sort(order.begin(), order.end(), [&x](Index a, Index b) { return x[a] < x[b]; });
  const double x0 = x[order.front()];
  const double y0 = y[order.front()];
  const double slope = x[order.back()] > x0 ? (y[order.back()] - y0) / (x[order.back()] - x0) : 0;
  const auto departure = [&](Index i) { return std::abs(y[i] - y0 - slope * (x[i] - x0)); };
  // Averages of three neighbours are not led astray by one reading.
  std::vector<std::pair<double, double>> found;
  for (std::size_t k = 1; k + 1 < order.size(); ++k)
    found.emplace_back(departure(order[k - 1]) + departure(order[k]) + departure(order[k + 1]), x[order[k]]);
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<double> places;
  for (const auto& [size, place] : found) places.push_back(place);
  if (places.empty()) places.push_back(x.mean());
  return places;
}

// Where the response passes the middle between its ends.
double middle_of(const VectorXd& x, const VectorXd& y) {
  const double middle = (y.minCoeff() + y.maxCoeff()) / 2;
  Index nearest = 0;
  (y.array() - middle).abs().minCoeff(&nearest);
  return x[nearest];
}

// Frequencies with the most power, strongest first: the classical periodogram over a grid four times finer than the
// reciprocal of the range (Schuster 1898), up to half the mean rate of the rows.
std::vector<double> strong_frequencies(const VectorXd& x, const VectorXd& y, std::size_t wanted) {
  const double width = width_of(x);
  const double mean = y.mean();
  const auto steps = std::min<Index>(2 * x.size(), 4000);
  std::vector<std::pair<double, double>> power;  // power, frequency
  for (Index k = 1; k <= steps; ++k) {
    const double f = 0.25 * static_cast<double>(k) / width;
    std::complex<double> sum = 0;
    for (Index i = 0; i < x.size(); ++i) sum += std::polar(y[i] - mean, -2 * std::numbers::pi * f * x[i]);
    power.emplace_back(std::norm(sum), f);
  }
  std::vector<std::pair<double, double>> peaks;
  for (std::size_t k = 0; k < power.size(); ++k) {
    const bool above_left = k == 0 || power[k].first >= power[k - 1].first;
    const bool above_right = k + 1 == power.size() || power[k].first >= power[k + 1].first;
    if (above_left && above_right) peaks.push_back(power[k]);
  }
  std::stable_sort(peaks.begin(), peaks.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<double> frequencies;
  for (std::size_t k = 0; k < std::min(wanted, peaks.size()); ++k) frequencies.push_back(peaks[k].second);
  return frequencies;
}

constexpr std::array<double, 4> phases = {-2.4, -0.8, 0.8, 2.4};

}  // namespace

Guesses propose_rate(const VectorXd& x, const VectorXd&) {
  Guesses guesses;
  for (const double share : time_shares) {
    guesses.push_back(guess({1, 1 / (share * width_of(x))}));
    guesses.push_back(guess({1, -1 / (share * width_of(x))}));
  }
  return guesses;
}

Guesses propose_time(const VectorXd& x, const VectorXd& y) {
  Guesses guesses = propose_rate(x, y);
  for (VectorXd& g : guesses) g[1] = -1 / g[1];
  return guesses;
}

Guesses propose_base(const VectorXd& x, const VectorXd& y) {
  Guesses guesses = propose_rate(x, y);
  for (VectorXd& g : guesses) g[1] = std::exp(g[1]);
  return guesses;
}

namespace {
Guesses with_offset(Guesses guesses) {
  for (VectorXd& g : guesses) g = guess({1, g[0], g[1]});
  return guesses;
}
}  // namespace

Guesses propose_offset_rate(const VectorXd& x, const VectorXd& y) { return with_offset(propose_rate(x, y)); }
Guesses propose_offset_time(const VectorXd& x, const VectorXd& y) { return with_offset(propose_time(x, y)); }
Guesses propose_offset_base(const VectorXd& x, const VectorXd& y) { return with_offset(propose_base(x, y)); }

Guesses propose_two_times(const VectorXd& x, const VectorXd&) {
  Guesses guesses;
  const double width = width_of(x);
  for (const double slow : {0.3, 1.0, 3.0}) {
    for (const double ratio : {0.03, 0.1, 0.3}) guesses.push_back(guess({1, slow * width, 1, ratio * slow * width}));
  }
  return guesses;
}

Guesses propose_power(const VectorXd&, const VectorXd&) {
  Guesses guesses;
  for (const double b : {-3.0, -1.0, -0.5, 0.5, 1.0, 2.0, 4.0}) guesses.push_back(guess({1, b}));
  return guesses;
}

Guesses propose_arrhenius(const VectorXd& x, const VectorXd& y) {
  Guesses guesses;
  // From the ends, where the logarithm takes them.
  Index first = 0;
  Index last = 0;
  x.minCoeff(&first);
  x.maxCoeff(&last);
  const double ratio = y[first] / y[last];
  if (ratio > 0 && x[first] * x[last] != 0 && x[first] != x[last])
    guesses.push_back(guess({1, std::log(ratio) / (1 / x[first] - 1 / x[last])}));
  for (const double share : {-10.0, -1.0, 1.0, 10.0}) guesses.push_back(guess({1, share * x.mean()}));
  return guesses;
}

Guesses propose_arrhenius_rate(const VectorXd& x, const VectorXd& y) {
  Guesses guesses = propose_arrhenius(x, y);
  for (VectorXd& guess : guesses) guess[1] = -guess[1];
  return guesses;
}

Guesses propose_saturation(const VectorXd& x, const VectorXd&) {
  Guesses guesses;
  for (const double share : {0.03, 0.1, 0.3, 1.0, 3.0}) guesses.push_back(guess({1, share * size_of(x)}));
  return guesses;
}

Guesses propose_hill(const VectorXd& x, const VectorXd&) {
  Guesses guesses;
  for (const double share : {0.1, 0.3, 1.0}) {
    for (const double n : {1.0, 2.0, 5.0}) guesses.push_back(guess({1, n, share * size_of(x)}));
  }
  return guesses;
}

Guesses propose_approach(const VectorXd& x, const VectorXd&) {
  Guesses guesses;
  for (const double share : time_shares) guesses.push_back(guess({1, 1 / (share * width_of(x))}));
  return guesses;
}

Guesses propose_stretched(const VectorXd& x, const VectorXd&) {
  Guesses guesses;
  for (const double share : time_shares) {
    for (const double beta : {0.5, 1.0, 2.0}) guesses.push_back(guess({1, share * width_of(x), beta}));
  }
  return guesses;
}

Guesses propose_logistic(const VectorXd& x, const VectorXd& y) {
  Guesses guesses;
  const double middle = middle_of(x, y);
  for (const double rate : {3.0, 10.0, 30.0}) {
    for (const double place : {middle, x.maxCoeff()}) {
      guesses.push_back(guess({1, rate / width_of(x), place}));
      guesses.push_back(guess({1, -rate / width_of(x), place}));
    }
  }
  return guesses;
}

Guesses propose_offset_logistic(const VectorXd& x, const VectorXd& y) {
  Guesses guesses;
  const bool rises = (y.array() - y.mean()).matrix().dot((x.array() - x.mean()).matrix()) >= 0;
  for (const VectorXd& g : propose_logistic(x, y)) {
    // A falling step is the same curve with its limits exchanged: the rate is taken as positive.
    if (g[1] > 0) guesses.push_back(guess({rises ? 0.0 : 1.0, rises ? 1.0 : 0.0, g[1], g[2]}));
  }
  return guesses;
}

Guesses propose_asymmetric_logistic(const VectorXd& x, const VectorXd& y) {
  Guesses guesses;
  for (const VectorXd& g : propose_offset_logistic(x, y)) {
    for (const double bend : {0.4, 1.0, 2.5}) guesses.push_back(guess({g[0], g[1], g[2], g[3], bend}));
  }
  return guesses;
}

namespace {

// The straight line through ln(y/(1 - y)), drawn away from the ends, and steeper ones about its middle.
std::vector<std::pair<double, double>> middles_and_widths(const VectorXd& x, const VectorXd& y) {
  constexpr double margin = 0.02;
  const Eigen::ArrayXd share = y.array().max(margin).min(1 - margin);
  const VectorXd z = (share / (1 - share)).log();
  const double mean = x.mean();
  const VectorXd centred = x.array() - mean;
  const double slope = centred.dot(z) / std::max(centred.squaredNorm(), 1e-300);
  const double least = 0.1 / width_of(x);  // a share that hardly changes
  const double steep = std::copysign(std::max(std::abs(slope), least), slope);
  const double place = std::clamp(mean - z.mean() / steep, x.minCoeff() - width_of(x), x.maxCoeff() + width_of(x));
  std::vector<std::pair<double, double>> found;
  for (const double factor : {1.0, 3.0, 10.0}) found.emplace_back(place, 1 / (factor * steep));
  return found;
}

}  // namespace

Guesses propose_share(const VectorXd& x, const VectorXd& y) {
  Guesses guesses;
  for (const auto& [middle, width] : middles_and_widths(x, y)) guesses.push_back(guess({middle, width}));
  return guesses;
}

Guesses propose_share_ln(const VectorXd& x, const VectorXd& y) {
  if (!(x.array() > 0).all()) return {};
  Guesses guesses;
  for (const auto& [middle, width] : middles_and_widths(x.array().log().matrix(), y))
    guesses.push_back(guess({std::exp(middle), width}));
  return guesses;
}

Guesses propose_peak(const VectorXd& x, const VectorXd& y) {
  Guesses guesses;
  const double place = departures(x, y).front();
  for (const double share : {0.02, 0.05, 0.12, 0.3}) guesses.push_back(guess({1, 1, 1, place, share * width_of(x)}));
  return guesses;
}

Guesses propose_two_peaks(const VectorXd& x, const VectorXd& y) {
  Guesses guesses;
  const double width = width_of(x);
  const std::vector<double> places = departures(x, y);
  for (const double share : {0.03, 0.08, 0.15}) {
    const auto second = std::find_if(places.begin(), places.end(),
                                     [&](double p) { return std::abs(p - places.front()) > 2 * share * width; });
    const double other = second != places.end() ? *second : places.front() + 2 * share * width;
    guesses.push_back(guess(
        {1, 1, 1, std::min(places.front(), other), share * width, 1, std::max(places.front(), other), share * width}));
  }
  return guesses;
}

Guesses propose_sine(const VectorXd& x, const VectorXd& y) {
  Guesses guesses;
  for (const double f : strong_frequencies(x, y, 5)) {
    for (const double phase : phases) guesses.push_back(guess({1, 1, f, phase}));
  }
  return guesses;
}

Guesses propose_damped(const VectorXd& x, const VectorXd& y) {
  Guesses guesses;
  for (const double f : strong_frequencies(x, y, 4)) {
    for (const double share : {0.15, 0.6}) {
      for (const double phase : phases) guesses.push_back(guess({1, 1, share * width_of(x), f, phase}));
    }
  }
  return guesses;
}

}  // namespace truecurve::detail
