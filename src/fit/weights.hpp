// The weights of rows whose left side and scatter are given: all that least squares, its residuals, tests and
// diagnostics need of them.
#pragma once

#include <truecurve/data/observations.hpp>

#include "../base/matrices.hpp"

namespace truecurve::detail {

/// Square roots of the weights: 1/u in each row, or 1 where no uncertainties are given. The rows must outlive it.
class Weights {
 public:
  explicit Weights(const Observations& rows)
      : rows_(rows), size_(!rows.row_scatter().empty() ? rows.row_scatter().data() : nullptr) {}

  /// Whether the rows have weights at all.
  [[nodiscard]] bool are_given() const { return size_ != nullptr; }
  /// What a row scatters by, 1 without weights.
  [[nodiscard]] double size(Eigen::Index row) const { return size_ != nullptr ? size_[row] : 1; }
  [[nodiscard]] double root(Eigen::Index row) const { return size_ != nullptr ? 1 / size_[row] : 1; }
  [[nodiscard]] VectorXd sizes() const {
    return size_ != nullptr ? VectorXd(as_eigen(rows_.row_scatter()))
                            : VectorXd::Ones(as_eigen(rows_.responses()).size());
  }
  [[nodiscard]] VectorXd roots() const {
    return size_ != nullptr ? VectorXd(as_eigen(rows_.row_scatter()).cwiseInverse())
                            : VectorXd::Ones(as_eigen(rows_.responses()).size());
  }
  /// Values, one a row, in units of what they scatter by.
  [[nodiscard]] VectorXd standardized(const Eigen::Ref<const VectorXd>& values) const {
    return size_ != nullptr ? VectorXd(values.cwiseQuotient(as_eigen(rows_.row_scatter()))) : VectorXd(values);
  }
  /// The root of their sum of squares, without a copy where there are no weights.
  [[nodiscard]] double standardized_norm(const Eigen::Ref<const VectorXd>& values) const {
    if (size_ != nullptr) return standardized(values).stableNorm();
    const double plain = values.norm();  // the quicker way, where no square leaves the range
    return plain > 1e-100 && plain < 1e100 ? plain : values.stableNorm();
  }
  /// The other way round.
  [[nodiscard]] VectorXd from_standardized(const Eigen::Ref<const VectorXd>& values) const {
    return size_ != nullptr ? VectorXd(values.cwiseProduct(as_eigen(rows_.row_scatter()))) : VectorXd(values);
  }

 private:
  const Observations& rows_;
  const double* size_;
};

}  // namespace truecurve::detail
