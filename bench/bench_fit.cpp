// The cost of fits, as ratios to a reference measured in the same run.
//
//     build/bench/bench/bench_fit
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/assess/variance.hpp>
#include <truecurve/base/eigen.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/model/shapes.hpp>

#include "ratio.hpp"

#include <cstdio>
#include <vector>

#include <Eigen/QR>
#include <benchmark/benchmark.h>

namespace {

namespace tc = truecurve;
using Eigen::Index;

tc::Observations one_predictor(Index n) {
  tc::RandomNumbers random(1);
  Eigen::VectorXd x(n);
  Eigen::VectorXd y(n);
  for (Index i = 0; i < n; ++i) {
    x[i] = 100 * random.uniform();
    y[i] = 3 + 0.5 * x[i] + random.uniform();
  }
  return tc::Observations::of(std::move(x), std::move(y));
}

tc::Observations bent(Index n) {
  tc::RandomNumbers random(3);
  const Eigen::VectorXd x = Eigen::VectorXd::LinSpaced(n, 0, 10);
  Eigen::VectorXd y(n);
  for (Index i = 0; i < n; ++i)
    y[i] = 5 - 3 * x[i] + 0.9 * x[i] * x[i] - 0.07 * x[i] * x[i] * x[i] + 0.2 * random.normal();
  return tc::Observations::of(x, y);
}

tc::Observations three_predictors(Index n) {
  tc::RandomNumbers random(2);
  std::vector<tc::NamedNumbers> columns = {{"u", "", {}}, {"v", "", {}}, {"w", "", {}}, {"y", "", {}}};
  for (Index i = 0; i < n; ++i) {
    double sum = 1;
    for (std::size_t k = 0; k < 3; ++k) {
      columns[k].numbers.push_back(random.uniform());
      sum += columns[k].numbers.back();
    }
    columns[3].numbers.push_back(sum + random.uniform());
  }
  return {tc::Table::from_columns(std::move(columns)), {.response = "y", .predictors = {"u", "v", "w"}}};
}

// The memory limit: a loop that only sums both arrays, as the compiler makes it from plain code.
double plain_sums(const tc::Observations& data) {
  double sum_x = 0;
  double sum_y = 0;
  const double* const x = data.predictor(0).data();
  const double* const y = data.responses().data();
  const auto n = static_cast<std::size_t>(tc::as_eigen(data.responses()).size());
  for (std::size_t i = 0; i < n; ++i) {
    sum_x += x[i];
    sum_y += y[i];
  }
  return sum_x + sum_y;
}

// What one would write without a library: fill the design matrix, factorise it, solve.
double filled_polynomial(const tc::Observations& data, int degree) {
  Eigen::MatrixXd design(tc::as_eigen(data.responses()).size(), degree + 1);
  design.col(0).setOnes();
  for (int d = 1; d <= degree; ++d) design.col(d) = design.col(d - 1).cwiseProduct(tc::as_eigen(data.predictor(0)));
  return Eigen::HouseholderQR<Eigen::MatrixXd>(design).solve(tc::as_eigen(data.responses()))[0];
}

double filled_plane(const tc::Observations& data) {
  Eigen::MatrixXd design(tc::as_eigen(data.responses()).size(), 4);
  design.col(0).setOnes();
  for (std::size_t k = 0; k < 3; ++k) design.col(static_cast<Index>(k) + 1) = tc::as_eigen(data.predictor(k));
  return Eigen::HouseholderQR<Eigen::MatrixXd>(design).solve(tc::as_eigen(data.responses()))[0];
}

tc::Model line() { return tc::shape_model("line").with_predictors({"x"}); }
tc::Model plane() { return tc::Model::written("y = a + b*u + c*v + d*w", {"u", "v", "w"}); }

void sum_arrays(benchmark::State& state) {
  const tc::Observations data = one_predictor(state.range(0));
  for (auto _ : state) benchmark::DoNotOptimize(plain_sums(data));
}
BENCHMARK(sum_arrays)->Arg(20)->Arg(10'000)->Arg(10'000'000);

void fit_line(benchmark::State& state) {
  const tc::Observations data = one_predictor(state.range(0));
  const tc::Model model = line();
  for (auto _ : state) benchmark::DoNotOptimize(tc::fit(model, data).estimate().covariance().numbers().data());
}
BENCHMARK(fit_line)->Arg(20)->Arg(10'000)->Arg(10'000'000);

// Estimates, covariance, intervals with t and p, quality, variance table.
void cubic_with_inference(benchmark::State& state) {
  const tc::Observations data = bent(20);
  const tc::Model model = tc::shape_model("polynomial(3)").with_predictors({"x"});
  for (auto _ : state) {
    const tc::Fit result = tc::fit(model, data);
    benchmark::DoNotOptimize(tc::parameter_intervals(result.estimate(), 0.95).data());
    benchmark::DoNotOptimize(tc::quality_of(result).aicc);
    benchmark::DoNotOptimize(tc::variance_table(result).explained.f);
  }
}
BENCHMARK(cubic_with_inference);

}  // namespace

int main(int count, char** arguments) {
  benchmark::Initialize(&count, arguments);
  if (!is_tried()) benchmark::RunSpecifiedBenchmarks();
  {
    const tc::Observations data = one_predictor(many_rows(10'000'000));
    const tc::Model model = line();
    std::printf("\nline fit with covariance / loop that sums the same arrays, 1e7 rows: %.2f (limit 3.5)\n",
                ratio(
                    15, [&] { benchmark::DoNotOptimize(tc::fit(model, data).chi_squared()); },
                    [&] { benchmark::DoNotOptimize(plain_sums(data)); }));
  }
  {
    const tc::Observations data = one_predictor(many_rows(1'000'000));
    const tc::Model model = tc::shape_model("polynomial(5)").with_predictors({"x"});
    std::printf("filled design and Householder QR / polynomial of degree 5, 1e6 rows: %.2f (at least 4)\n",
                ratio(
                    9, [&] { benchmark::DoNotOptimize(filled_polynomial(data, 5)); },
                    [&] { benchmark::DoNotOptimize(tc::fit(model, data).chi_squared()); }));
  }
  {
    const tc::Observations data = three_predictors(many_rows(1'000'000));
    const tc::Model model = plane();
    std::printf("filled design and Householder QR / three predictors, 1e6 rows: %.2f (at least 3)\n",
                ratio(
                    9, [&] { benchmark::DoNotOptimize(filled_plane(data)); },
                    [&] { benchmark::DoNotOptimize(tc::fit(model, data).chi_squared()); }));
  }
  {
    const tc::Model model = tc::shape_model("polynomial(3)").with_predictors({"x"});
    const tc::Observations fewer = bent(4096);
    const tc::Observations more = bent(4097);
    std::printf("cubic of 4096 rows / of 4097 rows: %.2f (limit 10)\n",
                ratio(
                    41, [&] { benchmark::DoNotOptimize(tc::fit(model, fewer).chi_squared()); },
                    [&] { benchmark::DoNotOptimize(tc::fit(model, more).chi_squared()); }));
    for (const Index n : {Index{100}, Index{1000}, many_rows(10'000), many_rows(100'000)}) {
      const tc::Observations small = bent(n);
      const tc::Observations large = bent(10 * n);
      std::printf("cubic of %td rows / of %td rows: %.1f (limit 11)\n", 10 * n, n,
                  ratio(
                      15, [&] { benchmark::DoNotOptimize(tc::fit(model, large).chi_squared()); },
                      [&] { benchmark::DoNotOptimize(tc::fit(model, small).chi_squared()); }));
    }
  }
  return 0;
}
