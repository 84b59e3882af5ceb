// Simulated tables: their truth, their scatter, their seed, and what fits find in them.

#include "../support.hpp"

#include <fstream>

namespace truecurve {
namespace {

TEST(Simulate, ScattersAboutTheTruthAsAsked) {
  const Model decay = Model::written("y = a*exp(-t/tau)", {"t"});
  const std::vector<Vector> at = {{0, 20, 40}};
  const Simulation made =
      simulate(decay, {{"tau", 20}, {"a", 10}}, at, {.scatter = 0.1, .relative_scatter = 0.02, .replicates = 4000});
  ASSERT_EQ(made.responses.size(), 12000u);
  for (Eigen::Index point = 0; point < 3; ++point) {
    const double truth = 10 * std::exp(-at[0][point] / 20);
    const double sd = std::hypot(0.1, 0.02 * truth);
    const VectorXd z = (as_eigen(made.responses).segment(4000 * point, 4000).array() - truth) / sd;
    EXPECT_NEAR(made.truth[4000 * point], truth, 1e-14);
    EXPECT_NEAR(made.uncertainties[4000 * point], sd, 1e-14);
    EXPECT_LT(std::abs(z.mean()), 4 / std::sqrt(4000.0));
    EXPECT_NEAR(z.squaredNorm() / 4000, 1, 4 * std::sqrt(2.0 / 4000));
  }
  // The left side of a straightened model is solved for the response.
  const Simulation straight =
      simulate(Model::written("ln(y) = c - k*t", {"t"}), {{"c", std::log(10.0)}, {"k", 0.05}}, at);
  EXPECT_NEAR(straight.responses[2], 10 * std::exp(-2.0), 1e-12);
  const Simulation again = simulate(decay, {{"tau", 20}, {"a", 10}}, at, {.scatter = 1, .seed = 5});
  EXPECT_EQ(again.responses, simulate(decay, {{"tau", 20}, {"a", 10}}, at, {.scatter = 1, .seed = 5}).responses);
  EXPECT_NE(again.responses, simulate(decay, {{"tau", 20}, {"a", 10}}, at, {.scatter = 1, .seed = 6}).responses);
}

TEST(Simulate, RefusesWhatIsMissingOrSenseless) {
  const Model line = Model::written("y = a + b*x", {"x"});
  const std::vector<Vector> at = {{0, 1}};
  const auto code = [&](const std::vector<Start>& truth, const SimulateOptions& options) {
    return test::caught([&] { (void)simulate(line, truth, at, options); }).code();
  };
  EXPECT_EQ(code({{"a", 1}}, {}), ErrorCode::bad_argument);
  EXPECT_EQ(code({{"a", 1}, {"c", 1}}, {}), ErrorCode::unknown_name);
  EXPECT_EQ(code({{"a", 1}, {"b", 1}}, {.scatter = -1}), ErrorCode::bad_argument);
  EXPECT_EQ(code({{"a", 1}, {"b", not_a_number}}, {}), ErrorCode::bad_argument);
  EXPECT_EQ(code({{"a", 1}, {"b", 1}}, {.replicates = 0}), ErrorCode::bad_argument);
  EXPECT_THROW((void)simulate(line, {{"a", 1}, {"b", 1}}, {}), Error);
  const Model logarithm = Model::written("y = a*ln(x)", {"x"});
  EXPECT_EQ(test::caught([&] { (void)simulate(logarithm, {{"a", 1}}, at); }).code(), ErrorCode::not_finite);
}

// A table from the command is read back by the command: the truth lies within three standard uncertainties.
TEST(SimulateCommand, MakesTablesThatLeadBackToTheTruth) {
  const test::TemporaryFolder folder;
  const std::string file = folder / "plan.csv";
  const auto made = test::run_command({"simulate", "product-of-powers", "--at", "t=20,30,40,50,60,70", "--at",
                                       "D=300,500,350,700,420,610", "--truth", "a=5e6", "--truth", "p1=1", "--truth",
                                       "p2=-2", "--u", "y=1%", "--replicates", "3", "--output", file});
  EXPECT_EQ(made.code, 0) << made.error;
  EXPECT_TRUE(has(made.out, "18 rows"));
  const auto written = test::run_command({"simulate", "T = T_s + (T_0 - T_s)*exp(-t/tau)", "--at", "t=0..150 step 10",
                                          "--truth", "T_s=24", "--truth", "T_0=1030", "--truth", "tau=41", "--u",
                                          "T=0.5%", "--seed", "11", "--output", file});
  ASSERT_EQ(written.code, 0) << written.error;
  EXPECT_TRUE(test::file_text(file).starts_with("t,T,u(T)\n0,10"));
  const auto fitted = test::run_command({"fit", file, "T = T_s + (T_0 - T_s)*exp(-t/tau)", "--format", "json"});
  ASSERT_EQ(fitted.code, 0) << fitted.error;
  const double truth[] = {24, 1030, 41};
  const auto record = nlohmann::json::parse(fitted.out);
  for (std::size_t j = 0; j < 3; ++j) {
    const auto& p = record["parameters"][j];
    EXPECT_LT(std::abs(p["value"].get<double>() - truth[j]), 3 * p["standard_uncertainty"].get<double>()) << p["name"];
  }
  EXPECT_TRUE(has(test::run_typed("simulate 'y = a*x' --at x=1,2").error, "'a' is not given"));
  for (const std::vector<std::string>& at : {std::vector<std::string>{"--at", "x=1,2", "--at", "x=3"},
                                             {"--at", "x=1,2", "--at", "w=1,2"},
                                             {"--at", "z=1,2"},
                                             {"--at", "x=1,2", "--replicates", "2000000000"}}) {
    std::vector<std::string> words = {"simulate", "y = a*x", "--truth", "a=1"};
    words.insert(words.end(), at.begin(), at.end());
    const auto refused = test::run_command(words);
    EXPECT_EQ(refused.code, 2) << refused.out;
    EXPECT_TRUE(has(refused.error, "\n  "));  // a remedy
  }
  EXPECT_EQ(test::run_typed("simulate line --at x=1,2 --truth a=1 --truth b=2").out, "x,y\n1,3\n2,5\n");
}

// Every refusal says what can't be made, and names it.
TEST(Simulate, RefusesByName) {
  const Model line = Model::written("y = a + b*x", {"x"});
  const std::vector<Start> truth = {{"a", 1}, {"b", 2}};
  const std::vector<Vector> at = {{1, 2, 3}};
  struct Case {
    const char *subject, *message;
    std::vector<Start> truth;
    std::vector<Vector> at;
    SimulateOptions options;
  };
  for (const Case& c :
       {Case{"scatter", "the scatter -1 is not a standard deviation", truth, at, {.scatter = -1}},
        {"relative scatter",
         "the relative scatter inf is not a standard deviation",
         truth,
         at,
         {.relative_scatter = infinity}},
        {"scatter",
         "a scatter is given for a response that is counted",
         truth,
         at,
         {.scatter = 1, .observation_model = ObservationModel::counts()}},
        {"size",
         "0 trials or units of exposure can't be made",
         truth,
         at,
         {.observation_model = ObservationModel::counts(), .size = 0}},
        {"size",
         "2.5 trials or units of exposure can't be made",
         truth,
         at,
         {.observation_model = ObservationModel::events(), .size = 2.5}},
        {"replicates", "0 replicates can't be made", truth, at, {.replicates = 0}},
        {"replicates",
         "3 points with 100000000 replicates are more than 100000000 rows",
         truth,
         at,
         {.replicates = 100'000'000}},
        {"points", "the model has 1 predictor, and points are given for 2", truth, {{1, 2}, {3, 4}}, {}},
        {"points", "the predictors are given at different numbers of points", truth, {Vector()}, {}},
        {"c", "the model has no parameter 'c'", {{"a", 1}, {"c", 2}}, at, {}},
        {"b", "the true value of 'b' is not given", {{"a", 1}}, at, {}}}) {
    const Error error = test::caught([&] { (void)simulate(line, c.truth, c.at, c.options); });
    EXPECT_EQ(error.message(), c.message);
    EXPECT_EQ(error.subject(), c.subject) << c.message;
    EXPECT_FALSE(error.remedy().empty()) << c.message;
  }
  EXPECT_EQ(simulate(line, truth, at, {.observation_model = ObservationModel::counts(), .size = 2.5}).responses.size(),
            3u);
}

}  // namespace
}  // namespace truecurve
