// Variable projection with Levenberg-Marquardt steps, from given starts or from those a search proposes.
#include "nonlinear.hpp"

#include <truecurve/base/error.hpp>

#include "absorb.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>
#include <vector>

#include <Eigen/Dense>
#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr double wanted_offset = 1e-8;  // Bates and Watts (1981): a thousandth of a thousandth of the confidence region
constexpr double near_offset =
    1e-4;  // from here on the gain of a step drowns in rounding, and the offset itself is watched
constexpr double tolerated_offset = 1e-6;   // where rounding lets no step come closer this is still a minimum
constexpr double negligible_step = 1e-15;   // relative to the parameters: rounding
constexpr double exact_share = 1e-15;       // residuals this small against the data are rounding
constexpr double negligible_pivot = 1e-13;  // of a column: it is a combination of those before it
constexpr double finest_offset = 1e-13;     // beyond this the offset itself is rounding
constexpr int polishing_rounds = 300;       // a curve far from its rows converges linearly
constexpr std::size_t rows_searched = 300;  // a search needs the shape of the data, not every row
constexpr int points_searched = 1500;       // and as many more for each parameter that is searched for
constexpr int points_tried = 120;           // of these, begun to descend from
constexpr int evaluations_tried = 24;
constexpr int descents_tried = 30;     // of these, descended from to the end
constexpr double same_minimum = 1e-6;  // relative difference of chi-squared within which two descents have met

// Eight-row padded blocks of weighted columns, absorbed into a triangular factor.
class Curve {
 public:
  Curve(const BoundModel& bound, const Observations& observations, std::size_t stride)
      : bound_(bound), p_(bound.parameters.size()), q_(bound.separable.size()), memory_((p_ + 3) * block_rows + 8) {
    const auto n = static_cast<std::size_t>(observations.responses().size());
    const bool weighted = observations.has_uncertainties();
    columns_.resize(observations.predictors().size());
    for (std::size_t i = 0; i < n; i += stride) {
      const auto row = static_cast<Index>(i);
      y_.push_back(observations.responses()[row]);
      root_.push_back(weighted ? 1 / observations.uncertainties()[row] : 1.0);
      for (std::size_t k = 0; k < columns_.size(); ++k) columns_[k].push_back(observations.predictor(k)[row]);
    }
    order_ = bound.separable;
    order_.insert(order_.end(), bound.entangled.begin(), bound.entangled.end());
    for (std::size_t i = 0; i < y_.size(); ++i) size_ += y_[i] * root_[i] * y_[i] * root_[i];
  }

  [[nodiscard]] std::size_t rows() const { return y_.size(); }
  [[nodiscard]] std::size_t parameters() const { return p_; }
  [[nodiscard]] std::size_t separable() const { return q_; }
  /// Parameters in the order of the factor's columns: the separable ones first.
  [[nodiscard]] const std::vector<int>& order() const { return order_; }
  [[nodiscard]] const BoundModel& bound() const { return bound_; }
  /// Sum of squares of the weighted data.
  [[nodiscard]] double size() const { return size_; }
  [[nodiscard]] int evaluations() const { return evaluations_; }
  [[nodiscard]] const std::vector<std::vector<double>>& predictors() const { return columns_; }
  [[nodiscard]] const std::vector<double>& responses() const { return y_; }

  /// Solves for the separable parameters at the others as they stand in theta. Returns chi-squared, infinite where the
  /// model is not finite.
  double project(VectorXd& theta) {
    VectorXd trial = theta;
    for (const int j : bound_.separable) trial[j] = 0;
    const MatrixXd r = factor(bound_.projection, trial, bound_.separable, q_);
    const auto q = static_cast<Index>(q_);
    if (!r.allFinite()) return infinity;
    VectorXd solved = VectorXd::Zero(q);
    for (Index i = q; i-- > 0;) {
      // A column that the others span already gets no share: its parameter can't be told at this point.
      if (!(std::abs(r(i, i)) > negligible_pivot * r.col(i).head(i + 1).norm())) continue;
      double sum = r(i, q);
      for (Index k = i + 1; k < q; ++k) sum -= r(i, k) * solved[k];
      solved[i] = sum / r(i, i);
    }
    for (Index i = 0; i < q; ++i) trial[bound_.separable[static_cast<std::size_t>(i)]] = solved[i];
    const VectorXd rest = r.topLeftCorner(q + 1, q) * solved - r.col(q);
    if (!trial.allFinite()) return infinity;
    theta = trial;
    return rest.squaredNorm();
  }

