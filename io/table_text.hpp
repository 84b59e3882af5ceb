// A table that stands in another form, as lines of comma-separated values, so that all tables are read in one way.
#pragma once

#include <string>
#include <vector>

namespace truecurve::detail {

struct TableText {
  std::string text{};               ///< a line for each row; line n is the n-th of the file or the sheet
  std::string header{};             ///< a line of the columns' names, where these do not stand in the text
  std::string form{};               ///< "a spreadsheet: the sheet 'Data'", "JSON"
  std::vector<std::string> said{};  ///< what was found that a user should know
};

/// A cell's text in quotes, on one line.
[[nodiscard]] std::string quoted_cell(const std::string& text);

}  // namespace truecurve::detail
