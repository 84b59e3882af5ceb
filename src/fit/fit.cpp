// Chooses the solver and assembles the result.
#include "linear.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/fit/fit.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace truecurve {

using Eigen::Index;

struct Fit::Parts {
  Estimate estimate;
  Observations observations;
  double chi_squared = 0;
  double total_sum_of_squares = 0;
  SolverReport solver;
  std::vector<Warning> warnings;
};

namespace {

// Beyond this condition even the refined result of a large problem has lost half its digits.
constexpr double doubtful_condition = 1e7;

Model bound_to(const Model& model, const Observations& observations) {
  if (model.response() != observations.response().name) {
    throw Error({.code = ErrorCode::unknown_name,
                 .message = fmt::format("the model '{}' is for the response '{}', and the observations are of '{}'", model.text(),
                                        model.response(), observations.response().name),
                 .subject = model.response(),
                 .remedy = "choose the response that stands on the left side of the model"});
  }
  const auto predictors = observations.predictors();
  if (model.is_bound() && std::equal(predictors.begin(), predictors.end(), model.predictors().begin(), model.predictors().end(),
                                     [](const Quantity& predictor, const std::string& name) { return predictor.name == name; })) {
    return model;
  }
  std::vector<std::string> names;
  for (const Quantity& predictor : predictors) names.push_back(predictor.name);
  return model.with_predictors(names);
}

void require_enough_rows(const Model& model, const Observations& observations) {
  const std::size_t p = model.parameters().size();
  if (observations.size() >= p) return;
  throw Error({.code = ErrorCode::too_few_observations,
               .message = fmt::format("{} row{} can't determine {} parameters", observations.size(),
                                      observations.size() == 1 ? "" : "s", p),
               .subject = "observations",
               .value = fmt::format("{}", observations.size()),
               .remedy = "measure at more points, or fit a model with fewer parameters"});
}

std::vector<Range> ranges_of(const Observations& observations) {
  std::vector<Range> ranges;
  for (std::size_t k = 0; k < observations.predictors().size(); ++k) {
    const VectorXd& column = observations.predictor(k);
    ranges.push_back({column.minCoeff(), column.maxCoeff()});
  }
  return ranges;
}

NewObservation new_observation(const Observations& observations, UncertaintyBasis basis, double scale) {
  if (!observations.has_uncertainties()) return {NewObservation::Kind::constant, scale};
  const VectorXd& u = observations.uncertainties();
  const double factor = basis == UncertaintyBasis::scatter ? scale : 1;
  if (u.minCoeff() == u.maxCoeff()) return {NewObservation::Kind::constant, factor * u[0]};
  const VectorXd relative = u.cwiseQuotient(observations.responses().cwiseAbs());
  if (relative.allFinite() && relative.maxCoeff() - relative.minCoeff() < 1e-9 * relative.maxCoeff()) {
    return {NewObservation::Kind::percent, 100 * factor * relative.mean()};
  }
  return {};
}

}  // namespace

const Estimate& Fit::estimate() const noexcept { return parts_->estimate; }
const Observations& Fit::observations() const noexcept { return parts_->observations; }
double Fit::chi_squared() const noexcept { return parts_->chi_squared; }
double Fit::total_sum_of_squares() const noexcept { return parts_->total_sum_of_squares; }
const SolverReport& Fit::solver() const noexcept { return parts_->solver; }
std::span<const Warning> Fit::warnings() const noexcept { return parts_->warnings; }

namespace {

// Applies `use` to each block: centred columns out[j], offset out[p].
template <typename Use>
void for_each_block(const Fit& fit, Use use) {
  const auto& bound = *fit.model().data().bound;
  const Observations& observations = fit.observations();
  const std::size_t p = bound.parameters.size();
  detail::ColumnEvaluator evaluator(bound, fit.estimate().parts().working.middle, fit.estimate().parts().working.half_width);
  std::vector<double> columns((p + 1) * detail::block_rows);
  for (std::size_t start = 0; start < observations.size(); start += detail::block_rows) {
    const std::size_t rows = std::min(detail::block_rows, observations.size() - start);
    std::vector<const double*> at;
    for (std::size_t k = 0; k < observations.predictors().size(); ++k) at.push_back(observations.predictor(k).data() + start);
    evaluator.run(at, rows, columns.data(), detail::block_rows);
    use(start, rows, columns.data());
  }
}

}  // namespace

ParameterEstimate Fit::parameter(std::string_view name) const {
  const Index at = estimate().index_of(name);
  return {std::string(name), estimate().parameters()[at], std::sqrt(estimate().covariance()(at, at)), estimate().unit(at)};
}

