// Spells names.
#include "formula_names.hpp"

#include <truecurve/base/error.hpp>

#include <algorithm>
#include <string_view>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

bool is_letter_or_digit(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9'); }

}  // namespace

std::string Identifiers::of(const std::string& name) {
  std::string made;
  for (const char c : name) {
    if (is_letter_or_digit(c))
      made += c;
    else if (!made.empty() && made.back() != '_')
      made += '_';
  }
  while (!made.empty() && made.back() == '_') made.pop_back();
  if (made.empty()) made = "quantity";
  if (made[0] >= '0' && made[0] <= '9') made = "x_" + made;
  static const std::set<std::string> taken = {
      "auto",     "bool",    "break",     "case",   "catch",    "char",    "class",     "const",    "continue",
      "default",  "delete",  "do",        "double", "else",     "enum",    "explicit",  "export",   "extern",
      "false",    "float",   "for",       "friend", "goto",     "if",      "inline",    "int",      "long",
      "main",     "mutable", "namespace", "new",    "operator", "private", "protected", "public",   "register",
      "restrict", "return",  "short",     "signed", "sizeof",   "static",  "std",       "struct",   "switch",
      "template", "this",    "throw",     "true",   "try",      "typedef", "typeid",    "typename", "union",
      "unsigned", "using",   "virtual",   "void",   "volatile", "while",   "and",       "or",       "not",
      "xor",      "exp",     "log",       "log10",  "log2",     "sqrt",    "cbrt",      "fabs",     "sin",
      "cos",      "tan",     "asin",      "acos",   "atan",     "sinh",    "cosh",      "tanh",     "erf",
      "erfc",     "fmin",    "fmax",      "pow",    "abs",      "j0",      "j1",        "jn",       "y0",
      "y1",       "yn",      "gamma",     "lgamma", "tgamma",   "signgam", "I",         "M_PI",     "M_E",
      "INFINITY", "NAN",     "HUGE_VAL"};
  if (taken.contains(made)) made += '_';
  const std::string first = made;
  for (int again = 2; !used_.insert(made).second; ++again) made = fmt::format("{}_{}", first, again);
  return made;
}

std::string latex_name(const std::string& name, const std::string& ending) {
  static const std::set<std::string_view> greek = {
      "alpha", "beta",  "gamma", "delta",  "epsilon", "zeta",  "eta",     "theta", "iota", "kappa", "lambda",
      "mu",    "nu",    "xi",    "rho",    "sigma",   "tau",   "upsilon", "phi",   "chi",  "psi",   "omega",
      "Gamma", "Delta", "Theta", "Lambda", "Xi",      "Sigma", "Upsilon", "Phi",   "Psi",  "Omega"};
  const auto upright = [](std::string_view word) {
    std::string text = "\\mathrm{";
    for (const char c : word) {
      if (c == ' ')
        text += "\\ ";
      else if (std::string_view("#$%&_{}").find(c) != std::string_view::npos)
        text += std::string("\\") + c;
      else if (c == '\\')
        text += "\\backslash ";
      else if (c == '^')
        text += "\\hat{}";
      else if (c == '~')
        text += "\\sim ";
      else
        text += c;
    }
    return text + "}";
  };
  const auto base = [&](std::string_view word) {
    if (greek.contains(word)) return "\\" + std::string(word);
    return word.size() == 1 && is_letter_or_digit(word[0]) ? std::string(word) : upright(word);
  };
  std::size_t low = name.find('_');
  if (low == 0 || low + 1 == name.size()) low = std::string::npos;
  std::string lowered = low == std::string::npos ? "" : base(name.substr(low + 1));
  if (!ending.empty()) {
    std::string words = ending;
    std::replace(words.begin(), words.end(), '_', ' ');
    lowered += (lowered.empty() ? "" : ",\\,") + upright(words);
  }
  const std::string stem = base(name.substr(0, low));
  return lowered.empty() ? stem : fmt::format("{}_{{{}}}", stem, lowered);
}

void require_cell(const std::string& cell) {
  const bool plain = !cell.empty() && std::all_of(cell.begin(), cell.end(), [](char c) {
    return is_letter_or_digit(c) || c == '$' || c == '.' || c == '!' || c == '_';
  });
  if (plain) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("'{}' is not a reference to a cell", cell),
               .subject = "cell",
               .value = cell,
               .remedy = "write a cell such as A2 or $B$7"});
}

}  // namespace truecurve::detail
