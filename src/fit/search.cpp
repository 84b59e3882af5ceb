// Draws and sorts.
#include "search.hpp"

#include "../base/halton.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace truecurve::detail {

Scales scales_of(const Curve& curve) {
  Scales s;
  if (curve.predictors() == 0) return s;
  const double* const x = curve.predictor(0);
  const auto [low, high] = std::minmax_element(x, x + curve.rows());
  s.low = *low;
  s.high = *high;
  s.width = std::max(*high - *low, 1e-300);
  s.largest = std::max({std::abs(*low), std::abs(*high), 1e-300});
  s.step = s.width / static_cast<double>(curve.rows());
  return s;
}

double candidate_value(const BoundModel& bound, int parameter, double kind, double place, const Scales& s) {
  const ParameterPart part = bound.parts[static_cast<std::size_t>(parameter)];
  const auto spread = [](double u, double low, double high) { return low * std::pow(high / low, u); };
  const double sign = place < 0.5 ? -1.0 : 1.0;
  const double u = place < 0.5 ? 2 * place : 2 * place - 1;
  if (const double turn = bound.turns[static_cast<std::size_t>(parameter)]; turn > 0) {
    const double fastest = std::numbers::pi / (turn * s.step);
    const double slowest = fastest * s.step / s.width / 4;
    const double frequency = spread(kind < 0.7 ? place : u, slowest, fastest) * (kind < 0.7 ? 1 : sign);
    return part == ParameterPart::divisor ? 1 / frequency : frequency;
  }
  // Seven of ten candidates follow the part that the parameter plays; the others may be anything.
  if (kind < 0.7) {
    switch (part) {
      case ParameterPart::place:
        return kind < 0.5 ? s.low - 0.1 * s.width + 1.2 * s.width * place : sign * spread(u, 1e-2, 1e2) * s.largest;
      case ParameterPart::factor:
        return (kind < 0.5 ? 1.0 : sign) * spread(kind < 0.5 ? place : u, 1e-2, 1e2) / s.largest;
      case ParameterPart::divisor: return spread(place, s.step / s.largest / 3, 3) * s.largest;
      case ParameterPart::exponent: return -5 + 10 * place;
      case ParameterPart::base: return std::exp(sign * spread(u, 1e-2, 1e2) / s.largest);
      case ParameterPart::phase: return std::numbers::pi * (2 * place - 1);
      case ParameterPart::other: return sign * spread(u, 1e-2, 1e2);
    }
  }
  // A parameter that is known to be measured by x keeps to its unit, whatever that is.
  switch (part) {
    case ParameterPart::factor: return sign * spread(u, 1e-4, 1e4) / s.largest;
    case ParameterPart::place:
    case ParameterPart::divisor: return sign * spread(u, 1e-4, 1e3) * s.largest;
    case ParameterPart::exponent:
    case ParameterPart::phase: return sign * spread(u, 1e-4, 1e4);
    case ParameterPart::base: return std::exp(sign * spread(u, 1e-4, 1e3) / s.largest);
    case ParameterPart::other: break;
  }
  if (kind < 0.8) return sign * spread(u, 1e-4, 1e4) / s.largest;
  if (kind < 0.9) return sign * spread(u, 1e-4, 1e4);
  return sign * spread(u, 1e-4, 1e3) * s.largest;
}

