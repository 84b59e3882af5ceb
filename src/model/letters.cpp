// Ranges after the blocks of the Unicode Standard, version 15: punctuation, symbols and operators are not letters.
#include "letters.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using CodePoints = std::pair<char32_t, char32_t>;
// Blocks (or their parts) without letters, ascending.
constexpr std::array<CodePoints, 19> not_letters = {{
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
  std::string_view plain;
};
// Signs that mean what they look like.
constexpr std::array<Sign, 33> typeset = {{
    {0xD7, "*"},       {0xB7, "*"},       {0x2217, "*"},  {0x22C5, "*"},  {0x2219, "*"},  {0x2022, "*"},
    {0x2212, "-"},     {0x2010, "-"},     {0x2011, "-"},  {0x2012, "-"},  {0x2013, "-"},  {0x2014, "-"},
    {0xF7, "/"},       {0x2044, "/"},     {0x2215, "/"},  {0xBD, "0.5"},  {0xBC, "0.25"}, {0xBE, "0.75"},
    {0x2153, "(1/3)"}, {0x2154, "(2/3)"}, {0x2264, "<="}, {0x2265, ">="}, {0x2260, "!="}, {0x3C0, "pi"},
    {0xA0, " "},       {0x2009, " "},     {0x202F, " "},  {0x2007, " "},  {0x3000, " "},  {0x2018, "'"},
    {0x2019, "'"},     {0xFEFF, ""},      {0x2008, " "},
}};
// Raised figures, in the order of their value; then plus and minus.
constexpr std::array<char32_t, 12> raised_figures = {0x2070, 0xB9,   0xB2,   0xB3,   0x2074, 0x2075,
                                                     0x2076, 0x2077, 0x2078, 0x2079, 0x207A, 0x207B};
constexpr char32_t square_root = 0x221A;
constexpr char32_t cube_root = 0x221B;
// Signs without a meaning in a formula, and what to do about them.
constexpr std::array<Sign, 3> meaningless = {{
    {0x201C, "write a column's header in single quotation marks: 'Drying time'"},
    {0x201D, "write a column's header in single quotation marks: 'Drying time'"},
    {0xB0, "write the unit beside the column, not in the model"},
}};

// What a root is taken of where no bracket follows: one name or number.
std::string_view operand_at(std::string_view text, std::size_t at) {
  if (at < text.size() && text[at] == '\'') {
    const std::size_t end = end_of_quotation(text, at);
    return end == std::string_view::npos ? std::string_view() : text.substr(at, end - at);
  }
  std::size_t end = at;
  while (end < text.size()) {
    const char c = text[end];
    const Character character = character_at(text, end);
    const bool belongs = character.code >= 0x80 ? is_letter(character.code)
                                                : (c >= '0' && c <= '9') || (c >= 'a' && c <= 'z') ||
                                                      (c >= 'A' && c <= 'Z') || c == '_' || c == '.';
    if (!belongs || character.bytes == 0) break;
    end += character.bytes;
  }
  return text.substr(at, end - at);
}

// The exponent that raised figures from `at` on write, and where they end.
std::pair<std::string, std::size_t> raised_at(std::string_view text, std::size_t at) {
  std::string digits;
  while (at < text.size()) {
    const Character character = character_at(text, at);
    const auto found = std::find(raised_figures.begin(), raised_figures.end(), character.code);
    if (found == raised_figures.end()) break;
    digits += "0123456789+-"[found - raised_figures.begin()];
    at += character.bytes;
  }
  if (!digits.empty() && (digits[0] == '+' || digits[0] == '-')) digits = "(" + digits + ")";
  return {digits, at};
}

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
                      [code](const CodePoints& range) { return range.first <= code && code <= range.second; });
}

std::size_t end_of_quotation(std::string_view text, std::size_t at) {
  for (std::size_t k = at + 1; k < text.size(); ++k) {
    if (text[k] != '\'') continue;
    if (k + 1 == text.size() || text[k + 1] != '\'') return k + 1;
    ++k;
  }
  return std::string_view::npos;
}

std::string plain_formula(std::string_view text) {
  std::string plain;
  for (std::size_t at = 0; at < text.size();) {
    if (text[at] == '\'') {
      const std::size_t end = std::min(end_of_quotation(text, at), text.size());
      plain += text.substr(at, end - at);
      at = end;
      continue;
    }
    const Character character = character_at(text, at);
    if (character.code < 0x80) {
      plain += text[at++];
      continue;
    }
    if (const auto [exponent, end] = raised_at(text, at); !exponent.empty()) {
      plain += "^" + exponent;
      at = end;
      continue;
    }
    at += character.bytes;
    if (character.code == square_root || character.code == cube_root) {
      plain += character.code == square_root ? "sqrt" : "cbrt";
      const std::string_view operand = operand_at(text, at);
      if (!operand.empty()) plain += fmt::format("({})", plain_formula(operand));
      at += operand.size();
      continue;
    }
    const auto sign =
        std::find_if(typeset.begin(), typeset.end(), [&](const Sign& one) { return one.code == character.code; });
    plain += sign == typeset.end() ? text.substr(at - character.bytes, character.bytes) : sign->plain;
  }
  return plain;
}

std::string instead_of_sign(char32_t code) {
  const auto at =
      std::find_if(meaningless.begin(), meaningless.end(), [code](const Sign& sign) { return sign.code == code; });
  return at == meaningless.end() ? "write it with letters, digits and + - * / ^ ( )" : std::string(at->plain);
}

}  // namespace truecurve::detail
