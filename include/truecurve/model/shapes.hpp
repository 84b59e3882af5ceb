// The catalogue of named shapes: curves a laboratory meets again and again, ready to be fitted.
//
// Example:
//     const auto line = truecurve::shape_model("line", "t", "T");
//     EXPECT_EQ(line.text(), "T = a + b*t");
//     const auto decay = truecurve::shape_model("exponential", "t", "A");
//     EXPECT_EQ(decay.text(), "A = a*exp(b*t)");
//     const auto straight = truecurve::shape_model("exponential", "t", "A", truecurve::Route::linearized);
//     EXPECT_EQ(straight.text(), "ln(A) = c + b*t");
//     EXPECT_EQ(straight.original_parameters()[0].expression, "exp(c)");
#pragma once

#include <truecurve/model/model.hpp>

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// How a curve that has a straightened form is fitted.
enum class Route {
  direct,      ///< the curve itself to the measured response
  linearized,  ///< the straightened form, by linear least squares
};

/// What a parameter of a shape means.
struct ShapeParameter {
  std::string_view name;
  std::string_view meaning;
  /// Of a parameter of the curve: its expression in the parameters of the linearized form; empty where the shape has no
  /// such form. Of a derived quantity: its expression in the parameters of the curve.
  std::string_view from_linearized{};
  bool only_positive = false;  ///< of a derived quantity that a curve has only where it is above zero, a half-life say
};

/// One shape of the catalogue.
struct Shape {
  std::string_view name;        ///< as given on the command line
  std::string_view formula;     ///< in written maths, response y, predictor x
  std::string_view linearized;  ///< the straightened form; empty where there is none or the formula is linear already
  std::vector<ShapeParameter> parameters;
  std::vector<ShapeParameter> derived;  ///< quantities that follow from them and are reported with them
  std::string_view use;                 ///< where it is met
};

/// All shapes, simplest first. Throws no Error of its own.
[[nodiscard]] std::span<const Shape> shapes();

/// Whether the catalogue has a shape of that name; polynomial(k) counts. Throws no Error of its own.
[[nodiscard]] bool is_shape(std::string_view name);

/// The shape as a model of response `y` in predictor `x` (names of columns, plain names). `polynomial(k)` takes k from
/// 1 to 15. The linearized route gives the straightened form, whose model knows the parameters of the original curve. A
/// shape that is not linear proposes its own starts to the solver. A parameter that is called like a column is renamed
/// with an appended _0. Throws Error: unknown_shape, bad_argument (no such route among the reasons).
[[nodiscard]] Model shape_model(std::string_view name, std::string_view x = "x", std::string_view y = "y",
                                Route route = Route::direct);

/// The same with several predictors, for product-of-powers. Throws Error as shape_model().
[[nodiscard]] Model shape_model_of_several(std::string_view name, const std::vector<std::string>& x, std::string_view y,
                                           Route route = Route::direct);

/// Whether a text can stand as a name in written maths. Throws no Error of its own.
[[nodiscard]] bool is_plain_name(std::string_view text);

}  // namespace truecurve
