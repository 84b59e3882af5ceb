// The curve and the scatter of a reading at one amount.
#include "signal_parts.hpp"

#include "uncertain_count.hpp"

#include <cmath>

namespace truecurve {
namespace detail {
namespace {

SignalPart part_at(const Estimate& estimate, const Scatter& scatter, double weight, double amount) {
  const CurvePoint point = curve_at(estimate, amount);
  return {.weight = weight,
          .value = point.value,
          .curve = point.standard_uncertainty,
          .reading = scatter.at(point.value),
          .degrees_of_freedom = estimate.scale_degrees_of_freedom()};
}

}  // namespace

double SignalPart::alone() const {
  return blank > 0 ? curve * std::sqrt((1 - blank / curve) * (1 + blank / curve)) : curve;
}

std::vector<SignalPart> signal_parts(const CalibrationCurve& curve, double amount) {
  const bool blank_counts = std::isfinite(curve.blank_degrees_of_freedom);
  std::vector<SignalPart> parts;
  if (!curve.weightings.empty()) {
    for (const Weighting& w : curve.weightings) parts.push_back(part_at(w.estimate, w.scatter, w.weight, amount));
  } else {
    parts.push_back(part_at(blank_counts ? curve.without_blank : curve.estimate, curve.scatter, 1, amount));
  }
  if (!blank_counts) return parts;
  // An offset that was estimated with the curve moves it, and what it adds is the same share for all weightings.
  const CurvePoint whole = curve_at(curve.estimate, amount);
  const CurvePoint alone = curve_at(curve.without_blank, amount);
  for (SignalPart& part : parts) {
    part.value += whole.value - alone.value;
    if (!(whole.standard_uncertainty > alone.standard_uncertainty)) continue;
    if (!(alone.standard_uncertainty > 0)) {  // a curve through the origin, at the origin: the blank is all there is
      part.curve = part.blank = whole.standard_uncertainty;
      continue;
    }
    const double ratio = whole.standard_uncertainty / alone.standard_uncertainty;
    part.blank = part.curve * std::sqrt((ratio - 1) * (ratio + 1));
    part.curve *= ratio;
  }
  return parts;
}

UncertainCount count_at(const CalibrationCurve& curve, double amount, double exposure) {
  const CurvePoint point = curve_at(curve.estimate, amount);
  return {exposure * point.value, exposure * point.standard_uncertainty};
}

Mixture mixture_of(const CalibrationCurve& curve, const std::vector<SignalPart>& parts, double readings) {
  std::vector<Mixture::Part> known;
  for (const SignalPart& part : parts) {
    const double own = std::isfinite(readings) ? part.reading / std::sqrt(readings) : 0;
    const double alone = std::hypot(own, part.alone());
    known.push_back({part.weight, part.value, std::hypot(own, part.curve),
                     effective_degrees(alone, part.degrees_of_freedom, part.blank, curve.blank_degrees_of_freedom)});
  }
  return Mixture(std::move(known));
}

}  // namespace detail

SignalBand signal_at(const CalibrationCurve& curve, double amount, double readings) {
  const double tail = (1 - curve.level) / 2;
  if (curve.are_counts) {
    const CurvePoint point = curve_at(curve.estimate, amount);
    const detail::UncertainCount count = detail::count_at(curve, amount, readings);
    const double fewest = count.exceeded_by(1 - tail);
    return {
        .value = point.value,
        .standard_uncertainty = point.standard_uncertainty,
        .confidence = {count.expectation_quantile(tail) / readings, count.expectation_quantile(1 - tail) / readings},
        .prediction = {fewest / readings, count.exceeded_by(tail) / readings}};
  }
  const std::vector<detail::SignalPart> parts = detail::signal_parts(curve, amount);
  SignalBand band{.value = curve_at(curve.estimate, amount).value};
  const auto interval_of = [tail](const detail::Mixture& mixture) -> Interval {
    for (const auto& part : mixture.parts()) {
      if (!(part.u >= 0) || !(part.degrees_of_freedom > 0)) return {not_a_number, not_a_number};
    }
    return {mixture.quantile(tail), mixture.quantile(1 - tail)};
  };
  const detail::Mixture alone = detail::mixture_of(curve, parts, infinity);
  band.standard_uncertainty = alone.standard_uncertainty(band.value);
  band.confidence = interval_of(alone);
  band.prediction = interval_of(detail::mixture_of(curve, parts, readings));
  return band;
}

}  // namespace truecurve
