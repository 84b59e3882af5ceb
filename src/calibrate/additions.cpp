// Standard additions.
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/additions.hpp>

#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

// A sample that holds more than this many times the largest addition can't be measured by it.
constexpr double most_ranges = 100;

}  // namespace

StandardAdditions standard_additions(const Readings& readings, const CalibrationOptions& options) {
  CalibrationOptions how = options;
  how.limits.simulations = 0;
  StandardAdditions result{.calibration = calibrate(readings, how)};
  const Calibration& line = result.calibration;
  // Net signals share the error of the mean blank, which the reported parameters hold.
  const Estimate& estimate = line.reported;
  const Range range = estimate.parts().ranges[0];
  const double width = range.high - range.low;
  std::vector<Root> roots;
  for (double reach = 1; roots.empty() && reach <= most_ranges; reach *= 10) {
    roots = solve(estimate, 0,
                  {.low = range.low - reach * width, .high = range.low + 1e-9 * width, .level = options.level});
  }
  if (roots.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the curve does not meet signal 0 below an addition of {}", range.low),
                 .subject = "additions",
                 .remedy = "check the blank and the signals: more added must give more signal"});
  }
  const Root& root = roots.back();  // the nearest to the additions
  result.amount = -root.value;
  result.standard_uncertainty = root.standard_uncertainty;
  result.interval = {-root.interval.high, -root.interval.low};
  return result;
}

}  // namespace truecurve
