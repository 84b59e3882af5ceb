// Models as they are written, bound and asked.
#include <truecurve/base/error.hpp>
#include <truecurve/model/model.hpp>

#include "../base/matrices.hpp"
#include "bind_model.hpp"
#include "letters.hpp"
#include "model_data.hpp"
#include "parser.hpp"
#include "transform.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve {

using detail::BoundModel;
using detail::ModelData;
using detail::Treat;

Model Model::written(std::string_view text, const std::vector<std::string>& predictors) {
  auto data = std::make_shared<ModelData>();
  data->text = detail::plain_formula(text);
  const detail::Equation equation = detail::parse_equation(text, data->graph);
  data->left = equation.left;
  data->right = equation.right;
  data->left_names = equation.left_names;
  data->right_names = equation.right_names;
  if (data->left_names.empty()) {
    throw Error({.code = ErrorCode::syntax,
                 .message = fmt::format("the left side of '{}' names no response", text),
                 .subject = "model text",
                 .remedy = "write the response on the left: y = ... or ln(y) = ..."});
  }
  data->response = data->left_names.front();
  for (const std::string& name : data->left_names) {
    if (std::find(data->right_names.begin(), data->right_names.end(), name) == data->right_names.end()) {
      data->response = name;
      break;
    }
  }
  if (std::find(data->right_names.begin(), data->right_names.end(), data->response) != data->right_names.end()) {
    throw Error(
        {.code = ErrorCode::syntax,
         .message = fmt::format("the response '{}' also stands on the right side of '{}'", data->response, text),
         .subject = data->response,
         .remedy = "solve the equation for the response"});
  }
  if (data->right_names.empty()) {
    throw Error({.code = ErrorCode::syntax,
                 .message = fmt::format("there is no parameter in '{}'", text),
                 .subject = "model text",
                 .remedy = "name what is to be found: y = a + b*x"});
  }
  const Model unbound{std::shared_ptr<const ModelData>(std::move(data))};
  return predictors.empty() ? unbound : unbound.with_predictors(predictors);
}

namespace {

Model bound_with(const ModelData& given, const std::vector<std::string>& predictors, Treat treat) {
  auto data = std::make_shared<ModelData>(given);
  if (data->function) {
    if (predictors != data->function_predictors) {
      throw Error({.code = ErrorCode::unknown_name,
                   .message = fmt::format("the function takes {}, and {} are given",
                                          fmt::join(data->function_predictors, ", "), fmt::join(predictors, ", ")),
                   .subject = "predictors",
                   .remedy = "choose the observations' predictors in the order of the function's"});
    }
    data->bound = detail::bind_function(*data);
  } else {
    const std::shared_ptr<BoundModel> bound = detail::bind_text(*data, predictors, treat);
    data->bound = bound;
  }
  if (data->bound->parameters.empty()) {
    throw Error(
        {.code = data->fixed.empty() ? ErrorCode::syntax : ErrorCode::bad_argument,
         .message = data->fixed.empty()
                        ? fmt::format("every name on the right side of '{}' is a column; nothing is left to be "
                                      "fitted",
                                      data->text)
                        : fmt::format("every parameter of '{}' is held; nothing is left to be fitted", data->text),
         .subject = "model text",
         .remedy = data->fixed.empty() ? "name what is to be found: y = a + b*x" : "free one of them"});
  }
  return detail::made_of(std::move(data));
}

}  // namespace

Model Model::with_predictors(const std::vector<std::string>& predictors) const {
  return bound_with(*data_, predictors, Treat::by_structure);
}

Model detail::as_curve(const Model& model) {
  return bound_with(detail::data_of(model), model.predictors(), Treat::as_curve);
}

Model Model::with_fixed(const std::vector<FixedParameter>& fixed) const {
  auto data = std::make_shared<ModelData>(*data_);
  data->fixed.insert(data->fixed.end(), fixed.begin(), fixed.end());
  if (data->bound) return bound_with(*data, data->bound->predictors, Treat::by_structure);
  return detail::made_of(std::move(data));
}

