// Searches that are watched: stopped from outside, by a limit of time or of evaluations, and by what callers throw.

#include "../support.hpp"

#include <atomic>
#include <chrono>
#include <stop_token>
#include <thread>

namespace truecurve {
namespace {

using Clock = std::chrono::steady_clock;

Observations two_decays() {
  std::vector<double> x, y;
  for (int i = 0; i < 24; ++i) {
    x.push_back(i / 3.0);
    y.push_back(5 * std::exp(-x.back() / 0.7) + 3 * std::exp(-x.back() / 4) + 0.01 * std::sin(5.0 * i));
  }
  return Observations::of(x, y);
}

// Two decays as code that counts its calls, and those after an end; from one of them on it takes its time in every row.
struct SlowDecays {
  std::atomic<int>* calls = nullptr;
  int slow_from = 0;
  std::atomic<int>* late = nullptr;
  Clock::time_point end = Clock::time_point::max();
  double operator()(double x, std::span<const double> p) const {
    const int call = calls == nullptr ? 0 : ++*calls;
    const bool is_late = late != nullptr && Clock::now() > end;
    if (is_late) ++*late;
    if (slow_from > 0 && call > slow_from && !is_late) std::this_thread::sleep_for(std::chrono::microseconds(50));
    return p[0] * std::exp(-x / p[1]) + p[2] * std::exp(-x / p[3]);
  }
};
Model slow(SlowDecays code) { return Model::function({"a", "s", "b", "t"}, code); }

void expect_ended(const Fit& stopped, StopReason why) {
  EXPECT_FALSE(stopped.solver().converged);
  EXPECT_EQ(stopped.solver().stop, why);
  ASSERT_FALSE(stopped.warnings().empty());
  EXPECT_EQ(stopped.warnings()[0].code, WarningCode::not_converged);
  EXPECT_TRUE(has(stopped.warnings()[0].text, std::string("(") + std::string(name(why)) + ")"));
}

void expect_best_so_far(const Fit& stopped, StopReason why) {
  expect_ended(stopped, why);
  EXPECT_TRUE(std::isfinite(stopped.chi_squared()));
  static const double least = fit(slow({}), two_decays()).chi_squared();
  EXPECT_GE(stopped.chi_squared(), 0.99 * least);
  for (const double value : stopped.estimate().parameters()) EXPECT_TRUE(std::isfinite(value));
}

// Calls after a search was told to end: some evaluations, and the statistics of the best. The whole search makes a
// million. No clock judges them: on a busy machine any call may take long.
constexpr int some_calls = 24 * (17 * 12 + 300);

TEST(Stopping, EndsWhereItIsRequested) {
  std::stop_source source;
  std::atomic<int> calls = 0;
  int before = 0;
  std::jthread other([&] {
    while (calls < 3000) std::this_thread::yield();
    source.request_stop();
    before = calls;
  });
  const Fit stopped = fit(slow({&calls, 1}), two_decays(), {.stop = source.get_token()});
  other.join();
  EXPECT_LT(calls - before, some_calls);
  expect_best_so_far(stopped, StopReason::stopped);
}

// Some of these ends come where one decay's time makes no difference to the best curve seen: then it has no
// uncertainty.
TEST(Stopping, EndsAnywhere) {
  int without_uncertainty = 0;
  for (int last = 1; last < 500; ++last) {
    std::stop_source source;
    int calls = 0;
    const Model model = Model::function({"a", "s", "b", "t"}, [&](double x, std::span<const double> p) {
      if (++calls == last) source.request_stop();
      return SlowDecays{}(x, p);
    });
    const FitAttempt made = try_fit(model, two_decays(), {.stop = source.get_token()});
    if (!made) {
      EXPECT_EQ(made.error()->code(), ErrorCode::stopped) << last;
      EXPECT_LE(last, 48) << "more than two evaluations have a best so far";
      continue;
    }
    expect_best_so_far(made.fit(), StopReason::stopped);
    without_uncertainty += std::isnan(made.fit().estimate().standard_uncertainties()[1]);
  }
  EXPECT_GT(without_uncertainty, 0);
}

TEST(Stopping, EndsWithItsTime) {
  std::atomic<int> calls = 0;
  std::atomic<int> late = 0;
  const auto begun = Clock::now();
  const SlowDecays code{&calls, 3000, &late, begun + std::chrono::milliseconds(500)};
  const Fit stopped = fit(slow(code), two_decays(), {.time_limit = 0.5});
  const std::chrono::duration<double> took = Clock::now() - begun;
  EXPECT_GE(took.count(), 0.5);
  EXPECT_LT(late, some_calls);
  expect_best_so_far(stopped, StopReason::time_limit);
}

// The limit is one of the whole search: what is evaluated beyond it is what the statistics of the best need.
TEST(Stopping, EndsWithItsEvaluations) {
  for (const int most : {1, 3, 30, 300, 3000}) {
    std::atomic<int> calls = 0;
    const Fit stopped = fit(slow({&calls}), two_decays(), {.most_evaluations = most});
    expect_best_so_far(stopped, StopReason::evaluations);
    EXPECT_LE(stopped.solver().evaluations, most + 12) << most;
    // Derivatives by differences call the code 17 times, and an evaluation with them counts once.
    EXPECT_LE(calls, 24 * (17 * most + 300)) << most;
    const Fit from_start =
        fit(slow({}), two_decays(),
            {.starts = {{"a", 1}, {"s", 90}, {"b", 1}, {"t", 0.01}}, .most_evaluations = std::min(most, 3)});
    expect_best_so_far(from_start, StopReason::evaluations);
  }
  const Observations cracked =
      Observations::counted({1, 2, 3, 4, 5}, {1, 4, 9, 15, 19}, Vector(5, 20), ResponseKind::events);
  const Fit counted = fit(Model::written("y = 1/(1 + exp(-(a + b*x)))", {"x"}), cracked, {.most_evaluations = 5});
  EXPECT_EQ(counted.solver().stop, StopReason::evaluations);
  // Weights that follow from the curve are no new search.
  const Fit weighted = fit(Model::written("y = a*exp(-x/s) + b"), two_decays(),
                           {.spread = Spread::proportional(), .most_evaluations = 20});
  EXPECT_EQ(weighted.solver().stop, StopReason::evaluations);
  EXPECT_LE(weighted.solver().evaluations, 40);
}

TEST(Stopping, HasNothingWhereItNeverBegan) {
  std::stop_source source;
  source.request_stop();
  const Error error = test::caught([&] { (void)fit(slow({}), two_decays(), {.stop = source.get_token()}); });
  EXPECT_EQ(error.code(), ErrorCode::stopped);
  EXPECT_EQ(kind(error.code()), ErrorKind::fit);
  EXPECT_EQ(error.message(), "the search ended before the curve was seen at any place (stopped)");
  // A linear model has no search that could end, but may have rounds of weights.
  EXPECT_TRUE(fit(shape_model("line"), two_decays(), {.stop = source.get_token()}).solver().converged);
  expect_ended(fit(shape_model("line"), two_decays(), {.spread = Spread::proportional(), .stop = source.get_token()}),
               StopReason::stopped);
  for (const FitOptions& options :
       {FitOptions{.most_evaluations = 0}, FitOptions{.time_limit = 0}, FitOptions{.time_limit = std::nan("")}})
    EXPECT_EQ(test::caught([&] { (void)fit(slow({}), two_decays(), options); }).code(), ErrorCode::bad_argument);
}

TEST(Stopping, TellsHowFarItIs) {
  std::vector<FitProgress> told;
  const Fit made = fit(slow({}), two_decays(), {.progress = [&told](const FitProgress& p) { told.push_back(p); }});
  EXPECT_TRUE(made.solver().converged);
  ASSERT_GE(told.size(), 4u);
  std::set<FitStage> stages;
  for (std::size_t i = 0; i < told.size(); ++i) {
    stages.insert(told[i].stage);
    if (i > 0) EXPECT_GE(told[i].evaluations, told[i - 1].evaluations);
    if (i > 0) EXPECT_GE(told[i].stage, told[i - 1].stage);
    EXPECT_TRUE(std::isnan(told[i].share) || (told[i].share >= 0 && told[i].share <= 1)) << told[i].share;
  }
  EXPECT_EQ(stages, (std::set{FitStage::looking, FitStage::beginning, FitStage::descending, FitStage::checking}));
  EXPECT_EQ(told.back().stage, FitStage::checking);
  EXPECT_EQ(name(FitStage::looking), "looking for starts");
  EXPECT_EQ(name(FitStage::beginning), "beginning descents");
  EXPECT_EQ(name(FitStage::descending), "descending");
  EXPECT_EQ(name(FitStage::checking), "checking the minimum");
}

// The count of a fit is that of its progress: descents in all parameters, where given starts lead elsewhere, count too.
TEST(Stopping, CountsTheEvaluationsOfAllDescents) {
  std::vector<double> x, y;
  for (int i = 0; i < 20; ++i) {
    x.push_back(0.5 * i);
    y.push_back(9 * std::exp(-0.15 * i) + 2 + 0.2 * std::sin(7.0 * i));
  }
  int told = 0;
  for (const double k : {0.3, 5.0, 0.01}) {
    const Fit made = fit(Model::written("y = a*exp(-k*x) + c"), Observations::of(x, y),
                         {.starts = {{"a", 1}, {"k", k}, {"c", 0}},
                          .progress = [&told](const FitProgress& p) { told = static_cast<int>(p.evaluations); }});
    EXPECT_NEAR(made.solver().evaluations, told, 3) << k;
  }
}

struct OwnFailure {
  int number;
};

TEST(Stopping, PassesOnWhatCallersThrow) {
  const auto thrown_by = [](auto exception) {
    const Model model = Model::function({"a"}, [exception](double x, auto p) {
      if (x > 2) throw exception;
      return p[0] * x;
    });
    return fit(model, Observations::of({1, 2, 3}, {2, 4, 6}));
  };
  EXPECT_THROW((void)thrown_by(OwnFailure{7}), OwnFailure);
  EXPECT_THROW((void)thrown_by(std::runtime_error("the device is gone")), std::runtime_error);
  const Error row = test::caught([&] { (void)thrown_by(std::domain_error("no such temperature")); });
  EXPECT_EQ(row.code(), ErrorCode::unsuitable_row);
  EXPECT_EQ(row.message(), "row 3: the model's function can't be evaluated: no such temperature");
  EXPECT_THROW((void)fit(slow({}), two_decays(), {.progress = [](const FitProgress&) { throw OwnFailure{8}; }}),
               OwnFailure);
}

TEST(TryFit, ReturnsTheFitOrTheError) {
  const FitAttempt made = try_fit(shape_model("line"), two_decays());
  ASSERT_TRUE(made);
  EXPECT_EQ(made.error(), nullptr);
  EXPECT_EQ(made.fit().estimate().parameters()[0], fit(shape_model("line"), two_decays()).estimate().parameters()[0]);
  const FitAttempt failed = try_fit(shape_model("line"), Observations::of({1}, {2}));
  ASSERT_FALSE(failed);
  ASSERT_NE(failed.error(), nullptr);
  EXPECT_EQ(failed.error()->code(), ErrorCode::too_few_observations);
  EXPECT_EQ(test::caught([&] { (void)failed.fit(); }).code(), ErrorCode::too_few_observations);
  const Model throws = Model::function({"a"}, [](double, auto) -> double { throw OwnFailure{9}; });
  EXPECT_THROW((void)try_fit(throws, two_decays()), OwnFailure);
}

}  // namespace
}  // namespace truecurve
