// From a model's text or function to what can be evaluated.
#pragma once

#include "model_data.hpp"

#include <memory>
#include <string>
#include <vector>

namespace truecurve::detail {

/// A curve is searched for even where its structure is linear.
enum class Treat { by_structure, as_curve };

/// Resolves the names of a written model and examines its structure; `data` takes the parameters' names. Throws Error:
/// bad_argument (held parameters), parameter_without_effect, and of the left side as Model::with_predictors.
[[nodiscard]] std::shared_ptr<BoundModel> bind_text(ModelData& data, const std::vector<std::string>& predictors,
                                                    Treat treat);

/// C++ code shows no structure: every parameter is taken as entangled with the others.
[[nodiscard]] std::shared_ptr<BoundModel> bind_function(ModelData& data);

}  // namespace truecurve::detail
