// The words of a model text, and what is said of texts that are no models.
#pragma once

#include <truecurve/base/error.hpp>

#include "graph.hpp"

#include <optional>
#include <string>
#include <string_view>

namespace truecurve::detail {

[[nodiscard]] std::optional<Op> function_named(std::string_view name);
/// A function or another word of the language.
[[nodiscard]] bool is_word(std::string_view name);

/// A mistake found while reading, by byte offset; turned into an Error with line, column and caret by the caller.
struct Mistake {
  ErrorCode code;
  std::size_t at;
  std::string message;
  std::string subject;
  std::string remedy;
};

/// Throws the Error with the text, line and column and a caret.
[[noreturn]] void throw_at(std::string_view text, Mistake mistake);

/// What can be said before the grammar is tried: size, brackets, unknown functions. Throws Error.
void check_before(std::string_view text);

/// The grammar stopped at this byte: says why in the user's terms.
[[nodiscard]] Mistake diagnose(std::string_view text, std::size_t at, bool wants_equation);

}  // namespace truecurve::detail
