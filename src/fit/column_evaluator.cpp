// Evaluates the columns of a model.
#include "column_evaluator.hpp"

#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "absorb.hpp"
#include "estimate_parts.hpp"

#include <algorithm>
#include <array>

#include <fmt/format.h>

namespace truecurve::detail {

using Eigen::Index;

ColumnEvaluator::ColumnEvaluator(const BoundModel& model, double middle, double half_width)
    : model_(&model), middle_(middle), half_width_(half_width), outputs_(model.columns.outputs()) {}

ColumnEvaluator::ColumnEvaluator(const BoundModel& model, const WorkingForm& working)
    : model_(&model),
      middle_(working.middle),
      half_width_(working.half_width),
      outputs_(model.linear ? model.columns.outputs() : model.parameters.size() + 1) {
  if (!model.linear) parameters_.assign(working.parameters.begin(), working.parameters.end());
}

void ColumnEvaluator::run_tangent(std::span<const double* const> variables, std::size_t rows, double* out,
                                  std::size_t stride) {
  const std::size_t p = parameters_.size();
  double* const offset = out + p * stride;
  outputs_[0] = offset;
  for (std::size_t j = 0; j < p; ++j) outputs_[j + 1] = out + j * stride;
  try {
    model_->run_jacobian(variables, rows, parameters_, outputs_, work_);
  } catch (const FunctionFailure& failure) {
    std::string at;
    for (std::size_t k = 0; k < variables.size(); ++k)
      at += fmt::format("{}{} = {}", k == 0 ? "" : ", ", model_->predictors[k], variables[k][failure.row]);
    throw Error({.code = ErrorCode::unsuitable_row,
                 .message = fmt::format("the model's function can't be evaluated at {}: {}", at, failure.what),
                 .subject = at,
                 .remedy = "ask for points that the function can take, or let it return NaN where it is not defined"});
  }
  for (std::size_t j = 0; j < p; ++j) {
    const double* const column = out + j * stride;
    for (std::size_t i = 0; i < rows; ++i) offset[i] -= parameters_[j] * column[i];
  }
}

void ColumnEvaluator::run(std::span<const double* const> variables, std::size_t rows, double* out, std::size_t stride) {
  if (!model_->linear) return run_tangent(variables, rows, out, stride);
  if (half_width_ > 0) {
    run_polynomial(variables[static_cast<std::size_t>(model_->polynomial_predictor)], rows, out, stride);
  } else {
    for (std::size_t k = 0; k < outputs_.size(); ++k) outputs_[k] = out + k * stride;
    model_->columns.run(variables, rows, parameters_, outputs_, work_);
  }
  if (!model_->has_offset) std::fill_n(out + model_->parameters.size() * stride, rows, 0.0);
}

void ColumnEvaluator::run_polynomial(const double* x, std::size_t rows, double* out, std::size_t stride) {
  const auto p = static_cast<int>(model_->powers.size());
  std::array<double*, most_columns> by_degree;  // where each degree's column goes
  for (int j = 0; j < p; ++j)
    by_degree[static_cast<std::size_t>(model_->powers[static_cast<std::size_t>(j)])] =
        out + static_cast<std::size_t>(j) * stride;
  double* const t = by_degree[1];
  std::fill_n(by_degree[0], rows, 1.0);
  for (std::size_t i = 0; i < rows; ++i) t[i] = (x[i] - middle_) / half_width_;
  for (std::size_t d = 2; d < static_cast<std::size_t>(p); ++d) {
    double* const __restrict next = by_degree[d];
    const double* const last = by_degree[d - 1];
    const double* const before = by_degree[d - 2];
    for (std::size_t i = 0; i < rows; ++i) next[i] = 2 * t[i] * last[i] - before[i];
  }
}

MatrixXd gradients_at(const Estimate& estimate, const VectorXd& x) {
  const BoundModel& bound = *data_of(estimate.model()).bound;
  WorkingForm plain{.centre = VectorXd::Zero(as_eigen(estimate.parameters()).size()),
                    .parameters = as_eigen(estimate.parameters())};
  ColumnEvaluator evaluator(bound, plain);
  const auto p = as_eigen(estimate.parameters()).size();
  MatrixXd gradients(x.size(), p);
  std::vector<double> columns(static_cast<std::size_t>(p + 1) * block_rows);
  const auto total = static_cast<std::size_t>(x.size());
  for (std::size_t start = 0; start < total; start += block_rows) {
    const std::size_t rows = std::min(block_rows, total - start);
    const double* const at[] = {x.data() + start};
    evaluator.run(at, rows, columns.data(), block_rows);
    for (std::size_t i = 0; i < rows; ++i) {
      for (Index j = 0; j < p; ++j)
        gradients(static_cast<Index>(start + i), j) = columns[static_cast<std::size_t>(j) * block_rows + i];
    }
  }
  return gradients;
}

VectorXd curve_at(const BoundModel& bound, const WorkingForm& working, const Observations& observations) {
  VectorXd values(static_cast<Index>(observations.size()));
  const std::size_t p = bound.parameters.size();
  for_each_block(bound, working, observations, [&](std::size_t start, std::size_t rows, const double* columns) {
    for (std::size_t i = 0; i < rows; ++i) {
      double sum = 0;
      for (std::size_t j = 0; j < p; ++j) {
        const auto at = static_cast<Index>(j);
        sum += working.parameters[at] * (columns[j * block_rows + i] - working.centre[at]);
      }
      values[static_cast<Index>(start + i)] = columns[p * block_rows + i] + sum;
    }
  });
  return values;
}

}  // namespace truecurve::detail
