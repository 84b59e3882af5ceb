// Row measures and residual tests.
#include <truecurve/assess/checks.hpp>
#include <truecurve/base/distributions.hpp>

#include "../fit/column_evaluator.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

// Below this a sentence gives advice.
constexpr double noticeable = 0.05;
// A leverage this near 1 leaves no residual to speak of.
constexpr double full_leverage = 1 - 1e-9;
// What is left of an added term after projection: below this share the model held it already.
constexpr double held_already = 1e-8;

std::string chance(double p) { return p < noticeable ? "hardly by chance" : "as chance would have it"; }

std::vector<Index> along_first_predictor(const Fit& fit) {
  std::vector<Index> order(fit.size());
  std::iota(order.begin(), order.end(), Index{0});
  if (!fit.observations().predictors().empty()) {
    const VectorXd& x = fit.observations().predictor(0);
    std::stable_sort(order.begin(), order.end(), [&x](Index a, Index b) { return x[a] < x[b]; });
  }
  return order;
}

VectorXd weight_roots(const Fit& fit) {
  const Observations& left = fit.left_side_observations();
  return left.has_uncertainties() ? VectorXd(left.uncertainties().cwiseInverse())
                                  : VectorXd::Ones(left.responses().size());
}

// The part of a (weighted) column that the model's own columns do not hold: c - Q Qᵀ c with Q = G K, row by row.
VectorXd beyond_the_model(const Fit& fit, const VectorXd& column) {
  const WorkingForm& working = fit.estimate().parts().working;
  const auto p = working.parameters.size();
  const VectorXd roots = weight_roots(fit);
  VectorXd rest = column;
  // Twice is enough (Kahan, in Parlett 1980): the second pass removes what rounding has left of the first.
  for (int pass = 0; pass < 2; ++pass) {
    VectorXd product = VectorXd::Zero(p);
    const auto visit = [&](auto use) {
      detail::for_each_block(
          *fit.model().data().bound, working, fit.observations(),
          [&](std::size_t start, std::size_t rows, const double* columns) {
            VectorXd g(p);
            for (std::size_t i = 0; i < rows; ++i) {
              const auto row = static_cast<Index>(start + i);
              for (Index j = 0; j < p; ++j)
                g[j] = roots[row] * (columns[static_cast<std::size_t>(j) * detail::block_rows + i] - working.centre[j]);
              use(row, working.inverse_factor.transpose() * g);
            }
          });
    };
    visit([&](Index row, const VectorXd& q) { product += q * rest[row]; });
    visit([&](Index row, const VectorXd& q) { rest[row] -= q.dot(product); });
  }
  return rest;
}

double mean_of(const VectorXd& v) { return v.mean(); }

// R² of a simple regression.
double squared_correlation(const VectorXd& a, const VectorXd& b) {
  const VectorXd da = a.array() - mean_of(a);
  const VectorXd db = b.array() - mean_of(b);
  const double product = da.squaredNorm() * db.squaredNorm();
  return product > 0 ? da.dot(db) * da.dot(db) / product : 0;
}

double log_choose(double n, double k) {
  return k < 0 || k > n ? -infinity : std::lgamma(n + 1) - std::lgamma(k + 1) - std::lgamma(n - k + 1);
}

// Probability of at most `runs` runs among `plus` and `minus` signs in random order.
double runs_at_most(int runs, int plus, int minus) {
  const double all = log_choose(plus + minus, plus);
  double sum = 0;
  for (int r = 2; r <= runs; ++r) {
    const int half = r / 2;
    if (r % 2 == 0) {
      sum += 2 * std::exp(log_choose(plus - 1, half - 1) + log_choose(minus - 1, half - 1) - all);
    } else {
      sum += std::exp(log_choose(plus - 1, half) + log_choose(minus - 1, half - 1) - all) +
             std::exp(log_choose(plus - 1, half - 1) + log_choose(minus - 1, half) - all);
    }
  }
  return std::min(1.0, sum);
}

double anderson_darling_p(double statistic, double n) {
  const double a = statistic * (1 + 0.75 / n + 2.25 / (n * n));
  if (a >= 0.6) return std::exp(1.2937 - 5.709 * a + 0.0186 * a * a);
  if (a >= 0.34) return std::exp(0.9177 - 4.279 * a - 1.38 * a * a);
  if (a >= 0.2) return 1 - std::exp(-8.318 + 42.796 * a - 59.938 * a * a);
  return 1 - std::exp(-13.436 + 101.14 * a - 223.73 * a * a);
}

