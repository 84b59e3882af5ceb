// Columns by what is asked for, and by what their names look like.
#include "columns.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/data/times.hpp>
#include <truecurve/model/headers.hpp>
#include <truecurve/model/shapes.hpp>

#include "progress.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::app {
namespace {

// Letters and digits in small letters: 'Drying time', drying_time and DryingTime are alike.
std::string letters_of(std::string_view name) {
  std::string letters;
  for (const char c : name) {
    const auto byte = static_cast<unsigned char>(c);
    if (byte >= 0x80 || std::isalnum(byte)) letters += static_cast<char>(std::tolower(byte));
  }
  return letters;
}

bool contains(std::span<const std::string> names, const std::string& name) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

std::string columns_of(const Table& table) {
  std::vector<std::string> names;
  for (const Column& column : table.columns()) names.push_back(name_in_formula(column.name));
  return fmt::format("{}", fmt::join(names, ", "));
}

// Whether a column's name says that it holds the uncertainties of `quantity`, or of some quantity where the table has
// no other: dy, y_err, sigma_y, sd(y), s_y, "u y", ±, error.
bool looks_like_uncertainty(const Column& column, const std::string& quantity) {
  static constexpr std::array<std::string_view, 16> words = {
      "d",   "delta", "err",   "error", "errors", "s",   "sd",          "se",
      "std", "stdev", "sigma", "u",     "unc",    "sem", "uncertainty", "standarddeviation"};
  static constexpr std::array<std::string_view, 4> signs = {"±", "+/-", "+-", "σ"};
  if (std::find(signs.begin(), signs.end(), column.name) != signs.end()) return true;
  const std::string name = letters_of(column.name);
  // The response is often called y there, whatever its header.
  return std::any_of(words.begin(), words.end(), [&](std::string_view word) {
    const std::string text(word);
    const auto goes_with = [&](const std::string& of) { return name == text + of || name == of + text; };
    return goes_with(letters_of(quantity)) || goes_with("y") || (word.size() > 1 && name == text);
  });
}

bool is_some_uncertainty(const Table& table, const Column& column) {
  return std::any_of(table.columns().begin(), table.columns().end(), [&](const Column& other) {
    if (&other == &column || other.is_text()) return false;
    return table.uncertainty_of(other) == &column || looks_like_uncertainty(column, other.name);
  });
}

// Columns of numbers that can be measured values.
std::vector<std::string> quantities_of(const Table& table) {
  std::vector<std::string> names;
  for (const Column& column : table.columns()) {
    const bool is_quantity = !column.is_text() || elapsed_time(column);
    if (is_quantity && column.missing_count() < table.rows() && !is_some_uncertainty(table, column))
      names.push_back(column.name);
  }
  return names;
}

[[noreturn]] void refuse_near_miss(const std::string& name, const std::string& column, const Table& table) {
  throw Error(
      {.code = ErrorCode::unknown_name,
       .message = fmt::format("'{}' is not a column of {}, but '{}' is", name, table.source().name, column),
       .subject = name,
       .remedy = fmt::format("did you mean {}? If '{}' is meant as a parameter, give it another name",
                             column == name_in_formula(column) ? "'" + column + "'" : name_in_formula(column), name)});
}

// A name that is no column but nearly is one is a slip, not a parameter.
void refuse_near_misses(const Model& model, const Table& table) {
  const std::vector<std::string>& names = model.right_side_names();
  for (const std::string& name : names) {
    if (table.has_column(name)) continue;
    for (const Column& column : table.columns()) {
      if (contains(names, column.name) || column.name == model.response()) continue;
      const std::string letters = letters_of(name);
      const bool begins = name.size() > 3 && letters_of(column.name).starts_with(letters);
      const bool alike = letters == letters_of(column.name) || begins ||
                         (name.size() > 3 && nearest_name(name, std::span(&column.name, 1)) == column.name);
      if (alike) refuse_near_miss(name, column.name, table);
    }
    // What stands in quotation marks is a column's header, and there is none.
    if (!is_plain_name(name)) (void)table.column(name);
  }
}

void refuse_without_columns(const Model& model, const Table& table) {
  const std::vector<std::string>& names = model.right_side_names();
  const bool named = std::any_of(names.begin(), names.end(), [&](const std::string& n) { return table.has_column(n); });
  // A lone constant is a mean.
  if (named || names.size() == 1) return;
  const std::string unmarked = header_without_marks(model.text(), table);
  std::string remedy = fmt::format("the columns are: {}", columns_of(table));
  for (const std::string& name : names) {
    for (const Column& column : table.columns()) {
      if (name.size() > column.name.size() && name.ends_with(column.name) && column.name != model.response())
        remedy = fmt::format("to multiply write {}*{}; {}", name.substr(0, name.size() - column.name.size()),
                             column.name, remedy);
    }
  }
  if (!unmarked.empty())
    remedy = fmt::format("write {} with its quotation marks; {}", name_in_formula(unmarked), remedy);
  throw Error({.code = ErrorCode::unknown_name,
               .message = fmt::format("no column of {} stands on the right of '{}'", table.source().name, model.text()),
               .subject = model.text(),
               .remedy = remedy});
}

}  // namespace

