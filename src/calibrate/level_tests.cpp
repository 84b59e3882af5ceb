// Tests of the levels against one another, with the readings rounded as they are.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/calibrate/levels.hpp>
#include <truecurve/data/resolution.hpp>

#include "../base/names.hpp"
#include "squares.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace truecurve {
namespace {

using detail::Squares;
using detail::squares_of;

constexpr int simulated_tables = 1999;
constexpr double straggler = 0.05;
constexpr double outlier = 0.01;
// Rounding to less than this share of the scatter changes no test by as much as can be seen.
constexpr double fine = 0.1;
// Statistics of rounded readings are equal but for the rounding of doubles.
constexpr double as_good_as_equal = 1e-9;

using Groups = std::vector<std::vector<double>>;

double median_of(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  const std::size_t half = values.size() / 2;
  return values.size() % 2 == 1 ? values[half] : (values[half - 1] + values[half]) / 2;
}

double median_distance_ratio(const Groups& groups) {
  double count = 0;
  double total = 0;
  std::vector<Squares> spreads;
  for (const std::vector<double>& group : groups) {
    // Two readings lie equally far from their median, whatever their scatter.
    if (group.size() < 3) continue;
    const double median = median_of(group);
    std::vector<double> distances;
    for (const double y : group) distances.push_back(std::abs(y - median));
    spreads.push_back(squares_of(distances));
    total += std::accumulate(distances.begin(), distances.end(), 0.0);
    count += static_cast<double>(group.size());
  }
  if (spreads.size() < 2) return not_a_number;
  double between = 0;
  double within = 0;
  for (const Squares& s : spreads) {
    between += (s.degrees + 1) * (s.mean - total / count) * (s.mean - total / count);
    within += s.squares;
  }
  const double first = static_cast<double>(spreads.size()) - 1;
  const double second = count - static_cast<double>(spreads.size());
  return within > 0 ? between / first / (within / second) : not_a_number;
}

// Pooled variance of some levels.
double pooled_variance(std::span<const Squares> spreads) {
  double squares = 0;
  double degrees = 0;
  for (const Squares& s : spreads) {
    squares += s.squares;
    degrees += s.degrees;
  }
  return squares / degrees;
}

double degrees_of(std::span<const Squares> spreads) {
  double degrees = 0;
  for (const Squares& s : spreads) degrees += s.degrees;
  return degrees;
}

std::size_t third_of(std::size_t levels) { return std::max<std::size_t>(1, levels / 3); }

struct Statistics {
  std::vector<double> grubbs;  // one a level, NaN for fewer than three readings or none that differ
  double cochran = not_a_number;
  double median_distances = not_a_number;
  double high_to_low = not_a_number;
};

Statistics statistics_of(const Groups& groups) {
  Statistics result;
  std::vector<Squares> spreads;
  double sum = 0;
  double largest = 0;
  for (const std::vector<double>& group : groups) {
    spreads.push_back(squares_of(group));
    const Squares& s = spreads.back();
    sum += s.variance();
    largest = std::max(largest, s.variance());
    double farthest = 0;
    for (const double y : group) farthest = std::max(farthest, std::abs(y - s.mean));
    result.grubbs.push_back(group.size() > 2 && s.squares > 0 ? farthest / std::sqrt(s.variance()) : not_a_number);
  }
  if (sum > 0 && groups.size() > 1) {
    result.cochran = largest / sum;
    const std::size_t third = third_of(groups.size());
    const double low = pooled_variance(std::span(spreads).first(third));
    const double high = pooled_variance(std::span(spreads).last(third));
    if (low > 0 || high > 0) result.high_to_low = low > 0 ? high / low : infinity;
  }
  result.median_distances = median_distance_ratio(groups);
  return result;
}

// Simulated values of one statistic; NaN counts as the least of all.
class Simulated {
 public:
  void add(double value) { values_.push_back(std::isnan(value) ? -infinity : value); }
  void sort() {
    sorted_ = values_;
    std::sort(sorted_.begin(), sorted_.end());
  }
  /// Share at or above a value, the value itself counted.
  [[nodiscard]] double above(double value) const {
    const double least = value - as_good_as_equal * std::abs(value);
    const auto at = std::lower_bound(sorted_.begin(), sorted_.end(), least);
    return share(static_cast<std::size_t>(sorted_.end() - at));
  }
  [[nodiscard]] double below(double value) const {
    const double most = value + as_good_as_equal * std::abs(value);
    const auto at = std::upper_bound(sorted_.begin(), sorted_.end(), most);
    return share(static_cast<std::size_t>(at - sorted_.begin()));
  }
  [[nodiscard]] double two_sided(double value) const { return std::min(1.0, 2 * std::min(above(value), below(value))); }
  [[nodiscard]] double value(std::size_t draw) const { return values_[draw]; }