VectorXd finite_part(const VectorXd& values) {
  std::vector<double> kept;
  for (const double v : values) {
    if (std::isfinite(v)) kept.push_back(v);
  }
  return Eigen::Map<VectorXd>(kept.data(), static_cast<Index>(kept.size()));
}

}  // namespace

RowMeasures row_measures(const Fit& fit) {
  RowMeasures measures;
  measures.leverage = fit.leverage();
  const VectorXd residuals = fit.residuals().cwiseProduct(weight_roots(fit));
  const Index n = residuals.size();
  measures.standardized = VectorXd::Constant(n, not_a_number);
  measures.studentized = measures.standardized;
  measures.cook_distance = measures.standardized;
  const double dof = fit.degrees_of_freedom();
  if (!(dof > 0)) return measures;
  const bool stated = fit.estimate().basis() == UncertaintyBasis::stated;
  const double variance = stated ? 1 : fit.chi_squared() / dof;
  const auto p = static_cast<double>(fit.estimate().free_parameters());
  for (Index i = 0; i < n; ++i) {
    const double h = measures.leverage[i];
    if (h >= full_leverage || !(variance > 0)) continue;
    const double square = residuals[i] * residuals[i] / (1 - h);
    measures.standardized[i] = residuals[i] / std::sqrt(variance * (1 - h));
    measures.cook_distance[i] = square / variance * h / ((1 - h) * p);
    const double others = stated ? 1 : dof > 1 ? (fit.chi_squared() - square) / (dof - 1) : not_a_number;
    if (others > 0) measures.studentized[i] = residuals[i] / std::sqrt(others * (1 - h));
  }
  return measures;
}

Check spread_check(const Fit& fit) {
  Check check{.name = "spread"};
  const RowMeasures measures = row_measures(fit);
  if (fit.degrees_of_freedom() < 3 || !measures.standardized.allFinite()) return check;
  const VectorXd squares = measures.standardized.cwiseAbs2();
  const VectorXd fitted = fit.fitted();
  check.statistic = static_cast<double>(fit.size()) * squared_correlation(squares, fitted);
  check.p = chi_squared_upper(check.statistic, 1);
  const VectorXd dx = fitted.array() - fitted.mean();
  const bool grows = dx.dot(squares) > 0;
  check.sentence =
      check.p < noticeable
          ? fmt::format("The residuals grow {} the fitted value, {}.", grows ? "with" : "against", chance(check.p))
          : "The size of the residuals does not depend on the fitted value beyond chance.";
  if (check.p < noticeable)
    check.advice = "give the rows weights (stated uncertainties or --spread), or transform the response";
  return check;
}

Check runs_check(const Fit& fit) {
  Check check{.name = "runs"};
  const VectorXd residuals = fit.residuals();
  int plus = 0;
  int minus = 0;
  int runs = 0;
  int last = 0;
  for (const Index i : along_first_predictor(fit)) {
    const int sign = (residuals[i] > 0) - (residuals[i] < 0);
    if (sign == 0) continue;
    (sign > 0 ? plus : minus) += 1;
    runs += sign != last;
    last = sign;
  }
  if (plus < 2 || minus < 2) return check;
  check.statistic = runs;
  check.p = runs_at_most(runs, plus, minus);
  check.sentence = fmt::format("The signs of the residuals come in {} runs ({} positive, {} negative), {}.", runs, plus,
                               minus, check.p < noticeable ? "too few for chance" : chance(check.p));
  if (check.p < noticeable) check.advice = "the curve misses a trend: try another term or another shape";
  return check;
}

Check normality_check(const Fit& fit) {
  Check check{.name = "normality"};
  VectorXd z = finite_part(row_measures(fit).standardized);
  const Index n = z.size();
  if (n < 8) return check;  // the p-value's formula holds from here
  const double mean = z.mean();
  const double sd = std::sqrt((z.array() - mean).square().sum() / static_cast<double>(n - 1));
  if (!(sd > 0)) return check;
  std::sort(z.begin(), z.end());
  double sum = 0;
  for (Index i = 0; i < n; ++i) {
    const double low = (z[i] - mean) / sd;
    const double high = (z[n - 1 - i] - mean) / sd;
    sum += static_cast<double>(2 * i + 1) * (std::log(normal_probability(low)) + std::log(normal_probability(-high)));
  }
  check.statistic = -static_cast<double>(n) - sum / static_cast<double>(n);
  check.p = std::clamp(anderson_darling_p(check.statistic, static_cast<double>(n)), 0.0, 1.0);
  check.sentence = check.p < noticeable ? "The residuals are not normal." : "The residuals look normal.";
  if (check.p < noticeable)
    check.advice =
        "look for outlying rows or a spread that changes; with many rows the estimates hardly mind, prediction bands "
        "do";
  return check;
}

