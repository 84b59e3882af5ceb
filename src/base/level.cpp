// What no level and what no seed can be.
#include <truecurve/base/level.hpp>

#include <fmt/format.h>

namespace truecurve {

Level::Level(double value) : value_(value) {
  if (value > 0 && value < 1) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("a level must lie between 0 and 1, and this is {}", value),
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
