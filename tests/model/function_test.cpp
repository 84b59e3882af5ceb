// Models given as C++ code: derivatives, several predictors, captured state, exceptions, and the same results as the
// written model.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;
using test::caught;

Observations decay() {
  RandomNumbers random(8);
  const VectorXd x = VectorXd::LinSpaced(30, 0, 9);
  VectorXd y(30);
  for (Index i = 0; i < 30; ++i) y[i] = 2 + 7 * std::exp(-x[i] / 2.5) + 0.05 * random.normal();
  return Observations::of(x, y);
}

const FitOptions starts{.starts = {{"c", 1}, {"a", 5}, {"tau", 4}}};

// Every function of Dual against differences of fourth order, at places where all are defined.
TEST(Dual, FollowsTheRulesOfDifferentiation) {
  const auto all = [](const auto& x, const auto& y) {
    using std::abs, std::acos, std::asin, std::atan, std::atan2, std::cbrt, std::cos, std::cosh, std::erf, std::erfc,
        std::exp, std::expm1, std::hypot, std::log, std::log10, std::log1p, std::log2, std::pow, std::sin, std::sinh,
        std::sqrt, std::tan, std::tanh;
    std::vector<std::decay_t<decltype(x + y)>> values = {
        x + y,   x - y,       x * y,       x / y,      -x,        exp(x),     log(x),   log10(y),
        log2(y), log1p(x),    expm1(x),    sqrt(x),    cbrt(y),   sin(x),     cos(y),   tan(x),
        asin(x), acos(x),     atan(y),     sinh(x),    cosh(x),   tanh(x),    erf(x),   erfc(x),
        abs(-x), hypot(x, y), atan2(x, y), pow(x, 3.), pow(x, y), pow(2., x), pow(y, 2)};
    return values;
  };
  const double x = 0.6;
  const double y = 1.7;
  const auto dual = all(Dual::variable(x, 0), Dual::variable(y, 2));
  constexpr double h = 1e-3;
  const auto difference = [&](auto at) { return (8 * (at(h) - at(-h)) - (at(2 * h) - at(-2 * h))) / (12 * h); };
  for (std::size_t k = 0; k < dual.size(); ++k) {
    SCOPED_TRACE(k);
    EXPECT_NEAR(dual[k].value, all(x, y)[k], 1e-15);
    EXPECT_NEAR(dual[k].slope[0], difference([&](double d) { return all(x + d, y)[k]; }), 1e-9);
    EXPECT_NEAR(dual[k].slope[2], difference([&](double d) { return all(x, y + d)[k]; }), 1e-9);
    EXPECT_EQ(dual[k].slope[1], 0);
  }
}

TEST(FunctionModel, AgreesWithTheWrittenModel) {
  const Observations data = decay();
  const Fit written = fit(Model::written("y = c + a*exp(-x/tau)"), data);
  const Model by_rule =
      Model::function({"c", "a", "tau"}, [](double x, auto p) { return p[0] + p[1] * exp(-x / p[2]); });
  const Model by_differences = Model::function(
      {"c", "a", "tau"}, [](double x, std::span<const double> p) { return p[0] + p[1] * std::exp(-x / p[2]); });
  EXPECT_TRUE(by_rule.has_exact_derivatives());
  EXPECT_FALSE(by_differences.has_exact_derivatives());
  for (const auto& [model, digits] : {std::pair{&by_rule, 1e-11}, {&by_differences, 1e-9}}) {
    const Fit result = fit(*model, data, starts);
    ASSERT_TRUE(result.solver().converged);
    EXPECT_TRUE(as_eigen(result.estimate().parameters()).isApprox(as_eigen(written.estimate().parameters()), digits));
    EXPECT_TRUE(
        as_eigen(result.estimate().covariance()).isApprox(as_eigen(written.estimate().covariance()), 100 * digits));
    // Inference goes on through the same functions.
    EXPECT_NEAR(as_eigen(result.leverage()).sum(), 3, 1e-8);
    // A held parameter of C++ code is held.
    const Fit held = fit(*model, data, {.starts = {{"c", 1}, {"a", 5}}, .fixed = {{"tau", 2.5}}});
    const Fit held_written = fit(Model::written("y = c + a*exp(-x/2.5)"), data);
    EXPECT_NEAR(held.chi_squared() / held_written.chi_squared(), 1, 1e-10);
    EXPECT_EQ(held.model().parameters(), (std::vector<std::string>{"c", "a"}));
  }
  const auto record = fit_record(fit(by_rule, data, starts), 0.95);
  EXPECT_EQ(caught([&] { (void)read_fit_record(record, "record"); }).code(), ErrorCode::bad_record);
}