 private:
  [[nodiscard]] double share(std::size_t count) const {
    return (1 + static_cast<double>(count)) / (1 + static_cast<double>(values_.size()));
  }
  std::vector<double> values_;
  std::vector<double> sorted_;
};

// What equal normal scatter, rounded as the readings are, makes of all statistics.
class GroupSimulation {
 public:
  GroupSimulation(const Groups& groups, double sd, double resolution) : grubbs_(groups.size()) {
    RandomNumbers random(1);
    Groups made = groups;
    std::vector<double> normal;
    for (int draw = 0; draw < simulated_tables; ++draw) {
      for (std::vector<double>& group : made) {
        normal.resize(group.size());
        random.fill_normal(normal);
        const double from = resolution > 0 ? random.uniform() : 0;  // where the level lies between two steps
        for (std::size_t i = 0; i < group.size(); ++i)
          group[i] = resolution > 0 ? std::round(from + normal[i] * sd / resolution) : normal[i];
      }
      const Statistics s = statistics_of(made);
      for (std::size_t l = 0; l < made.size(); ++l) grubbs_[l].add(s.grubbs[l]);
      cochran_.add(s.cochran);
      median_distances_.add(s.median_distances);
      high_to_low_.add(s.high_to_low);
    }
    for (Simulated& of_level : grubbs_) of_level.sort();
    for (Simulated* s : {&cochran_, &median_distances_, &high_to_low_}) s->sort();
    for (std::size_t draw = 0; draw < simulated_tables; ++draw) {
      scatter_.add(-least_of_scatter(cochran_.value(draw), median_distances_.value(draw), high_to_low_.value(draw)));
      double least = 1;
      for (const Simulated& of_level : grubbs_) {
        if (of_level.value(draw) > -infinity) least = std::min(least, of_level.above(of_level.value(draw)));
      }
      readings_.add(-least);
    }
    scatter_.sort();
    readings_.sort();
  }
  [[nodiscard]] double grubbs(std::size_t level, double statistic) const { return grubbs_[level].above(statistic); }
  [[nodiscard]] double cochran(double statistic) const { return cochran_.above(statistic); }
  [[nodiscard]] double median_distances(double statistic) const { return median_distances_.above(statistic); }
  [[nodiscard]] double high_to_low(double statistic) const { return high_to_low_.two_sided(statistic); }
  /// Smallest p of the three tests of equal scatter.
  [[nodiscard]] double least_of_scatter(double cochran, double median_distances, double high_to_low) const {
    double least = 1;
    if (cochran > -infinity) least = std::min(least, cochran_.above(cochran));
    if (median_distances > -infinity) least = std::min(least, median_distances_.above(median_distances));
    if (high_to_low > -infinity) least = std::min(least, high_to_low_.two_sided(high_to_low));
    return least;
  }
  /// How often the smallest p of these three, or of Grubbs' tests of all levels, is as small.
  [[nodiscard]] double scatter_family(double p) const { return scatter_.above(-p); }
  [[nodiscard]] double readings_family(double p) const { return readings_.above(-p); }

 private:
  std::vector<Simulated> grubbs_;
  Simulated cochran_;
  Simulated median_distances_;
  Simulated high_to_low_;
  Simulated scatter_;
  Simulated readings_;
};

const Reading& farthest(const CalibrationLevel& level) {
  return *std::max_element(level.readings.begin(), level.readings.end(), [&level](const Reading& a, const Reading& b) {
    return std::abs(a.signal - level.mean) < std::abs(b.signal - level.mean);
  });
}

Grade grade_of(double p) { return p < outlier ? Grade::outlier : Grade::straggler; }

}  // namespace

double grubbs_p(double statistic, double n) {
  // The statistic can't exceed (n - 1)/sqrt(n), at which all other readings agree.
  const double square = n * (n - 2) * statistic * statistic / ((n - 1) * (n - 1) - n * statistic * statistic);
  if (!(square < infinity) || square < 0) return 0;
  return std::min(1.0, n * student_t_two_sided(std::sqrt(square), n - 2));
}

double cochran_p(double statistic, double levels, double n) {
  if (!(statistic < 1)) return 0;
  const double f = (levels - 1) * statistic / (1 - statistic);
  return std::min(1.0, levels * f_upper(f, n - 1, (levels - 1) * (n - 1)));
}

