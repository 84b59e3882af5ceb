// Straightened axes, each against the line it stands for.

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

using Function = std::function<double(double)>;

// The residual squares of z in a model of the columns g (the axis) and q (the bend).
double squares_of(const char* model, const std::vector<std::string>& predictors, const Table& table) {
  return fit(Model::written(model), Observations(table, {.response = "z", .predictors = predictors})).chi_squared();
}

// Every way is the line through the transformed points; what bend is left is the F of a square of x added to it.
TEST(Straightening, IsTheLineInItsAxes) {
  RandomNumbers random(4);
  std::vector<double> x, y;
  for (int i = 0; i < 16; ++i) {
    x.push_back(0.4 + 0.35 * i);
    y.push_back(7 * std::exp(-0.3 * x.back()) * (1 + 0.02 * random.normal()));
  }
  const Function same = [](double v) { return v; };
  const Function ln = [](double v) { return std::log(v); };
  const Function inverse = [](double v) { return 1 / v; };
  const Function root = [](double v) { return std::sqrt(v); };
  const Function square = [](double v) { return v * v; };
  // The axes of each way, and the slope of its left side by y, by which densities of y follow.
  struct Axes {
    Function of_x, of_y, slope;
    std::string across;
  };
  const Function one = [](double) { return 1.0; };
  const Function by_ln = inverse;
  const Function by_inverse = [](double v) { return 1 / (v * v); };
  const std::map<std::string, Axes> known = {
      {"a straight line", {same, same, one, "x"}},
      {"an exponential", {same, ln, by_ln, "x"}},
      {"a power", {ln, ln, by_ln, "ln(x)"}},
      {"an Arrhenius curve", {inverse, ln, by_ln, "1/x"}},
      {"a saturation curve", {inverse, inverse, by_inverse, "1/x"}},
      {"a logarithm", {ln, same, one, "ln(x)"}},
      {"a reciprocal", {inverse, same, one, "1/x"}},
      {"a square root", {root, same, one, "sqrt(x)"}},
      {"reciprocal of a linear function", {same, inverse, by_inverse, "x"}},
      {"a parabola that touches the axis", {same, root, [](double v) { return 1 / (2 * std::sqrt(v)); }, "x"}},
      {"square root of a linear function", {same, square, [](double v) { return 2 * v; }, "x"}}};
  const std::vector<Straightening> ways = straightenings(Observations::of(x, y));
  std::vector<double> bend;
  for (const double at : x) bend.push_back(std::pow(at - 3.025, 2));  // about the mean
  ASSERT_EQ(ways.size(), known.size());
  EXPECT_EQ(ways.front().meaning, "an exponential");
  std::map<std::string, double> aicc;
  for (const Straightening& way : ways) {
    const Axes& axes = known.at(way.meaning);
    EXPECT_EQ(way.across, axes.across);
    std::vector<double> across, up;
    double log_slopes = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
      across.push_back(axes.of_x(x[i]));
      up.push_back(axes.of_y(y[i]));
      log_slopes += std::log(axes.slope(y[i]));
      EXPECT_DOUBLE_EQ(way.places[static_cast<Eigen::Index>(i)], across.back()) << way.meaning;
    }
    const Table points = Table::from_columns({{"z", "", up}, {"g", "", across}, {"q", "", bend}});
    const double line = squares_of("z = a + b*g", {"g"}, points);
    const double parabola = squares_of("z = a + b*g + c*q", {"g", "q"}, points);
    EXPECT_NEAR(way.fit.chi_squared(), line, 1e-9 * line) << way.meaning;
    EXPECT_NEAR(way.curvature_p, f_upper((line - parabola) / (parabola / 13), 1, 13), 1e-7) << way.meaning;
    EXPECT_EQ(way.sentence.ends_with(", still curved"), way.curvature_p < 0.05) << way.sentence;
    // Lines of 16 rows: k = 3 with the scatter.
    const double n = 16;
    aicc[way.meaning] = n * (std::log(2 * M_PI * line / n) + 1) - 2 * log_slopes + 6 + 24 / (n - 4);
  }
  const double best = aicc.at("an exponential");
  double last = 0;
  for (const Straightening& way : ways) {
    EXPECT_NEAR(way.delta_aicc, aicc.at(way.meaning) - best, 1e-7) << way.meaning;
    if (way.delta_aicc > 2) {
      EXPECT_GE(way.delta_aicc, last) << "best first";
      last = way.delta_aicc;
    }
  }
}