  /// Triangular factor of all derivatives and the residuals at theta.
  MatrixXd full_factor(const VectorXd& theta) { return factor(bound_.jacobian, theta, order_, p_); }

  /// Weighted sum of squares about the weighted mean.
  [[nodiscard]] double total() const {
    double weights = 0;
    double mean = 0;
    double squares = 0;
    for (std::size_t i = 0; i < y_.size(); ++i) {
      const double w = root_[i] * root_[i];
      const double distance = y_[i] - mean;
      weights += w;
      mean += w / weights * distance;
      squares += w * distance * (y_[i] - mean);
    }
    return squares;
  }

 private:
  // Columns of the program's outputs 1.. in the given order (by their own place for the projection), then y - value.
  MatrixXd factor(const Program& program, const VectorXd& theta, const std::vector<int>& order, std::size_t count) {
    ++evaluations_;
    const auto size = static_cast<Index>(count + 1);
    MatrixXd r = MatrixXd::Zero(size, size);
    // Aligned by hand: the vector may start anywhere.
    auto* const base = reinterpret_cast<double*>((reinterpret_cast<std::uintptr_t>(memory_.data()) + 63) / 64 * 64);
    const bool whole = &program == &bound_.jacobian;
    outputs_.assign(count + 1, nullptr);
    outputs_[0] = base + count * block_rows;
    for (std::size_t k = 0; k < count; ++k) {
      const std::size_t output = whole ? static_cast<std::size_t>(order[k]) + 1 : k + 1;
      outputs_[output] = base + k * block_rows;
    }
    at_.resize(columns_.size());
    for (std::size_t start = 0; start < y_.size(); start += block_rows) {
      const std::size_t rows = std::min(block_rows, y_.size() - start);
      const std::size_t padded = (rows + 7) / 8 * 8;
      for (std::size_t k = 0; k < columns_.size(); ++k) at_[k] = columns_[k].data() + start;
      program.run(at_, rows, {theta.data(), static_cast<std::size_t>(theta.size())}, outputs_, work_);
      double* const rest = base + count * block_rows;
      for (std::size_t i = 0; i < rows; ++i) rest[i] = y_[start + i] - rest[i];
      for (std::size_t k = 0; k <= count; ++k) {
        double* const column = base + k * block_rows;
        for (std::size_t i = 0; i < rows; ++i) column[i] *= root_[start + i];
        std::fill(column + rows, column + padded, 0.0);
      }
      best_absorb()(r.data(), count + 1, base, padded, block_rows);
    }
    return r;
  }

  const BoundModel& bound_;
  std::size_t p_;
  std::size_t q_;
  std::vector<double> memory_;
  std::vector<std::vector<double>> columns_;
  std::vector<double> y_;
  std::vector<double> root_;
  std::vector<int> order_;
  double size_ = 0;
  int evaluations_ = 0;
  std::vector<double*> outputs_;
  std::vector<const double*> at_;
  Program::Workspace work_;
};

struct Descent {
  VectorXd theta;
  double chi_squared = infinity;
  double offset = infinity;
  int iterations = 0;
  bool converged = false;
  std::string_view stop = "evaluations";
};

// ||Q1ᵀ r|| / sqrt(p) against ||Q2ᵀ r|| / sqrt(n - p).
double relative_offset(const MatrixXd& r, std::size_t rows) {
  const Index p = r.cols() - 1;
  const double tangent = r.col(p).head(p).norm();
  const double rest = std::abs(r(p, p));
  const double degrees = std::max(1.0, static_cast<double>(rows) - static_cast<double>(p));
  return rest > 0 ? tangent / std::sqrt(static_cast<double>(p)) / (rest / std::sqrt(degrees))
                  : (tangent > 0 ? infinity : 0.0);
}

