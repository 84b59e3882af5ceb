// Numbers to text: shortest round-trip form, and rounding to the uncertainty.
#include <truecurve/base/numeric.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdlib>

#include <fmt/format.h>

namespace truecurve {
namespace {

// Values whose leading digit stands further left or right than this are written with a power of ten.
constexpr int largest_plain_exponent = 7;
constexpr int smallest_plain_exponent = -5;

// The decimal exponent of a value once it is rounded to `digits` significant digits: 0.0996 to two digits is 0.10.
int exponent_after_rounding(double value, int digits) {
  const std::string text = fmt::format("{:.{}e}", std::abs(value), digits - 1);
  return std::atoi(text.c_str() + text.find('e') + 1);
}

// 1.5e-09 as 1.5e-9.
std::string scientific(double value, int digits) {
  const std::string text = fmt::format("{:.{}e}", value, digits - 1);
  const auto at = text.find('e');
  return fmt::format("{}e{}", text.substr(0, at), std::atoi(text.c_str() + at + 1));
}

}  // namespace

std::string shortest(double value) { return fmt::format("{}", value); }

std::string plural(std::size_t count, std::string_view noun) {
  return fmt::format("{} {}{}", count, noun, count == 1 ? "" : "s");
}

std::string degrees_of_freedom_text(double degrees) {
  const bool is_whole = degrees == std::floor(degrees) && std::abs(degrees) < 0x1p53;
  const std::string number = is_whole ? fmt::format("{:.0f}", degrees) : fmt::format("{:.6g}", degrees);
  return fmt::format("{} degree{} of freedom", number, degrees == 1 ? "" : "s");
}

std::string rounded(double value, int wanted_digits) {
  const int significant_digits = std::max(1, wanted_digits);
  if (value == 0 || !std::isfinite(value)) return fmt::format("{}", value);
  const int exponent = exponent_after_rounding(value, significant_digits);
  if (exponent > largest_plain_exponent || exponent < smallest_plain_exponent) {
    return scientific(value, significant_digits);
  }
  const int decimals = significant_digits - 1 - exponent;
  if (decimals >= 0) return fmt::format("{:.{}f}", value, decimals);
  const double unit = std::pow(10.0, -decimals);
  return fmt::format("{:.0f}", std::round(value / unit) * unit);
}

std::string with_uncertainty(double value, double standard_uncertainty) {
  if (!std::isfinite(value)) return fmt::format("{}", value);
  if (!(standard_uncertainty > 0) || !std::isfinite(standard_uncertainty)) return rounded(value, 6);
  const int u_exponent = exponent_after_rounding(standard_uncertainty, 2);
  const int value_exponent = value == 0 ? u_exponent : exponent_after_rounding(value, 2);
  const int leading = std::max(u_exponent, value_exponent);
  // A value that is less than its uncertainty is read with it as a whole number: -120(830).
  if (standard_uncertainty >= std::abs(value) && u_exponent > 1 && u_exponent <= largest_plain_exponent) {
    const double unit = std::pow(10.0, u_exponent - 1);
    const double whole = std::round(value / unit) * unit;
    if (whole != 0) return fmt::format("{:.0f}({:.0f})", whole, std::round(standard_uncertainty / unit) * unit);
  }
  const bool plain = leading <= largest_plain_exponent && leading >= smallest_plain_exponent && u_exponent <= 1;
  const int shift = plain ? 0 : leading;
  int decimals = std::max(0, 1 - u_exponent + shift);
  // "0(33)" would hide that it is -0.4.
  if (shift == 0 && decimals == 0 && value != 0 && std::abs(value) < 0.5) decimals = 1;
  // Decimal scaling through the text form keeps the rounding exact: 1e-9 scaled by pow(10, 9) would not be.
  const auto scaled = [shift](double x, int places) {
    if (shift == 0) return fmt::format("{:.{}f}", x, places);
    const std::string digits = fmt::format("{:.17e}", x);
    const auto at = digits.find('e');
    const int exponent = std::atoi(digits.c_str() + at + 1) - shift;
    const std::string text = digits.substr(0, at) + fmt::format("e{}", exponent);
    double number = 0;
    std::from_chars(text.data(), text.data() + text.size(), number);  // whatever the locale
    return fmt::format("{:.{}f}", number, places);
  };
  const auto without_sign_of_zero = [](const std::string& text) {
    return text.find_first_of("123456789") == std::string::npos && text[0] == '-' ? text.substr(1) : text;
  };
  const std::string u_text = scaled(standard_uncertainty, decimals);
  std::string u_digits;
  for (const char c : u_text) {
    if (c != '.' && !(c == '0' && u_digits.empty())) u_digits += c;
  }
  // From 10 upwards the uncertainty is written with its decimal point, so that 12.3(4.5) cannot be misread.
  const bool has_whole_part = u_text.find('.') != std::string::npos && u_text[0] != '0';
  const std::string body =
      fmt::format("{}({})", without_sign_of_zero(scaled(value, decimals)), has_whole_part ? u_text : u_digits);
  return shift == 0 ? body : fmt::format("{}e{}", body, shift);
}

std::string limit_text(double limit, double scale) {
  if (std::isinf(limit)) return limit < 0 ? "no lower limit" : "no upper limit";
  if (!(scale > 0) || !std::isfinite(scale)) return rounded(limit, 6);
  if (limit == 0) return "0";
  const int digits = exponent_after_rounding(limit, 2) - exponent_after_rounding(scale, 2) + 2;
  return rounded(limit, std::clamp(digits, 1, 17));
}

std::string interval_text(double low, double high, double scale) {
  return limit_text(low, scale) + " to " + limit_text(high, scale);
}

std::string probability_text(double p) {
  if (p >= 0.001) return fmt::format("{:.3f}", p);
  return p > 0 ? scientific(p, 2) : "below 1e-300";
}

std::string p_equals(double p) {
  if (std::isnan(p)) return "p = -";
  return (p > 0 ? "p = " : "p ") + probability_text(p);
}

}  // namespace truecurve
