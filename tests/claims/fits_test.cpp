// What a fit prints, held against the truth that the data were simulated from.

#include "../support.hpp"
#include "claims.hpp"

namespace truecurve {
namespace {

using Eigen::Index;
using test::Claim;
using test::Claims;
using test::holds;

constexpr double level = 0.95;
constexpr double significant = 0.05;

struct Design {
  std::string name;
  Model model;
  std::vector<double> truth;
  std::function<double(double x)> curve;  // median of the response
  double low, high;                       // of the predictor
  std::function<double(double curve, RandomNumbers& random)> reading;
  std::function<VectorXd(const VectorXd& curve, const VectorXd& y)> uncertainties{};
  FitOptions options{};
  std::optional<Model> larger{};                          // of which the model is a special case
  std::vector<std::pair<std::string, double>> derived{};  // expression and its true value
  std::string hypothesis{};                               // one that is true
  double within = 0;                                      // points by which intervals may be off
  double relative = 0;                                    // of a percentage of the response
  int smallest = 4;
};

Observations simulated(const Design& d, Index n, RandomNumbers& random) {
  const VectorXd x = VectorXd::LinSpaced(n, d.low, d.high);
  const VectorXd curve = x.unaryExpr([&](double at) { return d.curve(at); });
  const VectorXd y = curve.unaryExpr([&](double value) { return d.reading(value, random); });
  if (d.relative > 0) {
    const auto column = [](const VectorXd& v) { return std::vector<double>(v.begin(), v.end()); };
    return Observations(
        Table::from_columns({{"x", "", column(x)}, {"y", "", column(y)}}),
        {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::percent(d.relative)});
  }
  return Observations::of(x, y, d.uncertainties ? d.uncertainties(curve, y) : VectorXd());
}

void judge(const Design& d, int n, bool in_full, RandomNumbers& random, Claims& claims) {
  const Observations rows = simulated(d, n, random);
  const Fit made = fit(d.model, rows, d.options);
  if (!made.solver().converged) return;
  const auto count = [&](const std::string& what, double rate, bool held, double within = 0) {
    claims.count(d.name, n, {what, rate, within}, held);
  };
  const Estimate& estimate = made.estimate();
  const bool curved = !d.model.is_linear();
  const Trust trust = trust_of(made, level);
  const auto parameters = parameter_intervals(estimate, level);
  for (std::size_t j = 0; j < parameters.size(); ++j) {
    const ParameterInterval& p = parameters[j];
    count("interval of " + p.name, level, holds({p.low, p.high}, d.truth[j]), d.within);
    if (j >= trust.profiles.size()) continue;
    count("profile interval of " + p.name, level, holds(trust.profiles[j].interval, d.truth[j]), d.within);
  }
  if (curved && in_full && parameters.size() > 1) {
    const auto& names = estimate.parameter_names();
    const ConfidenceRegion region = confidence_region(made, names[0], names[1], level);
    double at_truth = 0;
    if (names.size() > 2) {
      FitOptions held = d.options;
      held.fixed = {{names[0], d.truth[0]}, {names[1], d.truth[1]}};
      at_truth = fit(d.model, rows, held).chi_squared();
    } else {
      VectorXd z =
          as_eigen(rows.responses()) - as_eigen(rows.predictor(0)).unaryExpr([&](double x) { return d.curve(x); });
      if (rows.has_uncertainties()) z = z.cwiseQuotient(as_eigen(rows.uncertainties()));
      at_truth = z.squaredNorm();
    }
    count(fmt::format("joint region of {} and {}", names[0], names[1]), level, at_truth <= region.limit, d.within);
  }
  const VectorXd places = Eigen::Vector3d(d.low, d.low + 0.4 * (d.high - d.low), d.high);
  const VectorXd truth = places.unaryExpr([&](double at) { return d.curve(at); });
  const VectorXd own = d.uncertainties ? VectorXd(d.uncertainties(truth, truth) * estimate.scale()) : VectorXd();
  const auto points = band_at(estimate, places, level, own);
  const char* const at[] = {"low end", "middle", "high end"};
  bool all = true;
  for (std::size_t i = 0; i < points.size(); ++i) {
    const double y = truth[static_cast<Index>(i)];
    count(std::string("confidence band, ") + at[i], level, holds(points[i].confidence, y), d.within);
    count(std::string("prediction band, ") + at[i], level, holds(points[i].prediction, d.reading(y, random)), d.within);
    all = all && holds(points[i].simultaneous, y);
  }
  if (d.model.polynomial_degree() > 0 || d.model.is_straight_line()) {
    bool everywhere = all;
    const VectorXd many = VectorXd::LinSpaced(60, d.low - 1e4 * (d.high - d.low), d.high + 1e4 * (d.high - d.low));
    if (in_full && !d.model.is_transformed()) {
      for (const VectorXd& more :
           {VectorXd(VectorXd::LinSpaced(60, d.low - 2 * (d.high - d.low), d.high + 2 * (d.high - d.low))), many}) {
        const auto wide = band_at(estimate, more, level, d.uncertainties ? VectorXd::Ones(60) : VectorXd());
        for (Index i = 0; i < 60; ++i)
          everywhere = everywhere && holds(wide[static_cast<std::size_t>(i)].simultaneous, d.curve(more[i]));
      }
      count("simultaneous band, anywhere", level, everywhere, d.within);
    }
  }
  for (const auto& [expression, value] : d.derived) {
    const DerivedQuantity q = derive(estimate, "q = " + expression, level);
    count("interval of " + expression, level, holds(q.curved ? q.monte_carlo : q.interval, value), d.within);
  }
  if (!d.hypothesis.empty())
    count("p of the hypothesis " + d.hypothesis, significant, test_hypothesis(estimate, d.hypothesis).p < significant,
          d.within);
  bool solved = false;
  for (const Root& root : solve(estimate, truth[1], {.level = level}))
    solved = solved || holds(root.interval, places[1]);
  count("interval of x at a response", level, solved, d.within);
  if (d.larger) {
    const Fit wider = fit(*d.larger, rows, d.options);
    if (wider.solver().converged && wider.degrees_of_freedom() > 0) {
      count("p of the nested test", significant, nested_test(made, wider).p < significant, curved ? 1.5 : d.within / 2);
    }
  }
  bool speaks = false;
  const std::vector<Check> checks = residual_checks(made);
  for (const Check& check : checks) {
    // The number of runs is discrete.
    claims.count(d.name, n,
                 {fmt::format("p of the check of {}", name(check.kind)), significant, 1, check.kind == CheckKind::runs},
                 check.p < significant);
    speaks = speaks || check.is_significant();
  }
  if (!checks.empty()) count("any check among the cautions", significant, speaks, 1);
  if (estimate.basis() == UncertaintyBasis::stated && made.degrees_of_freedom() > 0)
    count("p of chi-squared", significant, quality_of(made).chi_squared_p < significant, d.within / 2);
}

std::function<double(double, RandomNumbers&)> normal(double sd) {
  return [sd](double curve, RandomNumbers& random) { return curve + sd * random.normal(); };
}
std::function<double(double, RandomNumbers&)> proportional(double share) {
  return [share](double curve, RandomNumbers& random) { return curve * (1 + share * random.normal()); };
}
double line(double x) { return 2 + 0.5 * x; }
double through_origin(double x) { return 0.5 * x; }
double square(double x) { return 0.05 * x * x; }
double many(double x) { return 40 + 10 * x; }
double falling(double x) { return std::exp(1 - 0.2 * x); }
double bent(double x) { return 1 + x * (2 - 0.15 * x); }
double decaying(double x) { return 10 * std::exp(-x / 3); }
double saturating(double x) { return 8 * x / (2 + x); }
double growing(double x) { return 10 / (1 + std::exp(5 - x)); }

std::vector<Design> designs() {
  const Model straight = shape_model("line").with_predictors({"x"});
  const Model origin = shape_model("line-through-origin").with_predictors({"x"});
  const Model term = Model::written("y = b*x^2", {"x"});
  const Model quadratic = shape_model("polynomial(2)").with_predictors({"x"});
  const Model cubic = shape_model("polynomial(3)").with_predictors({"x"});
  const Model decay = Model::written("y = a*exp(-x/b)", {"x"});
  const Model decay_to_constant = Model::written("y = a*exp(-x/b) + c", {"x"});
  const Model log_line = Model::written("ln(y) = a + b*x", {"x"});
  const Model log_quadratic = Model::written("ln(y) = a + b*x + c*x^2", {"x"});
  const Model saturation = shape_model("saturation").with_predictors({"x"});
  const Model logistic = shape_model("logistic").with_predictors({"x"});
  const auto fixed_u = [](double u) {
    return [u](const VectorXd& curve, const VectorXd&) { return VectorXd(VectorXd::Constant(curve.size(), u)); };
  };
  const auto relative_u = [](const VectorXd& curve, const VectorXd&) { return VectorXd(0.03 * curve); };
  const auto counted = [](double curve, RandomNumbers& random) { return curve + std::sqrt(curve) * random.normal(); };
  const auto log_normal = [](double curve, RandomNumbers& random) { return curve * std::exp(0.15 * random.normal()); };
  const FitOptions by_scatter{.uncertainty = UncertaintyBasis::scatter};
  const FitOptions as_share{.spread = Spread::proportional()};
  const FitOptions as_counts{.spread = Spread::counts()};
  std::vector<Design> all;
  const auto add = [&all](Design design, double within, std::optional<Model> larger = {}) -> Design& {
    design.within = within;
    design.larger = std::move(larger);
    return all.emplace_back(std::move(design));
  };
  Design& first = add({"line, by scatter", straight, {2, 0.5}, line, 0, 10, normal(0.4)}, 0, quadratic);
  first.derived = {{"a + 12*b", 8}};
  first.hypothesis = "a + 4*b = 4";
  add({"line through the origin, by scatter", origin, {0.5}, through_origin, 1, 10, normal(0.4)}, 0);
  add({"a quadratic term alone, stated", term, {0.05}, square, 1, 10, normal(0.4), fixed_u(0.4)}, 0);
  Design& stated = add({"line, stated", straight, {2, 0.5}, line, 0, 10, normal(0.4), fixed_u(0.4)}, 0, quadratic);
  stated.derived = {{"a/b", 4}};
  stated.hypothesis = "b = 0.5";
  add({"line, relative weights", straight, {2, 0.5}, line, 0, 10, proportional(0.1), relative_u, by_scatter}, 0,
      quadratic);
  add({"line, 10 % stated", straight, {2, 0.5}, line, 0, 10, proportional(0.1)}, 1.5, quadratic).relative = 10;
  add({"line, spread proportional", straight, {2, 0.5}, line, 0, 10, proportional(0.1), {}, as_share}, 1.5, quadratic);
  add({"line, spread counts", straight, {40, 10}, many, 0, 10, counted, {}, as_counts}, 1.5, quadratic);
  add({"ln(y) = a + b*x, by scatter", log_line, {1, -0.2}, falling, 0, 10, log_normal}, 0, log_quadratic);
  add({"ln(y) = a + b*x, 10 % stated", log_line, {1, -0.2}, falling, 0, 10, proportional(0.1)}, 1.5, log_quadratic)
      .relative = 10;
  add({"quadratic, by scatter", quadratic, {1, 2, -0.15}, bent, 0, 10, normal(0.3)}, 1, cubic).derived = {
      {"-b1/(2*b2)", 2 / 0.3}};
  add({"decay a*exp(-x/b), by scatter", decay, {10, 3}, decaying, 0.5, 10, normal(0.3)}, 1.5, decay_to_constant)
      .derived = {{"b*ln(2)", 3 * std::log(2)}};
  add({"decay a*exp(-x/b), stated", decay, {10, 3}, decaying, 0.5, 10, normal(0.3), fixed_u(0.3)}, 1.5,
      decay_to_constant);
  add({"saturation m*x/(k + x)", saturation, {8, 2}, saturating, 0.5, 10, normal(0.2)}, 1.5).derived = {{"m/k", 4}};
  add({"logistic m/(1 + exp(-k*(x - x0)))", logistic, {10, 1, 5}, growing, 0, 10, normal(0.3)}, 2);
  return all;
}

TEST(Claims, OfFits) {
  Claims claims;
  const std::vector<int> sizes = {4, 8, 30};
  const int sets = test::simulated_sets(30, 1000);
  for (const Design& design : designs()) {
    for (const int n : sizes) {
      RandomNumbers random(20'261'127 + static_cast<std::uint64_t>(n));
      for (int set = 0; set < sets; ++set) judge(design, n, set % 4 == 0, random, claims);
    }
  }
  claims.expect();
  test::update_docs_table("<!-- claims of fits -->", claims.table(sizes));
}

}  // namespace
}  // namespace truecurve
