// The standard deviation at a mean.
#include <truecurve/data/scatter.hpp>

#include <algorithm>
#include <cmath>
#include <iterator>

namespace truecurve {

double GrowingScatter::at(double mean) const noexcept { return std::hypot(constant, slope * mean); }

double Scatter::at(double mean) const noexcept {
  switch (form) {
    case Form::constant: return scale;
    case Form::percent: return std::abs(mean) * scale / 100;
    case Form::power: return scale * (power == 0 ? 1 : std::pow(std::abs(mean + offset), power));
    case Form::growing: return scale * growing.at(mean + offset);
    case Form::left_side:
    case Form::by_row: return not_a_number;
    case Form::tabulated: break;
  }
  if (table.empty()) return not_a_number;
  const auto above = std::lower_bound(table.begin(), table.end(), mean,
                                      [](const auto& entry, double value) { return entry.first < value; });
  if (above == table.begin()) return scale * above->second;
  if (above == table.end()) return scale * table.back().second;
  const auto below = std::prev(above);
  const double share = (mean - below->first) / (above->first - below->first);
  return scale * ((1 - share) * below->second + share * above->second);
}

bool Scatter::follows_the_mean() const noexcept {
  switch (form) {
    case Form::constant:
    case Form::left_side:
    case Form::by_row: return false;
    case Form::power: return power != 0;
    case Form::percent:
    case Form::growing:
    case Form::tabulated: break;
  }
  return true;
}

}  // namespace truecurve
