// Records against their schemas: docs/schema is the table of every field, its type and its range, and is read here.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include <nlohmann/json.hpp>

namespace truecurve::detail {

/// What is wrong with a record, and in which field: "/parameters/0/value".
struct SchemaFault {
  std::string field;
  std::string what;
};

/// The first fault of a record; empty where it has none. `kind` is "truecurve.fit/1". Throws Error (internal) where
/// no schema of that kind is known, or one holds a keyword that is not understood here.
[[nodiscard]] std::optional<SchemaFault> schema_fault(const nlohmann::json& record, std::string_view kind);

/// Whether there is a schema of that kind.
[[nodiscard]] bool has_schema(std::string_view kind);

}  // namespace truecurve::detail
