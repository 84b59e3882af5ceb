// The data of a page as CSV.
#include <truecurve/base/numeric.hpp>
#include <truecurve/report/renderers.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <string_view>
#include <type_traits>

namespace truecurve {
namespace {

bool is_number(std::string_view text) {
  if (text.starts_with('+')) text.remove_prefix(1);
  double value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  return error == std::errc() && end == text.data() + text.size();
}

// What a spreadsheet would take for a formula: signs, in their wide forms too, and what some leave away before them.
bool begins_as_formula(std::string_view text) {
  for (const std::string_view sign :
       {"=", "+", "-", "@", "\t", "\r", "\xef\xbc\x9d", "\xef\xbc\x8b", "\xef\xbc\x8d", "\xef\xbc\xa0"}) {
    if (text.starts_with(sign)) return !is_number(text);
  }
  return false;
}

// Quoted where it must be (RFC 4180).
std::string field(const std::string& text, const CsvStyle& style) {
  if (text.find_first_of(style.decimal_comma ? ",;\"\n\r" : ",\"\n\r") == std::string::npos) return text;
  std::string quoted = "\"";
  for (const char c : text) {
    if (c == '"') quoted += '"';
    quoted += c;
  }
  return quoted + "\"";
}

std::string field(double value, const CsvStyle& style) {
  if (std::isnan(value)) return "";
  if (std::isinf(value)) return value > 0 ? "inf" : "-inf";
  std::string text = shortest(value);
  if (style.decimal_comma) std::replace(text.begin(), text.end(), '.', ',');
  return text;
}

std::string field(std::size_t number, const CsvStyle& /*style*/) { return std::to_string(number); }

std::string guarded(const std::string& text) { return begins_as_formula(text) ? "'" + text : text; }

}  // namespace

std::string csv_of(const Page& page, const CsvStyle& style) {
  const char separator = style.decimal_comma ? ';' : ',';
  const auto shown = [&style](const std::string& text) { return style.guards_formulas ? guarded(text) : text; };
  const auto cell = [&](const auto& datum) {
    if constexpr (std::is_same_v<std::decay_t<decltype(datum)>, std::string>)
      return field(shown(datum), style);
    else
      return field(datum, style);
  };
  const PageData& data = page.data;
  std::string text;
  for (std::size_t k = 0; k < data.names.size(); ++k) {
    if (k > 0) text += separator;
    text += field(shown(data.names[k]), style);
  }
  text += "\n";
  for (const auto& row : data.rows) {
    for (std::size_t k = 0; k < row.size(); ++k) {
      if (k > 0) text += separator;
      text += std::visit(cell, row[k]);
    }
    text += "\n";
  }
  return text;
}

}  // namespace truecurve
