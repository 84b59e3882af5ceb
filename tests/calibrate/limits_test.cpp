// Detection limits by their formulas, and what becomes of blanks, samples and intervals in simulated laboratories.

#include "../support.hpp"

#include <cstdlib>

namespace truecurve {
namespace {

using Kind = SignalScatter::Kind;

// Noncentral t by its definition: the mean of Phi(t s - delta) over s² ~ chi-squared/dof, by Simpson's rule.
double noncentral_by_integration(double t, double dof, double delta) {
  constexpr int steps = 20'000;
  const double high = 6;
  double sum = 0;
  for (int i = 0; i <= steps; ++i) {
    const double s = high * i / steps;
    if (s == 0) continue;
    const double density =
        2 * std::exp(dof / 2 * std::log(dof / 2) - std::lgamma(dof / 2) + (dof - 1) * std::log(s) - dof * s * s / 2);
    sum += density * normal_probability(t * s - delta) * (i == 0 || i == steps ? 1 : i % 2 == 1 ? 4 : 2);
  }
  return sum * high / steps / 3;
}

TEST(Limits, UseTheNoncentralDistribution) {
  for (const double dof : {3.0, 10.0, 30.0}) {
    const double t = student_t_quantile(0.95, dof);
    const double delta = detection_noncentrality(dof, 0.05, 0.1);
    EXPECT_NEAR(noncentral_t_probability(t, dof, 1.7), noncentral_by_integration(t, dof, 1.7), 1e-8);
    EXPECT_NEAR(noncentral_by_integration(t, dof, delta), 0.1, 1e-7);
  }
  EXPECT_NEAR(detection_noncentrality(infinity, 0.05, 0.05), 2 * 1.6448536269514722, 1e-9);
  // So far out that z is next to nothing beside it: delta/t is the root of a chi-squared over its degrees of freedom.
  const double far = detection_noncentrality(2, 1e-12, 0.05);
  EXPECT_NEAR(far / student_t_quantile(1 - 1e-12, 2), std::sqrt(-std::log(1 - 0.95)), 1e-4);
  EXPECT_EQ(detection_noncentrality(1e-3, 1e-10, 0.05), infinity);
  for (const double p : {-0.1, 0.0, 1.0, 1.5, not_a_number}) {
    EXPECT_EQ(test::caught([&] { (void)detection_noncentrality(10, p, 0.05); }).code(), ErrorCode::bad_argument) << p;
    EXPECT_EQ(test::caught([&] { (void)detection_noncentrality(10, 0.05, p); }).code(), ErrorCode::bad_argument) << p;
  }
}

// Far out the noncentral distribution goes on smoothly, and to 0 and 1.
TEST(Limits, KnowTheNoncentralDistributionFarOut) {
  for (const double degrees : {2.0, 5.0, 30.0}) {
    for (const double share : {0.7, 1.0, 1.5}) {
      EXPECT_NEAR(noncentral_t_probability(101 * share, degrees, 101),
                  noncentral_t_probability(99 * share, degrees, 99), 2e-3);
    }
    EXPECT_EQ(noncentral_t_probability(3, degrees, 1e9), 0);
    EXPECT_EQ(noncentral_t_probability(3, degrees, -1e9), 1);
  }
}

// Currie (1968): 2.33 sqrt(B), 2.71 + 4.65 sqrt(B), 50 (1 + sqrt(1 + B/12.5)) for a blank counted as long as the
// sample.
TEST(Limits, OfCountsAreThePublishedOnes) {
  for (const double blank : {0.0, 9.0, 400.0}) {
    const CountingLimits limits = counting_limits(blank, 2, 0.05, 0.05);
    EXPECT_NEAR(limits.critical, 2.32617430735334817 * std::sqrt(blank), 1e-12 * (1 + blank));
    EXPECT_NEAR(limits.detection, 2.70554345409541457 + 4.65234861470669635 * std::sqrt(blank), 1e-12 * (1 + blank));
    EXPECT_NEAR(limits.quantitation, 50 * (1 + std::sqrt(1 + blank / 12.5)), 1e-12 * (1 + blank));
  }
  EXPECT_EQ(test::caught([] { (void)counting_limits(-1, 2, 0.05, 0.05); }).code(), ErrorCode::bad_argument);
  Readings counts{.amount = {"x", ""}, .signal = {"y", "counts"}};
  for (const double amount : {1.0, 2.0, 3.0, 4.0})
    add_to(counts, {.amount = amount, .signal = 100 + 300 * amount + amount * amount});
  for (const double blank : {96.0, 104.0}) counts.all.push_back({.kind = ReadingKind::blank, .signal = blank});
  const Calibration c =
      calibrate(counts, {.blank = BlankUse::none, .scatter = {Kind::power, 0.5}, .limits = {.simulations = 0}});
  EXPECT_NEAR(route_of(c, "counting statistics").detection * c.fit.parameter("b").value,
              counting_limits(100, 1.5, 0.05, 0.05).detection, 1e-6);
}

Readings laboratory(const std::vector<double>& levels, int replicates, double constant, double relative,
                    RandomNumbers& random, int blanks = 0) {
  Readings readings{.amount = {"x", ""}, .signal = {"y", ""}};
  for (const double level : levels) {
    for (int i = 0; i < replicates; ++i) {
      const double net = 6 * level;
      add_to(readings, {.amount = level, .signal = 2 + net + std::hypot(constant, relative * net) * random.normal()});
    }
  }
  for (int i = 0; i < blanks; ++i)
    add_to(readings, {.kind = ReadingKind::blank, .signal = 2 + constant * random.normal()});
  return readings;
}

// What a route rests on is said where it is little.
TEST(Limits, SayWhatTheyRestOn) {
  const auto routes = [](std::size_t blanks, double fortified, double drift) {
    Readings readings{.amount = {"x", "mg"}, .signal = {"y", "V"}};
    for (int i = 0; i < 12; ++i) add_to(readings, {.amount = 1 + 0.5 * i, .signal = 5 + 1.5 * i + (i % 3 - 1) * 0.1});
    for (std::size_t i = 0; i < blanks; ++i)
      add_to(readings, {.kind = ReadingKind::blank, .signal = 2 + 0.05 * static_cast<double>(i % 4)});
    for (int i = 0; i < 4; ++i)
      add_to(readings, {.kind = ReadingKind::fortified,
                        .amount = fortified,
                        .signal = 2 + 3 * fortified + drift * (i - 1.5),
                        .sample = "F"});
    return calibrate(readings, {.limits = {.simulations = 0}}).limits;
  };
  const auto remarks = [](const std::vector<LimitRoute>& all, LimitRouteKind kind) {
    for (const LimitRoute& route : all) {
      if (route.route == kind) return fmt::format("{}", fmt::join(route.remarks, "|"));
    }
    return std::string("none");
  };
  EXPECT_TRUE(
      has(remarks(routes(9, 0.2, 0.1), LimitRouteKind::blank_sd), "9 blanks are few: their SD is known to 25 % only"));
  EXPECT_EQ(remarks(routes(10, 0.2, 0.1), LimitRouteKind::blank_sd), "below the lowest standard (1)");
  EXPECT_EQ(remarks(routes(10, 0.2, 0.1), LimitRouteKind::fortified_sd), "below the lowest standard (1)");
  // Farther than five times the limit, by which the samples' scatter decides.
  for (const double share : {0.97, 1.03}) {
    const double drift = 3 / (3.3 * share * std::sqrt(5.0 / 3));
    EXPECT_EQ(has(remarks(routes(10, 5, drift), LimitRouteKind::fortified_sd), "fortified far above the limit"),
              share > 1);
  }
  EXPECT_EQ(remarks(routes(10, 0.2, 0.1), LimitRouteKind::counting_statistics), "none")
      << "no scatter like that of counts";
}

// ISO 11843-2 for a line with equal scatter: x_c = t (s/b) sqrt(1/K + 1/N + mean²/Sxx), x_d with delta for t; and the
// crossing of the one-sided bands.
TEST(Limits, AreTheStandardsFormulas) {
  RandomNumbers random(4);
  const Readings readings = laboratory({0, 1, 2, 3, 4}, 3, 0.4, 0, random, 10);
  for (const int k : {1, 4}) {
    const Calibration c =
        calibrate(readings, {.limits = {.alpha = 0.05, .beta = 0.1, .readings = k, .simulations = 0}});
    const double s = c.curve.scatter.scale;
    const double b = c.fit.parameter("b").value;
    const double root = std::sqrt(1.0 / k + 1.0 / 15 + 4.0 / 30);
    const double t = student_t_quantile(0.95, 13);
    const LimitRoute& power = route_of(c, "critical value and power");
    EXPECT_NEAR(power.critical, t * s / b * root, 1e-9);
    EXPECT_EQ(c.alternatives.at(0).detection, power.detection);
    EXPECT_NEAR(power.detection, detection_noncentrality(13, 0.05, 0.1) * s / b * root, 1e-8);
    const double x = route_of(c, "prediction bands").detection;
    const double t_beta = student_t_quantile(0.9, 13);
    EXPECT_NEAR(b * x - t_beta * s * std::sqrt(1.0 / k + 1.0 / 15 + (x - 2) * (x - 2) / 30), t * s * root, 1e-8);
    const double q = power.quantitation;
    EXPECT_NEAR(s / b * std::sqrt(1.0 / k + 1.0 / 15 + (q - 2) * (q - 2) / 30), 0.1 * q, 1e-8);
    EXPECT_NEAR(route_of(c, "residual SD").detection, 3.3 * s / b, 1e-9);
    EXPECT_NEAR(route_of(c, "residual SD").quantitation, 10 * s / b, 1e-9);
    EXPECT_NEAR(route_of(c, "intercept SD").detection, 3.3 * c.fit.parameter("a").standard_uncertainty / b, 1e-9);
    EXPECT_NEAR(route_of(c, "blank SD").detection, 3.3 * c.blank.sd / b, 1e-9);
    const auto largest = std::max_element(c.limits.begin(), c.limits.end(), [](const auto& one, const auto& other) {
      return one.detection < other.detection;
    });
    EXPECT_TRUE(has(c.cautious_limit, fmt::format("is that of the route {}", name(largest->route))));
    EXPECT_EQ(has(c.cautious_limit, "no stated error rates"), has(name(largest->route), "SD"));
  }
  // Their own uncertainty: what repeated laboratories show.
  const Calibration once = calibrate(readings, {.limits = {.simulations = 1000}});
  double sum = 0, squares = 0;
  const int laboratories = test::simulated_sets(250, 1000);
  for (int i = 0; i < laboratories; ++i) {
    Readings again = readings;
    for (Reading& r : again.all) {
      const double curve = r.kind == ReadingKind::blank
                               ? once.blank.mean
                               : once.fit.parameter("a").value + once.fit.parameter("b").value * r.amount;
      r.signal = curve + (r.kind == ReadingKind::blank ? once.blank.sd : once.curve.scatter.scale) * random.normal();
    }
    const double d = route_of(calibrate(again, {.limits = {.simulations = 0}}), "critical value and power").detection;
    sum += d;
    squares += d * d;
  }
  const double sd = std::sqrt(squares / laboratories - sum * sum / laboratories / laboratories);
  EXPECT_NEAR(route_of(once, "critical value and power").detection_uncertainty, sd,
              0.12 * sd * std::sqrt(1000.0 / laboratories));
}

// Several weightings agree with the readings: by their weights, a blank's readings exceed the critical value as often
// as asked for, and the quantitation limit has a tenth of itself as its uncertainty, in which the curves' differences
// count.
TEST(Limits, AreThoseOfAllWeightings) {
  RandomNumbers random(11);
  Readings readings = laboratory({0, 0.5, 1, 2, 4, 6}, 4, 0.05, 0, random, 0);
  for (Reading& r : readings.all) r.signal *= 1 + 0.03 * random.normal();
  for (const int k : {1, 3}) {
    const Calibration c = calibrate(readings, {.scatter = {Kind::both}, .limits = {.readings = k, .simulations = 0}});
    const std::vector<Weighting>& all = c.curve.weightings;
    ASSERT_GT(all.size(), 2u);
    const auto value = [](const Estimate& curve, double x) { return curve_at(curve, x).value; };
    const auto of_readings = [&](const Weighting& w, double x) {
      return w.scatter.at(value(w.estimate, x)) / std::sqrt(k);
    };
    const LimitRoute& power = route_of(c, "critical value and power");
    const double slope = value(c.curve.estimate, 1) - value(c.curve.estimate, 0);
    double exceeded = 0, missed = 0, squares = 0, weights = 0, largest = 0;
    for (const Weighting& w : all) {
      weights += w.weight;
      largest = std::max(largest, w.weight);
      const double sd = std::hypot(of_readings(w, 0), curve_at(w.estimate, 0.0).standard_uncertainty);
      const double apart = slope * power.critical - (value(w.estimate, 0) - value(c.curve.estimate, 0));
      const double tail = student_t_two_sided(apart / sd, w.estimate.scale_degrees_of_freedom()) / 2;
      exceeded += w.weight * (apart > 0 ? tail : 1 - tail);
      // As far as it rises above the mean curve at amount 0 its readings miss the critical signal (noncentral t).
      const double wide = std::hypot(of_readings(w, power.detection), curve_at(w.estimate, 0.0).standard_uncertainty);
      missed +=
          w.weight * noncentral_t_probability(slope * power.critical / wide, w.estimate.scale_degrees_of_freedom(),
                                              (value(w.estimate, power.detection) - value(c.curve.estimate, 0)) / wide);
      const double q = power.quantitation;
      const double off = value(w.estimate, q) - value(c.curve.estimate, q);
      squares += w.weight * (std::pow(of_readings(w, q), 2) + off * off +
                             std::pow(curve_at(w.estimate, q).standard_uncertainty, 2));
    }
    EXPECT_NEAR(weights, 1, 1e-12);
    EXPECT_LT(largest, 0.9);
    EXPECT_NEAR(exceeded, 0.05, 1e-8);
    EXPECT_NEAR(missed, 0.05, 1e-6);
    EXPECT_NEAR(std::sqrt(squares) / slope, 0.1 * power.quantitation, 1e-9);
  }
}

// The order in which a line is written changes nothing: a + b x, and b x + a.
TEST(Limits, AreThoseOfTheLineHoweverItIsWritten) {
  RandomNumbers random(5);
  const Readings readings = laboratory({0.5, 1, 2, 3, 4}, 3, 0.4, 0.05, random, 10);
  for (const Kind kind : {Kind::constant, Kind::power, Kind::both}) {
    const LimitOptions limits{.simulations = 0};
    const Calibration c = calibrate(readings, {.scatter = {kind}, .limits = limits});
    const Calibration turned =
        calibrate(readings, {.model = Model::written("y = b*x + a"), .scatter = {kind}, .limits = limits});
    ASSERT_EQ(turned.fit.model().constant_index(), 1);
    for (const std::size_t i : {std::size_t{0}, c.alternatives.size() - 1}) {
      EXPECT_NEAR(turned.alternatives[i].slope / c.alternatives[i].slope, 1, 1e-9);
      EXPECT_NEAR(turned.alternatives[i].slope_uncertainty / c.alternatives[i].slope_uncertainty, 1, 1e-9);
    }
    ASSERT_EQ(turned.limits.size(), c.limits.size());
    for (std::size_t i = 0; i < c.limits.size(); ++i) {
      EXPECT_EQ(turned.limits[i].route, c.limits[i].route);
      EXPECT_NEAR(turned.limits[i].detection, c.limits[i].detection, 1e-9);
      if (!std::isnan(c.limits[i].quantitation))
        EXPECT_NEAR(turned.limits[i].quantitation, c.limits[i].quantitation, 1e-9);
    }
  }
}

// Standards far from nothing say little of the scatter there; blanks do, from two on, and levels near nothing.
TEST(Limits, AreWideWhereNothingTellsTheScatterOfNothing) {
  for (const double lowest : {0.05, 10.0}) {
    for (int blanks = 0; blanks <= 3; ++blanks) {
      RandomNumbers random(8);
      Readings readings = laboratory({lowest, 10 + lowest, 30, 60, 100}, 5, 0.3, 0.03, random, blanks);
      const Calibration c = calibrate(readings, {.scatter = {Kind::both}, .limits = {.simulations = 0}});
      const bool said = std::any_of(c.remarks.begin(), c.remarks.end(), [](const std::string& remark) {
        return remark.starts_with("These standards hardly tell how much a reading scatters at amount 0");
      });
      EXPECT_EQ(said, lowest > 1 && blanks < 2) << lowest << " " << blanks;
    }
  }
}

// The limits by fortified samples and by blanks are as uncertain as their standard deviation, of ten degrees of
// freedom; a precise line adds little.
TEST(Limits, ByFortifiedSamplesAreAsUncertainAsTheirScatter) {
  RandomNumbers random(6);
  Readings readings = laboratory({0, 5, 10, 15, 20}, 4, 0.4, 0, random, 11);
  for (int i = 0; i < 11; ++i)
    add_to(readings, {.kind = ReadingKind::fortified, .amount = 0.2, .signal = 2 + 6 * 0.2 + 0.4 * random.normal()});
  const Calibration c = calibrate(readings, {.limits = {.simulations = 4000}});
  const auto half = [](double p) { return std::sqrt(chi_squared_quantile(p, 10) / 10); };
  const double share = (half(normal_probability(1)) - half(normal_probability(-1))) / 2;
  for (const char* name : {"fortified SD", "blank SD"}) {
    const LimitRoute& made = route_of(c, name);
    EXPECT_NEAR(made.detection, 3.3 * made.sd / c.fit.parameter("b").value, 1e-9);
    EXPECT_NEAR(made.detection_uncertainty / made.detection, share, 0.08 * share) << name;
  }
  // Of two amounts, pooled over the degrees of freedom.
  Readings two = laboratory({0, 5, 10, 15, 20}, 4, 0.4, 0, random);
  for (const auto& [amount, signal] : {std::pair{0.2, 3.0}, {0.2, 3.6}, {0.4, 4.4}, {0.4, 4.1}, {0.4, 4.7}, {0.4, 4.4}})
    add_to(two, {.kind = ReadingKind::fortified, .amount = amount, .signal = signal});
  EXPECT_NEAR(route_of(calibrate(two, {.limits = {.simulations = 0}}), "fortified SD").sd,
              std::sqrt((2 * 0.09 + 2 * 0.09) / 4), 1e-12);
}

// Fewer than 20 simulated laboratories tell no uncertainty of a limit.
TEST(Limits, HaveAnUncertaintyFromTwentySimulationsOn) {
  RandomNumbers random(5);
  const Readings readings = laboratory({0, 1, 2, 3, 4}, 3, 0.4, 0, random, 10);
  for (const int simulations : {19, 20}) {
    const Calibration c = calibrate(readings, {.limits = {.simulations = simulations}});
    EXPECT_EQ(route_of(c, "critical value and power").detection_uncertainty > 0, simulations == 20);
  }
}

TEST(Limits, FollowCurvesToo) {
  RandomNumbers random(8);
  Readings readings = laboratory({0, 0.5, 1, 2, 3, 4}, 3, 0.05, 0, random, 3);
  for (Reading& r : readings.all) {
    if (r.kind == ReadingKind::standard) r.signal = r.signal - 0.5 * r.amount * r.amount;
  }
  CalibrationOptions options{.model = Model::written("y = p + q*x + r*x^2", {"x"}), .limits = {.simulations = 0}};
  const Calibration c = calibrate(readings, options);
  const double x = route_of(c, "residual SD").detection;
  const auto value = [&c](double at) { return band_at(c.curve.estimate, VectorXd::Constant(1, at), 0.95)[0].value; };
  EXPECT_NEAR(value(x) - value(0), 3.3 * c.curve.scatter.scale, 1e-9);
  const double at_zero = band_at(c.curve.estimate, Vector{0.0}, 0.95)[0].standard_uncertainty;
  const LimitRoute& intercept = route_of(c, "intercept SD");
  EXPECT_NEAR(value(intercept.detection) - value(0), 3.3 * at_zero, 1e-9);
  EXPECT_NEAR(value(intercept.quantitation) - value(0), 10 * at_zero, 1e-9);
  EXPECT_TRUE(has(route_of(c, "blank SD").remark(), "3 blanks are few"));
  // A logarithm has no value at amount 0: the calibration stands, without limits, and says so.
  std::erase_if(readings.all, [](const Reading& r) { return r.amount == 0; });
  options.model = Model::written("y = p + q*ln(x)", {"x"});
  const Calibration logarithm = calibrate(readings, options);
  EXPECT_TRUE(logarithm.limits.empty());
  EXPECT_TRUE(has(logarithm.remarks.front(), "not defined at amount 0"));
}

int laboratories() { return test::simulated_sets(150, 10'000); }

// Every laboratory calibrates once, then reads one blank and one sample that holds the detectable amount of the true
// line; both errors must be those asked for, on average over laboratories.
TEST(Limits, ErrAsOftenAsTheyState) {
  for (const int readings : {1, 3}) {
    RandomNumbers random(12);
    int false_positive = 0, false_negative = 0;
    const std::vector<double> levels = {0, 0.2, 0.4, 0.6, 0.8, 1};
    const double dof = 16;
    // The amount that the formula gives for the true line and scatter.
    const double root = std::sqrt(1.0 / readings + 1.0 / 18 + 0.25 / 2.1);
    const double detectable = detection_noncentrality(dof, 0.05, 0.05) * 0.3 / 6 * root;
    for (int i = 0; i < laboratories(); ++i) {
      const Calibration c =
          calibrate(laboratory(levels, 3, 0.3, 0, random), {.limits = {.readings = readings, .simulations = 0}});
      const double critical = route_of(c, "critical value and power").critical;
      for (const double amount : {0.0, detectable}) {
        double mean = 0;
        for (int k = 0; k < readings; ++k) mean += (2 + 6 * amount + 0.3 * random.normal()) / readings;
        const double found = (mean - c.fit.parameter("a").value) / c.fit.parameter("b").value;
        (amount == 0 ? false_positive : false_negative) += amount == 0 ? found > critical : found <= critical;
      }
    }
    const double three = 3 * std::sqrt(laboratories() * 0.05 * 0.95);
    EXPECT_NEAR(false_positive, 0.05 * laboratories(), three) << readings;
    EXPECT_NEAR(false_negative, 0.05 * laboratories(), three) << readings;
  }
}

}  // namespace
}  // namespace truecurve
