// Finds the rows whose left side or terms are not finite.
#include <truecurve/fit/invalid_rows.hpp>

#include "../base/matrices.hpp"
#include "../model/transform.hpp"
#include "bind.hpp"
#include "column_evaluator.hpp"
#include "left_side.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

// The values of all names of the graph at one row.
std::vector<double> values_at(const detail::ModelData& data, const Observations& observations, Eigen::Index row) {
  std::vector<double> values(data.graph.names().size(), not_a_number);
  for (std::size_t i = 0; i < values.size(); ++i) {
    const std::string& name = data.graph.names()[i];
    if (name == data.response) values[i] = observations.responses()[row];
    for (std::size_t k = 0; k < observations.predictors().size(); ++k) {
      if (name == observations.predictors()[k].name) values[i] = observations.predictor(k)[row];
    }
  }
  return values;
}

}  // namespace

std::vector<LeftOut> invalid_rows(const Model& given, const Observations& observations) {
  const Model model = detail::bound_to(given, observations);
  const detail::BoundModel& bound = *detail::data_of(model).bound;
  std::vector<LeftOut> rows;
  std::vector<bool> found(observations.size(), false);
  // Of a counted response the left side is a link, and transforms no data.
  if (bound.transformed && observations.observation_model().is_measured()) {
    const detail::LeftSide left =
        detail::left_side_at(bound, as_eigen(observations.responses()), detail::predictor_pointers(observations));
    for (Eigen::Index i = 0; i < left.value.size(); ++i) {
      const bool usable = std::isfinite(left.value[i]) && std::isfinite(left.slope[i]) && left.slope[i] != 0;
      if (usable) continue;
      found[static_cast<std::size_t>(i)] = true;
      const std::string reason = std::isfinite(left.value[i])
                                     ? fmt::format("{} has no usable slope at {} = {}", bound.left_text,
                                                   model.response(), observations.responses()[i])
                                     : detail::reason_not_finite(detail::data_of(model).graph, bound.left_node,
                                                                 values_at(detail::data_of(model), observations, i));
      rows.push_back({observations.source_rows()[static_cast<std::size_t>(i)], reason});
    }
  }
  if (bound.linear) {
    const std::size_t p = bound.parameters.size();
    detail::ColumnEvaluator evaluator(bound, 0, 0);
    std::vector<double> columns((p + 1) * detail::block_rows);
    const std::vector<const double*> start_of = detail::predictor_pointers(observations);
    for (std::size_t start = 0; start < observations.size(); start += detail::block_rows) {
      const std::size_t count = std::min(detail::block_rows, observations.size() - start);
      std::vector<const double*> at = start_of;
      for (const double*& pointer : at) pointer += start;
      evaluator.run(at, count, columns.data(), detail::block_rows);
      for (std::size_t i = 0; i < count; ++i) {
        for (std::size_t j = 0; j <= p && !found[start + i]; ++j) {
          if (std::isfinite(columns[j * detail::block_rows + i])) continue;
          found[start + i] = true;
          const std::string reason = detail::reason_not_finite(
              detail::data_of(model).graph, detail::data_of(model).right,
              values_at(detail::data_of(model), observations, static_cast<Eigen::Index>(start + i)));
          rows.push_back({observations.source_rows()[start + i], reason});
        }
      }
    }
  }
  std::stable_sort(rows.begin(), rows.end(), [](const LeftOut& a, const LeftOut& b) { return a.row < b.row; });
  return rows;
}

}  // namespace truecurve
