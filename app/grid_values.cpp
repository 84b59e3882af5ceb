// Takes grids of values apart.
#include "grid_values.hpp"

#include <truecurve/base/error.hpp>

#include "command.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

// A grid finer than this is a slip.
constexpr double most_points = 1e6;

}  // namespace

std::vector<double> grid_values(const std::string& text, const char* option) {
  std::vector<double> values;
  if (const auto dots = text.find(".."); dots != std::string::npos) {
    const auto word = text.find("step", dots);
    const double low = number_of(text.substr(0, dots), option);
    const double high = number_of(text.substr(dots + 2, word == std::string::npos ? word : word - dots - 2), option);
    const double step = word == std::string::npos ? (high - low) / 10 : number_of(text.substr(word + 4), option);
    if (!(step > 0) || !(high >= low) || (high - low) / step > most_points) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("{} '{}' is no grid", option, text),
                   .subject = option,
                   .value = text,
                   .remedy = "write x=0..10 step 0.5, the lower end first, at most a million points"});
    }
    const auto count = static_cast<int>(std::floor((high - low) / step + 1e-9));
    for (int i = 0; i <= count; ++i) values.push_back(low + i * step);
    return values;
  }
  std::size_t start = 0;
  while (start <= text.size()) {
    const std::size_t end = std::min(text.find(',', start), text.size());
    values.push_back(number_of(text.substr(start, end - start), option));
    start = end + 1;
  }
  return values;
}

}  // namespace truecurve::app
