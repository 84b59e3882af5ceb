// Smooth guides, worked in another way.

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

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
  for (const std::uint64_t seed :
       {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24}) {
    RandomNumbers random(seed);
    VectorXd y(40);
    for (Eigen::Index i = 0; i < 40; ++i)
      y[i] = std::sin((0.25 + 0.35 * static_cast<double>((seed - 1) % 12)) * x[i]) + 0.3 * random.normal();
    const auto neighbours = [](double span) { return std::max(6, static_cast<int>(std::ceil(span * 40))); };
    double best = infinity;
    std::vector<std::pair<double, double>> scores;
    for (const double span : {0.15, 0.2, 0.3, 0.4, 0.5, 0.65, 0.8, 1.0}) {
      double squares = 0, trace = 0;
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
  EXPECT_LT(below_half, 24);
}

TEST(SmoothGuide, FollowsACurveAndNotTheNoise) {
  RandomNumbers random(8);
  const VectorXd x = VectorXd::LinSpaced(80, 0, 6);
  VectorXd y(80);
  for (Index i = 0; i < 80; ++i) y[i] = std::sin(x[i]) + 0.1 * random.normal();
  const SmoothGuide guide = smooth_guide(x, y, 61);
  EXPECT_LT((as_eigen(guide.y).array() - as_eigen(guide.x).array().sin()).abs().maxCoeff(), 0.2);
  EXPECT_LT(guide.span, 0.6);
  // A line is reproduced exactly, whatever the span.
  EXPECT_TRUE(as_eigen(smooth_guide(x, 2 * x, 31, 0.3).y).isApprox(2 * VectorXd::LinSpaced(31, 0, 6), 1e-10));
  // Numbers whose squares leave the range of doubles: the same guide to the last digit, in their units.
  for (const double unit : {std::ldexp(1, 1000), std::ldexp(1, -1000)}) {
    const SmoothGuide scaled = smooth_guide(unit * x, y / unit, 61);
    EXPECT_EQ(scaled.span, guide.span);
    for (std::size_t i = 0; i < 61; ++i) {
      EXPECT_EQ(scaled.x[i], unit * guide.x[i]);
      EXPECT_EQ(scaled.y[i], guide.y[i] / unit);
    }
  }
  EXPECT_THROW((void)smooth_guide(x, y, 61, 1.5), Error);
  EXPECT_THROW((void)smooth_guide(Eigen::Vector3d(1, 2, 3), Eigen::Vector3d(1, 2, 3), 10), Error);
}

// Of up to 2000 points each counts.
TEST(SmoothGuide, TakesUpToTwoThousandPoints) {
  RandomNumbers random(5);
  const VectorXd x = VectorXd::LinSpaced(2000, 0, 6);
  VectorXd y(2000);
  for (double& value : y) value = random.normal();
  const SmoothGuide guide = smooth_guide(x, y, 7, 0.01);
  for (std::size_t k = 0; k < 7; ++k) EXPECT_NEAR(guide.y[k], local_line_at(x, y, guide.x[k], 20), 1e-9);
  // Of one more every second.
  VectorXd more(2001), alternating(2001);
  for (Index i = 0; i < 2001; ++i) {
    more[i] = static_cast<double>(i);
    alternating[i] = i % 2 == 0 ? 3 : -3;
  }
  for (const double value : smooth_guide(more, alternating, 7, 0.01).y) EXPECT_NEAR(value, 3, 1e-9);
}

TEST(SmoothGuide, HasTwoPlacesOrMore) {
  const Vector x = {1, 2, 3, 4};
  EXPECT_EQ(smooth_guide(x, x, 2, 1).y.size(), 2u);
  EXPECT_THROW((void)smooth_guide(x, x, 1, 1), Error);
}

// Points on top of each other have a mean: the guide goes through it where only they are near.
TEST(SmoothGuide, GoesThroughTheMeansOfReplicates) {
  std::vector<double> x, y;
  for (int place = 0; place < 5; ++place) {
    for (int i = 0; i < 8; ++i) {
      x.push_back(place);
      y.push_back(3 * place * place + (i % 2 == 0 ? 0.5 : -0.1));
    }
  }
  const SmoothGuide guide = smooth_guide(x, y, 5, 0.2);
  for (std::size_t place = 0; place < 5; ++place)
    EXPECT_NEAR(guide.y[place], 3.0 * static_cast<double>(place * place) + 0.2, 1e-9);
}

}  // namespace
}  // namespace truecurve
