// Groups readings by sample and reads each through the curve.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/quantify.hpp>

#include "../base/names.hpp"
#include "signal_parts.hpp"
#include "squares.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>
#include <map>
#include <numeric>
#include <tuple>

#include <fmt/format.h>

namespace truecurve {
namespace {

// An amount at the highest standard itself is found there but for rounding.
constexpr double edge = 1e-9;
constexpr double share_of_all = 0.05;

double total_exposure(const Unknown& unknown) {
  return std::accumulate(unknown.exposures.begin(), unknown.exposures.end(), 0.0);
}

AmountFlag flag_of(const CalibrationCurve& curve, const Quantified& q) {
  const Range range = curve.estimate.ranges()[0];
  const double width = range.high - range.low;
  const double as_read = q.amount.amount / q.unknown.dilution;
  if (std::isnan(as_read)) {
    const double low = curve_at(curve.estimate, range.low).value;
    const double high = curve_at(curve.estimate, range.high).value;
    return std::abs(q.amount.net_signal - high) < std::abs(q.amount.net_signal - low) ? AmountFlag::above_range
                                                                                      : AmountFlag::below_range;
  }
  if (!q.amount.other_amounts.empty()) return AmountFlag::ambiguous;
  if (as_read > range.high + edge * width) return AmountFlag::above_range;
  if (q.amount.interval.high < 0) return AmountFlag::below_zero;
  // Of counts the counts decide: the critical amount is that of a whole number of them.
  const bool undecided = curve.are_counts && !std::isnan(q.limits.largest_count)
                             ? std::round(q.amount.net_signal * total_exposure(q.unknown)) <= q.limits.largest_count
                             : q.amount.amount <= q.limits.critical;
  if (undecided) return AmountFlag::not_detected;
  if (q.amount.amount < q.limits.detection) return AmountFlag::below_detection_limit;
  if (q.amount.amount < q.limits.quantitation) return AmountFlag::below_quantitation_limit;
  if (as_read < range.low - edge * width) return AmountFlag::below_range;
  return AmountFlag::none;
}

// The smallest of 2, 5, 10, 20, ... by which the signal falls well among the standards.
double dilution_for(const CalibrationCurve& curve, const Quantified& q) {
  const Range range = curve.estimate.ranges()[0];
  double nothing = curve_at(curve.estimate, range.low).value;
  try {
    nothing = curve_at(curve.estimate, 0).value;
  } catch (const Error& error) {
    if (error.code() != ErrorCode::not_finite) throw;  // a curve that begins above amount 0
  }
  const double reached = (q.amount.net_signal - nothing) / (curve_at(curve.estimate, range.high).value - nothing);
  constexpr double well_inside = 0.9;
  for (double decade = 1; decade < 1e15; decade *= 10) {
    for (const double step : {2.0, 5.0, 10.0}) {
      if (reached <= well_inside * step * decade) return step * decade;
    }
  }
  return not_a_number;
}

// The limits of as many readings as each sample has.
class LimitsByReadings {
 public:
  LimitsByReadings(const CalibrationCurve& curve, const LimitOptions& options) : curve_(curve), options_(options) {}
  [[nodiscard]] DecisionLimits of(const Unknown& unknown) {
    options_.readings = curve_.are_counts ? 1 : static_cast<int>(unknown.signals.size());
    options_.exposure = curve_.are_counts ? total_exposure(unknown) : not_a_number;
    const double size = curve_.are_counts ? options_.exposure : options_.readings;
    auto at = found_.find(size);
    if (at == found_.end()) at = found_.emplace(size, undiluted()).first;
    const double d = unknown.dilution;
    const DecisionLimits& of_one = at->second;
    return {d * of_one.critical, d * of_one.detection, d * of_one.quantitation, of_one.largest_count};
  }

