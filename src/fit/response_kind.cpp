// Zeros and ones, ranks and sums.
#include "response_kind.hpp"

#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <optional>
#include <set>
#include <utility>

#include <Eigen/Core>
#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr std::size_t most_rows = 100'000;  // beyond them nobody ranks by hand, and sorting would take its time

bool is_whole(double value) { return value == std::floor(value) && std::abs(value) < 0x1p53; }

// Half the last decimal place that all values are written with.
double half_a_place(const std::vector<double>& values) {
  double place = 1;
  for (int decimals = 0; decimals <= 9; ++decimals, place /= 10) {
    const bool fits = std::all_of(values.begin(), values.end(), [place](double value) {
      const double many = value / place;
      return std::abs(many - std::round(many)) < 1e-6;
    });
    if (fits) return place / 2;
  }
  return 0;
}

// Rising, falling or neither.
int direction(const std::vector<double>& values) {
  if (std::is_sorted(values.begin(), values.end())) return 1;
  return std::is_sorted(values.rbegin(), values.rend()) ? -1 : 0;
}

// Whether two neighbours in the table rise and two others fall along the predictor: then no order of the rows does one
// of the two throughout, and most data tell so within a few rows.
bool rises_and_falls(const VectorXd& x, const VectorXd& y) {
  bool rises = false;
  bool falls = false;
  for (Index i = 1; i < y.size() && !(rises && falls); ++i) {
    const double way = (x[i] - x[i - 1]) * (y[i] - y[i - 1]);
    rises = rises || way > 0;
    falls = falls || way < 0;
  }
  return rises && falls;
}

bool has_equal_steps(const std::vector<double>& values, double tolerance) {
  const auto n = static_cast<double>(values.size());
  const double step = (values.back() - values.front()) / (n - 1);
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (!(std::abs(values[i] - (values.front() + step * static_cast<double>(i))) <= tolerance)) return false;
  }
  return true;
}

// i/n, i/(n + 1), (i - 1/2)/n, (i - 0.3)/(n + 0.4), their complements and their percentages: equal steps that begin one
// step or less above zero and end one step or less below the whole.
bool are_ranks(std::vector<double> shares, double whole) {
  if (shares.front() > shares.back()) std::reverse(shares.begin(), shares.end());
  const double tolerance = 1.2 * half_a_place(shares) + 1e-9 * whole;
  const double step = (shares.back() - shares.front()) / static_cast<double>(shares.size() - 1);
  if (!(step > 5 * tolerance) || !has_equal_steps(shares, tolerance)) return false;
  const double below = shares.front();
  const double above = whole - shares.back();
  const double slack = step / 100 + 2 * tolerance;
  return below >= 0 && above >= 0 && below <= step + slack && above <= step + slack && below + above >= step - slack;
}

// How improbable it is that independent counts about a smooth curve never fall: each next one with the probability that
// a difference of two counts is positive.
double chance_of_never_falling(const std::vector<double>& counts) {
  const std::size_t n = counts.size();
  double chance = 1;
  for (std::size_t i = 0; i + 1 < n; ++i) {
    const std::size_t first = i < 2 ? 0 : i - 2;
    const std::size_t last = std::min(n - 1, i + 3);
    const double rise = (counts[last] - counts[first]) / static_cast<double>(last - first);
    const double spread = std::sqrt(std::max(1.0, counts[i] + counts[i + 1]));
    chance *= normal_probability((rise + 0.5) / spread);
  }
  return chance;
}

// The variance of the increments about their neighbours', against their mean: 1 for sums of counts, far less for
// readings that are rounded to whole numbers.
double dispersion_of_increments(const std::vector<double>& counts) {
  double squares = 0;
  double mean = 0;
  const std::size_t increments = counts.size() - 1;
  for (std::size_t i = 0; i + 1 < increments; ++i) {
    const double change = counts[i + 2] - 2 * counts[i + 1] + counts[i];
    squares += change * change / 2;
  }
  mean = (counts.back() - counts.front()) / static_cast<double>(increments);
  return squares / static_cast<double>(increments - 1) / mean;
}

// Lag one, of what a cubic along the rows leaves over: a sum wanders about its trend, readings scatter about it.
double correlation_of_neighbours(const std::vector<double>& counts) {
  const auto n = static_cast<Index>(counts.size());
  const VectorXd place = VectorXd::LinSpaced(n, -1, 1);
  MatrixXd basis(n, 4);
  for (Index k = 0; k < 4; ++k) basis.col(k) = place.array().pow(static_cast<double>(k));
  const VectorXd y = Eigen::Map<const VectorXd>(counts.data(), n);
  const VectorXd rest = y - basis * detail::least_squares(basis, y);
  const double squares = rest.squaredNorm();
  return squares > 0 ? rest.head(n - 1).dot(rest.tail(n - 1)) / squares : 0;
}

