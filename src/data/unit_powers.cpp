#include "unit_powers.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <optional>
#include <string_view>
#include <utility>

namespace truecurve::detail {
namespace {

// Reads a unit from left to right; what it can't read makes the whole unit one of its own.
class UnitReader {
 public:
  explicit UnitReader(std::string_view text) : text_(text) {}

  [[nodiscard]] std::optional<std::vector<UnitPower>> read() {
    std::vector<UnitPower> powers = product();
    if (failed_ || at_ < text_.size()) return {};
    return powers;
  }

 private:
  static constexpr int deepest = 16;

  bool skip(std::string_view sign) {
    if (!text_.substr(at_).starts_with(sign)) return false;
    at_ += sign.size();
    return true;
  }
  [[nodiscard]] char next() const { return at_ < text_.size() ? text_[at_] : '\0'; }
  [[nodiscard]] static bool is_digit(char c) { return c >= '0' && c <= '9'; }

  std::vector<UnitPower> product() {
    std::vector<UnitPower> all;
    int sign = 1;
    while (!failed_ && at_ < text_.size() && next() != ')') {
      if (skip(" ") || skip("*") || skip("·") || skip("×")) continue;
      if (skip("/")) {
        sign = -1;
        continue;
      }
      for (UnitPower& power : factor()) {
        power.power *= sign;
        all.push_back(std::move(power));
      }
    }
    return all;
  }

  std::vector<UnitPower> factor() {
    std::vector<UnitPower> inner;
    if (skip("(")) {
      if (++depth_ > deepest) failed_ = true;
      inner = product();
      if (!skip(")")) failed_ = true;
      --depth_;
    } else {
      const std::size_t from = at_;
      while (at_ < text_.size() && !ends_symbol()) ++at_;
      std::string symbol(text_.substr(from, at_ - from));
      if (symbol.empty() && skip("1") && !is_digit(next()) && next() != '.') return {};
      if (symbol.empty()) failed_ = true;
      if (symbol != "rad") inner.push_back({symbol, symbol, 1});
    }
    const Rational by = exponent();
    for (UnitPower& power : inner) power.power *= by;
    return inner;
  }

  // At the exponent, or at what stands between factors.
  [[nodiscard]] bool ends_symbol() const {
    static constexpr std::array<std::string_view, 14> ends = {"·", "×", "⁰", "¹", "²", "³", "⁴",
                                                              "⁵", "⁶", "⁷", "⁸", "⁹", "⁻", "−"};
    const std::string_view rest = text_.substr(at_);
    if (std::string_view(" */()^-0123456789").find(rest.front()) != std::string_view::npos) return true;
    return std::any_of(ends.begin(), ends.end(), [&](std::string_view end) { return rest.starts_with(end); });
  }

  // 1 where none is written.
  Rational exponent() {
    const bool has_caret = skip("^");
    const bool in_brackets = has_caret && skip("(");
    const bool is_negative = skip("-") || skip("⁻") || skip("−");
    std::optional<int> top = whole();
    if (!top && !has_caret && !is_negative) return 1;
    std::optional<int> bottom = 1;
    if (in_brackets && skip("/")) bottom = whole();
    if (!top || !bottom || *bottom == 0 || (in_brackets && !skip(")"))) {
      failed_ = true;
      return 1;
    }
    return Rational(is_negative ? -*top : *top, *bottom);
  }

  std::optional<int> whole() {
    static constexpr std::array<std::string_view, 10> raised = {"⁰", "¹", "²", "³", "⁴", "⁵", "⁶", "⁷", "⁸", "⁹"};
    std::optional<int> number;
    const auto append = [&](int digit) { number = std::min(number.value_or(0) * 10 + digit, 999); };
    while (true) {
      if (is_digit(next())) {
        append(next() - '0');
        ++at_;
        continue;
      }
      const auto* const digit =
          std::find_if(raised.begin(), raised.end(), [&](std::string_view sign) { return skip(sign); });
      if (digit == raised.end()) return number;
      append(static_cast<int>(digit - raised.begin()));
    }
  }

  std::string_view text_;
  std::size_t at_ = 0;
  int depth_ = 0;
  bool failed_ = false;
};

std::string key_of(std::string symbol) {
  for (const std::string_view micro : {"µ", "μ"}) {
    if (symbol.starts_with(micro)) symbol.replace(0, micro.size(), "u");
  }
  for (const std::string_view degree : {"ºC", "℃", "degC"}) {
    if (symbol == degree) return "°C";
  }
  if (symbol.ends_with("l") && symbol.size() <= 2) symbol.back() = 'L';
  return symbol;
}

}  // namespace

std::vector<UnitPower> unit_powers(const std::string& unit) {
  if (unit.empty() || unit == "-" || unit == "–") return {};
  const auto read = UnitReader(unit).read();
  std::vector<UnitPower> merged;
  for (UnitPower power : read.value_or(std::vector<UnitPower>{{unit, unit, 1}})) {
    power.key = key_of(power.key);
    const auto at =
        std::find_if(merged.begin(), merged.end(), [&](const UnitPower& other) { return other.key == power.key; });
    if (at == merged.end()) {
      merged.push_back(std::move(power));
    } else {
      at->power += power.power;
    }
  }
  std::erase_if(merged, [](const UnitPower& power) { return power.power == 0; });
  return merged;
}

}  // namespace truecurve::detail
