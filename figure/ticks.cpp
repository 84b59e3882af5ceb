// Round ticks from 1e-300 to 1e300, and for large values of small spread.
#include "ticks.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// Labels longer than this many digits are shortened by a power of ten or an offset.
constexpr double end_of_axis = 1e307;
constexpr double narrowest_axis = 1e-300;
constexpr int longest_whole = 5;
constexpr int most_decimals = 4;
constexpr double margin = 0.04;

double round_step(double width, int wanted) {
  const double raw = width / wanted;
  const double power = std::pow(10.0, std::floor(std::log10(raw)));
  for (const double factor : {1.0, 2.0, 5.0, 10.0}) {
    if (raw <= factor * power * 1.0000001) return factor * power;
  }
  return 10 * power;
}

std::string superscript(int value) {
  static const char* const digits[] = {"⁰", "¹", "²", "³", "⁴", "⁵", "⁶", "⁷", "⁸", "⁹"};
  std::string text = value < 0 ? "⁻" : "";
  for (const char c : fmt::format("{}", std::abs(value))) text += digits[c - '0'];
  return text;
}

std::string with_minus_sign(std::string text) {
  if (text.starts_with('-')) text.replace(0, 1, "−");
  return text;
}

// "0.002", "5", "2000", and powers of ten beyond.
std::string decade_label(double factor, int power) {
  if (power >= -3 && power <= 4) return fmt::format("{:.{}f}", factor * std::pow(10.0, power), std::max(0, -power));
  return (factor == 1 ? "" : fmt::format("{:.0f}·", factor)) + "10" + superscript(power);
}

// Round values in each power of ten; fewer in each where there are many powers.
// Of positive numbers whose quotient may leave the range of a double.
double log_of_quotient(double a, double b) {
  const double quotient = a / b;
  return quotient > 0 && std::isfinite(quotient) ? std::log(quotient) : std::log(a) - std::log(b);
}

Ticks logarithmic_ticks(double low, double high, int wanted) {
  Ticks ticks{.scale = AxisScale::logarithmic};
  const double quotient = high / low;
  const double decades = std::isfinite(quotient) ? std::log10(quotient) : std::log10(high) - std::log10(low);
  const double room = std::pow(10.0, margin * std::max(decades, 0.1));
  ticks.low = std::max(low / room, std::numeric_limits<double>::denorm_min());
  ticks.high = std::min(high * room, std::numeric_limits<double>::max());
  const int first = static_cast<int>(std::floor(std::log10(ticks.low)));
  const int last = static_cast<int>(std::ceil(std::log10(ticks.high)));
  const int stride = std::max(1, static_cast<int>(std::ceil((last - first) / (1.5 * wanted))));
  const std::vector<double> factors = decades < 0.7 ? std::vector<double>{1, 1.5, 2, 3, 4, 5, 6, 7, 8, 9}
                                      : decades * 3 <= 1.5 * wanted ? std::vector<double>{1, 2, 5}
                                                                    : std::vector<double>{1};
  const int begin = stride == 1 ? first : static_cast<int>(std::ceil(std::log10(ticks.low)));
  for (int power = begin; power <= last; power += stride) {
    for (const double factor : factors) {
      const double at = factor * std::pow(10.0, power);
      if (at < ticks.low || at > ticks.high) continue;
      ticks.at.push_back(at);
      ticks.labels.push_back(factor == 1.5 ? fmt::format("{:.6g}", at) : decade_label(factor, power));
    }
  }
  return ticks;
}

}  // namespace

double Ticks::share(double value) const {
  if (scale == AxisScale::linear) return (value - low) / (high - low);
  return value > 0 ? log_of_quotient(value, low) / log_of_quotient(high, low) : -1;
}

double Ticks::value(double share) const {
  if (scale == AxisScale::linear) return low + share * (high - low);
  const double quotient = high / low;
  return std::isfinite(quotient) ? low * std::pow(quotient, share)
                                 : std::exp(std::log(low) + share * log_of_quotient(high, low));
}

