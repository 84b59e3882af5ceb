// Reads study files.
#include <truecurve/base/numeric.hpp>
#include <truecurve/data/table.hpp>
#include <truecurve/io/study.hpp>

#include "sha256.hpp"

#include <algorithm>
#include <fstream>
#include <iterator>

#include <fmt/format.h>
// The reader takes for granted what some texts do not keep to ("[=]"), and would go on in any way at all where asserts
// are left out: in every build it throws instead.
namespace truecurve::detail {
struct TomlTakenForGranted {};
constexpr void toml_takes_for_granted(bool holds) {
  if (!holds) throw TomlTakenForGranted();
}
}  // namespace truecurve::detail
#pragma push_macro("NDEBUG")
#undef NDEBUG
#define TOML_ASSERT(...) ::truecurve::detail::toml_takes_for_granted(static_cast<bool>(__VA_ARGS__))
#define TOML_HEADER_ONLY 1
#define TOML_ENABLE_FORMATTERS 0
#include <toml++/toml.h>
#pragma pop_macro("NDEBUG")

namespace truecurve {
namespace {

Place place_of(const toml::source_region& region, const std::string& source) {
  return {source, region.begin.line, region.begin.column};
}

[[noreturn]] void fail(ErrorCode code, const Place& place, const std::string& message, const std::string& remedy,
                       const std::string& subject = "study") {
  throw Error({.code = code, .message = message, .subject = subject, .remedy = remedy, .place = place});
}

std::string scalar_text(const toml::node& node, const Place& place, const std::string& key) {
  if (const auto text = node.value_exact<std::string>()) return *text;
  if (const auto whole = node.value_exact<int64_t>()) return fmt::format("{}", *whole);
  if (const auto real = node.value_exact<double>()) return shortest(*real);
  if (const auto truth = node.value_exact<bool>()) return *truth ? "true" : "false";
  // A day may be written as TOML's own date.
  if (const auto day = node.value_exact<toml::date>())
    return fmt::format("{:04}-{:02}-{:02}", day->year, day->month, day->day);
  fail(ErrorCode::bad_argument, place,
       fmt::format("'{}' holds neither a text, a number, true or false, nor a list", key),
       "write a value, or a list of values in brackets", key);
}

StudyEntry entry_of(const std::string& key, const toml::node& node, const Place& place) {
  StudyEntry entry{.key = key, .place = place};
  if (const toml::array* list = node.as_array()) {
    for (const toml::node& element : *list) entry.values.push_back(scalar_text(element, place, key));
    return entry;
  }
  entry.is_boolean = node.is_boolean();
  entry.values.push_back(scalar_text(node, place, key));
  return entry;
}

StudyTable table_of(std::string name, const toml::table& table, const std::string& source) {
  StudyTable result{.name = std::move(name), .place = place_of(table.source(), source)};
  for (const auto& [key, node] : table) {
    const std::string text(key.str());
    const Place place = place_of(key.source(), source);
    if (text == "name" && result.name.empty()) {
      result.name = scalar_text(node, place, text);
      continue;
    }
    result.entries.push_back(entry_of(text, node, place));
  }
  // TOML sorts its keys; the order of the file is that of the reader.
  std::sort(result.entries.begin(), result.entries.end(), [](const StudyEntry& a, const StudyEntry& b) {
    return std::pair(a.place.line, a.place.column) < std::pair(b.place.line, b.place.column);
  });
  return result;
}

const toml::table& as_table(const toml::node& node, const Place& place, const char* what) {
  if (const toml::table* table = node.as_table()) return *table;
  fail(ErrorCode::bad_argument, place, fmt::format("{} must be a table", what),
       "write [study], [data.NAME] or [[task]]");
}

// A name becomes part of file names.
void require_plain_name(const StudyTable& table, const char* what) {
  const bool plain = !table.name.empty() &&
                     table.name.find_first_not_of("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-") ==
                         std::string::npos;
  if (plain) return;
  fail(ErrorCode::bad_argument, table.place,
       table.name.empty()
           ? fmt::format("a {} needs a name", what)
           : fmt::format("'{}' can't be the name of a {}: it becomes part of file names", table.name, what),
       "use letters, digits, - and _", "name");
}

// Whether the reader stumbles over a text otherwise than by a complaint.
bool is_stumbled_over(std::string_view text) {
  try {
    (void)toml::parse(text);
  } catch (const toml::parse_error&) {
    return false;
  } catch (const detail::TomlTakenForGranted&) {
    return true;
  }
  return false;
}

// The first line at whose end the reader has stumbled: it reads from the beginning on, so all later ones have it too.
unsigned line_of_stumbling(std::string_view text) {
  std::vector<std::size_t> ends;
  for (std::size_t at = text.find('\n'); at != std::string_view::npos; at = text.find('\n', at + 1)) ends.push_back(at);
  const auto found = std::partition_point(ends.begin(), ends.end(),
                                          [&](std::size_t end) { return !is_stumbled_over(text.substr(0, end)); });
  return static_cast<unsigned>(found - ends.begin()) + 1;
}

toml::table root_of(std::string_view text, const std::string& source) {
  const std::string remedy = "see docs/formats.md for a study file";
  try {
    return toml::parse(text, source);
  } catch (const toml::parse_error& error) {
    fail(ErrorCode::syntax, place_of(error.source(), source), fmt::format("this is not TOML: {}", error.description()),
         remedy);
  } catch (const detail::TomlTakenForGranted&) {
    fail(ErrorCode::syntax, {.file = source, .line = line_of_stumbling(text)}, "this is not TOML: a line can't be read",
         remedy);
  }
}

}  // namespace

const StudyEntry* StudyTable::find(std::string_view key) const {
  const auto at = std::find_if(entries.begin(), entries.end(), [key](const StudyEntry& e) { return e.key == key; });
  return at == entries.end() ? nullptr : &*at;
}

std::string StudyTable::value(std::string_view key) const {
  const StudyEntry* entry = find(key);
  if (entry == nullptr) return "";
  if (entry->values.size() == 1) return entry->values[0];
  fail(ErrorCode::bad_argument, entry->place,
       fmt::format("'{}' takes one value, and {} are given", key, entry->values.size()), "write one value", entry->key);
}

Study read_study_text(std::string_view text, const std::string& source) {
  const toml::table root = root_of(text, source);
  Study study{.source = source};
  detail::Sha256 sum;
  sum.add(text);
  study.sha256 = sum.hexadecimal();
  StudyTable head{.name = "study"};
  for (const auto& [key, node] : root) {
    const Place place = place_of(key.source(), source);
    if (key.str() == "study") {
      head = table_of("study", as_table(node, place, "study"), source);
    } else if (key.str() == "data") {
      for (const auto& [name, entry] : as_table(node, place, "data"))
        study.data.push_back(
            table_of(std::string(name.str()), as_table(entry, place_of(name.source(), source), "data"), source));
    } else if (key.str() == "task") {
      const toml::array* list = node.as_array();
      if (list == nullptr)
        fail(ErrorCode::bad_argument, place, "task must be a list of tables", "write [[task]], with two brackets");
      for (const toml::node& entry : *list)
        study.tasks.push_back(table_of("", as_table(entry, place_of(entry.source(), source), "task"), source));
    } else {
      require_known_keys({.name = "", .entries = {{.key = std::string(key.str()), .place = place}}},
                         {"study", "data", "task"}, "a study file");
    }
  }
  require_known_keys(head, {"title", "note", "level", "seed"}, "[study]");
  study.title = head.value("title");
  study.note = head.value("note");
  for (const StudyEntry& entry : head.entries) {
    if (entry.key != "title" && entry.key != "note") study.common.push_back(entry);
  }
  std::vector<std::string> names;
  for (const StudyTable& data : study.data) require_plain_name(data, "table of data");
  for (const StudyTable& task : study.tasks) {
    require_plain_name(task, "task");
    if (std::find(names.begin(), names.end(), task.name) != names.end())
      fail(ErrorCode::bad_argument, task.place, fmt::format("two tasks are called '{}'", task.name),
           "give each its own name", "name");
    names.push_back(task.name);
    if (task.find("command") == nullptr)
      fail(ErrorCode::bad_argument, task.place, fmt::format("the task '{}' has no command", task.name),
           "write command = \"fit\"", "command");
  }
  if (study.tasks.empty())
    fail(ErrorCode::bad_argument, {.file = source}, "the study has no task",
         "add a table [[task]] with name and command");
  return study;
}

Study read_study(const std::filesystem::path& file) {
  std::ifstream stream(file, std::ios::binary);
  std::error_code ignored;
  if (!stream || std::filesystem::is_directory(file, ignored)) {
    fail(ErrorCode::file_not_found, {.file = file.string()}, "there is no such file, or it can't be read",
         "check the name and the permission", file.string());
  }
  const std::string text{std::istreambuf_iterator<char>(stream), {}};
  return read_study_text(text, file.string());
}

void require_known_keys(const StudyTable& table, const std::vector<std::string>& known, const std::string& of_what) {
  for (const StudyEntry& entry : table.entries) {
    if (std::find(known.begin(), known.end(), entry.key) != known.end()) continue;
    const std::string nearest = nearest_name(entry.key, known);
    std::string list;
    for (const std::string& key : known) list += (list.empty() ? "" : ", ") + key;
    fail(ErrorCode::unknown_option, entry.place, fmt::format("{} has no key '{}'", of_what, entry.key),
         fmt::format("{}the keys are: {}", nearest.empty() ? "" : fmt::format("did you mean '{}'? ", nearest), list),
         entry.key);
  }
}

}  // namespace truecurve