// What the rows can't tell apart stands in one order, the plainest axes first.
TEST(Straightening, StandsInOrderWhereTheRowsDoNotTell) {
  const VectorXd x = VectorXd::LinSpaced(9, 100, 101);
  const VectorXd y = 7 + 2 * x.array() + test::vector({1, -1, 0.5, 1, -2, 1, 0, -1, 1}).array();
  std::string order;
  for (const Straightening& way : straightenings(Observations::of(x, y))) {
    EXPECT_LT(way.delta_aicc, 2);
    order += way.sentence + "\n";
  }
  EXPECT_EQ(order,
            "y against x: a straight line\nln y against x: an exponential\nln y against ln x: a power\n"
            "ln y against 1/x: an Arrhenius curve\n1/y against 1/x: a saturation curve\n"
            "y against ln x: a logarithm\ny against 1/x: a reciprocal\ny against √x: a square root\n"
            "1/y against x: reciprocal of a linear function\n√y against x: a parabola that touches the axis\n"
            "y² against x: square root of a linear function\n");
}

// Of a pair of columns with five rows or more.
// Beyond 2 in AICc the better way goes first, within 2 the commoner.
TEST(Straightening, StandsInOrderOfAiccBeyondTwo) {
  int between = 0;
  for (int set = 0; set < 12; ++set) {
    std::vector<double> x, y;
    for (int i = 1; i <= 12; ++i) {
      x.push_back(i);
      y.push_back(std::sqrt(2.0 + i) + 0.005 * (set + 1) * ((i * i * 7 + set * i * 5 + set) % 11 - 5));
    }
    double last = 0;
    for (const Straightening& way : straightenings(Observations::of(x, y))) {
      EXPECT_TRUE(way.delta_aicc < 2 ? last < 2 : way.delta_aicc >= last) << set << ": " << way.sentence;
      between += way.delta_aicc >= 2 && way.delta_aicc < 3;
      last = way.delta_aicc;
    }
  }
  EXPECT_GT(between, 3);
}

// Events are looked at as the shares that they are: with a parabola where nothing straightens them.
TEST(Straightening, TakesEventsAsNumbers) {
  std::vector<double> x, waves;
  for (int i = 0; i < 10; ++i) {
    x.push_back(1 + i);
    waves.push_back(std::floor(1000 + 600 * std::sin(x.back())));
  }
  const Observations rows = Observations::counted(x, waves, std::vector<double>(10, 2000), ResponseKind::events);
  const Straightening line{.model = "y = a + b*x", .fit = fit(shape_model("line"), rows, {.events_as_numbers = true})};
  const std::string said = straightness_sentence(rows, std::span(&line, 1));
  EXPECT_TRUE(has(said, "parabola"));
  // Named are the ways within two of the best that are straight, three at most.
  const Observations level = Observations::of({1, 2, 3, 4, 5, 6}, {2.1, 3.95, 5.9, 8.15, 10.05, 11.9});
  std::vector<Straightening> straight;
  for (const auto& [model, delta] : {std::pair{"A", 0.0}, {"B", 1.9}, {"C", 2.1}, {"D", 1.5}, {"E", 1.6}})
    straight.push_back({.model = model, .delta_aicc = delta, .fit = fit(shape_model("line"), level)});
  EXPECT_EQ(straightness_sentence(level, straight),
            "No departure from a straight line was detected of A, nor of B, nor of D.");
  // Five rows that bend, too few for their runs.
  const Observations bent = Observations::of({1, 2, 3, 4, 5}, {1.01, 3.98, 9.02, 15.99, 25.01});
  const Straightening other{.model = "y = a + b*x", .fit = fit(shape_model("line"), bent)};
  EXPECT_TRUE(
      straightness_sentence(bent, std::span(&other, 1)).starts_with("None of these axes straightens the points"));
}

// Rows that a logarithm can't take are named where there are some, and others.
TEST(Straightening, NamesRowsThatALogarithmCanNotTake) {
  const auto said = [](const Vector& x, const Vector& y) {
    std::vector<std::string> texts;
    for (const Advice& remark : look_remarks(Observations::of(x, y))) texts.push_back(remark.text());
    return texts;
  };
  const std::string taken = "Without this row these axes are tried as well.";
  EXPECT_TRUE(said({1, 2, 3, 4}, {1, 2, 4, 5}).empty());
  EXPECT_TRUE(said({-1, -2, -3, 0}, {1, 2, 4, 5}).empty()) << "all";
  EXPECT_EQ(said({1, 2, 0, 4}, {1, 2, 4, 5}),
            (std::vector<std::string>{
                "'x' is zero or negative in row 3: a logarithm or reciprocal of it can't take it. " + taken}));
  EXPECT_TRUE(said({1, 2, 3, 4}, {-1, 2, 4, 0}).at(0).starts_with("'y' is zero or negative in rows 1, 4: a log"));
}

