// Makes models of the catalogue's shapes.
#include <truecurve/base/error.hpp>
#include <truecurve/data/table.hpp>
#include <truecurve/model/shapes.hpp>

#include "../base/matrices.hpp"
#include "model_data.hpp"
#include "parser.hpp"
#include "shape_catalogue.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <functional>
#include <map>
#include <optional>
#include <utility>
#include <vector>

#include <fmt/format.h>

namespace truecurve {
namespace {

constexpr int highest_degree = 15;

// k of "polynomial(k)", or -1.
int polynomial_degree(std::string_view name) {
  constexpr std::string_view head = "polynomial(";
  if (!name.starts_with(head) || !name.ends_with(")")) return -1;
  const std::string_view digits = name.substr(head.size(), name.size() - head.size() - 1);
  int degree = -1;
  const auto [end, code] = std::from_chars(digits.data(), digits.data() + digits.size(), degree);
  return code == std::errc() && end == digits.data() + digits.size() ? degree : -1;
}

// "share-logistic(floor, ceiling)" taken apart: what stands in brackets are limits other than 0 and 1.
struct ShareName {
  std::string_view shape;
  bool floor;
  bool ceiling;
};
std::optional<ShareName> share_name(std::string_view name) {
  const auto open = name.find('(');
  if (!name.starts_with("share-") || open == std::string_view::npos || !name.ends_with(")")) return std::nullopt;
  std::string inside(name.substr(open + 1, name.size() - open - 2));
  std::erase(inside, ' ');
  const ShareName made{.shape = name.substr(0, open),
                       .floor = inside == "floor" || inside == "floor,ceiling",
                       .ceiling = inside == "ceiling" || inside == "floor,ceiling"};
  return made.floor || made.ceiling ? std::optional(made) : std::nullopt;
}

// "y = f" as "y = floor + (ceiling - floor)*f".
std::string between_limits(std::string_view formula, const ShareName& name) {
  const std::string share(formula.substr(formula.find('=') + 2));
  const char* const high = name.ceiling ? "ceiling" : "1";
  if (!name.floor) return fmt::format("y = ceiling*({})", share);
  return fmt::format("y = floor + ({} - floor)*({})", high, share);
}

// The text that is fitted, response y, predictors x (or x1, x2, ...).
std::string fitted_text(const Shape& shape, int degree, std::size_t predictors, Route route) {
  if (degree > 0) {
    std::string text = "y = b0 + b1*x";
    for (int d = 2; d <= degree; ++d) text += fmt::format(" + b{}*x^{}", d, d);
    return text;
  }
  if (shape.name == "product-of-powers") {
    std::string text = route == Route::linearized ? "ln(y) = c" : "y = a";
    for (std::size_t i = 1; i <= predictors; ++i)
      text += route == Route::linearized ? fmt::format(" + p{}*ln(x{})", i, i) : fmt::format("*x{}^p{}", i, i);
    return text;
  }
  return std::string(route == Route::linearized ? shape.linearized : shape.formula);
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
      text += detail::in_formula(column->second);
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

// Words of every day, and the shapes that are meant.
constexpr std::array<std::pair<std::string_view, std::string_view>, 33> everyday = {{
    {"linear", "line"},
    {"straight", "line"},
    {"straight line", "line"},
    {"proportional", "line-through-origin"},
    {"origin", "line-through-origin"},
    {"quadratic", "polynomial(2)"},
    {"parabola", "polynomial(2)"},
    {"parabolic", "polynomial(2)"},
    {"cubic", "polynomial(3)"},
    {"quartic", "polynomial(4)"},
    {"quintic", "polynomial(5)"},
    {"inverse", "reciprocal"},
    {"1/x", "reciprocal"},
    {"hyperbola", "reciprocal"},
    {"log", "logarithm"},
    {"ln", "logarithm"},
    {"logarithmic", "logarithm"},
    {"sqrt", "square-root"},
    {"root", "square-root"},
    {"exp", "exponential"},
    {"decay", "exponential"},
    {"growth", "exponential"},
    {"cooling", "newton-cooling"},
    {"power law", "power"},
    {"allometric", "power"},
    {"sigmoid", "logistic"},
    {"s-curve", "logistic"},
    {"gauss", "gaussian-peak"},
    {"gaussian", "gaussian-peak"},
    {"peak", "gaussian-peak"},
    {"lorentz", "lorentzian-peak"},
    {"lorentzian", "lorentzian-peak"},
    {"oscillation", "damped-oscillation"},
}};

// What to write in place of a name that is no shape.
Advice towards_shapes(std::string_view name) {
  std::string word(name);
  std::transform(word.begin(), word.end(), word.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  if (word.starts_with("polynomial") || word == "poly")
    return "say of which degree, from 1 to 15: polynomial(2) is a parabola";
  if (word == "constant" || word == "mean") return "write an equation without a column: y = a";
  const std::string all = fmt::format(" There are {} shapes", shapes().size());
  for (const auto& [said, meant] : everyday) {
    if (word == said) return {fmt::format("did you mean '{}'?", meant), all, {Action::list_shapes}};
  }
  // What holds signs of maths is an equation whose left side is missing.
  if (word.find_first_of("+*^/~(") != std::string::npos)
    return "a model of your own is an equation with its parameters, in the names of the columns: y = a + b*x";
  std::vector<std::string> names;
  for (const Shape& known : shapes()) names.emplace_back(known.name);
  std::string near;
  for (int i = 0; i < 3; ++i) {
    const std::string next = nearest_name(word, names);
    if (next.empty()) break;
    std::erase(names, next);
    near += fmt::format("{}'{}'", near.empty() ? "" : " or ", next);
  }
  return {near.empty() ? "a model of your own is written as an equation: y = a + b*x."
                       : fmt::format("did you mean {}?", near),
          all,
          {Action::list_shapes}};
}

const detail::CatalogueEntry* find_shape(std::string_view name) {
  const auto share = share_name(name);
  const std::string_view wanted = polynomial_degree(name) > 0 ? "polynomial(k)" : share ? share->shape : name;
  const auto at = std::find_if(detail::catalogue().begin(), detail::catalogue().end(),
                               [wanted](const detail::CatalogueEntry& entry) { return entry.shape.name == wanted; });
  const bool none = at == detail::catalogue().end() || (wanted == "polynomial(k)" && polynomial_degree(name) < 1);
  return none ? nullptr : &*at;
}

// Quantities that follow from the parameters of the fitted form: those of the original curve, and the shape's own.
std::vector<OriginalParameter> implied(const Shape& shape, Route route, const Model& model,
                                       const std::map<std::string, std::string, std::less<>>& columns) {
  std::vector<OriginalParameter> quantities;
  const auto add = [&](const ShapeParameter& q, std::string_view expression) {
    quantities.push_back(
        {with_names(q.name, columns), with_names(expression, columns), std::string(q.meaning), q.only_positive});
  };
  if (route == Route::linearized) {
    for (const ShapeParameter& parameter : shape.parameters) {
      // `b` of the original is `b` of the straightened form, and is not said twice.
      if (!parameter.from_linearized.empty() && parameter.from_linearized != parameter.name)
        add(parameter, parameter.from_linearized);
    }
  }
  for (const ShapeParameter& quantity : shape.derived) {
    detail::Graph graph;
    const std::string text = with_names(quantity.from_linearized, columns);
    (void)detail::parse_expression(text, graph);
    const auto& known = model.all_parameters();
    const bool all_known = std::all_of(graph.names().begin(), graph.names().end(), [&known](const std::string& name) {
      return std::find(known.begin(), known.end(), name) != known.end();
    });
    if (all_known) add(quantity, quantity.from_linearized);
  }
  return quantities;
}

}  // namespace

std::span<const Shape> shapes() {
  static const std::vector<Shape> all = [] {
    std::vector<Shape> list;
    for (const detail::CatalogueEntry& entry : detail::catalogue()) list.push_back(entry.shape);
    return list;
  }();
  return all;
}

bool is_shape(std::string_view name) { return find_shape(name) != nullptr; }

bool is_plain_name(std::string_view text) { return detail::is_plain_name(text); }

Model shape_model(std::string_view name, std::string_view x, std::string_view y, Route route) {
  return shape_model_of_several(name, {std::string(x)}, y, route);
}

Model shape_model_of_several(std::string_view name, const std::vector<std::string>& x, std::string_view y,
                             Route route) {
  const detail::CatalogueEntry* const entry = find_shape(name);
  if (entry == nullptr) {
    throw Error({.code = ErrorCode::unknown_shape,
                 .message = fmt::format("there is no shape '{}'", name),
                 .subject = std::string(name),
                 .remedy = towards_shapes(name)});
  }
  const Shape& shape = entry->shape;
  if (route == Route::linearized && shape.linearized.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the shape '{}' has no linearized form", name),
                 .subject = std::string(name),
                 .remedy = {"fit it directly, or choose a shape that has one", {Action::list_shapes}}});
  }
  const int degree = polynomial_degree(name);
  if (degree > highest_degree) {
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = fmt::format("a polynomial of degree {} is not possible; {} is the highest", degree, highest_degree),
         .subject = std::string(name),
         .value = fmt::format("{}", degree),
         .remedy = "choose a lower degree, or a shape with a meaning"});
  }
  const bool several = shape.name == "product-of-powers";
  if (x.empty() || (x.size() > 1 && !several)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the shape '{}' takes one predictor, and {} are given", name, x.size()),
                 .subject = std::string(name),
                 .remedy = several ? "give at least one" : "give one, or write the model as an equation"});
  }
  std::map<std::string, std::string, std::less<>> columns = {{"y", std::string(y)}};
  for (std::size_t i = 0; i < x.size(); ++i) columns[several ? fmt::format("x{}", i + 1) : "x"] = x[i];
  const auto share = share_name(name);
  const std::string formula =
      share ? between_limits(shape.formula, *share) : fitted_text(shape, degree, x.size(), route);
  const Model model = Model::written(with_names(formula, columns), x);
  auto data = std::make_shared<detail::ModelData>(detail::data_of(model));
  data->kind = name;
  data->originals = implied(shape, route, model, columns);
  if (route == Route::direct && entry->propose != nullptr) data->propose = entry->propose;
  if (share) {
    const auto propose = entry->propose;
    data->propose = [propose, share = *share](const VectorXd& at, const VectorXd& responses) {
      std::vector<VectorXd> starts;
      for (const VectorXd& inner : propose(at, responses)) {
        std::vector<double> start;
        if (share.floor) start.push_back(std::clamp(responses.minCoeff(), 0.01, 0.5));
        if (share.ceiling) start.push_back(std::clamp(responses.maxCoeff(), 0.5, 0.99));
        start.insert(start.end(), inner.begin(), inner.end());
        starts.emplace_back(VectorXd::Map(start.data(), static_cast<Eigen::Index>(start.size())));
      }
      return starts;
    };
    for (const auto& [is_there, limit] : {std::pair{share.value().floor, "floor"}, {share.value().ceiling, "ceiling"}})
      if (is_there)
        data->limits.push_back({with_names(limit, columns), limit[0] == 'f' ? 0 : 0.5, limit[0] == 'f' ? 0.5 : 1});
  }
  return detail::made_of(std::move(data));
}

}  // namespace truecurve