// Six parameters (two passes of four derivatives), two predictors, captured state.
TEST(FunctionModel, TakesSeveralPredictorsAndCapturesState) {
  RandomNumbers random(9);
  std::vector<NamedNumbers> columns = {{"u", "", {}}, {"v", "", {}}, {"y", "", {}}};
  for (int i = 0; i < 40; ++i) {
    columns[0].numbers.push_back(random.uniform());
    columns[1].numbers.push_back(random.uniform());
    columns[2].numbers.push_back(random.normal());
  }
  const Observations data(Table::from_columns(columns), {.response = "y", .predictors = {"u", "v"}});
  const std::vector<double> powers = {0, 1, 2};
  const Model surface = Model::function({"a", "b", "c", "d", "e", "f"},
                                        [powers](std::span<const double> x, auto p) {
                                          auto sum = p[0] * std::pow(x[0], powers[0]);
                                          for (std::size_t k = 1; k < 3; ++k)
                                            sum +=
                                                p[k] * std::pow(x[0], powers[k]) + p[k + 2] * std::pow(x[1], powers[k]);
                                          return sum + p[5] * x[0] * x[1];
                                        },
                                        {.predictors = {"u", "v"}});
  FitOptions zeros;
  for (const std::string& name : surface.parameters()) zeros.starts.push_back({name, 0.5});
  const Fit result = fit(surface, data, zeros);
  const Fit linear = fit(Model::written("y = a + b*u + c*u^2 + d*v + e*v^2 + f*u*v"), data);
  EXPECT_TRUE(as_eigen(result.estimate().parameters()).isApprox(as_eigen(linear.estimate().parameters()), 1e-9));
}

// Code that throws beside the estimates ends the profile there, and nothing else.
TEST(FunctionModel, ThatThrowsEndsItsProfile) {
  const double edge = 2.4;  // the estimate lies a little above
  const Model guarded = Model::function({"c", "a", "tau"}, [edge](double x, std::span<const double> p) {
    if (p[2] < edge) throw std::domain_error("too fast");
    return p[0] + p[1] * std::exp(-x / p[2]);
  });
  const Fit result = fit(guarded, decay(), {.starts = {{"c", 2}, {"a", 7}, {"tau", 2.5}}});
  const Trust trust = trust_of(result, 0.999999);
  ASSERT_EQ(trust.profiles.size(), 3u);
  // Its derivatives are differences, which reach 2*7.4e-4 of the parameter further.
  EXPECT_NEAR(trust.profiles[2].interval.low, edge * (1 + 1.5e-3), 1e-4);
  EXPECT_GT(trust.profiles[2].interval.high, result.parameter("tau").value);
}

TEST(FunctionModel, FailsWell) {
  const Observations data = decay().without(std::vector<std::size_t>{1}, "test");
  const Model thrower = Model::function({"a"}, [](double x, std::span<const double> p) {
    if (x > 4) throw std::domain_error("beyond the table of values");
    return p[0] * x;
  });
  const Error thrown = caught([&] { (void)fit(thrower, data, {.starts = {{"a", 1}}}); });
  EXPECT_EQ(thrown.code(), ErrorCode::unsuitable_row);
  EXPECT_EQ(thrown.subject(), "row 14");  // x = 9*13/29 = 4.03
  EXPECT_TRUE(has(thrown.message(), "beyond the table"));
  // Where a search looks at some of the rows, the one that is named is the one that was evaluated.
  const VectorXd many = VectorXd::LinSpaced(1000, 1, 1000);
  const Model curved = Model::function({"a", "tau"}, [](double x, std::span<const double> p) {
    if (x > 700) throw std::domain_error("beyond the table of values");
    return p[0] * std::exp(-x / p[1]);
  });
  const Error within = caught([&] { (void)fit(curved, Observations::of(many, (-many / 300).array().exp().matrix())); });
  EXPECT_EQ(within.code(), ErrorCode::unsuitable_row);
  EXPECT_GT(std::stoi(within.subject().substr(4)), 700) << within.subject();
  EXPECT_LT(std::stoi(within.subject().substr(4)), 710) << within.subject();
  const auto line = [](double x, auto p) { return p[0] * x; };
  EXPECT_EQ(caught([&] { (void)Model::function({}, line); }).code(), ErrorCode::bad_argument);
  EXPECT_EQ(caught([&] { (void)Model::function({"a", "a"}, line); }).code(), ErrorCode::bad_argument);
  EXPECT_EQ(caught([&] { (void)Model::function({"a b"}, line); }).code(), ErrorCode::bad_argument);
  EXPECT_EQ(caught([&] {
              (void)Model::function({"a"}, line, {.predictors = {"u", "v"}});
            }).code(),
            ErrorCode::bad_argument);
  const Model not_finite = Model::function({"a"}, [](double x, auto p) { return sqrt(p[0]) * x; });
  const Error start = caught([&] { (void)fit(not_finite, data, {.starts = {{"a", -1}}}); });
  EXPECT_EQ(start.code(), ErrorCode::not_finite);
  EXPECT_EQ(start.subject(), "row 2");
}

}  // namespace
}  // namespace truecurve
