#include "json_table.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>

#include <algorithm>
#include <map>
#include <utility>
#include <vector>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace truecurve::detail {
namespace {

using Document = nlohmann::ordered_json;

constexpr std::string_view blank = " \t\r\n";

class JsonTable {
 public:
  JsonTable(const std::string& text, std::string source) : text_(text), source_(std::move(source)) {}

  TableText read() {
    const std::size_t first = text_.find_first_not_of(blank);
    if (text_[first] == '[') {
      read_list();
    } else {
      read_lines();
    }
    TableText made{.form = "JSON"};
    for (std::size_t k = 0; k < names_.size(); ++k) made.header += (k > 0 ? "," : "") + quoted_cell(names_[k]);
    for (const std::vector<std::string>& row : rows_) {
      std::string line;
      for (std::size_t k = 0; k < names_.size() && !row.empty(); ++k)
        line += (k > 0 ? "," : "") + (k < row.size() ? row[k] : std::string());
      // Of a single column a row without a value is no blank line.
      made.text += line.empty() && !row.empty() ? "NA\n" : line + "\n";
    }
    return made;
  }

 private:
  [[noreturn]] void fail(ErrorCode code, std::string message, std::string remedy, std::size_t line) const {
    throw Error({.code = code,
                 .message = std::move(message),
                 .remedy = std::move(remedy),
                 .place = {.file = source_, .line = line}});
  }

  void read_list() {
    const Document list = Document::parse(text_, nullptr, false);
    if (list.is_discarded()) fail(ErrorCode::syntax, "the file is not valid JSON", "repair it, or export it as CSV", 0);
    for (const Document& object : list) add(object, rows_.size() + 1);
  }

  void read_lines() {
    std::size_t number = 0;
    for (std::size_t at = 0; at < text_.size();) {
      const std::size_t end = std::min(text_.find('\n', at), text_.size());
      const std::string_view line = std::string_view(text_).substr(at, end - at);
      at = end + 1;
      ++number;
      if (line.find_first_not_of(blank) == std::string_view::npos) {
        rows_.emplace_back();  // so that a row keeps its line
        continue;
      }
      const Document object = Document::parse(line, nullptr, false);
      if (object.is_discarded()) refuse(number);
      add(object, number);
    }
  }

  // A document that is no table, or a damaged line of one.
  [[noreturn]] void refuse(std::size_t line) const {
    const Document whole = Document::parse(text_, nullptr, false);
    if (whole.is_object() && whole.contains("record") && whole["record"].is_string()) {
      fail(ErrorCode::unsupported_file,
           fmt::format("this is a record ({}), not a table", whole["record"].get<std::string>()),
           "give the table that it was made from", 0);
    }
    if (!whole.is_discarded())
      fail(ErrorCode::unsupported_file, "this JSON document is no table",
           "write an object for each row, on a line of its own or in a list", 0);
    fail(ErrorCode::syntax, "this line is not valid JSON", "write one object in every line", line);
  }

  void add(const Document& object, std::size_t number) {
    if (!object.is_object())
      fail(ErrorCode::unsupported_file, fmt::format("row {} is no JSON object", number),
           "write an object for each row, with the names of the columns", number);
    std::vector<std::string> row(names_.size());
    for (const auto& [name, value] : object.items()) {
      const auto [known, is_new] = places_.try_emplace(name, names_.size());
      if (is_new) {
        names_.push_back(name);
        row.emplace_back();
      }
      row[known->second] = cell(name, value, number);
    }
    if (row.empty()) row.emplace_back();
    rows_.push_back(std::move(row));
  }

  [[nodiscard]] std::string cell(const std::string& name, const Document& value, std::size_t line) const {
    if (value.is_null()) return "";
    if (value.is_number_float()) return shortest(value.get<double>());
    if (value.is_number()) return value.dump();
    if (value.is_boolean()) return value.get<bool>() ? "TRUE" : "FALSE";
    if (value.is_string()) return quoted_cell(value.get<std::string>());
    fail(
        ErrorCode::unsupported_file,
        fmt::format("'{}' is {}, and a cell holds one number or word", name, value.is_array() ? "a list" : "an object"),
        "write one number for each name", line);
  }

  const std::string& text_;
  std::string source_;
  std::vector<std::string> names_;
  std::map<std::string, std::size_t> places_;
  std::vector<std::vector<std::string>> rows_;
};

}  // namespace

std::string quoted_cell(const std::string& text) {
  std::string quoted = "\"";
  for (const char c : text) {
    if (c == '"') quoted += '"';
    quoted += c == '\n' || c == '\r' || c == '\0' ? ' ' : c;
  }
  return quoted + '"';
}

bool begins_as_json(std::string_view text) {
  const auto skip = [&text] { text.remove_prefix(std::min(text.find_first_not_of(blank), text.size())); };
  skip();
  if (text.starts_with('[')) {
    text.remove_prefix(1);
    skip();
    return text.starts_with('{');
  }
  if (!text.starts_with('{')) return false;
  text.remove_prefix(1);
  skip();
  return text.starts_with('"') || text.starts_with('}');
}

TableText json_table(const std::string& text, const std::string& source) { return JsonTable(text, source).read(); }

}  // namespace truecurve::detail
