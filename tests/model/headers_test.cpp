// Columns in formulas by their headers, typeset signs, and formulas written out again.

#include "../support.hpp"

namespace truecurve {
namespace {

Table ovens() {
  return Table::from_columns({{"Drying time", "min", {1, 2, 3, 6}},
                              {"Drying", "", {0, 0, 1, 1}},
                              {"c-Pb", "mg/g", {4, 3, 2, 1}},
                              {"Pb's share", "%", {9, 8, 7, 6}},
                              {"T", "K", {300, 310, 320, 330}}});
}

TEST(Headers, AreFoundInFormulas) {
  const struct {
    const char *written, *named;
  } cases[] = {
      {"y = a + b*Drying time", "y = a + b*'Drying time'"},
      {"y = a + b*'Drying time'", "y = a + b*'Drying time'"},
      {"y = Drying + Drying time", "y = Drying + 'Drying time'"},
      {"y = Drying timer + a", "y = Drying timer + a"},
      {"y = myDrying time", "y = myDrying time"},
      {"y = 2Drying time + 3", "y = 2Drying time + 3"},
      {"y = Drying time2", "y = Drying time2"},
      {"y = Drying timeZ + Drying timea", "y = Drying timeZ + Drying timea"},
      {"y = Drying time_0", "y = Drying time_0"},
      {"y = Drying time\u03b1", "y = Drying time\u03b1"},
      {"y = a*Drying time^2", "y = a*'Drying time'^2"},
      {"y = a*'T'", "y = a*T"},
      {"y = a*'no such'", "y = a*'no such'"},
      {"y = a*'Pb''s share' + Drying time", "y = a*'Pb''s share' + 'Drying time'"},
      {"y = a + c-Pb", "y = a + c-Pb"},
      {"y = a + 'c-Pb'", "y = a + 'c-Pb'"},
      {"y = 'never closed + Drying time", "y = 'never closed + Drying time"},
  };
  for (const auto& c : cases) EXPECT_EQ(with_columns_named(c.written, ovens()), c.named) << c.written;
  EXPECT_EQ(header_without_marks("y = a + b*c-Pb", ovens()), "c-Pb");
  EXPECT_EQ(header_without_marks("y = a + b*'c-Pb'", ovens()), "");
  EXPECT_EQ(header_without_marks("y = a + b*T", ovens()), "");
  EXPECT_EQ(name_in_formula("T_0"), "T_0");
  EXPECT_EQ(name_in_formula("Pb's share"), "'Pb''s share'");
  EXPECT_EQ(name_in_formula("exp"), "'exp'");
  // Letters of two and three bytes, in any script; signs among them; bytes that are no letter.
  for (const char* letters : {"τ", "вес", "質量", "é2"}) EXPECT_EQ(name_in_formula(letters), letters);
  for (const char* other : {"T°", "a×b", "m€", "T\xff", "π", "T！"})
    EXPECT_EQ(name_in_formula(other), "'" + std::string(other) + "'");
}

TEST(Headers, OfAUnitInBracketsAreNames) {
  Column column{.name = "Drying time", .unit = "min", .numbers = {1, 2, 3}, .header = "Drying time (min)"};
  const Table table({column});
  EXPECT_EQ(with_columns_named("y = a*Drying time (min) + b", table), "y = a*'Drying time' + b");
  EXPECT_EQ(with_columns_named("y = a*'Drying time (min)'^2", table), "y = a*'Drying time'^2");
  const Table numbered({{.name = "Oven 12", .unit = "°C", .numbers = {1, 2, 3}, .header = "Oven 12 (°C)"},
                        {.name = "Höhe_0 z9", .numbers = {1, 2, 3}, .header = "Höhe_0 z9"}});
  EXPECT_EQ(with_columns_named("y = a*Oven 12 (°C) + b*Höhe_0 z9", numbered), "y = a*'Oven 12' + b*'Höhe_0 z9'");
  const Table core({{.name = "Core T", .numbers = {1, 2, 3}, .header = "Core T"}});
  EXPECT_EQ(with_columns_named("y = a*Core T + b*Core Temp", core), "y = a*'Core T' + b*Core Temp");
  // What reads as maths, or as nothing, stays as it is.
  std::vector<Column> columns;
  for (const auto& [name, header] : {std::pair{"exp", "exp(x)"}, {"first", "(min)"}, {"T", "T(K)"}})
    columns.push_back({.name = name, .numbers = {1, 2, 3}, .header = header});
  const Table maths(columns);
  for (const char* formula : {"y = a*exp(x)", "y = a*(min) + b", "y = a*T(K)"})
    EXPECT_EQ(with_columns_named(formula, maths), formula);
}

TEST(Headers, ReplaceWholeNamesOnly) {
  EXPECT_EQ(with_name_replaced("y = a*x + 'x y' + ax*x^2 + exp(x)", "x", "'Drying time'"),
            "y = a*'Drying time' + 'x y' + ax*'Drying time'^2 + exp('Drying time')");
}

TEST(Headers, StandInConditions) {
  EXPECT_EQ(rows_where(ovens(), "Drying time > 2"), (std::vector<std::size_t>{3, 4}));
  EXPECT_EQ(rows_where(ovens(), "'c-Pb' >= 3 and 'Pb''s share' < 9"), (std::vector<std::size_t>{2}));
}

TEST(Headers, StandInModelsAndTheirTexts) {
  const Model model =
      Model::written("ln('Core strength') = c + k*'Drying time'", {"Drying time"}).with_predictors({"Drying time"});
  EXPECT_EQ(model.response(), "Core strength");
  EXPECT_EQ(model.parameters(), (std::vector<std::string>{"c", "k"}));
  EXPECT_EQ(model.left_side(), "ln('Core strength')");
  EXPECT_EQ(shape_model("line", "Drying time", "Core's strength").text(), "'Core''s strength' = a + b*'Drying time'");
  // What stands in marks is never a parameter.
  const Error error = test::caught([] { (void)Model::written("y = a + b*'Drying tme'", {"Drying time"}); });
  EXPECT_EQ(error.code(), ErrorCode::unknown_name);
  EXPECT_TRUE(has(error.message(), "'Drying tme'"));
}

// Each typeset formula has the value of the plain one.
TEST(Typeset, SignsAreWhatTheyLookLike) {
  const struct {
    const char *typeset, *plain;
  } cases[] = {
      {"y = a·x² − b×√x", "y = a*x^2 - b*sqrt(x)"},
      {"y = a∗x³ + ½", "y = a*x^3 + 0.5"},
      {"y = a*x¹² – b⁄x⁻¹", "y = a*x^12 - b/x^(-1)"},
      {"y = ∛(x + 1)·π·a", "y = cbrt(x + 1)*pi*a"},
      {"y = cases(x ≤ 2: a, x ≥ 4: b, otherwise: ¾)", "y = cases(x <= 2: a, x >= 4: b, otherwise: 0.75)"},
      {"y = a\u00A0+\u2009b*x", "y = a + b*x"},
      {"y = √2.5*a", "y = sqrt(2.5)*a"},
      {"y = √Zaz_09*b", "y = sqrt(Zaz_09)*b"},
      {"y = √'Drying time'*b", "y = sqrt('Drying time')*b"},
      {"y = a*‘Drying time’", "y = a*'Drying time'"},
      {"y = a*'x² √'", "y = a*'x² √'"},
      {"y = a*'x²'² + b·x", "y = a*'x²'^2 + b*x"},
      {"y = η₀*x", "y = η₀*x"},
  };
  for (const auto& c : cases) EXPECT_EQ(Model::written(c.typeset).text(), c.plain);
  for (const auto& [refused, remedy] : {std::pair{"y = a + b∫x", "write it with letters, digits"},
                                        {"y = a + “x”", "in single quotation marks"},
                                        {"y = a + x”", "in single quotation marks"},
                                        {"y = 3°*a", "write the unit beside the column"},
                                        {"y = a ∝ x", "write it with letters, digits"}}) {
    const Error error = test::caught([text = refused] { (void)Model::written(text); });
    EXPECT_EQ(error.code(), ErrorCode::syntax) << refused;
    EXPECT_TRUE(has(error.remedy(), remedy));
  }
}

// What is typed first by people who write formulas elsewhere.
TEST(Typeset, SlipsGetTheRemedyThatFits) {
  const struct {
    const char *formula, *remedy;
  } cases[] = {
      {"y = A*e^(-k*x)", "write exp(-k*x)"},
      {"y = A*e^-x", "write exp(-x)"},
      {"y = A*exp -k*x", "write exp(...)"},
      {"y = a*log(x)", "write ln for the natural"},
      {"y = a*x**2", "write ^ for a power"},
      {"y = a + b*\"x\"", "write 'Drying time'"},
      {"y = a + b*`x`", "write 'Drying time'"},
      {"y ~ x", "y = a + b*x"},
      {"y = a + 'x", "between two single quotation marks"},
      {"y = a + ''*x", "between two single quotation marks"},
      {"y = a + 'x", "this quotation mark is never closed"},
      {"y = a + ''*x", "no name stands in these quotation marks"},
      {"y = 2x + a", "write 2*x"},
  };
  for (const auto& c : cases) {
    const Error error = test::caught([&] { (void)Model::written(c.formula, {"x"}); });
    EXPECT_TRUE(has(error.what(), c.remedy)) << c.formula << "\n" << error.what();
  }
  // e is a name like any other where it can't be the base of the exponential function.
  EXPECT_EQ(Model::written("y = a*x^e", {"x"}).parameters(), (std::vector<std::string>{"a", "e"}));
  EXPECT_EQ(Model::written("y = a + b*e^x", {"e", "x"}).parameters(), (std::vector<std::string>{"a", "b"}));
}

// A word of every day leads to a shape that there is.
TEST(Shapes, EverydayWordsLeadToThem) {
  for (const auto& [everyday, meant] :
       std::vector<std::pair<std::string, std::string>>{{"linear", "line"},
                                                        {"Quadratic", "polynomial(2)"},
                                                        {"parabola", "polynomial(2)"},
                                                        {"cubic", "polynomial(3)"},
                                                        {"1/x", "reciprocal"},
                                                        {"log", "logarithm"},
                                                        {"sigmoid", "logistic"},
                                                        {"exponental", "exponential"},
                                                        {"gaussian", "gaussian-peak"}}) {
    const std::string word = everyday;
    const std::string shape = meant;
    const std::string what = test::caught([&] { (void)shape_model(word); }).what();
    EXPECT_TRUE(has(what, "did you mean '" + shape + "'"));
    EXPECT_TRUE(is_shape(shape)) << shape;
    EXPECT_LT(what.size(), 200u) << what;
  }
  for (const char* word :
       {"polynomial(k)", "polynomial", "poly", "polynomial(2", "polynomial(2x)", "polynomial(0)", "polynomial(-1)"})
    EXPECT_TRUE(has(test::caught([&] { (void)shape_model(word); }).what(), "of which degree")) << word;
  EXPECT_EQ(test::caught([] { (void)shape_model("polynomial(16)"); }).message(),
            "a polynomial of degree 16 is not possible; 15 is the highest");
  EXPECT_NO_THROW((void)shape_model("polynomial(15)"));
  for (const char* word : {"constant", "Mean"})
    EXPECT_TRUE(has(test::caught([&] { (void)shape_model(word); }).what(), "a column: y = a")) << word;
  for (const char* word : {"share-logistic(", "share-logistic(roof)", "share-logistic()", "share-(floor)", "log(floor)",
                           "share-logistic(floor"})
    EXPECT_FALSE(is_shape(word)) << word;
  for (const char* word : {"share-logistic(floor)", "share-logistic(ceiling)", "share-logistic(floor,ceiling)",
                           "share-logistic( floor , ceiling )"})
    EXPECT_TRUE(is_shape(word)) << word;
  EXPECT_TRUE(has(test::caught([] { (void)shape_model("qqqqqqq"); }).what(), "your own is written as an"));
  EXPECT_TRUE(has(test::caught([] { (void)shape_model("a + b*x"); }).what(), "y = a + b*x"));
}

}  // namespace
}  // namespace truecurve
