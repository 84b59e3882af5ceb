// What no level and what no seed can be.
#include <truecurve/base/level.hpp>

#include <fmt/format.h>

namespace truecurve {

Level::Level(double value) : value_(value) {
  // Two-sided quantiles are taken at (1 + level)/2, which is 1 for the last double before 1.
  if (value > 0 && 0.5 + value / 2 < 1) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = value > 0 && value < 1
                              ? fmt::format("a level of {} can't be told from 1", value)
                              : fmt::format("a level must lie between 0 and 1, and this is {}", value),
               .subject = "level",
               .value = fmt::format("{}", value),
               .remedy = "write 0.95 for 95 %"});
}

void Seed::refuse(std::int64_t value) {
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("a seed must not be negative, and this is {}", value),
               .subject = "seed",
               .value = fmt::format("{}", value),
               .remedy = "give a whole number from 0 upwards"});
}

}  // namespace truecurve
