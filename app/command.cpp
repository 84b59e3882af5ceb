// Options shared by the commands.
#include "command.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/io/files.hpp>
#include <truecurve/model/condition.hpp>
#include <truecurve/model/shapes.hpp>
#include <truecurve/report/renderers.hpp>

#include "option_words.hpp"
#include "progress.hpp"
#include "terminal.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <istream>
#include <iterator>
#include <map>
#include <optional>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

// Row numbers and ranges of them, "3, 7, 29..32": two points between two numbers, and no other.
bool only_numbers(const std::string& text) {
  if (text.empty() || text.find_first_not_of("0123456789,;. ") != std::string::npos) return false;
  const auto is_digit = [&text](std::size_t at) { return at < text.size() && text[at] >= '0' && text[at] <= '9'; };
  for (std::size_t at = text.find('.'); at != std::string::npos; at = text.find('.', at + 2)) {
    if (at == 0 || !is_digit(at - 1) || text.compare(at, 2, "..") != 0 || !is_digit(at + 2)) return false;
  }
  return true;
}

// The numbers that a text names, a range as far as one beyond the table's last row, which is refused as every other.
std::vector<std::size_t> row_numbers(const Table& table, const std::string& text) {
  std::vector<std::size_t> rows;
  bool is_range = false;
  for (std::size_t at = 0; at < text.size();) {
    if (text[at] < '0' || text[at] > '9') {
      ++at;
      continue;
    }
    std::size_t row = 0;
    const auto [end, code] = std::from_chars(text.data() + at, text.data() + text.size(), row);
    if (code != std::errc()) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("--leave-out '{}': a row number is too large", text),
                   .subject = "--leave-out",
                   .value = text,
                   .remedy = "rows are counted from 1, the header not included"});
    }
    at = static_cast<std::size_t>(end - text.data());
    // "29..32": the last row read begins a range.
    const std::size_t first = is_range ? rows.back() + 1 : row;
    if (row < first) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("--leave-out '{}': {} to {} is not a range of rows", text, first - 1, row),
                   .subject = "--leave-out",
                   .value = text,
                   .remedy = "write the lower number first: 29..32"});
    }
    const std::size_t last = std::max(first, std::min(row, table.rows() + 1));
    for (std::size_t k = first; k <= last; ++k) rows.push_back(k);
    is_range = text.compare(at, 2, "..") == 0;
  }
  return rows;
}

}  // namespace

void add_table_choice(Arguments& command, CsvOptions& options, const std::string& file, const Argument* named) {
  std::vector<Argument> all = {
      command.add("--skip", options.skipped_lines,
                  fmt::format("Lines at the beginning of {} that are no part of its table", file)),
      command
          .add("--block", options.block,
               fmt::format("Which table of {}, where it holds several beneath each other", file))
          .takes("NUMBER"),
      command
          .add("--sheet", options.sheet,
               "Sheet of a spreadsheet, by its name or number; without it the first with numbers")
          .takes("NAME"),
      command.add("--cells", options.cells, "Cells of a spreadsheet that are the table, e.g. A3:D40").takes("RANGE")};
  if (named == nullptr) return;
  for (Argument& one : all) one.needs(*named);
}

void add_file(Arguments& command, DataOptions& options) {
  command.add("FILE", options.file, "Table of measurements (CSV, TSV, XLSX, ODS ...); - reads standard input")
      .reads()
      .required();
  add_table_choice(command, options.table, "FILE");
}

void add_names(Arguments& command, DataOptions& options) {
  command.add("--alias", options.aliases, "NAME=HEADER: call a column NAME, e.g. --alias t=\"Time elapsed\"")
      .takes("NAME=HEADER");
  command
      .add("--unit", options.units,
           "NAME=UNIT: the unit of a column whose header states none, e.g. --unit t=min; nothing is converted")
      .takes("NAME=UNIT");
}

void add_choice(Arguments& command, DataOptions& options) {
  command.add("--x", options.x, "Predictor's column (x in an equation); repeat it for several").takes("NAME");
  command.add("--y", options.y, "Response's column (y in an equation)").takes("NAME");
  command
      .add("--u", options.uncertainties,
           "Standard uncertainty of the response: its column, a number in its unit, or a percentage; none to "
           "ignore a column u(NAME)")
      .takes("NAME=COLUMN|NUMBER|PERCENT%|none");
  command
      .add("--leave-out", options.leave_out,
           "Rows not to use: numbers \"3,7,29..32\" or with a reason \"3: mistyped\", a condition \"x > 50\", or "
           "invalid "
           "for those the model can't take; may be repeated")
      .takes("ROWS|CONDITION|invalid");
  command
      .add(
          "--order", options.order,
          "Column that gives the order of measurement (a number or time), for the check of drift (default: the rows as "
          "they stand)")
      .takes("NAME");
}

void add_counting(Arguments& command, DataOptions& options) {
  command
      .add("--event", options.event,
           "The response is an event: the word or number (0 or 1) of its column for which the event happened")
      .takes("WORD|0|1");
  command
      .add("--trials", options.trials,
           "The response is the number of events among so many trials: their column, or one number for all rows")
      .takes("COLUMN|NUMBER");
  add_counts(command, options);
}