// Damped step of the entangled parameters: min |R_nn step - c|² + lambda |D step|².
VectorXd damped_step(const MatrixXd& rn, const VectorXd& c, const VectorXd& d, double lambda) {
  const Index m = rn.cols();
  MatrixXd stacked(2 * m, m);
  stacked.topRows(m) = rn;
  stacked.bottomRows(m) = MatrixXd((std::sqrt(lambda) * d).asDiagonal());
  VectorXd right = VectorXd::Zero(2 * m);
  right.head(m) = c;
  return stacked.colPivHouseholderQr().solve(right);
}

Descent descend(Curve& curve, VectorXd theta, int most_evaluations) {
  Descent result;
  const auto q = static_cast<Index>(curve.separable());
  const auto p = static_cast<Index>(curve.parameters());
  const Index m = p - q;
  const int first = curve.evaluations();
  double chi = curve.project(theta);
  result.theta = theta;
  result.chi_squared = chi;
  if (!std::isfinite(chi)) {
    result.stop = "not finite";
    return result;
  }
  double lambda = 1e-3;
  double growth = 2;
  VectorXd d = VectorXd::Zero(m);
  int polished = 0;
  int idle = 0;
  double last_offset = infinity;
  MatrixXd r = curve.full_factor(theta);
  while (curve.evaluations() - first < most_evaluations) {
    if (!r.allFinite()) {
      result.stop = "not finite";
      return result;
    }
    result.theta = theta;
    result.chi_squared = chi;
    result.offset = relative_offset(r, curve.rows());
    if (chi <= exact_share * exact_share * curve.size()) {
      result.converged = true;
      result.stop = "exact fit";
      return result;
    }
    if (result.offset <= wanted_offset) {
      // Converged; more rounds for the last digits, as long as they come.
      result.converged = true;
      result.stop = "relative offset";
    }
    const bool near = result.offset <= near_offset;
    idle = near && result.offset > 0.95 * last_offset ? idle + 1 : 0;
    if (result.offset <= finest_offset || idle > 4 || (near && ++polished > polishing_rounds)) {
      if (!result.converged) {
        result.stop = "step vanished";
        result.converged = result.offset <= tolerated_offset;
      }
      return result;
    }
    last_offset = result.offset;
    const MatrixXd rn = r.block(q, q, m, m);
    const VectorXd c = r.col(p).segment(q, m);
    for (Index k = 0; k < m; ++k) d[k] = std::max(d[k], rn.col(k).norm());
    for (Index k = 0; k < m; ++k) {
      if (d[k] == 0) d[k] = 1;
    }
    ++result.iterations;
    bool accepted = false;
    while (!accepted && curve.evaluations() - first < most_evaluations) {
      const VectorXd step = damped_step(rn, c, d, lambda);
      VectorXd trial = theta;
      for (Index k = 0; k < m; ++k) trial[curve.order()[static_cast<std::size_t>(q + k)]] += step[k];
      const double predicted = c.squaredNorm() - (c - rn * step).squaredNorm();
      const double scale = d.cwiseProduct(step).norm();
      double reach = 0;
      for (Index k = 0; k < m; ++k)
        reach = std::max(reach, d[k] * std::abs(theta[curve.order()[static_cast<std::size_t>(q + k)]]));
      const bool vanishing = !(scale > negligible_step * std::max(reach, std::sqrt(chi) * negligible_step));
      const double trial_chi = trial.allFinite() ? curve.project(trial) : infinity;
      const double gain = predicted > 0 ? (chi - trial_chi) / predicted : -1;
      // Near the minimum the gain drowns in rounding: a step that does no visible harm is taken.
      const bool harmless = near && trial_chi <= chi * (1 + 1e-12);
      if (gain > 1e-4 || harmless) {
        accepted = true;
        theta = trial;
        chi = trial_chi;
        lambda *= near ? 0.1 : std::max(1.0 / 3, 1 - std::pow(2 * gain - 1, 3));
        lambda = std::max(lambda, 1e-20);
        growth = 2;
      } else {
        if (vanishing || lambda > 1e30) {
          result.stop = result.converged ? result.stop : "step vanished";
          // Where no step helps any more the offset decides whether this is a minimum.
          result.converged = result.converged || result.offset <= tolerated_offset;
          return result;
        }
        lambda *= growth;
        growth *= 2;
      }
    }
    if (accepted) r = curve.full_factor(theta);
  }
  return result;
}

