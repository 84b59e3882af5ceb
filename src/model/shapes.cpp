// The catalogue. To add a shape, add one entry.
#include "model_data.hpp"
#include "parser.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/data/table.hpp>
#include <truecurve/model/shapes.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace truecurve {
namespace {

const std::vector<Shape>& catalogue() {
  static const std::vector<Shape> all = {
      {"line",
       "y = a + b*x",
       {{"a", "intercept: the response at x = 0"}, {"b", "slope: the change of the response for one unit of x"}},
       "calibration lines, comparison of two instruments, the first look at almost anything"},
      {"line-through-origin",
       "y = b*x",
       {{"b", "slope: the response per unit of x"}},
       "quantities that vanish together by physics: extension and force, blank-corrected signal and amount"},
  };
  return all;
}

// Replaces whole names in a formula; digits and letters next to a name belong to it.
std::string with_names(std::string_view formula, std::string_view x, std::string_view y) {
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
    if (word == "x") {
      text += x;
    } else if (word == "y") {
      text += y;
    } else {
      text += word;
      if (!called && (word == x || word == y)) text += "_0";
    }
    i = end;
  }
  return text;
}

}  // namespace

std::span<const Shape> shapes() { return catalogue(); }

bool is_shape(std::string_view name) {
  return std::any_of(catalogue().begin(), catalogue().end(), [name](const Shape& shape) { return shape.name == name; });
}

bool is_plain_name(std::string_view text) { return detail::is_plain_name(text); }

Model shape_model(std::string_view name, std::string_view x, std::string_view y) {
  const auto at = std::find_if(catalogue().begin(), catalogue().end(), [name](const Shape& shape) { return shape.name == name; });
  if (at == catalogue().end()) {
    std::vector<std::string> names;
    std::string list;
    for (const Shape& shape : catalogue()) {
      names.emplace_back(shape.name);
      list += (list.empty() ? "" : ", ") + names.back();
    }
    const std::string nearest = nearest_name(name, names);
    throw Error({.code = ErrorCode::unknown_shape,
                 .message = fmt::format("there is no shape '{}'", name),
                 .subject = std::string(name),
                 .remedy = fmt::format("{}the shapes are: {}; a model of your own is written as an equation: y = a + b*x",
                                       nearest.empty() ? "" : fmt::format("did you mean '{}'? ", nearest), list)});
  }
  for (const std::string_view column : {x, y}) {
    if (!is_plain_name(column)) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("'{}' is no plain name and can't stand in a formula", column),
                   .subject = std::string(column),
                   .remedy = fmt::format("give the column an alias: --alias x=\"{}\"", column)});
    }
  }
  const Model model = Model::written(with_names(at->formula, x, y), {std::string(x)});
  auto data = std::make_shared<detail::ModelData>(model.data());
  data->kind = at->name;
  return Model{std::shared_ptr<const detail::ModelData>(std::move(data))};
}

}  // namespace truecurve
