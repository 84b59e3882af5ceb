// A calibration: the curve through the standards, what the blanks say, where the scatter lies, and what it is good for.
//
// Example:
//     const auto table = truecurve::Table::from_columns(
//         {{"c", "mg/g", {0, 0, 1, 1, 2, 2, 4, 4}}, {"I", "kcps", {1.8, 2.0, 8.1, 8.3, 14.4, 14.7, 27.2, 26.8}}});
//     const auto readings = truecurve::readings_of(table, {.amount = "c", .signals = {"I"}});
//     const truecurve::Calibration line = truecurve::calibrate(readings);
//     const auto found = truecurve::amount_of(line.curve, {.signals = {14.4, 14.8}});
//     EXPECT_NEAR(found.amount, 2.02, 0.01);
#pragma once

#include <truecurve/assess/intervals.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/calibrate/amount.hpp>
#include <truecurve/calibrate/levels.hpp>
#include <truecurve/calibrate/limits.hpp>
#include <truecurve/calibrate/readings.hpp>
#include <truecurve/compare/nested.hpp>
#include <truecurve/fit/fit.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace truecurve {

/// What is done with the blanks.
enum class BlankUse {
  none,      ///< they are not part of the line (and still serve the detection limit)
  subtract,  ///< their mean is taken off every signal, of standards and unknowns; its uncertainty is common to all
  include,   ///< they are standards of amount 0
};

/// How the scatter of a reading is taken, and so how the standards are weighted.
struct SignalScatter {
  enum class Kind {
    constant,  ///< the same for all readings
    power,     ///< proportional to signal^power, from the fitted curve
    both,      ///< sqrt(s0² + (k signal)²) with s0 and k from the levels' scatters
    stated,    ///< the stated uncertainties of the readings, taken as they stand
    counted,   ///< as counts do (Poisson); chosen for readings that are counts, whatever is given here
  } kind = Kind::constant;
  double power = 1;
};

struct CalibrationOptions {
  std::optional<Model> model{};  ///< of the signal in the amount; none: a straight line
  BlankUse blank = BlankUse::none;
  SignalScatter scatter{};
  /// Readings of equal amounts with equal stated uncertainties are of one standard and share its error; separate: each
  /// reading is of a standard of its own.
  bool separate_standards = false;
  double low = -infinity;  ///< only standards within these amounts are used
  double high = infinity;
  Level level = 0.95;  ///< of intervals
  LimitOptions limits{};
};

/// What the blanks say. NaN where there are none, or too few.
struct BlankSummary {
  std::size_t count = 0;
  double mean = not_a_number;
  double sd = not_a_number;
  double mean_uncertainty = not_a_number;  ///< sd/sqrt(n)
};

/// Straight or curved, through the origin or not.
struct Linearity {
  /// Against pure error, with replicates: F; of counts the deviance of the levels' rates, a chi-squared.
  double lack_of_fit_f = not_a_number;
  double lack_of_fit_p = not_a_number;
  /// Line against quadratic: F, or the difference of chi-squared for stated uncertainties, of deviance for counts;
  /// Mandel (1964), ISO 8466-1:2021.
  double mandel = not_a_number;
  double mandel_p = not_a_number;
  double intercept = not_a_number;  ///< NaN for a model that is no straight line
  double intercept_uncertainty = not_a_number;
  double intercept_p = not_a_number;  ///< is it zero?
};

/// The same readings treated otherwise, beside the calibration itself (which stands first).
struct Alternative {
  std::string name{};
  double slope = not_a_number;
  double slope_uncertainty = not_a_number;
  double intercept = not_a_number;
  double intercept_uncertainty = not_a_number;
  double detection = not_a_number;   ///< minimum detectable amount
  double mid_amount = not_a_number;  ///< of one unknown in the middle of the range, the same signal for all
  double mid_uncertainty = not_a_number;
};

/// Whether counts scatter as counts do. NaN where the expected numbers are too small for a chi-squared distribution.
struct CountedScatter {
  double statistic = not_a_number;  ///< sum (n - m)²/m within the levels, m by the level's rate; Fisher (1925)
  double degrees_of_freedom = 0;    ///< readings less levels
  double p = not_a_number;
};

/// What leaving a suspicious reading out would do to a straight line.
struct WithoutReading {
  Suspicion suspicion{};
  double slope = not_a_number;
  double intercept = not_a_number;
};

/// Everything that is known of a calibration. `curve` is what unknowns are read with.
struct Calibration {
  CalibrationOptions options{};
  Readings readings{};
  std::vector<Reading>
      used{};  ///< standards (and blanks, where included), their signals net where the blank is subtracted
  std::vector<CalibrationLevel> levels{};  ///< of `used`
  BlankSummary blank{};
  Model model;        ///< of the signal in the amount
  Fit fit;            ///< of the used signals: residuals, quality; without the blank's uncertainty
  Estimate reported;  ///< the parameters with everything in their covariance
  /// The parameters with the blank's uncertainty and, where weights are estimated, that of the weights: intervals and p
  /// by Student's t with the effective degrees of freedom, averaged over the weightings.
  std::vector<ParameterInterval> parameters{};
  CalibrationCurve curve;
  double chi_squared = not_a_number;  ///< of the calibration, the standards' uncertainties included
  double degrees_of_freedom = not_a_number;
  bool has_uncertain_standards = false;
  std::vector<Suspicion> suspicious{};
  bool readings_tested = false;  ///< whether the readings could be tested for suspicious ones; never of counts
  std::vector<WithoutReading> without{};
  EqualScatter equal_scatter{};      ///< of measured readings
  CountedScatter counted_scatter{};  ///< of counts
  std::vector<VarianceFunction> variance_functions{};
  Linearity linearity{};
  std::vector<Alternative> alternatives{};
  Advice suggestion{};  ///< how to treat the scatter, with the reason
  std::vector<LimitRoute> limits{};
  std::string cautious_limit{};  ///< which of them is the cautious choice, with the reason
  std::vector<std::string> remarks{};
};

/// Makes a calibration. With a subtracted blank the common offset of all net signals is carried as covariance: of a
/// model with an additive constant it goes into the constant and cancels in unknowns read against the same blank; of
/// any other model the offset is estimated with the parameters, its mean 0 and its standard uncertainty that of the
/// mean blank (generalised least squares; Searle 1971, 3.3). Stated uncertainties of the amounts: generalised distance
/// regression (straight lines only) of the weighted means of each standard; chi-squared and degrees of freedom are
/// those of the means and of the readings about them. Readings that are counts: the curve is that of the rate by
/// maximum likelihood, their scatter that of the Poisson distribution, chi-squared the deviance. Throws Error:
/// too_few_observations (one level only, no standards), bad_argument (no blanks to subtract, scatter that the readings
/// can't give, blanks above the highest standard), rank_deficient (a slope that is zero within its uncertainty),
/// not_supported (uncertain amounts with another model or scatter, a blank to be subtracted from counts), and as fit().
[[nodiscard]] Calibration calibrate(const Readings& readings, const CalibrationOptions& options = {});

}  // namespace truecurve
