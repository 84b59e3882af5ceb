// Least squares for curves: where to begin, which minimum is meant, what can't be told.
#include "nonlinear.hpp"

#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/data/resolution.hpp>

#include "../base/matrices.hpp"
#include "descend.hpp"
#include "left_side.hpp"
#include "like_terms.hpp"
#include "open_end.hpp"
#include "search.hpp"
#include "small_triangle.hpp"
#include "weights.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include <Eigen/Core>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr std::size_t rows_searched = 300;  // a search needs the shape of the data, not every row
constexpr double same_minimum = 1e-6;       // relative difference of chi-squared within which two descents have met
constexpr std::size_t minima_kept = 6;      // the best and those that are reported beside it
constexpr double negligible_share = 1e-6;   // of a parameter in a direction that does not matter

// By how much the chi-squared of one minimum may differ between two descents: a share of it, and what the rounding of
// responses of this sum of squares does to residuals of that size.
double slack(double a, double b, double size) {
  constexpr double rounding = 64 * std::numeric_limits<double>::epsilon();
  return same_minimum * std::min(a, b) + rounding * std::sqrt(size * std::max(a, b)) + rounding * rounding * size;
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
Descent in_meant_order(const ModelData& data, Curve& curve, const Descent& found, const SmallVector& starts,
                       const Box& box, int most_evaluations) {
  const BoundModel& bound = curve.bound();
  Descent result = found;
  const auto try_values = [&](const SmallVector& values) {
    SmallVector theta = values;
    if (box.clamped(theta) != theta) return;
    const double chi = curve.project(theta);
    if (!(std::abs(chi - result.chi_squared) <= slack(chi, result.chi_squared, curve.size()))) return;
    Descent polished = descend(curve, theta, box, most_evaluations);
    if (!polished.converged ||
        !(polished.chi_squared <= result.chi_squared + slack(polished.chi_squared, result.chi_squared, curve.size())))
      return;
    polished.iterations += result.iterations;
    result = std::move(polished);
  };
  // A shape knows the usual form of its parameters, phases in one turn say.
  if (data.tidy && data.fixed.empty() && starts.array().isNaN().all()) {
    const VectorXd tidied = data.tidy(result.theta);
    if (tidied != result.theta) try_values(tidied);
    return result;
  }
  for (const int j : bound.entangled) {
    const ParameterPart part = bound.parts[static_cast<std::size_t>(j)];
    const bool negative = !std::isnan(starts[j]) && starts[j] < 0;
    const bool has_a_sign = part == ParameterPart::place || part == ParameterPart::exponent ||
                            part == ParameterPart::phase || part == ParameterPart::base;
    if ((result.theta[j] < 0) == negative || has_a_sign) continue;
    SmallVector flipped = result.theta;
    flipped[j] = -flipped[j];
    try_values(flipped);
  }
  // Exchanges of neighbours until the order holds; each is undone by try_values where the terms are not alike after
  // all.
  const std::vector<TermGroup>& groups = bound.groups;
  for (std::size_t pass = 0; pass + 1 < groups.size(); ++pass) {
    for (std::size_t g = 0; g < groups.size(); ++g) {
      for (std::size_t h = g + 1; h < groups.size(); ++h) {
        const std::vector<int>& one = groups[g].entangled;
        const std::vector<int>& other = groups[h].entangled;
        if (groups[g].family != groups[h].family) continue;
        const int first = one.front();
        const int second = other.front();
        const bool given = !std::isnan(starts[first]) && !std::isnan(starts[second]);
        const bool wrong = given ? (starts[first] < starts[second]) != (result.theta[first] < result.theta[second])
                                 : goes_before(bound.parts[static_cast<std::size_t>(first)], result.theta[second],
                                               result.theta[first]);
        if (!wrong) continue;
        SmallVector exchanged = result.theta;
        for (std::size_t k = 0; k < one.size(); ++k) std::swap(exchanged[one[k]], exchanged[other[k]]);
        try_values(exchanged);
      }
    }
  }
  return result;
}

std::size_t index_of(const BoundModel& bound, const std::string& name, const char* what) {
  const auto at = std::find(bound.parameters.begin(), bound.parameters.end(), name);
  if (at == bound.parameters.end()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} given for '{}', which is no parameter that is fitted", what, name),
                 .subject = name,
                 .remedy = fmt::format("the parameters are: {}", fmt::join(bound.parameters, ", "))});
  }
  return static_cast<std::size_t>(at - bound.parameters.begin());
}

