// Diagnoses what does not fit the grammar.
#include "parser_mistakes.hpp"

#include <truecurve/data/table.hpp>

#include "letters.hpp"
#include "parser.hpp"

#include <algorithm>
#include <array>
#include <utility>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// Far beyond any formula a person writes; the parser recurses once a bracket, so the depth must be bounded.
constexpr std::size_t longest_text = 10'000;
constexpr int deepest_bracket = 100;

struct FunctionName {
  std::string_view name;
  Op op;
};
constexpr std::array<FunctionName, 19> functions = {{{"exp", Op::exp},
                                                     {"ln", Op::ln},
                                                     {"log10", Op::log10},
                                                     {"log2", Op::log2},
                                                     {"sqrt", Op::sqrt},
                                                     {"cbrt", Op::cbrt},
                                                     {"abs", Op::abs},
                                                     {"sin", Op::sin},
                                                     {"cos", Op::cos},
                                                     {"tan", Op::tan},
                                                     {"asin", Op::asin},
                                                     {"acos", Op::acos},
                                                     {"atan", Op::atan},
                                                     {"sinh", Op::sinh},
                                                     {"cosh", Op::cosh},
                                                     {"tanh", Op::tanh},
                                                     {"erf", Op::erf},
                                                     {"erfc", Op::erfc},
                                                     {"min", Op::minimum}}};
constexpr std::array<std::string_view, 7> other_words = {"max", "cases", "otherwise", "and", "or", "not", "pi"};

bool starts_word(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_' || static_cast<unsigned char>(c) >= 0x80;
}
bool in_word(char c) { return starts_word(c) || (c >= '0' && c <= '9'); }

std::string_view word_at(std::string_view text, std::size_t at) {
  std::size_t end = at;
  while (end < text.size() && in_word(text[end])) ++end;
  return text.substr(at, end - at);
}

// Letters of a name, and a function that is called so.
void check_word(std::string_view text, std::size_t at) {
  for (std::size_t k = at; k < text.size() && in_word(text[k]);) {
    const Character character = character_at(text, k);
    if (character.code >= 0x80 && !is_letter(character.code)) {
      const std::string sign(text.substr(k, character.bytes));
      throw_at(text, {ErrorCode::syntax, k, fmt::format("'{}' is not part of a formula", sign), sign,
                      instead_of_sign(character.code)});
    }
    k += std::max<std::size_t>(1, character.bytes);
  }
  const std::string_view word = word_at(text, at);
  std::size_t after = at + word.size();
  while (after < text.size() && text[after] == ' ') ++after;
  const bool called = after < text.size() && text[after] == '(';
  if (!called || is_word(word)) return;
  if (word == "log") {
    throw_at(text, {ErrorCode::unknown_function, at, "'log' means different things to different people", "log",
                    "write ln for the natural or log10 for the decimal logarithm"});
  }
  std::vector<std::string> known;
  for (const FunctionName& function : functions) known.emplace_back(function.name);
  known.emplace_back("max");
  const std::string nearest = word == "arctan"   ? "atan"
                              : word == "arcsin" ? "asin"
                              : word == "arccos" ? "acos"
                                                 : nearest_name(word, known);
  throw_at(text, {ErrorCode::unknown_function, at, fmt::format("there is no function '{}'", word), std::string(word),
                  (nearest.empty() ? "" : fmt::format("did you mean '{}'? ", nearest)) +
                      fmt::format("To multiply write {}*(...)", word)});
}

// Of the quotation that ends before a place.
std::size_t start_of_quotation(std::string_view text, std::size_t end) {
  std::size_t at = text.find('\'');
  while (at < end && end_of_quotation(text, at) < end) at = text.find('\'', at + 1);
  return std::min(at, end);
}

}  // namespace

std::optional<Op> function_named(std::string_view name) {
  for (const FunctionName& function : functions) {
    if (function.name == name) return function.op;
  }
  if (name == "max") return Op::maximum;
  return std::nullopt;
}

bool is_word(std::string_view name) {
  for (const std::string_view word : other_words) {
    if (word == name) return true;
  }
  return function_named(name).has_value();
}

void throw_at(std::string_view text, Mistake mistake) {
  const std::size_t at = std::min(mistake.at, text.size());
  // The caret must stand under the character, and a character may be several bytes.
  std::size_t column = 0;
  for (std::size_t i = 0; i < at; ++i) column += (static_cast<unsigned char>(text[i]) & 0xC0) != 0x80;
  constexpr std::size_t longest = 20;
  std::string_view value = text.substr(at);
  if (value.size() > longest) {  // not within a letter of several bytes
    std::size_t end = longest;
    while (end > 0 && (static_cast<unsigned char>(value[end]) & 0xC0) == 0x80) --end;
    value = value.substr(0, end);
  }
  std::string shown(text);
  for (char& c : shown) {
    if (c == '\n' || c == '\t' || c == '\r') c = ' ';
  }
  throw Error({.code = mistake.code,
               .message = std::move(mistake.message),
               .subject = std::move(mistake.subject),
               .value = std::string(value),
               .remedy = std::move(mistake.remedy),
               .excerpt = fmt::format("    {}\n    {}^", shown, std::string(column, ' ')),
               .place = {.file = "model text", .line = 1, .column = column + 1}});
}

