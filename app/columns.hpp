// Which columns of a table are meant: by --x and --y, by the names of an equation, or because there are no others.
#pragma once

#include <truecurve/model/model.hpp>

#include "command.hpp"

#include <string>
#include <vector>

namespace truecurve::app {

/// The options with the columns that may go unsaid: of a table with two columns of measured values beside uncertainties
/// and counts, the first is x and the second y, and a remark says so. Throws Error (bad_argument, unknown_column).
[[nodiscard]] DataOptions with_usual_columns(DataOptions options, const Table& table, const Streams& streams);

/// An equation in which --x and --y take the place of x and y, and every column stands under its name. Where a table
/// has neither column, and the options name none, its two columns of numbers do. Throws Error (the model-text codes,
/// bad_argument, unknown_column).
[[nodiscard]] std::string equation_of(const std::string& model, const DataOptions& options, const Table& table,
                                      const Streams& streams);

/// Holds the names of an equation against the columns of its table. Throws Error (unknown_name) for a name that nearly
/// is a column's, for an equation in which no column occurs, and, where `all_used`, for a column given by --x or --y
/// that it does not name.
void require_columns(const Model& model, const DataOptions& options, const Table& table, bool all_used);

/// The table with its dates and times as numbers since the first row; of those among `used` a remark says so.
[[nodiscard]] Table with_elapsed_times(const Table& table, const std::vector<std::string>& used,
                                       const Streams& streams);

/// A remark where a column looks as if it held the uncertainties of the response and is not used.
void tell_of_unused_uncertainties(const Table& table, const Choice& columns, const Streams& streams);

}  // namespace truecurve::app