Box box_of(const BoundModel& bound, const FitOptions& options) {
  Box box = Box::open(bound.parameters.size());
  for (const Within& within : options.within) {
    const auto j = static_cast<Index>(index_of(bound, within.parameter, "a range is"));
    if (!(within.low < within.high)) {
      throw Error(
          {.code = ErrorCode::bad_argument,
           .message = fmt::format("'{}' is to lie between {} and {}", within.parameter, within.low, within.high),
           .subject = within.parameter,
           .value = fmt::format("{}..{}", within.low, within.high),
           .remedy = "give the lower end first; to hold a parameter at a value, fix it"});
    }
    box.low[j] = std::max(box.low[j], within.low);
    box.high[j] = std::min(box.high[j], within.high);
  }
  return box;
}

// NaN where none is given.
SmallVector given_starts(const BoundModel& bound, const FitOptions& options, const Box& box) {
  SmallVector theta = SmallVector::Constant(static_cast<Index>(bound.parameters.size()), not_a_number);
  for (const Start& start : options.starts) {
    const auto j = static_cast<Index>(index_of(bound, start.parameter, "a start is"));
    const bool inside = start.value >= box.low[j] && start.value <= box.high[j];
    if (!std::isfinite(start.value) || !inside) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = std::isfinite(start.value)
                                  ? fmt::format("the start {} = {} lies outside {}..{}", start.parameter, start.value,
                                                box.low[j], box.high[j])
                                  : fmt::format("the start of '{}' is {}", start.parameter, start.value),
                   .subject = start.parameter,
                   .value = fmt::format("{}", start.value),
                   .remedy = inside ? "starts are finite numbers" : "start inside the range, or widen it"});
    }
    theta[j] = start.value;
  }
  return theta;
}

// Points that the shape itself suggests, with the starts that are given in their place.
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

// Calls use(row, output) for every value (output 0) and derivative (1 and up) that is not finite, row by row.
template <typename Use>
void for_each_not_finite(const BoundModel& bound, const Observations& observations, const VectorXd& theta, Use use) {
  Program::Workspace work;
  std::vector<double> memory((bound.parameters.size() + 1) * block_rows);
  std::vector<double*> outputs;
  for (std::size_t k = 0; k <= bound.parameters.size(); ++k) outputs.push_back(memory.data() + k * block_rows);
  for (std::size_t start = 0; start < observations.size(); start += block_rows) {
    std::vector<const double*> variables;
    for (std::size_t k = 0; k < observations.predictors().size(); ++k)
      variables.push_back(observations.predictor(k).data() + start);
    const std::size_t rows = std::min(block_rows, observations.size() - start);
    bound.run_jacobian(variables, rows, {theta.data(), static_cast<std::size_t>(theta.size())}, outputs, work);
    for (std::size_t i = 0; i < rows; ++i) {
      for (std::size_t k = 0; k < outputs.size(); ++k) {
        if (!std::isfinite(outputs[k][i])) use(start + i, k);
      }
    }
  }
}

