// The sentences of a calibration's page.
#include <truecurve/base/distributions.hpp>

#include "calibration_parts.hpp"
#include "words.hpp"

#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::detail {
namespace {

// What an exposure is in: "min" where the rate is in 1/min.
std::string exposure_unit(const Quantity& rate) { return rate.unit.starts_with("1/") ? rate.unit.substr(2) : ""; }

}  // namespace

std::string blank_sentence(const Calibration& c) {
  if (c.blank.count == 0) return "";
  const std::string& unit = c.readings.signal.unit;
  const std::string mean = with_unit(with_uncertainty(c.blank.mean, c.blank.mean_uncertainty), unit);
  switch (c.options.blank) {
    case BlankUse::none:
      return fmt::format("The mean of {} is {}; it is not part of the line.", plural(c.blank.count, "blank"), mean);
    case BlankUse::include:
      return fmt::format("{} with the mean {} are part of the line as standards of amount 0.",
                         plural(c.blank.count, "blank"), mean);
    case BlankUse::subtract: break;
  }
  const bool cancels = c.fit.model().is_linear() && c.fit.model().constant_index() >= 0;
  return fmt::format(
      "The mean {} of {} is subtracted from every signal; its uncertainty is common to all and is carried as "
      "covariance{}.",
      mean, plural(c.blank.count, "blank"),
      cancels ? ": it is part of the constant's uncertainty, and cancels in unknowns read against the same "
                "blank"
              : "");
}

std::string scatter_sentence(const Calibration& c) {
  const std::string& y = c.readings.signal.name;
  switch (c.options.scatter.kind) {
    case SignalScatter::Kind::constant:
      if (std::isnan(c.curve.scatter.scale))
        return "All readings are equally weighted; none is left to estimate their scatter from.";
      return fmt::format("All readings are equally weighted; their residual standard deviation is {}.",
                         with_unit(rounded(c.curve.scatter.scale, 4), c.readings.signal.unit));
    case SignalScatter::Kind::power:
      return fmt::format("The scatter of {} is taken as proportional to {}{}.", y,
                         c.options.scatter.power == 1 ? y : fmt::format("{}^{}", y, shortest(c.options.scatter.power)),
                         c.options.blank == BlankUse::subtract ? ", the gross signal with its blank" : "");
    case SignalScatter::Kind::both:
      return fmt::format(
          "The readings are weighted by the scatter of the levels: s = sqrt(s0² + (k × net signal)²), the net signal "
          "counted from amount 0, with the most probable values s0 = {} and k = {}. Intervals and limits average over "
          "the {} weightings that the readings allow. They are approximate: in simulated laboratories 91 to 99 % of 95 "
          "% "
          "intervals near the ends held, and up to 7 % of blanks exceeded a critical value meant for 5 %.",
          with_unit(rounded(c.curve.scatter.growing.constant, 3), c.readings.signal.unit),
          rounded(c.curve.scatter.growing.slope, 3), c.curve.weightings.size());
    case SignalScatter::Kind::stated:
      return fmt::format(
          "The stated uncertainties of {}{} are used as stated: chi-squared is {} with {} ({}).", y,
          c.has_uncertain_standards
              ? fmt::format(" and of the amounts {} ({})", c.readings.amount.name,
                            c.options.separate_standards ? "each reading of a standard of its own"
                                                         : "readings of one standard share its uncertainty")
              : "",
          rounded(c.chi_squared, 4), degrees_of_freedom_text(c.degrees_of_freedom),
          c.degrees_of_freedom > 0 ? p_equals(chi_squared_upper(c.chi_squared, c.degrees_of_freedom)) : "p = -");
    case SignalScatter::Kind::counted:
      return fmt::format(
          "{} is counted: the curve is that of the counts for one unit of the exposure, by maximum likelihood, and "
          "readings scatter as counts do (Poisson). Intervals of levels are exact and hold at least at their level; "
          "those "
          "of unknowns are exact but for the uncertainty of the curve.",
          y);
  }
  return "";
}

