// Tables written as JSON: an object for each row, on a line of its own or in a list.
#pragma once

#include "table_text.hpp"

#include <string>
#include <string_view>

namespace truecurve::detail {

/// Whether a text begins as such a table does.
[[nodiscard]] bool begins_as_json(std::string_view text);

/// The columns are the members' names in the order in which they first appear; a member that an object lacks, or that
/// is null, is missing. Throws Error: syntax (names the line), unsupported_file (a document of another kind, a member
/// that is a list or an object).
[[nodiscard]] TableText json_table(const std::string& text, const std::string& source);

}  // namespace truecurve::detail
