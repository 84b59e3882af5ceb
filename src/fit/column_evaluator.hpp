// The columns of a linear model, or of the tangent plane of a curve, in blocks of rows.
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/fit/estimate.hpp>

#include "../base/matrices.hpp"
#include "../model/model_data.hpp"
#include "estimate_parts.hpp"

#include <algorithm>
#include <memory>
#include <span>
#include <vector>

namespace truecurve::detail {

/// The model's columns, less their centres, at `rows` <= block_rows rows beginning at `variables`; out[j] for each
/// parameter and out[p] for the offset (zeros where the model has none).
class ColumnEvaluator {
 public:
  /// With half_width 0 the model's own columns, else the Chebyshev columns of a polynomial.
  ColumnEvaluator(const BoundModel& model, double middle, double half_width);
  /// In the working form of a result: of a model that is not linear the columns are its derivatives at the estimates,
  /// and the offset is what the tangent plane through them leaves of the curve.
  ColumnEvaluator(const BoundModel& model, const WorkingForm& working);
  void run(std::span<const double* const> variables, std::size_t rows, double* out, std::size_t stride);

 private:
  void run_polynomial(const double* x, std::size_t rows, double* out, std::size_t stride);

  const BoundModel* model_;
  double middle_;
  double half_width_;
  Program::Workspace work_;
  void run_tangent(std::span<const double* const> variables, std::size_t rows, double* out, std::size_t stride);

  std::vector<double> parameters_;
  std::vector<double*> outputs_;
};

/// Calls use(start, rows, columns) for each block of the observations; columns are block_rows apart, the offset last.
template <typename Use>
void for_each_block(const BoundModel& bound, const WorkingForm& working, const Observations& observations, Use use) {
  const std::size_t p = bound.parameters.size();
  ColumnEvaluator evaluator(bound, working);
  const auto columns = std::make_unique_for_overwrite<double[]>((p + 1) * block_rows);
  std::vector<const double*> at(observations.predictors().size());
  for (std::size_t start = 0; start < observations.size(); start += block_rows) {
    for (std::size_t k = 0; k < at.size(); ++k) at[k] = observations.predictor(k).data() + start;
    const std::size_t rows = std::min(block_rows, observations.size() - start);
    evaluator.run(at, rows, columns.get(), block_rows);
    use(start, rows, static_cast<const double*>(columns.get()));
  }
}

/// Derivatives of the curve by the user's parameters (not the working form's), one row for each place; for models with
/// one predictor, on the scale of the left side.
[[nodiscard]] MatrixXd gradients_at(const Estimate& estimate, const VectorXd& x);

/// The fitted curve at every row, on the scale of the left side.
[[nodiscard]] VectorXd curve_at(const BoundModel& bound, const WorkingForm& working, const Observations& observations);

}  // namespace truecurve::detail
