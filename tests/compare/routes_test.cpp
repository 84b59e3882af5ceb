// A curve fitted directly and through a transform.
#include <truecurve/truecurve.hpp>

#include "candidates.hpp"

#include <string_view>

namespace truecurve {
namespace {

using Eigen::Index;
using test::fits_of;

// The verdict is for the route whose AICc is lower by two, with what it assumes of the scatter.
TEST(Routes, AreJudgedByWhatTheyAssume) {
  const std::vector<double> off = {1, -1.2, 0.7, -0.9, 1.1, -0.6, 1.3, -0.8, 0.9, -1};
  struct Case {
    double share, same;
    const char* verdict;
  };
  for (const auto& [share, same, verdict] :
       {Case{0.1, 0,
             "The data favour the linearized route, a scatter proportional to y: AICc of the measured y is "
             "lower by "},
        Case{0, 0.5,
             "The data favour the direct route, a scatter the same for all rows: AICc of the measured y is "
             "lower by "}}) {
    VectorXd x(10);
    VectorXd y(10);
    for (Index i = 0; i < 10; ++i) {
      x[i] = static_cast<double>(i) / 2;
      const double curve = 100 * std::exp(-x[i]);
      y[i] = curve * (1 + share * off[static_cast<std::size_t>(i)]) + same * off[static_cast<std::size_t>(i)];
    }
    const Observations rows = Observations::of(x, y);
    const Fit direct = fit(Model::written("y = a*exp(-k*x)"), rows);
    const Fit linearized = fit(Model::written("ln(y) = c - k*x"), rows);
    const auto pair = explain_routes(direct, linearized);
    ASSERT_TRUE(pair.has_value());
    EXPECT_EQ(pair->verdict.substr(0, std::string_view(verdict).size()), verdict);
    // AICc of the two, which have as many parameters: the logarithms' Jacobian stands beside their squares.
    double logarithms = 0, squares = 0;
    for (Index i = 0; i < 10; ++i) {
      logarithms += std::log(y[i]);
      squares += std::pow(std::log(y[i]) - std::log(linearized.fitted_response()[static_cast<std::size_t>(i)]), 2);
    }
    EXPECT_NEAR(pair->delta_aicc, 10 * std::log(squares / direct.chi_squared()) + 2 * logarithms, 1e-9);
    EXPECT_TRUE(has(pair->verdict, fmt::format("lower by {:.1f}.", std::abs(pair->delta_aicc))));
    EXPECT_NEAR(pair->parameters[0].linearized, std::exp(linearized.parameter("c").value), 1e-6);
    EXPECT_EQ(assumed_scatter(direct), pair->direct_scatter);
  }
}

// Two routes of one curve are told from two curves, whichever of them is chosen.
TEST(Routes, AreOneCurveToTheSuggestion) {
  const std::vector<double> off = {1, -1.2, 0.7, -0.9, 1.1, -0.6, 1.3, -0.8, 0.9, -1};
  std::map<std::string, int> seen;  // the chosen and a rival
  for (double same = 0; same < 0.4; same += 0.02) {
    const VectorXd x = VectorXd::LinSpaced(10, 0, 4.5);
    VectorXd y(10);
    for (Index i = 0; i < 10; ++i) {
      const double curve = 100 / std::pow(1 + x[i] / 400, 400);
      y[i] = curve * (1 + 0.03 * off[static_cast<std::size_t>(9 - i)]) + same * off[static_cast<std::size_t>(i)];
    }
    std::vector<Fit> fits = fits_of(Observations::of(x, y), {"y = a*exp(-k*x)", "ln(y) = c - k*x"});
    FitOptions start{.starts = {{"b", 1}}};
    fits.push_back(fit(Model::written("y = a/(1 + b*x/400)^400"), Observations::of(x, y), start));
    const std::vector<std::string> names = {"direct", "linearized", "other"};
    const Comparison all = compare(fits, {.names = names});
    const Suggestion& suggestion = all.suggestion;
    const auto is_rival = [&](const std::string& name) {
      return std::find(suggestion.indistinguishable.begin(), suggestion.indistinguishable.end(), name) !=
             suggestion.indistinguishable.end();
    };
    const auto is_told = [&](const std::string& name) {
      return suggestion.reason.find(name + " is the same curve with another assumption") != std::string::npos;
    };
    EXPECT_EQ(is_told("linearized"), suggestion.name == "direct" && is_rival("linearized")) << suggestion.reason;
    EXPECT_EQ(is_told("direct"), suggestion.name == "linearized" && is_rival("direct")) << suggestion.reason;
    EXPECT_FALSE(is_told("other")) << suggestion.reason;
    for (const std::string& name : names) seen[suggestion.name + ", " + name] += is_rival(name);
  }
  for (const char* pair : {"direct, linearized", "direct, other", "linearized, direct", "linearized, other"})
    EXPECT_GT(seen[pair], 0) << pair;
}

// Counts have one likelihood, whatever the link: there is nothing to choose.
TEST(Routes, AreNotThoseOfCounts) {
  const Vector x = {1, 2, 3, 4, 5, 6};
  const Vector y = {61, 36, 22, 13, 8, 5};
  const Observations counts = Observations::counted(x, y, Vector(6, 1), ResponseKind::counts);
  const Observations rows = Observations::of(x, y);
  const Model direct = Model::written("y = a*exp(-k*x)");
  const Model linearized = Model::written("ln(y) = c - k*x");
  EXPECT_TRUE(explain_routes(fit(direct, rows), fit(linearized, rows)).has_value());
  EXPECT_FALSE(explain_routes(fit(direct, counts), fit(linearized, counts)).has_value());
  EXPECT_FALSE(explain_routes(fit(direct, counts), fit(linearized, rows)).has_value());
  EXPECT_FALSE(explain_routes(fit(direct, rows), fit(linearized, counts)).has_value());
}

// A pair is one curve or none in every unit.
TEST(Routes, AreFoundInEveryUnit) {
  for (const double unit : {1e-9, 1.0, 1e9}) {
    const Vector x = {1, 2, 3, 4, 5, 6};
    Vector y = {61, 36.4, 22.5, 13.4, 8.3, 5};
    for (double& value : y) value *= unit;
    const Observations rows = Observations::of(x, y);
    const Fit direct = fit(Model::written("y = a*exp(-k*x)"), rows);
    EXPECT_TRUE(explain_routes(direct, fit(Model::written("ln(y) = c - k*x"), rows)).has_value()) << unit;
    EXPECT_FALSE(explain_routes(direct, fit(Model::written("1/y = c + k*x"), rows)).has_value()) << unit;
  }
}

// From two on: between one and two the data leave it to what is known of the measurement.
TEST(Routes, AreNotJudgedBelowTwo) {
  const std::vector<double> off = {1, -1.2, 0.7, -0.9, 1.1, -0.6, 1.3, -0.8, 0.9, -1};
  std::map<int, int> seen;
  for (double same = 0; same < 0.4; same += 0.005) {
    VectorXd x = VectorXd::LinSpaced(10, 0, 4.5);
    VectorXd y(10);
    for (Index i = 0; i < 10; ++i) {
      const double curve = 100 * std::exp(-x[i]);
      y[i] = curve * (1 + 0.03 * off[static_cast<std::size_t>(9 - i)]) + same * off[static_cast<std::size_t>(i)];
    }
    const Observations rows = Observations::of(x, y);
    const auto pair =
        explain_routes(fit(Model::written("y = a*exp(-k*x)"), rows), fit(Model::written("ln(y) = c - k*x"), rows));
    ASSERT_TRUE(pair.has_value());
    const double apart = std::abs(pair->delta_aicc);
    EXPECT_EQ(pair->verdict.starts_with("The data favour the "), apart > 2) << pair->verdict;
    EXPECT_EQ(pair->verdict.starts_with("The data do not decide"), apart <= 2) << pair->verdict;
    ++seen[static_cast<int>(apart)];
  }
  EXPECT_GT(seen[1], 0);
  EXPECT_GT(seen[2], 0);
}

// A scatter that changes is told below 5 %, of each route by its own residuals.
TEST(Routes, TellWhetherTheScatterChanges) {
  RandomNumbers random(5);
  const VectorXd x = VectorXd::LinSpaced(10, 0, 4.5);
  int below = 0, above = 0;
  for (int set = 0; set < 2000 && (below < 3 || above < 3); ++set) {
    VectorXd y(10);
    for (Index i = 0; i < 10; ++i) y[i] = 100 * std::exp(-x[i]) * (1 + 0.03 * random.normal()) + 0.2 * random.normal();
    if (!(y.array() > 0).all()) continue;
    const Observations rows = Observations::of(x, y);
    const auto pair =
        explain_routes(fit(Model::written("y = a*exp(-k*x)"), rows), fit(Model::written("ln(y) = c - k*x"), rows));
    ASSERT_TRUE(pair.has_value());
    for (const auto& [route, p] :
         {std::pair{"direct", pair->direct_spread_p}, {"linearized", pair->linearized_spread_p}}) {
      const bool is_told = pair->verdict.find(fmt::format("The scatter of the {} route's residuals changes with the "
                                                          "fitted value (p = {})",
                                                          route, probability_text(p))) != std::string::npos;
      const bool is_denied = pair->verdict.find(fmt::format("No change in the scatter of the {} route's residuals was "
                                                            "detected (p = {})",
                                                            route, probability_text(p))) != std::string::npos;
      EXPECT_EQ(is_told, p < 0.05) << pair->verdict;
      EXPECT_EQ(is_denied, p >= 0.05) << pair->verdict;
      below += p > 0.045 && p < 0.05;
      above += p >= 0.05 && p < 0.055;
    }
  }
  EXPECT_GE(below, 3);
  EXPECT_GE(above, 3);
}

}  // namespace
}  // namespace truecurve
