// Hands on what restoring an estimate takes.
#include "restoring.hpp"

#include "../base/dense.hpp"
#include "column_evaluator.hpp"

namespace truecurve::restoring {

detail::UncertaintiesAndCorrelation taken_apart(const MatrixXd& covariance) { return detail::taken_apart(covariance); }

void evaluate_columns(const detail::BoundModel& model, const detail::WorkingForm& working,
                      std::span<const double* const> point, double* columns) {
  detail::ColumnEvaluator(model, working).run(point, 1, columns, 1);
}

double smallest_eigenvalue(const MatrixXd& a) { return detail::symmetric_eigen(a).values[0]; }

}  // namespace truecurve::restoring