// The row and the parameters at which a start is not finite.
[[noreturn]] void fail_not_finite(const Model& model, const Observations& observations, const SmallVector& theta) {
  const BoundModel& bound = *data_of(model).bound;
  std::string at;
  for (std::size_t j = 0; j < bound.parameters.size(); ++j)
    at += fmt::format("{}{} = {:.6g}", j == 0 ? "" : ", ", bound.parameters[j], theta[static_cast<Index>(j)]);
  for_each_not_finite(bound, observations, theta, [&](std::size_t i, std::size_t output) {
    const auto row = observations.source_rows()[i];
    const std::string what =
        output == 0 ? fmt::format("'{}'", model.text())
                    : fmt::format("the derivative of '{}' by {}", model.text(), bound.parameters[output - 1]);
    throw Error({.code = ErrorCode::not_finite,
                 .message = fmt::format("at the start ({}) {} is not finite in row {}", at, what, row),
                 .subject = fmt::format("row {}", row),
                 .value = at,
                 .remedy = {"start where the model is defined in every row",
                            {Action::give_start},
                            ", keep parameters within limits",
                            {Action::set_limits},
                            ", or leave the row out",
                            {Action::leave_row_out, fmt::format("{}", row)}}});
  });
  throw Error(
      {.code = ErrorCode::not_finite,
       .message = fmt::format("at the start ({}) the residuals of '{}' are too large to be squared", at, model.text()),
       .subject = "start",
       .value = at,
       .remedy = "start closer to the data"});
}

// Whether some row's curve is finite for none of a handful of quite different parameters: then the row is to blame and
// not the starts. C++ code is not asked: it may throw at parameters that nobody chose.
std::string never_finite(const BoundModel& bound, const Observations& observations) {
  if (bound.function) return "";
  constexpr int tries = 10;
  std::vector<int> failures(observations.size(), 0);
  for (const double size : {1.0, 0.3, 3.0, 0.01, 100.0}) {
    for (const double sign : {1.0, -1.0}) {
      VectorXd theta(static_cast<Index>(bound.parameters.size()));
      for (Index j = 0; j < theta.size(); ++j) theta[j] = sign * size * (1 + 0.37 * static_cast<double>(j));
      for_each_not_finite(bound, observations, theta,
                          [&](std::size_t i, std::size_t output) { failures[i] += output == 0 ? 1 : 0; });
    }
  }
  const auto at = std::find(failures.begin(), failures.end(), tries);
  return at == failures.end()
             ? ""
             : fmt::format("; in row {} it never is",
                           observations.source_rows()[static_cast<std::size_t>(at - failures.begin())]);
}

std::string listed(const std::vector<std::string>& names) {
  std::string text;
  for (std::size_t i = 0; i < names.size(); ++i)
    text += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
  return text;
}

// "a*b", "a/b", "a + 2*b": what two parameters enter through, from the direction in which the curve stays as it is;
// empty where it is nothing so simple.
std::string combination_of(const std::string& a, const std::string& b, double va, double vb, double a_value,
                           double b_value) {
  constexpr double close = 1e-4;
  const double relative = (va / a_value) / (vb / b_value);
  if (std::abs(relative + 1) < close && std::abs(va + vb) > close * std::abs(va)) return fmt::format("{}*{}", a, b);
  if (std::abs(relative - 1) < close && std::abs(va - vb) > close * std::abs(va)) return fmt::format("{}/{}", a, b);
  const double share = -va / vb;
  const double size = std::abs(share);
  const double times = std::max(size, 1 / size);
  if (!(times < 1000 && std::abs(times - std::round(times)) < close * times)) return "";
  const std::string factor = std::abs(size - 1) < close ? "" : fmt::format("{:.4g}*", size);
  return fmt::format("{} {} {}{}", a, share < 0 ? "-" : "+", factor, b);
}

