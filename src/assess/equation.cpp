// Writes the fitted curve out, and finds how many digits it takes.
#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/equation.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/model/headers.hpp>

#include "../base/halton.hpp"
#include "../model/formula_text.hpp"
#include "../model/model_data.hpp"
#include "../model/transform.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <map>
#include <set>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::Graph;
using detail::NodeId;
using detail::WrittenName;

// The copied curve stays within this share of its standard uncertainty.
constexpr double allowed_share = 0.01;
constexpr int fewest_digits = 3;
constexpr int most_digits = 17;

// The right side, and the response as it follows from the value of the left side.
class Curve {
 public:
  explicit Curve(const Estimate& estimate) : estimate_(estimate) {
    const detail::ModelData& data = detail::data_of(estimate.model());
    if (data.function) {
      throw Error({.code = ErrorCode::not_supported,
                   .message = fmt::format("'{}' is a function given as code and has no equation", data.text),
                   .subject = data.text,
                   .remedy = "write the model as an equation"});
    }
    graph_ = data.graph;
    right_ = data.right;
    std::vector<double> held(graph_.names().size(), std::nan(""));
    for (const FixedParameter& fixed : data.fixed) held[index_of(fixed.name)] = fixed.value;
    if (!data.fixed.empty()) right_ = graph_.with_values(right_, held);
    if (data.bound->transformed)
      inverse_ = detail::inverse_of(graph_, data.left, graph_.index_of(data.response), detail::left_value_name);
  }

  // The curve at a point, with these parameters.
  [[nodiscard]] double at(const std::vector<double>& parameters, const std::vector<double>& point) const {
    std::vector<double> values(graph_.names().size(), std::nan(""));
    const auto& names = estimate_.parameter_names();
    for (std::size_t j = 0; j < names.size(); ++j) values[index_of(names[j])] = parameters[j];
    for (std::size_t k = 0; k < point.size(); ++k) set(values, estimate_.model().predictors()[k], point[k]);
    const double right = value_of(right_, values);
    if (inverse_ < 0) return right;
    set(values, detail::left_value_name, right);
    return value_of(inverse_, values);
  }

  [[nodiscard]] WrittenName written(const detail::FormulaStyle& style) const {
    const WrittenName made = whole(style);
    // The writer cuts what has grown beyond all sense.
    if (made.text.find("...") == std::string::npos) return made;
    throw Error({.code = ErrorCode::not_supported,
                 .message = "the equation with its numbers is too long to be written out",
                 .subject = "equation",
                 .remedy = "read the curve at places instead"});
  }

 private:
  [[nodiscard]] WrittenName whole(const detail::FormulaStyle& style) const {
    const WrittenName right = detail::written(graph_, right_, style);
    if (inverse_ < 0) return right;
    detail::FormulaStyle around = style;
    around.name_of = [&](const std::string& name) {
      return name == detail::left_value_name ? right : style.name_of(name);
    };
    return detail::written(graph_, inverse_, around);
  }

  [[nodiscard]] std::size_t index_of(const std::string& name) const {
    return static_cast<std::size_t>(graph_.index_of(name));
  }
  // A predictor may stand on the left side only, or nowhere.
  void set(std::vector<double>& values, const std::string& name, double value) const {
    if (index_of(name) < values.size()) values[index_of(name)] = value;
  }

  [[nodiscard]] double value_of(NodeId root, const std::vector<double>& values) const {
    std::vector<double> numbers(static_cast<std::size_t>(root) + 1, 0.0);
    const std::vector<bool> needed = graph_.beneath(std::array{root});
    for (NodeId id = 0; id <= root; ++id) {
      if (!needed[static_cast<std::size_t>(id)]) continue;
      const detail::Node& node = graph_.at(id);
      const auto number = [&](NodeId child) { return child < 0 ? 0.0 : numbers[static_cast<std::size_t>(child)]; };
      numbers[static_cast<std::size_t>(id)] = node.op == detail::Op::name
                                                  ? values[static_cast<std::size_t>(node.name)]
                                                  : apply(node, number(node.a), number(node.b), number(node.c));
    }
    return numbers.back();
  }

  const Estimate& estimate_;
  Graph graph_;
  NodeId right_ = -1;
  NodeId inverse_ = -1;
};

// Places over the ranges of the predictors: of one evenly spaced, of several as Halton's sequence spreads them; both
// ends among them.
std::vector<std::vector<double>> places_over(const std::vector<Range>& ranges) {
  constexpr int count = 101;
  constexpr std::array<int, 8> primes = {2, 3, 5, 7, 11, 13, 17, 19};
  std::vector<std::vector<double>> places;
  for (int i = 0; i < count; ++i) {
    std::vector<double> place;
    for (std::size_t k = 0; k < ranges.size(); ++k) {
      const bool even = ranges.size() == 1 || i == 0 || i == count - 1;
      const double share =
          even ? static_cast<double>(i) / (count - 1) : detail::radical_inverse(i, primes[k % primes.size()]);
      place.push_back(ranges[k].low + share * (ranges[k].high - ranges[k].low));
    }
    places.push_back(std::move(place));
  }
  return places;
}

