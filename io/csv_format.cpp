// Recognises how a file of separated values is written.
#include "csv_format.hpp"

#include <truecurve/data/units.hpp>

#include <algorithm>
#include <set>
#include <utility>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// How well the lines read with this separator: the share of lines with the usual number of cells times the share of
// cells below the first line that are numbers.
struct Reading {
  double merit = 0;
  DecimalMark mark = DecimalMark::point;
};

Reading try_separator(const std::vector<std::string>& lines, char separator) {
  std::vector<std::size_t> counts;
  std::size_t cells = 0;
  std::size_t with_point = 0;
  std::size_t with_comma = 0;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    if (separator == '|' && is_rule(lines[i])) continue;
    const std::vector<std::string> fields = split_line(lines[i], separator);
    counts.push_back(fields.size());
    if (i == 0 && lines.size() > 1) continue;
    for (const std::string& field : fields) {
      ++cells;
      with_point += read_cell(field, DecimalMark::point).kind != CellKind::text;
      with_comma += read_cell(field, DecimalMark::comma).kind != CellKind::text;
    }
  }
  if (counts.empty()) return {};
  std::vector<std::size_t> sorted = counts;
  std::sort(sorted.begin(), sorted.end());
  const std::size_t usual = sorted[sorted.size() / 2];
  if (usual < 2 || cells == 0) return {};
  const auto consistent = static_cast<double>(std::count(counts.begin(), counts.end(), usual));
  const bool comma = separator != ',' && with_comma > with_point;
  const auto numbers = static_cast<double>(comma ? with_comma : with_point);
  // Words alone must still beat "no separator at all", hence the small addition.
  return {consistent / static_cast<double>(counts.size()) * (numbers / static_cast<double>(cells) + 0.01),
          comma ? DecimalMark::comma : DecimalMark::point};
}

}  // namespace

std::string describe(const CsvFormat& format) {
  const char* separator = format.separator == ','    ? "comma-separated"
                          : format.separator == ';'  ? "semicolon-separated"
                          : format.separator == '\t' ? "tab-separated"
                          : format.separator == '|'  ? "separated by bars"
                          : format.separator == ' '  ? "separated by blanks"
                                                     : "separated as declared";
  return fmt::format("{}{}", separator, format.mark == DecimalMark::comma ? ", decimal comma" : "");
}

bool is_comment(std::string_view line) {
  line = trimmed(line);
  return !line.empty() && (line.front() == '#' || line.front() == '%');
}

std::string blanks_to_tabs(std::string_view line) {
  std::string result;
  bool quoted = false;
  bool pending = false;
  for (const char c : line) {
    if (c == '"') quoted = !quoted;
    if (!quoted && (c == ' ' || c == '\t')) {
      pending = true;
      continue;
    }
    // A unit in brackets belongs to the name before it.
    const bool is_unit = !quoted && (c == '(' || c == '[');
    if (pending && !result.empty() && c != '\n' && c != '\r') result += is_unit ? ' ' : '\t';
    pending = false;
    result += c;
  }
  return result;
}

std::vector<std::string> split_line(std::string_view given, char separator) {
  const std::string tabs = separator == blanks ? blanks_to_tabs(given) : std::string();
  std::string_view line = separator == blanks ? std::string_view(tabs)
                          : separator == '|'  ? without_frame(given)
                                              : given;
  const char between = separator == blanks ? '\t' : separator;
  std::vector<std::string> fields;
  bool quoted = false;
  std::size_t start = 0;
  for (std::size_t i = 0; i <= line.size(); ++i) {
    if (i < line.size() && line[i] == '"') quoted = !quoted;
    if (i == line.size() || (line[i] == between && !quoted)) {
      std::string_view field = trimmed(line.substr(start, i - start));
      if (field.size() >= 2 && field.front() == '"' && field.back() == '"') field = field.substr(1, field.size() - 2);
      fields.emplace_back(field);
      start = i + 1;
    }
  }
  return fields;
}

std::string_view without_frame(std::string_view line) {
  const std::string_view inside = trimmed(line);
  if (!inside.starts_with('|')) return line;
  return inside.size() > 1 && inside.ends_with('|') ? inside.substr(1, inside.size() - 2) : inside.substr(1);
}

bool is_rule(std::string_view line) {
  line = trimmed(line);
  return line.find("--") != std::string_view::npos && line.find_first_not_of("-+:|= \t") == std::string_view::npos &&
         line.find_first_of("|+") != std::string_view::npos;
}

