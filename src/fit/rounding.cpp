// Tells rounding from scatter, and from parameters.
#include "rounding.hpp"

#include "../base/matrices.hpp"
#include "bind.hpp"
#include "column_evaluator.hpp"
#include "estimate_parts.hpp"
#include "left_side.hpp"
#include "nonlinear.hpp"
#include "weights.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// How far the curve moves anywhere when a parameter is set to 0, against the largest response.
double moved_without(const Model& model, const Observations& left, const VectorXd& parameters, Index j) {
  const Model curve = model.is_linear() ? as_curve(model) : model;
  const BoundModel& bound = *data_of(curve).bound;
  VectorXd without = parameters;
  without[j] = 0;
  VectorXd whole(static_cast<Index>(block_rows));
  VectorXd rest = whole;
  Program::Workspace work;
  const std::vector<const double*> columns = predictor_pointers(left);
  double largest = 0;
  for (std::size_t start = 0; start < left.size(); start += block_rows) {
    const std::size_t rows = std::min(block_rows, left.size() - start);
    std::vector<const double*> at;
    for (const double* column : columns) at.push_back(column + start);
    for (const auto& [theta, value] : {std::pair{&parameters, &whole}, {&without, &rest}}) {
      std::vector<double*> outputs = {value->data()};
      bound.run_value(at, rows, {theta->data(), bound.parameters.size()}, outputs, work);
    }
    const auto count = static_cast<Index>(rows);
    const double moved = (whole - rest).head(count).cwiseAbs().maxCoeff();
    if (!(moved <= largest)) largest = moved;
  }
  return largest / as_eigen(left.responses()).cwiseAbs().maxCoeff();
}

}  // namespace

bool are_rounding(const Solved& solved) {
  constexpr std::size_t always_looked_at = 100'000;
  constexpr double clearly_scattered = 1e-18;  // chi-squared against the total: no rounding of so many rows comes near
  constexpr double roundings = 8;
  const LinearSolution& solution = solved.solution;
  const Observations& left = solved.left_side;
  if (left.size() > always_looked_at && solution.chi_squared > clearly_scattered * solution.total_sum_of_squares)
    return false;
  const WorkingForm& working = solution.working;
  const Index p = working.parameters.size();
  const Weights weights(left);
  double squares = 0;
  double sizes = 0;
  const auto add = [&](std::size_t start, std::size_t rows, const double* columns) {
    for (std::size_t i = 0; i < rows; ++i) {
      const auto row = static_cast<Index>(start + i);
      const double y = left.responses()[row];
      double curve = columns[static_cast<std::size_t>(p) * block_rows + i];
      double size = std::abs(y) + std::abs(curve);
      for (Index j = 0; j < p; ++j) {
        const double column = columns[static_cast<std::size_t>(j) * block_rows + i];
        curve += working.parameters[j] * (column - working.centre[j]);
        size += std::abs(working.parameters[j]) * (std::abs(column) + std::abs(working.centre[j]));
      }
      const double root = weights.root(row);
      squares += std::pow((y - curve) * root, 2);
      sizes += std::pow(size * root, 2);
    }
  };
  for_each_block(*data_of(solved.model).bound, working, left, add);
  return std::sqrt(squares) <= roundings * std::numeric_limits<double>::epsilon() * std::sqrt(sizes);
}

void take_rounding_for_zero(LinearSolution& solution, const Model& model, const Observations& left) {
  constexpr double roundings = 8 * std::numeric_limits<double>::epsilon();
  const double size = Weights(left).standardized_norm(as_eigen(left.responses()));
  for (double& effect : solution.effects) {
    if (std::abs(effect) <= roundings * size) effect = 0;
  }
  if (data_of(model).function) return;
  for (Index j = 0; j < solution.parameters.size(); ++j) {
    double& value = solution.parameters[j];
    // What the response can't tell from 0 at all, first: the curve is looked at for nothing else.
    if (value == 0 || !(std::abs(value) <= roundings * size * solution.spread.row(j).stableNorm())) continue;
    if (moved_without(model, left, solution.parameters, j) <= roundings) value = 0;
  }
}

}  // namespace truecurve::detail