std::vector<std::string> suspicions(const Calibration& c) {
  std::vector<std::string> sentences;
  for (std::size_t i = 0; i < c.suspicious.size(); ++i) {
    const Suspicion& s = c.suspicious[i];
    const bool grubbs = s.test == Suspicion::Test::grubbs;
    const std::string grade = (s.grade == Grade::outlier ? "an " : "a ") + std::string(name(s.grade));
    std::string place = c.readings.place_of(s.reading);
    place[0] = 'R';
    const std::string value = with_unit(shortest(s.reading.signal + c.curve.blank), c.readings.signal.unit);
    std::string sentence =
        grubbs ? fmt::format("{} ({} at level {}) is {} by Grubbs' test (G = {}, {}).", place, value,
                             shortest(s.amount), grade, rounded(s.statistic, 3), p_equals(s.p))
               : fmt::format(
                     "The scatter of level {} is {} by Cochran's test (C = {}, {}); the reading farthest out "
                     "is that of {} ({}).",
                     shortest(s.amount), grade, rounded(s.statistic, 3), p_equals(s.p), c.readings.place_of(s.reading),
                     value);
    if (i < c.without.size() && std::isfinite(c.without[i].slope)) {
      const auto& parameters = c.parameters;
      const auto constant = static_cast<std::size_t>(c.reported.model().constant_index());
      sentence +=
          fmt::format(" Without that reading the slope would be {} instead of {}, the intercept {} instead of {}.",
                      rounded(c.without[i].slope, 5), rounded(parameters[1 - constant].value, 5),
                      rounded(c.without[i].intercept, 4), rounded(parameters[constant].value, 4));
    }
    sentences.push_back(sentence + " Nothing is removed: find out what happened.");
  }
  return sentences;
}

bool has_wrong_weights(const Calibration& c) {
  return !c.readings.are_counts && !c.equal_scatter.is_equal && c.options.scatter.kind == SignalScatter::Kind::constant;
}

std::string verdict_sentence(const Calibration& c) {
  constexpr double significant = 0.05;
  std::vector<std::string> open;
  if (has_wrong_weights(c))
    open.push_back(fmt::format("the scatter differs between the levels ({}), and equal weights do not allow for it",
                               p_equals(c.equal_scatter.family_p)));
  if (c.linearity.lack_of_fit_p < significant)
    open.push_back(
        fmt::format("the means of the levels deviate from the curve ({})", p_equals(c.linearity.lack_of_fit_p)));
  if (c.linearity.mandel_p < significant)
    open.push_back(fmt::format("a quadratic describes the readings better ({})", p_equals(c.linearity.mandel_p)));
  if (!c.suspicious.empty())
    open.push_back(c.suspicious.size() == 1 ? "a reading is suspicious"
                                            : fmt::format("{} readings are suspicious", c.suspicious.size()));
  if (!open.empty()) return fmt::format("To be settled before use: {}.", fmt::join(open, "; "));
  std::vector<std::string> tested;
  if (!std::isnan(c.linearity.lack_of_fit_p)) tested.emplace_back("lack of fit");
  if (!std::isnan(c.linearity.mandel_p)) tested.emplace_back("curvature");
  if (!std::isnan(c.equal_scatter.family_p) && c.equal_scatter.is_equal)
    tested.emplace_back("difference of scatter between the levels");
  if (c.readings_tested) tested.emplace_back("suspicious reading");
  if (tested.empty()) return "These readings leave nothing to be tested: they are too few, or do not scatter.";
  std::string list = "No " + tested.front();
  for (std::size_t k = 1; k < tested.size(); ++k) list += (k + 1 == tested.size() ? " and no " : ", no ") + tested[k];
  return list + " was detected.";
}

// What the limits mean.
std::string limits_meaning(const Calibration& c) {
  const LimitOptions& o = c.options.limits;
  const std::string simulated =
      o.simulations >= 20
          ? fmt::format(" The uncertainties of the limits are those of {} simulated calibrations.", o.simulations)
          : "";
  if (c.readings.are_counts)
    return fmt::format(
        "For {} with an exposure of {}. A blank is declared to contain analyte with a nominal probability of at most "
        "{:.3g}, as counts are whole numbers; an amount at the detection limit is missed with nominal probability "
        "{:.3g}; at the "
        "quantitation limit the relative standard uncertainty is 10 %. Samples are judged by 'critical value and "
        "power'.{} {}",
        o.readings == 1 ? "a single count of an unknown"
                        : fmt::format("{} counts of an unknown together, each", o.readings),
        with_unit(shortest(o.exposure), exposure_unit(c.readings.signal)), o.alpha, o.beta, simulated,
        c.cautious_limit);
  return fmt::format(
      "For {} of an unknown. The critical value is exceeded by a blank with nominal probability {:.3g}; an "
      "amount at "
      "the detection limit of 'critical value and power' falls below it with nominal probability {:.3g}; the "
      "quantitation limit of the last two routes is where the relative standard uncertainty is 10 %. The SD "
      "routes have no stated error rates: "
      "3.3 and 10 times a standard deviation, over the slope.{} {}",
      o.readings == 1 ? "a single reading" : fmt::format("the mean of {} readings", o.readings), o.alpha, o.beta,
      simulated, c.cautious_limit);
}

}  // namespace truecurve::detail
