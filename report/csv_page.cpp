// The data of a page as CSV.
#include <truecurve/base/numeric.hpp>
#include <truecurve/report/renderers.hpp>

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
std::string field(const std::string& text) {
  if (text.find_first_of(",\"\n\r") == std::string::npos) return text;
  std::string quoted = "\"";
  for (const char c : text) {
    if (c == '"') quoted += '"';
    quoted += c;
  }
  return quoted + "\"";
}

std::string field(double value) {
  if (std::isnan(value)) return "";
  if (std::isinf(value)) return value > 0 ? "inf" : "-inf";
  return shortest(value);
}

std::string field(std::size_t number) { return std::to_string(number); }

std::string guarded(const std::string& text) { return begins_as_formula(text) ? "'" + text : text; }

// The page's data with each text as `shown` makes it.
template <typename Shown>
std::string table_of(const PageData& data, Shown shown) {
  const auto cell = [&](const auto& datum) {
    if constexpr (std::is_same_v<std::decay_t<decltype(datum)>, std::string>)
      return field(shown(datum));
    else
      return field(datum);
  };
  std::string text;
  for (std::size_t k = 0; k < data.names.size(); ++k) text += (k == 0 ? "" : ",") + field(shown(data.names[k]));
  text += "\n";
  for (const auto& row : data.rows) {
    for (std::size_t k = 0; k < row.size(); ++k) text += (k == 0 ? "" : ",") + std::visit(cell, row[k]);
    text += "\n";
  }
  return text;
}

}  // namespace

std::string csv_of(const Page& page) {
  return table_of(page.data, [](const std::string& text) { return text; });
}

std::string csv_for_spreadsheet(const Page& page) { return table_of(page.data, guarded); }

}  // namespace truecurve