namespace {

// The levels that have replicates, and what is asked of them.
struct Tested {
  std::vector<const CalibrationLevel*> levels{};
  Groups groups{};
  std::vector<Squares> spreads{};
  double resolution = 0;  // of the readings
  bool plain = false;     // neither rounded nor all alike: the closed forms hold
};

Tested tested_levels(std::span<const CalibrationLevel> levels) {
  Tested tested;
  std::vector<double> all;
  for (const CalibrationLevel& level : levels) {
    for (const Reading& r : level.readings) all.push_back(r.signal);
    if (level.readings.size() < 2) continue;
    tested.levels.push_back(&level);
    tested.groups.emplace_back();
    for (const Reading& r : level.readings) tested.groups.back().push_back(r.signal);
    tested.spreads.push_back(squares_of(tested.groups.back()));
  }
  tested.resolution = resolution_of(all);
  return tested;
}

EqualScatter equal_scatter_of(const Tested& tested, const Statistics& seen, const GroupSimulation& simulation) {
  const Groups& groups = tested.groups;
  EqualScatter scatter;
  scatter.brown_forsythe = seen.median_distances;
  scatter.cochran = seen.cochran;
  scatter.high_to_low = seen.high_to_low;
  const auto n = static_cast<double>(groups.front().size());
  const bool balanced = std::all_of(groups.begin(), groups.end(),
                                    [&groups](const auto& group) { return group.size() == groups.front().size(); });
  if (!std::isnan(seen.median_distances)) scatter.brown_forsythe_p = simulation.median_distances(seen.median_distances);
  if (!std::isnan(seen.cochran)) {
    scatter.cochran_p = tested.plain && balanced ? cochran_p(seen.cochran, static_cast<double>(groups.size()), n)
                                                 : simulation.cochran(seen.cochran);
  }
  if (!std::isnan(seen.high_to_low)) {
    const std::size_t third = third_of(groups.size());
    const double above = tested.plain ? f_upper(seen.high_to_low, degrees_of(std::span(tested.spreads).last(third)),
                                                degrees_of(std::span(tested.spreads).first(third)))
                                      : not_a_number;
    scatter.high_to_low_p = tested.plain ? 2 * std::min(above, 1 - above) : simulation.high_to_low(seen.high_to_low);
    scatter.family_p =
        simulation.scatter_family(simulation.least_of_scatter(seen.cochran, seen.median_distances, seen.high_to_low));
    scatter.is_equal = !(scatter.family_p < unequal_scatter);
  }
  return scatter;
}

// Readings far from their level's mean, and the level whose scatter is far above the others'.
std::vector<Suspicion> suspicions_of(const Tested& tested, const Statistics& seen, const GroupSimulation& simulation,
                                     double cochran_p_of_all) {
  std::vector<Suspicion> suspicious;
  for (std::size_t l = 0; l < tested.groups.size(); ++l) {
    const double statistic = seen.grubbs[l];
    if (std::isnan(statistic)) continue;
    const double p = tested.plain ? grubbs_p(statistic, static_cast<double>(tested.groups[l].size()))
                                  : simulation.grubbs(l, statistic);
    const double family_p = simulation.readings_family(simulation.grubbs(l, statistic));
    if (p < straggler && family_p < far_reading)
      suspicious.push_back({Suspicion::Test::grubbs, tested.levels[l]->amount, farthest(*tested.levels[l]), statistic,
                            p, family_p, grade_of(p)});
  }
  if (!std::isnan(seen.cochran)) {
    const double family_p = simulation.scatter_family(simulation.cochran(seen.cochran));
    const auto largest = static_cast<std::size_t>(
        std::max_element(tested.spreads.begin(), tested.spreads.end(),
                         [](const Squares& a, const Squares& b) { return a.variance() < b.variance(); }) -
        tested.spreads.begin());
    if (cochran_p_of_all < straggler && family_p < unequal_scatter)
      suspicious.push_back({Suspicion::Test::cochran, tested.levels[largest]->amount, farthest(*tested.levels[largest]),
                            seen.cochran, cochran_p_of_all, family_p, grade_of(cochran_p_of_all)});
  }
  return suspicious;
}

}  // namespace

LevelTests test_levels(std::span<const CalibrationLevel> levels) {
  LevelTests result;
  Tested tested = tested_levels(levels);
  result.resolution = tested.resolution;
  if (tested.groups.empty() || !(pooled_variance(tested.spreads) > 0)) return result;
  const double pooled = std::sqrt(pooled_variance(tested.spreads));
  const bool some_equal =
      std::any_of(tested.spreads.begin(), tested.spreads.end(), [](const Squares& s) { return s.squares == 0; });
  const bool rounded = result.resolution > fine * pooled || (some_equal && result.resolution > 0);
  // Rounding adds a twelfth of its square to the variance.
  const double least = fine * result.resolution;
  const double sd =
      rounded ? std::sqrt(std::max(pooled * pooled - result.resolution * result.resolution / 12, least * least))
              : pooled;
  tested.plain = !rounded && !some_equal;
  const Statistics seen = statistics_of(tested.groups);
  const GroupSimulation simulation(tested.groups, sd, rounded ? result.resolution : 0);
  result.equal_scatter = equal_scatter_of(tested, seen, simulation);
  result.readings_tested = !std::isnan(seen.cochran) ||
                           std::any_of(seen.grubbs.begin(), seen.grubbs.end(), [](double g) { return !std::isnan(g); });
  result.suspicious = suspicions_of(tested, seen, simulation, result.equal_scatter.cochran_p);
  return result;
}

std::string_view name(Grade grade) noexcept {
  return detail::name_among(std::array<std::string_view, 2>{"straggler", "outlier"}, grade);
}

}  // namespace truecurve