// How the scatter changes is looked at about the polynomial of lowest AICc, and not the most flexible one.
TEST(Straightening, SaysHowTheScatterGrowsAboutASmoothCurve) {
  std::vector<double> x, y;
  for (int i = 1; i <= 13; ++i) {
    x.push_back(i);
    y.push_back(20 + 2 * i + 0.01 * i * i * ((i * 7) % 5 - 2));
  }
  const std::vector<Advice> remarks = look_remarks(Observations::of(x, y));
  ASSERT_EQ(remarks.size(), 1u);
  EXPECT_TRUE(remarks[0].text().starts_with("The scatter about a smooth curve grows with 'y'")) << remarks[0].text();
}

TEST(Straightening, NeedsFiveRowsOfOnePredictor) {
  const Vector x = {1, 2, 3, 4, 5};
  const Vector y = {2.1, 3.9, 6.2, 8.1, 9.7};
  EXPECT_FALSE(straightenings(Observations::of(x, y)).empty());
  EXPECT_TRUE(straightenings(Observations::of({1, 2, 3, 4}, {2.1, 3.9, 6.2, 8.1})).empty());
  EXPECT_TRUE(
      straightenings(Observations::of_columns({"y", "", y}, {{"x", "", x}, {"z", "", {3, 1, 4, 1, 5}}})).empty());
}

// A scatter that changes along a smooth curve is said from eight rows on, and which way it goes.
TEST(Straightening, SaysHowTheScatterChanges) {
  const auto said = [](double power, std::size_t rows) {
    RandomNumbers random(6);
    Vector x(rows), y(rows);
    for (std::size_t i = 0; i < rows; ++i) {
      x[i] = static_cast<double>(i + 1) / static_cast<double>(rows);
      const double curve = 1 + 20 * x[i];
      y[i] = curve + 0.5 * std::pow(curve / 10, power) * random.normal();
    }
    std::string all;
    for (const Advice& remark : look_remarks(Observations::of(x, y))) all += remark.text() + "\n";
    return all;
  };
  EXPECT_TRUE(has(said(2, 60), "The scatter about a smooth curve grows with 'y' (p = "));
  EXPECT_TRUE(has(said(-1.5, 60), "The scatter about a smooth curve shrinks with 'y' (p = "));
  EXPECT_FALSE(has(said(0, 60), "The scatter"));
  EXPECT_FALSE(has(said(2, 7), "The scatter"));
}

TEST(Straightening, RecogniseTheCurveAndNameWhatForbidsIt) {
  RandomNumbers random(9);
  const VectorXd x = VectorXd::LinSpaced(25, 0.5, 8);
  const auto best_of = [&](auto curve) {
    VectorXd y(25);
    for (Index i = 0; i < 25; ++i) y[i] = curve(x[i]) * (1 + 0.005 * random.normal());
    return straightenings(Observations::of(x, y)).front().meaning;
  };
  EXPECT_EQ(best_of([](double t) { return 3 + 2 * t; }), "a straight line");
  EXPECT_EQ(best_of([](double t) { return 3 * std::exp(-0.5 * t); }), "an exponential");
  EXPECT_EQ(best_of([](double t) { return 3 * std::pow(t, 1.7); }), "a power");
  EXPECT_EQ(best_of([](double t) { return 9 * t / (2 + t); }), "a saturation curve");
  EXPECT_EQ(best_of([](double t) { return 2 + std::log(t + 0) * 1.3; }), "a logarithm");
  VectorXd zeros = x;
  zeros[4] = 0;
  const auto remarks = look_remarks(Observations::of(x, zeros));
  ASSERT_FALSE(remarks.empty());
  EXPECT_EQ(remarks[0].text(),
            "'y' is zero or negative in row 5: a logarithm or reciprocal of it can't take it. Without this row these "
            "axes are tried as well.");
  ASSERT_EQ(remarks[0].means().size(), 1u);
  EXPECT_EQ(remarks[0].means()[0].argument, "5");
  for (const Straightening& way : straightenings(Observations::of(x, zeros))) EXPECT_FALSE(has(way.model, "ln(y)"));
  // Six rows are named, of more the first six.
  for (const std::size_t count : {2U, 6U, 8U}) {
    VectorXd some = x;
    for (std::size_t i = 0; i < count; ++i) some[static_cast<Eigen::Index>(i)] = -1;
    const Advice said = look_remarks(Observations::of(x, some))[0];
    const std::string begin = count == 2   ? "'y' is zero or negative in rows 1, 2: a logarithm"
                              : count == 6 ? "'y' is zero or negative in rows 1, 2, 3, 4, 5, 6: a logarithm"
                                           : "'y' is zero or negative in rows 1, 2, 3, 4, 5, 6 and 2 more: a logarithm";
    EXPECT_TRUE(said.text().starts_with(begin)) << said.text();
    EXPECT_EQ(said.means().size(), count > 6 ? 0u : 1u);
  }
}

}  // namespace
}  // namespace truecurve
