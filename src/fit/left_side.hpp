// The left side of a model at the rows of observations, and back from its scale to that of the response.
#pragma once

#include <truecurve/data/observations.hpp>

#include "../base/matrices.hpp"
#include "../model/model_data.hpp"

#include <vector>

namespace truecurve::detail {

/// The left side at given responses, one a row.
struct LeftSide {
  VectorXd value;
  VectorXd slope;      // d left / d response
  VectorXd curvature;  // second derivative
  VectorXd third;      // third derivative
};

/// Predictors column-wise, each as long as the responses.
[[nodiscard]] LeftSide left_side_at(const BoundModel& model, const Eigen::Ref<const VectorXd>& responses,
                                    const std::vector<const double*>& predictors);

/// The response that belongs to values of the left side, and its derivative by them.
struct Response {
  VectorXd value;
  VectorXd slope;
};
[[nodiscard]] Response response_at(const BoundModel& model, const Eigen::Ref<const VectorXd>& values,
                                   const std::vector<const double*>& predictors);

[[nodiscard]] std::vector<const double*> predictor_pointers(const Observations& observations);

}  // namespace truecurve::detail
