// A fitted curve without its data: all that bands, predictions and derived quantities need.
//
// Example:
//     const auto points = truecurve::Observations::of(Eigen::Vector3d(1, 2, 3), Eigen::Vector3d(3.3, 5.6, 7.1));
//     const truecurve::Estimate line = truecurve::fit(truecurve::shape_model("line"), points).estimate();
//     EXPECT_EQ(line.parameter_names()[1], "b");
//     EXPECT_NEAR(line.covariance()(0, 1), line.covariance()(1, 0), 0);
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/data/observations.hpp>
#include <truecurve/data/scatter.hpp>
#include <truecurve/fit/options.hpp>
#include <truecurve/model/model.hpp>

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// Lowest and highest value of a predictor among the rows used.
struct Range {
  double low = not_a_number;
  double high = not_a_number;
};

/// The working form in which curve and band are computed. With columns f_j(x) of the model, centres c_j and the inverse
/// triangular factor K of the weighted design, curve = offset + sum_j theta_j (f_j - c_j) and its variance is
/// scale² ||Kᵀ (f - c)||²; the column of a constant term has centre 0. The raw covariance would lose digits where x is
/// large against its spread.
struct WorkingForm {
  VectorXd centre{};          ///< length p
  VectorXd parameters{};      ///< length p
  MatrixXd inverse_factor{};  ///< p x p, row j belongs to parameter j
  /// Of a polynomial of degree 2 and more the columns are Chebyshev's T_d((x - middle)/half_width), d the power that
  /// the parameter multiplies in the user's columns; half_width is 0 for every other model.
  double middle = 0;
  double half_width = 0;
};

/// A parameter that the rows give one end only: from `bound` on every value fits as well (at the 95 % level of the
/// profile, Bates and Watts 1988, 6.1), as every steeper step through two rows without a third between them.
struct OpenEnd {
  int parameter = 0;
  bool upwards = true;  ///< whether all larger values fit, or all smaller ones as far as 0
  double bound = not_a_number;
};

/// "at least 23", "at most 0.024": the bound with two digits, rounded so that no value beyond it is left out.
[[nodiscard]] std::string end_text(const OpenEnd& end);

/// Everything an Estimate is made of; a record restores one from it.
struct EstimateParts {
  Model model;
  VectorXd parameters{};              ///< length p
  VectorXd standard_uncertainties{};  ///< length p; NaN where they can't be known, 0 for a parameter at its limit
  MatrixXd correlation{};             ///< p x p; 0 beside a parameter at its limit, NaN where it can't be known
  double degrees_of_freedom = 0;
  UncertaintyBasis basis = UncertaintyBasis::scatter;
  double scale = 1;  ///< 1 for stated, sqrt(chi-squared/dof) for scatter
  /// What a new reading's own standard uncertainty is taken to be.
  Scatter new_observation{.form = Scatter::Form::by_row};
  Quantity response{};
  ObservationModel observation_model{};  ///< measured, or how the response was counted
  std::vector<Quantity> predictors{};
  std::vector<Range> ranges{};  ///< one a predictor
  std::vector<Range> limits{};  ///< one a parameter, infinite where there is none; empty where none was set
  /// Of the parameter that is held, as at a limit, where the curve has stopped to change.
  std::optional<OpenEnd> open_end{};
  WorkingForm working{};
};

/// Standard uncertainties and correlations of a covariance matrix; a row of zeros has the uncertainty 0.
struct UncertaintiesAndCorrelation {
  VectorXd standard_uncertainties{};
  MatrixXd correlation{};
};
[[nodiscard]] UncertaintiesAndCorrelation taken_apart(const MatrixXd& covariance);
/// The same of C = s² K Kᵀ, without squares that leave the range of a double.
[[nodiscard]] UncertaintiesAndCorrelation taken_apart(const MatrixXd& root, double scale);

/// Immutable; copies share nothing mutable.
class Estimate {
 public:
  explicit Estimate(EstimateParts parts) : parts_(std::move(parts)) {}

  [[nodiscard]] const Model& model() const noexcept { return parts_.model; }
  [[nodiscard]] const std::vector<std::string>& parameter_names() const { return parts_.model.parameters(); }
  [[nodiscard]] const VectorXd& parameters() const noexcept { return parts_.parameters; }
  /// Of each parameter; NaN where it can't be known, 0 for a parameter at its limit.
  [[nodiscard]] const VectorXd& standard_uncertainties() const noexcept { return parts_.standard_uncertainties; }
  /// Covariance of two parameters, u_i u_j r_ij; beyond the range of a double where the squares of the uncertainties
  /// are (0 or infinite): what is computed from uncertainties and correlations is not.
  [[nodiscard]] MatrixXd covariance() const;
  /// The standard uncertainty of a quantity with this gradient by the parameters: sqrt(gᵀ C g), C the covariance
  /// (JCGM 100:2008, equation 13), computed without its squares. Requires length p.
  [[nodiscard]] double standard_uncertainty_along(const VectorXd& gradient) const;
  /// n - p, parameters at a limit not counted.
  [[nodiscard]] double degrees_of_freedom() const noexcept { return parts_.degrees_of_freedom; }
  /// stated or scatter, never automatic.
  [[nodiscard]] UncertaintyBasis basis() const noexcept { return parts_.basis; }
  /// Whether the response was counted: the curve then is the mean of a share or a rate.
  [[nodiscard]] bool is_counted() const noexcept { return !parts_.observation_model.is_measured(); }
  /// Whether the scale of the scatter is believed as it stands, and not estimated from the scatter itself.
  [[nodiscard]] bool has_known_scale() const noexcept { return parts_.basis == UncertaintyBasis::stated; }
  /// What the scale of the scatter rests on: infinity where it is known, else degrees_of_freedom().
  [[nodiscard]] double scale_degrees_of_freedom() const noexcept {
    return has_known_scale() ? infinity : parts_.degrees_of_freedom;
  }
  [[nodiscard]] const EstimateParts& parts() const noexcept { return parts_; }

  /// Whether a parameter ended at a limit that was set for it: its row and column of the covariance are zero.
  [[nodiscard]] bool is_at_limit(Eigen::Index parameter) const;

  /// Whether that limit is no set one but where the curve stops to change: the rows give the parameter one end only.
  [[nodiscard]] bool is_open(Eigen::Index parameter) const {
    return parts_.open_end && parts_.open_end->parameter == parameter;
  }

  /// How many parameters the rows determine: all but those at a limit.
  [[nodiscard]] Eigen::Index free_parameters() const;

  /// Index of a parameter; throws Error (unknown_name) that names those there are.
  [[nodiscard]] Eigen::Index index_of(std::string_view parameter) const;

  /// The unit of a parameter of a linear model, that of the response over that of the predictor to its power; empty
  /// where it is 1 or not known.
  [[nodiscard]] std::string unit(Eigen::Index parameter) const;

  /// The factor that turns a standard uncertainty into the half width of a two-sided coverage interval: the normal
  /// quantile for stated, Student's t for scatter (NaN without degrees of freedom). Requires 0 < level < 1.
  [[nodiscard]] double coverage_factor(double level) const;
  /// The same for the joint region of `count` quantities: the root of chi-squared's quantile for a known scale, else of
  /// count times F's (NaN without degrees of freedom). Requires 0 < level < 1.
  [[nodiscard]] double region_factor(double level, double count) const;

 private:
  EstimateParts parts_;
};

/// What everything that follows from an estimate hangs on: a sentence for each parameter at a limit or with one end
/// only.
[[nodiscard]] std::vector<std::string> limit_remarks(const Estimate& estimate);

}  // namespace truecurve
