// The equation with its numbers: read back, compiled and computed, it is the fitted curve.

#include "../support.hpp"

#include <cstdlib>
#include <fstream>
#include <regex>

namespace truecurve {
namespace {

using test::TemporaryFolder;

Fit fit_of(const std::string& model, double from, double to, double (*truth)(double)) {
  std::vector<double> x, y;
  for (int i = 0; i < 15; ++i) {
    x.push_back(from + (to - from) * i / 14);
    y.push_back(truth(x.back()) * (1 + 0.003 * std::sin(7.0 * i)));
  }
  const Observations points = Observations::of(x, y);
  return fit(model.find('=') == std::string::npos ? shape_model(model) : Model::written(model, {"x"}), points);
}

struct FittedCase {
  const char* name;
  Fit fit;
};

std::vector<FittedCase> fitted_cases() {
  return {
      {"line", fit_of("line", 1, 9, [](double x) { return 3 - 2e-7 * x; })},
      {"years", fit_of("polynomial(2)", 1990, 2026, [](double x) { return 5 + (x - 2000) * (x - 2000) / 90; })},
      {"quartic", fit_of("polynomial(4)", -3, 4, [](double x) { return 9 + x - x * x * x * x / 7; })},
      {"decay", fit_of("exponential-offset", 0, 6, [](double x) { return 2 + 7 * std::exp(-0.8 * x); })},
      {"linearized", fit_of("ln(y) = c + b/x", 1, 6, [](double x) { return std::exp(1 - 2 / x); })},
      {"root", fit_of("1/y^2 = c + b*x", 1, 6, [](double x) { return 1 / std::sqrt(2 + 3 * x); })},
      {"pieces", fit_of("y = cases(x < 3: a + b*x, otherwise: a + 3*b + c*(x - 3))", 0, 6,
                        [](double x) { return x < 3 ? 1 + x : 4 - 0.5 * (x - 3); })},
      {"functions", fit_of("y = a*min(x, 4) + b*abs(x - 2) + c*erf(x - 3) + d*cbrt(x - 2.5)", 0, 6,
                           [](double x) { return std::min(x, 4.0) + std::abs(x - 2) + std::cbrt(x - 2.5) + 6; })},
      {"logic", fit_of("y = cases(x <= 1 or x >= 5: a, x == 3: b, not (x < 2 or x > 4) and x != 2.5: b*x, "
                       "otherwise: c*x + 0.1*log2(x + 1) + max(x, 4))",
                       0, 6,
                       [](double x) {
                         return x <= 1 || x >= 5                ? 2
                                : x == 3                        ? 1.5
                                : !(x < 2 || x > 4) && x != 2.5 ? 1.5 * x
                                                                : 0.5 * x + 0.1 * std::log2(x + 1) + std::max(x, 4.0);
                       })},
      {"powers", fit_of("y = -a*x^-b + c*(x + 1)^2^0.5", 1, 6, [](double x) { return 9 - 2 / x + x; })},
  };
}

std::vector<double> places_along_data(const Fit& fit) {
  std::vector<double> at;
  const Range& range = fit.estimate().ranges()[0];
  for (int i = 0; i <= 40; ++i) at.push_back(range.low + (range.high - range.low) * i / 40);
  return at;
}

// Within a hundredth of the uncertainty of the curve, and of nothing but rounding where that is smaller.
void expect_same_curve(const FittedCase& c, const std::vector<double>& values, const std::string& equation) {
  const std::vector<double> at = places_along_data(c.fit);
  ASSERT_EQ(values.size(), at.size()) << equation;
  for (std::size_t i = 0; i < at.size(); ++i) {
    const CurvePoint curve = curve_at(c.fit.estimate(), at[i]);
    EXPECT_NEAR(values[i], curve.value, 0.0101 * curve.standard_uncertainty) << c.name << " at " << at[i] << "\n"
                                                                             << equation;
  }
}

// An equation in written maths as a curve: its one dummy parameter is 0.
std::vector<double> values_of(const std::string& right, const std::vector<double>& at) {
  const Model model = Model::written("y = " + right + " + dummy", {"x"});
  const VectorXd values = test::curve_values(model, {0}, test::vector(at));
  return {values.begin(), values.end()};
}

TEST(Equation, ReadBackIsTheCurve) {
  for (const FittedCase& c : fitted_cases()) {
    const std::string equation = equation_with_numbers(c.fit.estimate());
    ASSERT_TRUE(equation.starts_with("y = ")) << equation;
    expect_same_curve(c, values_of(equation.substr(4), places_along_data(c.fit)), equation);
  }
}

// A number has no digit more than is needed: of one less, in all of them, the curve would be another.
TEST(Equation, HasAsFewDigitsAsItCan) {
  const auto line = fit_of("line", 1, 9, [](double x) { return 3 + 2 * x; });
  const Estimate& e = line.estimate();
  const std::string equation = equation_with_numbers(e);
  const std::regex number(R"((\d+\.\d+))");
  std::size_t digits = 0;
  for (auto at = std::sregex_iterator(equation.begin(), equation.end(), number); at != std::sregex_iterator(); ++at)
    digits = std::max(digits, at->str().size() - 1);
  ASSERT_GT(digits, 3u) << equation;
  const double a = std::stod(rounded(e.parameters()[0], static_cast<int>(digits) - 1));
  const double b = std::stod(rounded(e.parameters()[1], static_cast<int>(digits) - 1));
  bool differs = false;
  for (int i = 0; i <= 100; ++i) {
    const double x = 1 + 8 * i / 100.0;
    const CurvePoint curve = curve_at(e, x);
    differs = differs || std::abs(a + b * x - curve.value) > 0.01 * curve.standard_uncertainty;
  }
  EXPECT_TRUE(differs) << equation;
  // Zeros that end a number say nothing, before a power of ten too.
  const Fit tiny = fit(shape_model("line"), Observations::of({1, 2, 3, 4}, {1.2e-15, 1.4e-15, 1.6e-15, 1.8e-15}));
  EXPECT_EQ(equation_with_numbers(tiny.estimate()), "y = 1e-15 + 2e-16*x");
}

// Of two predictors whose parts cancel where both rise, the numbers are good enough elsewhere, too.
TEST(Equation, HasDigitsForAllPlacesOfSeveralPredictors) {
  std::vector<double> p, q, y;
  for (int i = 0; i < 6; ++i) {
    for (int j = 0; j < 6; ++j) {
      p.push_back(200 * i);
      q.push_back(200 * j);
      y.push_back(5 + 1.2345678 * (p.back() - q.back()) + 0.02 * ((i * 7 + j * 3) % 5 - 2));
    }
  }
  const Fit plane = fit(Model::written("y = a + b*p + c*q"),
                        Observations(Table::from_columns({{"p", "", p}, {"q", "", q}, {"y", "", y}}),
                                     {.response = "y", .predictors = {"p", "q"}}));
  const std::string equation = equation_with_numbers(plane.estimate());
  const std::regex number(R"(\d+\.\d+)");
  std::vector<double> numbers;
  for (auto at = std::sregex_iterator(equation.begin(), equation.end(), number); at != std::sregex_iterator(); ++at)
    numbers.push_back(std::stod(at->str()));
  ASSERT_EQ(numbers.size(), 3u) << equation;
  ASSERT_TRUE(has(equation, " - "));
  for (const auto& [at_p, at_q] : {std::pair{0.0, 0.0}, {0.0, 1000.0}, {1000.0, 0.0}, {300.0, 800.0}}) {
    const std::vector<Vector> place = {{at_p}, {at_q}};
    const CurvePoint curve = curve_at(plane.estimate(), place);
    EXPECT_NEAR(numbers[0] + numbers[1] * at_p - numbers[2] * at_q, curve.value, 0.015 * curve.standard_uncertainty)
        << equation;
  }
}

// Lines, polynomials, transformed and weighted ones, shares and rates, a parameter at its limit, a power from zero.
struct BandCase {
  const char* name;
  Fit fit;
  bool has_new = true;
};

std::vector<BandCase> band_cases() {
  std::vector<BandCase> cases;
  for (FittedCase& c : fitted_cases()) cases.push_back({c.name, std::move(c.fit)});
  const std::vector<double> x = {0, 1, 2, 3, 4, 5, 6, 7};
  const std::vector<double> y = {0, 1.2, 2.7, 5.4, 7.9, 11.4, 14.5, 18.8};
  cases.push_back({"power from zero", fit(Model::written("y = a*x^b"), Observations::of(x, y))});
  const Observations rising = Observations::of({1, 2, 3, 4, 5}, {2.1, 3.9, 6.2, 7.8, 10.3});
  cases.push_back({"proportional", fit(shape_model("line"), rising, {.spread = Spread::proportional()})});
  cases.push_back({"square root", fit(shape_model("line"), rising, {.spread = Spread::counts()})});
  cases.push_back({"equal", fit(shape_model("line"), rising, {.spread = Spread::constant()})});
  cases.push_back(
      {"of a percentage",
       fit(shape_model("line"),
           Observations(Table::from_columns({{"x", "", {1, 2, 3, 4, 5}}, {"y", "", {2.1, 3.9, 6.2, 7.8, 10.3}}}),
                        {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::percent(4)}))});
  // The scatter of what a transform straightens, known on the response's own scale.
  for (const char* straightened : {"ln(y) = a + b*x", "1/y = a + b*x", "x/y = a + b*x"}) {
    for (const Uncertainty& known : {Uncertainty::percent(4), Uncertainty::number(0.2)})
      cases.push_back(
          {straightened,
           fit(Model::written(straightened),
               Observations(Table::from_columns({{"x", "", {1, 2, 3, 4, 5}}, {"y", "", {2.1, 3.3, 3.9, 4.6, 4.9}}}),
                            {.response = "y", .predictors = {"x"}, .response_uncertainty = known}))});
  }
  cases.push_back({"at its limit", fit(Model::written("y = a + b*x + c*x^2"), Observations::of(x, y),
                                       {.within = {{.parameter = "c", .low = 1}}})});
  // Both limits change places at 0; the curve's uncertainty vanishes at the first row.
  cases.push_back({"sides of zero", fit(Model::written("x/y = a + b*x"),
                                        Observations::of({-3, -2, -1, 1, 2, 3}, {-2.9, -2.1, -1.02, 0.98, 1.9, 2.7}))});
  cases.push_back({"from a point", fit(Model::written("y = 100.1*exp(-k*x)"),
                                       Observations::of({0, 1, 2, 3, 4}, {100, 71, 49, 36, 24}))});
  cases.push_back({"through a point", fit(Model::written("y = 2/3 + b*(x - 0.1)"),
                                          Observations::of({0.1, 1, 2, 3}, {0.7, 2.4, 4.6, 6.3}))});
  cases.push_back({"gross", fit(shape_model("line"), rising, {.spread = Spread::of_power(0.5, 1)}), false});
  const Vector tried(8, 20);
  cases.push_back({"shares",
                   fit(Model::written("y = 1/(1 + exp(-(a + b*x)))", {"x"}),
                       Observations::counted(x, {1, 2, 5, 7, 12, 15, 18, 19}, tried, ResponseKind::events)),
                   false});
  cases.push_back({"logits",
                   fit(Model::written("ln(y/(1 - y)) = a + b*x", {"x"}),
                       Observations::counted(x, {1, 2, 5, 7, 12, 15, 18, 19}, tried, ResponseKind::events)),
                   false});
  cases.push_back({"rates",
                   fit(Model::written("y = a*exp(-k*x)", {"x"}),
                       Observations::counted(x, {90, 71, 48, 40, 25, 19, 18, 11}, Vector(8, 1), ResponseKind::counts)),
                   false});
  return cases;
}

double middle_of(const Fit& fit) {
  const Range& range = fit.estimate().ranges()[0];
  return (2 * range.low + 3 * range.high) / 5;
}

// What a formula of a band stands for, and the half width that it may miss by a hundredth.
std::pair<double, double> at_band(const BandPoint& point, const std::string& name) {
  const double value = name == "u"         ? point.standard_uncertainty
                       : name == "low"     ? point.confidence.low
                       : name == "high"    ? point.confidence.high
                       : name == "new_low" ? point.prediction.low
                                           : point.prediction.high;
  return {value, name == "u" ? value : std::abs(value - point.value)};
}

// Compiled by the compiler that made these tests, in both languages.
TEST(Equation, CompiledIsTheCurve) {
  for (const auto& [language, ending, compiler] : {std::tuple{FormulaLanguage::c, ".c", "cc -std=c99"},
                                                   std::tuple{FormulaLanguage::cpp, ".cpp", "c++ -std=c++11"}}) {
    const TemporaryFolder folder;
    std::string program, calls;
    int count = 0;
    std::vector<FittedCase> all = fitted_cases();
    for (const FittedCase& c : all) {
      std::string function = equation_with_numbers(c.fit.estimate(), language);
      const std::string name = fmt::format("curve{}", count++);
      function = std::regex_replace(function, std::regex("double y\\("), "double " + name + "(");
      program += function + "\n";
      for (const double x : places_along_data(c.fit))
        calls += fmt::format("printf(\"%.17g\\n\", {}({:.17g}));\n", name, x);
    }
    const std::vector<BandCase> bands = band_cases();
    const auto of_band = [&bands, notation = language](const auto& use) {
      for (const BandCase& c : bands)
        for (const BandFormula& formula : band_with_numbers(c.fit.estimate(), 0.95, notation)) use(c, formula);
    };
    of_band([&](const BandCase& c, const BandFormula& formula) {
      const std::string name = fmt::format("curve{}", count++);
      program += std::regex_replace(formula.text, std::regex("double y_[a-z_]+\\("), "double " + name + "(") + "\n";
      calls += fmt::format("printf(\"%.17g\\n\", {}({:.17g}));\n", name, middle_of(c.fit));
    });
    const std::filesystem::path source = folder / ("curves" + std::string(ending));
    std::ofstream(source) << "#include <stdio.h>\n" << program << "int main(void) {\n" << calls << "return 0; }\n";
    const std::string run = (folder / "curves").string();
    ASSERT_EQ(std::system(fmt::format("{} -Wall -Wextra -Werror {} -o {} -lm && {} > {}.txt", compiler, source.string(),
                                      run, run, run)
                              .c_str()),
              0);
    std::ifstream values(run + ".txt");
    for (const FittedCase& c : all) {
      std::vector<double> of_case;
      std::string line;
      for (std::size_t i = 0; i < places_along_data(c.fit).size() && std::getline(values, line); ++i)
        of_case.push_back(test::number_of(line));
      expect_same_curve(c, of_case, equation_with_numbers(c.fit.estimate(), language));
    }
    of_band([&](const BandCase& c, const BandFormula& formula) {
      std::string line;
      ASSERT_TRUE(std::getline(values, line));
      const auto [value, width] = at_band(band_at(c.fit.estimate(), {middle_of(c.fit)}, 0.95)[0], formula.name);
      EXPECT_NEAR(test::number_of(line), value, 0.0101 * width) << c.name << "\n" << formula.text;
    });
  }
}

// A spreadsheet's formula in written maths: other names, a sign that binds more tightly than a power, powers grouped to
// the left.
TEST(Equation, OfASpreadsheetIsTheCurve) {
  for (const FittedCase& c : fitted_cases()) {
    std::string formula = equation_with_numbers(c.fit.estimate(), FormulaLanguage::spreadsheet, {"$C$7"});
    ASSERT_EQ(formula.front(), '=');
    if (std::string(c.name) == "logic") {
      for (const char* part : {"=IF(OR($C$7 <= 1, 5 <= $C$7), ", ", IF($C$7 = 3, ",
                               ", IF(AND(NOT(OR($C$7 < 2, 4 < $C$7)), NOT($C$7 = 2.5)), ",
                               "*$C$7 + 0.1*LOG($C$7 + 1, 2) + MAX($C$7, 4))))"})
        EXPECT_TRUE(has(formula, part));
      continue;
    }
    std::string maths = formula.substr(1);
    // What would be read differently there must not occur: a sign before a power, a power of a power.
    EXPECT_FALSE(std::regex_search(maths, std::regex(R"((^|[(,])\s*-[A-Za-z$0-9.]+\^)"))) << formula;
    EXPECT_FALSE(std::regex_search(maths, std::regex(R"(\^[A-Za-z$0-9.]+\^)"))) << formula;
    EXPECT_FALSE(std::regex_search(maths, std::regex(R"(\^-)"))) << formula;
    for (const auto& [theirs, ours] : std::vector<std::pair<std::string, std::string>>{{"\\$C\\$7", "x"},
                                                                                       {"EXP\\(", "exp("},
                                                                                       {"LN\\(", "ln("},
                                                                                       {"SQRT\\(", "sqrt("},
                                                                                       {"ABS\\(", "abs("},
                                                                                       {"MIN\\(", "min("},
                                                                                       {"ERF\\(", "erf("}})
      maths = std::regex_replace(maths, std::regex(theirs), ours);
    maths = std::regex_replace(maths, std::regex(R"(IF\(([^,]*), ([^,]*), )"), "cases($1: $2, otherwise: ");
    maths = std::regex_replace(maths, std::regex(R"(SIGN\(([^)]*)\))"), "cases($1 < 0: -1, otherwise: 1)");
    expect_same_curve(c, values_of(maths, places_along_data(c.fit)), formula);
  }
}

// LaTeX in written maths: fractions, roots and brackets undone.
TEST(Equation, OfLatexIsTheCurve) {
  for (const FittedCase& c : fitted_cases()) {
    const std::string equation = equation_with_numbers(c.fit.estimate(), FormulaLanguage::latex);
    ASSERT_TRUE(equation.starts_with("y = ")) << equation;
    std::string maths = equation.substr(4);
    if (std::string(c.name) == "pieces" || std::string(c.name) == "logic") {
      EXPECT_TRUE(has(maths, "\\begin{array}{ll}")) << equation;
      if (std::string(c.name) == "pieces") continue;
      for (const char* part : {" & x \\le 1 \\vee 5 \\le x\\\\", " & x = 3\\\\",
                               "\\,x & \\neg \\left(x < 2 \\vee 4 < x\\right) \\wedge \\neg \\left(x = 2.5\\right)\\\\",
                               "0.1\\,\\log_{2}\\left(x + 1\\right) + \\max\\left(x, 4\\right) & \\mathrm{otherwise}"})
        EXPECT_TRUE(has(equation, part));
      continue;
    }
    const auto replace = [&maths](const std::string& what, const std::string& by) {
      maths = std::regex_replace(maths, std::regex(what), by);
    };
    replace(R"(\\left\|)", "abs(");
    replace(R"(\\right\|)", ")");
    replace(R"(\\(left|right))", "");
    replace(R"(\\times 10)", "*10");
    replace(R"(\\,| \\cdot )", "*");
    replace(R"(\\mathrm\{erf\})", "erf");
    replace(R"(\\sqrt\[3\])", "cbrt");
    replace(R"(\\sqrt)", "sqrt");
    replace(R"(\\frac\{)", "(");
    replace(R"(\}\{)", ")/(");
    replace(R"(\{)", "(");
    replace(R"(\})", ")");
    replace(R"(\\)", "");
    expect_same_curve(c, values_of(maths, places_along_data(c.fit)), equation + "\n" + maths);
  }
}

// The band's formulas, read back, are the band.
TEST(Equation, BandReadBackIsTheBand) {
  const Level level(0.9);
  for (const BandCase& c : band_cases()) {
    const Estimate& e = c.fit.estimate();
    const std::vector<double> at = places_along_data(c.fit);
    const std::vector<BandPoint> expected = band_at(e, at, level);
    const std::vector<BandFormula> formulas = band_with_numbers(e, level);
    ASSERT_EQ(formulas.size(), c.has_new ? 5u : 3u) << c.name;
    for (const BandFormula& formula : formulas) {
      const std::size_t sign = formula.text.find(" = ");
      ASSERT_EQ(formula.text.substr(0, sign), e.model().response() + "_" + formula.name);
      // Which limit is the lower is asked only where it depends on the place.
      const std::string asks = formula.name.ends_with("low") ? "min(" : "max(";
      EXPECT_EQ(formula.text.substr(sign + 3, 4) == asks, c.name == std::string("sides of zero") && formula.name != "u")
          << formula.text;
      const std::vector<double> values = values_of(formula.text.substr(sign + 3), at);
      for (std::size_t i = 0; i < at.size(); ++i) {
        const auto [value, width] = at_band(expected[i], formula.name);
        EXPECT_NEAR(values[i], value, 0.0101 * width) << c.name << " " << formula.name << " at " << at[i] << "\n"
                                                      << formula.text;
      }
    }
  }
}

// Coefficients of very different sizes, in units however small: a formula loses no part that is not rounding.
TEST(Equation, BandKeepsItsPartsInEveryUnit) {
  for (const double of_x : {1.0, 1e-9, 1e12}) {
    for (const double of_y : {1.0, 1e-15, 1e15}) {
      Vector x(10), y(10);
      for (std::size_t i = 0; i < 10; ++i) {
        const auto place = static_cast<double>(i);
        x[i] = of_x * place;
        y[i] = of_y * (3 + place - 0.05 * place * place + 0.1 * std::sin(7 * place));
      }
      for (const Model& model : {shape_model("polynomial(2)"), shape_model("line"),
                                 Model::written("y = a*sqrt(x) + b*x + c*x*sqrt(x) + d", {"x"})}) {
        SCOPED_TRACE(fmt::format("{} {} {}", model.text(), of_x, of_y));
        const Estimate e = fit(model, Observations::of(x, y)).estimate();
        const std::vector<double> places = {0, 1.5 * of_x, 4 * of_x, 9.5 * of_x};
        const std::string u = band_with_numbers(e, 0.95)[0].text;
        const std::vector<double> values = values_of(u.substr(u.find(" = ") + 3), places);
        const std::vector<BandPoint> band = band_at(e, Vector(places), 0.95);
        for (std::size_t i = 0; i < places.size(); ++i)
          EXPECT_NEAR(values[i] / band[i].standard_uncertainty, 1, 0.0101) << u;
      }
    }
  }
}

// In every other notation the same numbers stand: a compiled band is the band, and cells hold it.
TEST(Equation, BandOfALineInEveryNotation) {
  const Fit line = fit(shape_model("line"), Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8}));
  const auto of = [&](FormulaLanguage language) { return band_with_numbers(line.estimate(), 0.95, language, {}); };
  const auto with = [&](FormulaLanguage language, std::size_t i) { return of(language).at(i).text; };
  // By hand: s = 0.2025, u² = s²/4 + s²(x - 2.5)²/5, t = 4.303.
  EXPECT_EQ(with(FormulaLanguage::text, 0), "y_u = sqrt(0.101^2 + (0.0906*(x - 2.5))^2)");
  EXPECT_EQ(with(FormulaLanguage::latex, 0),
            "u\\left(y\\right) = \\sqrt{0.101^{2} + \\left(0.0906\\,\\left(x - 2.5\\right)\\right)^{2}}");
  EXPECT_EQ(with(FormulaLanguage::spreadsheet, 0), "=SQRT(0.101^2 + (0.0906*(A2 - 2.5))^2)");
  const std::string c = with(FormulaLanguage::c, 1);
  EXPECT_TRUE(
      c.starts_with("// lower limit of the 95 % confidence band of the curve, x from 1 to 4\ndouble y_low(double x) {"))
      << c;
  EXPECT_TRUE(with(FormulaLanguage::cpp, 4).find("inline double y_new_high(double x) {") != std::string::npos);
}

