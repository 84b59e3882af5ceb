// What the residuals of a fit are whatever its scatter: the projection that made them, the order of its rows, and the
// statistics of the residual checks on any set of residuals of that design.
#pragma once

#include <truecurve/assess/checks.hpp>

#include "../base/matrices.hpp"
#include "places.hpp"
#include "pure_error.hpp"

#include <optional>
#include <vector>

namespace truecurve::detail {

/// Residuals are weighted throughout: divided by their standard uncertainties, relative ones for scatter.
class ResidualDesign {
 public:
  explicit ResidualDesign(const Fit& fit);

  [[nodiscard]] Eigen::Index rows() const { return basis_.rows(); }
  /// Those of the fit itself.
  [[nodiscard]] const VectorXd& residuals() const { return residuals_; }
  /// What the model leaves of a weighted column: c - Q Qᵀ c.
  [[nodiscard]] VectorXd beyond_the_model(VectorXd column) const;

  /// The residuals that random errors e leave: (1 - QQᵀ) e. These are normal; where the readings were rounded as
  /// coarsely as they scatter, they are those of readings rounded likewise; of a counted response, of numbers drawn
  /// about the curve.
  [[nodiscard]] VectorXd simulated(RandomNumbers& random) const;
  /// Whether the response was counted: residuals are Pearson's, and no check has the distribution of normal errors.
  [[nodiscard]] bool is_counted() const { return kernel_ != nullptr; }
  /// Mean square of what rounding adds to a residual; 0 where no step is seen.
  [[nodiscard]] double rounding() const { return rounding_; }
  /// Whether rounding is so large a part of the scatter that no check has the distribution of normal errors.
  [[nodiscard]] bool is_rounded() const { return step_ > 0; }

  /// The checks that these rows allow.
  [[nodiscard]] const std::vector<CheckKind>& possible() const { return possible_; }
  /// The statistics of checks, each signed where it has a direction. Requires that they are possible.
  [[nodiscard]] VectorXd statistics(const std::vector<CheckKind>& kinds, const VectorXd& residuals) const;
  /// Of the check of lower powers: which one is missing.
  [[nodiscard]] int missing_power() const { return missing_power_; }
  /// And of which predictor.
  [[nodiscard]] std::size_t missing_power_of() const { return missing_power_of_; }
  /// Of the outlier check: which row.
  [[nodiscard]] Eigen::Index farthest(const VectorXd& residuals) const;

  [[nodiscard]] double degrees_of_freedom() const { return degrees_; }
  [[nodiscard]] double pure_error_degrees() const { return pure_degrees_; }
  [[nodiscard]] double lack_of_fit_degrees() const { return lack_degrees_; }
  /// Signs along the first predictor, by rows of equal predictor.
  struct Signs {
    int runs = 0;
    int positive = 0;
    int negative = 0;
  };
  [[nodiscard]] Signs signs(const VectorXd& residuals) const;

  /// How many places the first predictor has.
  [[nodiscard]] Eigen::Index places() const { return static_cast<Eigen::Index>(places_.size()); }
  /// The statistics of runs or of serial correlation, as normal errors leave them, drawn at the places: however many
  /// rows each has.
  [[nodiscard]] double drawn_along(CheckKind kind, RandomNumbers& random) const;
  /// Of rounded readings: how far a row is off by more than half a step, in units of what scatters before it is
  /// rounded.
  [[nodiscard]] double beyond_rounding(Eigen::Index row) const;

 private:
  [[nodiscard]] VectorXd standardized(const VectorXd& residuals) const;
  [[nodiscard]] double normality(const VectorXd& standardized) const;
  [[nodiscard]] double lack_of_fit(const VectorXd& residuals) const;
  [[nodiscard]] double added_term(const VectorXd& column, const VectorXd& residuals) const;
  [[nodiscard]] VectorXd along(const VectorXd& residuals) const;
  [[nodiscard]] static Signs signs_of(const VectorXd& along);
  [[nodiscard]] static double serial_correlation(const VectorXd& along);
  [[nodiscard]] VectorXd drawn_along(RandomNumbers& random) const;
  [[nodiscard]] double pure_error(const VectorXd& residuals) const;
  void find_rounding(const Fit& fit);
  void find_means(const Fit& fit);
  void find_replicates(const Fit& fit);
  void find_added_columns(const Fit& fit);
  void find_missing_terms(const Fit& fit);
  [[nodiscard]] VectorXd left_of(const VectorXd& column) const;

  bool stated_ = false;
  const ResponseKernel* kernel_ = nullptr;  // of a counted response
  VectorXd means_;                          // its curve,
  VectorXd sizes_;                          // its trials or exposures
  VectorXd root_of_variance_;
  double degrees_ = 0;
  MatrixXd basis_;  // orthonormal columns of the weighted model
  VectorXd residuals_;
  VectorXd over_root_;    // 1/sqrt(1 - leverage), 0 where there is no residual to speak of
  VectorXd fitted_;       // centred
  VectorXd curvature_;    // what the model leaves of the squared distance, of unit length; empty where nothing
  VectorXd origin_;       // the same of a constant, where the model vanishes at the origin
  VectorXd lower_power_;  // the same of the lowest power that is missing
  int missing_power_ = 0;
  std::size_t missing_power_of_ = 0;
  VectorXd drift_;              // the same of the order of measurement
  mutable MatrixXd shrinking_;  // what drawn_along() takes of the errors of the places; empty until it is asked for
  Places places_;               // rows of equal first predictor, ascending
  Places replicates_;           // rows of equal predictors
  VectorXd weights_;            // squares of the roots of the weights, for the means of replicates
  double rounding_ = 0;         // mean square of what rounding adds to a residual
  double step_ = 0;             // to which simulated readings are rounded, 0 where that would change nothing
  double sigma_ = 1;            // of what scatters before it is rounded, in units of the residuals
  VectorXd curve_;              // at each row, where readings are rounded
  std::optional<PureErrorScale> pure_error_scale_;
  double pure_degrees_ = 0;
  double lack_degrees_ = 0;
  std::vector<CheckKind> possible_;
};

}  // namespace truecurve::detail
