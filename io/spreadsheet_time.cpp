#include "spreadsheet_time.hpp"

#include <chrono>
#include <cmath>
#include <cstdint>

#include <fmt/format.h>

namespace truecurve::detail {

TimeFormat time_format(std::string_view code) {
  bool has_date = false;
  bool has_time = false;
  bool quoted = false;
  for (std::size_t at = 0; at < code.size(); ++at) {
    const char c = code[at];
    if (c == ';' && !quoted) break;  // of positive numbers only
    if (c == '"') quoted = !quoted;
    if (quoted) continue;
    if (c == '\\' || c == '_' || c == '*') {
      ++at;
      continue;
    }
    if (c == '[') {
      // [h] shows hours beyond a day; colours, conditions and languages mean nothing here.
      const auto end = code.find(']', at);
      if (end == std::string_view::npos) break;
      const std::string_view inside = code.substr(at + 1, end - at - 1);
      has_time = has_time || (!inside.empty() && inside.find_first_not_of("hHmMsS") == std::string_view::npos);
      at = end;
      continue;
    }
    if (code.substr(at, 7) == "General") return TimeFormat::none;
    has_date = has_date || c == 'y' || c == 'Y' || c == 'd' || c == 'D';
    has_time = has_time || c == 'h' || c == 'H' || c == 's' || c == 'S';
  }
  return has_date   ? has_time ? TimeFormat::date_and_time : TimeFormat::date
         : has_time ? TimeFormat::time
                    : TimeFormat::none;
}

TimeFormat built_in_time_format(const std::string& number) {
  if (number == "14" || number == "15" || number == "16" || number == "17") return TimeFormat::date;
  if (number == "22") return TimeFormat::date_and_time;
  const bool is_time = number == "18" || number == "19" || number == "20" || number == "21" || number == "45" ||
                       number == "46" || number == "47";
  return is_time ? TimeFormat::time : TimeFormat::none;
}

std::optional<std::string> time_text(double days, TimeFormat format, bool from_1904) {
  constexpr double end_of_dates = 2958466;  // 10000-01-01
  constexpr std::int64_t milliseconds_a_day = 86'400'000;
  if (!(days >= 0) || days >= end_of_dates) return {};
  const std::int64_t all = std::llround(days * static_cast<double>(milliseconds_a_day));
  const std::int64_t day = all / milliseconds_a_day;
  std::int64_t rest = all % milliseconds_a_day;
  if (format == TimeFormat::time) rest = all;  // hours may go beyond a day
  const std::int64_t seconds = rest / 1000;
  std::string clock = fmt::format("{:02}:{:02}:{:02}", seconds / 3600, seconds / 60 % 60, seconds % 60);
  if (rest % 1000 != 0) clock += fmt::format(".{:03}", rest % 1000);
  if (format == TimeFormat::time) return clock;
  using namespace std::chrono;
  constexpr std::int64_t day_that_never_was = 60;
  const sys_days origin = from_1904                  ? sys_days(year(1904) / 1 / 1)
                          : day > day_that_never_was ? sys_days(year(1899) / 12 / 30)
                                                     : sys_days(year(1899) / 12 / 31);
  const year_month_day date(origin + std::chrono::days(day));
  const std::string text = fmt::format("{:04}-{:02}-{:02}", static_cast<int>(date.year()),
                                       static_cast<unsigned>(date.month()), static_cast<unsigned>(date.day()));
  if (format == TimeFormat::date && rest == 0) return text;
  return text + " " + clock;
}

}  // namespace truecurve::detail
