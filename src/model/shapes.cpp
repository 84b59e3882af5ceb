// The catalogue. To add a shape, add one entry.
#include <truecurve/base/error.hpp>
#include <truecurve/data/table.hpp>
#include <truecurve/model/shapes.hpp>

#include "model_data.hpp"
#include "parser.hpp"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <functional>
#include <map>

#include <fmt/format.h>

namespace truecurve {
namespace {

constexpr int highest_degree = 15;

const std::vector<Shape>& catalogue() {
  static const std::vector<Shape> all = {
      {"line",
       "y = a + b*x",
       "",
       {{"a", "intercept: the response at x = 0"}, {"b", "slope: the change of the response for one unit of x"}},
       "calibration lines, comparison of two instruments, the first look at almost anything"},
      {"line-through-origin",
       "y = b*x",
       "",
       {{"b", "slope: the response per unit of x"}},
       "quantities that vanish together by physics: extension and force, blank-corrected signal and amount"},
      {"polynomial(k)",
       "y = b0 + b1*x + ... + bk*x^k",
       "",
       {{"b0", "the response at x = 0"},
        {"b1", "the slope at x = 0"},
        {"bk", "the coefficient of the highest power, k from 1 to 15"}},
       "smooth bends of unknown origin within the range of the data: density against composition, correction curves"},
      {"logarithm",
       "y = a + b*ln(x)",
       "",
       {{"a", "the response at x = 1"}, {"b", "the change of the response when x grows e-fold"}},
       "electrode potentials against concentration, responses that flatten without a limit"},
      {"reciprocal",
       "y = a + b/x",
       "",
       {{"a", "the limit for large x"}, {"b", "the approach to it"}},
       "end effects that fade with length, quantities against reciprocal temperature or thickness"},
      {"square-root",
       "y = a + b*sqrt(x)",
       "",
       {{"a", "the response at x = 0"}, {"b", "the growth with the root of x"}},
       "diffusion-controlled growth of layers with time"},
      {"exponential",
       "y = a*exp(b*x)",
       "ln(y) = c + b*x",
       {{"a", "the response at x = 0", "exp(c)"}, {"b", "the rate: positive for growth, negative for decay", "b"}},
       "decay and growth at a constant rate without offset, attenuation with depth"},
      {"power",
       "y = a*x^b",
       "ln(y) = c + b*ln(x)",
       {{"a", "the response at x = 1", "exp(c)"}, {"b", "the exponent", "b"}},
       "scaling laws: frequency against size, drag against speed"},
      {"arrhenius",
       "y = a*exp(b/x)",
       "ln(y) = c + b/x",
       {{"a", "the limit for large x", "exp(c)"},
        {"b", "activation temperature, in the unit of x: positive where the response falls with x", "b"},
        {"E", "activation energy R*b in J/mol where x is a temperature in kelvin", "8.31446261815324*b"}},
       "melt viscosity, diffusion and reaction rates against absolute temperature"},
      {"saturation",
       "y = m*x/(k + x)",
       "1/y = p + q/x",
       {{"m", "the limit for large x", "1/p"}, {"k", "the x at which half the limit is reached", "q/p"}},
       "adsorption, enzyme kinetics, detectors near their limit"},
      {"product-of-powers",
       "y = a*x1^p1*x2^p2*...",
       "ln(y) = c + p1*ln(x1) + p2*ln(x2) + ...",
       {{"a", "the response where every x is 1", "exp(c)"}, {"pi", "the exponent of the i-th predictor", ""}},
       "dimensional laws with several predictors: tone of a bell against wall thickness and diameter"},
  };
  return all;
}

// k of "polynomial(k)", or -1.
int polynomial_degree(std::string_view name) {
  constexpr std::string_view head = "polynomial(";
  if (!name.starts_with(head) || !name.ends_with(")")) return -1;
  const std::string_view digits = name.substr(head.size(), name.size() - head.size() - 1);
  int degree = -1;
  const auto [end, code] = std::from_chars(digits.data(), digits.data() + digits.size(), degree);
  return code == std::errc() && end == digits.data() + digits.size() ? degree : -1;
}

// The text that is fitted, response y, predictors x (or x1, x2, ...).
std::string fitted_text(const Shape& shape, int degree, std::size_t predictors) {
  if (degree > 0) {
    std::string text = "y = b0 + b1*x";
    for (int d = 2; d <= degree; ++d) text += fmt::format(" + b{}*x^{}", d, d);
    return text;
  }
  if (shape.name == "product-of-powers") {
    std::string text = "ln(y) = c";
    for (std::size_t i = 1; i <= predictors; ++i) text += fmt::format(" + p{}*ln(x{})", i, i);
    return text;
  }
  return std::string(shape.linearized.empty() ? shape.formula : shape.linearized);
}

// Replaces whole names in a formula; digits and letters next to a name belong to it. Other names that are also columns
// get an appended _0.
std::string with_names(std::string_view formula, const std::map<std::string, std::string, std::less<>>& columns) {
  const auto in_word = [](char c) { return std::isalnum(static_cast<unsigned char>(c)) || c == '_'; };
  std::string text;
  for (std::size_t i = 0; i < formula.size();) {
    std::size_t end = i;
    while (end < formula.size() && in_word(formula[end])) ++end;
    if (end == i) {
      text += formula[i++];
      continue;
    }
    const std::string_view word = formula.substr(i, end - i);
    const bool called = end < formula.size() && formula[end] == '(';
    const auto column = columns.find(word);
    if (column != columns.end()) {
      text += column->second;
    } else {
      text += word;
      const bool taken =
          std::any_of(columns.begin(), columns.end(), [word](const auto& entry) { return entry.second == word; });
      if (!called && taken) text += "_0";
    }
    i = end;
  }
  return text;
}

const Shape* find_shape(std::string_view name) {
  const std::string_view wanted = polynomial_degree(name) > 0 ? "polynomial(k)" : name;
  const auto at = std::find_if(catalogue().begin(), catalogue().end(),
                               [wanted](const Shape& shape) { return shape.name == wanted; });
  return at == catalogue().end() || (at->name == "polynomial(k)" && polynomial_degree(name) < 1) ? nullptr : &*at;
}

}  // namespace

std::span<const Shape> shapes() { return catalogue(); }

bool is_shape(std::string_view name) { return find_shape(name) != nullptr; }

bool is_plain_name(std::string_view text) { return detail::is_plain_name(text); }

Model shape_model(std::string_view name, std::string_view x, std::string_view y) {
  return shape_model_of_several(name, {std::string(x)}, y);
}

Model shape_model_of_several(std::string_view name, const std::vector<std::string>& x, std::string_view y) {
  const Shape* const shape = find_shape(name);
  if (shape == nullptr) {
    std::vector<std::string> names;
    std::string list;
    for (const Shape& known : catalogue()) {
      names.emplace_back(known.name);
      list += (list.empty() ? "" : ", ") + names.back();
    }
    const std::string nearest = nearest_name(name, names);
    throw Error(
        {.code = ErrorCode::unknown_shape,
         .message = fmt::format("there is no shape '{}'", name),
         .subject = std::string(name),
         .remedy = fmt::format("{}the shapes are: {}; a model of your own is written as an equation: y = a + b*x",
                               nearest.empty() ? "" : fmt::format("did you mean '{}'? ", nearest), list)});
  }
  const int degree = polynomial_degree(name);
  if (degree > highest_degree) {
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = fmt::format("a polynomial of degree {} is asked for; {} is the highest", degree, highest_degree),
         .subject = std::string(name),
         .value = fmt::format("{}", degree),
         .remedy = "choose a lower degree, or a shape with a meaning"});
  }
  const bool several = shape->name == "product-of-powers";
  if (x.empty() || (x.size() > 1 && !several)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the shape '{}' takes one predictor, and {} are given", name, x.size()),
                 .subject = std::string(name),
                 .remedy = several ? "give at least one" : "give one, or write the model as an equation"});
  }
  std::map<std::string, std::string, std::less<>> columns = {{"y", std::string(y)}};
  for (std::size_t i = 0; i < x.size(); ++i) columns[several ? fmt::format("x{}", i + 1) : "x"] = x[i];
  for (const auto& [role, column] : columns) {
    if (!is_plain_name(column)) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("'{}' is no plain name and can't stand in a formula", column),
                   .subject = column,
                   .remedy = fmt::format("give the column an alias: --alias {}=\"{}\"", role, column)});
    }
  }
  const Model model = Model::written(with_names(fitted_text(*shape, degree, x.size()), columns), x);
  auto data = std::make_shared<detail::ModelData>(model.data());
  data->kind = name;
  for (const ShapeParameter& parameter : shape->parameters) {
    if (parameter.from_linearized.empty()) continue;
    // `b` of the original is `b` of the straightened form, and is not said twice.
    if (parameter.from_linearized == parameter.name) continue;
    data->originals.push_back({with_names(parameter.name, columns), with_names(parameter.from_linearized, columns),
                               std::string(parameter.meaning)});
  }
  return Model{std::shared_ptr<const detail::ModelData>(std::move(data))};
}

}  // namespace truecurve
