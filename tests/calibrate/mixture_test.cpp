// Mixtures of Student's t against sums of their parts.
#include "../../src/calibrate/mixture.hpp"

#include "../support.hpp"

namespace truecurve {
namespace {

using detail::effective_degrees;
using detail::Mixture;

TEST(Mixture, IsTheSumOfItsParts) {
  const Mixture mixture({{0.25, 1, 0.5, 4}, {0.6, 2, 0.2, 9}, {0.15, 2.5, 1.5, infinity}});
  // Probabilities by the halves of two-sided tails, and the spread about a value by its definition.
  for (const double x : {0.2, 1.0, 1.9, 2.4, 4.0}) {
    const auto below = [x](double value, double u, double v) {
      const double half = student_t_two_sided(std::abs(x - value) / u, v) / 2;
      return x < value ? half : 1 - half;
    };
    EXPECT_NEAR(mixture.below(x), 0.25 * below(1, 0.5, 4) + 0.6 * below(2, 0.2, 9) + 0.15 * below(2.5, 1.5, infinity),
                1e-14);
  }
  // The upper tail is the lower one of the mirror image, and keeps its digits where the lower one is 1.
  for (const double x : {0.2, 1.9, 4.0}) EXPECT_NEAR(mixture.above(x), 1 - mixture.below(x), 1e-14);
  const Mixture mirror({{0.25, -1, 0.5, 4}, {0.6, -2, 0.2, 9}, {0.15, -2.5, 1.5, infinity}});
  EXPECT_EQ(mixture.above(40), mirror.below(-40));
  EXPECT_NEAR(Mixture({{1, 0, 1, infinity}}).above(20) / 2.7536241186062337e-89, 1, 1e-12);
  for (const double p : {0.001, 0.025, 0.5, 0.9, 0.975}) EXPECT_NEAR(mixture.below(mixture.quantile(p)), p, 1e-10);
  for (const double about : {1.0, 1.825, 3.0}) {
    const double variance = 0.25 * (0.25 + std::pow(1 - about, 2)) + 0.6 * (0.04 + std::pow(2 - about, 2)) +
                            0.15 * (2.25 + std::pow(2.5 - about, 2));
    EXPECT_NEAR(mixture.standard_uncertainty(about), std::sqrt(variance), 1e-14);
  }
  EXPECT_EQ(mixture.only_part(), nullptr);
}

TEST(Mixture, OfOnePartIsItsDistribution) {
  const Mixture one({{1, 3, 0.2, 7}});
  EXPECT_NEAR(one.quantile(0.975), 3 + 0.2 * student_t_quantile(0.975, 7), 1e-14);
  EXPECT_EQ(one.standard_uncertainty(3), 0.2);
  EXPECT_NEAR(one.standard_uncertainty(3.1), std::hypot(0.2, 0.1), 1e-14);
  ASSERT_NE(one.only_part(), nullptr);
  EXPECT_EQ(one.only_part()->value, 3);
  // Without a width all of it lies at its value.
  const Mixture point({{1, 3, 0, 7}});
  EXPECT_EQ(point.below(2.9), 0);
  EXPECT_EQ(point.below(3), 0.5);
  EXPECT_EQ(point.below(3.1), 1);
  EXPECT_EQ(point.above(2.9), 1);
  EXPECT_EQ(point.above(3), 0.5);
  EXPECT_EQ(point.above(3.1), 0);
  EXPECT_EQ(point.quantile(0.2), 3);
  EXPECT_EQ(point.only_part(), nullptr);
}

// Welch and Satterthwaite: of equal parts their sum, of unequal ones that of the larger.
TEST(EffectiveDegrees, AreWelchAndSatterthwaites) {
  EXPECT_NEAR(effective_degrees(1, 6, 1, 6), 12, 1e-12);
  EXPECT_NEAR(effective_degrees(3, 5, 4, 10), 625 / (81.0 / 5 + 256.0 / 10), 1e-12);
  EXPECT_NEAR(effective_degrees(2, 5, 0, 3), 5, 1e-12);
  EXPECT_NEAR(effective_degrees(1, 5, 2, infinity), 25 / (1.0 / 5), 1e-12);
  EXPECT_TRUE(std::isinf(effective_degrees(1, infinity, 2, infinity)));
  EXPECT_EQ(effective_degrees(0, 5, 0, 3), 3);
}

}  // namespace
}  // namespace truecurve
