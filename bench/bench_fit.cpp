// The cost of fits, as ratios to a reference measured in the same run.
//
//     build/bench/bench/bench_fit
#include <truecurve/base/random.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/model/shapes.hpp>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <vector>

#include <benchmark/benchmark.h>

namespace {

namespace tc = truecurve;
using Clock = std::chrono::steady_clock;

tc::Observations line_data(Eigen::Index n) {
  tc::RandomNumbers random(1);
  tc::VectorXd x(n);
  tc::VectorXd y(n);
  for (Eigen::Index i = 0; i < n; ++i) {
    x[i] = 100 * random.uniform();
    y[i] = 3 + 0.5 * x[i] + random.uniform();
  }
  return tc::Observations::of(std::move(x), std::move(y));
}

// The memory limit: a loop that only sums both arrays, as the compiler makes it from plain code.
double plain_sums(const tc::Observations& data) {
  double sum_x = 0;
  double sum_y = 0;
  const double* const x = data.predictor(0).data();
  const double* const y = data.responses().data();
  const auto n = static_cast<std::size_t>(data.responses().size());
  for (std::size_t i = 0; i < n; ++i) {
    sum_x += x[i];
    sum_y += y[i];
  }
  return sum_x + sum_y;
}

void sum_arrays(benchmark::State& state) {
  const tc::Observations data = line_data(state.range(0));
  for (auto _ : state) benchmark::DoNotOptimize(plain_sums(data));
}

void fit_line(benchmark::State& state) {
  const tc::Observations data = line_data(state.range(0));
  const tc::Model model = tc::shape_model("line").with_predictors({"x"});
  for (auto _ : state) benchmark::DoNotOptimize(tc::fit(model, data).estimate().covariance().data());
}

BENCHMARK(sum_arrays)->Arg(20)->Arg(10'000)->Arg(10'000'000);
BENCHMARK(fit_line)->Arg(20)->Arg(10'000)->Arg(10'000'000);

// Medians of alternating runs, so that a change in the machine's speed hits both alike.
template <typename A, typename B>
double ratio(int runs, A a, B b) {
  std::vector<double> ratios;
  for (int i = 0; i < runs; ++i) {
    const auto start = Clock::now();
    a();
    const auto middle = Clock::now();
    b();
    const auto end = Clock::now();
    ratios.push_back(std::chrono::duration<double>(middle - start) / std::chrono::duration<double>(end - middle));
  }
  std::nth_element(ratios.begin(), ratios.begin() + runs / 2, ratios.end());
  return ratios[static_cast<std::size_t>(runs / 2)];
}

}  // namespace

int main(int count, char** arguments) {
  benchmark::Initialize(&count, arguments);
  benchmark::RunSpecifiedBenchmarks();
  const tc::Observations large = line_data(10'000'000);
  const tc::Model line = tc::shape_model("line").with_predictors({"x"});
  std::printf("\nratio, line fit with covariance to a loop that sums the same arrays, 1e7 rows: %.2f (limit 3.5)\n",
              ratio(15, [&] { benchmark::DoNotOptimize(tc::fit(line, large).chi_squared()); }, [&] { benchmark::DoNotOptimize(plain_sums(large)); }));
  return 0;
}
