// What figures show is where it belongs: points, curves, bands and limits are read back from the pictures through the
// numbers on their axes.
#include <truecurve/figure/calibration_figure.hpp>
#include <truecurve/figure/censored_figure.hpp>
#include <truecurve/figure/checks_figure.hpp>
#include <truecurve/figure/comparison_figure.hpp>
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/figure/look_figure.hpp>
#include <truecurve/figure/profile_figure.hpp>
#include <truecurve/io/csv.hpp>

#include "../support.hpp"
#include "picture.hpp"

namespace truecurve {
namespace {

using test::Panel;
using test::Path;
using test::Picture;
using test::Pixel;

// Pixels are written to a hundredth, curves are drawn in short straight pieces.
constexpr double sharp = 0.1;
constexpr double smooth = 0.5;
const std::string dark = "#183E70";
const std::string curve_colour = "#BC5214";
const std::string confidence_colour = "#F3C79E";
const std::string prediction_colour = "#FAECDB";

template <typename Draw>
Picture drawn(Draw draw) {
  const test::TemporaryFolder folder;
  draw(folder / "figure.svg");
  return Picture(folder / "figure.svg");
}

// A point is drawn once a row, at its place.
template <typename X, typename Y>
void expect_points(const Picture& picture, const Panel& panel, const X& x, const Y& y, const std::string& colour) {
  std::vector<Pixel> seen = picture.discs(panel, colour);
  ASSERT_EQ(seen.size(), static_cast<std::size_t>(x.size()));
  for (int i = 0; i < static_cast<int>(x.size()); ++i) {
    const Pixel wanted{panel.x(x[i]), panel.y(y[i])};
    const auto nearest = std::min_element(seen.begin(), seen.end(), [&](const Pixel& a, const Pixel& b) {
      return std::hypot(a.x - wanted.x, a.y - wanted.y) < std::hypot(b.x - wanted.x, b.y - wanted.y);
    });
    EXPECT_NEAR(nearest->x, wanted.x, sharp) << i;
    EXPECT_NEAR(nearest->y, wanted.y, sharp) << i;
    seen.erase(nearest);
  }
}

// Every corner of a line lies on a curve, and the line reaches from one side of the panel to the other.
template <typename Curve>
void expect_curve(const Panel& panel, const std::vector<Path>& lines, Curve curve) {
  ASSERT_FALSE(lines.empty());
  double left = panel.right;
  double right = panel.left;
  for (const Path& line : lines) {
    for (const Pixel& p : line) {
      EXPECT_NEAR(p.y, panel.y(curve(panel.x_value(p.x))), smooth) << panel.x_value(p.x);
      left = std::min(left, p.x);
      right = std::max(right, p.x);
    }
  }
  EXPECT_NEAR(left, panel.left, 1);
  EXPECT_NEAR(right, panel.right, 1);
}

// Every corner of an area lies on its upper or its lower edge, and both are met.
template <typename Edges>
void expect_band(const Panel& panel, const Path& corners, Edges edges) {
  ASSERT_GE(corners.size(), 4u);
  int lower = 0, upper = 0;
  for (const Pixel& p : corners) {
    const Interval at = edges(panel.x_value(p.x));
    const double below = std::abs(p.y - panel.y(at.low));
    const double above = std::abs(p.y - panel.y(at.high));
    EXPECT_LT(std::min(below, above), smooth) << panel.x_value(p.x);
    ++(below < above ? lower : upper);
  }
  EXPECT_GE(lower, 2);
  EXPECT_GE(upper, 2);
}

std::vector<double> first_of(const Observations& rows) { return {rows.predictor(0).begin(), rows.predictor(0).end()}; }

Fit line_with_uncertainties() {
  return fit(shape_model("line"), Observations::of(Eigen::Vector4d(1, 2, 3, 4), Eigen::Vector4d(3.1, 4.9, 7.2, 8.8),
                                                   Eigen::Vector4d(0.1, 0.2, 0.1, 0.3)));
}

TEST(FitFigure, ShowsPointsBarsCurveBandsAndResiduals) {
  const Fit made = line_with_uncertainties();
  const Picture picture =
      drawn([&](const auto& file) { draw_fit(made, file, {.start = {}, .layout = {.title = "A line"}}); });
  ASSERT_EQ(picture.panels().size(), 2u);
  const Panel& main = picture.panels()[0];
  const Panel& beneath = picture.panels()[1];
  const VectorXd x = as_eigen(made.observations().predictor(0));
  const VectorXd y = as_eigen(made.observations().responses());
  const VectorXd u = as_eigen(made.observations().uncertainties());
  expect_points(picture, main, x, y, dark);
  const double a = made.estimate().parameters()[0];
  const double b = made.estimate().parameters()[1];
  const auto line = [&](double at) { return a + b * at; };
  expect_points(picture, beneath, x, (y.array() - a - b * x.array()).matrix(), dark);
  expect_curve(main, picture.lines(main, curve_colour, 2.2), line);
  expect_curve(beneath, picture.lines(beneath, curve_colour, 2.2), [](double) { return 0; });
  // The band of a weighted line, by hand: k sqrt(1/S + (x - xm)²/Sxx).
  const VectorXd w = u.array().square().inverse();
  const double mean = w.dot(x) / w.sum();
  const double sxx = w.dot((x.array() - mean).square().matrix());
  const double k = normal_quantile(0.975);
  expect_band(main, picture.corners(main, confidence_colour), [&](double at) {
    const double half = k * std::sqrt(1 / w.sum() + (at - mean) * (at - mean) / sxx);
    return Interval{line(at) - half, line(at) + half};
  });
  // At a row a new reading has the row's uncertainty.
  const double half = k * std::sqrt(1 / w.sum() + (2 - mean) * (2 - mean) / sxx + 0.2 * 0.2);
  double nearest = 1e9;
  for (const Pixel& p : picture.corners(main, prediction_colour)) {
    if (std::abs(p.x - main.x(2)) < 2) nearest = std::min(nearest, std::abs(p.y - main.y(line(2) + half)));
  }
  EXPECT_LT(nearest, 1);
  // A bar from y - u to y + u in both panels.
  for (const Panel& panel : picture.panels()) {
    const double residual = &panel == &main ? y[3] : y[3] - line(4);
    const std::vector<Path> bars = picture.lines(panel, dark, 1.4);
    EXPECT_TRUE(std::any_of(bars.begin(), bars.end(), [&](const Path& bar) {
      return std::abs(bar[0].x - panel.x(4)) < sharp && std::abs(bar[0].y - panel.y(residual - 0.3)) < sharp &&
             std::abs(bar[1].y - panel.y(residual + 0.3)) < sharp;
    }));
  }
  EXPECT_TRUE(picture.says("A line"));
  EXPECT_TRUE(picture.says("measured ± standard uncertainty"));
  EXPECT_TRUE(picture.says("95 % prediction band"));
}

TEST(FitFigure, ShowsWhereASearchBeganAndAPreview) {
  const Observations rows =
      Observations::of(VectorXd::LinSpaced(6, 0, 5), test::vector({10.1, 6.0, 3.7, 2.2, 1.4, 0.8}));
  const Model model = Model::written("y = A*exp(-k*x)");
  const Preview guess = preview(model, rows, {.starts = {{"A", 8}, {"k", 0.4}}});
  const auto start = [](double x) { return 8 * std::exp(-0.4 * x); };
  const Picture alone = drawn([&](const auto& file) { draw_preview(guess, rows, file); });
  const Panel& main = alone.panels()[0];
  expect_curve(main, alone.lines(main, curve_colour, 2.2), start);
  expect_points(alone, main, first_of(rows), rows.responses(), dark);
  std::vector<double> residuals;
  for (std::size_t i = 0; i < 6; ++i) residuals.push_back(rows.responses()[i] - start(rows.predictor(0)[i]));
  expect_points(alone, alone.panels()[1], first_of(rows), residuals, dark);
  EXPECT_TRUE(alone.says("curve at its starting values, not fitted"));
  EXPECT_FALSE(alone.says("band"));
  const Fit made = fit(model, rows);
  const Picture both = drawn([&](const auto& file) { draw_fit(made, file, {.start = guess.estimate}); });
  const auto value = [&](double x) { return made.parameter("A").value * std::exp(-made.parameter("k").value * x); };
  expect_curve(both.panels()[0], both.lines(both.panels()[0], curve_colour, 2.2), value);
  const std::vector<Path> dashes = both.lines(both.panels()[0], "#262C34", 2.2);
  ASSERT_GT(dashes.size(), 10u);
  for (const Path& dash : dashes) {
    for (const Pixel& p : dash) EXPECT_NEAR(p.y, both.panels()[0].y(start(both.panels()[0].x_value(p.x))), smooth);
  }
}

TEST(FitFigure, ShowsEventsAsSharesWithTheirCurve) {
  const auto table = Table::from_columns({{"depth", "mm", {1, 2, 3, 4, 5, 6}},
                                          {"there", "", {20, 20, 20, 20, 20, 20}},
                                          {"found", "", {1, 4, 8, 13, 17, 19}}});
  const Observations rows(table, {.response = "found",
                                  .predictors = {"depth"},
                                  .counting = {.kind = ResponseKind::events, .size_column = "there"}});
  const Fit made = fit(shape_model("share-logistic", "depth", "found"), rows);
  const Picture picture = drawn([&](const auto& file) { draw_fit(made, file); });
  const Panel& main = picture.panels()[0];
  expect_points(picture, main, std::vector<double>{1, 2, 3, 4, 5, 6},
                std::vector<double>{0.05, 0.2, 0.4, 0.65, 0.85, 0.95}, dark);
  const double m = made.parameter("m").value;
  const double w = made.parameter("w").value;
  expect_curve(main, picture.lines(main, curve_colour, 2.2), [&](double x) { return 1 / (1 + std::exp((m - x) / w)); });
}

TEST(ChecksFigure, ShowsResidualsTheirScatterTheirDistributionAndTheirOrder) {
  const VectorXd x = VectorXd::LinSpaced(9, 1, 9);
  const VectorXd y = test::vector({1.9, 4.3, 5.8, 8.4, 9.7, 12.6, 13.6, 16.5, 17.8});
  const std::vector<double> when = {9, 8, 7, 6, 5, 4, 3, 2, 1};
  const Table table =
      Table::from_columns({{"x", "", {x.begin(), x.end()}}, {"y", "", {y.begin(), y.end()}}, {"when", "", when}});
  const Fit made =
      fit(shape_model("line"), Observations(table, {.response = "y", .predictors = {"x"}, .order = "when"}));
  const Picture picture = drawn([&](const auto& file) { draw_checks(made, file); });
  ASSERT_EQ(picture.panels().size(), 3u);
  // Standardized by hand: r / (s sqrt(1 - h)), h of a line.
  const double a = made.estimate().parameters()[0];
  const double b = made.estimate().parameters()[1];
  const VectorXd r = y.array() - a - b * x.array();
  const double s = std::sqrt(r.squaredNorm() / 7);
  const VectorXd h = 1.0 / 9 + (x.array() - 5).square() / (x.array() - 5).square().sum();
  const VectorXd z = r.array() / (s * (1 - h.array()).sqrt());
  const auto is_left = [](const Panel& p, const Panel& q) { return p.left < q.left; };
  std::vector<Panel> upper;
  for (const Panel& panel : picture.panels()) {
    if (panel.bottom > 250) upper.push_back(panel);
  }
  ASSERT_EQ(upper.size(), 2u);
  std::sort(upper.begin(), upper.end(), is_left);
  expect_points(picture, upper[0], x, z, dark);
  expect_band(upper[0], picture.corners(upper[0], prediction_colour), [](double) { return Interval{-2, 2}; });
  // How many lie in each half: bars from 0 to the count.
  std::map<int, int> counts;
  for (const double value : z) ++counts[static_cast<int>(std::floor(2 * value))];
  const Path bars = picture.corners(upper[1], "#AAC4DE");
  EXPECT_EQ(bars.size(), 4 * counts.size());
  for (const Pixel& corner : bars) {
    const double count = upper[1].x_value(corner.x);
    bool is_edge = std::abs(count) < 0.02;
    for (const auto& [bin, number] : counts) {
      const double above = (corner.y - upper[0].y(0.5 * bin)) / (upper[0].y(0.5) - upper[0].y(0));
      is_edge = is_edge || (above > 0 && above < 1 && std::abs(count - number) < 0.02);
    }
    EXPECT_TRUE(is_edge) << count;
  }
  // The order is that of the column, not of the rows.
  const Panel& order = *std::min_element(picture.panels().begin(), picture.panels().end(),
                                         [](const Panel& p, const Panel& q) { return p.bottom < q.bottom; });
  expect_points(picture, order, when, z, dark);
  EXPECT_TRUE(picture.says("order of measurement"));
}

// The scatter found is twice the root of the smoothed squares; of few places that of their mean.
TEST(ChecksFigure, FindsTheScatterAlongEachPredictor) {
  std::vector<double> p, q, y;
  for (int i = 0; i < 40; ++i) {
    p.push_back(i);
    q.push_back(i % 3);
    y.push_back(2 + i + 3 * q.back() + 0.02 * (i + 1) * std::sin(5.0 * i * i));
  }
  const Table table = Table::from_columns({{"p", "", p}, {"q", "", q}, {"y", "", y}});
  const Fit made =
      fit(Model::written("y = a + b*p + c*q"), Observations(table, {.response = "y", .predictors = {"p", "q"}}));
  const Picture picture = drawn([&](const auto& file) { draw_checks(made, file); });
  ASSERT_EQ(picture.panels().size(), 4u);
  std::vector<Panel> upper;
  for (const Panel& panel : picture.panels()) {
    if (panel.bottom > 250) upper.push_back(panel);
  }
  std::sort(upper.begin(), upper.end(), [](const Panel& one, const Panel& other) { return one.left < other.left; });
  const Vector z = row_measures(made).standardized;
  expect_points(picture, upper[0], p, z, dark);
  expect_points(picture, upper[1], q, z, dark);
  std::vector<double> squares;
  double mean = 0;
  for (const double value : z) {
    squares.push_back(value * value);
    mean += value * value / 40;
  }
  const SmoothGuide guide = smooth_guide(p, squares, 101, 0.75);
  EXPECT_GT(guide.y[100], 2 * guide.y[0]);
  const auto near = [&](const Panel& panel, double at, double level) {
    bool found = false;
    for (const Path& line : picture.lines(panel, curve_colour, 2.2)) {
      for (const Pixel& corner : line)
        found = found || (std::abs(corner.x - panel.x(at)) < 6 && std::abs(corner.y - upper[0].y(level)) < 3);
    }
    return found;
  };
  EXPECT_TRUE(near(upper[0], guide.x[100], 2 * std::sqrt(guide.y[100])));
  EXPECT_TRUE(near(upper[0], guide.x[100], -2 * std::sqrt(guide.y[100])));
  EXPECT_TRUE(near(upper[1], upper[1].x_value(upper[1].right), 2 * std::sqrt(mean)));
}

// One reading far too low: it is seen, and named.
TEST(ChecksFigure, HasRoomForTheFarthestResidual) {
  const VectorXd x = VectorXd::LinSpaced(30, 1, 30);
  VectorXd y(30);
  for (Eigen::Index i = 0; i < 30; ++i) y[i] = x[i] + 0.3 * std::sin(7.0 * static_cast<double>(i * i));
  y[11] -= 5;
  const Fit made = fit(shape_model("line"), Observations::of(x, y));
  const Picture picture = drawn([&](const auto& file) { draw_checks(made, file); });
  const Vector z = row_measures(made).standardized;
  EXPECT_LT(z[11], -4);
  expect_points(picture, picture.panels()[0], x, z, dark);
  EXPECT_TRUE(picture.says("row 12"));
}

TEST(LookFigure, ShowsTheRowsAndTheirStraightenings) {
  std::vector<double> x, y;
  for (int i = 0; i < 12; ++i) {
    x.push_back(300 + 25 * i);
    y.push_back(1e-3 * std::exp(2000 / x.back()) * (i % 2 == 0 ? 1.01 : 0.99));
  }
  const Observations rows = Observations::of(x, y);
  const std::vector<Straightening> ways = straightenings(rows);
  const Picture picture = drawn([&](const auto& file) { draw_look(rows, file); });
  ASSERT_EQ(picture.panels().size(), 4u);
  const auto scatter = std::max_element(picture.panels().begin(), picture.panels().end(),
                                        [](const Panel& a, const Panel& b) { return b.left < a.left; });
  expect_points(picture, *scatter, x, y, dark);
  // The best of them: ln y against 1/x, the points and their line.
  EXPECT_EQ(ways.front().model, "ln(y) = a + b/x");
  const auto best = std::find_if(picture.panels().begin(), picture.panels().end(),
                                 [&](const Panel& panel) { return panel.left > scatter->right; });
  std::vector<double> inverse, logarithm;
  for (std::size_t i = 0; i < x.size(); ++i) {
    inverse.push_back(1 / x[i]);
    logarithm.push_back(std::log(y[i]));
  }
  expect_points(picture, *best, inverse, logarithm, dark);
  const Vector& p = ways.front().fit.estimate().parameters();
  expect_curve(*best, picture.lines(*best, curve_colour, 2.2), [&](double at) { return p[0] + p[1] * at; });
  EXPECT_TRUE(picture.says("ln y against 1/x: an Arrhenius curve"));
}

Calibration lead() {
  const Table table =
      Table::from_columns({{"c", "mg/g", {0, 0, 0, 1, 1, 1, 2, 2, 2, 4, 4, 4}},
                           {"I", "kcps", {1.8, 2.0, 1.9, 8.1, 8.3, 8.25, 14.4, 14.7, 14.35, 27.2, 26.8, 27.1}}});
  return calibrate(readings_of(table, {.amount = "c", .signals = {"I"}}));
}

TEST(CalibrationFigure, ShowsReadingsLevelsBandsAndLimits) {
  const Calibration c = lead();
  const Picture picture = drawn([&](const auto& file) { draw_calibration(c, file); });
  ASSERT_EQ(picture.panels().size(), 1u);
  const Panel& panel = picture.panels()[0];
  std::vector<double> x, y;
  for (const Reading& r : c.used) {
    x.push_back(r.amount);
    y.push_back(r.signal);
  }
  for (const CalibrationLevel& level : c.levels) {  // around which the circles of the level means stand
    x.push_back(level.amount);
    y.push_back(level.mean);
  }
  expect_points(picture, panel, x, y, dark);
  const double a = c.fit.estimate().parameters()[0];
  const double b = c.fit.estimate().parameters()[1];
  expect_curve(panel, picture.lines(panel, curve_colour, 2.2), [&](double at) { return a + b * at; });
  // A line through twelve readings with equal weights, by hand.
  const double s = quality_of(c.fit).residual_sd;
  const double t = student_t_quantile(0.975, 10);
  const auto half = [&](double at, double new_reading) {
    return t * s * std::sqrt(new_reading + 1.0 / 12 + (at - 1.75) * (at - 1.75) / 26.25);
  };
  expect_band(panel, picture.corners(panel, confidence_colour), [&](double at) {
    return Interval{a + b * at - half(at, 0), a + b * at + half(at, 0)};
  });
  expect_band(panel, picture.corners(panel, prediction_colour), [&](double at) {
    return Interval{a + b * at - half(at, 1), a + b * at + half(at, 1)};
  });
  // The mean of three readings with its t interval.
  const std::vector<Path> bars = picture.lines(panel, dark, 1.4);
  const double reach = student_t_quantile(0.975, 2) * std::sqrt(0.13 / 3 / 3);  // of 27.2, 26.8, 27.1: s² = 0.0433
  EXPECT_TRUE(std::any_of(bars.begin(), bars.end(), [&](const Path& bar) {
    return std::abs(bar[0].x - panel.x(4)) < sharp && std::abs(bar[0].y - panel.y(81.1 / 3 - reach)) < sharp &&
           std::abs(bar[1].y - panel.y(81.1 / 3 + reach)) < sharp;
  })) << reach;
  // The limits of the route with stated errors, as upright lines.
  const LimitRoute& route = route_of(c, "critical value and power");
  for (const double limit : {route.detection, route.quantitation}) {
    double drawn_length = 0;
    for (const Path& dash : picture.lines(panel, "#78808A", 1)) {
      if (std::abs(dash[0].x - panel.x(limit)) < sharp) drawn_length += std::abs(dash.back().y - dash[0].y);
    }
    EXPECT_GT(drawn_length, 0.4 * (panel.top - panel.bottom)) << limit;
  }
  EXPECT_TRUE(picture.says("detection limit"));
}

TEST(CalibrationFigure, ShowsResidualsByLevelWithTheAssumedScatter) {
  const Calibration c = lead();
  const Picture picture = drawn([&](const auto& file) { draw_calibration_residuals(c, file); });
  ASSERT_EQ(picture.panels().size(), 2u);
  const double a = c.fit.estimate().parameters()[0];
  const double b = c.fit.estimate().parameters()[1];
  std::vector<double> x, residuals, sizes;
  for (const Reading& r : c.used) {
    x.push_back(r.amount);
    residuals.push_back(r.signal - a - b * r.amount);
    sizes.push_back(std::abs(residuals.back()));
  }
  expect_points(picture, picture.panels()[0], x, residuals, dark);
  for (const CalibrationLevel& level : c.levels) {
    x.push_back(level.amount);
    sizes.push_back(level.sd);
  }
  expect_points(picture, picture.panels()[1], x, sizes, dark);
  const std::vector<Path> scatter = picture.lines(picture.panels()[1], curve_colour, 2.2);
  ASSERT_FALSE(scatter.empty());
  EXPECT_NEAR(scatter[0][0].y, picture.panels()[1].y(quality_of(c.fit).residual_sd), sharp);
}

TEST(CalibrationFigure, ShowsHowAnUnknownIsRead) {
  const Calibration c = lead();
  const Table unknowns = Table::from_columns({{"I1", "kcps", {10.0}}, {"I2", "kcps", {10.3}}});
  const Quantities read =
      quantify(c.curve, readings_of(unknowns, {.signals = {"I1", "I2"}, .otherwise = ReadingKind::sample}));
  ASSERT_EQ(read.unknowns.size(), 1u) << "one sample";
  const Quantified& unknown = read.unknowns[0];
  const Picture picture =
      drawn([&](const auto& file) { draw_reading(c.curve, unknown, c.readings.amount, c.readings.signal, file); });
  const Panel& panel = picture.panels()[0];
  expect_points(picture, panel, std::vector<double>{unknown.amount.amount}, std::vector<double>{10.15}, dark);
  // The shaded interval reaches from the axis to the signal.
  Path corners = picture.corners(panel, "#DEE2E7");
  ASSERT_GE(corners.size(), 4u);
  const auto [left, right] =
      std::minmax_element(corners.begin(), corners.end(), [](const Pixel& p, const Pixel& q) { return p.x < q.x; });
  EXPECT_NEAR(left->x, panel.x(unknown.amount.interval.low), smooth);
  EXPECT_NEAR(right->x, panel.x(unknown.amount.interval.high), smooth);
  // The interval ends where the signal leaves the band of the mean of two readings.
  expect_band(panel, picture.corners(panel, prediction_colour),
              [&](double at) { return signal_at(c.curve, at, 2).prediction; });
  EXPECT_TRUE(picture.says("of the mean of 2 new readings"));
  Quantified beyond = unknown;
  beyond.amount.amount = not_a_number;
  EXPECT_EQ(test::caught([&] { draw_reading(c.curve, beyond, {}, {}, "never.svg"); }).code(), ErrorCode::bad_argument);
}

TEST(ComparisonFigure, ShowsCurvesResidualsAndTheCriterion) {
  const VectorXd x = VectorXd::LinSpaced(10, 1, 10);
  const VectorXd y = test::vector({3.1, 5.6, 7.2, 8.1, 9.1, 9.7, 10.5, 10.8, 11.5, 11.9});
  const Observations rows = Observations::of(x, y);
  const Comparison comparison =
      compare(std::vector<Fit>{fit(shape_model("line"), rows), fit(shape_model("logarithm"), rows)});
  const Candidate& best = comparison.candidates[0];
  ASSERT_EQ(best.name, "logarithm");
  const Picture overlay = drawn([&](const auto& file) { draw_comparison(comparison, file); });
  const Panel& panel = overlay.panels()[0];
  expect_points(overlay, panel, x, y, dark);
  const Vector& p = best.fit.estimate().parameters();
  expect_curve(panel, overlay.lines(panel, curve_colour, 2.2), [&](double at) { return p[0] + p[1] * std::log(at); });
  const Vector& q = comparison.candidates[1].fit.estimate().parameters();
  const std::vector<Path> dashes = overlay.lines(panel, "#006E96", 2.2);
  ASSERT_GT(dashes.size(), 5u);
  for (const Path& dash : dashes) EXPECT_NEAR(dash[0].y, panel.y(q[0] + q[1] * panel.x_value(dash[0].x)), smooth);
  EXPECT_TRUE(overlay.says("lowest AICc, suggested"));

  const Picture residuals = drawn([&](const auto& file) { draw_comparison_residuals(comparison, file); });
  ASSERT_EQ(residuals.panels().size(), 2u);
  for (std::size_t i = 0; i < 2; ++i)
    expect_points(residuals, residuals.panels()[i], x, comparison.candidates[i].fit.response_residuals(), dark);

  const Picture criterion = drawn([&](const auto& file) { draw_criterion(comparison, file); });
  ASSERT_EQ(criterion.panels().size(), 1u);
  const Panel& dots = criterion.panels()[0];
  const std::vector<Pixel> suggested = criterion.discs(dots, curve_colour);
  ASSERT_EQ(suggested.size(), 1u);
  EXPECT_NEAR(suggested[0].x, dots.x(0), sharp);
  EXPECT_NEAR(suggested[0].y, dots.bottom + 0.75 * (dots.top - dots.bottom), sharp) << "the best is above";
  const double behind = comparison.candidates[1].delta_aicc;
  if (behind > 30) {
    EXPECT_TRUE(criterion.says("→"));
  } else {
    ASSERT_EQ(criterion.discs(dots, dark).size(), 1u);
    EXPECT_NEAR(criterion.discs(dots, dark)[0].x, dots.x(behind), sharp);
  }
  EXPECT_TRUE(criterion.says(fmt::format("{:.1f}", behind)));
  EXPECT_TRUE(criterion.says(fmt::format("{:.3f}", best.weight)));
}

// Of a model that is linear in its parameters chi-squared is a paraboloid.
TEST(ProfileFigure, ShowsParabolasAndEllipsesWhereTheModelIsLinear) {
  const Fit made = line_with_uncertainties();
  const Picture profiles = drawn([&](const auto& file) { draw_profiles(made, file, 0.95); });
  ASSERT_EQ(profiles.panels().size(), 2u);
  const double k = normal_quantile(0.975);
  for (std::size_t j = 0; j < 2; ++j) {
    const Panel& panel = profiles.panels()[j];
    const double value = made.estimate().parameters()[j];
    const double u = made.estimate().standard_uncertainties()[j];
    const std::vector<Path> lines = profiles.lines(panel, curve_colour, 2.86);
    ASSERT_FALSE(lines.empty());
    for (const Pixel& p : lines[0]) {
      const double distance = (panel.x_value(p.x) - value) / u;
      EXPECT_NEAR(p.y, panel.y(distance * distance), 1.5) << distance;
    }
    // The rise at which the interval ends, and its ends.
    const std::vector<Path> level = profiles.lines(panel, "#78808A", 1);
    ASSERT_FALSE(level.empty());
    EXPECT_NEAR(level[0][0].y, panel.y(k * k), sharp);
    for (const double end : {value - k * u, value + k * u}) {
      const std::vector<Path> ends = profiles.lines(panel, curve_colour, 1);
      EXPECT_TRUE(std::any_of(ends.begin(), ends.end(), [&](const Path& p) {
        return std::abs(p[0].x - panel.x(end)) < smooth;
      })) << end;
    }
  }
  const Picture regions = drawn([&](const auto& file) { draw_regions(made, file, 0.95); });
  ASSERT_EQ(regions.panels().size(), 1u);
  const Panel& panel = regions.panels()[0];
  const Eigen::Vector2d centre = as_eigen(made.estimate().parameters());
  const MatrixXd inverse = test::inverse(MatrixXd(as_eigen(made.estimate().covariance())));
  const double limit = -2 * std::log(0.05);  // chi-squared with 2 degrees of freedom
  const std::vector<Path> contour = regions.lines(panel, curve_colour, 2.86);
  ASSERT_FALSE(contour.empty());
  for (const Path& piece : contour) {
    for (const Pixel& p : piece) {
      const Eigen::Vector2d off =
          Eigen::Vector2d(panel.x_value(p.x),
                          centre[1] + (p.y - panel.y(centre[1])) / (panel.y(centre[1] + 1) - panel.y(centre[1]))) -
          centre;
      EXPECT_NEAR(off.dot(inverse * off) / limit, 1, 0.02);
    }
  }
  expect_points(regions, panel, std::vector<double>{centre[0]}, std::vector<double>{centre[1]}, dark);
  EXPECT_EQ(test::caught([&] {
              draw_regions(fit(Model::written("y = b*x"), made.observations()), "never.svg", 0.95);
            }).code(),
            ErrorCode::not_supported);
}

TEST(CensoredFigure, ShowsLimitsAsArrowsAndSharesOnAStraightLine) {
  std::istringstream lives("S,N\n80,>300\n90,260\n100,>300\n110,150\n120,120\n130,70\n140,55\n150,30\n");
  const Table table = read_csv(lives, "lives");
  const CensoredFit made = fit_censored(Model::written("N = exp(a + b*S)", {"S"}),
                                        censored_rows(table, {.response = "N", .predictors = {"S"}}),
                                        {.distribution = Distribution::lognormal, .starts = {{"a", 9}, {"b", -0.04}}});
  const Picture picture = drawn([&](const auto& file) { draw_censored(made, file, 0.95); });
  const Panel& panel = picture.panels()[0];
  expect_points(picture, panel, std::vector<double>{90, 110, 120, 130, 140, 150, 80, 100},
                std::vector<double>{260, 150, 120, 70, 55, 30, 300, 300}, dark);
  const double a = made.estimate.parameters()[0];
  const double b = made.estimate.parameters()[1];
  expect_curve(panel, picture.lines(panel, curve_colour, 2.2), [&](double at) { return std::exp(a + b * at); });
  const double z = normal_quantile(0.9) * made.scatter;
  expect_band(panel, picture.corners(panel, prediction_colour), [&](double at) {
    return Interval{std::exp(a + b * at - z), std::exp(a + b * at + z)};
  });
  // From the limit upwards.
  const std::vector<Path> arrows = picture.lines(panel, dark, 1);
  EXPECT_TRUE(std::any_of(arrows.begin(), arrows.end(), [&](const Path& p) {
    return std::abs(p[0].x - panel.x(80)) < sharp && std::abs(p[0].y - panel.y(300)) < sharp && p[1].y > p[0].y + 20;
  }));

  const Picture shares = drawn([&](const auto& file) { draw_probability(made, file, 0.95); });
  const Panel& plane = shares.panels()[0];
  for (const Path& line : shares.lines(plane, curve_colour, 2.2)) {
    for (const Pixel& p : line) EXPECT_NEAR(p.x, plane.x(plane.x_value(p.x)), sharp);
  }
  // The axis of shares has equal steps of z: a point stands where its distance from the curve equals its quantile.
  const std::vector<PlottedShare> plotted = plotting_positions(made);
  std::vector<Pixel> seen = shares.discs(plane, dark);
  std::size_t within = 0;
  const auto [low_share, low_pixel] = plane.y_ticks.front();
  const auto [high_share, high_pixel] = plane.y_ticks.back();
  const double low_z = normal_quantile(low_share / 100);
  const double high_z = normal_quantile(high_share / 100);
  for (const PlottedShare& p : plotted) {
    if (!(p.share > 0 && p.share < 1)) continue;
    ++within;
    const double y = low_pixel + (normal_quantile(p.share) - low_z) / (high_z - low_z) * (high_pixel - low_pixel);
    const double from_curve =
        (std::log(made.data.rows.responses()[p.row]) - a - b * made.data.rows.predictor(0)[p.row]) / made.scatter;
    EXPECT_NEAR(p.standardized, from_curve, 1e-9);
    EXPECT_TRUE(std::any_of(seen.begin(), seen.end(), [&](const Pixel& at) {
      return std::abs(at.x - plane.x(from_curve)) < sharp && std::abs(at.y - y) < sharp;
    })) << p.row;
  }
  EXPECT_EQ(seen.size(), within);
}

// Ends and labels of the axes, the title and the size are those that are asked for; the curve reaches the forecast.
TEST(Layout, IsAsItIsAskedFor) {
  const Fit line = line_with_uncertainties();
  FigureOptions options{.equation = true};
  options.layout = {.x = {.low = 0, .high = 8, .label = "time of drying"}, .y = {.low = 0}, .title = "Series 3"};
  const test::TemporaryFolder folder;
  draw_fit(line, folder / "figure.svg", options);
  const Picture picture(folder / "figure.svg");
  EXPECT_TRUE(picture.says("Series 3"));
  EXPECT_TRUE(picture.says("time of drying"));
  EXPECT_TRUE(picture.says(equation_with_numbers(line.estimate())));
  EXPECT_TRUE(picture.says(fmt::format("n = 4, S = {}, R² = {:.6g} of y",
                                       rounded(quality_of(line).measured_scale.residual_sd, 3),
                                       quality_of(line).measured_scale.r_squared)));
  ASSERT_EQ(picture.panels().size(), 2u);
  const Panel& panel = picture.panels()[0];
  EXPECT_NEAR(panel.x_value(panel.left), 0, 1e-2);
  EXPECT_NEAR(panel.x_value(panel.right), 8, 1e-2);
  EXPECT_NEAR(panel.y(0), panel.bottom, 0.1);
  draw_fit(line, folder / "small.svg", {.layout = {.size = {640, 400}}});
  EXPECT_TRUE(has(test::file_text(folder / "small.svg"), "viewBox=\"0 0 640 400\""));
  expect_curve(panel, picture.lines(panel, curve_colour, 2.2),
               [&](double x) { return curve_at(line.estimate(), x).value; });
  const auto refused = [&](const FigureLayout& layout) {
    return test::caught([&] { draw_fit(line, folder / "refused.svg", {.layout = layout}); }).code();
  };
  EXPECT_EQ(refused({.x = {.low = 3, .high = 3}}), ErrorCode::bad_argument);
  EXPECT_EQ(refused({.x = {.scale = AxisScale::logarithmic, .low = -1}}), ErrorCode::bad_argument);
  EXPECT_EQ(refused({.size = {100, 400}}), ErrorCode::bad_argument);
  EXPECT_EQ(refused({.size = {400, 3000, LengthUnit::millimetre}}), ErrorCode::bad_argument);
  EXPECT_FALSE(std::filesystem::exists(folder / "refused.svg"));
}

// A page in millimetres: 300 dots an inch of a PNG, points of a PDF, which is A4 across where nothing is said.
TEST(Layout, MeasuresInMillimetres) {
  const Fit line = line_with_uncertainties();
  const test::TemporaryFolder folder;
  FigureOptions options;
  options.layout.size = {254, 127, LengthUnit::millimetre};
  draw_fit(line, folder / "f.png", options);
  const std::string png = test::file_text(folder / "f.png");
  const auto number = [&png](std::size_t at) {
    return static_cast<unsigned char>(png[at + 2]) * 256 + static_cast<unsigned char>(png[at + 3]);
  };
  EXPECT_EQ(number(16), 3000);  // of the header chunk: width, then height
  EXPECT_EQ(number(20), 1500);
  draw_fit(line, folder / "f.pdf", options);
  EXPECT_TRUE(has(test::file_text(folder / "f.pdf"), "MediaBox [ 0 0 720 360 ]"));
  draw_fit(line, folder / "a4.pdf");
  EXPECT_TRUE(has(test::file_text(folder / "a4.pdf"), "MediaBox [ 0 0 842 595 ]"));
}

// Letters of the size that is asked for, with room for them: points and curve stand where the axes say, and axis and
// title have what their letters need.
TEST(Layout, HasLettersOfASize) {
  const Fit line = line_with_uncertainties();
  const test::TemporaryFolder folder;
  for (const double points : {6.0, 11.25, 22.5}) {
    FigureOptions options{.equation = true};
    options.layout.size = {.width = 1280, .height = 800, .font = points};
    draw_fit(line, folder / "figure.svg", options);
    const Picture picture(folder / "figure.svg");
    const double high = points * 96 / 72;
    EXPECT_TRUE(has(test::file_text(folder / "figure.svg"), fmt::format("font-size=\"{:.0f}\"", high))) << points;
    ASSERT_EQ(picture.panels().size(), 2u) << points;
    const Panel& panel = picture.panels()[0];
    const Observations& rows = line.observations();
    expect_points(picture, panel, rows.predictor(0), rows.responses(), dark);
    expect_curve(panel, picture.lines(panel, curve_colour, 2.2),
                 [&](double x) { return curve_at(line.estimate(), x).value; });
    const Panel& lowest = picture.panels()[1];
    EXPECT_GT(lowest.bottom, 3.3 * high);
    EXPECT_GT(lowest.left, 6 * high);
    EXPECT_GT(800 - panel.top, 3.5 * high);
    for (const test::Words& words : picture.words()) {
      EXPECT_GT(words.at.x, 0) << words.text;
      EXPECT_LT(words.at.x, 1280) << words.text;
      EXPECT_GT(words.at.y, 0) << words.text;
      EXPECT_LT(words.at.y, 800) << words.text;
    }
  }
  const auto message = [&](double points) {
    FigureOptions options;
    options.layout.size = {.width = 85, .height = 60, .unit = LengthUnit::millimetre, .font = points};
    return test::caught([&] { draw_fit(line, folder / "refused.pdf", options); }).message();
  };
  EXPECT_EQ(message(30), "letters of 30 points do not fit a figure of this size");
  EXPECT_EQ(message(-1), "letters of -1 points do not fit a figure of this size");
}

// What is asked of the figure is done whatever the response: events, counts, several predictors.
TEST(Layout, HoldsForEveryKindOfFit) {
  const Table table = Table::from_columns({{"x", "", {1, 2, 3, 4, 5, 6, 7, 8}},
                                           {"q", "", {1, 0, 2, 1, 0, 2, 1, 0}},
                                           {"n", "", {9, 12, 8, 15, 17, 14, 22, 25}}});
  const Fit counts =
      fit(Model::written("n = a*exp(b*x)"),
          Observations(table, {.response = "n", .predictors = {"x"}, .counting = {.kind = ResponseKind::counts}}));
  const FigureOptions options{.equation = true,
                              .layout = {.y = {.low = 0, .high = 60, .label = "decays"}, .title = "Dross"}};
  const Picture counted = drawn([&](const auto& file) { draw_fit(counts, file, options); });
  EXPECT_TRUE(counted.says(equation_with_numbers(counts.estimate())));
  EXPECT_TRUE(counted.says("n = 8"));
  EXPECT_TRUE(counted.says("Dross"));
  EXPECT_TRUE(counted.says("decays"));
  const auto upper = std::max_element(counted.panels().begin(), counted.panels().end(),
                                      [](const Panel& a, const Panel& b) { return a.bottom < b.bottom; });
  EXPECT_NEAR(upper->y(60), upper->top, 0.1);
  EXPECT_NEAR(upper->y(0), upper->bottom, 0.1);
  const Fit plane =
      fit(Model::written("n = a + b*x + c*q"), Observations(table, {.response = "n", .predictors = {"x", "q"}}));
  EXPECT_TRUE(
      drawn([&](const auto& file) { draw_fit(plane, file, options); }).says(equation_with_numbers(plane.estimate())));
  const CensoredFit lives = fit_censored(Model::written("n = scale"), censored_rows(table, {.response = "n"}),
                                         {.distribution = Distribution::weibull});
  const Picture plot = drawn(
      [&](const auto& file) { draw_censored(lives, file, 0.95, {.x = {.label = "strokes"}, .title = "Clappers"}); });
  EXPECT_TRUE(plot.says("strokes"));
  EXPECT_TRUE(plot.says("Clappers"));
}

// Of several predictors measured against fitted, of none in the order of the rows.
TEST(FittedFigure, ShowsWhatHasNoCurve) {
  const Table table = Table::from_columns(
      {{"p", "", {1, 2, 3, 4, 5, 6}}, {"q", "", {2, 1, 4, 3, 6, 7}}, {"y", "g", {3.1, 3.9, 7.2, 7.8, 11.1, 13.2}}});
  const Fit plane =
      fit(Model::written("y = a + b*p + c*q"), Observations(table, {.response = "y", .predictors = {"p", "q"}}));
  const Picture picture = drawn([&](const auto& file) { draw_fit(plane, file); });
  EXPECT_TRUE(picture.says("fitted y (g)"));
  ASSERT_EQ(picture.panels().size(), 2u);
  const Vector fitted = plane.fitted();
  const std::vector<double> x(fitted.begin(), fitted.end());
  expect_points(picture, picture.panels()[0], x, plane.observations().responses(), dark);
  expect_points(picture, picture.panels()[1], x, plane.response_residuals(), dark);
  expect_curve(picture.panels()[0], picture.lines(picture.panels()[0], curve_colour, 2.2),
               [](double at) { return at; });
  const Fit mean = fit(Model::written("y = K"), Observations(table, {.response = "y"}));
  const Picture constant = drawn([&](const auto& file) { draw_fit(mean, file); });
  EXPECT_TRUE(constant.says("row"));
  expect_points(constant, constant.panels()[0], std::vector<double>{1, 2, 3, 4, 5, 6}, mean.observations().responses(),
                dark);
  expect_curve(constant.panels()[0], constant.lines(constant.panels()[0], curve_colour, 2.2),
               [&](double) { return mean.parameter("K").value; });
}

// Of 4200 rows every other one is drawn. The rows go through their 20 places again and again, so that every second row
// would miss half of them: all of them are seen.
TEST(ManyRows, AreDrawnAtAllTheirPlaces) {
  constexpr std::size_t size = 4200;
  std::vector<double> x, p, y, shares, events;
  for (std::size_t i = 0; i < size; ++i) {
    const auto place = static_cast<double>(i % 20);
    const auto turn = static_cast<double>((i / 20) % 3);
    x.push_back(1 + place);
    p.push_back(turn);
    y.push_back(5 + 2 * place + 3 * turn * std::cos(place));
    shares.push_back(std::floor((place + turn) / 3));
    events.push_back((i / 20) % 20 < i % 20 ? 1 : 0);
  }
  const Table table = Table::from_columns({{"x", "", x},
                                           {"p", "", p},
                                           {"y", "", y},
                                           {"found", "", shares},
                                           {"there", "", std::vector<double>(size, 8)},
                                           {"cracked", "", events}});
  const Observations measured(table, {.response = "y", .predictors = {"x"}});
  const auto counted = [&](const char* response, const char* size_column) {
    return Observations(
        table,
        {.response = response,
         .predictors = {"x"},
         .counting = {.kind = ResponseKind::events, .event = *size_column ? "" : "1", .size_column = size_column}});
  };
  const Fit line = fit(shape_model("line", "x", "y"), measured);
  const Fit found = fit(shape_model("share-logistic", "x", "found"), counted("found", "there"));
  const Fit cracked = fit(shape_model("share-logistic", "x", "cracked"), counted("cracked", ""));
  const Fit plane =
      fit(Model::written("y = a + b*x"), Observations(table, {.response = "y", .predictors = {"x", "p"}}));
  const Comparison both = compare(std::vector<Fit>{line, fit(shape_model("logarithm", "x", "y"), measured)});
  struct Case {
    std::string what;
    Picture picture;
    std::string colour = dark;
  };
  const std::string words = "(2100 of 4200 drawn)";
  for (const auto& [what, picture, colour] :
       {Case{"fit", drawn([&](const auto& file) { draw_fit(line, file); })},
        Case{"checks", drawn([&](const auto& file) { draw_checks(line, file); })},
        Case{"first look", drawn([&](const auto& file) { draw_look(measured, file); })},
        Case{"candidates", drawn([&](const auto& file) { draw_comparison(both, file); })},
        Case{"shares", drawn([&](const auto& file) { draw_fit(found, file); })},
        Case{"single events", drawn([&](const auto& file) { draw_fit(cracked, file); }), "#78808A"},
        Case{"fitted", drawn([&](const auto& file) { draw_fit(plane, file); })}}) {
    EXPECT_TRUE(picture.says(words)) << what;
    bool at_all_places = false;
    std::size_t most = 0;
    for (const Panel& panel : picture.panels()) {
      const std::vector<Pixel> discs = picture.discs(panel, colour);
      std::set<long> places;
      for (const Pixel& disc : discs) places.insert(std::lround(disc.x));
      at_all_places = at_all_places || places.size() == 20;
      most = std::max(most, discs.size());
    }
    EXPECT_TRUE(at_all_places) << what;
    EXPECT_EQ(most, 2100u) << what;
  }
}

}  // namespace
}  // namespace truecurve
