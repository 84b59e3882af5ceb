// A model bound to the predictors of observations.
#include "bind.hpp"

#include <truecurve/base/error.hpp>

#include <algorithm>

#include <fmt/format.h>

namespace truecurve {

Model detail::bound_to(const Model& model, const Observations& observations) {
  if (model.response() != observations.response().name) {
    throw Error({.code = ErrorCode::unknown_name,
                 .message = fmt::format("the model '{}' is for the response '{}', and the observations are of '{}'",
                                        model.text(), model.response(), observations.response().name),
                 .subject = model.response(),
                 .remedy = "choose the response that stands on the left side of the model"});
  }
  const auto predictors = observations.predictors();
  if (model.is_bound() &&
      std::equal(predictors.begin(), predictors.end(), model.predictors().begin(), model.predictors().end(),
                 [](const Quantity& predictor, const std::string& name) { return predictor.name == name; })) {
    return model;
  }
  std::vector<std::string> names;
  for (const Quantity& predictor : predictors) names.push_back(predictor.name);
  return model.with_predictors(names);
}

}  // namespace truecurve