std::string with_digits(double value, int digits) {
  if (digits >= most_digits) return shortest(value);
  std::string text = rounded(value, digits);
  const std::size_t power = std::min(text.find('e'), text.size());
  const std::size_t point = text.find('.');
  if (point == std::string::npos) return text;
  const std::size_t last = text.find_last_not_of('0', power - 1);
  const std::size_t kept = last == point ? point : last + 1;
  return text.erase(kept, power - kept);
}

double read_back(const std::string& text) {
  double value = not_a_number;
  std::from_chars(text.data(), text.data() + text.size(), value);
  return value;
}

// The estimates as texts, with as few digits as the curve allows.
std::vector<std::string> written_parameters(const Estimate& estimate, const Curve& curve) {
  const std::vector<double> full(estimate.parameters().begin(), estimate.parameters().end());
  struct Place {
    std::vector<double> at;
    double value;
    double allowed;
  };
  std::vector<Place> places;
  for (std::vector<double>& at : places_over(estimate.ranges())) {
    std::vector<Vector> point;
    for (const double x : at) point.emplace_back(1, x);
    const double value = curve.at(full, at);
    if (!std::isfinite(value)) continue;
    double u = 0;
    try {
      u = curve_at(estimate, point).standard_uncertainty;
    } catch (const Error&) {
      continue;  // a place within the range at which the curve is not defined
    }
    places.push_back({std::move(at), value, std::isfinite(u) ? allowed_share * u : 0});
  }
  int digits = fewest_digits;
  for (; digits < most_digits; ++digits) {
    std::vector<double> rounded_values;
    for (const double value : full) rounded_values.push_back(read_back(with_digits(value, digits)));
    const bool agrees = std::all_of(places.begin(), places.end(), [&](const Place& place) {
      return std::abs(curve.at(rounded_values, place.at) - place.value) <= place.allowed;
    });
    if (agrees) break;
  }
  std::vector<std::string> texts;
  for (const double value : full) texts.push_back(with_digits(value, digits));
  return texts;
}

bool is_letter_or_digit(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9'); }

// A name of a programming language: letters, digits and _, no word of C, C++ or their functions, none twice.
class Identifiers {
 public:
  std::string of(const std::string& name) {
    std::string made;
    for (const char c : name) {
      if (is_letter_or_digit(c))
        made += c;
      else if (!made.empty() && made.back() != '_')
        made += '_';
    }
    while (!made.empty() && made.back() == '_') made.pop_back();
    if (made.empty()) made = "quantity";
    if (made[0] >= '0' && made[0] <= '9') made = "x_" + made;
    static const std::set<std::string> taken = {
        "auto",     "bool",    "break",     "case",   "catch",    "char",    "class",     "const",    "continue",
        "default",  "delete",  "do",        "double", "else",     "enum",    "explicit",  "export",   "extern",
        "false",    "float",   "for",       "friend", "goto",     "if",      "inline",    "int",      "long",
        "main",     "mutable", "namespace", "new",    "operator", "private", "protected", "public",   "register",
        "restrict", "return",  "short",     "signed", "sizeof",   "static",  "std",       "struct",   "switch",
        "template", "this",    "throw",     "true",   "try",      "typedef", "typeid",    "typename", "union",
        "unsigned", "using",   "virtual",   "void",   "volatile", "while",   "and",       "or",       "not",
        "xor",      "exp",     "log",       "log10",  "log2",     "sqrt",    "cbrt",      "fabs",     "sin",
        "cos",      "tan",     "asin",      "acos",   "atan",     "sinh",    "cosh",      "tanh",     "erf",
        "erfc",     "fmin",    "fmax",      "pow",    "abs",      "j0",      "j1",        "jn",       "y0",
        "y1",       "yn",      "gamma",     "lgamma", "tgamma",   "signgam", "I",         "M_PI",     "M_E",
        "INFINITY", "NAN",     "HUGE_VAL"};
    if (taken.contains(made)) made += '_';
    const std::string first = made;
    for (int again = 2; !used_.insert(made).second; ++again) made = fmt::format("{}_{}", first, again);
    return made;
  }

 private:
  std::set<std::string> used_;
};

// A name in mathematics: Greek letters by their names, what follows _ lowered, words upright.
std::string latex_name(const std::string& name) {
  static const std::set<std::string_view> greek = {
      "alpha", "beta",  "gamma", "delta",  "epsilon", "zeta",  "eta",     "theta", "iota", "kappa", "lambda",
      "mu",    "nu",    "xi",    "rho",    "sigma",   "tau",   "upsilon", "phi",   "chi",  "psi",   "omega",
      "Gamma", "Delta", "Theta", "Lambda", "Xi",      "Sigma", "Upsilon", "Phi",   "Psi",  "Omega"};
  const auto upright = [](std::string_view word) {
    std::string text = "\\mathrm{";
    for (const char c : word) {
      if (c == ' ')
        text += "\\ ";
      else if (std::string_view("#$%&_{}").find(c) != std::string_view::npos)
        text += std::string("\\") + c;
      else if (c == '\\')
        text += "\\backslash ";
      else if (c == '^')
        text += "\\hat{}";
      else if (c == '~')
        text += "\\sim ";
      else
        text += c;
    }
    return text + "}";
  };
  const auto base = [&](std::string_view word) {
    if (greek.contains(word)) return "\\" + std::string(word);
    return word.size() == 1 && is_letter_or_digit(word[0]) ? std::string(word) : upright(word);
  };
  const std::size_t low = name.find('_');
  if (low == std::string::npos || low == 0 || low + 1 == name.size()) return base(name);
  return fmt::format("{}_{{{}}}", base(std::string_view(name).substr(0, low)),
                     base(std::string_view(name).substr(low + 1)));
}

// B7, $B$7 or Sheet1.B7: what a cell is called; nothing that would change the formula.
void require_cell(const std::string& cell) {
  const bool plain = !cell.empty() && std::all_of(cell.begin(), cell.end(), [](char c) {
    return is_letter_or_digit(c) || c == '$' || c == '.' || c == '!' || c == '_';
  });
  if (plain) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("'{}' is not a reference to a cell", cell),
               .subject = "cell",
               .value = cell,
               .remedy = "write a cell such as A2 or $B$7"});
}

