// The units of parameters: what the formula and the columns determine, and that a curve in other units is the same
// curve when its parameters change as their units say.

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

// The fit of a curve that barely wavers, with units for its columns.
Fit fit_with_units(const Model& model, const std::vector<double>& truth, const VectorXd& x, const std::string& x_unit,
                   const std::string& y_unit) {
  VectorXd y = test::curve_values(model, truth, x);
  const double size = 1e-4 * y.cwiseAbs().maxCoeff();
  for (Index i = 0; i < y.size(); ++i) y[i] += size * std::sin(2.4 * static_cast<double>(i * i));
  const Table table = Table::from_columns(
      {NamedNumbers{"x", x_unit, {x.begin(), x.end()}}, NamedNumbers{"y", y_unit, {y.begin(), y.end()}}});
  FitOptions options;
  for (std::size_t j = 0; j < truth.size(); ++j) options.starts.push_back({model.parameters()[j], truth[j]});
  if (model.is_linear()) options.starts.clear();
  return fit(model, Observations(table, {.response = "y", .predictors = {"x"}}), options);
}

// A unit made of X and Y as the number it becomes for these; parameters may stand as exponents.
double value_of(const std::string& unit, double x, double y, const std::map<std::string, double>& parameters) {
  if (unit.empty()) return 1;
  std::string formula = unit;
  std::replace(formula.begin(), formula.end(), ' ', '*');
  const Model model = Model::written("z = one_*(" + formula + ")", {"X"});
  std::vector<double> values;
  for (const std::string& name : model.parameters())
    values.push_back(name == "one_" ? 1 : name == "Y" ? y : parameters.at(name));
  return test::curve_values(model, values, test::vector({x}))[0];
}

// f(X x; theta scaled by its units) = Y f(x; theta): the definition of a unit, without any rule of the library's.
void expect_same_curve(const Model& written, const std::vector<double>& truth, double low, double high) {
  const Model model = written.with_predictors({"x"});
  SCOPED_TRACE(model.text());
  const VectorXd x = VectorXd::LinSpaced(30, low, high);
  const Fit result = fit_with_units(model, truth, x, "X", "Y");
  EXPECT_TRUE(unit_remarks(result.estimate()).empty());
  std::map<std::string, double> named;
  for (std::size_t j = 0; j < truth.size(); ++j) named[model.parameters()[j]] = truth[j];
  const double scale_x = 3;
  const double scale_y = 0.7;
  std::vector<double> other = truth;
  for (std::size_t j = 0; j < truth.size(); ++j)
    other[j] *= value_of(result.parameter(model.parameters()[j]).unit, scale_x, scale_y, named);
  const VectorXd curve = test::curve_values(model, truth, x);
  const VectorXd scaled = test::curve_values(model, other, scale_x * x);
  EXPECT_LT((scaled - scale_y * curve).cwiseAbs().maxCoeff(), 1e-9 * scaled.cwiseAbs().maxCoeff());
}

struct Curve {
  const char* model;
  std::vector<double> truth;
  double low = 0.5, high = 8;
};

TEST(Units, MakeTheSameCurveInOtherUnits) {
  const std::vector<Curve> curves = {
      {"y = a + b*x + c*x^3", {2, 0.5, 0.1}},
      {"y = a*sqrt(x) + b*cbrt(x)", {1, 2}},
      {"y = a*x^b", {2, 1.3}},
      {"y = a/x^b", {9, 0.7}},
      {"y = a*x^n/(K^n + x^n)", {8, 2, 3}},
      {"y = a/(1 + (x/K)^(-n))", {8, 3, 2}},
      {"y = a*x/(K + x)", {9, 2}},
      {"y = a*x/(1 + b*x)", {9, 0.4}},
      {"y = a*exp(-((x - m)/s)^2/2) + c", {5, 4, 1.2, 1}},
      {"y = a*exp(-(x - m)^2/(2*s^2))", {5, 4, 1.2}},
      {"y = a*exp(-(ln(x/x0)/w)^2)", {5, 2.5, 0.7}},
      {"y = a + b*tanh((x - m)/w)", {4, 3, 4, 2}},
      {"y = a*2^(-x/h)", {6, 3}},
      {"y = a*10^(-k*x)", {6, 0.1}},
      {"y = sqrt(a^2 + (b*x)^2)", {2, 1.1}},
      {"y = a*sin(2*pi*f*x + phi)*exp(-x/tau)", {4, 0.5, 0.4, 6}},
      {"y = cases(x < K: a + b*x, otherwise: a + b*K)", {1, 0.8, 4.05}},
      {"y = max(a + b*x, c)", {-3, 1.5, 2}},
      {"y = a*erf(x/(2*sqrt(D)))", {3, 4}},
      {"y = pi*r^2*x + v", {0.8, 2}},
      {"y = exp(ln(A) + B/x)", {2, 1.5}},
      {"y = exp(ln(A) + 2*ln(x))", {2}},
      {"y = exp(ln(A) - ln(x)/2)", {2}},
      {"y = 10^(log10(A) + B/x)", {2, 0.6}},
      {"y = 2^(log2(A) + B/x)", {2, 0.9}},
  };
  for (const Curve& curve : curves) expect_same_curve(Model::written(curve.model), curve.truth, curve.low, curve.high);
}