namespace {

// Points drawn, and of these begun to descend from, for one, two, ... sought parameters.
constexpr std::array<int, 5> points_searched = {400, 2400, 5000, 6500, 8000};
constexpr std::array<int, 5> points_begun = {40, 90, 120, 120, 120};
constexpr int more_points = 1500;  // for each parameter beyond these
constexpr int share_beside_proposals = 4;
constexpr int share_beside_a_sum = 16;
constexpr int evaluations_begun = 24;
constexpr int descents_wanted = 30;  // descended from to the end

// One base for each dimension of Halton's sequence.
constexpr std::array<int, 24> primes = {2,  3,  5,  7,  11, 13, 17, 19, 23, 29, 31, 37,
                                        41, 43, 47, 53, 59, 61, 67, 71, 73, 79, 83, 89};

struct Candidate {
  double chi_squared;
  SmallVector theta;
  bool proposed = false;
  bool built_up = false;
};

bool is_better(const Candidate& a, const Candidate& b) { return a.chi_squared < b.chi_squared; }

std::vector<int> sought_of(const Curve& curve, const SmallVector& given) {
  std::vector<int> sought;
  for (const int j : curve.roles().entangled) {
    if (std::isnan(given[j])) sought.push_back(j);
  }
  return sought;
}

std::size_t size_of(std::size_t sought) {
  return std::min(std::max<std::size_t>(sought, 1), points_searched.size()) - 1;
}

int points_for(std::size_t sought) {
  const int beyond = static_cast<int>(sought) - static_cast<int>(points_searched.size());
  return points_searched[size_of(sought)] + more_points * std::max(0, beyond);
}

// Points drawn from the sequence at which the curve is finite, best first.
std::vector<Candidate> candidates_of(Curve& curve, const SmallVector& given, const Box& box, int points) {
  const BoundModel& bound = curve.bound();
  const Scales scales = scales_of(curve);
  const std::vector<int> sought = sought_of(curve, given);
  std::vector<Candidate> candidates;
  for (int point = 1; point <= points; ++point) {
    SmallVector theta = given;
    std::size_t dimension = 0;
    for (const int j : sought) {
      const double kind = radical_inverse(point, primes[dimension % primes.size()]);
      const double place = radical_inverse(point, primes[(dimension + 1) % primes.size()]);
      dimension += 2;
      // Between two limits every place is as good as another.
      const bool between = std::isfinite(box.low[j]) && std::isfinite(box.high[j]);
      theta[j] =
          between ? box.low[j] + place * (box.high[j] - box.low[j]) : candidate_value(bound, j, kind, place, scales);
    }
    for (const int j : curve.roles().separable) theta[j] = 0;
    theta = box.clamped(theta);
    if (curve.watch() != nullptr)
      curve.watch()->tell(FitStage::looking, static_cast<double>(point - 1) / static_cast<double>(points));
    if (curve.is_over()) break;
    try {
      const double chi = curve.project(theta);
      if (std::isfinite(chi)) candidates.push_back({chi, theta});
    } catch (const SearchEnded&) {
      break;
    }
  }
  std::stable_sort(candidates.begin(), candidates.end(), is_better);
  return candidates;
}

}  // namespace

std::vector<SmallVector> drawn_points(Curve& curve, const SmallVector& given, const Box& box) {
  std::vector<SmallVector> points;
  for (Candidate& candidate : candidates_of(curve, given, box, points_for(sought_of(curve, given).size())))
    points.push_back(candidate.theta);
  return points;
}

std::vector<Begin> search(Curve& curve, const SmallVector& given, const Box& box, const Proposals& proposals) {
  const std::size_t sought = sought_of(curve, given).size();
  const std::vector<SmallVector>& proposed = proposals.points;
  const int share = proposals.has_sum ? share_beside_a_sum : proposed.empty() ? 1 : share_beside_proposals;
  const std::vector<Candidate> candidates = candidates_of(curve, given, box, points_for(sought) / share);
  std::vector<Candidate> begun;
  const auto begin_from = [&](const SmallVector& theta, bool by_model, bool is_sum) {
    if (curve.is_over() && !begun.empty()) return;
    const Descent descent = descend(curve, theta, box, evaluations_begun);
    if (std::isfinite(descent.chi_squared)) begun.push_back({descent.chi_squared, descent.theta, by_model, is_sum});
  };
  for (std::size_t i = 0; i < proposed.size(); ++i)
    begin_from(proposed[i], true, proposals.has_sum && i + 1 == proposed.size());
  // Two thirds are the best points; the others are spread over the better fifth, in case the best all lie in one false
  // valley.
  const auto tried = static_cast<std::size_t>(points_begun[size_of(sought)] / share);
  const std::size_t best = tried * 2 / 3;
  const std::size_t fifth = candidates.size() / 5;
  for (std::size_t i = 0; i < tried; ++i) {
    if (curve.watch() != nullptr)
      curve.watch()->tell(FitStage::beginning, static_cast<double>(i) / static_cast<double>(tried));
    const std::size_t at = i < best ? i : best + (i - best) * fifth / (tried - best);
    if (at >= candidates.size()) break;
    begin_from(candidates[at].theta, false, false);
  }
  std::stable_sort(begun.begin(), begun.end(), is_better);
  std::vector<Begin> starts;
  for (std::size_t i = 0; i < std::min<std::size_t>(descents_wanted, begun.size()); ++i)
    starts.push_back({begun[i].theta, begun[i].proposed, begun[i].built_up});
  return starts;
}

}  // namespace truecurve::detail
