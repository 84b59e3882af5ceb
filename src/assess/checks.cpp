// p-values of the residual checks, one by one and together.
#include <truecurve/assess/checks.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/random.hpp>

#include "../base/matrices.hpp"
#include "../fit/remembered.hpp"
#include "check_words.hpp"
#include "residual_design.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numeric>
#include <utility>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::put_into_words;
using detail::ResidualDesign;
using Eigen::Index;

// Draws: so many at first, and so many in all where they leave open whether a check is significant; none beyond the
// rows from which the limits for large n hold (their sizes stand in docs/methods.md). Those of rounded readings and of
// counts do not hold there: as many draws are made of them as cost no more, if these are enough.
constexpr int draws_at_first = 999;
constexpr int draws_in_all = 4999;
constexpr double open_below = 0.12;  // of a family's smallest p
constexpr Index most_simulated_rows = 1000;
constexpr Index most_drawn = 5'000'000;
constexpr Index fewest_draws = 199;
constexpr std::uint64_t seed_of_checks = 20250101;

// Whether small and large values of a statistic both speak, of a distribution that need not be symmetric.
bool is_two_sided(CheckKind kind) {
  return kind == CheckKind::runs || kind == CheckKind::serial_correlation || kind == CheckKind::chi_squared;
}

// Whether the statistics of all rows are simulated.
bool is_simulated(const ResidualDesign& design) {
  const bool is_needed = design.is_rounded() || design.is_counted();
  return design.rows() <= most_simulated_rows || (is_needed && design.rows() * fewest_draws <= most_drawn);
}

// The checks that are made. Of many rounded readings those are not whose distributions would have to be simulated:
// signs, sizes and shape of rounded residuals are those of the steps.
std::vector<CheckKind> kinds_made(const ResidualDesign& design) {
  // Of rounding in the mean square: beyond, neighbours share the error of a step.
  constexpr double largest_share = 0.25;
  std::vector<CheckKind> kinds = design.possible();
  if (!design.is_rounded() || is_simulated(design)) return kinds;
  const double mean_square = design.residuals().squaredNorm() / design.degrees_of_freedom();
  const bool is_coarse = design.rounding() > largest_share * mean_square;
  std::erase_if(kinds, [is_coarse](CheckKind kind) {
    return kind == CheckKind::equal_variance || kind == CheckKind::runs || kind == CheckKind::normality ||
           (kind == CheckKind::serial_correlation && is_coarse);
  });
  return kinds;
}

double log_choose(double n, double k) {
  return k < 0 || k > n ? -infinity : std::lgamma(n + 1) - std::lgamma(k + 1) - std::lgamma(n - k + 1);
}

// Probability of exactly `runs` runs among `plus` and `minus` signs in random order; Wald and Wolfowitz (1940).
double runs_probability(int runs, int plus, int minus) {
  const double all = log_choose(plus + minus, plus);
  const int half = runs / 2;
  const auto part = [&](int of_plus, int of_minus) {
    return std::exp(log_choose(plus - 1, of_plus - 1) + log_choose(minus - 1, of_minus - 1) - all);
  };
  return runs % 2 == 0 ? 2 * part(half, half) : part(half + 1, half) + part(half, half + 1);
}

// Twice the smaller tail.
double runs_p(const ResidualDesign::Signs& signs) {
  double below = 0;
  double above = 0;
  for (int r = 2; r <= signs.positive + signs.negative; ++r) {
    const double share = runs_probability(r, signs.positive, signs.negative);
    if (r <= signs.runs) below += share;
    if (r >= signs.runs) above += share;
  }
  return std::min(1.0, 2 * std::min(below, above));
}

// Stephens, in D'Agostino and Stephens (1986), Goodness-of-Fit Techniques, table 4.9, for statistics up to 10: beyond,
// the last of its curves turns, and p stays that of 10.
double anderson_darling_p(double statistic, double n) {
  constexpr double last = 10;
  const double a = std::min(last, statistic * (1 + 0.75 / n + 2.25 / (n * n)));
  if (a >= 0.6) return std::exp(1.2937 - 5.709 * a + 0.0186 * a * a);
  if (a >= 0.34) return std::exp(0.9177 - 4.279 * a - 1.38 * a * a);
  if (a >= 0.2) return 1 - std::exp(-8.318 + 42.796 * a - 59.938 * a * a);
  return 1 - std::exp(-13.436 + 101.14 * a - 223.73 * a * a);
}