// The n-th number of van der Corput's sequence in a base; Halton (1960) takes one prime base a dimension.
double radical_inverse(int n, int base) {
  double result = 0;
  double digit = 1.0 / base;
  for (; n > 0; n /= base, digit /= base) result += digit * (n % base);
  return result;
}
constexpr std::array<int, 24> primes = {2,  3,  5,  7,  11, 13, 17, 19, 23, 29, 31, 37,
                                        41, 43, 47, 53, 59, 61, 67, 71, 73, 79, 83, 89};

// Scales of the data by which a parameter may be measured.
struct Scales {
  double low = 0;
  double high = 1;
  double width = 1;
  double largest = 1;
  double step = 1;  // typical distance of neighbours
};

Scales scales_of(const Curve& curve) {
  Scales s;
  if (curve.predictors().empty()) return s;
  const std::vector<double>& x = curve.predictors()[0];
  const auto [low, high] = std::minmax_element(x.begin(), x.end());
  s.low = *low;
  s.high = *high;
  s.width = std::max(*high - *low, 1e-300);
  s.largest = std::max({std::abs(*low), std::abs(*high), 1e-300});
  s.step = s.width / static_cast<double>(x.size());
  return s;
}

// One candidate for a parameter from two numbers between 0 and 1: the first chooses the kind, the second the place in
// it.
double candidate(ParameterPart part, double kind, double place, const Scales& s) {
  const auto spread = [](double u, double low, double high) { return low * std::pow(high / low, u); };
  const double sign = place < 0.5 ? -1.0 : 1.0;
  const double u = place < 0.5 ? 2 * place : 2 * place - 1;
  // Seven of ten candidates follow the part that the parameter plays; the others may be anything.
  if (kind < 0.7) {
    switch (part) {
      case ParameterPart::place:
        return kind < 0.5 ? s.low - 0.1 * s.width + 1.2 * s.width * place : sign * spread(u, 1e-2, 1e2) * s.largest;
      case ParameterPart::factor:
        return (kind < 0.5 ? 1.0 : sign) * spread(kind < 0.5 ? place : u, 1e-2, 1e2) / s.largest;
      case ParameterPart::divisor: return spread(place, s.step / s.largest / 3, 3) * s.largest;
      case ParameterPart::exponent: return -5 + 10 * place;
      case ParameterPart::other: return sign * spread(u, 1e-2, 1e2);
    }
  }
  if (kind < 0.8) return sign * spread(u, 1e-4, 1e4) / s.largest;
  if (kind < 0.9) return sign * spread(u, 1e-4, 1e4);
  return sign * spread(u, 1e-4, 1e3) * s.largest;
}

struct Candidate {
  double chi_squared;
  VectorXd theta;
};