void refuse_beside(const char* option, std::initializer_list<std::pair<bool, const char*>> others,
                   const std::string& remedy) {
  for (const auto& [given, other] : others) {
    if (!given) continue;
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} does not go with {}", other, option),
                 .subject = other,
                 .remedy = remedy});
  }
}

void add_counts(Arguments& command, DataOptions& options) {
  command.add_flag("--counts", options.counts, "The response is a count (decays, flaws), and scatters as counts do");
  command
      .add("--exposure", options.exposure,
           "Of counts: the time, volume or area of each, a column or one number; the curve then is a rate")
      .takes("COLUMN|NUMBER");
}

Counting counting_of(const DataOptions& options, const Table& table) {
  Counting counting;
  const auto contradict = [](const char* one, const char* other) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} and {} are both given", one, other),
                 .subject = one,
                 .remedy = "a response is an event of single trials (--event), so many events among so many trials "
                           "(--trials) or a count (--counts, with --exposure where it is known): choose one"});
  };
  if (options.counts && !options.event.empty()) contradict("--event", "--counts");
  if (options.counts && !options.trials.empty()) contradict("--trials", "--counts");
  if (!options.event.empty() && !options.trials.empty()) contradict("--event", "--trials");
  if (!options.exposure.empty() && !options.counts) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "--exposure belongs to counts",
                 .subject = "--exposure",
                 .value = options.exposure,
                 .remedy = "add --counts; of events among trials the number of trials is --trials"});
  }
  const auto size_from = [&](const std::string& text, const char* option) {
    if (text.empty()) return;
    if (table.has_column(text)) {
      counting.size_column = table.column(text).name;
      return;
    }
    const bool is_number = text.find_first_not_of("0123456789.eE+-") == std::string::npos;
    if (!is_number) (void)table.column(text);  // throws, and names the columns
    counting.size = number_of(text, option);
  };
  if (!options.event.empty() || !options.trials.empty()) {
    counting.kind = ResponseKind::events;
    counting.event = options.event;
    size_from(options.trials, "--trials");
  } else if (options.counts) {
    counting.kind = ResponseKind::counts;
    size_from(options.exposure, "--exposure");
  }
  return counting;
}

Table read_table(const DataOptions& options, const Streams& streams) {
  say(streams, "reading " + options.file);
  Table table = options.file == "-" ? read_csv(streams.in, "standard input", options.table)
                                    : read_csv(streams.folder / options.file, options.file, options.table);
  for (const std::string& found : table.source().said) remark(streams, found);
  for (const std::string& text : options.aliases) {
    const auto [alias, header] = assignment(text, "--alias");
    table = table.with_alias(alias, header);
  }
  for (const std::string& text : options.units) {
    const auto [name, unit] = assignment(text, "--unit", names_of(table));
    table = table.with_unit(name, unit);
  }
  return table;
}

namespace {

// "7[I2]: mistyped" is the reading in column I2 of row 7.
std::optional<LeftOut> single_reading(const Table& table, const std::string& text) {
  const auto open = text.find('[');
  const auto close = text.find(']');
  if (open == std::string::npos || close == std::string::npos || close < open) return {};
  if (!only_numbers(text.substr(0, open)) || row_numbers(table, text.substr(0, open)).size() != 1) return {};
  const auto after = text.find_first_not_of(' ', close + 1);
  if (after != std::string::npos && text[after] != ':') return {};
  const auto reason = after == std::string::npos ? after : text.find_first_not_of(' ', after + 1);
  return LeftOut{row_numbers(table, text.substr(0, open))[0],
                 reason == std::string::npos ? "left out by number" : text.substr(reason),
                 table.column(text.substr(open + 1, close - open - 1)).name};
}

}  // namespace

std::vector<LeftOut> rows_left_out(const Table& table, const std::vector<std::string>& texts) {
  std::vector<LeftOut> rows;
  for (const std::string& text : texts) {
    if (text == "invalid") continue;
    if (const auto reading = single_reading(table, text)) {
      rows.push_back(*reading);
      continue;
    }
    const auto colon = text.find(':');
    const std::string numbers = text.substr(0, colon);
    if (only_numbers(numbers)) {
      const auto reason = colon == std::string::npos ? colon : text.find_first_not_of(' ', colon + 1);
      for (const std::size_t row : row_numbers(table, numbers))
        rows.push_back({row, reason == std::string::npos ? "left out by number" : text.substr(reason)});
      continue;
    }
    const std::vector<std::size_t> picked = rows_where(table, text);
    for (const std::size_t row : picked) rows.push_back({row, text});
  }
  return rows;
}

bool leaves_out_invalid(const std::vector<std::string>& texts) {
  return std::find(texts.begin(), texts.end(), "invalid") != texts.end();
}