void check_before(std::string_view text) {
  if (text.size() > longest_text) {
    throw_at(
        "", {ErrorCode::model_too_large, 0,
             fmt::format("the text has {} characters; {} are the limit", text.size(), longest_text), "", "shorten it"});
  }
  std::vector<std::size_t> open;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (c == '\'') {
      const std::size_t end = end_of_quotation(text, i);
      if (end == std::string_view::npos || end == i + 2) {
        const bool empty = end != std::string_view::npos;
        throw_at(text, {ErrorCode::syntax, i,
                        empty ? "no name stands in these quotation marks" : "this quotation mark is never closed", "'",
                        "write a column's header between two single quotation marks: 'Drying time'"});
      }
      i = end - 1;
    } else if (c == '(') {
      open.push_back(i);
      if (open.size() > static_cast<std::size_t>(deepest_bracket)) {
        throw_at(text, {ErrorCode::model_too_large, i, fmt::format("brackets nest deeper than {}", deepest_bracket),
                        "(", "write the expression with fewer brackets"});
      }
    } else if (c == ')') {
      if (open.empty()) {
        throw_at(text, {ErrorCode::unbalanced_bracket, i, "this bracket closes nothing", ")",
                        "remove it, or open a bracket before it"});
      }
      open.pop_back();
    } else if (starts_word(c)) {
      check_word(text, i);
      i += word_at(text, i).size() - 1;
    }
  }
  if (!open.empty()) {
    throw_at(text,
             {ErrorCode::unbalanced_bracket, open.back(), "this bracket is never closed", "(", "close it with )"});
  }
}

Mistake diagnose(std::string_view text, std::size_t at, bool wants_equation) {
  std::size_t before = at;
  while (before > 0 && text[before - 1] == ' ') --before;
  const char previous = before > 0 ? text[before - 1] : '\0';
  const char here = at < text.size() ? text[at] : '\0';
  const bool after_operand = in_word(previous) || previous == ')' || previous == '.' || previous == '\'';
  if (after_operand && (starts_word(here) || here == '(' || (here >= '0' && here <= '9'))) {
    std::size_t start = previous == '\'' ? start_of_quotation(text, before) : before;
    while (start > 0 && (in_word(text[start - 1]) || text[start - 1] == '.')) --start;
    const std::string left(start < before ? text.substr(start, before - start) : std::string_view("(...)"));
    const std::string right(starts_word(here) ? word_at(text, at)
                            : here == '('     ? std::string_view("(...)")
                                              : word_at(text, at));
    return {ErrorCode::missing_operator, at, "an operator is missing here", right,
            fmt::format("to multiply write {}*{}", left, right)};
  }
  if (here == '*' && previous == '*') {
    return {ErrorCode::syntax, at, "'**' is not an operator", "**", "write ^ for a power"};
  }
  if (at >= text.size()) {
    if (wants_equation && text.find('=') == std::string_view::npos) {
      return {ErrorCode::syntax, at, "a model is an equation, and there is no '=' here", "", "write it as y = ..."};
    }
    return {ErrorCode::syntax, at, "the text ends where a value is expected", "", "complete the expression"};
  }
  if (here == '=') {
    return {ErrorCode::syntax, at, "'=' can't stand here", "=",
            wants_equation ? "a model has one '='; to compare write ==" : "to compare write =="};
  }
  if (here == '<' || here == '>') {
    return {ErrorCode::syntax, at, "a comparison can't stand here", std::string(1, here),
            "compare inside cases(...), once in each condition: a < x and x < b"};
  }
  if (here == '"' || here == '`') {
    return {ErrorCode::syntax, at, "a header stands in single quotation marks", std::string(1, here),
            "write 'Drying time'; plain names need no marks"};
  }
  if (here == '~') {
    return {ErrorCode::syntax, at, "'~' can't stand here", "~",
            "a model is an equation with its parameters: y = a + b*x"};
  }
  if (here == ',' && previous >= '0' && previous <= '9') {
    return {ErrorCode::syntax, at, "a comma can't stand here", ",", "write decimal numbers with a point: 0.5"};
  }
  return {ErrorCode::syntax, at,
          after_operand ? fmt::format("'{}' can't stand here", here)
                        : fmt::format("a value is expected here, not '{}'", here),
          std::string(1, here), "write ordinary maths: + - * / ^, brackets, and functions such as exp(...)"};
}

std::string without_quotation_marks(std::string_view quoted) {
  std::string name;
  for (std::size_t i = 1; i + 1 < quoted.size(); ++i) {
    name += quoted[i];
    i += quoted[i] == '\'';
  }
  return name;
}

std::string in_formula(std::string_view name) {
  if (is_plain_name(name)) return std::string(name);
  std::string quoted = "'";
  for (const char c : name) quoted += c == '\'' ? "''" : std::string(1, c);
  return quoted + "'";
}

bool is_plain_name(std::string_view text) {
  if (text.empty() || !starts_word(text.front()) || word_at(text, 0).size() != text.size() || is_word(text))
    return false;
  for (std::size_t at = 0; at < text.size();) {
    const Character character = character_at(text, at);
    if (character.bytes == 0 || (character.code >= 0x80 && !is_letter(character.code))) return false;
    at += character.bytes;
  }
  return true;
}

}  // namespace truecurve::detail
