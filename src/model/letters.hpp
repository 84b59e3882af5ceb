// Which characters beyond ASCII may stand in a name of written maths, and what to write instead of the others.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace truecurve::detail {

/// A character of a UTF-8 text: its code point and its bytes; zero bytes where they are no UTF-8.
struct Character {
  char32_t code = 0;
  std::size_t bytes = 0;
};
[[nodiscard]] Character character_at(std::string_view text, std::size_t at);

/// Whether a character beyond ASCII is a letter (or a subscript) and may be part of a name: eta, but not a raised 2, a
/// multiplication sign, a dash or an unusual blank, which look like maths and would silently become parameters.
[[nodiscard]] bool is_letter(char32_t code);

/// A formula with its typeset signs written out: "a·x² − √(b)" is "a*x^2 - sqrt(b)". What stands in single quotation
/// marks stays as it is, and so do signs without a meaning, which the parser refuses by name.
[[nodiscard]] std::string plain_formula(std::string_view text);

/// Where the quoted name that begins at `at` ends: behind its closing mark, two marks together being one of the name;
/// npos where it is never closed.
[[nodiscard]] std::size_t end_of_quotation(std::string_view text, std::size_t at);

/// What to write instead of a sign that is not a letter: "write ^2"; never empty.
[[nodiscard]] std::string instead_of_sign(char32_t code);

}  // namespace truecurve::detail