std::string read_text(const std::string& file, const Streams& streams) {
  if (file == "-") return {std::istreambuf_iterator<char>(streams.in), {}};
  const std::filesystem::path found = streams.folder / file;
  std::ifstream stream(found, std::ios::binary);
  std::error_code ignored;
  if (!stream || std::filesystem::is_directory(found, ignored)) {
    throw Error({.code = ErrorCode::file_not_found,
                 .message = "there is no such file, or it can't be read",
                 .subject = file,
                 .remedy = "check the name and the permission",
                 .place = {.file = file}});
  }
  return {std::istreambuf_iterator<char>(stream), {}};
}

double number_of(const std::string& text, const char* option) {
  const std::size_t first = text.find_first_not_of(' ');
  const std::size_t last = text.find_last_not_of(' ');
  double value = 0;
  if (first != std::string::npos) {
    const char* const begin = text.data() + first + (text[first] == '+' ? 1 : 0);
    const char* const end = text.data() + last + 1;
    const auto [stop, code] = std::from_chars(begin, end, value);
    if (code == std::errc() && stop == end && std::isfinite(value)) return value;
  }
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("{}: '{}' is not a number", option, text),
               .subject = option,
               .value = text,
               .remedy = "write a number such as 12.5"});
}

std::pair<double, double> range_of(const std::string& text, const char* option) {
  const auto dots = text.find("..");
  if (dots == std::string::npos || text.size() == 2) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} '{}' is not a range", option, text),
                 .subject = option,
                 .value = text,
                 .remedy = fmt::format("write {} 0..10, 0.. or ..10", option)});
  }
  return {dots == 0 ? not_a_number : number_of(text.substr(0, dots), option),
          dots + 2 == text.size() ? not_a_number : number_of(text.substr(dots + 2), option)};
}

Uncertainty response_uncertainty(const DataOptions& options, const Table& table, const std::string& response) {
  Uncertainty result;
  for (const std::string& text : options.uncertainties) {
    auto [name, value] = assignment(text, "--u", names_of(table));
    // y is the response, whatever its header.
    if (name == "y" && !table.has_column(name)) name = response;
    if (&table.column(name) != &table.column(response)) {
      throw Error(
          {.code = ErrorCode::not_supported,
           .message = fmt::format(
               "--u {}: '{}' is not the response '{}', and uncertainties of a predictor are not used by this fit", text,
               name, response),
           .subject = "--u",
           .value = text,
           .remedy = "give the uncertainty of the response only"});
    }
    if (value == "none") {
      result = Uncertainty::none();
      continue;
    }
    if (table.has_column(value)) {
      result = Uncertainty(value);
      continue;
    }
    const bool percent = value.ends_with('%');
    const std::string number = percent ? value.substr(0, value.size() - 1) : value;
    double parsed = 0;
    const auto [end, code] = std::from_chars(number.data(), number.data() + number.size(), parsed);
    std::size_t rest = static_cast<std::size_t>(end - number.data());
    while (rest < number.size() && number[rest] == ' ') ++rest;
    if (code != std::errc() || rest != number.size()) {
      (void)table.column(value);  // throws, and names the nearest column
    }
    result = percent ? Uncertainty::percent(parsed) : Uncertainty::number(parsed);
  }
  return result;
}

std::pair<std::string, std::string> assignment(const std::string& text, const char* option,
                                               std::span<const std::string> names) {
  // A name may hold the sign itself: the longest that is known goes first.
  std::size_t at = std::string::npos;
  std::size_t length = 0;
  for (const std::string& name : names) {
    const std::size_t sign = text.find_first_not_of(' ', name.size());
    const bool begins = text.starts_with(name) && sign != std::string::npos && text[sign] == '=';
    if (!begins || name.size() < length) continue;
    length = name.size();
    at = sign;
  }
  const bool quoted = text.starts_with('\'') && text.find('\'', 1) != std::string::npos;
  if (at == std::string::npos) at = text.find('=', quoted ? text.find('\'', 1) : 0);
  const auto trimmed = [](std::string_view part) {
    const auto first = part.find_first_not_of(' ');
    return first == std::string_view::npos ? ""
                                           : std::string(part.substr(first, part.find_last_not_of(' ') - first + 1));
  };
  std::string name = at == std::string::npos ? "" : trimmed(text.substr(0, at));
  std::string value = at == std::string::npos ? "" : trimmed(text.substr(at + 1));
  if (name.empty() || value.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} '{}' is not of the form NAME=VALUE", option, text),
                 .subject = option,
                 .value = text,
                 .remedy = fmt::format("write {} NAME=VALUE", option)});
  }
  if (quoted && name.size() > 2 && name.ends_with('\'')) name = name.substr(1, name.size() - 2);
  return {std::move(name), std::move(value)};
}

std::vector<std::string> names_of(const Table& table) {
  std::vector<std::string> names;
  for (const Column& column : table.columns()) {
    for (const std::string* spelling : {&column.name, &column.own_name, &column.header}) {
      if (!spelling->empty()) names.push_back(*spelling);
    }
  }
  return names;
}

}  // namespace truecurve::app
