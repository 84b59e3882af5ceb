// Ranges after the blocks of the Unicode Standard, version 15: punctuation, symbols and operators are not letters.
#include "letters.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Range = std::pair<char32_t, char32_t>;
// Blocks (or their parts) without letters, ascending.
constexpr std::array<Range, 19> not_letters = {{
    {0x80, 0xA9},        // controls, no-break blank, signs
    {0xAB, 0xB4},        // signs, degree, plus-minus, raised 2 and 3
    {0xB6, 0xB9},        // signs, raised 1
    {0xBB, 0xBF},        // quotation, fractions
    {0xD7, 0xD7},        // multiplication sign
    {0xF7, 0xF7},        // division sign
    {0x2000, 0x207F},    // blanks, dashes, quotation marks, raised figures
    {0x208A, 0x208F},    // lowered plus, minus, equals, brackets
    {0x20A0, 0x20FF},    // currencies, combining marks for symbols
    {0x2150, 0x218F},    // fractions, Roman numerals
    {0x2190, 0x2BFF},    // arrows, operators, technical, boxes, shapes, dingbats
    {0x2E00, 0x2E7F},    // further punctuation
    {0x3000, 0x3004},    // ideographic blank and punctuation
    {0x3008, 0x3030},    // brackets
    {0xE000, 0xF8FF},    // private use
    {0xFE00, 0xFE6F},    // variation selectors, small punctuation
    {0xFEFF, 0xFF20},    // byte order mark, wide punctuation and digits
    {0xFFE0, 0xFFFF},    // wide signs, replacement character
    {0x1F000, 0x10FFFF}  // pictures, tags, private use
}};

struct Sign {
  char32_t code;
  std::string_view instead;
};
constexpr std::array<Sign, 46> signs = {{
    {0xD7, "*"},
    {0xB7, "*"},
    {0x2217, "*"},
    {0x22C5, "*"},
    {0x2219, "*"},
    {0x2022, "*"},
    {0x2212, "-"},
    {0x2010, "-"},
    {0x2011, "-"},
    {0x2012, "-"},
    {0x2013, "-"},
    {0x2014, "-"},
    {0xF7, "/"},
    {0x2044, "/"},
    {0x2215, "/"},
    {0x2070, "^0"},
    {0xB9, "^1"},
    {0xB2, "^2"},
    {0xB3, "^3"},
    {0x2074, "^4"},
    {0x2075, "^5"},
    {0x2076, "^6"},
    {0x2077, "^7"},
    {0x2078, "^8"},
    {0x2079, "^9"},
    {0x207B, "^(-1)"},
    {0x221A, "sqrt(...)"},
    {0x221B, "cbrt(...)"},
    {0xBD, "0.5"},
    {0xBC, "0.25"},
    {0xBE, "0.75"},
    {0x2153, "(1/3)"},
    {0x2154, "(2/3)"},
    {0x2264, "<="},
    {0x2265, ">="},
    {0x2260, "!="},
    {0x3C0, "pi"},
    {0xA0, "an ordinary blank"},
    {0x2009, "an ordinary blank"},
    {0x202F, "an ordinary blank"},
    {0x3000, "an ordinary blank"},
    {0x2018, "names without quotation marks"},
    {0x2019, "names without quotation marks"},
    {0x201C, "names without quotation marks"},
    {0x201D, "names without quotation marks"},
    {0xB0, "the unit beside the column, not in the model"},
}};

}  // namespace

Character character_at(std::string_view text, std::size_t at) {
  const auto byte = [&](std::size_t k) { return static_cast<unsigned char>(text[at + k]); };
  const unsigned char lead = byte(0);
  const std::size_t bytes = lead < 0x80 ? 1 : lead >= 0xF0 ? 4 : lead >= 0xE0 ? 3 : lead >= 0xC0 ? 2 : 0;
  if (bytes == 0 || at + bytes > text.size()) return {};
  char32_t code = bytes == 1 ? lead : lead & (0xFFu >> (bytes + 1));
  for (std::size_t k = 1; k < bytes; ++k) {
    if ((byte(k) & 0xC0) != 0x80) return {};
    code = code << 6 | (byte(k) & 0x3F);
  }
  return {code, bytes};
}

bool is_letter(char32_t code) {
  // The ratio of a circle must not become a parameter.
  constexpr char32_t pi = 0x3C0;
  if (code == pi) return false;
  return std::none_of(not_letters.begin(), not_letters.end(),
                      [code](const Range& range) { return range.first <= code && code <= range.second; });
}

std::string instead_of_sign(char32_t code) {
  const auto at = std::find_if(signs.begin(), signs.end(), [code](const Sign& sign) { return sign.code == code; });
  return at == signs.end() ? "write it with letters, digits and + - * / ^ ( )" : fmt::format("write {}", at->instead);
}

}  // namespace truecurve::detail