DataOptions with_usual_columns(DataOptions options, const Table& table, const Streams& streams) {
  if (!options.x.empty() && !options.y.empty()) return options;
  std::vector<std::string> rest;
  for (const std::string& name : quantities_of(table)) {
    const auto is_given = [&](const std::string& given) { return table.column(given).name == name; };
    const bool taken = std::any_of(options.x.begin(), options.x.end(), is_given) ||
                       (!options.y.empty() && is_given(options.y)) ||
                       (table.has_column(options.trials) && is_given(options.trials)) ||
                       (table.has_column(options.exposure) && is_given(options.exposure));
    if (!taken) rest.push_back(name);
  }
  const std::size_t wanted = (options.x.empty() ? 1U : 0U) + (options.y.empty() ? 1U : 0U);
  if (rest.size() != wanted) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("it is not said which columns are meant: {} has {}", table.source().name,
                                        columns_of(table)),
                 .subject = options.x.empty() ? "--x" : "--y",
                 .remedy = fmt::format("add {}{}", options.x.empty() ? "--x COLUMN " : "",
                                       options.y.empty() ? "--y COLUMN" : "")});
  }
  if (options.x.empty()) options.x = {rest.front()};
  if (options.y.empty()) options.y = rest.back();
  remark(streams, fmt::format("x is '{}' and y is '{}': the table has no other columns of measured values",
                              fmt::join(options.x, "', '"), options.y));
  return options;
}

std::string equation_of(const std::string& model, const DataOptions& given, const Table& table,
                        const Streams& streams) {
  std::string equation = with_columns_named(model, table);
  DataOptions options = given;
  if (given.x.empty() && given.y.empty()) {
    // y = a + b*x of a table that has neither: of two columns of numbers it is clear which are meant.
    const Model unbound = Model::written(equation);
    const bool is_xy = unbound.response() == "y" && contains(unbound.right_side_names(), "x") &&
                       !table.has_column("x") && !table.has_column("y");
    if (is_xy) options = with_usual_columns(given, table, streams);
  }
  const auto bind = [&](const std::string& role, const std::string& column) {
    const std::string& name = table.column(column).name;
    if (name != role && !table.has_column(role)) equation = with_name_replaced(equation, role, name_in_formula(name));
  };
  for (std::size_t i = 0; i < options.x.size(); ++i)
    bind(options.x.size() == 1 ? "x" : fmt::format("x{}", i + 1), options.x[i]);
  const bool is_counted = options.counts || !options.trials.empty() || !options.event.empty();
  if (!options.y.empty() && !is_counted) bind("y", options.y);
  return equation;
}

void require_columns(const Model& model, const DataOptions& options, const Table& table, bool all_used) {
  refuse_near_misses(model, table);
  refuse_without_columns(model, table);
  if (!all_used) return;
  const auto require = [&](const char* option, const std::string& column, bool is_used) {
    if (is_used) return;
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} {}: that column does not stand in '{}'", option, column, model.text()),
                 .subject = option,
                 .value = column,
                 .remedy = fmt::format("an equation names its columns itself: omit {}, or write {} in the "
                                       "equation",
                                       option, std::string_view(option) == "--x" ? "x" : "y")});
  };
  for (const std::string& column : options.x) {
    const std::string& name = table.column(column).name;
    const bool is_named = contains(model.right_side_names(), name) || contains(model.left_side_names(), name);
    require("--x", column, is_named && name != model.response());
  }
  if (!options.y.empty()) {
    const Column& column = table.column(options.y);
    require("--y", options.y, column.is_called(model.response()));
  }
}

Table with_elapsed_times(const Table& table, const std::vector<std::string>& used, const Streams& streams) {
  Table made = table;
  for (const Column& column : table.columns()) {
    std::optional<Column> elapsed = elapsed_time(column);
    if (!elapsed) continue;
    if (contains(used, column.name))
      remark(streams, fmt::format("'{}' holds {}: they are taken in {} since the first, {}", column.name,
                                  elapsed->unit == "d" ? "dates" : "times", elapsed->unit == "d" ? "days" : "seconds",
                                  column.texts.front().text));
    made = made.with_column(std::move(*elapsed));
  }
  return made;
}

void tell_of_unused_uncertainties(const Table& table, const Choice& columns, const Streams& streams) {
  if (columns.counting.kind != ResponseKind::measured ||
      columns.response_uncertainty.kind() != Uncertainty::Kind::automatic)
    return;
  const Column& response = table.column(columns.response);
  if (table.uncertainty_of(response) != nullptr) return;
  for (const Column& column : table.columns()) {
    if (&column == &response || contains(columns.predictors, column.name) || column.is_text() ||
        !looks_like_uncertainty(column, response.name))
      continue;
    remark(streams, fmt::format("column '{}' looks like the standard uncertainty of '{}' and is not used: add "
                                "--u \"{}={}\" if it is, or --u \"{}=none\" if it is not",
                                column.name, response.name, response.name, column.name, response.name));
    return;
  }
}

}  // namespace truecurve::app
