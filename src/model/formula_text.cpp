// Writes a graph out, operation by operation.
#include "formula_text.hpp"

#include "parser.hpp"

#include <array>
#include <cmath>
#include <string_view>
#include <vector>

#include <fmt/format.h>

namespace truecurve {

std::string_view name(FormulaLanguage language) noexcept {
  switch (language) {
    case FormulaLanguage::text: return "text";
    case FormulaLanguage::latex: return "latex";
    case FormulaLanguage::c: return "c";
    case FormulaLanguage::cpp: return "cpp";
    case FormulaLanguage::spreadsheet: return "spreadsheet";
  }
  return "";
}

}  // namespace truecurve

namespace truecurve::detail {
namespace {

// How tightly an operation binds; an operand that binds less tightly is put into brackets.
enum Binding { either_binds = 1, both_bind, not_binds, compares, adds, multiplies, signs, raises, whole };

// What a function is called, in the order of the languages.
struct FunctionWords {
  Op op;
  std::string_view text;
  std::string_view latex;
  std::string_view c;
  std::string_view spreadsheet;
};
constexpr std::array<FunctionWords, 23> function_words = {{
    {Op::exp, "exp", "\\exp", "exp", "EXP"},
    {Op::ln, "ln", "\\ln", "log", "LN"},
    {Op::log10, "log10", "\\log_{10}", "log10", "LOG10"},
    {Op::log2, "log2", "\\log_{2}", "log2", ""},
    {Op::sqrt, "sqrt", "", "sqrt", "SQRT"},
    {Op::cbrt, "cbrt", "", "cbrt", ""},
    {Op::abs, "abs", "", "fabs", "ABS"},
    {Op::sign, "sign", "\\mathrm{sign}", "", "SIGN"},
    {Op::sin, "sin", "\\sin", "sin", "SIN"},
    {Op::cos, "cos", "\\cos", "cos", "COS"},
    {Op::tan, "tan", "\\tan", "tan", "TAN"},
    {Op::asin, "asin", "\\arcsin", "asin", "ASIN"},
    {Op::acos, "acos", "\\arccos", "acos", "ACOS"},
    {Op::atan, "atan", "\\arctan", "atan", "ATAN"},
    {Op::sinh, "sinh", "\\sinh", "sinh", "SINH"},
    {Op::cosh, "cosh", "\\cosh", "cosh", "COSH"},
    {Op::tanh, "tanh", "\\tanh", "tanh", "TANH"},
    {Op::erf, "erf", "\\mathrm{erf}", "erf", "ERF"},
    {Op::erfc, "erfc", "\\mathrm{erfc}", "erfc", "ERFC"},
    {Op::minimum, "min", "\\min", "fmin", "MIN"},
    {Op::maximum, "max", "\\max", "fmax", "MAX"},
    {Op::both, "", "", "", "AND"},
    {Op::either, "", "", "", "OR"},
}};

class Writer {
 public:
  Writer(const Graph& graph, const FormulaStyle& style) : graph_(graph), style_(style), language_(style.language) {}

