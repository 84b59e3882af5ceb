// Searches, and descents from starts.
#include "minima.hpp"

#include "../base/matrices.hpp"
#include "left_side.hpp"
#include "like_terms.hpp"
#include "nonlinear.hpp"
#include "open_end.hpp"
#include "search.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr std::size_t rows_searched = 300;  // a search needs the shape of the data, not every row
constexpr double same_minimum = 1e-6;       // relative difference of chi-squared within which two descents have met

bool same(double a, double b, double size) { return std::abs(a - b) <= slack(a, b, size); }

// Ascending by chi-squared; of descents that met, the one that came closest stands for all, those from the model's own
// starts first: they know which of several equal curves is meant, the lowest of the frequencies that evenly spaced rows
// can't tell apart say.
std::vector<Minimum> minima_of(std::vector<Descent> descents, double size) {
  std::erase_if(descents, [](const Descent& d) { return !std::isfinite(d.chi_squared); });
  std::stable_sort(descents.begin(), descents.end(),
                   [](const Descent& a, const Descent& b) { return a.chi_squared < b.chi_squared; });
  std::vector<Minimum> minima;
  double lowest = 0;
  for (const Descent& descent : descents) {
    if (minima.empty() || !same(descent.chi_squared, lowest, size)) {
      minima.push_back({descent, 1, descent.built_up});
      lowest = descent.chi_squared;
      continue;
    }
    ++minima.back().met;
    minima.back().built_up = minima.back().built_up || descent.built_up;
    const Descent& best = minima.back().best;
    const bool meant = descent.proposed && !best.proposed && descent.converged;
    const bool closer = descent.offset < best.offset && (descent.proposed || !best.proposed);
    if (meant || closer) minima.back().best = descent;
  }
  return minima;
}

// Whether a descent went straight to a minimum in the neighbourhood of its start.
bool is_next(const Descent& descent, const Curve& curve, const SmallVector& start) {
  constexpr int straight = 60;  // evaluations
  constexpr double neighbourhood = 10;
  if (!descent.converged || curve.evaluations() > straight) return false;
  return std::all_of(curve.roles().entangled.begin(), curve.roles().entangled.end(), [&](int j) {
    const double ratio = descent.theta[j] / start[j];
    return ratio < neighbourhood && ratio > 1 / neighbourhood;
  });
}

}  // namespace

double slack(double a, double b, double size) {
  constexpr double rounding = 64 * std::numeric_limits<double>::epsilon();
  return same_minimum * std::min(a, b) + rounding * std::sqrt(size * std::max(a, b)) + rounding * rounding * size;
}

std::vector<SmallVector> proposals(const Model& model, const Curve& curve, const SmallVector& given) {
  const ModelData& data = data_of(model);
  std::vector<SmallVector> points;
  if (!data.propose || curve.predictors() != 1) return points;
  const auto n = static_cast<Index>(curve.rows());
  const VectorXd x = Eigen::Map<const VectorXd>(curve.predictor(0), n);
  const VectorXd y = Eigen::Map<const VectorXd>(curve.responses(), n);
  for (const VectorXd& all : data.propose(x, y)) {
    SmallVector point = given;
    for (std::size_t j = 0; j < data.bound->parameters.size(); ++j) {
      const auto at = std::find(data.names.begin(), data.names.end(), data.bound->parameters[j]) - data.names.begin();
      if (std::isnan(given[static_cast<Index>(j)])) point[static_cast<Index>(j)] = all[at];
    }
    if (point.allFinite()) points.push_back(point);
  }
  return points;
}

FoundMinima search_minima(const Model& model, const Observations& observations, Curve& curve, const SmallVector& given,
                          const Box& box) {
  const BoundModel& bound = *data_of(model).bound;
  SearchWatch& watch = *curve.watch();
  watch.tell(FitStage::looking);
  const std::size_t stride = (observations.size() + rows_searched - 1) / rows_searched;
  // Where limits bind parameters that enter linearly they are projected out here all the same, and clamped later.
  Curve sketch(bound, observations, roles_of(bound), stride, &watch);
  Box entangled_box = Box::open(bound.parameters.size());
  for (const int j : bound.entangled) {
    entangled_box.low[j] = box.low[j];
    entangled_box.high[j] = box.high[j];
  }
  Proposals proposed{proposals(model, sketch, given)};
  if (const auto sum = built_up(bound, observations, stride, given, entangled_box, watch)) {
    proposed.points.push_back(*sum);
    proposed.has_sum = true;
  }
  std::vector<Descent> descents;
  const std::vector<Begin> begun = search(sketch, given, entangled_box, proposed);
  for (std::size_t i = 0; i < begun.size(); ++i) {
    const Begin& begin = begun[i];
    watch.tell(FitStage::descending, static_cast<double>(i) / static_cast<double>(begun.size()));
    descents.push_back(descend(sketch, begin.theta, entangled_box, evaluations_of_a_descent));
    descents.back().proposed = begin.proposed;
    descents.back().built_up = begin.built_up;
    if (watch.is_over()) break;
  }
  FoundMinima found;
  found.descents = static_cast<int>(descents.size());
  found.minima = minima_of(std::move(descents), sketch.size());
  found.evaluations = sketch.evaluations();
  const bool same_problem = stride == 1 && curve.roles().separable == bound.separable;
  if (same_problem) return found;
  const std::size_t kept = watch.is_over() ? 1 : minima_kept;
  if (found.minima.size() > kept) found.minima.resize(kept);
  for (Minimum& minimum : found.minima)
    minimum.best = descend(curve, minimum.best.theta, box, evaluations_of_a_descent);
  std::erase_if(found.minima, [](const Minimum& m) { return !std::isfinite(m.best.chi_squared); });
  std::stable_sort(found.minima.begin(), found.minima.end(),
                   [](const Minimum& a, const Minimum& b) { return a.best.chi_squared < b.best.chi_squared; });
  std::vector<Minimum> merged;
  for (const Minimum& minimum : found.minima) {
    if (!merged.empty() && same(minimum.best.chi_squared, merged.back().best.chi_squared, curve.size())) {
      merged.back().met += minimum.met;
      merged.back().built_up = merged.back().built_up || minimum.built_up;
    } else {
      merged.push_back(minimum);
    }
  }
  found.minima = std::move(merged);
  return found;
}