// A number that geometry or a logarithm's base brings in has no unit; one that converts units may have one.
TEST(Units, OfNumbersInProductsAreNoneWhereTheyAreSimple) {
  for (const auto& [simple, numbers] : std::map<bool, std::vector<const char*>>{
           {true,
            {"1/2", "3/4", "7/8", "1/8", "9", "7", "pi", "pi/4", "sqrt(2)", "sqrt(pi)/2", "ln(2)", "1/ln(10)",
             "ln(10)/pi", "sqrt(2*pi)", "2*sqrt(2*ln(2))", "1/ln(2)", "1/sqrt(pi)"}},
           {false,
            {"1/7", "5/9", "1/9", "1/5", "1.8", "10", "11", "1/11", "0.1", "1/pi^2", "4*pi^2", "sqrt(11)", "2.54"}}}) {
    for (const char* number : numbers) {
      const Fit made = fit_with_units(Model::written(std::string("y = a + b*x*") + number, {"x"}), {1, 2},
                                      VectorXd::LinSpaced(9, 1, 5), "s", "V");
      EXPECT_EQ(made.parameter("b").unit, simple ? "V/s" : "") << number;
    }
  }
}

// What each unit is written as, with columns as they come.
struct Written {
  const char* model;
  std::vector<double> truth;
  const char *x_unit, *y_unit;
  std::vector<std::string> units;
  const char* remark = "";
};

