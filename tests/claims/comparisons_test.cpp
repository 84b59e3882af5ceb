// What a comparison prints, held against the curve that the data were simulated from.

#include "../support.hpp"
#include "claims.hpp"

namespace truecurve {
namespace {

using test::Claims;
using test::holds;

struct Truth {
  std::string name;
  std::vector<std::string> candidates;  // the true one among them
  std::function<double(double x)> curve;
  double scatter;
};

void judge(const Truth& truth, int n, RandomNumbers& random, Claims& claims) {
  const VectorXd x = VectorXd::LinSpaced(n, 1, 10);
  const VectorXd y = x.unaryExpr([&](double at) { return truth.curve(at) + truth.scatter * random.normal(); });
  std::vector<CandidateModel> candidates;
  for (const std::string& name : truth.candidates)
    candidates.push_back({name, shape_model(name).with_predictors({"x"}), Observations::of(x, y)});
  const Comparison comparison = compare_candidates(candidates);
  std::vector<WeightedEstimate> curves;
  double sum = 0;
  for (const Candidate& c : comparison.candidates) {
    if (!(c.weight > 0)) continue;
    curves.push_back({c.name, c.weight, c.fit.estimate()});
    sum += c.weight;
  }
  for (WeightedEstimate& curve : curves) curve.weight /= sum;
  const std::array<double, 3> places = {1, 4.6, 10};
  const std::array<const char*, 3> names = {"low end", "middle", "high end"};
  for (std::size_t i = 0; i < places.size(); ++i) {
    const Vector at = {places[i]};
    const BandPoint whole = averaged_band(curves, std::span(&at, 1), 0.95)[0].whole;
    const double value = truth.curve(places[i]);
    claims.count(truth.name, n, {fmt::format("averaged confidence band, {}", names[i]), 0.95, 7},
                 holds(whole.confidence, value));
    claims.count(truth.name, n, {fmt::format("averaged prediction band, {}", names[i]), 0.95, 2},
                 holds(whole.prediction, value + truth.scatter * random.normal()));
  }
}

TEST(Claims, OfComparisons) {
  Claims claims;
  const std::vector<Truth> truths = {{"line among degrees 1 to 3",
                                      {"polynomial(1)", "polynomial(2)", "polynomial(3)"},
                                      [](double x) { return 1 + 0.5 * x; },
                                      0.5},
                                     {"quadratic among degrees 1 to 3",
                                      {"polynomial(1)", "polynomial(2)", "polynomial(3)"},
                                      [](double x) { return 1 + 0.5 * x + 0.08 * x * x; },
                                      0.5},
                                     {"exponential among exponential and power",
                                      {"exponential", "power"},
                                      [](double x) { return std::exp(0.25 * x); },
                                      0.4}};
  const std::vector<int> sizes = {8, 30};
  const int sets = test::simulated_sets(40, 1000);
  for (const Truth& truth : truths) {
    for (const int n : sizes) {
      RandomNumbers random(20'261'127 + static_cast<std::uint64_t>(n));
      for (int set = 0; set < sets; ++set) judge(truth, n, random, claims);
    }
  }
  claims.expect();
  test::update_docs_table("<!-- claims of comparisons -->", claims.table(sizes));
}

}  // namespace
}  // namespace truecurve
