// A fitted curve without its data: all that bands, predictions and derived quantities need.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3}, {3.3, 5.6, 7.1});
//     const truecurve::Estimate line = truecurve::fit(truecurve::shape_model("line"), points).estimate();
//     EXPECT_EQ(line.parameter_names()[1], "b");
//     EXPECT_EQ(line.covariance()(0, 1), line.covariance()(1, 0));
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/data/observations.hpp>
#include <truecurve/data/scatter.hpp>
#include <truecurve/fit/options.hpp>
#include <truecurve/model/model.hpp>

#include <cstddef>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace truecurve {

/// Lowest and highest value of a predictor among the rows used.
struct Range {
  double low = not_a_number;
  double high = not_a_number;
};

/// A parameter that the rows give one end only: from `bound` on every value fits as well (at the 95 % level of the
/// profile, Bates and Watts 1988, 6.1), as every steeper step through two rows without a third between them.
struct OpenEnd {
  int parameter = 0;
  bool upwards = true;  ///< whether all larger values fit, or all smaller ones as far as 0
  double bound = not_a_number;
};

/// "at least 23", "at most 0.024": the bound with two digits, rounded so that no value beyond it is left out. Throws no
/// Error of its own.
[[nodiscard]] std::string end_text(const OpenEnd& end);

namespace detail {
struct EstimateParts;
struct EstimateAccess;
}  // namespace detail

/// Immutable and cheap to copy.
class Estimate {
 public:
  [[nodiscard]] const Model& model() const noexcept;
  [[nodiscard]] const std::vector<std::string>& parameter_names() const noexcept { return model().parameters(); }
  /// Length p, in the order of parameter_names().
  [[nodiscard]] const Vector& parameters() const noexcept;
  /// Of each parameter; NaN where it can't be known, 0 for a parameter at its limit.
  [[nodiscard]] const Vector& standard_uncertainties() const noexcept;
  /// Covariance of two parameters, u_i u_j r_ij; beyond the range of a double where the squares of the uncertainties
  /// are (0 or infinite): what is computed from uncertainties and correlations is not. Throws no Error of its own.
  [[nodiscard]] Matrix covariance() const;
  /// The standard uncertainty of a quantity with this gradient by the parameters: sqrt(gᵀ C g), C the covariance
  /// (JCGM 100:2008, equation 13), computed without its squares. Requires length p; throws Error (bad_argument)
  /// otherwise.
  [[nodiscard]] double standard_uncertainty_along(const Vector& gradient) const;
  /// n - p, parameters at a limit not counted.
  [[nodiscard]] double degrees_of_freedom() const noexcept;
  /// stated or scatter, never automatic.
  [[nodiscard]] UncertaintyBasis basis() const noexcept;
  /// The factor between the uncertainties the rows were given and those believed: 1 for stated, else the root of
  /// chi-squared over the degrees of freedom.
  [[nodiscard]] double scale() const noexcept;
  /// What the curve is of: name and unit of the response and, in the model's order, of its predictors.
  [[nodiscard]] const Quantity& response() const noexcept;
  [[nodiscard]] const std::vector<Quantity>& predictors() const noexcept;
  /// Lowest and highest value of each predictor among the rows used.
  [[nodiscard]] const std::vector<Range>& ranges() const noexcept;
  /// The limits that were set for the parameters, one a parameter, infinite where there is none; empty where none was
  /// set.
  [[nodiscard]] const std::vector<Range>& limits() const noexcept;
  /// Of the parameter that is held, as at a limit, where the curve has stopped to change.
  [[nodiscard]] const std::optional<OpenEnd>& open_end() const noexcept;
  /// Measured, or how the response was counted.
  [[nodiscard]] const ObservationModel& observation_model() const noexcept;
  /// What a new reading's own standard uncertainty is taken to be.
  [[nodiscard]] const Scatter& new_observation() const noexcept;
  /// Whether the response was counted: the curve then is the mean of a share or a rate.
  [[nodiscard]] bool is_counted() const noexcept { return !observation_model().is_measured(); }
  /// Whether the scale of the scatter is believed as it stands, and not estimated from the scatter itself.
  [[nodiscard]] bool has_known_scale() const noexcept { return basis() == UncertaintyBasis::stated; }
  /// What the scale of the scatter rests on: infinity where it is known, else degrees_of_freedom().
  [[nodiscard]] double scale_degrees_of_freedom() const noexcept {
    return has_known_scale() ? infinity : degrees_of_freedom();
  }

  /// Whether a parameter ended at a limit that was set for it: its row and column of the covariance are zero. False
  /// where there is no parameter of that index.
  [[nodiscard]] bool is_at_limit(std::size_t parameter) const noexcept;

  /// Whether that limit is no set one but where the curve stops to change: the rows give the parameter one end only.
  [[nodiscard]] bool is_open(std::size_t parameter) const noexcept;

  /// How many parameters the rows determine: all but those at a limit.
  [[nodiscard]] std::size_t free_parameters() const noexcept;

  /// Index of a parameter; throws Error (unknown_name) that names those there are.
  [[nodiscard]] std::size_t index_of(std::string_view parameter) const;

  /// The unit of a parameter, as it follows from those of the columns and the formula: the sides of an equation and the
  /// terms of a sum have one unit, the argument of exp or sin has none (JCGM 200:2012, 1.8). Empty for a pure number
  /// and where it is not determined; unit_remarks() tells which. Throws Error (bad_argument) where there is no
  /// parameter of that index.
  [[nodiscard]] std::string unit(std::size_t parameter) const;

  /// The factor that turns a standard uncertainty into the half width of a two-sided coverage interval: the normal
  /// quantile for stated, Student's t for scatter (NaN without degrees of freedom). Throws no Error of its own.
  [[nodiscard]] double coverage_factor(Level level) const;
  /// The same for the joint region of `count` quantities: the root of chi-squared's quantile for a known scale, else of
  /// count times F's (NaN without degrees of freedom). Throws Error (bad_argument) where count is not above 0.
  [[nodiscard]] double region_factor(Level level, double count) const;

 private:
  friend struct detail::EstimateAccess;
  explicit Estimate(std::shared_ptr<const detail::EstimateParts> parts) : parts_(std::move(parts)) {}
  std::shared_ptr<const detail::EstimateParts> parts_;
};

/// What everything that follows from an estimate hangs on: a sentence for each parameter at a limit or with one end
/// only. Throws no Error of its own.
[[nodiscard]] std::vector<std::string> limit_remarks(const Estimate& estimate);

/// Of which parameters the units of the columns determine none, and why: a sentence each. Empty where every unit is
/// determined, and where no column states one. Throws no Error of its own.
[[nodiscard]] std::vector<std::string> unit_remarks(const Estimate& estimate);

}  // namespace truecurve