bool are_sums(const std::vector<double>& counts) {
  constexpr std::size_t least = 8;
  constexpr double improbable = 0.05;
  constexpr double wandering = 0.2;
  if (counts.size() < least || !std::all_of(counts.begin(), counts.end(), is_whole)) return false;
  const double increment = (counts.back() - counts.front()) / static_cast<double>(counts.size() - 1);
  if (counts.front() < 0 || counts.back() < 20 || counts.front() > 3 * increment + 3) return false;
  const double dispersion = dispersion_of_increments(counts);
  return dispersion > 0.25 && dispersion < 4 && correlation_of_neighbours(counts) > wandering &&
         chance_of_never_falling(counts) < improbable;
}

// A response of few values, each as often as every other, against a predictor that differs in every row: levels that
// were set, and what was read at them. Rounded readings have values that are not equally frequent.
std::optional<Warning> exchanged_axes(const Observations& observations) {
  constexpr std::size_t least_levels = 3;
  constexpr Index least_rows = 8;
  const auto y = as_eigen(observations.responses());
  const auto x = as_eigen(observations.predictor(0));
  std::map<double, std::size_t> levels;
  for (const double value : y) ++levels[value];
  const std::size_t each = levels.begin()->second;
  const bool is_balanced =
      each > 1 && levels.size() >= least_levels && y.size() >= least_rows &&
      std::all_of(levels.begin(), levels.end(), [each](const auto& l) { return l.second == each; });
  if (!is_balanced || static_cast<Index>(std::set<double>(x.begin(), x.end()).size()) < x.size()) return {};
  const std::string& response = observations.response().name;
  const std::string& predictor = observations.predictors()[0].name;
  return Warning{
      WarningCode::exchanged_axes,
      fmt::format("The response '{0}' has {1} values, each {2} times, and '{3}' another one in every row: if "
                  "'{0}' was set and '{3}' was read, exchange x and y, as least squares takes x as exact.",
                  response, levels.size(), each, predictor)};
}

}  // namespace

void require_measured(const Observations& observations) {
  constexpr Index least = 5;
  const auto y = as_eigen(observations.responses());
  if (y.size() < least) return;
  Index ones = 0;
  for (const double value : y) {
    if (value != 0 && value != 1) return;
    ones += value == 1;
  }
  if (ones == 0 || ones == y.size()) return;
  const std::string& name = observations.response().name;
  throw Error({.code = ErrorCode::not_supported,
               .message = fmt::format("'{}' is 0 or 1 in all {} rows, as an event that happened or did not: least "
                                      "squares would give curves below 0 and above 1 and wrong uncertainties",
                                      name, y.size()),
               .subject = name,
               .remedy = {"fit its probability",
                          {Action::name_event, "1"},
                          ", or insist on least squares",
                          {Action::take_as_numbers}}});
}

std::vector<Warning> remarks_on_response(const Observations& observations) {
  constexpr Index least = 6;
  const auto y = as_eigen(observations.responses());
  if (observations.predictors().size() != 1 || y.size() < least || observations.size() > most_rows) return {};
  if (auto exchanged = exchanged_axes(observations)) return {std::move(*exchanged)};
  const auto x = as_eigen(observations.predictor(0));
  if (rises_and_falls(x, y)) return {};
  std::vector<Index> order(static_cast<std::size_t>(y.size()));
  std::iota(order.begin(), order.end(), 0);
  std::stable_sort(order.begin(), order.end(), [&x](Index a, Index b) { return x[a] < x[b]; });
  std::vector<double> along;
  std::vector<double> places;
  for (const Index row : order) {
    along.push_back(y[row]);
    places.push_back(x[row]);
  }
  const int way = direction(along);
  if (way == 0 || along.front() == along.back()) return {};
  const std::string& name = observations.response().name;
  const bool evenly_spaced = has_equal_steps(places, (places.back() - places.front()) * 1e-3);
  if (!evenly_spaced && (are_ranks(along, 1) || are_ranks(along, 100))) {
    return {{WarningCode::ordered_shares,
             fmt::format("'{}' {} by equal steps along {}, as shares by rank do: such rows are not independent, and it "
                         "is {} that scatters. Least squares gives far too small uncertainties; the distribution of {} "
                         "is to be fitted instead.",
                         name, way > 0 ? "rises" : "falls", observations.predictors()[0].name,
                         observations.predictors()[0].name, observations.predictors()[0].name)}};
  }
  if (way > 0 && are_sums(along)) {
    return {
        {WarningCode::cumulative_counts,
         fmt::format("'{}' holds whole numbers that never fall along {}, more smoothly than independent counts can: "
                     "if they are running totals, each contains all before it and the uncertainties are far too "
                     "small. Fit the counts between the rows instead.",
                     name, observations.predictors()[0].name)}};
  }
  return {};
}

}  // namespace truecurve::detail
