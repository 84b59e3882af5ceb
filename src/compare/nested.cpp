// Special cases and their tests.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/compare/nested.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../fit/column_evaluator.hpp"
#include "../fit/refit.hpp"
#include "../fit/solve.hpp"
#include "same_observations.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>
#include <vector>

namespace truecurve {
namespace {

using Eigen::Index;

constexpr Index tried_points = 64;
// Terms that are combinations of others agree to rounding; those that are not differ by far more.
constexpr double same_within = 1e-9;
// Renamed parameters are tried in every order up to this many, beyond in the order of their appearance only.
constexpr std::size_t most_permuted = 4;
constexpr std::size_t most_held = 2;
constexpr int trials = 6;

using Columns = std::vector<VectorXd>;

// Points within the range of the data at which curves are laid side by side; always the same ones.
Columns points_within(const std::vector<Range>& ranges) {
  RandomNumbers random(1);
  Columns points;
  for (const Range& range : ranges) {
    VectorXd column(tried_points);
    for (double& x : column) x = range.low + (range.high - range.low) * random.uniform();
    points.push_back(column);
  }
  return points;
}

std::vector<const double*> pointers(const Columns& points) {
  std::vector<const double*> at;
  for (const VectorXd& column : points) at.push_back(column.data());
  return at;
}

// The terms of a linear model, the part without parameters last.
MatrixXd terms_at(const detail::BoundModel& bound, const Columns& points) {
  const auto p = bound.parameters.size();
  detail::ColumnEvaluator evaluator(bound, 0, 0);
  MatrixXd columns(static_cast<Index>(detail::block_rows), static_cast<Index>(p + 1));
  evaluator.run(pointers(points), static_cast<std::size_t>(tried_points), columns.data(), detail::block_rows);
  return columns.topRows(tried_points);
}

bool holds_all(const MatrixXd& larger, const MatrixXd& wanted) {
  const MatrixXd left = wanted - detail::product(larger, detail::least_squares(larger, wanted));
  for (Index j = 0; j < wanted.cols(); ++j) {
    if (!(left.col(j).norm() <= same_within * wanted.col(j).norm())) return false;
  }
  return true;
}

enum class Held { yes, no, not_defined };

Held holds_terms(const Model& larger, const Model& smaller, const std::vector<Range>& ranges) {
  const Columns points = points_within(ranges);
  const MatrixXd few = terms_at(*detail::data_of(smaller).bound, points);
  const MatrixXd many = terms_at(*detail::data_of(larger).bound, points);
  if (!few.allFinite() || !many.allFinite()) return Held::not_defined;
  MatrixXd wanted = few;
  wanted.rightCols(1) -= many.rightCols(1);  // what the parts without parameters differ by must be made up, too
  return holds_all(many.leftCols(many.cols() - 1), wanted) ? Held::yes : Held::no;
}

// Far from zero against their width (years, kelvins) the powers of x are nearly combinations of each other: there the
// terms are also laid side by side where they differ, from -x to x.
bool is_linear_special_case(const Model& smaller, const Model& larger, std::vector<Range> ranges) {
  if (holds_terms(larger, smaller, ranges) != Held::yes) return false;
  for (Range& range : ranges) {
    const double farthest = std::max(std::abs(range.low), std::abs(range.high));
    range = {-farthest, farthest};
  }
  return holds_terms(larger, smaller, ranges) != Held::no;
}

// The curves of a model at the points, on the scale of the left side, for parameters in its own order.
VectorXd curve_of(const detail::BoundModel& bound, const Columns& points, const VectorXd& theta) {
  VectorXd value(static_cast<Index>(detail::block_rows));
  std::vector<double*> outputs = {value.data()};
  detail::Program::Workspace work;
  bound.run_value(pointers(points), static_cast<std::size_t>(tried_points), {theta.data(), bound.parameters.size()},
                  outputs, work);
  return value.head(tried_points);
}

// Whether two models with equally many parameters are the same family of curves with the parameters in the given order.
bool agree(const detail::BoundModel& one, const detail::BoundModel& other, const std::vector<std::size_t>& order,
           const Columns& points, const VectorXd& near) {
  RandomNumbers random(2);
  int compared = 0;
  for (int trial = 0; trial < trials; ++trial) {
    VectorXd theta(near.size());
    for (Index j = 0; j < theta.size(); ++j) theta[j] = (near[j] == 0 ? 1 : near[j]) * (0.5 + random.uniform());
    VectorXd reordered(theta.size());
    for (std::size_t j = 0; j < order.size(); ++j)
      reordered[static_cast<Index>(order[j])] = theta[static_cast<Index>(j)];
    const VectorXd a = curve_of(one, points, theta);
    const VectorXd b = curve_of(other, points, reordered);
    const double size = a.norm() + b.norm();
    // Curves that overflow or vanish say nothing.
    if (!a.allFinite() && !b.allFinite()) continue;
    if (!std::isfinite(size) || !((a - b).norm() <= same_within * size)) return false;
    compared += size > 0;
  }
  return 2 * compared > trials;
}

bool is_same_family(const Model& one, const Model& other, const Columns& points, const VectorXd& near) {
  const detail::BoundModel& a = *detail::data_of(one).bound;
  const detail::BoundModel& b = *detail::data_of(other).bound;
  if (a.parameters.size() != b.parameters.size()) return false;
  std::vector<std::size_t> order(a.parameters.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  do {
    if (agree(a, b, order, points, near)) return true;
  } while (order.size() <= most_permuted && std::next_permutation(order.begin(), order.end()));
  return false;
}

// The larger model with `held` of its linear parameters at 0, in every choice from `from` on.
bool is_it_with_some_held(const Model& smaller, const Model& larger, std::size_t held, std::size_t from,
                          const Columns& points, const VectorXd& near) {
  if (held == 0) return is_same_family(smaller, larger, points, near);
  const detail::BoundModel& bound = *detail::data_of(larger).bound;
  for (std::size_t at = from; at < bound.separable.size(); ++at) {
    const std::string& name = bound.parameters[static_cast<std::size_t>(bound.separable[at])];
    try {
      const Model less = detail::as_curve(larger.with_fixed({{name, 0}}));
      // Only one parameter is gone: where another has lost its effect with it, the smaller curve is no regular case.
      if (less.parameters().size() + 1 != larger.parameters().size()) continue;
      if (is_it_with_some_held(smaller, less, held - 1, 0, points, near)) return true;
    } catch (const Error&) {
      continue;  // nothing of the model is left without this one
    }
  }
  return false;
}

bool has_all(const std::vector<FixedParameter>& more, const std::vector<FixedParameter>& fewer) {
  return std::all_of(fewer.begin(), fewer.end(), [&more](const FixedParameter& wanted) {
    return std::any_of(more.begin(), more.end(),
                       [&wanted](const FixedParameter& f) { return f.name == wanted.name && f.value == wanted.value; });
  });
}

// The model as a curve of all predictors of another: a constant is one of any predictor.
Model among_predictors_of(const Model& few, const Model& many) {
  const auto has = [&many](const std::string& name) {
    return std::find(many.predictors().begin(), many.predictors().end(), name) != many.predictors().end();
  };
  const bool all_there = std::all_of(few.predictors().begin(), few.predictors().end(), has);
  return all_there ? few.with_predictors(many.predictors()) : few;
}

bool same_weights(const Fit& a, const Fit& b) {
  const auto ua = as_eigen(a.left_side_observations().row_scatter());
  const auto ub = as_eigen(b.left_side_observations().row_scatter());
  return ua.size() == ub.size() && (ua.size() == 0 || (ua - ub).norm() <= 1e-12 * ub.norm());
}

// The larger model's parameters on the smaller one's fitted curve; NaN where that does not tell them.
VectorXd parameters_on(const Fit& smaller, const Fit& larger) {
  const Model& many = larger.model();
  const Model& few = smaller.model();
  if (many.is_linear() && few.is_linear()) {
    const Observations& rows = larger.left_side_observations();
    return detail::solve_least_squares(many, rows.with_response(smaller.fitted()), {}).solution.parameters;
  }
  const std::vector<int>& separable = detail::data_of(many).bound->separable;
  VectorXd values(as_eigen(larger.estimate().parameters()).size());
  for (Index j = 0; j < values.size(); ++j) {
    const std::string& name = many.parameters()[static_cast<std::size_t>(j)];
    const auto at = std::find(few.parameters().begin(), few.parameters().end(), name) - few.parameters().begin();
    const bool is_kept = at < static_cast<std::ptrdiff_t>(few.parameters().size());
    const bool vanishes = std::find(separable.begin(), separable.end(), static_cast<int>(j)) != separable.end();
    values[j] = is_kept ? smaller.estimate().parameters()[at] : vanishes ? 0 : not_a_number;
  }
  return values;
}

// Whether the smaller curve is one that the larger model may take within its limits, and not at one of them: at the
// edge of what is allowed chi-squared falls by less than the tests expect. A limit that both have met counts for
// neither; one of a parameter that loses its effect, for nothing.
bool lies_inside(const Fit& smaller, const Fit& larger) {
  constexpr double close = 1e-6;  // of an uncertainty
  const std::vector<Range>& limits = larger.estimate().limits();
  if (limits.empty()) return true;
  const VectorXd values = parameters_on(smaller, larger);
  for (Index j = 0; j < values.size(); ++j) {
    const Range& range = limits[static_cast<std::size_t>(j)];
    const auto& few = smaller.model().parameters();
    const auto at = std::find(few.begin(), few.end(), larger.model().parameters()[static_cast<std::size_t>(j)]);
    const bool both_held =
        at != few.end() && larger.estimate().is_at_limit(j) && smaller.estimate().is_at_limit(at - few.begin());
    const double u = larger.estimate().standard_uncertainties()[j];
    const double margin = u > 0 ? close * u : close * std::abs(values[j]);
    if (!both_held && (values[j] <= range.low + margin || values[j] >= range.high - margin)) return false;
  }
  return true;
}

}  // namespace

bool is_special_case(const Fit& smaller, const Fit& larger) {
  const Model& many = larger.model();
  const Model few = among_predictors_of(smaller.model(), many);
  const auto added =
      static_cast<std::ptrdiff_t>(many.parameters().size()) - static_cast<std::ptrdiff_t>(few.parameters().size());
  const bool same_response =
      few.response() == many.response() && few.left_side() == many.left_side() && few.predictors() == many.predictors();
  const bool same_spread = smaller.spread() == larger.spread() &&
                           smaller.observations().has_uncertainties() == larger.observations().has_uncertainties();
  // Of C++ code nothing but its values can be known.
  const bool readable = !detail::data_of(few).function && !detail::data_of(many).function;
  if (added < 1 || !same_response || !same_spread || !readable || !lies_inside(smaller, larger)) return false;
  if (few.text() == many.text()) return has_all(few.fixed(), many.fixed());
  if (few.is_linear() && many.is_linear()) return is_linear_special_case(few, many, larger.estimate().ranges());
  if (static_cast<std::size_t>(added) > most_held || many.is_linear()) return false;
  const Model curve = few.is_linear() ? detail::as_curve(few) : few;
  return is_it_with_some_held(curve, many, static_cast<std::size_t>(added), 0,
                              points_within(larger.estimate().ranges()), as_eigen(smaller.estimate().parameters()));
}

NestedTest nested_test(const Fit& smaller, const Fit& larger) {
  detail::require_same_observations(std::array{smaller, larger});
  NestedTest test;
  test.added = static_cast<double>(larger.estimate().free_parameters() - smaller.estimate().free_parameters());
  const double dof = larger.degrees_of_freedom();
  if (!(test.added > 0)) return test;
  if (larger.is_counted()) {
    // The likelihood ratio, its scale the dispersion about the larger curve where that is estimated.
    const double scale = larger.estimate().scale();
    if (!(scale > 0)) return test;
    test.statistic = std::max(0.0, smaller.chi_squared() - larger.chi_squared()) / (scale * scale);
    if (larger.estimate().has_known_scale()) {
      test.kind = NestedTest::Kind::chi_squared;
      test.p = chi_squared_upper(test.statistic, test.added);
    } else {
      test.denominator = dof;
      test.statistic /= test.added;
      test.p = f_upper(test.statistic, test.added, dof);
    }
    return test;
  }
  const bool same_predictors = smaller.observations().predictors().size() == larger.observations().predictors().size();
  if (!same_predictors && !same_weights(smaller, larger)) return test;
  const double least =
      same_weights(smaller, larger)
          ? larger.chi_squared()
          : detail::least_chi_squared(larger.model(), smaller.left_side_observations(), detail::options_like(larger));
  const double fallen = smaller.chi_squared() - least;
  if (larger.estimate().has_known_scale()) {
    test.kind = NestedTest::Kind::chi_squared;
    test.statistic = std::max(0.0, fallen);
    test.p = chi_squared_upper(test.statistic, test.added);
  } else if (dof > 0 && !larger.residuals_are_rounding()) {
    // Scatter below the rounding of the readings, under the same weights, is no scale.
    const double scale = std::max(least / dof, smaller.rounding_mean_square());
    if (!(scale > 0)) return test;
    test.denominator = dof;
    test.statistic = std::max(0.0, fallen / test.added / scale);
    test.p = f_upper(test.statistic, test.added, dof);
  }
  return test;
}

std::string_view name(NestedTest::Kind kind) noexcept {
  switch (kind) {
    case NestedTest::Kind::f: return "F";
    case NestedTest::Kind::chi_squared: return "chi-squared";
  }
  return "";
}

}  // namespace truecurve
