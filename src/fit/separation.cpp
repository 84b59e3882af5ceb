// Sorted along one predictor; in several by the projection onto the cone of separating directions.
#include "separation.hpp"

#include <truecurve/fit/separation.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"

#include <algorithm>
#include <cmath>

#include <Eigen/Core>
#include <fmt/format.h>

namespace truecurve {

using Eigen::Index;

std::optional<OutcomeSeparation> separation_along(const Observations& observations) {
  if (observations.observation_model().kind() != ResponseKind::events || observations.predictors().size() != 1)
    return {};
  const auto x = as_eigen(observations.predictor(0));
  const auto y = as_eigen(observations.responses());
  // Of the rows with at least one event, and of those with at least one trial without.
  double first_event = infinity;
  double last_event = -infinity;
  double first_none = infinity;
  double last_none = -infinity;
  for (Index i = 0; i < y.size(); ++i) {
    if (y[i] > 0) {
      first_event = std::min(first_event, x[i]);
      last_event = std::max(last_event, x[i]);
    }
    if (y[i] < 1) {
      first_none = std::min(first_none, x[i]);
      last_none = std::max(last_none, x[i]);
    }
  }
  if (std::isinf(first_event) || std::isinf(first_none)) return {};
  if (first_none == last_event && first_event == last_none) return {};  // one place for all
  const std::string& name = observations.predictors()[0].name;
  if (last_none <= first_event) return OutcomeSeparation{last_none < first_event, true, last_none, first_event, name};
  if (last_event <= first_none) return OutcomeSeparation{last_event < first_none, false, last_event, first_none, name};
  return {};
}

std::string separation_text(const OutcomeSeparation& s, const std::string& response) {
  const std::string none = fmt::format("no event of '{}'", response);
  const std::string first = s.events_above ? none : fmt::format("only events of '{}'", response);
  const std::string last = s.events_above ? "only events" : "none";
  if (!s.complete) {
    return fmt::format(
        "The outcomes are separated but for {} = {}, where both occur: {} below it, {} above. The share changes there, "
        "and these data set no upper limit to the steepness.",
        s.predictor, shortest(s.below), first, last);
  }
  return fmt::format(
      "The outcomes are separated: {} up to {} = {}, {} from {} on. The middle lies between, and since any step there "
      "describes these data without an error, they set no upper limit to the steepness.",
      first, s.predictor, shortest(s.below), last, shortest(s.above));
}

namespace detail {
namespace {

// min |a*lambda + c| over lambda >= 0; returns a*lambda + c. The columns of `a` are few in rows, many in number.
// Lawson and Hanson (1974) Solving Least Squares Problems, chapter 23.
VectorXd rest_of_nonnegative_fit(const MatrixXd& a, const VectorXd& c) {
  constexpr double tolerance = 1e-12;
  const Index rounds = 10 * a.rows() + 100;
  std::vector<Index> active;
  VectorXd lambda = VectorXd::Zero(a.cols());
  VectorXd rest = c;
  for (Index round = 0; round < rounds; ++round) {
    const VectorXd descent = -(a.transpose() * rest);
    Index best = -1;
    double most = tolerance * c.norm();
    for (Index i = 0; i < descent.size(); ++i) {
      if (lambda[i] == 0 && descent[i] > most && std::find(active.begin(), active.end(), i) == active.end()) {
        best = i;
        most = descent[i];
      }
    }
    if (best < 0) break;
    active.push_back(best);
    while (!active.empty()) {
      const MatrixXd columns = a(Eigen::all, active);
      const VectorXd wanted = detail::least_squares(columns, -c);
      double share = 1;
      for (std::size_t k = 0; k < active.size(); ++k) {
        const double now = lambda[active[k]];
        const double then = wanted[static_cast<Index>(k)];
        if (then <= 0) share = std::min(share, now > 0 ? now / (now - then) : 0.0);
      }
      for (std::size_t k = 0; k < active.size(); ++k)
        lambda[active[k]] += share * (wanted[static_cast<Index>(k)] - lambda[active[k]]);
      if (share == 1) break;
      std::erase_if(active, [&](Index i) {
        if (lambda[i] > tolerance) return false;
        lambda[i] = 0;
        return true;
      });
    }
    rest = c + a * lambda;
  }
  return rest;
}

}  // namespace

std::optional<VectorXd> separating_direction(const MatrixXd& columns, const Observations& observations) {
  constexpr double least = 1e-8;
  const auto y = as_eigen(observations.responses());
  const ResponseKernel& kernel = observations.observation_model().kernel();
  const Index p = columns.cols();
  VectorXd scale(p);
  for (Index j = 0; j < p; ++j) scale[j] = std::max(columns.col(j).cwiseAbs().maxCoeff(), 1e-300);
  const MatrixXd x = columns * scale.cwiseInverse().asDiagonal();
  std::vector<Index> pure;
  MatrixXd between = MatrixXd::Zero(p, p);  // of the rows that lie at neither end: sum of x xᵀ
  for (Index i = 0; i < y.size(); ++i) {
    if (y[i] <= kernel.lowest_mean() || y[i] >= kernel.highest_mean()) {
      pure.push_back(i);
    } else {
      between += x.row(i).transpose() * x.row(i);
    }
  }
  if (pure.empty()) return {};
  // Directions in which none of those between changes.
  const detail::SymmetricEigen eigen = detail::symmetric_eigen(between);
  const double largest = std::max(eigen.values.maxCoeff(), 0.0);
  Index free = 0;
  while (free < p && eigen.values[free] <= 1e-14 * largest) ++free;
  if (largest == 0) free = p;
  if (free == 0) return {};
  const MatrixXd base = eigen.vectors.leftCols(free);
  MatrixXd a(free, static_cast<Index>(pure.size()));
  for (std::size_t k = 0; k < pure.size(); ++k) {
    const double sign = y[pure[k]] >= kernel.highest_mean() ? 1 : -1;
    a.col(static_cast<Index>(k)) = sign * (base.transpose() * x.row(pure[k]).transpose());
  }
  // Moreau (1962): the projection of the sum onto the cone {d: aᵀd >= 0} is the sum plus a*lambda; it is 0 where the
  // cone holds nothing that any row sees.
  const VectorXd sum = a.rowwise().sum();
  if (!(sum.norm() > 0)) return {};
  const VectorXd d = rest_of_nonnegative_fit(a, sum);
  if (!(d.norm() > least * sum.norm())) return {};
  if ((a.transpose() * d).minCoeff() < -1e-6 * d.norm()) return {};
  return VectorXd((base * d).cwiseQuotient(scale));
}

}  // namespace detail
}  // namespace truecurve
