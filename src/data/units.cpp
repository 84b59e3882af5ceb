// Units that differ by a prefix of the SI.
#include <truecurve/data/units.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <string_view>
#include <vector>

namespace truecurve {
namespace {

constexpr std::array<std::string_view, 21> bases = {"g", "mol", "L",  "l",  "m",      "V",   "A",
                                                    "W", "Hz",  "s",  "Pa", "bar",    "J",   "N",
                                                    "K", "C",   "Bq", "eV", "counts", "cts", "cps"};
struct Prefix {
  std::string_view sign;
  int power;
};
constexpr std::array<Prefix, 12> prefixes = {{{"", 0},
                                              {"p", -12},
                                              {"n", -9},
                                              {"u", -6},
                                              {"m", -3},
                                              {"c", -2},
                                              {"d", -1},
                                              {"h", 2},
                                              {"k", 3},
                                              {"M", 6},
                                              {"G", 9},
                                              {"T", 12}}};

void replace_all(std::string& text, std::string_view what, std::string_view by) {
  for (std::size_t at = 0; (at = text.find(what, at)) != std::string::npos; at += by.size())
    text.replace(at, what.size(), by);
}

// One notation for what is written in several.
std::string plain(std::string unit) {
  for (const char* micro : {"µ", "μ"}) replace_all(unit, micro, "u");
  replace_all(unit, "²", "^2");
  replace_all(unit, "³", "^3");
  for (const char* times : {"·", "*"}) replace_all(unit, times, " ");
  return unit;
}

// The factors of a unit; those beneath a stroke count once less.
struct UnitFactor {
  std::string text;
  int sign = 1;
};

std::vector<UnitFactor> factors_of(const std::string& unit) {
  std::vector<UnitFactor> factors;
  std::string text;
  int sign = 1;
  for (const char c : unit + " ") {
    if (c != ' ' && c != '/') {
      text += c;
      continue;
    }
    if (!text.empty()) factors.push_back({text, sign});
    text.clear();
    if (c == '/') sign = -1;
  }
  return factors;
}

struct Part {
  std::string base;
  int power = 0;  // of ten
};

// A base of the list with its prefix, each to its exponent; anything else stands for itself.
Part part_of(const std::string& text) {
  const auto caret = text.find('^');
  const std::string exponent = caret == std::string::npos ? "" : text.substr(caret + 1);
  const std::string name = text.substr(0, caret);
  const int times = exponent == "2" ? 2 : exponent == "3" ? 3 : 1;
  if (!exponent.empty() && times == 1) return {text, 0};
  for (const std::string_view base : bases) {
    for (const Prefix& prefix : prefixes) {
      if (name == std::string(prefix.sign) + std::string(base))
        return {std::string(base == "l" ? "L" : base) + "^" + std::to_string(times), times * prefix.power};
    }
  }
  return {text, 0};
}

}  // namespace

std::optional<double> unit_factor(const std::string& from, const std::string& to) {
  const std::string a = plain(from);
  const std::string b = plain(to);
  if (a.empty() || b.empty() || a == b) return 1;
  const std::vector<UnitFactor> from_factors = factors_of(a);
  const std::vector<UnitFactor> to_factors = factors_of(b);
  if (from_factors.size() != to_factors.size()) return {};
  int power = 0;
  for (std::size_t i = 0; i < from_factors.size(); ++i) {
    const Part x = part_of(from_factors[i].text);
    const Part y = part_of(to_factors[i].text);
    if (x.base != y.base || from_factors[i].sign != to_factors[i].sign) return {};
    power += from_factors[i].sign * (x.power - y.power);
  }
  return std::pow(10.0, power);
}

bool is_known_unit(const std::string& unit) {
  static constexpr std::array<std::string_view, 19> others = {
      "min", "h", "d", "a", "%", "‰", "ppm", "ppb", "°", "°C", "ºC", "℃", "degC", "deg", "rad", "°F", "T", "sec", "hr"};
  const std::vector<UnitFactor> factors = factors_of(plain(unit));
  return !factors.empty() && std::all_of(factors.begin(), factors.end(), [](const UnitFactor& factor) {
    std::string name = factor.text;
    std::erase_if(name, [](char c) { return c == '(' || c == ')' || c == '^'; });
    // The exponent: cm3, s-1.
    while (name.size() > 1 && (name.back() == '-' || (name.back() >= '0' && name.back() <= '9'))) name.pop_back();
    const bool is_other = std::find(others.begin(), others.end(), name) != others.end();
    return is_other || name == "1" || part_of(name).base != name;
  });
}

std::optional<double> unit_factor_of_differences(const std::string& from, const std::string& to) {
  const auto in_kelvin = [](std::string unit) {
    for (const char* degree : {"°C", "ºC", "℃", "degC", "deg C"}) replace_all(unit, degree, "K");
    return unit;
  };
  return unit_factor(in_kelvin(from), in_kelvin(to));
}

}  // namespace truecurve