// Bonferroni's bound on the largest of n studentized residuals, from the largest standardized one; Cook and Weisberg
// (1982), 2.2.2.
double outlier_bound(double standardized, const ResidualDesign& design, const Fit& fit) {
  const double dof = fit.degrees_of_freedom();
  const auto n = static_cast<double>(fit.size());
  if (fit.estimate().has_known_scale()) return std::min(1.0, n * student_t_two_sided(standardized, infinity));
  // The scatter of the others, at least that of their rounding, in the scale of all.
  const double rest =
      std::max(dof - standardized * standardized, (dof - 1) * design.rounding() * dof / fit.chi_squared());
  if (!(rest > 0)) return 0;
  return std::min(1.0, n * student_t_two_sided(standardized * std::sqrt((dof - 1) / rest), dof - 1));
}

// The p-value from a distribution that is known; NaN where it is simulated.
double known_p(CheckKind kind, double statistic, const ResidualDesign& design, const Fit& fit) {
  switch (kind) {
    case CheckKind::curvature:
    case CheckKind::origin:
    case CheckKind::lower_power:
    case CheckKind::drift:
      return student_t_two_sided(statistic,
                                 fit.estimate().has_known_scale() ? infinity : design.degrees_of_freedom() - 1);
    case CheckKind::lack_of_fit:
      return std::isnan(statistic) ? not_a_number
                                   : f_upper(statistic, design.lack_of_fit_degrees(), design.pure_error_degrees());
    case CheckKind::chi_squared: {
      const double upper = chi_squared_upper(statistic, design.degrees_of_freedom());
      return 2 * std::min(upper, 1 - upper);
    }
    default: return not_a_number;
  }
}

// The limits for large n.
double limit_p(CheckKind kind, double statistic, const ResidualDesign& design, const Fit& fit) {
  const auto n = static_cast<double>(design.rows());
  switch (kind) {
    case CheckKind::equal_variance: return student_t_two_sided(statistic * std::sqrt(n), infinity);
    case CheckKind::runs: return runs_p(design.signs(design.residuals()));
    case CheckKind::serial_correlation:
      return student_t_two_sided(statistic * std::sqrt(static_cast<double>(design.places())), infinity);
    case CheckKind::normality: return anderson_darling_p(statistic, n);
    case CheckKind::outlier: {
      if (!design.is_rounded()) return outlier_bound(statistic, design, fit);
      const double beyond = design.beyond_rounding(design.farthest(design.residuals()));
      return std::min(1.0, n * student_t_two_sided(beyond, infinity));
    }
    default: return known_p(kind, statistic, design, fit);
  }
}

// Statistics of simulated residuals, one row for each draw and one column for each check.
class CleanFits {
 public:
  using Draw = std::function<VectorXd(RandomNumbers&)>;
  CleanFits(std::size_t checks, Draw draw) : checks_(static_cast<Index>(checks)), draw_(std::move(draw)) {}

  const MatrixXd& extended_to(Index draws) {
    const Index before = statistics_.rows();
    statistics_.conservativeResize(draws, checks_);
    for (Index draw = before; draw < draws; ++draw) statistics_.row(draw) = draw_(random_);
    return statistics_;
  }

 private:
  Index checks_;
  Draw draw_;
  RandomNumbers random_{seed_of_checks};
  MatrixXd statistics_;
};