// Names the parameters of a direction in which chi-squared does not change: column k of the factor is spanned by those
// before it.
[[noreturn]] void fail_inseparable(const BoundModel& bound, const SmallMatrix& r, const std::vector<int>& order,
                                   Index k, const SmallVector& theta) {
  SmallVector c = r.col(k).head(k);
  substitute_back(r.data(), static_cast<int>(k), static_cast<int>(r.rows()), c.data());
  const auto name = [&](Index i) {
    return bound.parameters[static_cast<std::size_t>(order[static_cast<std::size_t>(i)])];
  };
  std::vector<Index> others;
  for (Index i = 0; i < k; ++i) {
    if (std::abs(c[i]) * r.col(i).head(i + 1).stableNorm() > negligible_share * r.col(k).head(k + 1).stableNorm())
      others.push_back(i);
  }
  const std::string last = name(k);
  if (others.empty()) {
    throw Error({.code = ErrorCode::rank_deficient,
                 .message = fmt::format("at the best curve found '{}' does not matter: changing it leaves the curve as "
                                        "it is in every row",
                                        last),
                 .subject = last,
                 .remedy = {fmt::format("measure where '{}' acts, hold it at a value", last),
                            {Action::hold_parameter, last},
                            ", or write the model without it"}});
  }
  std::vector<std::string> involved;
  std::vector<std::string> moves;
  // In steps that are small for every one of them.
  constexpr double small = 1e-3;
  const double last_value = std::abs(theta[order[static_cast<std::size_t>(k)]]);
  double step = last_value > 0 ? small * last_value : small;
  for (const Index i : others) {
    involved.push_back(name(i));
    const double value = std::abs(theta[order[static_cast<std::size_t>(i)]]);
    if (value > 0) step = std::min(step, small * value / std::abs(c[i]));
  }
  bool has_moves = step > 0;
  for (const Index i : others) {
    const double move = std::abs(c[i] * step);
    const double value = std::abs(theta[order[static_cast<std::size_t>(i)]]);
    has_moves = has_moves && std::isfinite(move) && move > negligible_pivot * value;
    moves.push_back(fmt::format("{} by {:.4g}", name(i), -c[i] * step));
  }
  involved.push_back(last);
  moves.push_back(fmt::format("{} by {:.4g}", last, step));
  const std::string names = listed(involved);
  const Index other = others.front();
  const std::string combination =
      others.size() > 1 ? ""
                        : combination_of(name(other), last, -c[other], 1, theta[order[static_cast<std::size_t>(other)]],
                                         theta[order[static_cast<std::size_t>(k)]]);
  const std::string what = !combination.empty() ? fmt::format("the curve depends on them only through {}", combination)
                           : has_moves ? fmt::format("changing {} together leaves the curve as it is", listed(moves))
                                       : "changing them together leaves the curve as it is";
  throw Error({.code = ErrorCode::rank_deficient,
               .message = fmt::format("these rows can't tell {} apart: at the best curve found {}", names, what),
               .subject = names,
               .remedy = {"hold one of them at a value",
                          {Action::hold_parameter, last},
                          ", write the model with their combination, or measure where they act differently"}});
}

// Descents that ended in one minimum.
struct Minimum {
  Descent best;
  int met = 1;
  bool built_up = false;  // among them the one that was built up term by term
};

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

struct Found {
  std::vector<Minimum> minima;
  int descents = 0;
  int evaluations = 0;
};

