// Rows that stand at one place: replicates.
#pragma once

#include <truecurve/data/observations.hpp>

#include "../base/matrices.hpp"

#include <span>
#include <vector>

namespace truecurve::detail {

/// The rows in the order of their places, grouped where all (or the first) of the predictors are equal; those of one
/// place in the order of the table. Without predictors every row has a place of its own, in the order of measurement.
class Places {
 public:
  enum class By { all_predictors, first_predictor };
  explicit Places(const Observations& rows, By by = By::all_predictors);

  [[nodiscard]] std::size_t size() const { return starts_.size() - 1; }
  [[nodiscard]] std::span<const Eigen::Index> rows_at(std::size_t place) const {
    return std::span(rows_).subspan(starts_[place], starts_[place + 1] - starts_[place]);
  }

 private:
  void sort_by(const double* key);

  std::vector<Eigen::Index> rows_;
  std::vector<std::size_t> starts_;  // of each place in rows_, and the end
};

}  // namespace truecurve::detail
