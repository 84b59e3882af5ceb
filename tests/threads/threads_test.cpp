// The parallel parts, and one fit asked from many threads: a program of its own, so that a thread sanitizer sees little
// else.
#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/assess/variance.hpp>
#include <truecurve/model/shapes.hpp>

#include <cmath>
#include <thread>
#include <vector>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

// Rows enough for several tasks, out of order so that they are sorted; places that repeat.
Observations many_rows(std::size_t n) {
  std::vector<double> x(n), y(n);
  for (std::size_t i = 0; i < n; ++i) {
    x[i] = static_cast<double>((i * 7919) % 5000) / 500;
    y[i] = 1 + 2 * std::exp(-0.3 * x[i]) + 0.01 * std::sin(static_cast<double>(i * i % 977));
  }
  return Observations::of(std::move(x), std::move(y));
}

TEST(Threads, FitsOfManyRowsAreTheSameInEveryRun) {
  const Observations rows = many_rows(150'000);
  const Fit cubic = fit(shape_model("polynomial(3)"), rows);
  const Fit again = fit(shape_model("polynomial(3)"), rows);
  EXPECT_EQ(cubic.estimate().parameters(), again.estimate().parameters());
  EXPECT_EQ(cubic.chi_squared(), again.chi_squared());
  const Model decay = Model::written("y = c + a*exp(-k*x)");
  const FitOptions from{.starts = {{"a", 2}, {"k", 0.3}, {"c", 1}}};
  const Fit curve = fit(decay, rows, from);
  EXPECT_EQ(curve.estimate().parameters(), fit(decay, rows, from).estimate().parameters());
  EXPECT_NEAR(curve.parameter("k").value, 0.3, 0.01);
  EXPECT_EQ(residual_checks(cubic).size(), residual_checks(again).size());
}

TEST(Threads, OneFitAnswersManyAtOnce) {
  const Fit shared = fit(shape_model("line"), many_rows(400));
  std::vector<double> seen(8);
  std::vector<std::thread> threads;
  for (std::size_t k = 0; k < seen.size(); ++k) {
    threads.emplace_back([&, k] {
      const Fit copy = shared;
      const Fit& asked = k % 2 == 0 ? shared : copy;
      seen[k] = quality_of(asked).aicc + static_cast<double>(residual_checks(asked).size()) +
                variance_table(asked).explained.f + band_at(asked.estimate(), {5}, 0.95)[0].confidence.low;
    });
  }
  for (std::thread& thread : threads) thread.join();
  for (const double value : seen) EXPECT_EQ(value, seen[0]);
}

TEST(Threads, FitSideBySide) {
  std::vector<double> slopes(6);
  std::vector<std::thread> threads;
  for (std::size_t k = 0; k < slopes.size(); ++k) {
    threads.emplace_back([&, k] {
      const Model model = Model::written("y = c + a*exp(-k*x)", {"x"});
      slopes[k] = fit(model, many_rows(300)).parameter("k").value;
    });
  }
  for (std::thread& thread : threads) thread.join();
  for (const double slope : slopes) EXPECT_EQ(slope, slopes[0]);
}

}  // namespace
}  // namespace truecurve