// The p-values of one check: of each draw, and last of the observed statistic, each among all of them, so that chance
// gives each value as often as it says.
VectorXd ranks_of(CheckKind kind, double observed, const VectorXd& drawn) {
  struct Value {
    double value;
    Index place;
  };
  // How extreme: the size of a statistic that is symmetric about zero or grows with the departure.
  const bool two_sided = is_two_sided(kind);
  const auto extremity = [two_sided](double value) { return two_sided ? value : std::abs(value); };
  std::vector<Value> sorted{{extremity(observed), drawn.size()}};
  for (Index i = 0; i < drawn.size(); ++i) sorted.push_back({extremity(drawn[i]), i});
  std::sort(sorted.begin(), sorted.end(), [](const Value& a, const Value& b) { return a.value < b.value; });
  VectorXd ranks(drawn.size() + 1);
  const auto all = static_cast<double>(ranks.size());
  // From the smallest on both ends only rise.
  auto first_as_large = sorted.begin();
  auto end_of_as_small = sorted.begin();
  for (const Value& each : sorted) {
    // What differs by rounding only is equal: counts of runs are, and their ties matter.
    const double slack = 1e-12 * std::abs(each.value);
    while (first_as_large->value < each.value - slack) ++first_as_large;
    while (end_of_as_small != sorted.end() && end_of_as_small->value <= each.value + slack) ++end_of_as_small;
    const auto at_least = static_cast<double>(sorted.end() - first_as_large);
    const auto at_most = static_cast<double>(end_of_as_small - sorted.begin());
    ranks[each.place] = (two_sided ? std::min(all, 2 * std::min(at_least, at_most)) : at_least) / all;
  }
  return ranks;
}

double observed_of(const VectorXd& ranks) { return ranks[ranks.size() - 1]; }

// Westfall and Young (1993), algorithm 2.8: each p against the smallest of its own and all larger ones' in every draw.
std::vector<double> family_by_draws(const std::vector<VectorXd>& ranks) {
  std::vector<std::size_t> order(ranks.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return observed_of(ranks[a]) < observed_of(ranks[b]); });
  std::vector<double> family(ranks.size(), 1);
  VectorXd smallest = VectorXd::Ones(ranks.front().size());
  std::vector<double> shares(ranks.size(), 1);
  for (std::size_t step = order.size(); step-- > 0;) {
    smallest = smallest.cwiseMin(ranks[order[step]]);
    const Index as_small = (smallest.array() <= observed_of(ranks[order[step]])).count();
    shares[step] = static_cast<double>(as_small) / static_cast<double>(smallest.size());
  }
  double so_far = 0;
  for (std::size_t step = 0; step < order.size(); ++step) {
    so_far = std::max(so_far, shares[step]);
    family[order[step]] = so_far;
  }
  return family;
}

// Holm (1979), Scand. J. Stat. 6, 65.
std::vector<double> family_by_holm(const std::vector<double>& p) {
  std::vector<std::size_t> order(p.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return p[a] < p[b]; });
  std::vector<double> family(p.size(), 1);
  double so_far = 0;
  for (std::size_t step = 0; step < order.size(); ++step) {
    so_far = std::max(so_far, std::min(1.0, p[order[step]] * static_cast<double>(p.size() - step)));
    family[order[step]] = so_far;
  }
  return family;
}

void judge_by_draws(std::vector<Check>& checks, const std::vector<CheckKind>& kinds, const ResidualDesign& design,
                    const Fit& fit) {
  CleanFits simulation(kinds.size(),
                       [&](RandomNumbers& random) { return design.statistics(kinds, design.simulated(random)); });
  const Index affordable = most_drawn / design.rows();
  std::vector<VectorXd> ranks;
  std::vector<double> family;
  for (const Index draws : {draws_at_first, draws_in_all}) {
    const MatrixXd& drawn = simulation.extended_to(std::min(draws, affordable));
    ranks.clear();
    for (std::size_t k = 0; k < checks.size(); ++k)
      ranks.push_back(ranks_of(kinds[k], checks[k].statistic, drawn.col(static_cast<Index>(k))));
    family = family_by_draws(ranks);
    if (*std::min_element(family.begin(), family.end()) > open_below) break;
  }
  for (std::size_t k = 0; k < checks.size(); ++k) {
    Check& check = checks[k];
    check.family_p = family[k];
    if (std::isnan(check.p)) check.p = observed_of(ranks[k]);
    // Beyond what the draws can resolve, the bound says more.
    if (check.kind == CheckKind::outlier && !design.is_rounded() && !design.is_counted())
      check.p = std::min(check.p, outlier_bound(check.statistic, design, fit));
  }
}

