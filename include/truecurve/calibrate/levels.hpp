// The levels of a calibration: their means and scatters, readings that stand out, and whether the scatter is the same.
//
// Example:
//     std::vector<truecurve::Reading> readings;
//     for (const double signal : {8.1, 8.3, 8.2, 8.25, 8.14, 9.9})
//       readings.push_back({.amount = 1, .signal = signal, .row = readings.size() + 1});
//     const auto levels = truecurve::levels_of(readings);
//     EXPECT_NEAR(levels[0].mean, 8.482, 0.001);
//     EXPECT_EQ(truecurve::test_levels(levels).suspicious.at(0).reading.row, 6u);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/calibrate/readings.hpp>
#include <truecurve/data/scatter.hpp>

#include <span>
#include <string>
#include <vector>

namespace truecurve {

/// One level with its replicates.
struct CalibrationLevel {
  double amount = not_a_number;
  std::vector<Reading> readings{};
  double mean = not_a_number;  ///< of counts their sum over that of their exposures
  double sd = not_a_number;    ///< divisor n - 1; NaN for a single reading
  Interval interval{};         ///< mean ± t s/sqrt(n); of counts the exact interval of their sum (Garwood 1936)
};

/// The readings by equal amounts, ascending. Requires 0 < level < 1. Throws no Error of its own.
[[nodiscard]] std::vector<CalibrationLevel> levels_of(std::span<const Reading> readings, Level level = 0.95);

/// How far a reading or a variance lies out: a straggler for 0.01 <= p < 0.05, an outlier below; ISO 5725-2:2019, 8.3.
enum class Grade { straggler, outlier };
/// "straggler" or "outlier".
[[nodiscard]] std::string_view name(Grade grade) noexcept;

/// A reading that lies farther from the mean of its level than chance would have it, or a level whose scatter does.
struct Suspicion {
  enum class Test {
    grubbs,   ///< max |y - mean|/s within a level of three readings or more
    cochran,  ///< largest variance over the sum of the variances of all levels; names the farthest reading of that
              ///< level
  } test = Test::grubbs;
  double amount = not_a_number;  ///< the level
  Reading reading{};
  double statistic = not_a_number;
  double p = not_a_number;         ///< of this test alone
  double family_p = not_a_number;  ///< how often the smallest p of Grubbs' tests of all levels, or of the tests of
                                   ///< equal scatter, is as small by chance
  Grade grade = Grade::straggler;
};

/// Is the scatter the same at all levels? NaN where it can't be tested (fewer than two levels with replicates).
struct EqualScatter {
  double brown_forsythe = not_a_number;  ///< F of |y - median|, of levels with three readings or more; Brown and
                                         ///< Forsythe (1974)
  double brown_forsythe_p = not_a_number;
  double cochran = not_a_number;
  double cochran_p = not_a_number;
  /// Pooled variance of the upper third of the levels over that of the lower third; two-sided.
  double high_to_low = not_a_number;
  double high_to_low_p = not_a_number;
  double family_p = not_a_number;  ///< as Suspicion::family_p, of the smallest p of these three
  bool is_equal = true;            ///< family_p is not below unequal_scatter
};

/// Below these a family of tests speaks: of 1000 clean calibrations 25 are said to scatter unequally, 12 to have a far
/// reading; with the 15 that the tests of the line may call curved, one in twenty is cautioned.
inline constexpr double unequal_scatter = 0.025;
inline constexpr double far_reading = 0.0125;
inline constexpr double curved_line = 0.015;

struct LevelTests {
  EqualScatter equal_scatter{};
  std::vector<Suspicion> suspicious{};  ///< p < 0.05, and their family speaks; nothing is ever removed
  bool readings_tested = false;  ///< whether any test for them could be made: three replicates, or pairs of two levels
  double resolution = 0;         ///< smallest step of the readings, 0 where none is seen
};

/// Tests of the readings of each level and of the levels against one another. Every p but those of tables is that of
/// 1999 sets of normal readings with equal scatter (seed 1), as many at each level as there are, rounded to the same
/// step where that is more than a tenth of the scatter; p = (1 + number as extreme)/2000. Without rounding Grubbs', for
/// equal numbers of replicates Cochran's, and the ratio high to low have theirs from Student's t and F. Source: ISO
/// 5725-2:2019, 8.3.4 (Cochran) and 8.3.5 (Grubbs); Westfall and Young (1993) for the family. Throws no Error of its
/// own.
[[nodiscard]] LevelTests test_levels(std::span<const CalibrationLevel> levels);

/// p of Grubbs' statistic of `n` readings, two-sided: Bonferroni's bound, exact where only one reading can be so far
/// out; of Cochran's of `levels` levels of `n` readings each. They give the tables of ISO 5725-2. Throw Error
/// (bad_argument) as Student's t and F do, for fewer readings than have a scatter.
[[nodiscard]] double grubbs_p(double statistic, double n);
[[nodiscard]] double cochran_p(double statistic, double levels, double n);

/// How the scatter of a reading depends on the signal above the blank.
struct VarianceFunction {
  enum class Form { constant, proportional, both } form = Form::constant;
  double constant = not_a_number;  ///< s0, in the unit of the signal; 0 for proportional
  double slope = not_a_number;     ///< k: the scatter as a share of the signal; 0 for constant
  double log_likelihood = not_a_number;
  double aicc = not_a_number;

  /// sqrt(s0² + (k signal)²)
  [[nodiscard]] double at(double signal) const noexcept;
};

/// The three forms fitted to the variances of the levels by maximum likelihood (s² n' / sigma² chi-squared distributed
/// with n' = n - 1), signal = mean of the level less `blank`; levels whose replicates are all equal count as those that
/// scatter little. In the order of the enumeration; empty where no level has replicates or none of them scatters.
/// Source: Thompson (1988) Analyst 113, 1579 for the form; Carroll and Ruppert (1988), chapter 3. Throws no Error of
/// its own.
[[nodiscard]] std::vector<VarianceFunction> variance_functions(std::span<const CalibrationLevel> levels,
                                                               double blank = 0);

}  // namespace truecurve