// A mean has one value, and as many digits as that deserves.
TEST(Equation, OfAMeanHasItsDigits) {
  const Fit mean =
      fit(Model::written("y = m"), Observations::of_columns({"y", "", {865.4166, 865.4181, 865.4159, 865.4171}}, {}));
  EXPECT_EQ(equation_with_numbers(mean.estimate()), "y = 865.416925");  // within u/100 = 4.6e-6
  const std::vector<BandFormula> band = band_with_numbers(mean.estimate(), 0.95);
  // s = 0.000925, of four: u = s/2, t = 3.182.
  const auto value = [&](std::size_t i) {
    return values_of(band.at(i).text.substr(band.at(i).text.find(" = ") + 3), {1})[0];
  };
  EXPECT_NEAR(value(0), 0.00046255, 0.5e-5);
  EXPECT_FALSE(has(band[0].text, "sqrt"));
  EXPECT_NEAR(value(1), 865.416925 - 3.18245 * 0.00046255, 2e-5);
  EXPECT_NEAR(value(4), 865.416925 + 3.18245 * 0.00046255 * std::sqrt(5.0), 4e-5);
}

TEST(Equation, BandWithoutAFormulaIsRefused) {
  const Fit few = fit(shape_model("line"), Observations::of({1, 2}, {1, 2}));
  EXPECT_EQ(test::caught([&] { (void)band_with_numbers(few.estimate(), 0.95); }).code(), ErrorCode::not_supported);
  // 1/y comes near zero, and its band passes a pole.
  const Fit pole =
      fit(Model::written("1/y = a + b*x", {"x"}), Observations::of({1, 2, 3, 4, 5, 6}, {1.05, 0.52, 1.4, 0.3, 3, 30}));
  const Error error = test::caught([&] { (void)band_with_numbers(pole.estimate(), 0.999); });
  EXPECT_EQ(error.code(), ErrorCode::not_supported);
  EXPECT_TRUE(has(error.message(), "at x = "));
}

