// Standard additions.
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/additions.hpp>

#include "../assess/curve_slopes.hpp"
#include "signal_parts.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

// A sample that holds more than this many times the largest addition can't be measured by it.
constexpr double most_ranges = 100;
constexpr double rounding = 1e-14;

[[noreturn]] void fail(const std::string& message, const Advice& remedy) {
  throw Error({.code = ErrorCode::bad_argument, .message = message, .subject = "additions", .remedy = remedy});
}

std::string of_sample(const std::string& sample) { return sample.empty() ? "" : fmt::format(" of '{}'", sample); }

// The readings of one sample, and what is none of a sample.
Readings readings_of_sample(const Readings& readings, const std::string& sample) {
  Readings some = readings;
  std::erase_if(some.all,
                [&sample](const Reading& r) { return r.kind == ReadingKind::standard && r.sample != sample; });
  return some;
}

double dilution_of(const Readings& readings, const std::string& sample) {
  const std::vector<Reading> rows = readings.of(ReadingKind::standard);
  for (const Reading& r : rows) {
    if (r.dilution != rows.front().dilution)
      fail(fmt::format("the readings{} have the dilutions {} and {} (row {})", of_sample(sample), rows.front().dilution,
                       r.dilution, r.row),
           "additions to one sample are made at one dilution: give others another name");
  }
  return rows.empty() ? 1 : rows.front().dilution;
}

void require_measured(const Readings& readings) {
  if (!readings.are_counts) return;
  throw Error({.code = ErrorCode::not_supported,
               .message = "standard additions are read from measured signals, and these are counts",
               .subject = "counts",
               .remedy = {"calibrate them as measured signals that scatter like counts", {Action::measure_counts}}});
}

StandardAdditions additions_to(const Readings& readings, const std::string& sample, const CalibrationOptions& options) {
  StandardAdditions result{
      .sample = sample, .dilution = dilution_of(readings, sample), .calibration = calibrate(readings, options)};
  const Calibration& line = result.calibration;
  // The signal of nothing is that of the mean blank: its error is the curve's own here, which the reported parameters
  // hold, and no reading's.
  CalibrationCurve curve = line.curve;
  curve.without_blank = line.curve.estimate;
  curve.estimate = line.reported;
  const Range range = curve.estimate.ranges()[0];
  const double width = range.high - range.low;
  std::vector<Root> roots;
  for (double reach = 1; roots.empty() && reach <= most_ranges; reach *= 10)
    roots =
        solve(curve.estimate, 0,
              {.nearest_places = false, .low = range.low - reach * width, .high = range.high, .level = options.level});
  if (roots.empty() || !(curve_at(curve.estimate, range.high).value > curve_at(curve.estimate, range.low).value))
    fail(fmt::format("the curve{} does not meet signal 0 below an addition of {}", of_sample(sample), range.low),
         "check the blank and the signals: more added must give more signal");
  const auto nearest = std::min_element(roots.begin(), roots.end(), [&range](const Root& a, const Root& b) {
    return std::abs(a.value - range.low) < std::abs(b.value - range.low);
  });
  const double at = nearest->value;
  const double slope =
      nearest->standard_uncertainty > 0 ? std::abs(detail::CurveSlopes(curve.estimate).at(at)) : not_a_number;
  const detail::Mixture signal = detail::mixture_of(curve, detail::signal_parts(curve, at), infinity);
  const double u = signal.standard_uncertainty(curve_at(curve.estimate, at).value) / slope;
  const double d = result.dilution;
  // The rounding of a line that meets zero at zero.
  result.amount = std::abs(at) <= rounding * width ? 0 : -d * at;
  result.standard_uncertainty = d * u;
  if (!(u > 0)) return result;
  const Interval compatible =
      detail::compatible_amounts(curve, 0, infinity, at, std::isfinite(u) ? u / 4 : width / 1000);
  result.interval = {-d * compatible.high, -d * compatible.low};
  return result;
}

}  // namespace

std::vector<StandardAdditions> standard_additions(const Readings& readings, const CalibrationOptions& options) {
  require_measured(readings);
  if (options.blank == BlankUse::include && !readings.of(ReadingKind::blank).empty())
    fail("the blanks can't be included: they hold nothing of the sample to which amounts were added",
         {"subtract their mean",
          {Action::treat_blank, "subtract"},
          ", or leave them alone",
          {Action::treat_blank, "none"}});
  CalibrationOptions how = options;
  how.limits.simulations = 0;
  std::vector<std::string> samples;
  for (const Reading& r : readings.of(ReadingKind::standard)) {
    if (std::find(samples.begin(), samples.end(), r.sample) == samples.end()) samples.push_back(r.sample);
  }
  if (samples.empty()) samples.emplace_back();
  std::vector<StandardAdditions> results;
  for (const std::string& sample : samples)
    results.push_back(additions_to(readings_of_sample(readings, sample), sample, how));
  return results;
}

}  // namespace truecurve
