// Groups readings by sample and reads each through the curve.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/quantify.hpp>

#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

namespace truecurve {
namespace {

std::string_view flag_of(const CalibrationCurve& curve, const Quantified& q, const QuantifyOptions& options) {
  const double as_read = q.amount.amount / q.unknown.dilution;
  const Range range = curve.estimate.parts().ranges[0];
  if (std::isnan(q.amount.amount)) return "not reached";
  if (!q.amount.others.empty()) return "ambiguous";
  if (as_read > range.high) return "above the range";
  if (as_read < options.detection_limit) return "below detection limit";
  if (as_read < range.low) return "below the range";
  return "";
}

// Whether the rows of a sample stand together, as replicates do.
bool stand_apart(const std::vector<std::size_t>& rows) {
  for (std::size_t i = 1; i < rows.size(); ++i) {
    if (rows[i] > rows[i - 1] + 1) return true;
  }
  return false;
}

void take_control(const Reading& reading, Quantified& q) {
  if (reading.kind != ReadingKind::control) return;
  if (!std::isnan(q.nominal) && q.nominal != reading.amount) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the control '{}' has the amounts {} and {} (row {})", q.sample, q.nominal,
                                        reading.amount, reading.row),
                 .subject = q.sample,
                 .remedy = "give different controls different names"});
  }
  q.nominal = reading.amount;
}

}  // namespace

Quantities quantify(const CalibrationCurve& curve, const Readings& readings, const QuantifyOptions& options) {
  Quantities result;
  std::map<std::string, std::vector<double>> dilutions;
  for (const Reading& reading : readings.all) {
    if (reading.kind != ReadingKind::sample && reading.kind != ReadingKind::control) continue;
    const std::string sample = reading.sample.empty() ? fmt::format("row {}", reading.row) : reading.sample;
    auto at = std::find_if(result.unknowns.begin(), result.unknowns.end(), [&](const Quantified& q) {
      return q.sample == sample && q.kind == reading.kind && q.unknown.dilution == reading.dilution;
    });
    if (at == result.unknowns.end()) {
      Quantified fresh{.sample = sample, .kind = reading.kind};
      fresh.unknown.dilution = reading.dilution;
      if (reading.dilution != 1) fresh.unknown.dilution_uncertainty = options.dilution_uncertainty;
      result.unknowns.push_back(std::move(fresh));
      at = std::prev(result.unknowns.end());
      dilutions[sample].push_back(reading.dilution);
    }
    at->unknown.signals.push_back(reading.signal);
    if (at->rows.empty() || at->rows.back() != reading.row) at->rows.push_back(reading.row);
    take_control(reading, *at);
  }
  if (result.unknowns.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "there is no sample or control to read",
                 .subject = "samples",
                 .remedy = "mark the rows by a column of kinds (sample, control), or give a table of samples"});
  }
  for (Quantified& q : result.unknowns) {
    q.amount = amount_of(curve, q.unknown);
    q.flag = flag_of(curve, q, options);
    if (q.kind == ReadingKind::control && q.nominal != 0) {
      q.recovery = q.amount.amount / q.nominal;
      q.recovery_uncertainty = q.amount.standard_uncertainty / std::abs(q.nominal);
    }
    if (stand_apart(q.rows))
      result.remarks.push_back(
          fmt::format("'{}' stands in rows that are apart ({} to {}): if these are two samples of one "
                      "name they were averaged wrongly.",
                      q.sample, q.rows.front(), q.rows.back()));
  }
  for (const auto& [sample, factors] : dilutions) {
    if (factors.size() > 1)
      result.remarks.push_back(fmt::format("'{}' was measured at {} dilutions, each of which is a result of its own.",
                                           sample, factors.size()));
  }
  const std::size_t count = result.unknowns.size();
  if (count > 1) {
    const double alpha = (1 - curve.level) / static_cast<double>(count);
    const double dof =
        curve.estimate.basis() == UncertaintyBasis::stated ? infinity : curve.estimate.degrees_of_freedom();
    if (dof > 0)
      result.remarks.push_back(fmt::format(
          "{} results come from one curve and share its error. Each interval holds for itself; for all at once the "
          "factor k = {:.3f} replaces {:.3f} (Bonferroni).",
          count, student_t_quantile(1 - alpha / 2, dof), curve.estimate.coverage_factor(curve.level)));
  }
  return result;
}

}  // namespace truecurve
