// How often the suggestion finds the truth in simulated data, beside what other ways of choosing find.
#include <truecurve/base/random.hpp>
#include <truecurve/compare/compare.hpp>
#include <truecurve/model/shapes.hpp>

#include "../support.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <functional>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

struct Study {
  const char* truth;
  std::vector<std::string> candidates;
  VectorXd x;
  std::function<double(double)> curve;
  std::vector<double> scatters;
  std::vector<double> hits;  // share of the suggestion's hits in the long run, one a scatter
};

// A long run, for the table in docs/methods.md: TRUECURVE_LONG_RUN=1.
int sets() { return test::simulated_sets(24, 500); }

struct Hits {
  int suggested = 0;
  int open = 0;    // the suggestion says that the truth can't be told from it
  int larger = 0;  // the suggestion has more parameters than the truth
  int lowest_aicc = 0;
  int lowest_bic = 0;
  int lowest_leave_one_out = 0;
  int highest_adjusted = 0;
};

template <typename Value>
const Candidate& lowest(const Comparison& comparison, Value value) {
  return *std::min_element(comparison.candidates.begin(), comparison.candidates.end(),
                           [&value](const Candidate& a, const Candidate& b) {
                             const auto number = [&value](const Candidate& c) {
                               const double v = value(c);
                               return std::isnan(v) ? infinity : v;
                             };
                             return number(a) < number(b);
                           });
}

Hits hits_of(const Study& study, double scatter) {
  RandomNumbers random(20'261'125);
  std::vector<Model> models;
  std::size_t parameters = 0;
  for (const std::string& name : study.candidates) {
    models.push_back(shape_model(name).with_predictors({"x"}));
    if (name == study.truth) parameters = models.back().parameters().size();
  }
  Hits hits;
  for (int set = 0; set < sets(); ++set) {
    VectorXd y(study.x.size());
    for (Index i = 0; i < y.size(); ++i) y[i] = study.curve(study.x[i]) + scatter * random.normal();
    std::vector<CandidateModel> candidates;
    for (std::size_t i = 0; i < models.size(); ++i)
      candidates.push_back({study.candidates[i], models[i], Observations::of(study.x, y)});
    const Comparison comparison = compare_candidates(candidates);
    const Suggestion& suggestion = comparison.suggestion;
    hits.suggested += suggestion.name == study.truth;
    hits.open += std::count(suggestion.indistinguishable.begin(), suggestion.indistinguishable.end(), study.truth) > 0;
    for (const Candidate& c : comparison.candidates)
      hits.larger += c.name == suggestion.name && c.parameters > parameters;
    hits.lowest_aicc += lowest(comparison, [](const Candidate& c) { return c.aicc; }).name == study.truth;
    hits.lowest_bic += lowest(comparison, [](const Candidate& c) { return c.bic; }).name == study.truth;
    hits.highest_adjusted +=
        lowest(comparison, [](const Candidate& c) { return -c.adjusted_r_squared; }).name == study.truth;
    hits.lowest_leave_one_out += lowest(comparison, [](const Candidate& c) {
                                   return c.leave_one_out.size.root_mean_square;
                                 }).name == study.truth;
  }
  return hits;
}

TEST(Suggestion, FindsTheTruthAsOftenAsTheTableSays) {
  const std::vector<std::string> ladder = {"polynomial(1)", "polynomial(2)", "polynomial(3)", "polynomial(4)",
                                           "polynomial(5)"};
  const std::vector<std::string> curves = {"exponential", "logistic", "power"};
  const std::vector<std::string> straight = {"line", "reciprocal"};
  const VectorXd twenty = VectorXd::LinSpaced(20, 0, 10);
  const VectorXd fifteen = VectorXd::LinSpaced(15, 1, 10);
  const VectorXd ten = VectorXd::LinSpaced(10, 1, 8);
  const std::vector<Study> studies = {
      {"polynomial(2)",
       ladder,
       twenty,
       [](double x) { return 1 + 0.5 * x + 0.08 * x * x; },
       {0.1, 0.5, 1.5},
       {0.908, 0.908, 0.432}},
      {"polynomial(1)", ladder, twenty, [](double x) { return 1 + 0.5 * x; }, {0.1, 0.5, 1.5}, {0.906, 0.906, 0.906}},
      {"exponential",
       curves,
       fifteen,
       [](double x) { return std::exp(0.25 * x); },
       {0.1, 0.4, 1.2},
       {0.988, 0.988, 0.824}},
      {"logistic",
       curves,
       fifteen,
       [](double x) { return 10 / (1 + std::exp(-0.7 * (x - 6))); },
       {0.1, 0.4, 1.2},
       {1.0, 0.988, 0.248}},
      {"power", curves, fifteen, [](double x) { return 0.5 * std::pow(x, 1.4); }, {0.1, 0.4, 1.2}, {1.0, 0.974, 0.854}},
      {"line", straight, ten, [](double x) { return 2 + 0.5 * x; }, {0.1, 0.5, 1.5}, {1.0, 0.982, 0.776}},
      {"reciprocal", straight, ten, [](double x) { return 2 + 4 / x; }, {0.1, 0.5, 1.5}, {1.0, 0.972, 0.756}}};
  std::string table =
      "| truth | among | scatter | suggested | said to be open | suggested has more parameters | lowest AICc | lowest "
      "BIC "
      "| lowest leave-one-out | highest adjusted R² |\n|---|---|---|---|---|---|---|---|---|---|\n";
  for (const Study& study : studies) {
    for (std::size_t level = 0; level < study.scatters.size(); ++level) {
      const Hits hits = hits_of(study, study.scatters[level]);
      const double share = static_cast<double>(hits.suggested) / sets();
      const double wanted = study.hits[level];
      EXPECT_NEAR(share, wanted, 4 * std::sqrt(wanted * (1 - wanted) / sets()) + 0.01)
          << study.truth << " at " << study.scatters[level];
      const auto percent = [](int count) { return fmt::format("{:.1f} %", 100.0 * count / sets()); };
      const std::string among = study.candidates.size() == 5   ? "degrees 1 to 5"
                                : study.candidates.size() == 3 ? "exponential, logistic, power"
                                                               : "line, reciprocal";
      table += fmt::format("| {} | {} | {} | {} | {} | {} | {} | {} | {} | {} |\n", study.truth, among,
                           study.scatters[level], percent(hits.suggested), percent(hits.open), percent(hits.larger),
                           percent(hits.lowest_aicc), percent(hits.lowest_bic), percent(hits.lowest_leave_one_out),
                           percent(hits.highest_adjusted));
    }
  }
  if (std::getenv("TRUECURVE_LONG_RUN") != nullptr) test::update_docs_table("<!-- hits of the suggestion -->\n", table);
}

}  // namespace
}  // namespace truecurve