VectorXd Fit::fitted() const {
  VectorXd values(static_cast<Index>(size()));
  const WorkingForm& working = estimate().parts().working;
  const auto p = static_cast<std::size_t>(working.parameters.size());
  for_each_block(*this, [&](std::size_t start, std::size_t rows, const double* columns) {
    for (std::size_t i = 0; i < rows; ++i) {
      double sum = 0;
      for (std::size_t j = 0; j < p; ++j) {
        const auto at = static_cast<Index>(j);
        sum += working.parameters[at] * (columns[j * detail::block_rows + i] - working.centre[at]);
      }
      values[static_cast<Index>(start + i)] = columns[p * detail::block_rows + i] + sum;
    }
  });
  return values;
}

VectorXd Fit::residuals() const { return observations().responses() - fitted(); }

VectorXd Fit::leverage() const {
  VectorXd values(static_cast<Index>(size()));
  const WorkingForm& working = estimate().parts().working;
  const auto p = static_cast<std::size_t>(working.parameters.size());
  const bool weighted = observations().has_uncertainties();
  VectorXd g(static_cast<Index>(p));
  for_each_block(*this, [&](std::size_t start, std::size_t rows, const double* columns) {
    for (std::size_t i = 0; i < rows; ++i) {
      for (std::size_t j = 0; j < p; ++j) {
        const auto at = static_cast<Index>(j);
        g[at] = columns[j * detail::block_rows + i] - working.centre[at];
      }
      const auto row = static_cast<Index>(start + i);
      const double length = (working.inverse_factor.transpose() * g).squaredNorm();
      const double u = weighted ? observations().uncertainties()[row] : 1;
      values[row] = std::min(1.0, length / (u * u));
    }
  });
  return values;
}

Fit fit(const Model& given, const Observations& observations, const FitOptions& options) {
  Model model = bound_to(given, observations);
  if (!model.is_linear()) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = fmt::format("the model '{}' is not linear in its parameters", model.text()),
                 .subject = "model",
                 .remedy = "this version fits models in which every parameter multiplies a term: y = a + b*x"});
  }
  require_enough_rows(model, observations);
  UncertaintyBasis basis = options.uncertainty;
  if (basis == UncertaintyBasis::automatic) {
    basis = observations.has_uncertainties() ? UncertaintyBasis::stated : UncertaintyBasis::scatter;
  }
  if (basis == UncertaintyBasis::stated && !observations.has_uncertainties()) {
    throw Error({.code = ErrorCode::bad_uncertainty,
                 .message = fmt::format("stated uncertainties are asked for, but none are given for '{}'", observations.response().name),
                 .subject = observations.response().name,
                 .remedy = "give them (--u NAME=COLUMN, NUMBER or PERCENT%), or let the scatter set the scale (--uncertainty scatter)"});
  }

  detail::LinearSolution solution = detail::solve_linear(model, observations);
  const auto p = static_cast<double>(model.parameters().size());
  const double dof = static_cast<double>(observations.size()) - p;
  const double scale = basis == UncertaintyBasis::stated ? 1
                       : dof > 0                         ? std::sqrt(solution.chi_squared / dof)
                                                         : not_a_number;
  std::vector<Warning> warnings;
  if (dof == 0) {
    warnings.push_back({"no_degrees_of_freedom",
                        fmt::format("{} rows determine {} parameters exactly: nothing is left to judge the scatter or the curve by{}.",
                                    observations.size(), observations.size(),
                                    basis == UncertaintyBasis::scatter ? ", so no uncertainties can be given" : "")});
  }
  if (solution.condition > doubtful_condition && solution.method != "double-double QR") {
    warnings.push_back({"ill_conditioned", fmt::format("The columns of the model are nearly dependent (condition {:.1e}): expect about {} "
                                                       "correct digits.", solution.condition,
                                                       std::max(0, 16 - static_cast<int>(std::log10(solution.condition))))});
  }
  MatrixXd covariance = solution.spread * solution.spread.transpose() * (scale * scale);
  std::vector<Quantity> predictors(observations.predictors().begin(), observations.predictors().end());
  auto parts = std::make_shared<Fit::Parts>(Fit::Parts{
      Estimate({.model = std::move(model),
                .parameters = std::move(solution.parameters),
                .covariance = std::move(covariance),
                .degrees_of_freedom = dof,
                .basis = basis,
                .scale = scale,
                .new_observation = new_observation(observations, basis, scale),
                .response = observations.response(),
                .predictors = std::move(predictors),
                .ranges = ranges_of(observations),
                .working = std::move(solution.working)}),
      observations, solution.chi_squared, solution.total_sum_of_squares,
      SolverReport{.method = solution.method, .condition = solution.condition}, std::move(warnings)});
  return Fit(std::move(parts));
}

}  // namespace truecurve
