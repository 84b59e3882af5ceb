// The grammar, in PEGTL rules.
#include "parser.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/data/table.hpp>

#include "letters.hpp"
#include "parser_mistakes.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include <fast_float/fast_float.h>
#include <fmt/format.h>
#include <tao/pegtl.hpp>

namespace truecurve::detail {
namespace {

namespace peg = tao::pegtl;

struct Call {
  std::string name;
  std::size_t at = 0;
  int arguments = 0;
};

struct State {
  Graph* graph = nullptr;
  std::vector<NodeId> values;
  std::vector<Call> calls;
  std::vector<int> cases;  // pairs read so far, one entry an open cases(
  NodeId left = -1;
  std::vector<std::string> left_names;
  std::vector<std::string> right_names;

  NodeId pop() {
    const NodeId top = values.back();
    values.pop_back();
    return top;
  }
  // A name, on the side of the equation that is being read.
  void named(const std::string& text) {
    values.push_back(graph->named(text));
    std::vector<std::string>& side = left >= 0 ? right_names : left_names;
    if (std::find(side.begin(), side.end(), text) == side.end()) side.push_back(text);
  }
  void binary(Op op) {
    const NodeId b = pop();
    const NodeId a = pop();
    values.push_back(graph->make(op, a, b));
  }
};

// clang-format off
struct blank : peg::star<peg::one<' ', '\t', '\n', '\r'>> {};
template <typename Rule> struct token : peg::seq<Rule, blank> {};
template <char C> struct symbol : token<peg::one<C>> {};

struct letter : peg::sor<peg::ranges<'a', 'z', 'A', 'Z', '_', '_'>, peg::utf8::range<0x80, 0x10FFFF>> {};
struct letter_or_digit : peg::sor<letter, peg::digit> {};
struct identifier : peg::seq<letter, peg::star<letter_or_digit>> {};
template <typename Word> struct keyword : token<peg::seq<Word, peg::not_at<letter_or_digit>>> {};
struct word_and : keyword<TAO_PEGTL_STRING("and")> {};
struct word_or : keyword<TAO_PEGTL_STRING("or")> {};
struct word_not : keyword<TAO_PEGTL_STRING("not")> {};
struct word_otherwise : keyword<TAO_PEGTL_STRING("otherwise")> {};

struct exponent_part : peg::seq<peg::one<'e', 'E'>, peg::opt<peg::one<'+', '-'>>, peg::plus<peg::digit>> {};
struct number : peg::seq<peg::sor<peg::seq<peg::plus<peg::digit>, peg::opt<peg::one<'.'>, peg::star<peg::digit>>>,
                                  peg::seq<peg::one<'.'>, peg::plus<peg::digit>>>,
                         peg::opt<exponent_part>> {};
struct condition;
struct close_bracket : symbol<')'> {};
struct colon : symbol<':'> {};
struct equals_sign : token<peg::seq<peg::one<'='>, peg::not_at<peg::one<'='>>>> {};
struct the_end : peg::eof {};

struct bracketed : peg::if_must<symbol<'('>, condition, close_bracket> {};
struct quotation : peg::seq<peg::one<'\''>, peg::plus<peg::sor<peg::string<'\'', '\''>, peg::not_one<'\''>>>, peg::one<'\''>> {};
struct quoted_name : quotation {};
struct name : identifier {};
struct function_name : identifier {};
struct argument : peg::seq<condition> {};
struct call_ahead : peg::at<identifier, blank, peg::one<'('>> {};
struct call : peg::if_must<peg::seq<call_ahead, function_name, blank, symbol<'('>>, peg::list<argument, symbol<','>>, close_bracket> {};
struct case_pair : peg::seq<condition, peg::must<colon, condition>> {};
struct otherwise_part : peg::if_must<word_otherwise, colon, condition> {};
struct case_list : peg::seq<peg::star<peg::not_at<word_otherwise>, case_pair, peg::must<symbol<','>>>, peg::must<otherwise_part>> {};
struct cases_open : peg::seq<keyword<TAO_PEGTL_STRING("cases")>, symbol<'('>> {};
struct cases : peg::if_must<cases_open, case_list, close_bracket> {};
struct primary : token<peg::sor<number, cases, call, quoted_name, name, bracketed>> {};

struct signed_power;
struct exponent : peg::if_must<symbol<'^'>, signed_power> {};
struct raised : peg::seq<primary, peg::opt<exponent>> {};
struct minus_sign : symbol<'-'> {};
struct negated : peg::if_must<minus_sign, signed_power> {};
struct plus_signed : peg::if_must<symbol<'+'>, signed_power> {};
struct signed_power : peg::sor<negated, plus_signed, raised> {};

struct times : peg::if_must<symbol<'*'>, signed_power> {};
struct divided : peg::if_must<symbol<'/'>, signed_power> {};
struct product : peg::seq<signed_power, peg::star<peg::sor<times, divided>>> {};
struct plus : peg::if_must<symbol<'+'>, product> {};
struct minus : peg::if_must<symbol<'-'>, product> {};
struct sum : peg::seq<product, peg::star<peg::sor<plus, minus>>> {};

struct less_equal : peg::if_must<token<TAO_PEGTL_STRING("<=")>, sum> {};
struct greater_equal : peg::if_must<token<TAO_PEGTL_STRING(">=")>, sum> {};
struct equal_to : peg::if_must<token<TAO_PEGTL_STRING("==")>, sum> {};
struct unequal_to : peg::if_must<token<TAO_PEGTL_STRING("!=")>, sum> {};
struct less : peg::if_must<symbol<'<'>, sum> {};
struct greater : peg::if_must<symbol<'>'>, sum> {};
struct comparison : peg::seq<sum, peg::opt<peg::sor<less_equal, greater_equal, equal_to, unequal_to, less, greater>>> {};
struct negation;
struct not_part : peg::if_must<word_not, negation> {};
struct negation : peg::sor<not_part, comparison> {};
struct and_part : peg::if_must<word_and, negation> {};
struct conjunction : peg::seq<negation, peg::star<and_part>> {};
struct or_part : peg::if_must<word_or, conjunction> {};
struct condition : peg::seq<conjunction, peg::star<or_part>> {};

struct left_side : sum {};
struct whole_expression : peg::must<blank, sum, the_end> {};
struct whole_condition : peg::must<blank, condition, the_end> {};
struct whole_equation : peg::must<blank, left_side, equals_sign, sum, the_end> {};
// clang-format on

template <typename Rule>
struct action : peg::nothing<Rule> {};

template <Op op>
struct binary_action {
  static void apply0(State& state) { state.binary(op); }
};
template <>
struct action<times> : binary_action<Op::multiply> {};
template <>
struct action<divided> : binary_action<Op::divide> {};
template <>
struct action<plus> : binary_action<Op::add> {};
template <>
struct action<minus> : binary_action<Op::subtract> {};
template <>
struct action<exponent> : binary_action<Op::power> {};
template <>
struct action<less> : binary_action<Op::less> {};
template <>
struct action<less_equal> : binary_action<Op::less_equal> {};
template <>
struct action<equal_to> : binary_action<Op::equal> {};
template <>
struct action<and_part> : binary_action<Op::both> {};
template <>
struct action<or_part> : binary_action<Op::either> {};

template <Op op>
struct swapped_action {
  static void apply0(State& state) {
    std::swap(state.values[state.values.size() - 1], state.values[state.values.size() - 2]);
    state.binary(op);
  }
};
template <>
struct action<greater> : swapped_action<Op::less> {};
template <>
struct action<greater_equal> : swapped_action<Op::less_equal> {};

template <>
struct action<unequal_to> {
  static void apply0(State& state) {
    state.binary(Op::equal);
    state.values.push_back(state.graph->make(Op::opposite, state.pop()));
  }
};
template <>
struct action<negated> {
  static void apply0(State& state) { state.values.push_back(state.graph->make(Op::negate, state.pop())); }
};
template <>
struct action<not_part> {
  static void apply0(State& state) { state.values.push_back(state.graph->make(Op::opposite, state.pop())); }
};

template <>
struct action<number> {
  template <typename Input>
  static void apply(const Input& in, State& state) {
    double value = 0;
    const std::string text = in.string();
    fast_float::from_chars(text.data(), text.data() + text.size(), value);
    if (!std::isfinite(value)) {
      throw Mistake{ErrorCode::syntax, in.position().byte, fmt::format("the number {} is too large", text), text,
                    "numbers reach to about 1e308"};
    }
    state.values.push_back(state.graph->constant(value));
  }
};

template <>
struct action<name> {
  template <typename Input>
  static void apply(const Input& in, State& state) {
    const std::string text = in.string();
    if (text == "pi") {
      state.values.push_back(state.graph->constant(std::numbers::pi));
      return;
    }
    if (function_named(text)) {
      throw Mistake{ErrorCode::name_is_function, in.position().byte,
                    fmt::format("'{}' is a function and takes its value in brackets", text), text,
                    fmt::format("write {}(...); a parameter needs another name, such as {}_0", text, text)};
    }
    if (is_word(text)) {
      throw Mistake{ErrorCode::name_is_function, in.position().byte,
                    fmt::format("'{}' is a reserved word and can't be a parameter", text), text,
                    fmt::format("give the parameter another name, such as {}_0", text)};
    }
    state.named(text);
  }
};
template <>
struct action<quoted_name> {
  template <typename Input>
  static void apply(const Input& in, State& state) {
    state.named(without_quotation_marks(in.string()));
  }
};

template <>
struct action<function_name> {
  template <typename Input>
  static void apply(const Input& in, State& state) {
    state.calls.push_back({in.string(), in.position().byte, 0});
  }
};
template <>
struct action<argument> {
  static void apply0(State& state) { ++state.calls.back().arguments; }
};
template <>
struct action<call> {
  static void apply0(State& state) {
    const Call made = state.calls.back();
    state.calls.pop_back();
    const auto op = function_named(made.name);
    if (!op) {
      throw Mistake{ErrorCode::syntax, made.at, fmt::format("'{}' is not a function and can't stand here", made.name),
                    made.name,
                    made.name == "pi" ? "to multiply write pi*(...)"
                                      : "and, or, not and otherwise belong into conditions and cases(...)"};
    }
    if (*op == Op::minimum || *op == Op::maximum) {
      if (made.arguments < 2) {
        throw Mistake{ErrorCode::syntax, made.at, fmt::format("'{}' needs at least two values", made.name), made.name,
                      fmt::format("write {}(a, b)", made.name)};
      }
      for (int i = 1; i < made.arguments; ++i) state.binary(*op);
      return;
    }
    if (made.arguments != 1) {
      throw Mistake{ErrorCode::syntax, made.at, fmt::format("'{}' takes one value, not {}", made.name, made.arguments),
                    made.name, fmt::format("write {}(a)", made.name)};
    }
    state.values.push_back(state.graph->make(*op, state.pop()));
  }
};
template <>
struct action<cases_open> {
  static void apply0(State& state) { state.cases.push_back(0); }
};
template <>
struct action<case_pair> {
  static void apply0(State& state) { ++state.cases.back(); }
};
template <>
struct action<cases> {
  static void apply0(State& state) {
    const int pairs = state.cases.back();
    state.cases.pop_back();
    NodeId result = state.pop();
    for (int i = 0; i < pairs; ++i) {
      const NodeId value = state.pop();
      const NodeId test = state.pop();
      result = state.graph->make(Op::choose, test, value, result);
    }
    state.values.push_back(result);
  }
};
template <>
struct action<left_side> {
  static void apply0(State& state) { state.left = state.pop(); }
};

template <typename Start>
State parse(std::string_view given, Graph& graph, bool wants_equation) {
  const std::string text = plain_formula(given);
  check_before(text);
  State state;
  state.graph = &graph;
  peg::memory_input<> input(text.data(), text.size(), "model text");
  try {
    peg::parse<Start, action>(input, state);
  } catch (const peg::parse_error& error) {
    throw_at(text, diagnose(text, error.positions().front().byte, wants_equation));
  } catch (const Mistake& mistake) {
    throw_at(text, mistake);
  }
  return state;
}

}  // namespace

Equation parse_equation(std::string_view text, Graph& graph) {
  const State state = parse<whole_equation>(text, graph, true);
  return {state.left, state.values.back(), state.right_names, state.left_names};
}

NodeId parse_expression(std::string_view text, Graph& graph) {
  return parse<whole_expression>(text, graph, false).values.back();
}

NodeId parse_condition(std::string_view text, Graph& graph) {
  return parse<whole_condition>(text, graph, false).values.back();
}

}  // namespace truecurve::detail
