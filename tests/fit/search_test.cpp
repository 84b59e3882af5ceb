// Where a search looks for a parameter, by the part that it plays and the scales of the rows.
#include "../../src/fit/search.hpp"

#include "../../src/fit/tangent_plane.hpp"
#include "../../src/model/model_data.hpp"
#include "../support.hpp"

namespace truecurve {
namespace {

const Observations few_rows = Observations::of(VectorXd::LinSpaced(9, -20, 60), VectorXd::LinSpaced(9, 1, 2));

detail::Scales few_scales(const Model& model) {
  const detail::BoundModel& bound = *detail::data_of(model).bound;
  return detail::scales_of(detail::Curve(bound, few_rows, detail::roles_of(bound)));
}

// Of a sum whose terms are alike the start was built up term by term; of no other curve.
TEST(Search, TellsWhatWasBuiltUp) {
  std::vector<double> x, y;
  for (int i = 1; i <= 40; ++i) {
    x.push_back(0.25 * i);
    y.push_back(5 * std::exp(-x.back() / 0.7) + 3 * std::exp(-x.back() / 4) + 0.01 * std::sin(5.0 * i));
  }
  for (const auto& [text, is_sum] : {std::pair{"y = a*exp(-x/s) + b*exp(-x/t)", true},
                                     {"y = a*exp(-x/s)", false},
                                     {"y = a*exp(-x/s) + c", false},
                                     {"y = a/(1 + (x/b)^2)", false}})
    EXPECT_EQ(fit(Model::written(text), Observations::of(x, y)).solver().built_up, is_sum) << text;
  // Shapes propose starts of their own, which is another thing.
  for (const auto& [name, is_sum] : {std::pair{"exponential", false},
                                     {"exponential-offset", false},
                                     {"newton-cooling", false},
                                     {"power", false},
                                     {"hill", false},
                                     {"stretched-exponential", false},
                                     {"two-exponentials", true}})
    EXPECT_EQ(fit(shape_model(name), Observations::of(x, y)).solver().built_up, is_sum) << name;
}

// From given starts one descent is made, and a second in all parameters where its end is more than ten times away.
TEST(Search, DescendsOnceMoreFromFarStarts) {
  const Eigen::VectorXd x = Eigen::VectorXd::LinSpaced(12, 0, 11);
  Eigen::VectorXd y(12);
  for (Eigen::Index i = 0; i < 12; ++i) y[i] = 5 * std::exp(-x[i] / 3) + (i % 3 == 0 ? 0.02 : -0.01);
  for (const auto& [tau, descents] : {std::pair{3.0, 1}, {19.0, 1}, {0.45, 1}, {42.0, 2}, {0.2, 2}}) {
    const Fit made =
        fit(Model::written("y = a*exp(-x/tau)"), Observations::of(x, y), {.starts = {{"a", 4}, {"tau", tau}}});
    EXPECT_TRUE(made.solver().converged) << tau;
    EXPECT_NEAR(made.parameter("tau").value, 3, 0.1) << tau;
    EXPECT_EQ(made.solver().descents, descents) << tau;
  }
}

TEST(Search, MeasuresByTheRows) {
  const detail::Scales s = few_scales(Model::written("y = a*exp(-x/tau)", {"x"}));
  EXPECT_EQ(s.low, -20);
  EXPECT_EQ(s.high, 60);
  EXPECT_EQ(s.width, 80);
  EXPECT_EQ(s.largest, 60);
  EXPECT_NEAR(s.step, 80.0 / 9, 1e-12);
}

// Ends and middle of what is drawn where the part is followed (kind below 0.5), and of the wider half.
TEST(Search, LooksWhereThePartOfAParameterSuggests) {
  struct Case {
    const char *text, *parameter;
    double lowest, highest;            // likely half
    double wide_lowest, wide_highest;  // in size, of the other half
  };
  for (const Case& c : {Case{"y = a*exp(-(x - m)^2)", "m", -28, 68, 0.6, 6000},
                        {"y = a*exp(-k*x)", "k", 1e-2 / 60, 1e2 / 60, 1e-2 / 60, 1e2 / 60},
                        {"y = a*exp(-x/tau)", "tau", 80.0 / 9 / 3, 180, 80.0 / 9 / 3, 180}}) {
    SCOPED_TRACE(c.text);
    const Model model = Model::written(c.text, {"x"});
    const detail::BoundModel& bound = *detail::data_of(model).bound;
    const auto at = static_cast<int>(std::find(bound.parameters.begin(), bound.parameters.end(), c.parameter) -
                                     bound.parameters.begin());
    const detail::Scales s = few_scales(model);
    EXPECT_NEAR(detail::candidate_value(bound, at, 0.1, 0, s) / c.lowest, 1, 1e-12);
    EXPECT_NEAR(detail::candidate_value(bound, at, 0.49, 1 - 1e-15, s) / c.highest, 1, 1e-12);
    const double wide = detail::candidate_value(bound, at, 0.55, 0.5, s);  // the smallest of the upper sign
    const double widest = detail::candidate_value(bound, at, 0.55, 1 - 1e-15, s);
    const bool signs = std::string(c.parameter) != "tau";
    if (signs) {
      EXPECT_NEAR(wide / c.wide_lowest, 1, 1e-12);
      EXPECT_NEAR(detail::candidate_value(bound, at, 0.55, 0, s), -c.wide_lowest, 1e-9 * c.wide_lowest);
    }
    EXPECT_NEAR(widest / c.wide_highest, 1, 1e-9);
    // Three of ten may be anything, in the unit of the part.
    const double unit = std::string(c.parameter) == "k" ? 1.0 / 60 : 60;
    const double farthest = std::string(c.parameter) == "k" ? 1e4 : 1e3;
    for (const double kind : {0.7, 0.75, 0.85, 0.95}) {
      EXPECT_NEAR(detail::candidate_value(bound, at, kind, 0, s) / (-1e-4 * unit), 1, 1e-12) << kind;
      EXPECT_NEAR(detail::candidate_value(bound, at, kind, 1 - 1e-15, s) / (farthest * unit), 1, 1e-9) << kind;
    }
  }
  // Frequencies keep below half the mean rate of the rows.
  const Model wave = Model::written("y = a*sin(2*pi*f*x + phi)", {"x"});
  const detail::BoundModel& bound = *detail::data_of(wave).bound;
  const auto f =
      static_cast<int>(std::find(bound.parameters.begin(), bound.parameters.end(), "f") - bound.parameters.begin());
  const auto phi =
      static_cast<int>(std::find(bound.parameters.begin(), bound.parameters.end(), "phi") - bound.parameters.begin());
  const detail::Scales s = few_scales(wave);
  EXPECT_NEAR(detail::candidate_value(bound, f, 0.1, 1 - 1e-15, s), 9.0 / 80 / 2, 1e-9);
  EXPECT_NEAR(detail::candidate_value(bound, f, 0.1, 0, s), 1.0 / 80 / 2 / 4, 1e-9) << "an eighth of an oscillation";
  EXPECT_NEAR(detail::candidate_value(bound, phi, 0.1, 0, s), -std::numbers::pi, 1e-12);
  EXPECT_NEAR(detail::candidate_value(bound, phi, 0.6, 1, s), std::numbers::pi, 1e-12);
}

// What is raised to a power of x is positive, wherever it is looked for; a factor may have either sign beyond the
// likely half, at every place in its range.
TEST(Search, DrawsWhereTheCurveIsDefined) {
  const Model model = Model::written("y = a*b^x + c*exp(-k*x)", {"x"});
  const detail::BoundModel& bound = *detail::data_of(model).bound;
  const auto index = [&bound](const char* name) {
    return static_cast<int>(std::find(bound.parameters.begin(), bound.parameters.end(), name) -
                            bound.parameters.begin());
  };
  const detail::Scales s = few_scales(model);
  std::set<bool> rises;
  std::set<bool> negative;
  for (double kind = 0.05; kind < 1; kind += 0.1) {
    for (double place = 0; place < 1; place += 0.01) {
      const double base = detail::candidate_value(bound, index("b"), kind, place, s);
      ASSERT_GT(base, 0) << kind << " " << place;
      rises.insert(base > 1);
      // exp(±u/largest): over the rows by a factor of e to the power of 100, or of 1000.
      EXPECT_LE(std::abs(std::log(base)) * 60, kind < 0.7 ? 100.1 : 1000.1);
      const double rate = detail::candidate_value(bound, index("k"), kind, place, s);
      EXPECT_NE(rate, 0);
      if (kind < 0.5) EXPECT_GT(rate, 0);
      if (kind > 0.5) negative.insert(rate < 0);
    }
  }
  EXPECT_EQ(rises.size(), 2u);
  EXPECT_EQ(negative.size(), 2u);
}

// A parameter is told from a level stretch by its uncertainty against its value, whichever sign that has.
TEST(Search, KnowsAScaleByItsUncertainty) {
  const Model model = Model::written("y = a*exp(-x/tau)", {"x"});
  const detail::BoundModel& bound = *detail::data_of(model).bound;
  const detail::Box box = detail::Box::open(2);
  detail::FreeColumns columns{.r = detail::SmallMatrix(2, 2), .order = {1, 0}};
  columns.r << 0.5, 0, 0, 0.25;  // u of 2 for tau, of 4 for a
  for (const double tau : {0.39, 0.41}) {
    for (const double sign : {1.0, -1.0}) {
      detail::SmallVector theta(2);
      theta << 0.1, sign * tau;
      EXPECT_EQ(detail::tells_scales(columns, bound, {1}, box, theta, 1), tau > 0.4) << theta[1];
      EXPECT_TRUE(detail::tells_scales(columns, bound, {1}, box, theta, 0.9));
      EXPECT_TRUE(detail::tells_scales(columns, bound, {}, box, theta, 2));  // a is solved for, not sought
    }
  }
}

}  // namespace
}  // namespace truecurve
