// What an estimate is made of, for the rooms that compute with it and for the records that keep it.
#pragma once

#include <truecurve/fit/estimate.hpp>

#include "../base/matrices.hpp"
#include "../model/model_data.hpp"

#include <memory>
#include <optional>
#include <utility>
#include <vector>

namespace truecurve::detail {

class UnitRules;

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

/// Everything an Estimate is made of; a record restores one from it.
struct EstimateParts {
  Model model;
  Vector parameters{};              ///< length p
  Vector standard_uncertainties{};  ///< length p; NaN where they can't be known, 0 for a parameter at its limit
  MatrixXd correlation{};           ///< p x p; 0 beside a parameter at its limit, NaN where it can't be known
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
  Lazy<UnitRules> unit_rules{};
};

/// What the units of the columns say of those of the parameters.
[[nodiscard]] const UnitRules& unit_rules_of(const Estimate& estimate);

/// The way into an estimate, and from its parts to one.
struct EstimateAccess {
  static const EstimateParts& parts(const Estimate& estimate) { return *estimate.parts_; }
  static Estimate make(EstimateParts parts) {
    return Estimate(std::make_shared<const EstimateParts>(std::move(parts)));
  }
};
[[nodiscard]] inline const EstimateParts& parts_of(const Estimate& estimate) { return EstimateAccess::parts(estimate); }
/// What a computation needs of a temporary estimate is taken from it before it goes.
[[nodiscard]] inline EstimateParts parts_of(Estimate&& estimate) { return EstimateAccess::parts(estimate); }
[[nodiscard]] inline Estimate made_of(EstimateParts parts) { return EstimateAccess::make(std::move(parts)); }

/// Standard uncertainties and correlations of a covariance matrix; a row of zeros has the uncertainty 0.
struct UncertaintiesAndCorrelation {
  VectorXd standard_uncertainties{};
  MatrixXd correlation{};
};
[[nodiscard]] UncertaintiesAndCorrelation taken_apart(const MatrixXd& covariance);
/// The same of C = s² K Kᵀ, without squares that leave the range of a double.
[[nodiscard]] UncertaintiesAndCorrelation taken_apart(const MatrixXd& root, double scale);

}  // namespace truecurve::detail
