// The weights of rows whose left side and uncertainties are given: all that least squares, its residuals, tests and
// diagnostics need of them.
#pragma once

#include <truecurve/data/observations.hpp>

namespace truecurve::detail {

/// Square roots of the weights: 1/u in each row, or 1 where no uncertainties are given. The rows must outlive it.
class Weights {
 public:
  explicit Weights(const Observations& rows)
      : rows_(rows), u_(rows.has_uncertainties() ? rows.uncertainties().data() : nullptr) {}

  /// Whether the rows have weights at all.
  [[nodiscard]] bool are_given() const { return u_ != nullptr; }
  /// The standard uncertainty of a row, 1 without weights.
  [[nodiscard]] double uncertainty(Eigen::Index row) const { return u_ != nullptr ? u_[row] : 1; }
  [[nodiscard]] double root(Eigen::Index row) const { return u_ != nullptr ? 1 / u_[row] : 1; }
  [[nodiscard]] VectorXd roots() const {
    return u_ != nullptr ? VectorXd(rows_.uncertainties().cwiseInverse()) : VectorXd::Ones(rows_.responses().size());
  }
  /// Values, one a row, in units of their standard uncertainties.
  [[nodiscard]] VectorXd standardized(const VectorXd& values) const {
    return u_ != nullptr ? VectorXd(values.cwiseQuotient(rows_.uncertainties())) : values;
  }
  /// The other way round.
  [[nodiscard]] VectorXd from_standardized(const VectorXd& values) const {
    return u_ != nullptr ? VectorXd(values.cwiseProduct(rows_.uncertainties())) : values;
  }
  /// Sum of ln u, the weights' part of a log likelihood.
  [[nodiscard]] double log_sum() const { return u_ != nullptr ? rows_.uncertainties().array().log().sum() : 0; }

 private:
  const Observations& rows_;
  const double* u_;
};

}  // namespace truecurve::detail