Check serial_check(const Fit& fit) {
  Check check{.name = "serial correlation"};
  if (fit.degrees_of_freedom() < 4) return check;
  const VectorXd e = fit.residuals().cwiseProduct(weight_roots(fit));
  const std::vector<Index> order = along_first_predictor(fit);
  VectorXd lagged = VectorXd::Zero(e.size());
  for (std::size_t i = 1; i < order.size(); ++i) lagged[order[i]] = e[order[i - 1]];
  const VectorXd rest = beyond_the_model(fit, lagged);
  const double product = rest.squaredNorm() * e.squaredNorm();
  if (!(product > 0)) return check;
  const double slope = rest.dot(e);
  check.statistic = static_cast<double>(fit.size()) * slope * slope / product;
  check.p = chi_squared_upper(check.statistic, 1);
  check.sentence = check.p < noticeable ? fmt::format("Each residual {} the one before it, {}.",
                                                      slope > 0 ? "resembles" : "opposes", chance(check.p))
                                        : "Neighbouring residuals are independent as far as can be seen.";
  if (check.p < noticeable)
    check.advice = slope > 0 ? "the curve misses a trend, or the instrument drifts: the uncertainties are too small"
                             : "the rows alternate: look how they were measured";
  return check;
}

Check outlier_check(const Fit& fit) {
  Check check{.name = "outlier"};
  const VectorXd t = row_measures(fit).studentized;
  const bool stated = fit.estimate().basis() == UncertaintyBasis::stated;
  Index at = -1;
  for (Index i = 0; i < t.size(); ++i) {
    if (std::isfinite(t[i]) && (at < 0 || std::abs(t[i]) > std::abs(t[at]))) at = i;
  }
  if (at < 0 || (!stated && fit.degrees_of_freedom() < 2)) return check;
  check.row = fit.observations().source_rows()[static_cast<std::size_t>(at)];
  check.statistic = t[at];
  check.p = std::min(1.0, static_cast<double>(fit.size()) *
                              student_t_two_sided(t[at], stated ? infinity : fit.degrees_of_freedom() - 1));
  check.sentence = fmt::format("Row {} lies farthest out ({:.1f} of its standard deviations), {}.", check.row,
                               std::abs(t[at]), chance(check.p));
  if (check.p < noticeable)
    check.advice = fmt::format("look at row {}: a slip of the pen is corrected, a real value stays", check.row);
  return check;
}

Check curvature_check(const Fit& fit) {
  Check check{.name = "curvature"};
  if (fit.degrees_of_freedom() < 2 || fit.observations().predictors().empty()) return check;
  const VectorXd& x = fit.observations().predictor(0);
  const VectorXd roots = weight_roots(fit);
  const double half = std::max((x.array() - x.mean()).abs().maxCoeff(), std::numeric_limits<double>::min());
  const VectorXd column = ((x.array() - x.mean()) / half).square().matrix().cwiseProduct(roots);
  const VectorXd rest = beyond_the_model(fit, column);
  if (rest.norm() <= held_already * column.norm()) return check;
  const VectorXd e = fit.residuals().cwiseProduct(roots);
  const double explained = rest.dot(e) * rest.dot(e) / rest.squaredNorm();
  const double dof = fit.degrees_of_freedom() - 1;
  const double left = fit.chi_squared() - explained;
  const bool stated = fit.estimate().basis() == UncertaintyBasis::stated;
  if (!stated && !(left > 0)) return check;
  check.statistic = std::copysign(std::sqrt(explained / (stated ? 1 : left / dof)), rest.dot(e));
  check.p = student_t_two_sided(check.statistic, stated ? infinity : dof);
  const std::string& name = fit.observations().predictors()[0].name;
  check.sentence = check.p < noticeable
                       ? fmt::format("The residuals bend {} along {}, {}.",
                                     check.statistic > 0 ? "upwards" : "downwards", name, chance(check.p))
                       : fmt::format("No curvature along {} is left over.", name);
  if (check.p < noticeable) check.advice = fmt::format("add a term in {}^2, or choose a shape that bends", name);
  return check;
}

std::vector<Check> residual_checks(const Fit& fit) {
  std::vector<Check> made;
  for (const auto check : every_check) {
    Check outcome = check(fit);
    if (!std::isnan(outcome.p)) made.push_back(std::move(outcome));
  }
  return made;
}

}  // namespace truecurve
