// A curve that may be fitted: its text, its parameters, and how they enter.
//
// Example:
//     const auto line = truecurve::Model::written("y = a + b*x", {"x"});
//     EXPECT_EQ(line.parameters(), (std::vector<std::string>{"a", "b"}));
//     EXPECT_TRUE(line.is_linear());
#pragma once

#include <truecurve/model/function.hpp>

#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace truecurve {

namespace detail {
struct ModelData;
struct ModelAccess;
}  // namespace detail

/// A parameter of an original curve, as an expression in the parameters of its linearized form.
struct OriginalParameter {
  std::string name{};
  std::string expression{};
  std::string meaning{};
  bool only_positive = false;  ///< reported only where it is above zero: a half-life, a doubling time
};

/// A parameter that is held at a value and not fitted.
struct FixedParameter {
  std::string name{};
  double value = 0;
};

/// Immutable and cheap to copy. What can be asked only of a model whose predictors are known (is_bound()) throws Error
/// (bad_argument) of another; none throws anything else but where it says so.
class Model {
 public:
  /// A model written as `response = expression`, or with a transform of the response on the left: `ln(y) = c - k*t`.
  /// The response is the first name on the left that does not stand on the right. Names among `predictors` are data,
  /// every other name is a parameter; left empty, the predictors are learnt from the observations at the first fit.
  /// Throws Error with a caret under the place: syntax, unknown_function, missing_operator, unbalanced_bracket,
  /// name_is_function, unknown_name (a header in quotation marks among the parameters, e in e^x),
  /// parameter_without_effect, model_too_large; not_supported (a left side that can't be solved for the response).
  /// Cost: some microseconds a parameter.
  [[nodiscard]] static Model written(std::string_view text, const std::vector<std::string>& predictors = {});

  /// A model given as C++ code, `callable(x, p)`: x is the predictor as `double`, or all of them as `std::span<const
  /// double>`; p is a `std::span<const Scalar>` of the parameters, in the order of their names. A callable that takes
  /// any Scalar (`auto p`) is also run on Dual and gets exact derivatives; one that takes only `double` gets central
  /// differences of fourth order, good to about 3e-13 of the function's size (Abramowitz and Stegun 1964, 25.3.21). The
  /// callable is copied with what it captures, must be const and is called from several threads. A predictor declared
  /// as `auto` is a double. A std::domain_error says that a row can't be evaluated: fit() throws Error
  /// (unsuitable_row) that names it. Whatever else it throws passes through unchanged.
  /// Throws Error: bad_argument (no parameters, more than 63, names that are not plain or stand twice; a callable of
  /// one predictor with several named).
  template <typename Callable>
  requires CurveCode<Callable>
  // NOLINTBEGIN(performance-unnecessary-value-param): both lists are moved on
  [[nodiscard]] static Model function(std::vector<std::string> parameters, Callable callable,
                                      FunctionNames names = {}) {
    // NOLINTEND(performance-unnecessary-value-param)
    constexpr bool single = detail::takes_one_predictor<Callable, double>;
    constexpr bool exact = detail::takes<Callable, Dual>;
    return from_row_function(std::move(parameters), detail::row_function(std::move(callable)), std::move(names),
                             single ? Predictors::one : Predictors::any,
                             exact ? Derivatives::exact : Derivatives::differences);
  }

  /// The same model with its predictors named. Throws Error: unknown_name, syntax, parameter_without_effect,
  /// not_supported or bad_argument, as written() and function() do.
  [[nodiscard]] Model with_predictors(const std::vector<std::string>& predictors) const;

  /// The same model with parameters held at values: they are fitted no more, and parameters() names the others only.
  /// Throws Error: bad_argument (a name that is no parameter or stands twice, a value that is not finite, nothing left
  /// to fit), parameter_without_effect (with the others so held).
  [[nodiscard]] Model with_fixed(const std::vector<FixedParameter>& fixed) const;

  [[nodiscard]] const std::string& text() const noexcept;
  /// "written", "function", or the shape's name.
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
  /// The parameters that are held, and all of them, fitted or held, in order of first appearance.
  [[nodiscard]] const std::vector<FixedParameter>& fixed() const noexcept;
  [[nodiscard]] const std::vector<std::string>& all_parameters() const;
  /// Whether derivatives are exact: false for C++ code that takes `double` only.
  [[nodiscard]] bool has_exact_derivatives() const noexcept;
  /// Whether every parameter enters linearly; decided from the structure of the text.
  [[nodiscard]] bool is_linear() const;
  /// Whether one parameter stands alone as an additive constant, or the model is not linear.
  [[nodiscard]] bool has_constant() const;
  /// Whether a linear model has a part without parameters: 2 in y = 2 + b*x, or the terms of held parameters.
  [[nodiscard]] bool has_known_part() const;
  /// Whether R² and the variance table are about the mean of the response: a model with a constant, with a known part,
  /// or one that is not linear. Only y = b*x and the like are judged about zero.
  [[nodiscard]] bool is_judged_about_the_mean() const { return has_constant() || has_known_part(); }
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
  /// The highest power of the one predictor where the model is a polynomial with all powers from 0 to 2 or more; 0 for
  /// a line (is_straight_line()) and any other model.
  [[nodiscard]] int polynomial_degree() const;

  /// Of a linearized shape: the parameters of the curve it straightens. Empty for any other model.
  [[nodiscard]] const std::vector<OriginalParameter>& original_parameters() const noexcept;

 private:
  friend struct detail::ModelAccess;
  explicit Model(std::shared_ptr<const detail::ModelData> data) : data_(std::move(data)) {}
  enum class Predictors { one, any };
  enum class Derivatives { exact, differences };
  static Model from_row_function(std::vector<std::string> parameters, detail::RowFunction run, FunctionNames names,
                                 Predictors predictors, Derivatives derivatives);

  std::shared_ptr<const detail::ModelData> data_;
};

}  // namespace truecurve
