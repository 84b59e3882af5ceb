// Means of new readings, curves about another origin, and smooth guides, each worked in another way.
#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/means.hpp>
#include <truecurve/assess/polynomial.hpp>
#include <truecurve/assess/smooth.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/model/shapes.hpp>

#include "../support.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace truecurve {
namespace {

const VectorXd twelve_places = VectorXd::LinSpaced(12, 1, 12);

MeanPoint mean_at(const Fit& made, double x) {
  const Vector at = {x};
  return means(made.estimate(), std::span(&at, 1), 0.95)[0];
}

// Curve, standard uncertainty and scatter on the left side.
struct Left {
  double z, u, s, dof;
  Left(const Fit& made, double x) : s(made.estimate().scale()), dof(made.estimate().degrees_of_freedom()) {
    z = made.estimate().parameters()[0] + made.estimate().parameters()[1] * x;
    const Eigen::Vector2d g(1, x);
    u = std::sqrt(g.dot(as_eigen(made.estimate().covariance()) * g));
  }
};

TEST(Means, OfALogarithmAndARootAreTheirClosedForms) {
  RandomNumbers random(3);
  VectorXd y(12);
  for (int i = 0; i < 12; ++i) y[i] = std::exp(0.5 + 0.1 * twelve_places[i] + 0.15 * random.normal());
  // E exp(z + s Z) = exp(z + s²/2); its derivatives by z and s are itself and s times itself.
  const Fit exponential = fit(Model::written("ln(y) = a + b*x"), Observations::of(twelve_places, y));
  for (const double x : {1.0, 6.5, 12.0}) {
    const Left left(exponential, x);
    const MeanPoint found = mean_at(exponential, x);
    const double mean = std::exp(left.z + left.s * left.s / 2);
    EXPECT_NEAR(found.value / mean, 1, 1e-12);
    EXPECT_NEAR(found.standard_uncertainty / (mean * std::hypot(left.u, left.s * left.s / std::sqrt(2 * left.dof))), 1,
                1e-11);
    EXPECT_LT(found.interval.low, mean);
    EXPECT_GT(found.interval.high, mean);
  }
  // E (z + s Z)² = z² + s², derivatives 2z and 2s.
  const Fit root = fit(Model::written("sqrt(y) = a + b*x"), Observations::of(twelve_places, y));
  const Left left(root, 6.5);
  const MeanPoint found = mean_at(root, 6.5);
  EXPECT_NEAR(found.value, left.z * left.z + left.s * left.s, 1e-12);
  EXPECT_NEAR(found.standard_uncertainty,
              std::hypot(2 * left.z * left.u, 2 * left.s * left.s / std::sqrt(2 * left.dof)), 1e-11);
  // Where readings scatter on the measured scale the mean is the curve.
  const Fit plain = fit(shape_model("line"), Observations::of(twelve_places, y));
  const BandPoint band = band_at(plain.estimate(), {6.5}, 0.95)[0];
  EXPECT_EQ(mean_at(plain, 6.5).value, band.value);
  EXPECT_EQ(mean_at(plain, 6.5).interval.high, band.confidence.high);
}

// The interval by pseudo-random draws of the same generalized pivot, half a million of them.
TEST(Means, IntervalIsThatOfItsPivot) {
  RandomNumbers random(3);
  VectorXd y(12);
  for (int i = 0; i < 12; ++i) y[i] = std::exp(0.5 + 0.1 * twelve_places[i] + 0.4 * random.normal());
  const Fit made = fit(Model::written("ln(y) = a + b*x"), Observations::of(twelve_places, y));
  const Left left(made, 12);
  const int draws = test::is_sanitized() ? 20'000 : 500'000;
  std::vector<double> drawn;
  for (int i = 0; i < draws; ++i) {
    double w = 0;
    for (int k = 0; k < 10; ++k) w += std::pow(random.normal(), 2);
    const double stretch = std::sqrt(10 / w);
    drawn.push_back(left.z + left.u * stretch * random.normal() + std::pow(left.s * stretch, 2) / 2);
  }
  std::sort(drawn.begin(), drawn.end());
  const auto at = [&](double p) { return std::exp(drawn[static_cast<std::size_t>(p * draws)]); };
  const Interval found = mean_at(made, 12).interval;
  const double tolerance = test::is_sanitized() ? 0.1 : 0.02;
  EXPECT_NEAR(found.low / at(0.025), 1, tolerance);
  EXPECT_NEAR(found.high / at(0.975), 1, tolerance);
}

TEST(Means, AreAbsentWhereThereIsNone) {
  // 1/z with z within 6.6 s of zero has no mean.
  const VectorXd y = test::vector({2, 0.9, 1.3, 0.6, 0.8, 0.4, 0.5, 0.5, 0.3, 0.35, 0.3, 0.25});
  const Fit made = fit(Model::written("1/y = a + b*x"), Observations::of(twelve_places, y));
  EXPECT_TRUE(std::isnan(mean_at(made, 1).value));
  EXPECT_TRUE(std::isnan(mean_at(made, 1).interval.low));
  EXPECT_TRUE(std::isfinite(mean_at(made, 12).value));
  EXPECT_GT(mean_at(made, 12).value, band_at(made.estimate(), {12}, 0.95)[0].value) << "1/z is convex";
}

// Moved by hand: the same polynomial fitted to the distances from the origin.
TEST(PolynomialAbout, IsThePolynomialOfTheDistances) {
  RandomNumbers random(5);
  const VectorXd x = VectorXd::LinSpaced(15, 1990, 2018);
  VectorXd y(15);
  for (int i = 0; i < 15; ++i) y[i] = 3 + 0.2 * (x[i] - 2004) - 0.01 * std::pow(x[i] - 2004, 2) + 0.1 * random.normal();
  for (const int degree : {2, 3}) {
    const Model model = shape_model(fmt::format("polynomial({})", degree));
    for (const double origin : {2004.0, 1990.0, 0.0}) {
      const Fit moved = fit(model, Observations::of((x.array() - origin).matrix(), y));
      const PolynomialAbout about = polynomial_about(fit(model, Observations::of(x, y)).estimate(), origin);
      EXPECT_EQ(about.origin, origin);
      for (std::size_t d = 0; d < about.coefficients.size(); ++d) {
        const double u = moved.estimate().standard_uncertainties()[d];
        EXPECT_NEAR(about.coefficients[d], moved.estimate().parameters()[d], 1e-6 * u) << origin << " " << d;
        EXPECT_NEAR(about.standard_uncertainties[d] / u, 1, 1e-7);
        for (std::size_t e = 0; e < about.coefficients.size(); ++e)
          EXPECT_NEAR(about.covariance(d, e) / (u * moved.estimate().standard_uncertainties()[e]),
                      moved.estimate().covariance()(d, e) / (u * moved.estimate().standard_uncertainties()[e]), 1e-7);
      }
    }
  }
  const Fit line = fit(shape_model("line"), Observations::of(x, y));
  EXPECT_THROW((void)polynomial_about(line.estimate(), 0), Error);
  EXPECT_THROW((void)polynomial_about(fit(shape_model("polynomial(2)"), Observations::of(x, y)).estimate(), infinity),
               Error);
}

// A tricube line by Eigen, and the score from the whole matrix of the smoother.
double local_line_at(const VectorXd& x, const VectorXd& y, double at, int count) {
  std::vector<double> distances;
  for (const double place : x) distances.push_back(std::abs(place - at));
  std::vector<double> sorted = distances;
  std::sort(sorted.begin(), sorted.end());
  const double reach = 1.0001 * sorted[static_cast<std::size_t>(count - 1)];
  MatrixXd normal = MatrixXd::Zero(2, 2);
  Eigen::Vector2d right(0, 0);
  for (Eigen::Index i = 0; i < x.size(); ++i) {
    if (distances[static_cast<std::size_t>(i)] >= reach) continue;
    const double w = std::pow(1 - std::pow(distances[static_cast<std::size_t>(i)] / reach, 3), 3);
    const Eigen::Vector2d row(1, x[i] - at);
    normal += w * row * row.transpose();
    right += w * y[i] * row;
  }
  return (test::inverse(normal) * right)[0];
}

TEST(SmoothGuide, IsMadeOfLocalLinesWhoseShareCrossValidationChooses) {
  const VectorXd x =
      (VectorXd::LinSpaced(40, 0, 6).array() + 0.01 * VectorXd::LinSpaced(40, 0, 6).array().square()).matrix();
  int below_half = 0;
  for (const std::uint64_t seed : {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12}) {
    RandomNumbers random(seed);
    VectorXd y(40);
    for (Eigen::Index i = 0; i < 40; ++i)
      y[i] = std::sin((0.5 + 0.1 * static_cast<double>(seed)) * x[i]) + 0.3 * random.normal();
    const auto neighbours = [](double span) { return std::max(6, static_cast<int>(std::ceil(span * 40))); };
    double best = infinity;
    std::vector<std::pair<double, double>> scores;
    for (const double span : {0.15, 0.2, 0.3, 0.4, 0.5, 0.65, 0.8, 1.0}) {
      double squares = 0;
      double trace = 0;
      for (Eigen::Index i = 0; i < 40; ++i) {
        squares += std::pow(y[i] - local_line_at(x, y, x[i], neighbours(span)), 2);
        VectorXd unit = VectorXd::Zero(40);
        unit[i] = 1;
        trace += local_line_at(x, unit, x[i], neighbours(span));
      }
      scores.emplace_back(span, 40 * squares / std::pow(40 - trace, 2));
      best = std::min(best, scores.back().second);
    }
    double wanted = 0;
    for (const auto& [span, score] : scores) {
      if (score <= best * (1 + std::sqrt(2.0 / 40) / 2)) wanted = span;
    }
    const SmoothGuide guide = smooth_guide(x, y, 11);
    EXPECT_EQ(guide.span, wanted) << seed;
    below_half += wanted < 0.5;
    for (std::size_t k = 0; k < 11; ++k) {
      EXPECT_NEAR(guide.x[k], x[0] + (x[39] - x[0]) * static_cast<double>(k) / 10, 1e-12);
      EXPECT_NEAR(guide.y[k], local_line_at(x, y, guide.x[k], neighbours(wanted)), 1e-9);
    }
  }
  EXPECT_GT(below_half, 0);
  EXPECT_LT(below_half, 12);
}

}  // namespace
}  // namespace truecurve