// Points of the entangled parameters without a start: many drawn, the better ones begun to descend from, the best of
// those given.
std::vector<VectorXd> search(Curve& curve, const VectorXd& given) {
  const BoundModel& bound = curve.bound();
  const Scales scales = scales_of(curve);
  std::vector<Candidate> candidates;
  const auto sought =
      std::count_if(bound.entangled.begin(), bound.entangled.end(), [&given](int j) { return std::isnan(given[j]); });
  const int points = points_searched * static_cast<int>(1 + sought);
  for (int point = 1; point <= points; ++point) {
    VectorXd theta = given;
    std::size_t dimension = 0;
    for (const int j : bound.entangled) {
      if (!std::isnan(given[j])) continue;
      const double kind = radical_inverse(point, primes[dimension % primes.size()]);
      const double place = radical_inverse(point, primes[(dimension + 1) % primes.size()]);
      dimension += 2;
      theta[j] = candidate(bound.parts[static_cast<std::size_t>(j)], kind, place, scales);
    }
    for (const int j : bound.separable) theta[j] = 0;
    const double chi = curve.project(theta);
    if (std::isfinite(chi)) candidates.push_back({chi, theta});
  }
  const auto better = [](const Candidate& a, const Candidate& b) { return a.chi_squared < b.chi_squared; };
  std::stable_sort(candidates.begin(), candidates.end(), better);
  // Two thirds are the best points; the others are spread over the better fifth, in case the best all lie in one false
  // valley.
  std::vector<Candidate> begun;
  const std::size_t best = static_cast<std::size_t>(points_tried) * 2 / 3;
  const std::size_t others = static_cast<std::size_t>(points_tried) - best;
  const std::size_t fifth = candidates.size() / 5;
  for (std::size_t i = 0; i < static_cast<std::size_t>(points_tried); ++i) {
    const std::size_t at = i < best ? i : best + (i - best) * fifth / others;
    if (at >= candidates.size()) break;
    const Descent descent = descend(curve, candidates[at].theta, evaluations_tried);
    if (std::isfinite(descent.chi_squared)) begun.push_back({descent.chi_squared, descent.theta});
  }
  std::stable_sort(begun.begin(), begun.end(), better);
  std::vector<VectorXd> starts;
  for (std::size_t i = 0; i < std::min<std::size_t>(descents_tried, begun.size()); ++i)
    starts.push_back(begun[i].theta);
  return starts;
}

// Of two groups, whether the values of the first belong before those of the second: from left to right, and the slowest
// first.
bool goes_before(ParameterPart part, double a, double b) {
  switch (part) {
    case ParameterPart::factor: return std::abs(a) < std::abs(b);
    case ParameterPart::divisor: return std::abs(a) > std::abs(b);
    default: return a < b;
  }
}

// A minimum does not know which of several like terms is meant to be the first, nor the sign of a width that stands
// squared. Where the curve stays the same, like terms are put into the order of their starts, and without starts from
// left to right and the slowest first; widths and periods take the sign of their start, or are made positive. `starts`
// holds NaN where none is given.
Descent in_meant_order(Curve& curve, const Descent& found, const VectorXd& starts, int most_evaluations) {
  const BoundModel& bound = curve.bound();
  Descent result = found;
  const auto try_values = [&](const VectorXd& values) {
    VectorXd theta = values;
    const double chi = curve.project(theta);
    if (!(std::abs(chi - result.chi_squared) <= same_minimum * result.chi_squared + exact_share * curve.size())) return;
    Descent polished = descend(curve, theta, most_evaluations);
    if (!polished.converged ||
        !(polished.chi_squared <= result.chi_squared * (1 + same_minimum) + exact_share * curve.size()))
      return;
    polished.iterations += result.iterations;
    result = std::move(polished);
  };
  for (const int j : bound.entangled) {
    const ParameterPart part = bound.parts[static_cast<std::size_t>(j)];
    const bool negative = !std::isnan(starts[j]) && starts[j] < 0;
    if ((result.theta[j] < 0) == negative || part == ParameterPart::place || part == ParameterPart::exponent) continue;
    VectorXd flipped = result.theta;
    flipped[j] = -flipped[j];
    try_values(flipped);
  }
  // Exchanges of neighbours until the order holds; each is undone by try_values where the terms are not alike after
  // all.
  const auto& groups = bound.groups;
  for (std::size_t pass = 0; pass + 1 < groups.size(); ++pass) {
    for (std::size_t g = 0; g < groups.size(); ++g) {
      for (std::size_t h = g + 1; h < groups.size(); ++h) {
        if (groups[g].size() != groups[h].size()) continue;
        bool alike = true;
        for (std::size_t k = 0; k < groups[g].size(); ++k) {
          alike = alike && bound.parts[static_cast<std::size_t>(groups[g][k])] ==
                               bound.parts[static_cast<std::size_t>(groups[h][k])];
        }
        const int first = groups[g].front();
        const int second = groups[h].front();
        const bool given = !std::isnan(starts[first]) && !std::isnan(starts[second]);
        const bool wrong = given ? (starts[first] < starts[second]) != (result.theta[first] < result.theta[second])
                                 : goes_before(bound.parts[static_cast<std::size_t>(first)], result.theta[second],
                                               result.theta[first]);
        if (!alike || !wrong) continue;
        VectorXd exchanged = result.theta;
        for (std::size_t k = 0; k < groups[g].size(); ++k) std::swap(exchanged[groups[g][k]], exchanged[groups[h][k]]);
        try_values(exchanged);
      }
    }
  }
  return result;
}

