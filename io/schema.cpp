// The keywords of JSON Schema (draft 2020-12) that docs/schema uses.
#include "schema.hpp"

#include <truecurve/base/error.hpp>

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <vector>

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <record_schemas.hpp>

namespace truecurve::detail {
namespace {

using json = nlohmann::json;
using Fault = std::optional<SchemaFault>;

// A part of a schema, and the file it stands in, to which its references are relative.
struct Rule {
  const json* node;
  std::string_view file;
};

const std::map<std::string, json, std::less<>>& schemas() {
  static const std::map<std::string, json, std::less<>> parsed = [] {
    std::map<std::string, json, std::less<>> all;
    for (const auto& [file, text] : record_schemas) all.emplace(file, json::parse(text));
    return all;
  }();
  return parsed;
}

// truecurve.fit/1 is described in fit.json.
std::string file_of(std::string_view kind) {
  const std::string_view head = "truecurve.";
  if (!kind.starts_with(head) || !kind.ends_with("/1")) return {};
  return fmt::format("{}.json", kind.substr(head.size(), kind.size() - head.size() - 2));
}

// parts.json#/$defs/quantity
Rule referred(std::string_view reference, std::string_view from) {
  const std::size_t mark = reference.find('#');
  const std::string_view name = reference.substr(0, mark);
  const auto file = schemas().find(name.empty() ? from : name);
  const json* node = &file->second;
  if (mark != std::string_view::npos) node = &node->at(json::json_pointer(std::string(reference.substr(mark + 1))));
  return {node, file->first};
}

// A value as a message shows it.
std::string shown(const json& value) {
  constexpr std::size_t most = 40;
  if (value.is_object()) return "an object";
  if (value.is_array()) return fmt::format("a list of {}", value.size());
  const std::string text = value.dump(-1, ' ', true, json::error_handler_t::replace);
  return text.size() <= most ? text : text.substr(0, most) + "...";
}

std::string with_article(const std::string& type) {
  if (type == "integer") return "a whole number";
  if (type == "boolean") return "true or false";
  if (type == "string") return "a text";
  if (type == "array") return "a list";
  if (type == "object") return "an object";
  return type == "null" ? "null" : "a " + type;
}

Fault fault(const std::string& at, const json& value, const std::string& needed) {
  return SchemaFault{at, fmt::format("{} is needed here, but this is {}", needed, shown(value))};
}

bool is_of_type(const json& value, const std::string& type) {
  if (type == "number") return value.is_number();
  if (type == "integer") {
    return value.is_number_integer() || (value.is_number() && std::trunc(value.get<double>()) == value.get<double>());
  }
  return type == value.type_name();
}

Fault check(const json& value, const Rule& rule, const std::string& at);

// One keyword: what it asks for, the value, the rule it stands in, the place of the value.
using Keyword = std::function<Fault(const json& asked, const json& value, const Rule& rule, const std::string& at)>;

Fault check_type(const json& asked, const json& value, const Rule& /*rule*/, const std::string& at) {
  const auto types = asked.is_array() ? asked.get<std::vector<std::string>>() : std::vector{asked.get<std::string>()};
  if (std::any_of(types.begin(), types.end(), [&](const std::string& type) { return is_of_type(value, type); }))
    return {};
  std::vector<std::string> words;
  for (const std::string& type : types) words.push_back(with_article(type));
  return fault(at, value, fmt::format("{}", fmt::join(words, " or ")));
}

Fault check_enum(const json& asked, const json& value, const Rule& /*rule*/, const std::string& at) {
  if (std::find(asked.begin(), asked.end(), value) != asked.end()) return {};
  std::vector<std::string> words;
  for (const json& word : asked) words.push_back(word.dump());
  return fault(at, value, fmt::format("{}{}", words.size() > 1 ? "one of " : "", fmt::join(words, ", ")));
}

Fault check_required(const json& asked, const json& value, const Rule& /*rule*/, const std::string& at) {
  if (!value.is_object()) return {};
  for (const json& name : asked) {
    if (!value.contains(name))
      return SchemaFault{fmt::format("{}/{}", at, name.get<std::string>()), "this field is missing"};
  }
  return {};
}

Fault check_properties(const json& asked, const json& value, const Rule& rule, const std::string& at) {
  if (!value.is_object()) return {};
  for (const auto& [name, inner] : asked.items()) {
    const auto found = value.find(name);
    if (found == value.end()) continue;
    if (Fault wrong = check(*found, {&inner, rule.file}, fmt::format("{}/{}", at, name))) return wrong;
  }
  return {};
}

Fault check_every(const json& asked, const json& value, const Rule& rule, const std::string& at) {
  for (const auto& [name, inner] : value.items()) {
    if (Fault wrong = check(inner, {&asked, rule.file}, fmt::format("{}/{}", at, name))) return wrong;
  }
  return {};
}

Fault check_all_of(const json& asked, const json& value, const Rule& rule, const std::string& at) {
  for (const json& inner : asked) {
    if (Fault wrong = check(value, {&inner, rule.file}, at)) return wrong;
  }
  return {};
}

// The first alternative is the one to name where none holds.
Fault check_any_of(const json& asked, const json& value, const Rule& rule, const std::string& at) {
  for (const json& inner : asked) {
    if (!check(value, {&inner, rule.file}, at)) return {};
  }
  return check(value, {&asked.front(), rule.file}, at);
}

template <typename Holds>
Keyword number_bound(std::string words, Holds holds) {
  return [words = std::move(words), holds](const json& asked, const json& value, const Rule& /*rule*/,
                                           const std::string& at) -> Fault {
    if (!value.is_number() || holds(value.get<double>(), asked.get<double>())) return {};
    return fault(at, value, fmt::format("a number {} {}", words, asked.dump()));
  };
}

template <typename Holds>
Keyword text_length(std::string words, Holds holds) {
  return [words = std::move(words), holds](const json& asked, const json& value, const Rule& /*rule*/,
                                           const std::string& at) -> Fault {
    if (!value.is_string() || holds(value.get_ref<const std::string&>().size(), asked.get<std::size_t>())) return {};
    return fault(at, value, fmt::format("a text of at {} {} characters", words, asked.dump()));
  };
}

Fault check_fewest(const json& asked, const json& value, const Rule& /*rule*/, const std::string& at) {
  if (!value.is_array() || value.size() >= asked.get<std::size_t>()) return {};
  return fault(at, value, fmt::format("a list of at least {}", asked.dump()));
}

Fault nothing(const json& /*asked*/, const json& /*value*/, const Rule& /*rule*/, const std::string& /*at*/) {
  return {};
}

const std::map<std::string, Keyword, std::less<>>& keywords() {
  static const std::map<std::string, Keyword, std::less<>> known = {
      {"$schema", nothing},
      {"$id", nothing},
      {"$defs", nothing},
      {"title", nothing},
      {"description", nothing},
      {"$ref",
       [](const json& asked, const json& value, const Rule& rule, const std::string& at) {
         return check(value, referred(asked.get_ref<const std::string&>(), rule.file), at);
       }},
      {"type", check_type},
      {"enum", check_enum},
      {"const", [](const json& asked, const json& value, const Rule& rule,
                   const std::string& at) { return check_enum(json::array({asked}), value, rule, at); }},
      {"required", check_required},
      {"properties", check_properties},
      {"additionalProperties",
       [](const json& asked, const json& value, const Rule& rule, const std::string& at) {
         return value.is_object() ? check_every(asked, value, rule, at) : Fault();
       }},
      {"items", [](const json& asked, const json& value, const Rule& rule,
                   const std::string& at) { return value.is_array() ? check_every(asked, value, rule, at) : Fault(); }},
      {"minItems", check_fewest},
      {"minimum", number_bound("of at least", std::greater_equal<>())},
      {"maximum", number_bound("of at most", std::less_equal<>())},
      {"exclusiveMinimum", number_bound("above", std::greater<>())},
      {"exclusiveMaximum", number_bound("below", std::less<>())},
      {"minLength", text_length("least", std::greater_equal<>())},
      {"maxLength", text_length("most", std::less_equal<>())},
      {"allOf", check_all_of},
      {"anyOf", check_any_of},
  };
  return known;
}

Fault check(const json& value, const Rule& rule, const std::string& at) {
  for (const auto& [keyword, asked] : rule.node->items()) {
    const auto known = keywords().find(keyword);
    if (known == keywords().end()) {
      throw Error({.code = ErrorCode::internal,
                   .message = fmt::format("the schema {} holds '{}', which is not understood", rule.file, keyword),
                   .remedy = "report this"});
    }
    if (Fault wrong = known->second(asked, value, rule, at)) return wrong;
  }
  return {};
}

}  // namespace

bool has_schema(std::string_view kind) {
  const auto file = schemas().find(file_of(kind));
  return file != schemas().end() && file->second.at("title") == kind;  // parts of records are no kinds
}

std::optional<SchemaFault> schema_fault(const nlohmann::json& record, std::string_view kind) {
  if (!has_schema(kind)) {
    throw Error({.code = ErrorCode::internal,
                 .message = fmt::format("there is no schema of a record {}", kind),
                 .remedy = "report this"});
  }
  const auto file = schemas().find(file_of(kind));
  return check(record, {&file->second, file->first}, "");
}

}  // namespace truecurve::detail