std::string in_comment(const std::string& text) {
  std::string line;
  for (const char c : text) line += c == '\n' || c == '\r' || c == '\\' ? ' ' : c;
  return line;
}

std::string quantity_text(const Quantity& quantity) {
  return quantity.name + (quantity.unit.empty() ? "" : fmt::format(" in {}", quantity.unit));
}

// "f(x)" as a function with a comment above it.
std::string function_text(const Estimate& estimate, FormulaLanguage language, const Curve& curve,
                          const std::map<std::string, WrittenName>& numbers) {
  Identifiers identifiers;
  const std::string function = identifiers.of(estimate.response().name);
  std::map<std::string, WrittenName> names = numbers;
  std::string parameters;
  std::string comment = in_comment(estimate.model().text()) + "; " + in_comment(quantity_text(estimate.response()));
  for (std::size_t k = 0; k < estimate.predictors().size(); ++k) {
    const Quantity& predictor = estimate.predictors()[k];
    const Range& range = estimate.ranges()[k];
    const std::string name = identifiers.of(predictor.name);
    names[estimate.model().predictors()[k]] = {name};
    parameters += fmt::format("{}double {}", k == 0 ? "" : ", ", name);
    comment += fmt::format(", {} from {} to {}", in_comment(quantity_text(predictor)), shortest(range.low),
                           shortest(range.high));
  }
  const detail::FormulaStyle style{.language = language,
                                   .name_of = [&](const std::string& name) { return names.at(name); }};
  const bool is_c = language == FormulaLanguage::c;
  return fmt::format("// {}\n#include <{}>\n{}double {}({}) {{ return {}; }}", comment, is_c ? "math.h" : "cmath",
                     is_c ? "" : "inline ", function, parameters.empty() && is_c ? "void" : parameters,
                     curve.written(style).text);
}

}  // namespace

std::string equation_with_numbers(const Estimate& estimate, FormulaLanguage language,
                                  const std::vector<std::string>& cells) {
  const Curve curve(estimate);
  const std::vector<std::string> texts = written_parameters(estimate, curve);
  std::map<std::string, WrittenName> names;
  for (std::size_t j = 0; j < texts.size(); ++j)
    names[estimate.parameter_names()[j]] = detail::written_number(texts[j], language);
  if (language == FormulaLanguage::c || language == FormulaLanguage::cpp)
    return function_text(estimate, language, curve, names);
  const std::vector<std::string>& predictors = estimate.model().predictors();
  if (language == FormulaLanguage::spreadsheet && !cells.empty() && cells.size() != predictors.size()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} cells are given for {} predictors", cells.size(), predictors.size()),
                 .subject = "cell",
                 .remedy = "give one cell for every predictor, in the order of the model"});
  }
  for (std::size_t k = 0; k < predictors.size(); ++k) {
    std::string cell = cells.empty() ? fmt::format("{}2", static_cast<char>('A' + static_cast<int>(k % 26))) : cells[k];
    if (language == FormulaLanguage::spreadsheet) require_cell(cell);
    names[predictors[k]] = language == FormulaLanguage::spreadsheet ? WrittenName{std::move(cell)}
                           : language == FormulaLanguage::latex     ? WrittenName{latex_name(predictors[k])}
                                                                    : WrittenName{name_in_formula(predictors[k])};
  }
  const detail::FormulaStyle style{.language = language,
                                   .name_of = [&](const std::string& name) { return names.at(name); }};
  const std::string right = curve.written(style).text;
  if (language == FormulaLanguage::spreadsheet) return "=" + right;
  const std::string& response = estimate.model().response();
  return fmt::format("{} = {}", language == FormulaLanguage::latex ? latex_name(response) : name_in_formula(response),
                     right);
}

}  // namespace truecurve