TEST(Units, AreWrittenWithTheColumnsOwn) {
  const std::string not_that = "The units of the columns do not determine that of ";
  const std::string e_is_free = not_that + "E.";
  const std::string a_is_free = not_that + "a.";
  const std::string b_is_free = not_that + "b.";
  const std::vector<Written> cases = {
      {"y = a + b*x", {1, 2}, "mg/g", "kcps", {"kcps", "kcps/(mg/g)"}},
      {"y = a + b*x + c*x^2", {1, 2, 3}, "%", "g/cm3", {"g/cm3", "(g/cm3)/%", "(g/cm3)/%^2"}},
      {"y = a + b*x + c*x^2", {1, 2, 3}, "°C", "°C", {"°C", "", "1/°C"}},
      {"y = a + b*x", {1, 2}, "mm/s", "mm", {"mm", "s"}},
      {"y = a + b*x", {1, 2}, "1/T", "kcps", {"kcps", "kcps T"}},
      {"y = a + b*x", {1, 2}, "", "V", {"V", "V"}},
      {"y = a + b*x", {1, 2}, "min", "", {"", "1/min"}},
      {"y = a + b*x", {1, 2}, "", "", {"", ""}},
      {"y = a + b*x", {1, 2}, "µm", "um", {"um", ""}},
      {"y = a*sqrt(x) + b/x", {1, 2}, "a", "um", {"um/a^(1/2)", "um a"}},
      {"y = a*x^b", {1, 1.5}, "a", "um", {"um/a^b", ""}},
      {"y = a*x^(2*b)", {1, 0.7}, "a", "um", {"", ""}, "The units of the columns do not determine that of a."},
      {"1/y = a + b*x", {1, 2}, "K", "mPa s", {"1/(mPa s)", "1/(mPa s K)"}},
      {"ln(y) = ln(A) + B/x", {1, 2}, "K", "mPa s", {"mPa s", "K"}},
      {"ln(y) = c - k*x", {3, 0.2}, "min", "V", {"", "1/min"}},
      {"log10(y) = log10(A) - k*x", {3, 0.2}, "min", "V", {"V", "1/min"}},
      {"y = a + b*ln(x)", {3, 0.2}, "min", "V", {"V", "V"}},
      {"y = A*exp(E/(8.314*x))", {3, 20}, "K", "mPa s", {"mPa s", ""}, e_is_free.c_str()},
      {"y = 1000*b*x + a", {3, 20}, "mm", "V", {"", "V"}, b_is_free.c_str()},
      {"y = a + b*(x + 273.15)", {3, 20}, "°C", "V", {"V", "V/°C"}},
      {"y = a*(1.8*x + 32) + b", {3, 1}, "°C", "V", {"", "V"}, a_is_free.c_str()},
      {"y = 5/9*b*x + a", {3, 1}, "°C", "V", {"", "V"}, b_is_free.c_str()},
      {"y = 3/4*b*x + sqrt(2)*c*x^2 + pi/6*d*x^3 + a", {3, 1, 2, 1}, "m", "V", {"V/m", "V/m^2", "V/m^3", "V"}},
      {"y = 2*x + a", {3}, "mm", "V", {"V"}},
      {"y = 1 + b*x", {3}, "mm", "V", {"V/mm"}},
      {"y = a*exp(-x) + b",
       {3, 1},
       "min",
       "V",
       {"", ""},
       "The parameters have no units, as those of the columns do not fit the formula: the argument of exp has a unit."},
      {"y = a*exp(a - b*x)",  // a term of a logarithm can be nothing else
       {0.5, 0.3},
       "min",
       "V",
       {"", ""},
       "The parameters have no units, as those of the columns do not fit the formula: its sides have different units."},
      {"y = a*sin(x)", {3}, "rad", "V", {"V"}},
      {"y = a + b*log2(x)", {3, 0.2}, "min", "V", {"V", "V"}},
      {"log2(y) = log2(A) - k*x", {3, 0.2}, "min", "V", {"V", "1/min"}},
      {"y = a*2^(-x/k)", {3, 2}, "min", "V", {"V", "min"}},
      {"y = a*10^(-x/k)", {3, 2}, "min", "V", {"V", "min"}},
      {"y = a*b^x", {3, 0.8}, "min", "V", {"V", ""}},
      {"y = a + b*abs(x - m)", {1, 2, 4.1}, "mm", "V", {"V", "V/mm", "mm"}},
      {"y = a*min(x, c) + b", {2, 4.1, 1}, "mm", "V", {"V/mm", "mm", "V"}},
      {"y = a*max(x, c) + b", {2, 4.1, 1}, "mm", "V", {"V/mm", "mm", "V"}},
      {"y = cases(x < c: a, otherwise: a + b*(x - c))", {2, 4.1, 1}, "mm", "V", {"mm", "V", "V/mm"}},
      {"y = a*cbrt(x)", {3}, "min", "V", {"V/min^(1/3)"}},
      {"y = cases(x < 4: a*x, otherwise: b)", {2, 1}, "mm", "V", {"V/mm", "V"}},
      {"y = a + b*x", {3, 1}, "N/(m s", "arb. units", {"arb. units", "arb. units/((N/(m s))"}},
  };
  for (const Written& c : cases) {
    SCOPED_TRACE(c.model);
    SCOPED_TRACE(c.x_unit);
    const Model model = Model::written(c.model, {"x"});
    const Fit result = fit_with_units(model, c.truth, VectorXd::LinSpaced(20, 0.5, 8), c.x_unit, c.y_unit);
    ASSERT_EQ(model.parameters().size(), c.units.size());
    for (std::size_t j = 0; j < c.units.size(); ++j)
      EXPECT_EQ(result.estimate().unit(j), c.units[j]) << model.parameters()[j];
    EXPECT_EQ(test::caught([&] { (void)result.estimate().unit(c.units.size()); }).code(), ErrorCode::bad_argument);
    const std::vector<std::string> remarks = unit_remarks(result.estimate());
    EXPECT_EQ(remarks.empty() ? "" : remarks[0], c.remark);
  }
}

// Where an argument has a unit the function is named; where it has none, or an angle's, nothing is said.
TEST(Units, NameTheFunctionWhoseArgumentHasOne) {
  for (const char* function :
       {"exp", "sin", "cos", "tan", "asin", "acos", "atan", "sinh", "cosh", "tanh", "erf", "erfc"}) {
    const Model model = Model::written(fmt::format("y = a*{}(x) + b", function), {"x"});
    const VectorXd x = VectorXd::LinSpaced(20, 0.1, 0.9);
    EXPECT_TRUE(unit_remarks(fit_with_units(model, {3, 1}, x, "", "V").estimate()).empty()) << function;
    const std::vector<std::string> remarks = unit_remarks(fit_with_units(model, {3, 1}, x, "min", "V").estimate());
    ASSERT_EQ(remarks.size(), 1u) << function;
    EXPECT_EQ(remarks[0],
              fmt::format("The parameters have no units, as those of the columns do not fit the formula: the argument "
                          "of {} has a unit.",
                          function));
  }
}

