// How single readings of a response scatter about their mean.
//
// Example:
//     const truecurve::Scatter of_the_mean{.form = truecurve::Scatter::Form::power, .scale = 0.05, .power = 1};
//     EXPECT_DOUBLE_EQ(of_the_mean.at(-8), 0.4);
//     EXPECT_TRUE(std::isnan(truecurve::Scatter{.form = truecurve::Scatter::Form::by_row}.at(8)));
#pragma once

#include <truecurve/base/numeric.hpp>

#include <utility>
#include <vector>

namespace truecurve {

/// A standard deviation that grows from a constant: sqrt(s0² + (k mean)²). Source: Thompson (1988) Analyst 113, 1579.
struct GrowingScatter {
  double constant = not_a_number;  ///< s0, in the unit of the response; 0 for one proportional to the mean
  double slope = not_a_number;     ///< k: the scatter as a share of the mean; 0 for a constant one

  [[nodiscard]] double at(double mean) const noexcept;
};

/// The standard deviation of a single reading as a function of its mean: the one law by which rows are weighted, new
/// readings are expected and unknowns are read.
struct Scatter {
  enum class Form {
    constant,   ///< `scale`, in the unit of the response
    percent,    ///< `scale` percent of |mean|
    power,      ///< `scale` * |mean + `offset`|^`power`
    left_side,  ///< `scale`, on the scale of a transformed left side
    by_row,     ///< it differs from row to row: that of a new reading is not known
    growing,    ///< `scale` times `growing` at mean + `offset`
    tabulated,  ///< `scale` times what the table has, linear between its places, the nearest beyond them
  } form = Form::constant;
  double scale = not_a_number;
  double power = 0;
  /// What was taken off the readings, as a blank, where the scatter is that of the gross ones; minus the mean from
  /// which a growing scatter grows.
  double offset = 0;
  GrowingScatter growing{};
  std::vector<std::pair<double, double>> table{};  ///< (mean, standard deviation), ascending

  /// NaN where the mean alone does not tell it (left_side, by_row, an empty table).
  [[nodiscard]] double at(double mean) const noexcept;
  /// Whether it depends on the mean.
  [[nodiscard]] bool follows_the_mean() const noexcept;
};

}  // namespace truecurve