// Starts are sought on some of the rows, descended from there, and the minima met are followed on all rows.
Found search_minima(const Model& model, const Observations& observations, Curve& curve, const SmallVector& given,
                    const Box& box, int most_evaluations) {
  const BoundModel& bound = *data_of(model).bound;
  const std::size_t stride = (observations.size() + rows_searched - 1) / rows_searched;
  // Where limits bind parameters that enter linearly they are projected out here all the same, and clamped later.
  Curve sketch(bound, observations, roles_of(bound), stride);
  Box entangled_box = Box::open(bound.parameters.size());
  for (const int j : bound.entangled) {
    entangled_box.low[j] = box.low[j];
    entangled_box.high[j] = box.high[j];
  }
  Proposals proposed{proposals(model, sketch, given)};
  if (const auto sum = built_up(bound, observations, stride, given, entangled_box)) {
    proposed.points.push_back(*sum);
    proposed.has_sum = true;
  }
  std::vector<Descent> descents;
  for (const Begin& begin : search(sketch, given, entangled_box, proposed)) {
    descents.push_back(descend(sketch, begin.theta, entangled_box, most_evaluations));
    descents.back().proposed = begin.proposed;
    descents.back().built_up = begin.built_up;
  }
  Found found;
  found.descents = static_cast<int>(descents.size());
  found.minima = minima_of(std::move(descents), sketch.size());
  found.evaluations = sketch.evaluations();
  const bool same_problem = stride == 1 && curve.roles().separable == bound.separable;
  if (same_problem) return found;
  if (found.minima.size() > minima_kept) found.minima.resize(minima_kept);
  for (Minimum& minimum : found.minima) minimum.best = descend(curve, minimum.best.theta, box, most_evaluations);
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

Found descend_from_starts(Curve& curve, const Observations& observations, const SmallVector& given, const Box& box,
                          int most_evaluations) {
  const BoundModel& bound = curve.bound();
  std::vector<Descent> descents;
  SmallVector start = given;
  for (const int j : curve.roles().separable) start[j] = 0;
  descents.push_back(descend(curve, start, box, most_evaluations));
  int evaluations = curve.evaluations();
  // Where every parameter has a start and the minimum was not simply the next one, the descent is also made in all
  // parameters: the projection leaves the neighbourhood of the given linear ones at its first step, and may miss the
  // valley that was meant.
  if (!given.hasNaN() && !curve.roles().separable.empty() && !is_next(descents.front(), curve, given)) {
    Curve whole(bound, observations, joint_roles(bound));
    Descent joint = descend(whole, given, box, most_evaluations);
    evaluations += whole.evaluations();
    if (std::isfinite(joint.chi_squared)) {
      // Its end is polished with the projection.
      const int before = curve.evaluations();
      Descent polished = descend(curve, joint.theta, box, most_evaluations);
      evaluations += curve.evaluations() - before;
      polished.iterations += joint.iterations;
      descents.push_back(polished.chi_squared <= joint.chi_squared ? polished : joint);
    }
  }
  const auto count = static_cast<int>(descents.size());
  return {minima_of(std::move(descents), curve.size()), count, evaluations};
}

// A counted response as measured readings with about the uncertainties it has, from whose fit the search for the
// greatest likelihood begins. Shares and rates are drawn towards their mean, all the way at `kept` = 0, where the curve
// through them would leave the means there are.
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

// The greatest likelihood, from the minima of the least squares of about the same readings.
Found search_likelihood(const Model& model, const Observations& observations, Curve& curve, const Box& box,
                        const FitOptions& options) {
  Found found;
  std::vector<Descent> descents;
  // One that runs against an end of what a mean may be stops there: others are begun farther inside.
  for (const double kept : {1.0, 0.75, 0.5, 0.25, 0.1, 0.02}) {
    const NonlinearSolution begun =
        solve_nonlinear(model, about_measured(*data_of(model).bound, observations, kept), options, OpenEnds::ignored);
    std::vector<SmallVector> starts = {SmallVector(begun.linear.parameters)};
    for (const OtherMinimum& other : begun.report.other_minima) starts.emplace_back(as_eigen(other.parameters));
    const int before = curve.evaluations();
    for (const SmallVector& start : starts) descents.push_back(descend(curve, start, box, options.most_evaluations));
    found.evaluations += begun.report.evaluations + curve.evaluations() - before;
    found.descents = std::max(found.descents, begun.report.descents);
    found.minima = minima_of(descents, curve.size());
    if (found.minima.empty() || !found.minima.front().best.converged) continue;
    found.minima.front().met = std::max(found.minima.front().met, begun.report.met_best);
    found.minima.front().built_up = begun.report.built_up;
    break;
  }
  return found;
}

// The columns of parameters that are not at a limit.
struct FreeColumns {
  SmallMatrix r;
  std::vector<int> order;
};

FreeColumns free_columns(Curve& curve, const SmallVector& theta, const Box& box) {
  const SmallMatrix all = curve.full_factor(theta);
  std::vector<Index> kept;
  FreeColumns columns;
  for (Index k = 0; k < theta.size(); ++k) {
    const int j = curve.order()[static_cast<std::size_t>(k)];
    if (theta[j] <= box.low[j] || theta[j] >= box.high[j]) continue;
    kept.push_back(k);
    columns.order.push_back(j);
  }
  columns.r = static_cast<Index>(kept.size()) < theta.size() ? factor_of_columns(all, kept) : all;
  return columns;
}

bool is_negligible(const SmallMatrix& r, Index k) {
  return !(std::abs(r(k, k)) > negligible_pivot * r.col(k).head(k + 1).stableNorm());
}

bool has_full_rank(const FreeColumns& columns) {
  for (Index k = 0; k < static_cast<Index>(columns.order.size()); ++k) {
    if (is_negligible(columns.r, k)) return false;
  }
  return true;
}

SmallMatrix inverse_of(const SmallMatrix& r, Index count) {
  SmallMatrix inverse = SmallMatrix::Identity(count, count);
  for (Index column = 0; column < count; ++column)
    substitute_back(r.data(), static_cast<int>(column) + 1, static_cast<int>(r.rows()), inverse.col(column).data());
  return inverse;
}

// Whether no parameter's uncertainty is many times its value: a minimum by chance far out on a level stretch.
bool tells_scales(const FreeColumns& columns, const BoundModel& bound, const std::vector<int>& sought, const Box& box,
                  const SmallVector& theta, double scale) {
  constexpr double many = 5;
  const auto count = static_cast<Index>(columns.order.size());
  const SmallMatrix inverse = inverse_of(columns.r, count);
  for (Index i = 0; i < count; ++i) {
    const int j = columns.order[static_cast<std::size_t>(i)];
    const bool is_sought = std::find(sought.begin(), sought.end(), j) != sought.end();
    if (!is_sought || !may_be_open(bound, box, theta, j)) continue;
    if (!(scale * inverse.row(i).stableNorm() <= many * std::abs(theta[j]))) return false;
  }
  return true;
}

// What the tangent plane at the estimates says: inverse factor and condition. Parameters at a limit have no share.
// Returns the relative offset.
double keep_tangent_plane(Curve& curve, const Descent& best, const Box& box, LinearSolution& linear) {
  const SmallVector& theta = best.theta;
  const auto p = theta.size();
  const FreeColumns columns = free_columns(curve, theta, box);
  const SmallMatrix& r = columns.r;
  const std::vector<int>& order = columns.order;
  const auto count = static_cast<Index>(order.size());
  const double offset = offset_of(r, curve);
  linear.parameters = theta;
  linear.effects = VectorXd::Zero(p);
  linear.working.centre = VectorXd::Zero(p);
  linear.working.parameters = theta;
  SmallVector norms(count);
  for (Index k = 0; k < count; ++k) {
    norms[k] = r.col(k).head(k + 1).stableNorm();
    if (!is_negligible(r, k)) continue;
    // The best so far of a search that gave up, or was stopped at an end of what a mean may be, is still a result, but
    // nothing is known of its uncertainty. Where it ended by itself, parameters that can't be told apart are why.
    const bool gave_up = !best.converged && (best.stop == StopReason::evaluations || curve.is_scored());
    if (!gave_up) fail_inseparable(curve.bound(), r, order, k, theta);
    linear.spread = MatrixXd::Constant(p, p, not_a_number);
    linear.working.inverse_factor = linear.spread;
    linear.condition = not_a_number;
    return offset;
  }
  const SmallMatrix inverse = inverse_of(r, count);
  MatrixXd k = MatrixXd::Zero(p, p);
  double scaled = 0;
  double scaled_inverse = 0;
  for (Index i = 0; i < count; ++i) {
    k.row(order[static_cast<std::size_t>(i)]).head(count) = inverse.row(i);
    scaled = std::max(scaled, r.col(i).head(i + 1).lpNorm<1>() / norms[i]);
    scaled_inverse = std::max(scaled_inverse, inverse.col(i).cwiseProduct(norms).lpNorm<1>());
  }
  linear.spread = k;
  linear.working.inverse_factor = k;
  linear.condition = scaled * scaled_inverse;
  return offset;
}

// Looked for where the search did not end in a minimum, or in one that some parameter does not change.
std::optional<OpenEndFound> open_end_of(Curve& curve, const Observations& observations, const Box& box,
                                        const Descent& best, const FitOptions& options, OpenEnds open_ends) {
  const bool is_exact = is_of_rounding(best.chi_squared, curve.size());
  if (best.stop == StopReason::not_finite) return std::nullopt;
  const double degrees = static_cast<double>(curve.rows()) - static_cast<double>(best.theta.size());
  if (!(degrees > 0)) return std::nullopt;
  const bool stated = open_ends == OpenEnds::by_known_scale;
  const double factor = stated ? normal_quantile(0.975) : student_t_quantile(0.975, degrees);
  // Readings that scatter by less than their step are no better known than that.
  const auto y = as_eigen(observations.responses());
  const double rounding = Weights(observations).are_given() || curve.is_scored()
                              ? 0
                              : rounding_variance(resolution_of({y.data(), static_cast<std::size_t>(y.size())}));
  constexpr double rounding_of_numbers = 16 * std::numeric_limits<double>::epsilon();
  const double least = is_exact ? rounding_of_numbers * rounding_of_numbers * curve.size() / degrees : rounding;
  const double variance = stated ? 1 : std::max(best.chi_squared / degrees, least);
  const FreeColumns columns = free_columns(curve, best.theta, box);
  // Through every row a curve may pass with many values of a parameter.
  const bool is_known = !is_exact && has_full_rank(columns) &&
                        tells_scales(columns, curve.bound(), sought_parameters(curve.bound(), observations), box,
                                     best.theta, std::sqrt(variance));
  if (best.converged && is_known) return std::nullopt;
  return find_open_end(curve.bound(), observations, box, best, factor * factor * variance, options.most_evaluations);
}

}  // namespace

