// What is printed of events and counts, held against the curve that they were simulated from.

#include "../support.hpp"
#include "claims.hpp"

namespace truecurve {
namespace {

using test::Claims;
using test::holds;

struct CountedTruth {
  std::string name;
  ResponseKind kind;
  double size;
  std::array<double, 2> parameters;
  [[nodiscard]] bool are_events() const { return kind == ResponseKind::events; }
  [[nodiscard]] double mean(double x) const {
    return are_events() ? 1 / (1 + std::exp(-(x - parameters[0]) / parameters[1]))
                        : parameters[0] * std::exp(-x / parameters[1]);
  }
  [[nodiscard]] Model model() const {
    return are_events() ? shape_model("share-logistic") : shape_model("exponential-time-constant");
  }
};

Observations drawn_numbers(const CountedTruth& truth, const VectorXd& x, bool level, RandomNumbers& random) {
  const ResponseKernel& kernel = ObservationModel::of(truth.kind).kernel();
  VectorXd numbers(x.size());
  for (Eigen::Index i = 0; i < x.size(); ++i)
    numbers[i] = std::round(kernel.draw(truth.mean(level ? 5.0 : x[i]), truth.size, random) * truth.size);
  return Observations::counted(x, numbers, VectorXd::Constant(x.size(), truth.size), truth.kind);
}

// One bound is all that separated rows give.
Interval interval_or_bound(const Fit& made, Eigen::Index parameter) {
  if (!made.estimate().is_open(parameter))
    return profile_interval(made, made.estimate().parameter_names()[static_cast<std::size_t>(parameter)], 0.95)
        .interval;
  const OpenEnd end = *made.estimate().open_end();
  return end.upwards ? Interval{end.bound, infinity} : Interval{-infinity, end.bound};
}

void judge(const CountedTruth& truth, int n, bool with_checks, RandomNumbers& random, Claims& claims) {
  const VectorXd x = VectorXd::LinSpaced(n, 0, 10);
  const Observations rows = drawn_numbers(truth, x, false, random);
  const auto count = [&](const test::Claim& claim, bool held) { claims.count(truth.name, n, claim, held); };
  const Fit made = fit(truth.model(), rows);
  for (const Eigen::Index j : {0, 1}) {
    const std::string& name = made.estimate().parameter_names()[static_cast<std::size_t>(j)];
    count({"profile interval of " + name, 0.95, 6},
          holds(interval_or_bound(made, j), truth.parameters[static_cast<std::size_t>(j)]));
  }
  const bool linked = truth.are_events();
  const Model line = Model::written(linked ? "ln(y/(1 - y)) = a + b*x" : "ln(y) = a + b*x");
  const Fit level = fit(line, drawn_numbers(truth, x, true, random));
  count({"p of no dependence", 0.05, 3}, counted_quality(level).dependence_p < 0.05);
  if (made.estimate().open_end()) return;
  const std::array<const char*, 3> names = {"low end", "middle", "high end"};
  const std::array<double, 3> places = {1, 4.5, 9};
  for (std::size_t i = 0; i < places.size(); ++i) {
    const BandPoint at = band_at(made.estimate(), VectorXd::Constant(1, places[i]), 0.95)[0];
    count({fmt::format("confidence band, {}", names[i]), 0.95, 5}, holds(at.confidence, truth.mean(places[i])));
  }
  const double wanted = truth.mean(5.5);
  const auto roots = solve(made.estimate(), wanted, {.low = -30, .high = 50});
  if (roots.size() == 1) count({"interval of x at a mean", 0.95, 5}, holds(roots[0].interval, 5.5));
  const Fit small = fit(line, rows);
  const Fit large = fit(Model::written(line.text() + " + c*x^2"), rows);
  if (!large.estimate().open_end()) count({"p of the nested test", 0.05, 3}, nested_test(small, large).p < 0.05);
  if (!with_checks) return;
  const std::vector<Check> checks = residual_checks(made);
  count({.what = "any caution by the residual checks", .rate = 0.05, .is_cautious = true},
        std::any_of(checks.begin(), checks.end(), [](const Check& check) { return check.is_significant(); }));
}

TEST(Claims, OfCountedResponses) {
  Claims claims;
  const std::vector<CountedTruth> truths = {{"events of single trials", ResponseKind::events, 1, {4.5, 1.2}},
                                            {"events of 20 trials", ResponseKind::events, 20, {4.5, 1.2}},
                                            {"counts from 30 down", ResponseKind::counts, 1, {30, 6}},
                                            {"counts from 3 down", ResponseKind::counts, 1, {3, 6}}};
  const std::vector<int> sizes = {20, 50, 200};
  const int sets = test::simulated_sets(30, 1000);
  for (const CountedTruth& truth : truths) {
    for (const int n : sizes) {
      RandomNumbers random(20'261'128 + static_cast<std::uint64_t>(n));
      for (int set = 0; set < sets; ++set) judge(truth, n, set % 3 == 0, random, claims);
    }
  }
  claims.expect();
  test::update_docs_table("<!-- claims of counted responses -->", claims.table(sizes));
}

}  // namespace
}  // namespace truecurve
