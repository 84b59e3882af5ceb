// What is suggested, and why: how often the suggestion finds the truth in simulated data, beside what other ways of
// choosing find.

#include "candidates.hpp"

#include <cstdlib>

namespace truecurve {
namespace {

using Eigen::Index;
using test::find;
using test::fits_of;

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
  int lowest_aicc = 0, lowest_bic = 0, lowest_leave_one_out = 0, highest_adjusted = 0;
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

// Rows whose curvature has an F of the test's choice: residuals of a parabola, and the third of the orthogonal
// polynomials beside a line.
Observations curved_rows(double f, double sign) {
  constexpr Index n = 30;
  const VectorXd x = VectorXd::LinSpaced(n, 1, n);
  RandomNumbers random(7);
  VectorXd noise(n);
  for (Index i = 0; i < n; ++i) noise[i] = random.normal();
  const auto left = [&](const char* shape, const VectorXd& y) {
    return VectorXd(as_eigen(fit(shape_model(shape), Observations::of(x, y)).residuals()));
  };
  const VectorXd rest = left("polynomial(2)", noise);
  const VectorXd bend = left("line", x.cwiseAbs2()).normalized();
  const double size = std::sqrt(f * rest.squaredNorm() / (n - 3));
  return Observations::of(x, VectorXd(sign * (rest + size * bend) + 2 * x));
}

// Of two within reach the fewer parameters win, unless the test between them rejects; F(1, 27) = 4.21 is the 5 % point.
// The largest residual keeps its sign.
TEST(Suggestion, IsTheSimplestThatNoTestRejects) {
  for (const auto& [f, wanted, lowest] : {std::tuple{0.2, "line", "line"},
                                          {3.0, "line", "polynomial(2)"},
                                          {4.1, "line", "polynomial(2)"},
                                          {4.3, "polynomial(2)", "polynomial(2)"},
                                          {30.0, "polynomial(2)", "polynomial(2)"}}) {
    SCOPED_TRACE(f);
    const Comparison up =
        compare(fits_of(curved_rows(f, 1), {"line", "polynomial(2)"}), {.names = {"line", "polynomial(2)"}});
    EXPECT_EQ(up.suggestion.name, wanted);
    EXPECT_EQ(up.suggestion.reason.find(up.suggestion.headline), 0U);
    EXPECT_FALSE(up.suggestion.headline.empty());
    EXPECT_EQ(up.candidates[0].name, lowest);
    EXPECT_EQ(up.suggestion.reason.find("What it adds to line is significant") != std::string::npos, f > 4.21)
        << up.suggestion.reason;
    // AICc of the two from F alone: n ln(1 + F/27) against what a parameter more costs.
    const double gain = 30 * std::log1p(f / 27) - (8 + 40.0 / 25) + (6 + 24.0 / 26);
    EXPECT_NEAR(find(up, "line").aicc - find(up, "polynomial(2)").aicc, gain, 1e-9);
    const Comparison down =
        compare(fits_of(curved_rows(f, -1), {"line", "polynomial(2)"}), {.names = {"line", "polynomial(2)"}});
    for (const char* name : {"line", "polynomial(2)"}) {
      EXPECT_NEAR(find(down, name).largest_residual, -find(up, name).largest_residual, 1e-9);
      EXPECT_EQ(find(down, name).largest_residual_row, find(up, name).largest_residual_row);
    }
  }
}

// A curve with another scatter is no other curve: no measurement of the curve would tell them apart.
TEST(Suggestion, KnowsOneCurveWithTwoScatters) {
  const Observations rows =
      Observations::of({10, 10.2, 10.4, 10.6, 10.8, 11, 11.2, 11.4}, {20.3, 20.1, 21.1, 20.9, 21.9, 21.8, 22.7, 22.5});
  const Comparison both = compare(std::vector<Fit>{fit(shape_model("line"), rows, {.spread = Spread::constant()}),
                                                   fit(shape_model("line"), rows, {.spread = Spread::proportional()})},
                                  {.names = {"equal", "proportional"}});
  ASSERT_EQ(both.suggestion.indistinguishable.size(), 1u) << both.suggestion.reason;
  EXPECT_TRUE(both.suggestion.separations.empty());
  EXPECT_TRUE(has(both.suggestion.reason,
                  both.suggestion.indistinguishable[0] + " is the same curve with another assumption on the scatter"));
}

// All sentences of a suggestion, from the numbers of its comparison: the fewest parameters of those within 2 of the
// lowest AICc that no nested test rejects, and what is to be known of the others.
std::string said_of(const Comparison& comparison, std::set<std::string>& seen) {
  const std::vector<Candidate>& all = comparison.candidates;
  const auto say = [&seen](const char* kind, const std::string& text) {
    seen.insert(kind);
    return text;
  };
  std::vector<std::size_t> judged, reach, kept, rivals;
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (std::isnan(all[i].weight)) continue;
    judged.push_back(i);
    if (all[i].delta_aicc > 2) continue;
    reach.push_back(i);
    bool rejected = false;
    for (const NestedPair& pair : comparison.nested_tests)
      rejected = rejected || (pair.smaller == i && pair.test.p < 0.05 && all[pair.larger].aicc < all[i].aicc);
    if (!rejected) kept.push_back(i);
  }
  std::size_t at = kept[0];
  for (const std::size_t i : kept) at = all[i].parameters < all[at].parameters ? i : at;
  const Candidate& chosen = all[at];
  std::string said;
  if (judged.size() == 1) {
    said = say("only", chosen.name + " is the only candidate that can be judged.");
  } else if (reach.size() == 1) {
    said = say("alone", fmt::format("{} has the lowest AICc; the next, {}, lies {} behind.", chosen.name,
                                    all[judged[1]].name, rounded(all[judged[1]].aicc - chosen.aicc, 3)));
  } else {
    std::size_t as_few = 0;
    for (const std::size_t i : kept) as_few += all[i].parameters == chosen.parameters;
    said = chosen.name +
           (as_few > 1 ? say("as few", " has the lowest AICc of those with the fewest parameters")
                       : say("fewest", " has the fewest parameters")) +
           fmt::format(" ({}) of the {} candidates within 2 of the lowest AICc", chosen.parameters, reach.size());
    if (kept.size() < reach.size()) said += say("rejected", " that no nested test rejects");
    if (at != judged[0])
      said += say("higher", fmt::format(" (that of {}, {} lower)", all[judged[0]].name, rounded(chosen.delta_aicc, 2)));
    said += ".";
  }
  const auto of_test = [](const NestedTest& test) {
    return fmt::format("{} = {}, p = {}", name(test.kind), rounded(test.statistic, 3), probability_text(test.p));
  };
  const NestedPair* below = nullptr;
  for (const std::size_t i : reach) {
    bool is_nested = i == at;
    for (const NestedPair& pair : comparison.nested_tests) {
      is_nested = is_nested || (pair.smaller == i && pair.larger == at);
      if (pair.smaller != at || pair.larger != i) continue;
      is_nested = true;
      said +=
          pair.test.p < 0.05
              ? say("significant beyond", fmt::format(" What {} adds to it is significant at 5 % ({}), but its AICc, "
                                                      "which charges more for a parameter the fewer the data are, is "
                                                      "not lower.",
                                                      all[i].name, of_test(pair.test)))
              : say("not beyond",
                    fmt::format(" What {} adds to it is not significant ({}).", all[i].name, of_test(pair.test)));
    }
    if (!is_nested) rivals.push_back(i);
  }
  for (const NestedPair& pair : comparison.nested_tests) {
    if (pair.larger == at && (below == nullptr || all[pair.smaller].parameters > all[below->smaller].parameters))
      below = &pair;
  }
  if (below != nullptr) {
    const bool is_significant = below->test.p < 0.05;
    said += say(is_significant ? "significant" : "not significant",
                fmt::format(" What it adds to {} is {} ({}).", all[below->smaller].name,
                            is_significant ? "significant" : "not significant", of_test(below->test)));
  }
  std::size_t lowest = judged[0];
  for (const std::size_t i : judged) {
    if (all[i].leave_one_out.size.root_mean_square < all[lowest].leave_one_out.size.root_mean_square) lowest = i;
  }
  if (judged.size() > 1)
    said += lowest == at
                ? say("lowest too", " It also has the lowest leave-one-out error.")
                : say("another", fmt::format(" The lowest leave-one-out error is that of {}.", all[lowest].name));
  if (!rivals.empty()) {
    std::string names;
    for (const std::size_t i : rivals) names += (names.empty() ? "" : ", ") + all[i].name;
    said += say(rivals.size() > 1 ? "rivals" : "rival",
                fmt::format(" {} and {} are about equally well supported (AICc within 2).", chosen.name, names));
    for (const Separation& s : comparison.suggestion.separations) {
      EXPECT_TRUE(
          has(comparison.suggestion.reason,
              s.rival + (s.in_uncertainties < 1 ? ": the two never differ by more than " : ": they differ there by ")));
    }
  }
  std::string doubts;
  for (const CandidateRemark& remark : chosen.remarks) {
    if (remark.code != RemarkCode::not_told_apart) doubts += (doubts.empty() ? "" : "; ") + remark.text;
  }
  if (!doubts.empty()) said += say("doubts", " However: " + doubts + ".");
  return said;
}

TEST(Suggestion, SaysWhatTheComparisonShows) {
  RandomNumbers random(3);
  std::set<std::string> seen;
  for (int round = 0; round < 120; ++round) {
    const int n = 8 + round % 9;
    VectorXd x(n), y(n);
    const double bend = 0.04 * (round % 5);
    for (Index i = 0; i < n; ++i) {
      x[i] = 1 + 8.0 * static_cast<double>(i) / (n - 1);
      y[i] = 3 + 0.8 * x[i] + bend * x[i] * x[i] + 0.4 * (round % 3 == 0 ? x[i] / 3 : 1) * random.normal();
    }
    const std::vector<std::string> models =
        round % 10 == 9
            ? std::vector<std::string>{"line"}
            : std::vector<std::string>{"line", "polynomial(2)", "polynomial(3)", "y = a*exp(b*x)", "y = a + b*sqrt(x)"};
    const Comparison comparison = compare(fits_of(Observations::of(x, y), models));
    std::string made = comparison.suggestion.reason;
    const std::string said = said_of(comparison, seen);
    // What tells the rivals apart stands between, and has its own test.
    const std::size_t doubts = said.find(" However: ");
    const std::string before = said.substr(0, doubts);
    EXPECT_EQ(made.substr(0, before.size()), before);
    EXPECT_TRUE(made.ends_with(doubts == std::string::npos ? "" : said.substr(doubts))) << made << "\n" << said;
    EXPECT_EQ(made.find(" However: ") == std::string::npos, doubts == std::string::npos);
  }
  seen.erase("not significant");
  EXPECT_EQ(seen,
            (std::set<std::string>{"only", "alone", "as few", "fewest", "rejected", "higher", "significant beyond",
                                   "not beyond", "significant", "lowest too", "another", "rival", "rivals", "doubts"}));
}

// Where a further measurement would tell two curves apart: the greatest difference of the two in units of its
// uncertainty, over the range and half of it beyond, looked for anew on a finer grid.
// Counts scatter as their mean and their exposure say: no single place is told that would part two curves.
TEST(Suggestion, NamesNoPlaceForCounts) {
  const Observations counts = Observations::counted({1, 2, 3, 4, 5, 6}, {12, 15, 21, 22, 30, 31},
                                                    std::vector<double>(6, 1), ResponseKind::counts);
  const Comparison both = compare(fits_of(counts, {"ln(y) = a + b*x", "y = a + b*x"}));
  EXPECT_EQ(both.suggestion.indistinguishable.size(), 1U);
  EXPECT_TRUE(both.suggestion.separations.empty());
  EXPECT_FALSE(has(both.suggestion.reason, "A measurement at"));
}

TEST(Suggestion, SaysWhereToMeasureNext) {
  // Places from 1 to 9 are looked at from a tenth of the lowest on, as places that are never negative may have to be
  // so.
  std::set<bool> is_hidden;
  bool at_low = false;
  struct Case {
    double sign, shift, noise;
    unsigned seed;
    double rate;
    std::vector<std::string> curves;
    bool stated = false;
  };
  for (const auto& [sign, shift, noise, seed, rate, curves, stated] :
       {Case{1, 0, 0.4, 17, -0.1, {"y = a*exp(-b*x)", "y = a/(1 + b*x)"}},
        {-1, 0, 0.4, 17, -0.1, {"y = a*exp(b*x)", "y = a/(1 - b*x)"}},
        {1, 0, 0.2, 4, -0.1, {"y = a*exp(-b*x)", "y = a/(1 + b*x)"}},
        {1, 0, 0.4, 17, -0.1, {"y = a + b*ln(x)", "y = a + b*sqrt(x)"}},
        {1, 0, 0.2, 1, 0.1, {"y = a*exp(b*x)", "y = a + b*x"}},
        {1, -20, 0.2, 1, 0.1, {"y = a*exp(b*x)", "y = a + b*x"}},
        {1, 0, 0.4, 17, -0.1, {"y = a*exp(-b*x)", "y = a/(1 + b*x)"}, true}}) {
    RandomNumbers random(seed);
    std::vector<double> x, y;
    for (int i = 0; i < 9; ++i) {
      x.push_back(shift + sign * (1 + i));
      y.push_back((rate < 0 ? 5 : 2) * std::exp(rate * (1 + i)) + noise * random.normal());
    }
    // Stated row by row, a new reading is as uncertain as they are in the mean.
    std::vector<double> u;
    for (int i = 0; stated && i < 9; ++i) u.push_back(0.3 + 0.04 * i);
    const Comparison comparison = compare(fits_of(Observations::of(x, y, u), curves));
    ASSERT_EQ(comparison.suggestion.separations.size(), 1u);
    const Separation& found = comparison.suggestion.separations[0];
    const Candidate& chosen = find(comparison, comparison.suggestion.name);
    const Candidate& rival = find(comparison, found.rival);
    const double mean_u = stated ? 0.3 + 0.04 * 4 : not_a_number;
    const auto in_uncertainties = [&](double at) {
      double variance = 0;
      for (const Candidate* c : {&chosen, &rival}) {
        const double reading = std::isnan(mean_u) ? c->residual_sd : mean_u;
        variance += std::pow(curve_at(c->fit.estimate(), at).standard_uncertainty, 2) + reading * reading / 2;
      }
      return std::abs(curve_at(chosen.fit.estimate(), at).value - curve_at(rival.fit.estimate(), at).value) /
             std::sqrt(variance);
    };
    EXPECT_NEAR(found.in_uncertainties, in_uncertainties(found.at), 1e-9);
    EXPECT_NEAR(found.difference,
                curve_at(chosen.fit.estimate(), found.at).value - curve_at(rival.fit.estimate(), found.at).value,
                1e-12);
    const auto [first, last] = std::minmax(x.front(), x.back());
    const double low = first > 0 ? std::max(first / 10, first - 4) : first - 4;
    const double high = last + 4;
    double most = 0;
    for (int i = 0; i <= 2000; ++i) most = std::max(most, in_uncertainties(low + i * (high - low) / 2000));
    EXPECT_NEAR(found.in_uncertainties, most, 1e-3 * most);
    EXPECT_EQ(found.outside_data, found.at < first || found.at > last);
    is_hidden.insert(found.in_uncertainties < 1);
    at_low = at_low || found.at == low;
    const std::string said =
        found.in_uncertainties < 1
            ? fmt::format("the two never differ by more than {} of the uncertainty of their difference.",
                          rounded(found.in_uncertainties, 2))
            : fmt::format(
                  "A measurement at x = {}{} would distinguish it best from {}: they differ there by {}, {} "
                  "times the uncertainty of that difference.",
                  rounded(found.at, 3), found.outside_data ? " (outside the data)" : "", found.rival,
                  rounded(std::abs(found.difference), 3), rounded(found.in_uncertainties, 2));
    EXPECT_TRUE(has(comparison.suggestion.reason, said));
  }
  EXPECT_EQ(is_hidden.size(), 2u);
  EXPECT_TRUE(at_low);
}

}  // namespace
}  // namespace truecurve
