// Reads dates and times.
#include <truecurve/data/times.hpp>

#include <charconv>
#include <chrono>
#include <cmath>
#include <string_view>

namespace truecurve {
namespace {

constexpr double seconds_a_day = 86400;

// How a moment is written: with which parts. All entries of a column must agree.
struct Moment {
  double seconds = 0;
  bool has_date = false;
  bool has_time = false;
};

// Exactly so many digits at the beginning, which are taken away.
std::optional<int> digits(std::string_view& text, std::size_t least, std::size_t most) {
  std::size_t count = 0;
  while (count < text.size() && count < most && text[count] >= '0' && text[count] <= '9') ++count;
  if (count < least) return {};
  int number = 0;
  std::from_chars(text.data(), text.data() + count, number);
  text.remove_prefix(count);
  return number;
}

bool take(std::string_view& text, char c) {
  if (text.empty() || text.front() != c) return false;
  text.remove_prefix(1);
  return true;
}

std::optional<double> days_of(int year, int month, int day) {
  const std::chrono::year_month_day date{std::chrono::year(year), std::chrono::month(static_cast<unsigned>(month)),
                                         std::chrono::day(static_cast<unsigned>(day))};
  if (!date.ok()) return {};
  return static_cast<double>(std::chrono::sys_days(date).time_since_epoch().count());
}

// 2026-11-24 or 24.11.2026.
std::optional<double> take_date(std::string_view& text) {
  std::string_view rest = text;
  const auto first = digits(rest, 1, 4);
  if (!first) return {};
  const std::size_t length = text.size() - rest.size();
  const bool year_first = length == 4;
  const char mark = year_first ? '-' : '.';
  if (!year_first && length > 2) return {};
  if (!take(rest, mark)) return {};
  const auto month = digits(rest, 1, 2);
  if (!month || !take(rest, mark)) return {};
  const auto last = year_first ? digits(rest, 1, 2) : digits(rest, 4, 4);
  if (!last) return {};
  text = rest;
  return year_first ? days_of(*first, *month, *last) : days_of(*last, *month, *first);
}

// 08:15, 08:15:30, 08:15:30.5, perhaps with Z.
std::optional<double> take_time(std::string_view& text) {
  const auto hours = digits(text, 1, 2);
  if (!hours || *hours > 24 || !take(text, ':')) return {};
  const auto minutes = digits(text, 2, 2);
  if (!minutes || *minutes > 59) return {};
  double seconds = 0;
  if (take(text, ':')) {
    const std::size_t whole = text.find_first_not_of("0123456789");
    const std::size_t end = whole != std::string_view::npos && (text[whole] == '.' || text[whole] == ',')
                                ? text.find_first_not_of("0123456789", whole + 1)
                                : whole;
    std::string number(text.substr(0, end));
    if (number.empty() || number.front() == '.') return {};
    for (char& c : number) c = c == ',' ? '.' : c;
    std::from_chars(number.data(), number.data() + number.size(), seconds);
    if (!(seconds < 61)) return {};
    text.remove_prefix(std::min(end, text.size()));
  }
  (void)take(text, 'Z');
  return 3600.0 * *hours + 60.0 * *minutes + seconds;
}

std::optional<Moment> moment_of(std::string_view text) {
  Moment moment;
  if (const auto days = take_date(text)) {
    moment.has_date = true;
    moment.seconds = seconds_a_day * *days;
    if (text.empty()) return moment;
    if (!take(text, ' ') && !take(text, 'T')) return {};
  }
  const auto seconds = take_time(text);
  if (!seconds || !text.empty()) return {};
  moment.has_time = true;
  moment.seconds += *seconds;
  return moment;
}

}  // namespace

std::optional<Column> elapsed_time(const Column& column) {
  if (column.texts.empty()) return {};
  for (const double number : column.numbers) {
    if (!std::isnan(number)) return {};
  }
  Column elapsed = column;
  elapsed.texts.clear();
  std::optional<Moment> first;
  for (const TextCell& cell : column.texts) {
    const auto moment = moment_of(cell.text);
    if (!moment) return {};
    if (!first) first = moment;
    if (moment->has_date != first->has_date || moment->has_time != first->has_time) return {};
    elapsed.numbers[cell.row] = (moment->seconds - first->seconds) / (first->has_time ? 1 : seconds_a_day);
  }
  elapsed.unit = first->has_time ? "s" : "d";
  return elapsed;
}

}  // namespace truecurve