 private:
  [[nodiscard]] DecisionLimits undiluted() const {
    try {
      return decision_limits(curve_, options_);
    } catch (const Error& error) {
      if (error.code() != ErrorCode::not_finite) throw;
      return {};  // not defined at amount 0
    }
  }
  const CalibrationCurve& curve_;
  LimitOptions options_;
  std::map<double, DecisionLimits> found_;  // by readings, or by exposure
};

// Do the readings of a sample scatter more than those of the standards at the same signal?
void compare_scatter(const CalibrationCurve& curve, Quantified& q) {
  const detail::Squares squares = detail::squares_of(q.unknown.signals);
  if (!(squares.degrees > 0)) return;
  q.sd = squares.sd();
  if (curve.are_counts) {
    // Fisher's (1925) index of dispersion, where the counts are large enough for it.
    constexpr double least_expected = 5;
    double sum = 0;
    for (std::size_t i = 0; i < q.unknown.signals.size(); ++i) {
      const double expected = q.amount.net_signal * q.unknown.exposures[i];
      if (!(expected >= least_expected)) return;
      sum += std::pow(q.unknown.signals[i] * q.unknown.exposures[i] - expected, 2) / expected;
    }
    q.sd_p = chi_squared_upper(sum, squares.degrees);
    return;
  }
  const double degrees = curve.estimate.scale_degrees_of_freedom();
  const auto p_against = [&](const Scatter& scatter) {
    const double expected = scatter.at(q.amount.net_signal);
    return expected > 0 && degrees > 0 ? f_upper(std::pow(q.sd / expected, 2), squares.degrees, degrees) : not_a_number;
  };
  if (curve.weightings.empty()) {
    q.sd_p = p_against(curve.scatter);
    return;
  }
  q.sd_p = 0;
  for (const Weighting& weighting : curve.weightings) q.sd_p += weighting.weight * p_against(weighting.scatter);
}

std::string rows_text(const std::vector<std::size_t>& rows) {
  std::string text = rows.size() == 1 ? "Row " : "Rows ";
  for (std::size_t i = 0; i < rows.size(); ++i) text += fmt::format("{}{}", i == 0 ? "" : ", ", rows[i]);
  return text;
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

std::string_view name(AmountFlag flag) noexcept {
  return detail::name_among(
      std::array<std::string_view, 8>{"", "not detected", "below zero", "detected, below the detection limit",
                                      "below the quantitation limit", "above the range", "below the range",
                                      "ambiguous"},
      flag);
}

namespace {

// The samples and controls of a table, each with its readings, and what else stands in it.
class Samples {
 public:
  Samples(const CalibrationCurve& curve, const QuantifyOptions& options, Quantities& result)
      : curve_(curve), options_(options), result_(result) {}

  void add(const Reading& reading) {
    if (reading.kind != ReadingKind::sample && reading.kind != ReadingKind::control) {
      std::vector<std::size_t>& rows = unused_[reading.kind];
      if (rows.empty() || rows.back() != reading.row) rows.push_back(reading.row);
      return;
    }
    Quantified& q = of(reading);
    q.unknown.signals.push_back(reading.signal);
    if (curve_.are_counts) q.unknown.exposures.push_back(reading.exposure);
    if (q.rows.empty() || q.rows.back() != reading.row) q.rows.push_back(reading.row);
    take_control(reading, q);
  }

  void add_remarks() const {
    for (const auto& [sample, factors] : dilutions_) {
      if (factors.size() > 1)
        result_.remarks.push_back(fmt::format(
            "'{}' was measured at {} dilutions, each of which is a result of its own.", sample, factors.size()));
    }
    for (const auto& [kind, rows] : unused_)
      result_.remarks.push_back(
          fmt::format("{} of kind {} {} not used: {}", rows_text(rows), name(kind), rows.size() == 1 ? "is" : "are",
                      kind == ReadingKind::blank ? "the blanks of the calibration are those that count."
                                                 : "only samples and controls are read."));
  }

 private:
  Quantified& of(const Reading& reading) {
    const std::string sample = reading.sample.empty() ? fmt::format("row {}", reading.row) : reading.sample;
    const auto [known, is_new] = places_.try_emplace(
        {sample, reading.kind, std::bit_cast<std::uint64_t>(reading.dilution)}, result_.unknowns.size());
    if (is_new) {
      Quantified fresh{.sample = sample, .kind = reading.kind};
      fresh.unknown.dilution = reading.dilution;
      if (reading.dilution != 1) fresh.unknown.dilution_uncertainty = options_.dilution_uncertainty;
      result_.unknowns.push_back(std::move(fresh));
      dilutions_[sample].push_back(reading.dilution);
    }
    return result_.unknowns[known->second];
  }

  const CalibrationCurve& curve_;
  const QuantifyOptions& options_;
  Quantities& result_;
  // Of each sample among the unknowns, by name, kind and dilution.
  std::map<std::tuple<std::string, ReadingKind, std::uint64_t>, std::size_t> places_;
  std::map<std::string, std::vector<double>> dilutions_;
  std::map<ReadingKind, std::vector<std::size_t>> unused_;
};

// Scatter beyond that of the standards, among `several` samples of more than one reading.
std::string scatter_text(const CalibrationCurve& curve, const Quantified& q, double several) {
  if (!(q.sd_p * several < share_of_all)) return "";
  if (curve.are_counts)
    return fmt::format(
        "The counts of '{}' scatter more than counts do ({}): one may be wrong, or the sample not homogeneous; its "
        "interval does not allow for it.",
        q.sample, p_equals(q.sd_p));
  return fmt::format(
      "The readings of '{}' scatter more than those of the standards (SD {} against {}, {}): a reading may be "
      "wrong, or the sample not homogeneous; its interval does not allow for it.",
      q.sample, rounded(q.sd, 3), rounded(curve.scatter.at(q.amount.net_signal), 3), p_equals(q.sd_p));
}

// Many results of one curve, each at its level, are not at that level together.
void remark_on_all_at_once(const CalibrationCurve& curve, Quantities& result) {
  const auto count = std::count_if(result.unknowns.begin(), result.unknowns.end(),
                                   [](const Quantified& q) { return !std::isnan(q.amount.interval.low); });
  if (count < 2) return;
  result.level_of_each = 1 - (1 - curve.level) / static_cast<double>(count);
  const double dof = curve.estimate.scale_degrees_of_freedom();
  const bool one_factor =
      !curve.are_counts && curve.weightings.empty() && std::isinf(curve.blank_degrees_of_freedom) && dof > 0;
  result.remarks.push_back(
      fmt::format("{} results come from one curve, share its uncertainty and are correlated. Each interval has {:.6g} "
                  "% coverage on its own; for all at "
                  "once {} (Bonferroni).",
                  count, 100 * curve.level,
                  one_factor ? fmt::format("the coverage factor {:.3f} replaces {:.3f}",
                                           student_t_quantile((1 + result.level_of_each) / 2, dof),
                                           curve.estimate.coverage_factor(curve.level))
                             : fmt::format("calibrate with a level of {:.4g}", result.level_of_each)));
}

void require_same_kind(const CalibrationCurve& curve, const Readings& readings) {
  if (curve.are_counts == readings.are_counts) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = curve.are_counts ? "the calibration is one of counts, and the readings are not given as such"
                                           : "the readings are counts, and the calibration is not one of counts",
               .subject = "counts",
               .remedy = curve.are_counts
                             ? Advice{"read them with their exposures", {Action::read_counts}, {Action::name_exposure}}
                             : Advice{"calibrate with counts", {Action::read_counts}, ", or read measured signals"}});
}

}  // namespace

Quantities quantify(const CalibrationCurve& curve, const Readings& readings, const QuantifyOptions& options) {
  require_same_kind(curve, readings);
  Quantities result{.remarks = readings.remarks};
  Samples samples(curve, options, result);
  for (const Reading& reading : readings.all) samples.add(reading);
  if (result.unknowns.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "there is no sample or control to read",
                 .subject = "samples",
                 .remedy = "mark the rows by a column of kinds (sample, control), or give a table of samples"});
  }
  LimitsByReadings limits(curve, options.limits);
  const auto remark = [&result](const std::string& text) {
    if (!text.empty()) result.remarks.push_back(text);
  };
  const auto several =
      static_cast<double>(std::count_if(result.unknowns.begin(), result.unknowns.end(),
                                        [](const Quantified& q) { return q.unknown.signals.size() > 1; }));
  for (Quantified& q : result.unknowns) {
    q.amount = amount_of(curve, q.unknown);
    q.limits = limits.of(q.unknown);
    q.flag = flag_of(curve, q);
    if (q.flag == AmountFlag::above_range) q.dilute_by = dilution_for(curve, q);
    compare_scatter(curve, q);
    remark(scatter_text(curve, q, several));
    if (q.kind == ReadingKind::control && q.nominal != 0) {
      q.recovery = q.amount.amount / q.nominal;
      q.recovery_uncertainty = q.amount.standard_uncertainty / std::abs(q.nominal);
    }
    if (stand_apart(q.rows))
      remark(
          fmt::format("'{}' occurs in rows that are not adjacent ({} to {}): if these are two samples of one "
                      "name they were averaged wrongly.",
                      q.sample, q.rows.front(), q.rows.back()));
  }
  samples.add_remarks();
  remark_on_all_at_once(curve, result);
  return result;
}

}  // namespace truecurve
