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

/// Immutable and cheap to copy.
class Model {
 public:
  /// A model written as `response = expression`. Names among `predictors` are data, every other name is a parameter; left
  /// empty, the predictors are learnt from the observations at the first fit.
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
  /// All names on the right side, in order of first appearance: parameters and predictors.
  [[nodiscard]] const std::vector<std::string>& right_side_names() const noexcept;

  /// Whether the predictors are known, so that the following can be asked.
  [[nodiscard]] bool is_bound() const noexcept;
  [[nodiscard]] const std::vector<std::string>& predictors() const;
  /// The parameters in order of first appearance.
  [[nodiscard]] const std::vector<std::string>& parameters() const;
  /// Whether every parameter enters linearly; decided from the structure of the text.
  [[nodiscard]] bool is_linear() const;
  /// Whether one parameter stands alone as an additive constant (so that R² is taken about the mean).
  [[nodiscard]] bool has_constant() const;
  /// Index of that parameter, or -1.
  [[nodiscard]] int constant_index() const;
  /// Whether the curve is a straight line with intercept and slope in one predictor.
  [[nodiscard]] bool is_straight_line() const;

  /// For the rooms inside the library.
  [[nodiscard]] const detail::ModelData& data() const noexcept { return *data_; }
  explicit Model(std::shared_ptr<const detail::ModelData> data) : data_(std::move(data)) {}

 private:
  std::shared_ptr<const detail::ModelData> data_;
};

}  // namespace truecurve
