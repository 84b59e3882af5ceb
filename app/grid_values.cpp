// Takes grids of values apart.
#include "grid_values.hpp"

#include <truecurve/base/error.hpp>

#include "command.hpp"

#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::app {
namespace {

// A grid finer than this is a slip.
constexpr double most_points = 1e6;

// A quantity by its name or by a header of it: "Drying time (min)".
bool is_called(const Quantity& quantity, const std::string& text) {
  return text == quantity.name ||
         (!quantity.unit.empty() && (text == fmt::format("{} ({})", quantity.name, quantity.unit) ||
                                     text == fmt::format("{} [{}]", quantity.name, quantity.unit)));
}

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
                   .message = fmt::format("{} '{}' is not a grid", option, text),
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

std::vector<Vector> places_of(const std::vector<std::string>& texts, const Estimate& estimate, const char* option) {
  std::vector<Vector> points(estimate.predictors().size());
  std::size_t count = 0;
  const auto name_of = [&](std::size_t k) { return estimate.predictors()[k].name; };
  std::vector<std::string> names;
  for (const Quantity& predictor : estimate.predictors()) names.push_back(predictor.name);
  for (const std::string& text : texts) {
    const auto [name, list] = assignment(text, option, names);
    bool found = false;
    for (std::size_t k = 0; k < points.size(); ++k) {
      if (!is_called(estimate.predictors()[k], name)) continue;
      found = true;
      const std::vector<double> values = grid_values(list, option);
      points[k] = Vector(values);
      count = std::max(count, values.size());
    }
    if (!found) {
      throw Error({.code = ErrorCode::unknown_name,
                   .message = fmt::format("{}: '{}' is not a predictor of '{}'", option, name, estimate.model().text()),
                   .subject = name,
                   .remedy = points.empty() ? "this model has none"
                                            : fmt::format("its predictor{} '{}'", points.size() == 1 ? " is" : "s are",
                                                          fmt::join(names, "', '"))});
    }
  }
  for (std::size_t k = 0; k < points.size(); ++k) {
    // One value serves all points of a list given for another predictor.
    if (points[k].size() == 1) points[k] = Vector(count, points[k][0]);
    if (points[k].size() == 0 || points[k].size() != count) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("'{}' is given at {} points where {} are needed", name_of(k),
                                          points[k].size(), std::max<std::size_t>(count, 1)),
                   .subject = option,
                   .remedy = fmt::format("write {} {}=VALUE, or a list as long as the others", option, name_of(k))});
    }
  }
  return points;
}

}  // namespace truecurve::app
