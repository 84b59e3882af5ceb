// The rows of a fit in its record.
#include <truecurve/assess/checks.hpp>

#include "fit_json.hpp"

namespace truecurve {

detail::Json detail::residual_rows_json(const Fit& fit) {
  const Observations& observations = fit.observations();
  const RowMeasures measures = row_measures(fit);
  const Vector residuals = fit.response_residuals();
  detail::Json rows = detail::Json::array();
  for (std::size_t i = 0; i < observations.size(); ++i) {
    detail::Json at = detail::Json::object();
    for (std::size_t k = 0; k < observations.predictors().size(); ++k)
      at[observations.predictors()[k].name] = observations.predictor(k)[i];
    const double y = observations.responses()[i];
    rows.push_back({{"row", observations.source_rows()[i]},
                    {"at", std::move(at)},
                    {"response", y},
                    {"fitted", y - residuals[i]},
                    {"residual", residuals[i]},
                    {"standardized", measures.standardized[i]},
                    {"leverage", measures.leverage[i]},
                    {"cook_distance", measures.cook_distance[i]}});
  }
  return rows;
}

}  // namespace truecurve
