// A curve that may be fitted: its text, its parameters, and how they enter.
//
// Example:
//     const auto line = truecurve::Model::written("y = a + b*x", {"x"});
//     EXPECT_EQ(line.parameters(), (std::vector<std::string>{"a", "b"}));
//     EXPECT_TRUE(line.is_linear());
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

namespace detail {
struct ModelData;
}

/// A parameter of an original curve, as an expression in the parameters of its linearized form.
struct OriginalParameter {
  std::string name{};
  std::string expression{};
  std::string meaning{};
};

/// Immutable and cheap to copy.
class Model {
 public:
  /// A model written as `response = expression`, or with a transform of the response on the left: `ln(y) = c - k*t`.
  /// The response is the first name on the left that does not stand on the right. Names among `predictors` are data,
  /// every other name is a parameter; left empty, the predictors are learnt from the observations at the first fit.
  /// Throws Error with a caret under the place: syntax, unknown_function, missing_operator, unbalanced_bracket,
  /// name_is_function, parameter_without_effect, model_too_large. Cost: some microseconds a parameter.
  [[nodiscard]] static Model written(std::string_view text, const std::vector<std::string>& predictors = {});

  /// The same model with its predictors named.
  [[nodiscard]] Model with_predictors(const std::vector<std::string>& predictors) const;

  [[nodiscard]] const std::string& text() const noexcept;
  /// "written", or the shape's name.
  [[nodiscard]] const std::string& kind() const noexcept;
  /// The name of the response on the left side.
  [[nodiscard]] const std::string& response() const noexcept;
  /// All names on the left side, in order of first appearance.
  [[nodiscard]] const std::vector<std::string>& left_side_names() const noexcept;
  /// All names on the right side, in order of first appearance: parameters and predictors.
  [[nodiscard]] const std::vector<std::string>& right_side_names() const noexcept;

  /// Whether the predictors are known, so that the following can be asked.
  [[nodiscard]] bool is_bound() const noexcept;
  [[nodiscard]] const std::vector<std::string>& predictors() const;
  /// The parameters in order of first appearance.
  [[nodiscard]] const std::vector<std::string>& parameters() const;
  /// Whether every parameter enters linearly; decided from the structure of the text.
  [[nodiscard]] bool is_linear() const;
  /// Whether R² is taken about the mean: one parameter stands alone as an additive constant, or the model is not
  /// linear.
  [[nodiscard]] bool has_constant() const;
  /// Index of the additive constant of a linear model, or -1.
  [[nodiscard]] int constant_index() const;
  /// Whether the curve is a straight line with intercept and slope in one predictor.
  [[nodiscard]] bool is_straight_line() const;

  /// Whether the left side is a transform of the response: the linearized route.
  [[nodiscard]] bool is_transformed() const;
  /// The left side as text: "y", "ln(y)".
  [[nodiscard]] const std::string& left_side() const;
  /// To what the scatter of the response is taken as proportional where the left side is fitted with equal scatter: "y"
  /// for ln(y); "1" for a model without a transform.
  [[nodiscard]] const std::string& implied_scatter() const;
  /// The highest power of the one predictor where the model is a polynomial with all powers from 0, else 0.
  [[nodiscard]] int polynomial_degree() const;

  /// Of a linearized shape: the parameters of the curve it straightens. Empty for any other model.
  [[nodiscard]] const std::vector<OriginalParameter>& original_parameters() const noexcept;

  /// For the rooms inside the library.
  [[nodiscard]] const detail::ModelData& data() const noexcept { return *data_; }
  explicit Model(std::shared_ptr<const detail::ModelData> data) : data_(std::move(data)) {}

 private:
  std::shared_ptr<const detail::ModelData> data_;
};

}  // namespace truecurve