VectorXd given_starts(const BoundModel& bound, const FitOptions& options) {
  VectorXd theta = VectorXd::Constant(static_cast<Index>(bound.parameters.size()), not_a_number);
  for (const Start& start : options.starts) {
    const auto at = std::find(bound.parameters.begin(), bound.parameters.end(), start.parameter);
    if (at == bound.parameters.end() || !std::isfinite(start.value)) {
      std::string list;
      for (const std::string& name : bound.parameters) list += (list.empty() ? "" : ", ") + name;
      throw Error({.code = ErrorCode::bad_argument,
                   .message = at == bound.parameters.end()
                                  ? fmt::format("a start is given for '{}', which is no parameter", start.parameter)
                                  : fmt::format("the start of '{}' is {}", start.parameter, start.value),
                   .subject = start.parameter,
                   .value = fmt::format("{}", start.value),
                   .remedy = fmt::format("the parameters are: {}; starts are finite numbers", list)});
    }
    theta[at - bound.parameters.begin()] = start.value;
  }
  return theta;
}

// Names the parameters of a direction in which chi-squared does not change.
[[noreturn]] void fail_inseparable(const BoundModel& bound, const MatrixXd& r, const std::vector<int>& order, Index k) {
  const VectorXd c = r.topLeftCorner(k, k).triangularView<Eigen::Upper>().solve(r.col(k).head(k));
  std::string names = bound.parameters[static_cast<std::size_t>(order[static_cast<std::size_t>(k)])];
  for (Index i = 0; i < k; ++i) {
    if (std::abs(c[i]) * r.col(i).norm() > 1e-6 * r.col(k).norm())
      names += ", " + bound.parameters[static_cast<std::size_t>(order[static_cast<std::size_t>(i)])];
  }
  throw Error(
      {.code = ErrorCode::rank_deficient,
       .message = fmt::format(
           "at the best curve found these rows can't tell {} apart: changed together they leave it as it is", names),
       .subject = names,
       .remedy = "write the model with fewer parameters, or measure where the parameters act differently"});
}

}  // namespace