CsvFormat recognise(const std::vector<std::string>& lines, std::optional<char> declared) {
  CsvFormat format;
  if (declared) {
    const Reading reading = lines.empty() ? Reading{} : try_separator(lines, *declared);
    return {*declared, reading.mark};
  }
  double best = 0;
  for (const char separator : {'\t', ';', ',', '|', blanks}) {
    const Reading reading = lines.empty() ? Reading{} : try_separator(lines, separator);
    if (reading.merit > best) {
      best = reading.merit;
      format = {separator, reading.mark};
    }
  }
  return format;
}

std::string as_utf8(std::string_view text) {
  std::string result;
  for (std::size_t i = 0; i < text.size();) {
    const auto byte = static_cast<unsigned char>(text[i]);
    const std::size_t length = byte < 0x80                   ? 1
                               : byte >= 0xF0 && byte < 0xF5 ? 4
                               : byte >= 0xE0                ? 3
                               : byte >= 0xC2                ? 2
                                                             : 0;
    bool valid = length > 0 && byte < 0xF5 && i + length <= text.size();
    for (std::size_t k = 1; valid && k < length; ++k) {
      valid = (static_cast<unsigned char>(text[i + k]) & 0xC0) == 0x80;
    }
    if (valid && length == 3) {  // no overlong forms, no surrogates
      const auto second = static_cast<unsigned char>(text[i + 1]);
      valid = !(byte == 0xE0 && second < 0xA0) && !(byte == 0xED && second >= 0xA0);
    }
    if (valid && length == 4) {
      const auto second = static_cast<unsigned char>(text[i + 1]);
      valid = !(byte == 0xF0 && second < 0x90) && !(byte == 0xF4 && second >= 0x90);
    }
    if (valid) {
      result.append(text.substr(i, length));
      i += length;
    } else {
      result += static_cast<char>(0xC0 | (byte >> 6));
      result += static_cast<char>(0x80 | (byte & 0x3F));
      ++i;
    }
  }
  return result;
}

std::string unit_alone(std::string_view cell) {
  std::string text = as_utf8(trimmed(cell));
  if (text == "-") return "";
  for (const auto& [open, close] : {std::pair{'(', ')'}, std::pair{'[', ']'}}) {
    if (!text.starts_with(open)) continue;
    std::size_t end = 0;
    int depth = 0;
    do {
      depth += (text[end] == open) - (text[end] == close);
    } while (depth > 0 && ++end < text.size());
    if (end + 1 == text.size()) return std::string(trimmed(std::string_view(text).substr(1, text.size() - 2)));
  }
  return text;
}

CsvHeading read_heading(std::string_view text) {
  text = trimmed(text);
  auto whole = CsvHeading{std::string(text), ""};
  if (text.empty()) return whole;
  for (const auto& [open, close] : {std::pair{'(', ')'}, std::pair{'[', ']'}}) {
    if (text.back() != close) continue;
    int depth = 0;
    std::size_t at = text.size();
    while (at-- > 0) {
      if (text[at] == close) ++depth;
      if (text[at] == open && --depth == 0) break;
    }
    if (at == std::string_view::npos || at == 0) return whole;
    const std::string_view before = text.substr(0, at);
    static const std::set<std::string_view> functions = {"sd",    "se",   "err", "sigma", "delta", "u",   "ln",
                                                         "log10", "log2", "exp", "sqrt",  "cbrt",  "abs", "sin",
                                                         "cos",   "tan",  "log", "1/",    "d"};
    if (functions.contains(before)) return whole;
    const std::string_view unit = trimmed(text.substr(at + 1, text.size() - at - 2));
    return {std::string(trimmed(before)), std::string(unit)};
  }
  if (const auto at = text.find(" / "); at != std::string_view::npos) {
    return {std::string(trimmed(text.substr(0, at))), std::string(trimmed(text.substr(at + 3)))};
  }
  // "T, K": only before a unit, for "tin, melt 2" is a name. After a word a single letter may as well be the symbol of
  // the quantity: "Mass, m".
  if (const auto at = text.rfind(", "); at != std::string_view::npos && at > 0) {
    constexpr std::size_t longest_symbol = 3;
    const std::string unit(trimmed(text.substr(at + 2)));
    const bool may_be_symbol = unit.size() == 1 && unit != "%" && trimmed(text.substr(0, at)).size() > longest_symbol;
    if (is_known_unit(unit) && !may_be_symbol) return {std::string(trimmed(text.substr(0, at))), unit};
  }
  return whole;
}

}  // namespace truecurve::detail