TEST(Equation, NamesAreThoseOfTheLanguage) {
  const auto table = Table::from_columns({{"Drying time", "min", {1, 2, 3, 4}},
                                          {"int", "", {1, 0, 0, 1}},
                                          {"2 theta", "°", {5, 7, 2, 1}},
                                          {"T_oven", "K", {300, 320, 333, 348.5}}});
  const Model model =
      Model::written("T_oven = tau + b*'Drying time' + 3*'int' - c*'2 theta'", {"Drying time", "int", "2 theta"});
  const Fit made = fit(model.with_fixed({{"tau", 290}, {"c", -0.5}}),
                       Observations(table, {.response = "T_oven", .predictors = {"Drying time", "int", "2 theta"}}));
  const std::string c = equation_with_numbers(made.estimate(), FormulaLanguage::c);
  EXPECT_TRUE(has(c, "double T_oven(double Drying_time, double int_, double x_2_theta) {"));
  EXPECT_TRUE(has(c, "T_oven in K, Drying time in min from 1 to 4, int from 0 to 1, 2 theta in ° from 1 to 7"));
  const std::string latex = equation_with_numbers(made.estimate(), FormulaLanguage::latex);
  EXPECT_TRUE(latex.starts_with("T_{\\mathrm{oven}} = 290 + ")) << latex;
  EXPECT_TRUE(has(latex, "\\mathrm{Drying\\ time}"));
  EXPECT_TRUE(has(latex, "+ 0.5\\,\\mathrm{2\\ theta}"));
  EXPECT_TRUE(has(equation_with_numbers(made.estimate(), FormulaLanguage::spreadsheet), "*A2 + 3*B2 + 0.5*C2"));
  // Two numbers side by side would read as one.
  const Fit twice = fit(Model::written("y = 3*b*x"), Observations::of({1, 2, 3}, {6.1, 11.8, 18.2}));
  const std::string product = equation_with_numbers(twice.estimate(), FormulaLanguage::latex);
  EXPECT_TRUE(product.starts_with("y = 3 \\cdot ")) << product;
  const auto refuse = [&](const std::vector<std::string>& cells) {
    return test::caught([&] { (void)equation_with_numbers(made.estimate(), FormulaLanguage::spreadsheet, cells); })
        .code();
  };
  EXPECT_EQ(refuse({"A2"}), ErrorCode::bad_argument);
  EXPECT_EQ(refuse({"A2", "B2", "C2)+1"}), ErrorCode::bad_argument);
  const Model code = Model::function({"k"}, [](double x, auto p) { return p[0] * x; });
  const Fit function = fit(code, Observations::of({1, 2, 3}, {2, 4.1, 5.9}));
  EXPECT_EQ(test::caught([&] { (void)equation_with_numbers(function.estimate()); }).code(), ErrorCode::not_supported);
}