// Of many rows at few places.
double p_along(const Check& check, const ResidualDesign& design) {
  CleanFits simulation(1, [&](RandomNumbers& random) -> VectorXd {
    return VectorXd::Constant(1, design.drawn_along(check.kind, random));
  });
  double p = 1;
  for (const Index draws : {draws_at_first, draws_in_all}) {
    p = observed_of(ranks_of(check.kind, check.statistic, simulation.extended_to(draws).col(0)));
    if (p > open_below) break;
  }
  return p;
}

void judge_by_limits(std::vector<Check>& checks, const ResidualDesign& design, const Fit& fit) {
  const bool has_few_places = design.places() <= most_simulated_rows;
  std::vector<double> p;
  for (Check& check : checks) {
    const bool is_along = check.kind == CheckKind::runs || check.kind == CheckKind::serial_correlation;
    check.p = is_along && has_few_places ? p_along(check, design) : limit_p(check.kind, check.statistic, design, fit);
    p.push_back(check.p);
  }
  const std::vector<double> family = family_by_holm(p);
  for (std::size_t k = 0; k < checks.size(); ++k) checks[k].family_p = family[k];
}

std::vector<Check> made(const Fit& fit, const ResidualDesign& design, const std::vector<CheckKind>& kinds) {
  std::vector<Check> checks;
  if (kinds.empty()) return checks;
  const VectorXd& residuals = design.residuals();
  const VectorXd statistics = design.statistics(kinds, residuals);
  for (std::size_t k = 0; k < kinds.size(); ++k) {
    Check check{.kind = kinds[k], .statistic = statistics[static_cast<Index>(k)]};
    if (check.kind == CheckKind::outlier)
      check.row = fit.observations().source_rows()[static_cast<std::size_t>(design.farthest(residuals))];
    const bool is_normal = !design.is_counted() && !(design.is_rounded() && is_simulated(design));
    check.p = is_normal ? known_p(check.kind, check.statistic, design, fit) : not_a_number;
    checks.push_back(std::move(check));
  }
  if (is_simulated(design)) {
    judge_by_draws(checks, kinds, design, fit);
  } else {
    judge_by_limits(checks, design, fit);
  }
  for (Check& check : checks) put_into_words(check, checks.size(), design, fit);
  return checks;
}

}  // namespace

// Of a separated response the numbers about the curve do not scatter; beyond the simulated rows the limits are those of
// normal errors.
static bool can_be_checked(const Fit& fit) {
  return !fit.is_counted() || (!fit.estimate().open_end() && fit.solver().converged &&
                               static_cast<Index>(fit.size()) * fewest_draws <= most_drawn);
}

std::string_view name(CheckKind kind) noexcept {
  switch (kind) {
    case CheckKind::equal_variance: return "equal variance";
    case CheckKind::curvature: return "curvature";
    case CheckKind::origin: return "origin";
    case CheckKind::lower_power: return "lower power";
    case CheckKind::runs: return "runs";
    case CheckKind::serial_correlation: return "serial correlation";
    case CheckKind::drift: return "drift";
    case CheckKind::normality: return "normality";
    case CheckKind::outlier: return "outlier";
    case CheckKind::lack_of_fit: return "lack of fit";
    case CheckKind::chi_squared: return "chi-squared";
  }
  return "";
}

std::vector<Check> residual_checks(const Fit& fit) {
  return detail::remembered<std::vector<Check>>(fit, [&fit]() -> std::vector<Check> {
    if (!can_be_checked(fit)) return {};
    const ResidualDesign design(fit);
    return made(fit, design, kinds_made(design));
  });
}

Check check(const Fit& fit, CheckKind kind) {
  if (!can_be_checked(fit)) return {.kind = kind};
  const ResidualDesign design(fit);
  const std::vector<CheckKind> possible = kinds_made(design);
  if (std::find(possible.begin(), possible.end(), kind) == possible.end()) return {.kind = kind};
  return made(fit, design, {kind}).front();
}

}  // namespace truecurve
