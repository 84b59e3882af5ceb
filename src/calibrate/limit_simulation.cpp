// How uncertain the limits of a calibration are: those of calibrations simulated from it.
#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>

#include "../base/matrices.hpp"
#include "limit_routes.hpp"
#include "signal_parts.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace truecurve::detail {
namespace {

// Readings as another day would have given them.
class AnotherDay {
 public:
  AnotherDay(const CoreCalibration& core, const Readings& readings)
      : core_(core), readings_(readings), fortified_(levels_of(readings.of(ReadingKind::fortified))) {
    for (const Reading& reading : readings.all) {
      net_.push_back(reading.kind == ReadingKind::standard ? curve_at(core.curve.estimate, reading.amount).value
                                                           : not_a_number);
    }
  }

  void fill(Readings& made, RandomNumbers& random) const {
    for (std::size_t r = 0; r < made.all.size(); ++r) {
      if (readings_.are_counts) {
        count(made.all[r], net_[r], random);
      } else {
        measure(made.all[r], net_[r], random);
      }
    }
  }

 private:
  void count(Reading& reading, double net, RandomNumbers& random) const {
    const double rate = reading.kind == ReadingKind::blank ? core_.blank.mean : net;
    if (rate > 0) reading.signal = counts_.kernel().draw(rate, reading.exposure, random);
  }

  void measure(Reading& reading, double net, RandomNumbers& random) const {
    if (reading.kind == ReadingKind::standard) {
      reading.signal = net + core_.curve.blank + core_.curve.scatter.at(net) * random.normal();
    } else if (reading.kind == ReadingKind::blank && core_.blank.count >= 2) {
      reading.signal = core_.blank.mean + core_.blank.sd * random.normal();
    } else if (reading.kind == ReadingKind::fortified) {
      const auto level = std::find_if(fortified_.begin(), fortified_.end(),
                                      [&reading](const CalibrationLevel& l) { return l.amount == reading.amount; });
      reading.signal = level->mean + (level->sd > 0 ? level->sd : 0) * random.normal();
    }
  }

  const CoreCalibration& core_;
  const Readings& readings_;
  std::vector<CalibrationLevel> fortified_;
  std::vector<double> net_;  // of each reading of a standard: what the curve says
  ObservationModel counts_ = ObservationModel::counts();
};

// Half the width of the middle 68.27 %: the standard deviation of a normal distribution, and safe from a far one.
double half_of_middle(std::vector<double>& values) {
  constexpr double tail = 0.1586552539314571;
  std::sort(values.begin(), values.end());
  const auto quantile = [&values](double share) {
    return values[static_cast<std::size_t>(std::llround(share * static_cast<double>(values.size() - 1)))];
  };
  return (quantile(1 - tail) - quantile(tail)) / 2;
}

}  // namespace

void simulate_limits(const CoreCalibration& core, const Readings& readings, const CalibrationOptions& options,
                     std::vector<LimitRoute>& routes) {
  constexpr int fewest = 20;
  if (options.limits.simulations < fewest) return;
  RandomNumbers random(options.limits.seed);
  std::map<LimitRouteKind, std::vector<double>> found;
  const AnotherDay day(core, readings);
  Readings made = readings;
  for (int i = 0; i < options.limits.simulations; ++i) {
    day.fill(made, random);
    try {
      for (const LimitRoute& route : limit_routes(core_calibration(made, options), made, options.limits)) {
        if (std::isfinite(route.detection)) found[route.route].push_back(route.detection);
      }
    } catch (const Error&) {
      continue;  // a simulated calibration that fails gives no limit
    }
  }
  for (LimitRoute& route : routes) {
    std::vector<double>& values = found[route.route];
    if (2 * values.size() < static_cast<std::size_t>(options.limits.simulations)) continue;
    route.detection_uncertainty = half_of_middle(values);
  }
}

}  // namespace truecurve::detail
