// Evaluates bound models: programs of their graphs, or C++ code row by row.
#include "model_data.hpp"

#include <stdexcept>

namespace truecurve::detail {
namespace {

// The predictors of a row, gathered from columns.
class RowReader {
 public:
  explicit RowReader(std::span<const double* const> variables) : variables_(variables), row_(variables.size()) {}
  std::span<const double> at(std::size_t i) {
    for (std::size_t k = 0; k < row_.size(); ++k) row_[k] = variables_[k][i];
    return row_;
  }

 private:
  std::span<const double* const> variables_;
  std::vector<double> row_;
};

VectorXd all_of(const BoundFunction& function, std::span<const double> theta) {
  VectorXd all = function.theta;
  for (std::size_t j = 0; j < theta.size(); ++j) all[function.free[j]] = theta[j];
  return all;
}

// What else the code throws is the caller's own, and passes.
template <typename Call>
auto guarded(std::size_t row, Call call) {
  try {
    return call();
  } catch (const std::domain_error& error) {
    throw FunctionFailure{row, error.what()};
  }
}

}  // namespace

void BoundModel::run_value(std::span<const double* const> variables, std::size_t rows, std::span<const double> theta,
                           std::span<double* const> outputs, Program::Workspace& work) const {
  if (!function) return value.run(variables, rows, theta, outputs, work);
  const VectorXd all = all_of(*function, theta);
  RowReader reader(variables);
  const std::span<const double> parameters_now(all.data(), static_cast<std::size_t>(all.size()));
  for (std::size_t i = 0; i < rows; ++i)
    outputs[0][i] = guarded(i, [&] { return function->run->run(reader.at(i), parameters_now, nullptr); });
}

void BoundModel::run_jacobian(std::span<const double* const> variables, std::size_t rows, std::span<const double> theta,
                              std::span<double* const> outputs, Program::Workspace& work) const {
  if (!function) return jacobian.run(variables, rows, theta, outputs, work);
  const VectorXd all = all_of(*function, theta);
  RowReader reader(variables);
  const std::span<const double> parameters_now(all.data(), static_cast<std::size_t>(all.size()));
  VectorXd slopes(all.size());
  for (std::size_t i = 0; i < rows; ++i) {
    outputs[0][i] = guarded(i, [&] { return function->run->run(reader.at(i), parameters_now, slopes.data()); });
    for (std::size_t j = 0; j < theta.size(); ++j) outputs[j + 1][i] = slopes[function->free[j]];
  }
}

void BoundModel::run_projection(std::span<const double* const> variables, std::size_t rows,
                                std::span<const double> theta, std::span<double* const> outputs,
                                Program::Workspace& work) const {
  if (function) return run_value(variables, rows, theta, outputs, work);
  projection.run(variables, rows, theta, outputs, work);
}

}  // namespace truecurve::detail