// A cell holds 8,192 letters; a line of text as many as it needs.
TEST(Equation, OfACellIsNotTooLong) {
  std::string known = "sin(x)";
  for (int i = 0; i < 400; ++i) known += fmt::format(" + 0.{}1*sin({}.5*x)", 100 + i, i);
  const Fit made = fit(Model::written("y = a + b*x + 1e-3*(" + known + ")"), test::saturation_rows());
  EXPECT_GT(equation_with_numbers(made.estimate()).size(), 8192u);
  const Error error = test::caught([&] { (void)equation_with_numbers(made.estimate(), FormulaLanguage::spreadsheet); });
  EXPECT_EQ(error.code(), ErrorCode::not_supported);
  EXPECT_TRUE(has(error.message(), "8,192"));
}

// Powers of ten of either sign are set as such.
TEST(Equation, OfLatexSetsPowersOfTen) {
  for (const auto& [size, power] : {std::pair{1e18, "10^{18}"}, {1e20, "10^{20}"}, {1e-15, "10^{-15}"}}) {
    const Fit made =
        fit(shape_model("line-through-origin"), Observations::of({1, 2, 3}, {2 * size, 4 * size, 6 * size}));
    const Fit known = fit(Model::written(fmt::format("y = a*x*{:e}", size)), Observations::of({1, 2, 3}, {2, 4, 6}));
    EXPECT_TRUE(has(equation_with_numbers(known.estimate(), FormulaLanguage::latex), power));
    EXPECT_EQ(equation_with_numbers(made.estimate(), FormulaLanguage::latex),
              fmt::format("y = 2\\times {}\\,x", power));
  }
}

// What would end a comment, or go on with it in the next line, stands in none.
TEST(Equation, CommentsStayInTheirLine) {
  const Observations rows =
      Observations::of_columns({"y", "a\\b", {1, 2.1, 2.9, 4.2}}, {{"x", "c\r\nd", {1, 2, 3, 4}}});
  const std::string text = equation_with_numbers(fit(shape_model("line"), rows).estimate(), FormulaLanguage::cpp);
  EXPECT_EQ(text.find_first_of("\\\r"), std::string::npos) << text;
  EXPECT_TRUE(has(text, "y in a b"));
  EXPECT_TRUE(has(text, "x in c  d"));
}

}  // namespace
}  // namespace truecurve
