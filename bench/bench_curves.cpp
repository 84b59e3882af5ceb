// The cost of curves: a written model against a loop by hand, and whole fits with and without starts.
//
//     build/bench/bench/bench_curves
#include <truecurve/base/eigen.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/fit/fit.hpp>

#include "../src/model/model_data.hpp"
#include "ratio.hpp"

#include <cmath>
#include <cstdio>
#include <functional>
#include <string>
#include <vector>

#include <benchmark/benchmark.h>

namespace {

namespace tc = truecurve;
using Eigen::Index;
using Eigen::VectorXd;

// A curve as one writes it by hand: value and derivatives of all rows, columns one after the other.
using ByHand = void (*)(const double* x, std::size_t n, const double* p, double* out);

void decay_by_hand(const double* x, std::size_t n, const double* p, double* out) {
  for (std::size_t i = 0; i < n; ++i) {
    const double e = std::exp(-x[i] / p[1]);
    out[i] = p[0] * e + p[2];
    out[n + i] = e;
    out[2 * n + i] = p[0] * e * x[i] / (p[1] * p[1]);
    out[3 * n + i] = 1;
  }
}

void peak_by_hand(const double* x, std::size_t n, const double* p, double* out) {
  for (std::size_t i = 0; i < n; ++i) {
    const double z = (x[i] - p[1]) / p[2];
    const double e = std::exp(-0.5 * z * z);
    out[i] = p[0] * e;
    out[n + i] = e;
    out[2 * n + i] = p[0] * e * z / p[2];
    out[3 * n + i] = p[0] * e * z * z / p[2];
  }
}

void logistic_by_hand(const double* x, std::size_t n, const double* p, double* out) {
  for (std::size_t i = 0; i < n; ++i) {
    const double e = std::exp(-p[2] * (x[i] - p[3]));
    const double base = 1 + e;
    const double s = std::pow(base, -p[4]);
    const double by_e = -(p[1] - p[0]) * p[4] * s / base * e;
    out[i] = p[0] + (p[1] - p[0]) * s;
    out[n + i] = 1 - s;
    out[2 * n + i] = s;
    out[3 * n + i] = by_e * -(x[i] - p[3]);
    out[4 * n + i] = by_e * p[2];
    out[5 * n + i] = -(p[1] - p[0]) * s * std::log(base);
  }
}

struct Case {
  const char* name;
  const char* text;
  std::vector<double> parameters;
  ByHand by_hand;
};

const std::vector<Case>& cases() {
  static const std::vector<Case> all = {
      {"decay", "y = a*exp(-x/tau) + c", {3, 20, 1}, decay_by_hand},
      {"Gaussian peak", "y = h*exp(-((x - m)/w)^2/2)", {3, 50, 12}, peak_by_hand},
      {"5-parameter logistic",
       "y = low + (high - low)/(1 + exp(-k*(x - m)))^g",
       {0.5, 4, 0.1, 50, 0.7},
       logistic_by_hand},
  };
  return all;
}

void run_program(const tc::detail::BoundModel& bound, const VectorXd& x, const std::vector<double>& p,
                 std::vector<double>& out, tc::detail::Program::Workspace& work) {
  const auto n = static_cast<std::size_t>(x.size());
  std::vector<double*> outputs(p.size() + 1);
  for (std::size_t start = 0; start < n; start += tc::detail::block_rows) {
    const std::size_t rows = std::min(tc::detail::block_rows, n - start);
    for (std::size_t k = 0; k < outputs.size(); ++k) outputs[k] = out.data() + k * n + start;
    const double* const variables[] = {x.data() + start};
    bound.run_jacobian(variables, rows, p, outputs, work);
  }
}

tc::Observations decay_data(Index n, double scatter) {
  tc::RandomNumbers random(5);
  const VectorXd x = VectorXd::LinSpaced(n, 0, 100);
  VectorXd y(n);
  for (Index i = 0; i < n; ++i) y[i] = 3 * std::exp(-x[i] / 20) + 1 + scatter * random.normal();
  return tc::Observations::of(x, y);
}

tc::Model decay() { return tc::Model::written("y = a*exp(-x/tau) + c", {"x"}); }

void twenty_rows_from_starts(benchmark::State& state) {
  const tc::Observations data = decay_data(20, 0.05);
  const tc::Model model = decay();
  const tc::FitOptions options{.starts = {{"a", 2}, {"tau", 30}, {"c", 0.5}}};
  for (auto _ : state) benchmark::DoNotOptimize(tc::fit(model, data, options).estimate().covariance().numbers().data());
}
BENCHMARK(twenty_rows_from_starts)->Unit(benchmark::kMicrosecond);

void twenty_rows_without_starts(benchmark::State& state) {
  const tc::Observations data = decay_data(20, 0.05);
  const tc::Model model = decay();
  for (auto _ : state) benchmark::DoNotOptimize(tc::fit(model, data).chi_squared());
}
BENCHMARK(twenty_rows_without_starts)->Unit(benchmark::kMillisecond);

void twenty_rows_of_a_peak_without_starts(benchmark::State& state) {
  tc::RandomNumbers random(6);
  const VectorXd x = VectorXd::LinSpaced(20, 0, 10);
  VectorXd y(20);
  for (Index i = 0; i < 20; ++i) y[i] = 4 * std::exp(-std::pow((x[i] - 4.2) / 1.3, 2) / 2) + 0.1 * random.normal();
  const tc::Observations data = tc::Observations::of(x, y);
  const tc::Model model = tc::Model::written("y = h*exp(-((x - m)/w)^2/2)", {"x"});
  for (auto _ : state) benchmark::DoNotOptimize(tc::fit(model, data).chi_squared());
}
BENCHMARK(twenty_rows_of_a_peak_without_starts)->Unit(benchmark::kMillisecond);

void hundred_rows_of_shares_from_starts(benchmark::State& state) {
  tc::RandomNumbers random(8);
  const VectorXd x = VectorXd::LinSpaced(100, 0, 10);
  VectorXd k(100);
  for (Index i = 0; i < 100; ++i)
    k[i] = std::round(
        20 * tc::ObservationModel::events().kernel().draw(1 / (1 + std::exp(-(x[i] - 4.5) / 1.2)), 20, random));
  const auto data = tc::Observations::counted(x, k, VectorXd::Constant(100, 20), tc::ResponseKind::events);
  const tc::Model model = tc::Model::written("y = 1/(1 + exp(-(x - m)/w))", {"x"});
  const tc::FitOptions options{.starts = {{"m", 4}, {"w", 1}}};
  for (auto _ : state) benchmark::DoNotOptimize(tc::fit(model, data, options).chi_squared());
}
BENCHMARK(hundred_rows_of_shares_from_starts)->Unit(benchmark::kMicrosecond);

}  // namespace