StartingPoint starting_point(const Model& model, const Observations& observations, const FitOptions& options) {
  const BoundModel& bound = *data_of(model).bound;
  if (!observations.observation_model().is_measured()) {
    StartingPoint begun = starting_point(model, about_measured(bound, observations, 1), options);
    SmallVector theta = begun.parameters;
    begun.chi_squared = Curve(bound, observations, joint_roles(bound)).project(theta);
    return begun;
  }
  const Box box = box_of(bound, options);
  const SmallVector given = given_starts(bound, options, box);
  StartingPoint point;
  Roles roles;  // what is solved for
  for (const int j : bound.separable) {
    if (std::isnan(given[j])) roles.separable.push_back(j);
  }
  for (std::size_t j = 0; j < bound.parameters.size(); ++j) {
    const auto parameter = static_cast<int>(j);
    const bool is_solved =
        std::find(roles.separable.begin(), roles.separable.end(), parameter) != roles.separable.end();
    point.origins.push_back(!std::isnan(given[parameter]) ? StartOrigin::given
                            : is_solved                   ? StartOrigin::solved
                                                          : StartOrigin::proposed);
    if (!is_solved) roles.entangled.push_back(parameter);
  }
  Curve curve(bound, observations, roles);
  std::vector<SmallVector> trials = proposals(model, curve, given);
  const bool sought =
      std::any_of(roles.entangled.begin(), roles.entangled.end(), [&given](int j) { return std::isnan(given[j]); });
  if (!sought) {
    trials = {given};
  } else if (trials.empty()) {
    trials = drawn_points(curve, given, box);
  }
  for (SmallVector trial : trials) {
    for (const int j : roles.separable) trial[j] = 0;
    const double chi = curve.project(trial);
    if (!(chi < point.chi_squared)) continue;
    point.chi_squared = chi;
    point.parameters = trial;
  }
  if (!std::isfinite(point.chi_squared)) {
    SmallVector start = given;
    for (double& value : start) value = std::isnan(value) ? 0 : value;
    fail_not_finite(model, observations, start);
  }
  return point;
}

