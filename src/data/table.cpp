// Named columns: checks, look-up by name or header, nearest name for a mistyped one.
#include <truecurve/base/error.hpp>
#include <truecurve/data/table.hpp>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <unordered_set>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

std::string lower(std::string_view text) {
  std::string result(text);
  for (char& c : result) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return result;
}

// Edit distance with insertion, deletion, substitution and exchange of neighbours; Damerau (1964), Wagner and Fischer
// (1974).
std::size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> before(b.size() + 1);
  std::vector<std::size_t> above(b.size() + 1);
  std::vector<std::size_t> row(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) row[j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    before.swap(above);
    above.swap(row);
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      row[j] = std::min({above[j] + 1, row[j - 1] + 1, above[j - 1] + (a[i - 1] == b[j - 1] ? 0u : 1u)});
      const bool exchanged = i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1];
      if (exchanged) row[j] = std::min(row[j], before[j - 2] + 1);
    }
  }
  return row[b.size()];
}

std::string list_of(std::span<const Column> columns) {
  std::string text;
  for (const Column& column : columns) text += (text.empty() ? "" : ", ") + column.name;
  return text;
}

}  // namespace

bool Column::is_text() const noexcept {
  const auto numbers_present =
      static_cast<std::size_t>(std::count_if(numbers.begin(), numbers.end(), [](double x) { return !std::isnan(x); }));
  return texts.size() > numbers_present;
}

const std::string* Column::text_at(std::size_t row) const noexcept {
  const auto at = std::lower_bound(texts.begin(), texts.end(), row,
                                   [](const TextCell& cell, std::size_t wanted) { return cell.row < wanted; });
  return at != texts.end() && at->row == row ? &at->text : nullptr;
}

bool Column::is_missing(std::size_t row) const noexcept {
  return row >= numbers.size() || (std::isnan(numbers[row]) && text_at(row) == nullptr);
}

bool Column::is_called(std::string_view text) const noexcept {
  return !text.empty() && (text == name || text == own_name || text == header);
}

std::size_t Column::missing_count() const noexcept {
  const auto without_number =
      static_cast<std::size_t>(std::count_if(numbers.begin(), numbers.end(), [](double x) { return std::isnan(x); }));
  return without_number - texts.size();
}

Table::Table(std::vector<Column> columns, TableSource source, std::vector<std::uint32_t> lines)
    : columns_(std::move(columns)), source_(std::move(source)), lines_(std::move(lines)) {
  std::unordered_set<std::string> seen;
  for (const Column& column : columns_) {
    if (column.name.empty()) {
      throw Error({.code = ErrorCode::bad_argument, .message = "a column has no name", .remedy = "name every column"});
    }
    if (!seen.insert(column.name).second) {
      throw Error({.code = ErrorCode::duplicate_column,
                   .message = fmt::format("two columns are called '{}'", column.name),
                   .subject = column.name,
                   .remedy = "rename one of them in the header",
                   .place = {.file = source_.name}});
    }
    if (column.numbers.size() != columns_.front().numbers.size()) {
      throw Error(
          {.code = ErrorCode::bad_argument,
           .message = fmt::format("column '{}' has {} rows where '{}' has {}", column.name, column.numbers.size(),
                                  columns_.front().name, columns_.front().numbers.size()),
           .subject = column.name,
           .remedy = "give columns of equal length"});
    }
  }
  rows_ = columns_.empty() ? 0 : columns_.front().numbers.size();
}

Table Table::from_columns(std::vector<NamedNumbers> columns) {
  std::vector<Column> made;
  made.reserve(columns.size());
  for (NamedNumbers& column : columns) {
    made.push_back(
        {.name = column.name, .unit = column.unit, .numbers = std::move(column.numbers), .header = column.name});
  }
  return Table(std::move(made));
}

// A name goes before the name behind an alias, and that before a header.
const Column* Table::find(std::string_view name) const noexcept {
  if (name.empty()) return nullptr;
  for (const auto spelling : {&Column::name, &Column::own_name, &Column::header}) {
    for (const Column& column : columns_) {
      if (column.*spelling == name) return &column;
    }
  }
  return nullptr;
}

const Column* Table::uncertainty_of(const Column& quantity) const noexcept {
  for (const auto spelling : {&Column::name, &Column::own_name, &Column::header}) {
    const std::string& name = quantity.*spelling;
    if (name.empty()) continue;
    for (const std::string& wanted : {"u(" + name + ")", "u_" + name}) {
      if (const Column* found = find(wanted); found != nullptr && found != &quantity) return found;
    }
  }
  return nullptr;
}

bool Table::has_column(std::string_view name) const noexcept { return find(name) != nullptr; }

const Column& Table::column(std::string_view name) const {
  if (const Column* found = find(name)) return *found;
  std::vector<std::string> names;
  for (const Column& column : columns_) names.push_back(column.name);
  const std::string nearest = nearest_name(name, names);
  throw Error({.code = ErrorCode::unknown_column,
               .message = fmt::format("there is no column '{}'", name),
               .subject = std::string(name),
               .remedy = nearest.empty()
                             ? fmt::format("the columns are: {}", list_of(columns_))
                             : fmt::format("did you mean '{}'? The columns are: {}", nearest, list_of(columns_)),
               .place = {.file = source_.name}});
}

std::size_t Table::line(std::size_t row) const noexcept { return row < lines_.size() ? lines_[row] : 0; }

Table Table::with_unit(std::string_view name, std::string_view unit) const {
  const Column& wanted = column(name);
  Table result = *this;
  result.columns_[static_cast<std::size_t>(&wanted - columns_.data())].unit = unit;
  return result;
}

Table Table::with_column(Column given) const {
  const auto at = static_cast<std::size_t>(&column(given.name) - columns_.data());
  std::vector<Column> columns = columns_;
  columns[at] = std::move(given);
  return Table(std::move(columns), source_, lines_);
}

Table Table::with_alias(std::string_view alias, std::string_view header) const {
  const Column& wanted = column(header);
  const Column* taken = find(alias);
  if (taken != nullptr && taken != &wanted) {
    throw Error({.code = ErrorCode::duplicate_column,
                 .message = fmt::format("the alias '{}' for '{}' is the name of another column", alias, header),
                 .subject = std::string(alias),
                 .remedy = "choose an alias that is no column's name",
                 .place = {.file = source_.name}});
  }
  Table renamed = *this;
  Column& column = renamed.columns_[static_cast<std::size_t>(&wanted - columns_.data())];
  if (column.own_name.empty()) column.own_name = column.name;
  column.name = alias;
  return renamed;
}

std::string nearest_name(std::string_view word, std::span<const std::string> candidates) {
  const std::string wanted = lower(word);
  // A third of the letters may be wrong, and at least one: beyond that a suggestion misleads.
  std::size_t best = std::max<std::size_t>(1, word.size() / 3) + 1;
  std::string nearest;
  for (const std::string& candidate : candidates) {
    const std::size_t distance = edit_distance(wanted, lower(candidate));
    // A one-letter name is near every other one-letter name, unless only the case differs.
    if (distance < best && distance < std::max(word.size(), candidate.size())) {
      best = distance;
      nearest = candidate;
    }
  }
  return nearest;
}

std::string row_text(const Table& table, std::size_t row) {
  const std::size_t line = table.line(row);
  return line == 0 ? fmt::format("row {}", row + 1) : fmt::format("row {} (line {})", row + 1, line);
}

}  // namespace truecurve