  WrittenName write(NodeId root) {
    made_.resize(static_cast<std::size_t>(root) + 1);
    const std::vector<bool> needed = graph_.beneath(std::array{root});
    for (NodeId id = 0; id <= root; ++id) {
      if (!needed[static_cast<std::size_t>(id)]) continue;
      WrittenName& made = made_[static_cast<std::size_t>(id)];
      made = of(graph_.at(id));
      // A text is shown to people; one that has grown beyond all sense is not worth its memory.
      if (made.text.size() > 20'000) made.text = "...";
    }
    return made_.back();
  }

 private:
  [[nodiscard]] bool is_c() const { return language_ == FormulaLanguage::c || language_ == FormulaLanguage::cpp; }
  [[nodiscard]] const WrittenName& operand(NodeId id) const { return made_[static_cast<std::size_t>(id)]; }
  [[nodiscard]] const std::string& bare(NodeId id) const { return operand(id).text; }
  [[nodiscard]] std::string bracketed(const std::string& text) const {
    return language_ == FormulaLanguage::latex ? "\\left(" + text + "\\right)" : "(" + text + ")";
  }
  [[nodiscard]] std::string bound(NodeId id, int at_least) const {
    return operand(id).binding < at_least ? bracketed(bare(id)) : bare(id);
  }

  [[nodiscard]] WrittenName of(const Node& node) const {
    switch (node.op) {
      case Op::constant: return written_number(fmt::format("{}", node.value), language_);
      case Op::name: {
        const std::string& name = graph_.names()[static_cast<std::size_t>(node.name)];
        return style_.name_of ? style_.name_of(name) : WrittenName{in_formula(name)};
      }
      case Op::add:
      case Op::subtract: return sum(node);
      case Op::multiply:
      case Op::multiply_slope: return product(node);
      case Op::divide:
        if (language_ == FormulaLanguage::latex)
          return {fmt::format("\\frac{{{}}}{{{}}}", bare(node.a), bare(node.b)), raises};
        return {bound(node.a, multiplies) + "/" + bound(node.b, signs), multiplies};
      // In a spreadsheet a sign binds more tightly than a power.
      case Op::negate: return {"-" + bound(node.a, language_ == FormulaLanguage::spreadsheet ? whole : raises), signs};
      case Op::power: return power(node.a, bare(node.b), operand(node.b).binding);
      case Op::integer_power: {
        const WrittenName exponent = written_number(fmt::format("{}", node.value), FormulaLanguage::text);
        return power(node.a, exponent.text, exponent.binding);
      }
      case Op::less: return comparison(node, "<");
      case Op::less_equal: return comparison(node, language_ == FormulaLanguage::latex ? "\\le" : "<=");
      case Op::equal: return comparison(node, is_c() || language_ == FormulaLanguage::text ? "==" : "=");
      case Op::both: return logical(node, both_bind, "and", "\\wedge", "&&");
      case Op::either: return logical(node, either_binds, "or", "\\vee", "||");
      case Op::opposite: return opposite(node);
      case Op::choose: return choice(node);
      case Op::multiply_log: return product_with_log(node);
      case Op::minimum:
      case Op::maximum: return {call(node.op, bare(node.a) + ", " + bare(node.b)), whole};
      default: return function(node);
    }
  }

  [[nodiscard]] WrittenName sum(const Node& node) const {
    const bool less = node.op == Op::subtract;
    // The right operand of - needs brackets already where it binds alike.
    std::string right = bound(node.b, multiplies);
    const bool turned = right.starts_with('-');
    if (turned) right.erase(0, 1);
    return {bound(node.a, adds) + (less != turned ? " - " : " + ") + right, adds};
  }

  [[nodiscard]] WrittenName product(const Node& node) const {
    std::string right = bound(node.b, signs);
    const char* sign = "*";
    if (language_ == FormulaLanguage::latex) {
      if (right.starts_with('-')) right = bracketed(right);
      // Two numbers side by side would read as one.
      sign = right[0] >= '0' && right[0] <= '9' ? " \\cdot " : "\\,";
    }
    return {bound(node.a, multiplies) + sign + right, multiplies};
  }

  // 0*ln(0) is 0 here, and no number where it is computed.
  [[nodiscard]] WrittenName product_with_log(const Node& node) const {
    const std::string log = call(Op::ln, bare(node.b));
    if (language_ == FormulaLanguage::latex) return {bound(node.a, multiplies) + "\\," + log, multiplies};
    const std::string product = bound(node.a, multiplies) + "*" + log;
    if (language_ == FormulaLanguage::text)
      return {fmt::format("cases({} == 0: 0, otherwise: {})", bound(node.a, adds), product), whole};
    if (language_ == FormulaLanguage::spreadsheet)
      return {fmt::format("IF({} = 0, 0, {})", bound(node.a, adds), product), whole};
    return {fmt::format("(({} == 0.0) ? 0.0 : ({}))", bound(node.a, adds), product), whole};
  }

  [[nodiscard]] WrittenName power(NodeId base, const std::string& exponent, int exponent_binds) const {
    if (is_c()) {
      const std::string number = exponent.find_first_not_of("-0123456789") == std::string::npos
                                     ? written_number(exponent, language_).text
                                     : exponent;
      return {fmt::format("{}pow({}, {})", prefix(), bare(base), number), whole};
    }
    const std::string raised_base = bound(base, whole);
    if (language_ == FormulaLanguage::latex) return {fmt::format("{}^{{{}}}", raised_base, exponent), raises};
    // Written maths groups powers to the right and takes a sign there; a spreadsheet neither.
    const int at_least = language_ == FormulaLanguage::spreadsheet ? whole : signs;
    return {raised_base + "^" + (exponent_binds < at_least ? bracketed(exponent) : exponent), raises};
  }

  [[nodiscard]] WrittenName comparison(const Node& node, const char* sign) const {
    return {fmt::format("{} {} {}", bound(node.a, adds), sign, bound(node.b, adds)), compares};
  }

  [[nodiscard]] WrittenName logical(const Node& node, int binds, const char* text, const char* latex,
                                    const char* c) const {
    if (language_ == FormulaLanguage::spreadsheet) return {call(node.op, bare(node.a) + ", " + bare(node.b)), whole};
    const char* const sign = language_ == FormulaLanguage::text ? text : is_c() ? c : latex;
    return {fmt::format("{} {} {}", bound(node.a, binds), sign, bound(node.b, binds + 1)), binds};
  }

  [[nodiscard]] WrittenName opposite(const Node& node) const {
    switch (language_) {
      case FormulaLanguage::text: return {"not " + bound(node.a, not_binds), not_binds};
      case FormulaLanguage::spreadsheet: return {"NOT(" + bare(node.a) + ")", whole};
      case FormulaLanguage::latex: return {"\\neg " + bound(node.a, whole), whole};
      default: return {"!(" + bare(node.a) + ")", whole};
    }
  }

  [[nodiscard]] WrittenName choice(const Node& node) const {
    const std::string& test = bare(node.a);
    const std::string& chosen = bare(node.b);
    const std::string& otherwise = bare(node.c);
    switch (language_) {
      case FormulaLanguage::text: return {fmt::format("cases({}: {}, otherwise: {})", test, chosen, otherwise), whole};
      case FormulaLanguage::spreadsheet: return {fmt::format("IF({}, {}, {})", test, chosen, otherwise), whole};
      case FormulaLanguage::latex:
        return {
            fmt::format("\\left\\{{\\begin{{array}}{{ll}}{} & {}\\\\ {} & \\mathrm{{otherwise}}\\end{{array}}\\right.",
                        chosen, test, otherwise),
            signs};
      default: return {fmt::format("(({}) ? ({}) : ({}))", test, chosen, otherwise), whole};
    }
  }

  [[nodiscard]] WrittenName function(const Node& node) const {
    const std::string& value = bare(node.a);
    if (language_ == FormulaLanguage::latex) {
      if (node.op == Op::sqrt) return {"\\sqrt{" + value + "}", whole};
      if (node.op == Op::cbrt) return {"\\sqrt[3]{" + value + "}", whole};
      if (node.op == Op::abs) return {"\\left|" + value + "\\right|", whole};
    }
    // Written maths and C have no sign; a comparison is a whole number in C.
    if (language_ == FormulaLanguage::text && node.op == Op::sign)
      return {fmt::format("cases({0} < 0: -1, {0} == 0: 0, otherwise: 1)", bound(node.a, adds)), whole};
    if (is_c() && node.op == Op::sign) return {fmt::format("((({0}) > 0.0) - (({0}) < 0.0))", value), whole};
    if (language_ == FormulaLanguage::spreadsheet) {
      if (node.op == Op::log2) return {"LOG(" + value + ", 2)", whole};
      if (node.op == Op::cbrt) return {fmt::format("(SIGN({})*ABS({})^(1/3))", value, value), whole};
    }
    return {call(node.op, value), whole};
  }

  [[nodiscard]] const char* prefix() const { return language_ == FormulaLanguage::cpp ? "std::" : ""; }

  [[nodiscard]] std::string call(Op op, const std::string& values) const {
    for (const FunctionWords& words : function_words) {
      if (words.op != op) continue;
      const std::string_view word = language_ == FormulaLanguage::text          ? words.text
                                    : language_ == FormulaLanguage::latex       ? words.latex
                                    : language_ == FormulaLanguage::spreadsheet ? words.spreadsheet
                                                                                : words.c;
      return (is_c() ? prefix() : "") + std::string(word) + bracketed(values);
    }
    return values;
  }

  const Graph& graph_;
  const FormulaStyle& style_;
  FormulaLanguage language_;
  std::vector<WrittenName> made_;
};

}  // namespace

WrittenName written(const Graph& graph, NodeId node, const FormulaStyle& style) {
  return Writer(graph, style).write(node);
}

std::string text_of(const Graph& graph, NodeId node) { return written(graph, node, {}).text; }

WrittenName written_number(const std::string& number, FormulaLanguage language) {
  const int binding = number.starts_with('-') ? signs : whole;
  const std::size_t power = number.find('e');
  if (language == FormulaLanguage::latex && power != std::string::npos) {
    std::string exponent = number.substr(power + 1);
    if (exponent.starts_with('+')) exponent.erase(0, 1);
    const bool negative = exponent.starts_with('-');
    exponent.erase(0, std::min(exponent.find_first_not_of("-0"), exponent.size() - 1));
    return {fmt::format("{}\\times 10^{{{}{}}}", number.substr(0, power), negative ? "-" : "", exponent), multiplies};
  }
  const bool is_c = language == FormulaLanguage::c || language == FormulaLanguage::cpp;
  const bool is_whole = number.find_first_not_of("-0123456789") == std::string::npos;
  if (is_c && is_whole) return {number + ".0", binding};
  return {number, binding};
}

}  // namespace truecurve::detail
