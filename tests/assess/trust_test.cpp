// What is to be distrusted in a fit, and where parameters are better quoted.

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

struct FarRows {
  VectorXd x = test::vector({1000, 1001, 1002, 1003, 1004, 1005, 1006, 1007, 1008, 1010});
  VectorXd y;
  FarRows() : y(10) {
    RandomNumbers random(6);
    for (Index i = 0; i < 10; ++i) y[i] = 20 - 0.5 * (x[i] - 1000) + 0.1 * random.normal();
  }
};

bool holds(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

TEST(Trust, QuotesALineAboutItsMiddle) {
  const FarRows rows;
  const Fit made = fit(shape_model("line"), Observations::of(rows.x, rows.y));
  const Trust trust = trust_of(made, 0.95);
  EXPECT_EQ(trust.curvature.intrinsic, 0);
  EXPECT_TRUE(trust.profiles.empty()) << "of a linear model they are the symmetric intervals";
  EXPECT_TRUE(trust.sentences.empty());
  ASSERT_EQ(trust.pairs.size(), 1u);
  EXPECT_EQ(trust.pairs[0].first, "a");
  EXPECT_EQ(trust.pairs[0].second, "b");
  EXPECT_FALSE(trust.pairs[0].is_redundant);
  const double mean = rows.x.mean();
  EXPECT_NEAR(trust.pairs[0].correlation, -mean / std::sqrt(rows.x.squaredNorm() / 10), 1e-9);
  EXPECT_TRUE(holds(trust.note,
                    "The estimates of a and b are strongly correlated (r = -1.00000), because x is far from "
                    "zero: use their covariance"))
      << trust.note;
  // The curve at the mean is that of the readings, uncertain by s/sqrt(n); of 201 places the nearest one is taken.
  const double place = 1000 + std::round((mean - 1000) / 0.05) * 0.05;
  const double value = rows.y.mean() + made.parameter("b").value * (place - mean);
  const double u =
      std::hypot(made.estimate().scale() / std::sqrt(10), made.parameter("b").standard_uncertainty * (place - mean));
  EXPECT_TRUE(
      holds(trust.note, fmt::format("about x = {}: the curve there, {}, is hardly correlated with b and may stand "
                                    "in place of a.",
                                    rounded(place, 4), with_uncertainty(value, u))))
      << trust.note << " " << place << " " << value;
}

TEST(Trust, QuotesNothingAboutAPlaceWhereThatHasNoMeaning) {
  const FarRows rows;
  // The left side's own constant is not the curve.
  const Trust transformed = trust_of(fit(Model::written("ln(y) = a + b*x"), Observations::of(rows.x, rows.y)), 0.95);
  EXPECT_TRUE(holds(transformed.note, "strongly correlated")) << transformed.note;
  EXPECT_FALSE(holds(transformed.note, "Or quote")) << transformed.note;
  // Two predictors have no one axis.
  std::vector<double> second;
  for (int i = 0; i < 10; ++i) second.push_back((i * 7) % 10);
  const Table table = Table::from_columns(
      {{"x", "", {rows.x.begin(), rows.x.end()}}, {"z", "", second}, {"y", "", {rows.y.begin(), rows.y.end()}}});
  const Trust two = trust_of(
      fit(Model::written("y = a + b*x + c*z"), Observations(table, {.response = "y", .predictors = {"x", "z"}})), 0.95);
  ASSERT_FALSE(two.pairs.empty());
  EXPECT_FALSE(holds(two.note, "Or quote")) << two.note;
  // Near zero nothing is said, and of a polynomial's powers neither.
  EXPECT_TRUE(trust_of(fit(shape_model("line"), Observations::of((rows.x.array() - 1002).matrix(), rows.y)), 0.95)
                  .note.empty());
  EXPECT_TRUE(trust_of(fit(shape_model("polynomial(2)"), Observations::of(rows.x, rows.y)), 0.95).pairs.empty());
}

TEST(Trust, NamesParametersThatTheRowsHardlyTellApart) {
  // The beginning of a saturation is a line: only m/k is known.
  const VectorXd x = VectorXd::LinSpaced(10, 0.2, 4);
  VectorXd y(10);
  RandomNumbers random(1);
  for (Index i = 0; i < 10; ++i) y[i] = 50 * x[i] / (30 + x[i]) + 0.1 * random.normal();
  const Fit made = fit(Model::written("y = m*x/(k + x)"), Observations::of(x, y));
  const Trust trust = trust_of(made, 0.95);
  ASSERT_EQ(trust.profiles.size(), 2u);
  EXPECT_TRUE(std::isinf(trust.profiles[0].interval.high));
  ASSERT_EQ(trust.pairs.size(), 1u);
  EXPECT_TRUE(trust.pairs[0].is_redundant);
  EXPECT_TRUE(trust.note.empty());
  std::string all;
  for (const std::string& sentence : trust.sentences) all += sentence + "\n";
  EXPECT_TRUE(holds(all, "These data set no upper limit for m: the 95 % profile interval begins at ")) << all;
  EXPECT_TRUE(holds(all, "These data hardly determine m and k separately")) << all;
  EXPECT_TRUE(holds(all, "measure where they act differently, or fix one of them.")) << all;
  // Turned around, it is the lower limit that is missing.
  const Trust turned = trust_of(fit(Model::written("y = m*x/(k - x)"), Observations::of(x, y)), 0.95);
  EXPECT_NE(std::find_if(turned.sentences.begin(), turned.sentences.end(),
                         [](const std::string& sentence) {
                           return sentence.starts_with(
                               "These data set no lower limit for m: the 95 % profile interval ends at -");
                         }),
            turned.sentences.end());
}

TEST(Trust, MakesProfilesWhereTheyAreCheapOrWanted) {
  RandomNumbers random(2);
  const auto rows = [&](Index n) {
    const VectorXd x = VectorXd::LinSpaced(n, 0.5, 8);
    VectorXd y(n);
    for (Index i = 0; i < n; ++i) y[i] = 10 * x[i] / (3 + x[i]) + 0.1 * random.normal();
    return fit(Model::written("y = m*x/(k + x)"), Observations::of(x, y));
  };
  EXPECT_EQ(trust_of(rows(1000), 0.95).profiles.size(), 2u);
  const Fit larger = rows(1001);
  EXPECT_TRUE(trust_of(larger, 0.95).profiles.empty());
  EXPECT_EQ(trust_of(larger, 0.95, Profiles::always).profiles.size(), 2u);
  // A few scattered rows bend the surface: the symmetric interval is doubted, and its level simulated.
  const VectorXd x = test::vector({0.5, 1, 2, 3, 4, 5});
  const VectorXd y = test::vector({1.1, 3.0, 3.4, 5.6, 5.0, 6.9});
  const Trust few = trust_of(fit(Model::written("y = m*x/(k + x)"), Observations::of(x, y)), 0.95);
  EXPECT_GT(few.curvature.parameter_effects, fair_curvature);
  for (const ProfileInterval& p : few.profiles) EXPECT_FALSE(std::isnan(p.symmetric_level));
  const VectorXd longer = test::vector({0.5, 1, 2, 3, 5, 8});
  const Trust bent = trust_of(fit(Model::written("y = m*x/(k + x)"),
                                  Observations::of(longer, test::vector({2.53, 1.06, 4.92, 5.57, 5.96, 7.46}))),
                              0.95);
  // Simulation has the last word: of m the profile is pessimistic, of k it is right.
  ASSERT_EQ(bent.profiles.size(), 2u);
  EXPECT_LT(bent.profiles[0].symmetric_level, 1 - 0.05 * most_left_out + 0.02);
  for (const ProfileInterval& p : bent.profiles) {
    ASSERT_FALSE(std::isnan(p.simulated_level));
    EXPECT_EQ(p.symmetric_is_trusted, p.simulated_level >= 1 - 0.05 * most_left_out) << p.parameter;
  }
  std::string said;
  for (const std::string& sentence : bent.sentences) said += sentence + "\n";
  int doubted = 0;
  for (const ProfileInterval& p : bent.profiles) {
    const double level = std::isnan(p.simulated_level) ? p.symmetric_level : p.simulated_level;
    doubted += holds(said, fmt::format("The symmetric interval of {} is inaccurate: its level is about {:.0f} %;",
                                       p.parameter, 100 * level));
  }
  EXPECT_GT(doubted, 0) << said;
}

// The most strongly correlated pair is named, with the number of the others, or the reason of the only one.
TEST(Trust, NamesTheStrongestPairFirst) {
  const auto wiggled = [](const VectorXd& x, auto curve) {
    VectorXd y(x.size());
    for (Index i = 0; i < x.size(); ++i) y[i] = curve(x[i]) + 0.01 * std::sin(static_cast<double>(7 * i * i));
    return Observations::of(x, y);
  };
  const VectorXd narrow = VectorXd::LinSpaced(12, 10, 11);
  const Fit three = fit(Model::written("y = a + b*x + c*sqrt(x)"),
                        wiggled(narrow, [](double x) { return 1 + x - 2 * std::sqrt(x); }));
  const Trust of_three = trust_of(three, 0.95);
  ASSERT_EQ(of_three.pairs.size(), 3u);
  EXPECT_GE(std::abs(of_three.pairs[0].correlation), std::abs(of_three.pairs[1].correlation));
  EXPECT_GE(std::abs(of_three.pairs[1].correlation), std::abs(of_three.pairs[2].correlation));
  EXPECT_TRUE(has(of_three.note, ", as are 2 other pairs: use their covariance"));
  EXPECT_TRUE(
      has(of_three.note, fmt::format("estimates of {} and {} are", of_three.pairs[0].first, of_three.pairs[0].second)));
  const Trust line = trust_of(fit(shape_model("line"), wiggled(narrow, [](double x) { return 1 + x; })), 0.95);
  EXPECT_TRUE(has(line.note, "), because x is far from zero: use"));
  const Trust root = trust_of(
      fit(Model::written("y = a + b*sqrt(x)"), wiggled(narrow, [](double x) { return 1 + std::sqrt(x); })), 0.95);
  EXPECT_TRUE(has(root.note, "), because the range of x is narrow: use"));
  const Trust negative = trust_of(
      fit(shape_model("line"), wiggled(VectorXd::LinSpaced(12, -11, -10), [](double x) { return 1 + x; })), 0.95);
  EXPECT_TRUE(has(negative.note, "), because x is far from zero: use"));
  EXPECT_EQ(
      trust_of(fit(shape_model("line"), wiggled(VectorXd::LinSpaced(12, 0, 1), [](double x) { return 1 + x; })), 0.95)
          .note,
      "");
}

}  // namespace
}  // namespace truecurve
