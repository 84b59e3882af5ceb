// Finds the columns of a table in a formula by their headers.
#include <truecurve/model/headers.hpp>

#include "letters.hpp"
#include "parser.hpp"

#include <algorithm>
#include <utility>
#include <vector>

namespace truecurve {
namespace {

bool continues_word(std::string_view text, std::size_t at) {
  if (at >= text.size()) return false;
  const char c = text[at];
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' ||
         static_cast<unsigned char>(c) >= 0x80;
}

// Whether a header consists of words set apart by blanks, with or without a unit in brackets: such a text has no other
// meaning in a formula.
bool is_several_words(std::string_view header) {
  const std::size_t bracket = header.find_first_of("([");
  if (bracket != std::string_view::npos && (bracket == 0 || header[bracket - 1] != ' ')) return false;
  std::string_view words = header.substr(0, bracket);
  bool several = bracket != std::string_view::npos;
  while (!words.empty() && words.back() == ' ') words.remove_suffix(1);
  for (std::size_t start = 0; start < words.size();) {
    const std::size_t end = std::min(words.find(' ', start), words.size());
    const std::string_view word = words.substr(start, end - start);
    if (!std::all_of(word.begin(), word.end(), [](const char& c) { return continues_word({&c, 1}, 0); })) return false;
    several = several || start > 0;
    start = end + 1;
  }
  return several;
}

// Every header that can't be mistaken for maths, the longest first, each with its column's name.
std::vector<std::pair<std::string_view, std::string_view>> clear_headers(const Table& table) {
  std::vector<std::pair<std::string_view, std::string_view>> headers;
  for (const Column& column : table.columns()) {
    for (const std::string* spelling : {&column.name, &column.own_name, &column.header}) {
      if (is_several_words(*spelling)) headers.emplace_back(*spelling, column.name);
    }
  }
  std::stable_sort(headers.begin(), headers.end(),
                   [](const auto& a, const auto& b) { return a.first.size() > b.first.size(); });
  return headers;
}

}  // namespace

std::string name_in_formula(std::string_view name) { return detail::in_formula(name); }

std::string with_columns_named(std::string_view formula, const Table& table) {
  const auto headers = clear_headers(table);
  std::string named;
  for (std::size_t at = 0; at < formula.size();) {
    if (formula[at] == '\'') {
      const std::size_t end = detail::end_of_quotation(formula, at);
      if (end == std::string_view::npos) return named.append(formula.substr(at));
      const std::string_view quoted = formula.substr(at, end - at);
      const std::string name = detail::without_quotation_marks(quoted);
      named += table.has_column(name) ? detail::in_formula(table.column(name).name) : std::string(quoted);
      at = end;
      continue;
    }
    const bool begins = at == 0 || !continues_word(formula, at - 1);
    const auto found = !begins ? headers.end() : std::find_if(headers.begin(), headers.end(), [&](const auto& header) {
      const std::string_view text = header.first;
      return formula.substr(at).starts_with(text) &&
             !(continues_word(text, text.size() - 1) && continues_word(formula, at + text.size()));
    });
    if (found == headers.end()) {
      named += formula[at++];
      continue;
    }
    named += detail::in_formula(found->second);
    at += found->first.size();
  }
  return named;
}

std::string with_name_replaced(std::string_view formula, std::string_view name, std::string_view by) {
  std::string replaced;
  for (std::size_t at = 0; at < formula.size();) {
    std::size_t end = at;
    if (formula[at] == '\'') {
      end = std::min(detail::end_of_quotation(formula, at), formula.size());
    } else {
      while (continues_word(formula, end)) ++end;
      end = std::max(end, at + 1);
    }
    const std::string_view word = formula.substr(at, end - at);
    replaced += word == name ? by : word;
    at = end;
  }
  return replaced;
}

std::string header_without_marks(std::string_view formula, const Table& table) {
  std::string_view longest;
  for (const Column& column : table.columns()) {
    for (const std::string* spelling : {&column.name, &column.header}) {
      if (detail::is_plain_name(*spelling) || spelling->size() <= longest.size()) continue;
      for (std::size_t at = formula.find(*spelling); at != std::string_view::npos;
           at = formula.find(*spelling, at + 1)) {
        if (at > 0 && formula[at - 1] == '\'') continue;
        longest = *spelling;
        break;
      }
    }
  }
  return std::string(longest);
}

}  // namespace truecurve