NonlinearSolution solve_nonlinear(const Model& model, const Observations& observations, const FitOptions& options) {
  const BoundModel& bound = *model.data().bound;
  const auto p = static_cast<Index>(bound.parameters.size());
  if (bound.parameters.size() + 1 > most_columns) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = fmt::format("the model has {} parameters; {} are the limit", p, most_columns - 1),
                 .subject = "model",
                 .remedy = "fit a model with fewer parameters"});
  }
  VectorXd start = given_starts(bound, options);
  for (const int j : bound.separable) start[j] = 0;
  Curve curve(bound, observations, 1);
  std::vector<VectorXd> starts = {start};
  const bool searched = start.hasNaN();
  if (searched) {
    const std::size_t stride = (observations.size() + rows_searched - 1) / rows_searched;
    Curve sketch(bound, observations, stride);
    starts = search(sketch, start);
  }
  std::vector<Descent> descents;
  for (const VectorXd& from : starts) descents.push_back(descend(curve, from, options.most_evaluations));
  int evaluations = curve.evaluations();
  // Where every parameter has a start the search also goes the whole way in all of them: the projection leaves the
  // neighbourhood of the given linear ones at its first step, and may miss the valley that was meant.
  const VectorXd given = given_starts(bound, options);
  if (!given.hasNaN() && !bound.separable.empty()) {
    BoundModel joint = bound;
    joint.separable.clear();
    joint.entangled.resize(bound.parameters.size());
    std::iota(joint.entangled.begin(), joint.entangled.end(), 0);
    joint.projection = bound.value;
    Curve whole(joint, observations, 1);
    Descent descent = descend(whole, given, options.most_evaluations);
    evaluations += whole.evaluations();
    // Its end is polished with the projection.
    if (std::isfinite(descent.chi_squared)) {
      Descent polished = descend(curve, descent.theta, options.most_evaluations);
      polished.iterations += descent.iterations;
      descents.push_back(polished.chi_squared <= descent.chi_squared ? polished : descent);
    }
  }
  // Of descents that met, the one that came closest goes first.
  std::stable_sort(descents.begin(), descents.end(),
                   [](const Descent& a, const Descent& b) { return a.chi_squared < b.chi_squared; });
  if (!descents.empty() && std::isfinite(descents.front().chi_squared)) {
    const double limit = descents.front().chi_squared * (1 + same_minimum);
    const auto met =
        std::find_if(descents.begin(), descents.end(), [limit](const Descent& d) { return !(d.chi_squared <= limit); });
    std::stable_sort(descents.begin(), met, [](const Descent& a, const Descent& b) { return a.offset < b.offset; });
  }
  if (descents.empty() || !std::isfinite(descents.front().chi_squared)) {
    throw Error(
        {.code = ErrorCode::not_finite,
         .message = searched ? fmt::format("no start was found at which '{}' is finite in every row", model.text())
                             : fmt::format("'{}' is not finite at the given start", model.text()),
         .subject = "start",
         .remedy = "give starts (--start NAME=VALUE) at which the model is defined for every row, or leave rows out"});
  }
  descents.front() = in_meant_order(curve, descents.front(), given, options.most_evaluations);
  const Descent& best = descents.front();

  NonlinearSolution solution;
  solution.report.method = bound.separable.empty() ? "Levenberg-Marquardt" : "variable projection";
  solution.report.converged = best.converged;
  solution.report.stop = best.stop;
  solution.report.iterations = best.iterations;
  solution.report.evaluations = evaluations;
  solution.report.relative_offset = best.offset;
  solution.report.descents = static_cast<int>(descents.size());
  solution.report.met_best = 0;
  for (const Descent& descent : descents) {
    const double apart = std::abs(descent.chi_squared - best.chi_squared);
    if (apart <= same_minimum * best.chi_squared || apart <= exact_share * curve.size()) {
      ++solution.report.met_best;
      continue;
    }
    const bool known =
        !solution.report.other_minima.empty() &&
        descent.chi_squared - solution.report.other_minima.back().chi_squared <= same_minimum * descent.chi_squared;
    if (descent.converged && !known && solution.report.other_minima.size() < 5)
      solution.report.other_minima.push_back({descent.chi_squared, descent.theta});
  }

  const MatrixXd r = curve.full_factor(best.theta);
  MatrixXd k = MatrixXd::Zero(p, p);
  VectorXd norms(p);
  for (Index j = 0; j < p; ++j) {
    norms[j] = r.col(j).head(j + 1).norm();
    if (!(std::abs(r(j, j)) > negligible_pivot * norms[j])) fail_inseparable(bound, r, curve.order(), j);
  }
  const MatrixXd inverse = r.topLeftCorner(p, p).triangularView<Eigen::Upper>().solve(MatrixXd::Identity(p, p));
  for (Index j = 0; j < p; ++j) k.row(curve.order()[static_cast<std::size_t>(j)]) = inverse.row(j);
  LinearSolution& linear = solution.linear;
  linear.parameters = best.theta;
  linear.spread = k;
  linear.effects = VectorXd::Zero(p);
  linear.working.centre = VectorXd::Zero(p);
  linear.working.parameters = best.theta;
  linear.working.inverse_factor = k;
  linear.chi_squared = best.chi_squared;
  linear.total_sum_of_squares = curve.total();
  linear.method = solution.report.method;
  double scaled = 0;
  double scaled_inverse = 0;
  for (Index j = 0; j < p; ++j) {
    scaled = std::max(scaled, r.col(j).head(j + 1).lpNorm<1>() / norms[j]);
    scaled_inverse = std::max(scaled_inverse, inverse.col(j).cwiseProduct(norms).lpNorm<1>());
  }
  linear.condition = scaled * scaled_inverse;
  solution.report.condition = linear.condition;
  return solution;
}

}  // namespace truecurve::detail
