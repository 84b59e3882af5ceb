// What the part that reads records needs of the core beside its public face: exported, and not for callers.
#pragma once

#include "estimate_parts.hpp"

#include <span>

namespace truecurve::restoring {

/// detail::taken_apart of a covariance matrix.
[[nodiscard]] detail::UncertaintiesAndCorrelation taken_apart(const MatrixXd& covariance);

/// The columns of a model's working form at one point, one value a predictor, and the offset behind them: p + 1
/// numbers.
void evaluate_columns(const detail::BoundModel& model, const detail::WorkingForm& working,
                      std::span<const double* const> point, double* columns);

/// The smallest eigenvalue of a symmetric matrix, which is not empty.
[[nodiscard]] double smallest_eigenvalue(const MatrixXd& a);

}  // namespace truecurve::restoring
