// Forward selection of terms with exchange.
#include "like_terms.hpp"

#include "../base/halton.hpp"
#include "../base/matrices.hpp"
#include "search.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>
#include <vector>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr int points_for_one = 120;  // tried for a term with one parameter to be sought
constexpr int points_for_more = 500;
constexpr std::size_t descended = 4;  // of the tried points
constexpr int evaluations_alone = 40;
constexpr int evaluations_together = 150;
constexpr double gain = 1e-6;  // relative: a smaller one is no better place
constexpr int most_exchanges = 6;

class Builder {
 public:
  Builder(const BoundModel& bound, const Observations& observations, std::size_t stride, const SmallVector& given,
          const Box& box, SearchWatch& watch)
      : bound_(bound), observations_(observations), stride_(stride), box_(box), watch_(watch), theta_(given) {
    std::set<int> in_groups;
    for (const TermGroup& group : bound.groups) in_groups.insert(group.separable.begin(), group.separable.end());
    for (const int j : bound.separable) {
      theta_[j] = 0;
      if (!in_groups.contains(j)) always_.push_back(j);
    }
    Curve whole(bound, observations, roles_of(bound), stride, &watch);
    scales_ = scales_of(whole);
    for (const TermGroup& group : bound.groups) {
      for (const int j : group.entangled) theta_[j] = neutral(j);
    }
  }

  std::optional<SmallVector> built() {
    std::vector<std::size_t> left(bound_.groups.size());
    std::iota(left.begin(), left.end(), std::size_t{0});
    while (!left.empty()) {
      if (watch_.is_over()) return std::nullopt;
      // Of terms that are alike any is as good as the others.
      Trial best;
      std::size_t chosen = 0;
      std::set<int> tried;
      for (std::size_t k = 0; k < left.size(); ++k) {
        if (!tried.insert(bound_.groups[left[k]].family).second) continue;
        const Trial trial = with_term(theta_, left[k]);
        if (!(trial.chi_squared < best.chi_squared)) continue;
        best = trial;
        chosen = k;
      }
      if (!std::isfinite(best.chi_squared)) return std::nullopt;
      active_.push_back(left[chosen]);
      left.erase(left.begin() + static_cast<std::ptrdiff_t>(chosen));
      take(together(best.theta));
    }
    for (int round = 0; round < most_exchanges && !watch_.is_over() && exchanged(); ++round) {
    }
    return theta_;
  }

 private:
  struct Trial {
    SmallVector theta;
    double chi_squared = infinity;
  };

  [[nodiscard]] double neutral(int parameter) const {
    const double value = candidate_value(bound_, parameter, 0.25, 0.5, scales_);
    return std::clamp(value, box_.low[parameter], box_.high[parameter]);
  }

  // All linear parameters of the active terms are solved for; those of `stepped` terms move.
  [[nodiscard]] Roles roles(const std::vector<std::size_t>& solved, const std::vector<std::size_t>& stepped) const {
    Roles roles{always_, {}};
    for (const std::size_t g : solved)
      roles.separable.insert(roles.separable.end(), bound_.groups[g].separable.begin(),
                             bound_.groups[g].separable.end());
    for (const std::size_t g : stepped)
      roles.entangled.insert(roles.entangled.end(), bound_.groups[g].entangled.begin(),
                             bound_.groups[g].entangled.end());
    std::sort(roles.separable.begin(), roles.separable.end());
    return roles;
  }

  // The best place for one term more, the others staying where they are.
  Trial with_term(const SmallVector& from, std::size_t group) {
    std::vector<std::size_t> solved = active_;
    if (std::find(solved.begin(), solved.end(), group) == solved.end()) solved.push_back(group);
    const std::vector<int>& sought = bound_.groups[group].entangled;
    Curve curve(bound_, observations_, roles(solved, {group}), stride_, &watch_);
    std::vector<Trial> trials;
    const int points = sought.size() == 1 ? points_for_one : points_for_more;
    constexpr int bases[] = {2, 3, 5, 7, 11, 13};
    for (int point = 1; point <= points; ++point) {
      SmallVector theta = from;
      for (std::size_t k = 0; k < sought.size(); ++k) {
        const double place = radical_inverse(point, bases[k % std::size(bases)]);
        theta[sought[k]] = candidate_value(bound_, sought[k], 0.25, place, scales_);
      }
      theta = box_.clamped(theta);
      const double chi = curve.project(theta);
      if (std::isfinite(chi)) trials.push_back({theta, chi});
    }
    std::stable_sort(trials.begin(), trials.end(),
                     [](const Trial& a, const Trial& b) { return a.chi_squared < b.chi_squared; });
    Trial best;
    for (std::size_t i = 0; i < std::min(descended, trials.size()); ++i) {
      const Descent descent = descend(curve, trials[i].theta, box_, evaluations_alone);
      if (descent.chi_squared < best.chi_squared) best = {descent.theta, descent.chi_squared};
    }
    return best;
  }

  Trial together(const SmallVector& from) {
    Curve curve(bound_, observations_, roles(active_, active_), stride_, &watch_);
    const Descent descent = descend(curve, from, box_, evaluations_together);
    return {descent.theta, descent.chi_squared};
  }

  void take(const Trial& trial) {
    theta_ = trial.theta;
    chi_squared_ = trial.chi_squared;
  }

  // Puts each term where it does most beside the others; whether that gained anything.
  bool exchanged() {
    bool gained = false;
    for (const std::size_t group : active_) {
      SmallVector without = theta_;
      for (const int j : bound_.groups[group].separable) without[j] = 0;
      const Trial again = with_term(without, group);
      if (!std::isfinite(again.chi_squared)) continue;
      const Trial better = together(again.theta);
      if (!(better.chi_squared < chi_squared_ * (1 - gain))) continue;
      take(better);
      gained = true;
    }
    return gained;
  }

  const BoundModel& bound_;
  const Observations& observations_;
  std::size_t stride_;
  const Box& box_;
  SearchWatch& watch_;
  Scales scales_;
  SmallVector theta_;
  double chi_squared_ = infinity;
  std::vector<int> always_;          // linear parameters of no such term
  std::vector<std::size_t> active_;  // groups that are in the sum
};

}  // namespace

std::optional<SmallVector> built_up(const BoundModel& bound, const Observations& observations, std::size_t stride,
                                    const SmallVector& given, const Box& box, SearchWatch& watch) {
  const bool is_sum = bound.groups.size() >= 2 && !bound.function &&
                      std::all_of(bound.groups.begin(), bound.groups.end(), [&](const TermGroup& group) {
                        const bool sought = std::all_of(group.entangled.begin(), group.entangled.end(),
                                                        [&given](int j) { return std::isnan(given[j]); });
                        return sought && group.can_vanish && !group.separable.empty();
                      });
  if (!is_sum) return std::nullopt;
  try {
    return Builder(bound, observations, stride, given, box, watch).built();
  } catch (const SearchEnded&) {
    return std::nullopt;
  }
}

}  // namespace truecurve::detail