NonlinearSolution solve_nonlinear(const Model& model, const Observations& observations, const FitOptions& options,
                                  OpenEnds open_ends) {
  const BoundModel& bound = *data_of(model).bound;
  if (bound.parameters.size() + 1 > most_columns) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = fmt::format("the model has {} parameters; {} are the limit", bound.parameters.size(),
                                        most_columns - 1),
                 .subject = "model",
                 .remedy = "fit a model with fewer parameters"});
  }
  Box box = box_of(bound, options);
  const SmallVector given = given_starts(bound, options, box);
  const Roles roles = roles_within(bound, box);
  Curve curve(bound, observations, roles);
  const bool searched =
      std::any_of(roles.entangled.begin(), roles.entangled.end(), [&given](int j) { return std::isnan(given[j]); });
  Found found = curve.is_scored() && given.hasNaN() ? search_likelihood(model, observations, curve, box, options)
                : searched ? search_minima(model, observations, curve, given, box, options.most_evaluations)
                           : descend_from_starts(curve, observations, given, box, options.most_evaluations);
  if (found.minima.empty()) {
    if (!searched) {
      SmallVector start = given;
      for (double& value : start) value = std::isnan(value) ? 0 : value;
      fail_not_finite(model, observations, start);
    }
    throw Error(
        {.code = ErrorCode::not_finite,
         .message = fmt::format("no start was found at which '{}' is finite in every row{}", model.text(),
                                never_finite(bound, observations)),
         .subject = "start",
         .remedy = {
             "give starts at which the model is defined for every row", {Action::give_start}, ", or leave rows out"}});
  }
  const int before = curve.evaluations();
  Descent best = in_meant_order(data_of(model), curve, found.minima.front().best, given, box, options.most_evaluations);

  NonlinearSolution solution;
  auto open =
      open_ends == OpenEnds::ignored ? std::nullopt : open_end_of(curve, observations, box, best, options, open_ends);
  if (open) {
    solution.open_end = open->end;
    best = std::move(open->descent);
    box = open->box;
  }
  solution.report.method = curve.is_scored()         ? SolverMethod::scoring
                           : bound.separable.empty() ? SolverMethod::levenberg_marquardt
                                                     : SolverMethod::variable_projection;
  solution.report.converged = best.converged;
  solution.report.stop = best.stop;
  solution.report.iterations = best.iterations;
  solution.report.evaluations = found.evaluations + curve.evaluations() - before;
  solution.report.descents = found.descents;
  solution.report.met_best = found.minima.front().met;
  solution.report.built_up = found.minima.front().built_up;
  for (std::size_t i = 1; i < std::min(found.minima.size(), minima_kept); ++i) {
    const Descent& other = found.minima[i].best;
    if (other.converged) solution.report.other_minima.push_back({other.chi_squared, other.theta});
  }
  solution.report.relative_offset = keep_tangent_plane(curve, best, box, solution.linear);
  solution.linear.chi_squared = best.chi_squared;
  solution.linear.total_sum_of_squares = curve.total();
  solution.linear.method = solution.report.method;
  solution.report.condition = solution.linear.condition;
  return solution;
}

}  // namespace truecurve::detail