Ticks ticks_for(double low, double high, int wanted, AxisScale scale) {
  if (scale == AxisScale::logarithmic) {
    Ticks ticks = logarithmic_ticks(low, high, wanted);
    if (ticks.at.size() > 2) return ticks;
    // Little more than a round step of the logarithm: the steps of a linear axis, at their logarithmic places.
    Ticks steps = ticks_for(low, high, wanted);
    if (steps.low > 0) {
      steps.scale = AxisScale::logarithmic;
      return steps;
    }
    return ticks;
  }
  Ticks ticks;
  // An axis from one end of the doubles to the other would have no width that is one.
  low = std::clamp(low, -end_of_axis, end_of_axis);
  high = std::clamp(high, -end_of_axis, end_of_axis);
  double width = high - low;
  // Equal values still need an axis: one as wide as the value, or 1.
  if (!(width > 0)) {
    width = low == 0 ? 1 : std::abs(low) * 0.2;
    low -= width / 2;
    high += width / 2;
  }
  // Nor is there a round step between the last numbers before zero.
  if (width < narrowest_axis) {
    low -= narrowest_axis / 2;
    high += narrowest_axis / 2;
    width = high - low;
  }
  ticks.low = low - margin * width;
  ticks.high = high + margin * width;
  // A single number says nothing of an axis: the step must fall within it twice.
  const auto steps_within = [&ticks](double step) {
    return std::floor(ticks.high / step) - std::ceil(ticks.low / step);
  };
  double step = round_step(ticks.high - ticks.low, wanted);
  for (int finer = 2 * wanted; steps_within(step) < 1; finer *= 2) step = round_step(ticks.high - ticks.low, finer);
  const double largest = std::max(std::abs(ticks.low), std::abs(ticks.high));
  // With more than six digits before the changing one, the common part goes into the title.
  if (largest / step > 1e6) ticks.offset = std::round((low + width / 2) / (10 * step)) * (10 * step);
  const double reach = std::max(std::abs(ticks.low - ticks.offset), std::abs(ticks.high - ticks.offset));
  const int magnitude = static_cast<int>(std::floor(std::log10(reach)));
  const int step_magnitude = static_cast<int>(std::floor(std::log10(step) + 1e-9));
  if (magnitude >= longest_whole || -step_magnitude > most_decimals) {
    ticks.power = static_cast<int>(std::floor(magnitude / 3.0)) * 3;
  }
  const int decimals = std::max(0, ticks.power - step_magnitude);
  const double first = std::ceil((ticks.low - ticks.offset) / step - 1e-9);
  for (double k = first; ticks.offset + k * step <= ticks.high + 1e-9 * step && ticks.at.size() < 50; ++k) {
    ticks.at.push_back(ticks.offset + k * step);
    double shown = k * step * std::pow(10.0, -ticks.power);
    if (k == 0) shown = 0;  // never "-0"
    ticks.labels.push_back(with_minus_sign(fmt::format("{:.{}f}", shown, decimals)));
  }
  return ticks;
}

Ticks ticks_along(const AxisLayout& axis, double low, double high, int wanted) {
  const bool begins = std::isfinite(axis.low);
  const bool ends = std::isfinite(axis.high);
  if (!begins && !ends) return ticks_for(low, high, wanted, axis.scale);
  if (begins) low = axis.low;
  if (ends) high = axis.high;
  if (!(low < high) || (axis.scale == AxisScale::logarithmic && !(low > 0))) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("an axis from {} to {} {}", shortest(low), shortest(high),
                                        low < high ? "has no place on a logarithmic scale" : "has no length"),
                 .subject = "axis",
                 .remedy = low < high ? "begin above 0" : "give the lower end first"});
  }
  Ticks ticks = ticks_for(low, high, wanted, axis.scale);
  if (begins) ticks.low = low;
  if (ends) ticks.high = high;
  // The margin is gone, and the ticks in it.
  for (std::size_t i = ticks.at.size(); i-- > 0;) {
    const double share = ticks.share(ticks.at[i]);
    if (share > -1e-9 && share < 1 + 1e-9) continue;
    ticks.at.erase(ticks.at.begin() + static_cast<std::ptrdiff_t>(i));
    ticks.labels.erase(ticks.labels.begin() + static_cast<std::ptrdiff_t>(i));
  }
  return ticks;
}

std::string axis_title(const AxisLayout& axis, const std::string& name, const std::string& unit, const Ticks& ticks) {
  return axis.label.empty() ? axis_title(name, unit, ticks) : axis_title(axis.label, "", ticks);
}

std::string axis_title(const std::string& name, const std::string& unit, const Ticks& ticks) {
  std::string text = name;
  if (ticks.offset != 0) {
    const std::string number = std::abs(ticks.offset) < 1e15 && ticks.offset == std::floor(ticks.offset)
                                   ? fmt::format("{:.0f}", std::abs(ticks.offset))
                                   : fmt::format("{}", std::abs(ticks.offset));
    text = fmt::format("{} {} {}", text, ticks.offset < 0 ? "+" : "−", number);
  }
  const bool simple = ticks.offset == 0;
  if (ticks.power != 0) {
    const std::string factor = "10" + superscript(ticks.power);
    return fmt::format("{} ({}{}{})", simple ? text : "(" + text + ")", factor, unit.empty() ? "" : " ", unit);
  }
  return unit.empty() ? text : fmt::format("{} ({})", text, unit);
}

}  // namespace truecurve::detail