int main(int count, char** arguments) {
  benchmark::Initialize(&count, arguments);
  if (!is_tried()) benchmark::RunSpecifiedBenchmarks();
  const Index n = many_rows(100'000);
  const VectorXd x = VectorXd::LinSpaced(n, 0, 100);
  std::printf("\n");
  for (const Case& c : cases()) {
    const tc::Model model = tc::Model::written(c.text, {"x"});
    std::vector<double> out(static_cast<std::size_t>(n) * (c.parameters.size() + 1));
    std::vector<double> hand(out.size());
    tc::detail::Program::Workspace work;
    std::printf("%s: written model / loop by hand, value and all derivatives of 1e5 rows: %.2f (limit 1.3)", c.name,
                ratio(
                    31, [&] { run_program(*tc::detail::data_of(model).bound, x, c.parameters, out, work); },
                    [&] { c.by_hand(x.data(), static_cast<std::size_t>(n), c.parameters.data(), hand.data()); }));
    double apart = 0;
    for (std::size_t i = 0; i < out.size(); ++i)
      apart = std::max(apart, std::abs(out[i] - hand[i]) / (std::abs(hand[i]) + 1e-300));
    std::printf("; largest relative difference %.1e\n", apart);
  }
  {
    const tc::Observations data = decay_data(many_rows(1'000'000), 0.05);
    const tc::Model model = decay();
    const tc::detail::BoundModel& bound = *tc::detail::data_of(model).bound;
    std::vector<double> out(4 * data.size());
    tc::detail::Program::Workspace work;
    const std::vector<double> p = {3, 20, 1};
    const auto once = [&] { run_program(bound, tc::as_eigen(data.predictor(0)), p, out, work); };
    std::printf("decay of 1e6 rows without starts / one evaluation of model and Jacobian: %.1f (limit 25)\n",
                ratio(
                    7, [&] { benchmark::DoNotOptimize(tc::fit(model, data).chi_squared()); }, once));
    const tc::FitOptions options{.starts = {{"a", 2}, {"tau", 30}, {"c", 0.5}}};
    std::printf("the same from starts: %.1f (limit 25)\n",
                ratio(
                    7, [&] { benchmark::DoNotOptimize(tc::fit(model, data, options).chi_squared()); }, once));
  }
  {
    const Index count_of_rows = many_rows(1'000'000);
    tc::RandomNumbers random(7);
    std::vector<double> a(static_cast<std::size_t>(count_of_rows));
    std::vector<double> b(a.size());
    std::vector<double> y(a.size());
    for (std::size_t i = 0; i < a.size(); ++i) {
      a[i] = random.normal();
      b[i] = random.normal();
      y[i] = random.uniform() < 1 / (1 + std::exp(-(0.3 + a[i] - 0.5 * b[i]))) ? 1 : 0;
    }
    const tc::Table table = tc::Table::from_columns({{"a", "", a}, {"b", "", b}, {"y", "", y}});
    const tc::Observations events(
        table, {.response = "y", .predictors = {"a", "b"}, .counting = {.kind = tc::ResponseKind::events}});
    const tc::Model link = tc::Model::written("ln(y/(1 - y)) = c + p*a + q*b");
    const tc::Model mean = tc::Model::written("y = 1/(1 + exp(-(c + p*a + q*b)))", {"a", "b"});
    std::vector<double> out(4 * a.size());
    std::vector<double*> outputs(4);
    tc::detail::Program::Workspace work;
    const std::vector<double> p = {0.3, 1, -0.5};
    const auto once = [&] {
      for (std::size_t start = 0; start < a.size(); start += tc::detail::block_rows) {
        const double* const at[] = {a.data() + start, b.data() + start};
        for (std::size_t k = 0; k < 4; ++k) outputs[k] = out.data() + k * a.size() + start;
        tc::detail::data_of(mean).bound->run_jacobian(at, std::min(tc::detail::block_rows, a.size() - start), p,
                                                      outputs, work);
      }
    };
    std::printf("1e6 events, two predictors behind a logit / one evaluation of mean and derivatives: %.1f (limit 25)\n",
                ratio(
                    5, [&] { benchmark::DoNotOptimize(tc::fit(link, events).chi_squared()); }, once));
  }
  return 0;
}
