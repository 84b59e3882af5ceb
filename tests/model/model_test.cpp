// Written maths: what it means, and what is said where it means nothing.

#include "../../src/model/graph.hpp"
#include "../../src/model/parser.hpp"
#include "../../src/model/program.hpp"
#include "../support.hpp"

namespace truecurve {
namespace {

struct Evaluated {
  double plain = 0;
  detail::DoubleDouble precise;
};

// The value of an expression in the variables x = 0.7 and y = 1.9, by both evaluators.
Evaluated evaluated(const std::string& text) {
  detail::Graph graph;
  const detail::NodeId root = detail::parse_condition(text, graph);
  std::vector<detail::NameRole> roles;
  std::vector<double> numbers;
  std::vector<const double*> at;
  std::vector<detail::DoubleDouble> precise;
  for (const std::string& name : graph.names()) {
    roles.push_back({detail::NameRole::Kind::variable, static_cast<int>(numbers.size())});
    numbers.push_back(name == "x" ? 0.7 : 1.9);
    precise.emplace_back(numbers.back());
  }
  for (const double& number : numbers) at.push_back(&number);
  const detail::Program program(graph, std::span(&root, 1), roles);
  detail::Program::Workspace work;
  Evaluated made;
  double* const out[] = {&made.plain};
  program.run(at, 1, {}, out, work);
  program.run_precise(precise, {}, std::span(&made.precise, 1));
  return made;
}

double value_of(const std::string& text) {
  const Evaluated made = evaluated(text);
  EXPECT_NEAR(made.precise.value(), made.plain, 1e-14 * std::abs(made.plain)) << text;
  return made.plain;
}

// Of an argument that no double holds a function takes the rest along, times its slope.
TEST(WrittenMaths, KeepsWhatADoubleCanNotHold) {
  const detail::DoubleDouble third = evaluated("x/3").precise;
  const double a = third.high;
  ASSERT_NE(third.low, 0);
  EXPECT_NEAR(third.low, std::fma(-3, a, 0.7) / 3, 1e-30);
  const double root_pi = std::sqrt(M_PI);
  for (const auto& [function, slope] : {std::pair{"exp", std::exp(a)},
                                        {"ln", 1 / a},
                                        {"log10", 1 / (a * std::log(10))},
                                        {"log2", 1 / (a * std::log(2))},
                                        {"cbrt", 1 / (3 * std::pow(a, 2.0 / 3))},
                                        {"sin", std::cos(a)},
                                        {"cos", -std::sin(a)},
                                        {"tan", 1 / std::pow(std::cos(a), 2)},
                                        {"asin", 1 / std::sqrt(1 - a * a)},
                                        {"acos", -1 / std::sqrt(1 - a * a)},
                                        {"atan", 1 / (1 + a * a)},
                                        {"sinh", std::cosh(a)},
                                        {"cosh", std::sinh(a)},
                                        {"tanh", 1 / std::pow(std::cosh(a), 2)},
                                        {"erf", 2 / root_pi * std::exp(-a * a)},
                                        {"erfc", -2 / root_pi * std::exp(-a * a)},
                                        {"abs", 1}}) {
    const detail::DoubleDouble made = evaluated(fmt::format("{}(x/3)", function)).precise;
    // What the same function has of the argument's double alone.
    const detail::DoubleDouble alone = evaluated(fmt::format("{}({:.17g})", function, a)).precise;
    const double taken = (made.high - alone.high) + (made.low - alone.low);
    EXPECT_NEAR(taken / (slope * third.low), 1, 1e-6) << function;
  }
  // A root keeps what rounding to a double would lose of its own.
  const detail::DoubleDouble root = evaluated("sqrt(x/3)").precise;
  const long double whole = static_cast<long double>(root.high) + static_cast<long double>(root.low);
  const long double square = static_cast<long double>(third.high) + static_cast<long double>(third.low);
  EXPECT_NEAR(static_cast<double>((whole * whole - square) / square), 0, 3e-19);
}

struct Meaning {
  const char* text;
  double value;
};

TEST(WrittenMaths, MeansWhatMathematicsMeans) {
  const double x = 0.7;
  const double y = 1.9;
  for (const auto& [text, value] : {Meaning{"-x^2", -x * x},
                                    {"2^3^2", 512},
                                    {"x^-2", 1 / (x * x)},
                                    {"2 - 3 - 4", -5},
                                    {"24/4/2", 3},
                                    {"1.5e-3*x", 1.5e-3 * x},
                                    {".5*x + 2.", 0.5 * x + 2},
                                    {"--x", x},
                                    {"+x*-y", -x * y},
                                    {"exp(ln(x)) + log10(100) + log2(8)", x + 5},
                                    {"sqrt(x)*cbrt(y)", std::sqrt(x) * std::cbrt(y)},
                                    {"sin(pi*x) + cos(x) + tan(x)", std::sin(M_PI * x) + std::cos(x) + std::tan(x)},
                                    {"asin(x) + acos(x) + atan(y)", M_PI / 2 + std::atan(y)},
                                    {"sinh(x) + cosh(x) + tanh(x)", std::exp(x) + std::tanh(x)},
                                    {"erf(x) + erfc(x)", 1},
                                    {"abs(x - y) + min(x, y, 3) + max(x, y)", 1.2 + x + y},
                                    {"cases(x < y: x, otherwise: y)", x},
                                    {"cases(1 < 2: 3, otherwise: x)", 3},
                                    {"cases(2 < 1: 3, otherwise: x)", x},
                                    {"cases(2 < 1: x, otherwise: 4)", 4},
                                    {"cases(x > y: 1, x == 0.7: 2, otherwise: 3)", 2},
                                    {"x < y and not (x > 1) or x != x", 1},
                                    {"x^y", std::pow(x, y)},
                                    {"(x + y)^2 - x^2 - 2*x*y", y * y},
                                    {"0/x + y", y},
                                    {"x*(-2)", -2 * x},
                                    {"(-2)*x", -2 * x},
                                    {"x*(-1) + (-1)*y", -x - y},
                                    {"2*x*0 + 0*y + x", x},
                                    {"x/1 + y/2", x + y / 2},
                                    {"1*x + y*1", x + y},
                                    {"0 + x - 0", x},
                                    {"0 - x", -x},
                                    {"x - (-y)", x + y},
                                    {"x + (-y)", x - y},
                                    {"-(-x) - (y - y)", x},
                                    {"x^0.5 + y^0", std::sqrt(x) + 1},
                                    {"x^1 + y^-3", x + std::pow(y, -3)},
                                    {"x^64 + x^65 + y^-64", std::pow(x, 64) + std::pow(x, 65) + std::pow(y, -64)},
                                    {"cases(1 < 2: x, otherwise: y)", x},
                                    {"cases(2 < 1: x, otherwise: y)", y},
                                    {"cases(x < y: y, otherwise: y)", y}}) {
    EXPECT_NEAR(value_of(text), value, 1e-14 * std::max(1.0, std::abs(value))) << text;
  }
}

// Programs reuse the memory of what was used for the last time: graphs in which anything is used anywhere, against
// their nodes with the names replaced by numbers.
TEST(WrittenMaths, IsComputedBlockByBlockAsNodeByNode) {
  using detail::NodeId;
  using detail::Op;
  RandomNumbers random(11);
  const auto below = [&](std::size_t n) {
    return std::min(n - 1, static_cast<std::size_t>(random.uniform() * static_cast<double>(n)));
  };
  constexpr Op operations[] = {Op::add,     Op::subtract, Op::multiply, Op::choose, Op::choose,
                               Op::minimum, Op::maximum,  Op::less,     Op::sin,    Op::abs};
  constexpr std::size_t rows = 3;
  const std::vector<std::vector<double>> columns = {{0.7, -0.2, 1.4}, {1.9, 0.1, -0.6}};
  const std::vector<double> parameter = {0.4};
  for (int round = 0; round < 300; ++round) {
    detail::Graph graph;
    std::vector<NodeId> nodes = {graph.named("x"), graph.named("y"), graph.named("a"), graph.constant(0.25)};
    while (nodes.size() < 24) {
      const Op op = operations[below(std::size(operations))];
      NodeId child[3] = {-1, -1, -1};
      for (int k = 0; k < detail::operand_count(op); ++k) {
        const std::size_t recent = std::min<std::size_t>(nodes.size(), 5);
        child[k] = k > 0 && random.uniform() < 0.3 ? child[below(static_cast<std::size_t>(k))]
                                                   : nodes[nodes.size() - 1 - below(recent)];
      }
      nodes.push_back(graph.make(op, child[0], child[1], child[2]));
    }
    const std::vector<NodeId> outputs = {nodes.back(), nodes[nodes.size() - 1 - below(12)], nodes[below(nodes.size())]};
    const std::vector<detail::NameRole> roles = {{detail::NameRole::Kind::variable, 0},
                                                 {detail::NameRole::Kind::variable, 1},
                                                 {detail::NameRole::Kind::parameter, 0}};
    const detail::Program program(graph, outputs, roles);
    detail::Program::Workspace work;
    std::vector<std::vector<double>> made(outputs.size(), std::vector<double>(rows));
    const std::vector<const double*> in = {columns[0].data(), columns[1].data()};
    const std::vector<double*> out = {made[0].data(), made[1].data(), made[2].data()};
    program.run(in, rows, parameter, out, work);
    for (std::size_t i = 0; i < rows; ++i) {
      for (std::size_t k = 0; k < outputs.size(); ++k) {
        const NodeId number = graph.with_values(outputs[k], {columns[0][i], columns[1][i], parameter[0]});
        ASSERT_EQ(graph.at(number).op, Op::constant);
        EXPECT_NEAR(made[k][i], graph.at(number).value, 1e-13 * (1 + std::abs(made[k][i]))) << round;
      }
    }
  }
}

// Above zero whatever the names are, in double precision too, where exp(x) may be zero.
TEST(WrittenMaths, IsSeenToBePositive) {
  for (const auto& [positive, texts] : std::map<bool, std::vector<const char*>>{
           {true,
            {"1 + exp(x)", "1 + (x^2 + abs(y))", "(x^2 + abs(y)) + 0.5", "1 + x^2*exp(y)", "1 + (sqrt(x) + 0)",
             "1 + 2*x^2", "1 + x^2*3", "cosh(x)", "cosh(x) + x^4"}},
           {false,
            {"1 + -2*x^2", "exp(x)", "x^2 + abs(y)", "x^2 + y", "y + x^2", "1 + x^3", "1 + (x^2 + y)", "1 + (y + x^2)",
             "1 + x^2*y", "1 + x^(-2)", "1 + x", "cosh(x) + y", "1 - exp(x)"}}}) {
    for (const char* text : texts) {
      detail::Graph graph;
      EXPECT_EQ(graph.is_positive(detail::parse_expression(text, graph)), positive) << text;
    }
  }
}

// Every derivative rule against a difference of Richardson type, in each of the two variables.
TEST(WrittenMaths, IsDifferentiatedExactly) {
  for (const std::string& text :
       test::parted("x*y + x/y - y/x; x^3 - x^-2; x^y; y^x; 2^x + x^1.5; exp(-x/y); ln(x*y) + log10(x) + log2(y); "
                    "sqrt(x + y); cbrt(x*y); abs(x - y); sin(x*y); cos(x)*tan(y); asin(x/2) + acos(x/3); atan(x*y); "
                    "sinh(x) + cosh(x*y); tanh(x - y); erf(x*y) - erfc(y); min(x, y^2) + max(x*x, y); cases(x < y: "
                    "x^2*y, otherwise: y^3); -(x - y)^2")) {
    SCOPED_TRACE(text);
    detail::Graph graph;
    detail::NodeId value = detail::parse_expression(text, graph);
    for (int by = 0; by < static_cast<int>(graph.names().size()); ++by) {
      const detail::NodeId slope = graph.derivative(value, by);
      const auto evaluate = [&](detail::NodeId id, double shift) {
        std::vector<double> at;
        for (std::size_t k = 0; k < graph.names().size(); ++k)
          at.push_back((graph.names()[k] == "x" ? 0.7 : 1.9) + (static_cast<int>(k) == by ? shift : 0));
        const detail::NodeId number = graph.with_values(id, at);
        EXPECT_EQ(graph.at(number).op, detail::Op::constant);
        return graph.at(number).value;
      };
      const auto difference = [&](double h) { return (evaluate(value, h) - evaluate(value, -h)) / (2 * h); };
      const double expected = (4 * difference(1e-3) - difference(2e-3)) / 3;
      EXPECT_NEAR(evaluate(slope, 0), expected, 1e-9 * std::max(1.0, std::abs(expected)));
    }
  }
}

struct Mistaken {
  const char* text;
  ErrorCode code;
  std::size_t column;
  const char* remedy;
};

TEST(WrittenMaths, PointsAtEveryMistake) {
  for (const auto& [text, code, column, remedy] :
       {Mistaken{"y = a + 2x", ErrorCode::missing_operator, 10, "2*x"},
        {"y = a + b x", ErrorCode::missing_operator, 11, "b*x"},
        {"y = 2(a + x)", ErrorCode::missing_operator, 6, "2*(...)"},
        {"y = a*log(x)", ErrorCode::unknown_function, 7, "ln"},
        {"y = a*sqr(x)", ErrorCode::unknown_function, 7, "sqrt"},
        {"y = a*(b + x", ErrorCode::unbalanced_bracket, 7, ")"},
        {"y = a + b)*x", ErrorCode::unbalanced_bracket, 10, ""},
        {"y = a +", ErrorCode::syntax, 8, "complete"},
        {"a + b*x", ErrorCode::syntax, 8, "y = "},
        {"y = exp + x", ErrorCode::name_is_function, 5, "exp_0"},
        {"y = a + b**x", ErrorCode::syntax, 11, "^"},
        {"y = a = b", ErrorCode::syntax, 7, "=="},
        {"y = 0,5*x", ErrorCode::syntax, 6, "point"},
        {"y = a*min(x)", ErrorCode::syntax, 7, "min(a, b)"},
        {"y = exp(a, x)", ErrorCode::syntax, 5, "exp(a)"},
        {"τ = a + 2x", ErrorCode::missing_operator, 10, "2*x"},
        {"y = 1e999*a*x", ErrorCode::syntax, 5, ""},
        {"", ErrorCode::syntax, 1, ""},
        {"y = a*\"x\"", ErrorCode::syntax, 7, "'Drying time'"},
        {"y = cases(x < 1: a)", ErrorCode::syntax, 19, ""},
        {"y = a < x", ErrorCode::syntax, 7, "cases"},
        {"y = a*not(x)", ErrorCode::syntax, 7, "conditions"},
        {"y = a*arctan(x)", ErrorCode::unknown_function, 7, "'atan'"},
        {"y = a*arcsin(x)", ErrorCode::unknown_function, 7, "'asin'"},
        {"y = a*arccos(x)", ErrorCode::unknown_function, 7, "'acos'"},
        {"y = a*qqqqqqqq(x)", ErrorCode::unknown_function, 7, "To multiply"},
        {"y = a + (b + x)(x - 1)", ErrorCode::missing_operator, 16, "(...)*(...)"},
        {"y = a + 2.5 x", ErrorCode::missing_operator, 13, "2.5*x"},
        {"y = a*x 2", ErrorCode::missing_operator, 9, "x*2"},
        {"y = a + b*x)", ErrorCode::unbalanced_bracket, 12, ""},
        {"y ~ a + b*x", ErrorCode::syntax, 3, "y = a + b*x"},
        {"y = a + b*x;", ErrorCode::syntax, 12, "ordinary maths"},
        {"y = a + *x", ErrorCode::syntax, 9, "ordinary maths"},
        {"y = 'c d' + 'b''s e' x", ErrorCode::missing_operator, 22, "write 'b''s e'*x"},
        {"y = a + 'b c'(x)", ErrorCode::missing_operator, 14, "write 'b c'*(...)"},
        {"y = a + 'b c' 2", ErrorCode::missing_operator, 15, "write 'b c'*2"},
        {"y = a\t+\n2x", ErrorCode::missing_operator, 10, "2*x"},
        {"y = and + x", ErrorCode::name_is_function, 5, "and_0"},
        {"y = pi(x)*a", ErrorCode::syntax, 5, "pi*(...)"}}) {
    SCOPED_TRACE(text);
    try {
      (void)Model::written(text, {"x"});
      ADD_FAILURE() << "was accepted";
    } catch (const Error& error) {
      EXPECT_EQ(error.code(), code) << error.what();
      EXPECT_EQ(error.place().column, column) << error.what();
      EXPECT_TRUE(has(error.remedy(), remedy)) << error.what();
    }
  }
}

template <typename Action>
ErrorCode code_of(Action action) {
  try {
    action();
  } catch (const Error& error) {
    return error.code();
  }
  return ErrorCode::internal;
}

// A name that a formula takes as it is: letters, figures and low lines, not a word of the formulas.
TEST(WrittenMaths, KnowsPlainNames) {
  for (const char* name : {"x", "Z", "aZ", "A9", "_a", "z_", "\u00e4", "\U0001D465"})
    EXPECT_TRUE(detail::is_plain_name(name)) << name;
  for (const char* name : {"", "9a", "a b", "sin", "pi", "a-b", "\u03c0", "\x80", "a\xc3", "\u00b2"})
    EXPECT_FALSE(detail::is_plain_name(name)) << name;
  EXPECT_EQ(detail::in_formula("Z"), "Z");
  EXPECT_EQ(detail::in_formula("bell's"), "'bell''s'");
}

// The value of a mistake is what stands there, as far as a line shows it, in whole letters.
TEST(WrittenMaths, QuotesWhatStandsAtAMistake) {
  const std::pair<const char*, const char*> cases[] = {{"y = a + 2x", "x"},
                                                       {"y = a + 2(b + c + d + e + f + g)", "(b + c + d + e + f +"},
                                                       {"y = a + 2(abcdefghijklmnopqrτ)*x", "(abcdefghijklmnopqr"},
                                                       {"y = a + 2(abcdefghijklmnopqτ)*x", "(abcdefghijklmnopqτ"}};
  for (const auto& each : cases)
    EXPECT_EQ(test::caught([&] { (void)Model::written(each.first); }).value(), each.second) << each.first;
  EXPECT_TRUE(has(test::caught([] { (void)Model::written("y =\ta\n+\r2x"); }).what(), "y = a + 2x\n"));
}

TEST(WrittenMaths, RefusesModelsThatCannotBeFitted) {
  EXPECT_EQ(code_of([] { (void)Model::written("y = a*0 + b*x", {"x"}); }), ErrorCode::parameter_without_effect);
  EXPECT_EQ(code_of([] { (void)Model::written("y = x + z", {"x", "z"}); }), ErrorCode::syntax);
  EXPECT_EQ(code_of([] { (void)Model::written("y = a + y*x", {"x"}); }), ErrorCode::syntax);
  EXPECT_EQ(code_of([] { (void)Model::written("y = a + b*x").parameters(); }), ErrorCode::bad_argument);
  const auto nested = [](std::size_t deep) {
    return Model::written("y = a*" + std::string(deep, '(') + "x" + std::string(deep, ')'), {"x"});
  };
  EXPECT_EQ(nested(100).parameters().size(), 1u);
  EXPECT_EQ(code_of([&] { (void)nested(101); }), ErrorCode::model_too_large);
  detail::Graph graph;
  for (int i = 0; i < 200'000; ++i) (void)graph.constant(i);
  EXPECT_EQ(graph.constant(7), 7) << "which it has";
  EXPECT_EQ(code_of([&] { (void)graph.constant(0.5); }), ErrorCode::model_too_large);
  EXPECT_EQ(code_of([] { (void)Model::written("y = " + std::string(20'000, '-') + "x"); }), ErrorCode::model_too_large);
  EXPECT_EQ(code_of([] { (void)Model::written("y = a + b*log(x)"); }), ErrorCode::unknown_function);
  const auto refused = [](const char* text) {
    return test::caught([&] { (void)Model::written(text, {"x"}); }).message();
  };
  EXPECT_EQ(refused("y = a + ;"), "a value is expected here, not ';'");
  EXPECT_EQ(refused("y = a + b;"), "';' can't stand here");
  EXPECT_EQ(refused("y = a + 2.;"), "';' can't stand here");
  EXPECT_EQ(refused("y = a + (b);"), "';' can't stand here");
  EXPECT_EQ(refused("y = a + 'b c';"), "';' can't stand here");
  EXPECT_EQ(refused("y = a + 'b c' x"), "an operator is missing here");
  EXPECT_EQ(refused("y = a + 'b c'(x)"), "an operator is missing here");
  EXPECT_EQ(refused("2 = a + b*x"), "the left side of '2 = a + b*x' names no response");
  EXPECT_EQ(refused("y = 2 + 3"), "there is no parameter in 'y = 2 + 3'");
  const Model code = Model::function({"k"}, [](double x, auto p) { return p[0] * x; });
  EXPECT_EQ(test::caught([&] {
              (void)fit(code, Observations::of_columns({"y", "", {1, 2}}, {{"x", "", {1, 2}}, {"z", "", {1, 3}}}));
            }).subject(),
            "predictors");
}

// Equal scatter of the left side is a scatter of the response by one over its slope.
TEST(Model, SaysWhatATransformTakesTheScatterAs) {
  struct Case {
    const char *left, *scatter;
  };
  for (const auto& [left, scatter] : {Case{"y", "1"},
                                      {"2*y + 3", "1"},
                                      {"-y", "1"},
                                      {"ln(y)", "y"},
                                      {"-ln(3*y)", "y"},
                                      {"log10(y/3)", "y"},
                                      {"log2(y)", "y"},
                                      {"ln(y/x)", "y"},
                                      {"ln(x/y)", "y"},
                                      {"ln(y)/x", "x*y"},
                                      {"ln(y - 2)", "y - 2"},
                                      {"ln(100 - y)", "100 - y"},
                                      {"-ln(1 - y/2)", "1 - y/2"},
                                      {"ln(ln(y))", "ln(y)*y"},
                                      {"ln(y/(1 - y))", "y*(1 - y)"},
                                      {"ln(y) - ln(5 - y)", "y*(5 - y)"},
                                      {"1/y", "y^2"},
                                      {"x/y", "y^2/x"},
                                      {"1/(x*y)", "x*y^2"},
                                      {"y/x", "x"},
                                      {"x*y", "1/x"},
                                      {"sqrt(y)", "sqrt(y)"},
                                      {"1/sqrt(y)", "y^1.5"},
                                      {"y^2", "1/y"},
                                      {"y^-1", "y^2"},
                                      {"y^3", "1/y^2"},
                                      {"y^-2", "y^3"},
                                      {"x/y^3", "y^4/x"},
                                      {"y^(1/3)", "cbrt(y)^2"},
                                      {"cbrt(y)", "cbrt(y)^2"},
                                      {"1/cbrt(y)", "cbrt(y)^4"},
                                      {"x/(2*sqrt(y))", "y^1.5/x"},
                                      {"exp(y)", "1/exp(y)"},
                                      {"2^y", "1/2^y"},
                                      {"x^y", "1/(x^y*ln(x))"},
                                      {"y^x", "y/(y^x*x)"}}) {
    const Model model = Model::written(std::string(left) + " = a + b*x", {"x"});
    EXPECT_EQ(model.implied_scatter(), scatter) << left;
  }
}

struct Structure {
  const char* text;
  bool linear;
  int constant;  // its index, or -1
  bool straight, known = false;
  int degree = 0;
};

TEST(Model, DecidesLinearityFromStructure) {
  for (const auto& [text, linear, constant, straight, known, degree] :
       {Structure{"y = a + b*x", true, 0, true},
        {"y = b*x + a", true, 1, true},
        {"y = b*x", true, -1, false},
        {"y = a + b*x + c*x^2", true, 0, false, false, 2},
        {"y = c*x^2 + b*x + a", true, 2, false, false, 2},
        {"y = a + c*x^2", true, 0, false},
        {"y = a + b*x + c*(2*x)^2", true, 0, false},
        {"y = 3*a + b*x + c*x^2", true, 0, false},
        {"y = a + b*x + c*x*sqrt(x)", true, 0, false},
        {"y = (a + b*x)/2", true, 0, true},
        {"y = a + b*(x - 20)", true, 0, true},
        {"y = a + b*sin(x) + c*cos(x)", true, 0, false},
        {"y = 3 + b*x", true, -1, false, true},
        {"y = a + b*x + x^2", true, 0, false, true},
        {"y = 2*x + b*x^2", true, -1, false, true},
        {"y = a*(b + x)", false, -1, false},
        {"y = a*exp(-x/tau)", false, -1, false},
        {"y = a + ln(b)*x", false, -1, false},
        {"y = a + b/x", true, 0, false},
        {"y = cases(x < 1: a, otherwise: a + b*(x - 1))", true, 0, false}}) {
    SCOPED_TRACE(text);
    const Model model = Model::written(text, {"x"});
    EXPECT_EQ(model.is_linear(), linear);
    // R² of a curve that is not linear is about the mean whatever it is.
    EXPECT_EQ(model.is_judged_about_the_mean(), !linear || constant >= 0 || known);
    if (!linear) continue;
    EXPECT_EQ(model.constant_index(), constant);
    EXPECT_EQ(model.has_constant(), constant >= 0);
    EXPECT_EQ(model.has_known_part(), known);
    EXPECT_EQ(model.is_straight_line(), straight);
    EXPECT_EQ(model.polynomial_degree(), degree);
  }
  // The terms of held parameters are known; of the names on the left the first that is not on the right is measured.
  const Model held = Model::written("y = a + b*x", {"x"}).with_fixed({{"a", 2}});
  EXPECT_TRUE(held.has_known_part());
  EXPECT_EQ(held.constant_index(), -1);
  EXPECT_TRUE(held.is_judged_about_the_mean());
  const Model left = Model::written("ln(y/x) = c + b*x", {"x"});
  EXPECT_EQ(left.left_side_names(), (std::vector<std::string>{"y", "x"}));
  EXPECT_EQ(left.response(), "y");
  EXPECT_EQ(Model::written("y = c + b*x + a", {"x"}).parameters(), (std::vector<std::string>{"c", "b", "a"}));
}

TEST(Shapes, AreModelsOfTheirFormula) {
  for (const Shape& shape : shapes()) {
    const std::string name = shape.name == "polynomial(k)" ? "polynomial(3)" : std::string(shape.name);
    const Model model = shape_model(name, "t", "T");
    EXPECT_EQ(model.kind(), name);
    EXPECT_FALSE(model.is_transformed());
    if (shape.linearized.empty()) continue;
    const Model straight = shape_model(name, "t", "T", Route::linearized);
    EXPECT_TRUE(straight.is_linear());
    EXPECT_TRUE(straight.is_transformed());
  }
  const Model product = shape_model_of_several("product-of-powers", {"t", "D"}, "f", Route::linearized);
  EXPECT_EQ(shape_model_of_several("product-of-powers", {"t", "D"}, "f").text(), "f = a*t^p1*D^p2");
  EXPECT_EQ(product.text(), "ln(f) = c + p1*ln(t) + p2*ln(D)");
  EXPECT_EQ(product.original_parameters()[0].expression, "exp(c)");
  EXPECT_EQ(code_of([] { (void)shape_model_of_several("line", {"t", "D"}, "f"); }), ErrorCode::bad_argument);
  EXPECT_EQ(code_of([] { (void)shape_model("polynomial(0)"); }), ErrorCode::unknown_shape);
  EXPECT_EQ(shape_model("line", "a", "y").parameters(), (std::vector<std::string>{"a_0", "b"}));
  EXPECT_EQ(code_of([] { (void)shape_model("lin"); }), ErrorCode::unknown_shape);
}

}  // namespace
}  // namespace truecurve
