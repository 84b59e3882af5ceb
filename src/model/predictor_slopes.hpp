// Derivatives of a model by its predictors: of places read from a curve, and of parameters that differ from row to row.
#pragma once

#include <truecurve/model/model.hpp>

#include "../base/matrices.hpp"
#include "program.hpp"

#include <span>
#include <vector>

namespace truecurve::detail {

/// A model's curve and its derivatives by every predictor, exact by the rules of its graph: programs of their own,
/// compiled on request. What a model calls a parameter is a predictor where it is bound as one
/// (Model::with_predictors): then it has a value in every row, as the height of each of several like curves, and its
/// derivative stands among these.
class PredictorSlopes {
 public:
  /// Requires a bound model that is no C++ code.
  explicit PredictorSlopes(const Model& model);

  /// Rows <= block_rows: outputs[0] receives the right side, outputs[1 + k] its derivative by predictor k.
  void run(std::span<const double* const> predictors, std::size_t rows, std::span<const double> parameters,
           std::span<double* const> outputs, Program::Workspace& work) const;

  /// The derivatives of the measured response by every predictor at a point, the right side and its derivatives there
  /// given: through the inverse of the left side, which may hold predictors itself.
  [[nodiscard]] VectorXd of_response(const VectorXd& point, double right, const VectorXd& right_slopes) const;
  [[nodiscard]] VectorXd of_response(const VectorXd& point, const VectorXd& parameters) const;

 private:
  Program right_;
  Program inverse_;  // of a transformed model: derivatives of the response by the left side, then by each predictor
  bool transformed_;
};

}  // namespace truecurve::detail