Model Model::from_row_function(std::vector<std::string> parameters, detail::RowFunction run, FunctionNames names,
                               Predictors predictors, Derivatives derivatives) {
  auto data = std::make_shared<ModelData>();
  const auto refuse = [](const std::string& message, const std::string& subject, const Advice& remedy) {
    throw Error({.code = ErrorCode::bad_argument, .message = message, .subject = subject, .remedy = remedy});
  };
  if (parameters.empty() || parameters.size() > detail::most_function_parameters)
    refuse(fmt::format("a function with {} parameters can't be fitted", parameters.size()), "parameters",
           fmt::format("name 1 to {} parameters", detail::most_function_parameters));
  if (names.predictors.empty() || (predictors == Predictors::one && names.predictors.size() != 1))
    refuse(fmt::format("the function takes its predictor as one double, and {} are named", names.predictors.size()),
           "predictors", "let it take std::span<const double>, or name one predictor");
  std::vector<std::string> all = parameters;
  all.insert(all.end(), names.predictors.begin(), names.predictors.end());
  all.push_back(names.response);
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (!detail::is_plain_name(all[i]))
      refuse(fmt::format("'{}' is not a plain name", all[i]), all[i], "use letters, digits and _");
    if (std::find(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(i), all[i]) !=
        all.begin() + static_cast<std::ptrdiff_t>(i))
      refuse(fmt::format("'{}' stands twice among parameters, predictors and response", all[i]), all[i],
             "give each its own name");
  }
  data->text = names.text.empty() ? fmt::format("{} = f({}; {})", names.response, fmt::join(names.predictors, ", "),
                                                fmt::join(parameters, ", "))
                                  : std::move(names.text);
  data->kind = "function";
  data->response = names.response;
  data->left_names = {names.response};
  data->right_names = all;
  data->right_names.pop_back();
  data->function = std::move(run);
  data->function_parameters = std::move(parameters);
  data->function_predictors = std::move(names.predictors);
  data->exact_derivatives = derivatives == Derivatives::exact;
  const Model unbound{std::shared_ptr<const ModelData>(std::move(data))};
  return unbound.with_predictors(detail::data_of(unbound).function_predictors);
}

namespace {
const BoundModel& bound_of(const ModelData& data) {
  if (!data.bound) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the predictors of '{}' are not known yet", data.text),
                 .subject = "model",
                 .remedy = "name them: Model::written(text, {\"x\"}), or fit the model"});
  }
  return *data.bound;
}
}  // namespace

const std::vector<FixedParameter>& Model::fixed() const noexcept { return data_->fixed; }
const std::vector<std::string>& Model::all_parameters() const {
  (void)bound_of(*data_);
  return data_->names;
}
bool Model::has_exact_derivatives() const noexcept { return data_->exact_derivatives; }
const std::vector<std::string>& Model::left_side_names() const noexcept { return data_->left_names; }
const std::vector<OriginalParameter>& Model::original_parameters() const noexcept { return data_->originals; }
const std::string& Model::text() const noexcept { return data_->text; }
const std::string& Model::kind() const noexcept { return data_->kind; }
const std::string& Model::response() const noexcept { return data_->response; }
const std::vector<std::string>& Model::right_side_names() const noexcept { return data_->right_names; }
bool Model::is_bound() const noexcept { return data_->bound != nullptr; }
const std::vector<std::string>& Model::predictors() const { return bound_of(*data_).predictors; }
const std::vector<std::string>& Model::parameters() const { return bound_of(*data_).parameters; }
bool Model::is_linear() const { return bound_of(*data_).linear; }
bool Model::has_constant() const { return bound_of(*data_).constant_term >= 0 || !bound_of(*data_).linear; }
bool Model::has_known_part() const { return bound_of(*data_).linear && bound_of(*data_).has_offset; }
int Model::constant_index() const { return bound_of(*data_).constant_term; }
bool Model::is_transformed() const { return bound_of(*data_).transformed; }
const std::string& Model::left_side() const { return bound_of(*data_).left_text; }
const std::string& Model::implied_scatter() const { return bound_of(*data_).implied_scatter; }
int Model::polynomial_degree() const { return std::max(0, static_cast<int>(bound_of(*data_).powers.size()) - 1); }
bool Model::is_straight_line() const { return bound_of(*data_).straight_line; }

}  // namespace truecurve
