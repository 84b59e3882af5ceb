// The catalogue of named shapes: curves a laboratory meets again and again, ready to be fitted.
//
// Example:
//     const auto line = truecurve::shape_model("line", "t", "T");
//     EXPECT_EQ(line.text(), "T = a + b*t");
#pragma once

#include <truecurve/model/model.hpp>

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// What a parameter of a shape means.
struct ShapeParameter {
  std::string_view name;
  std::string_view meaning;
};

/// One shape of the catalogue.
struct Shape {
  std::string_view name;     ///< as given on the command line
  std::string_view formula;  ///< in written maths, response y, predictor x
  std::vector<ShapeParameter> parameters;
  std::string_view use;      ///< where it is met
};

/// All shapes, simplest first.
[[nodiscard]] std::span<const Shape> shapes();

/// Whether the catalogue has a shape of that name.
[[nodiscard]] bool is_shape(std::string_view name);

/// The shape as a model of response `y` in predictor `x` (names of columns; both must be plain names). A parameter that
/// is called like one of them is renamed with an appended _0. Throws Error: unknown_shape, bad_argument.
[[nodiscard]] Model shape_model(std::string_view name, std::string_view x = "x", std::string_view y = "y");

/// Whether a text can stand as a name in written maths.
[[nodiscard]] bool is_plain_name(std::string_view text);

}  // namespace truecurve