TEST(Units, OfDerivedQuantitiesFollow) {
  const Model model = Model::written("y = T_s + (T_0 - T_s)*exp(-x/tau)", {"x"});
  const Fit cooling = fit_with_units(model, {22, 980, 41}, VectorXd::LinSpaced(30, 0, 180), "min", "°C");
  const std::map<std::string, std::vector<const char*>> expected = {
      {"1/min", {"1/tau"}},
      {"min",
       {"tau*ln(2)", "tau*sqrt(8*ln(2))", "tau*(pi)", "tau*(1/pi)", "tau*(ln(2))", "tau*(1/ln(2))", "tau*(ln(10))",
        "tau*(1/ln(10))"}},
      {"°C/min", {"(T_0 - T_s)/tau"}},
      {"",
       {"T_0/T_s", "8.314*tau", "tau*pi^(3/2)", "tau*pi^(-3/2)", "tau*ln(2)^(3/2)", "tau*ln(2)^(-3/2)",
        "tau*ln(10)^(1/2)", "tau*ln(10)^(-1/2)", "tau*ln(10)^(2)", "tau*ln(10)^(-2)", "exp(tau/tau)", "exp(-tau)",
        "T_0 + 1*tau", "T_0 + (-1)*tau", "T_0 + tau"}},
      {"min^(1/2)", {"sqrt(tau)"}},
      {"°C", {"T_0 + 273.15", "T_0 + 2*tau", "T_0 + (-2)*tau"}},
      {"°C min", {"tau*(T_0 - T_s)"}}};
  for (const auto& [unit, expressions] : expected) {
    for (const char* expression : expressions)
      EXPECT_EQ(derive(cooling.estimate(), expression, 0.95).unit, unit) << expression;
  }
  // Of the straightened form: the logarithm's own unit is that of the response.
  const Model straight = Model::written("ln(y) = c - k*x", {"x"});
  const Fit decay = fit_with_units(straight, {3, 0.2}, VectorXd::LinSpaced(30, 0, 8), "min", "V");
  EXPECT_EQ(derive(decay.estimate(), "A = exp(c)", 0.95).unit, "V");
  EXPECT_EQ(derive(decay.estimate(), "A = exp(c/2)", 0.95).unit, "V^(1/2)");
}

TEST(Units, OfSeveralPredictors) {
  VectorXd t(12);
  VectorXd d(12);
  std::vector<double> f;
  for (Index i = 0; i < 12; ++i) {
    t[i] = 20 + static_cast<double>(i % 4);
    d[i] = 300 + 20 * static_cast<double>(i % 5);
    f.push_back(5e6 * t[i] / d[i] / d[i] * (1 + 1e-4 * std::sin(static_cast<double>(i * i))));
  }
  const auto units_of = [&](const char* text, const char* diameter_unit) {
    const Table table =
        Table::from_columns({NamedNumbers{"t", "mm", {t.begin(), t.end()}},
                             NamedNumbers{"D", diameter_unit, {d.begin(), d.end()}}, NamedNumbers{"f", "Hz", f}});
    const Fit result = fit(Model::written(text), Observations(table, {.response = "f", .predictors = {"t", "D"}}));
    std::vector<std::string> units;
    for (std::size_t j = 0; j < result.estimate().parameters().size(); ++j) units.push_back(result.estimate().unit(j));
    for (const std::string& remark : unit_remarks(result.estimate())) units.push_back(remark);
    return units;
  };
  const Table three = Table::from_columns({{"t", "mm", {1, 2, 3}}, {"f", "Hz", {4, 5, 7}}});
  const Fit level = fit(Model::written("f = a", {"t"}), Observations(three, {.response = "f", .predictors = {"t"}}));
  EXPECT_EQ(level.estimate().unit(0), "Hz");
  EXPECT_EQ(units_of("f = a*t/D^2 + b", "mm"), (std::vector<std::string>{"Hz mm", "Hz"}));
  EXPECT_EQ(units_of("f = a*t/D^2 + b", "in"), (std::vector<std::string>{"Hz in^2/mm", "Hz"}));
  EXPECT_EQ(units_of("f = c*t^m/D^n", "in"), (std::vector<std::string>{"Hz in^n/mm^m", "", ""}));
  EXPECT_EQ(units_of("f = a + b*t + c*D + d*t*D", "in"),
            (std::vector<std::string>{"Hz", "Hz/mm", "Hz/in", "Hz/(mm in)"}));
  EXPECT_EQ(units_of("f = a + b*(t + D)", "mm"), (std::vector<std::string>{"Hz", "Hz/mm"}));
  // A column without a unit has the one that the formula needs.
  EXPECT_EQ(units_of("f = a + b*(t + D)", ""), (std::vector<std::string>{"Hz", "Hz/mm"}));
  EXPECT_EQ(
      units_of("f = a + b*(t + D)", "in").back(),
      "The parameters have no units, as those of the columns do not fit the formula: terms of different units are "
      "added.");
}

}  // namespace
}  // namespace truecurve
