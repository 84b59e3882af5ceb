// The blank as one more constant of the curve.
#include "blank_offset.hpp"

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/refit.hpp"
#include "../fit/weights.hpp"
#include "../model/model_data.hpp"
#include "standards.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// The scatter that the weight of a common offset needs settles within a few rounds.
constexpr int most_rounds = 20;
constexpr double settled = 1e-10;

std::string free_name(const Model& model, std::string name) {
  const auto& taken = model.right_side_names();
  while (std::find(taken.begin(), taken.end(), name) != taken.end() || name == model.response()) name += "_0";
  return name;
}

Estimate part_of(const Fit& joint, const Estimate& plain, const Model& model, Index count) {
  EstimateParts parts = parts_of(plain);
  const VectorXd u = as_eigen(joint.estimate().standard_uncertainties()).head(count);
  const MatrixXd correlation = parts_of(joint.estimate()).correlation.topLeftCorner(count, count);
  const double scale = joint.estimate().scale();
  parts.model = model;
  parts.parameters = as_eigen(joint.estimate().parameters()).head(count);
  parts.standard_uncertainties = u;
  parts.correlation = correlation;
  parts.scale = scale;
  parts.limits.clear();
  parts.working = {.centre = VectorXd::Zero(count),
                   .parameters = as_eigen(parts.parameters),
                   .inverse_factor = (u / scale).asDiagonal() * cholesky_factor(correlation)};
  return made_of(std::move(parts));
}

}  // namespace

// A constant column is the same in the working form, so only the constant's working variance grows.
Estimate with_offset(const Estimate& estimate, double offset_variance) {
  EstimateParts parts = parts_of(estimate);
  const Index at = parts.model.constant_index();
  const double column = data_of(parts.model).bound->constant_value;
  const double variance = offset_variance / (column * column);
  double& u = parts.standard_uncertainties[at];
  const double wider = std::hypot(u, std::sqrt(variance));
  for (Index j = 0; j < parts.correlation.rows() && wider > 0; ++j) {
    if (j == at) continue;
    parts.correlation(at, j) *= u / wider;
    parts.correlation(j, at) = parts.correlation(at, j);
  }
  u = wider;
  if (parts.scale > 0) {
    MatrixXd working = detail::times_own_transpose(parts.working.inverse_factor);
    working(at, at) += variance / (parts.scale * parts.scale);
    parts.working.inverse_factor = cholesky_factor(working);
  } else if (variance > 0) {
    // Readings without scatter: the offset is all that is uncertain, and the unit of the working form.
    parts.scale = std::sqrt(variance);
    parts.working.inverse_factor.setZero();
    parts.working.inverse_factor(at, at) = 1;
  }
  return made_of(std::move(parts));
}

WithOffset with_estimated_offset(const Fit& plain, const std::vector<Reading>& used, double variance) {
  const Model& model = plain.model();
  if (model.is_transformed()) {
    fail_calibration(ErrorCode::not_supported,
                     fmt::format("the blank can't be subtracted from '{}' with its transform", model.text()), "blank",
                     {"include the blanks as standards of amount 0", {Action::treat_blank, "include"}});
  }
  const std::string& text = model.text();
  const auto equal = text.find('=');
  const std::string right = text.substr(equal + 1);
  const std::string left = text.substr(0, equal);
  const std::string offset = free_name(model, "blank_offset");
  const std::string indicator = free_name(model, "is_standard");
  const Quantity x = plain.estimate().predictors()[0];
  const Quantity y = plain.estimate().response();
  const Model joint =
      Model::written(fmt::format("{}= {}*({}) + {}", left, indicator, right, offset), {x.name, indicator});
  const bool stated = plain.estimate().has_known_scale();
  double scale = plain.estimate().scale();
  NamedNumbers amounts{x.name, x.unit};
  NamedNumbers signals{y.name, y.unit};
  NamedNumbers which{indicator, ""};
  for (const Reading& reading : used) {
    amounts.numbers.push_back(reading.amount);
    signals.numbers.push_back(reading.signal);
    which.numbers.push_back(1);
  }
  // One more row says how well the offset is known: 0 with the standard uncertainty of the mean blank.
  amounts.numbers.push_back(used.front().amount);
  signals.numbers.push_back(0);
  which.numbers.push_back(0);
  const Observations rows(
      Table::from_columns({amounts, signals, which}),
      {.response = y.name, .predictors = {x.name, indicator}, .response_uncertainty = Uncertainty::none()});
  VectorXd row_scatter = VectorXd::Ones(as_eigen(rows.responses()).size());
  row_scatter.head(row_scatter.size() - 1) = Weights(plain.left_side_observations()).sizes();
  std::vector<Start> starts = starts_at(model, as_eigen(plain.estimate().parameters()));
  if (!joint.is_linear()) starts.push_back({offset, 0});
  for (int round = 0;; ++round) {
    row_scatter[row_scatter.size() - 1] = std::sqrt(variance) / scale;
    const Observations weighted = stated ? rows.with_response(rows.responses(), row_scatter)
                                         : rows.with_relative_scatter(rows.responses(), row_scatter);
    const Fit made =
        fit(joint, weighted, {.uncertainty = plain.estimate().basis(), .starts = starts, .events_as_numbers = true});
    const double now = made.estimate().scale();
    const bool done = stated || std::abs(now - scale) <= settled * scale || round == most_rounds;
    scale = now;
    if (!done) continue;
    const auto p = static_cast<Index>(model.parameters().size());
    const Model with_offset = Model::written(fmt::format("{}= ({}) + {}", left, right, offset), {x.name});
    return {part_of(made, plain.estimate(), model, p), part_of(made, plain.estimate(), with_offset, p + 1)};
  }
}

}  // namespace truecurve::detail