FoundMinima descend_from_starts(Curve& curve, const Observations& observations, const SmallVector& given,
                                const Box& box) {
  const BoundModel& bound = curve.bound();
  std::vector<Descent> descents;
  SmallVector start = given;
  for (const int j : curve.roles().separable) start[j] = 0;
  curve.watch()->tell(FitStage::descending);
  descents.push_back(descend(curve, start, box, evaluations_of_a_descent));
  int evaluations = curve.evaluations();
  // Where every parameter has a start and the minimum was not simply the next one, the descent is also made in all
  // parameters: the projection leaves the neighbourhood of the given linear ones at its first step, and may miss the
  // valley that was meant.
  if (!given.hasNaN() && !curve.roles().separable.empty() && !curve.is_over() &&
      !is_next(descents.front(), curve, given)) {
    Curve whole(bound, observations, joint_roles(bound), 1, curve.watch());
    Descent joint = descend(whole, given, box, evaluations_of_a_descent);
    evaluations += whole.evaluations();
    if (std::isfinite(joint.chi_squared)) {
      // Its end is polished with the projection.
      const int before = curve.evaluations();
      Descent polished = descend(curve, joint.theta, box, evaluations_of_a_descent);
      evaluations += curve.evaluations() - before;
      polished.iterations += joint.iterations;
      descents.push_back(polished.chi_squared <= joint.chi_squared ? polished : joint);
    }
  }
  const auto count = static_cast<int>(descents.size());
  return {minima_of(std::move(descents), curve.size()), count, evaluations};
}

Observations about_measured(const BoundModel& bound, const Observations& observations, double kept) {
  const ResponseKernel& kernel = observations.observation_model().kernel();
  const auto y = as_eigen(observations.responses());
  const auto sizes = as_eigen(observations.sizes());
  const double mean = y.dot(sizes) / sizes.sum();
  VectorXd near(y.size());
  VectorXd sd(y.size());
  for (Index i = 0; i < y.size(); ++i) {
    near[i] = mean + kept * (kernel.inner_mean(y[i], sizes[i]) - mean);
    sd[i] = kernel.standard_deviation(kernel.inner_mean(y[i], sizes[i]), sizes[i]);
  }
  const LeftSide left = left_side_at(bound, near, predictor_pointers(observations));
  return observations.with_response(left.value, left.slope.cwiseAbs().cwiseProduct(sd));
}

FoundMinima search_likelihood(const Model& model, const Observations& observations, Curve& curve, const Box& box,
                              const FitOptions& options) {
  FoundMinima found;
  std::vector<Descent> descents;
  // One that runs against an end of what a mean may be stops there: others are begun farther inside.
  for (const double kept : {1.0, 0.75, 0.5, 0.25, 0.1, 0.02}) {
    const NonlinearSolution begun = solve_nonlinear(model, about_measured(*data_of(model).bound, observations, kept),
                                                    options, OpenEnds::ignored, *curve.watch());
    std::vector<SmallVector> starts = {SmallVector(begun.linear.parameters)};
    for (const OtherMinimum& other : begun.report.other_minima) starts.emplace_back(as_eigen(other.parameters));
    const int before = curve.evaluations();
    for (const SmallVector& start : starts) descents.push_back(descend(curve, start, box, evaluations_of_a_descent));
    found.evaluations += begun.report.evaluations + curve.evaluations() - before;
    found.descents = std::max(found.descents, begun.report.descents);
    found.minima = minima_of(descents, curve.size());
    if (curve.is_over()) break;
    if (found.minima.empty() || !found.minima.front().best.converged) continue;
    found.minima.front().met = std::max(found.minima.front().met, begun.report.met_best);
    found.minima.front().built_up = begun.report.built_up;
    break;
  }
  return found;
}

}  // namespace truecurve::detail
