// Parameters that the rows give one end only.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

#include <fstream>

namespace truecurve {
namespace {

using test::run_command;

// A step of 1 between two rows.
Observations step() {
  VectorXd x(8), y(8);
  x << 0.2, 0.5, 0.8, 1.2, 1.5, 2, 3, 4;
  y << 0, 0.001, -0.001, 1.001, 0.999, 1.000, 1.001, 0.998;
  return Observations::of(x, y);
}

// What a step between the rows leaves: the scatter about 0 and about the mean of the upper rows.
double left_by_a_step(const VectorXd& y) {
  const VectorXd upper = y.tail(5);
  return y.head(3).squaredNorm() + (upper.array() - upper.mean()).square().sum();
}

TEST(OpenEnd, IsWhereChiSquaredHasRisen) {
  const Observations data = step();
  const double least = left_by_a_step(as_eigen(data.responses()));
  const double rise = std::pow(student_t_quantile(0.975, 5), 2) * least / 5;
  for (const auto& [shape, steepness, place] :
       {std::tuple{"hill", "n", "k"}, {"logistic", "k", "x0"}, {"gompertz", "k", "x0"}}) {
    SCOPED_TRACE(shape);
    const Fit made = fit(shape_model(shape), data);
    ASSERT_TRUE(made.estimate().open_end());
    const OpenEnd end = *made.estimate().open_end();
    EXPECT_EQ(made.estimate().parameter_names()[static_cast<std::size_t>(end.parameter)], steepness);
    EXPECT_TRUE(end.upwards);
    EXPECT_TRUE(made.solver().converged);
    EXPECT_EQ(made.degrees_of_freedom(), 6);
    EXPECT_TRUE(std::isnan(made.parameter(steepness).standard_uncertainty));
    EXPECT_NEAR(made.chi_squared(), least, 0.02 * rise);
    const Fit at_end = fit(shape_model(shape), data, {.starts = {{place, 1}}, .fixed = {{steepness, end.bound}}});
    EXPECT_NEAR(at_end.chi_squared() - least, rise, 0.1 * rise);
    ASSERT_FALSE(made.warnings().empty());
    EXPECT_EQ(made.warnings()[0].code, WarningCode::open_end);
    // Limits that do not bind change nothing; one before the end is met, and is no end of the data.
    for (const Within& wide : {Within{steepness, 0, infinity}, {steepness, -1e3, infinity}, {place, 0.1, 10}}) {
      const Fit limited = fit(shape_model(shape), data, {.within = {wide}});
      ASSERT_TRUE(limited.estimate().open_end()) << wide.parameter << wide.low;
      EXPECT_NEAR(limited.estimate().open_end()->bound / end.bound, 1, 0.05) << wide.parameter << wide.low;
    }
    const Fit before = fit(shape_model(shape), data, {.within = {{steepness, 0, end.bound / 2}}});
    EXPECT_FALSE(before.estimate().open_end());
    EXPECT_EQ(before.parameter(steepness).value, end.bound / 2);
    for (const std::string& sentence : trust_of(made, 0.95, Profiles::always).sentences)
      EXPECT_FALSE(has(sentence, "nan"));
    const Estimate stored = read_fit_record(fit_record(made, 0.95), "record");
    ASSERT_TRUE(stored.is_open(end.parameter));
    EXPECT_TRUE(stored.is_at_limit(end.parameter));
    EXPECT_EQ(stored.open_end()->bound, end.bound);
    const Candidate candidate = compare(std::vector{made, fit(shape_model("line"), data)}).candidates[0];
    EXPECT_EQ(candidate.remarks.at(0).code, RemarkCode::open_end);
  }
}

// Readings without scatter: still exact, and the steepness still has one end.
TEST(OpenEnd, OfAnExactStep) {
  VectorXd x = VectorXd::LinSpaced(7, 1, 7), y(7);
  y << 0, 0, 0, 10, 10, 10, 10;
  const Fit made = fit(shape_model("hill"), Observations::of(x, y));
  ASSERT_TRUE(made.estimate().open_end());
  EXPECT_GT(made.estimate().open_end()->bound, 100);
  EXPECT_TRUE(made.is_exact());
  EXPECT_EQ(made.parameter("m").value, 10);
  for (const Warning& warning : made.warnings()) EXPECT_NE(warning.code, WarningCode::not_converged);
  // A curve through every row that no other value makes.
  const VectorXd curve = (10 * (-x.array() / 2).exp()).matrix();
  EXPECT_FALSE(fit(shape_model("exponential"), Observations::of(x, curve)).estimate().open_end());
}

// The other ends: a falling step, a width that is at most the distance of the rows, a decay that is over at once.
TEST(OpenEnd, HasASide) {
  const auto end_of = [](const char* shape, const std::vector<double>& y) {
    const VectorXd x = VectorXd::LinSpaced(static_cast<Eigen::Index>(y.size()), 0, static_cast<double>(y.size()) - 1);
    const Fit made = fit(shape_model(shape), Observations::of(x, Eigen::Map<const VectorXd>(y.data(), x.size())));
    const auto& end = made.estimate().open_end();
    return end ? made.estimate().parameter_names()[static_cast<std::size_t>(end->parameter)] + " " + end_text(*end)
               : "";
  };
  const std::string width = end_of("lorentzian-peak", {0.01, -0.02, 0.02, 5, 0.01, -0.01, 0.00});
  EXPECT_EQ(width.substr(0, 9), "w at most") << width;
  const std::string decay = end_of("exponential-offset-time-constant", {10, 1.991, 2.02, 2.004, 1.985, 2.011});
  EXPECT_EQ(decay.substr(0, 11), "tau at most") << decay;
  const std::string rate = end_of("exponential-offset", {10, 1.991, 2.02, 2.004, 1.985, 2.011});
  EXPECT_EQ(rate.substr(0, 9), "b at most") << rate;  // a negative rate
  // An edge that the rows resolve, and a slope that may be 0, have none.
  EXPECT_EQ(end_of("logistic", {0.001, -0.001, 0.2, 0.79, 0.999, 1.001, 0.998}), "");
  EXPECT_EQ(end_of("exponential-offset", {20.1, 20.2, 20.3, 20.5, 20.6, 20.7, 20.9, 21, 21.1, 21.2}), "");
  EXPECT_EQ(end_text({0, true, 23.7}), "at least 23");
  EXPECT_EQ(end_text({0, false, 0.02341}), "at most 0.024");
  EXPECT_EQ(end_text({0, false, -23.2}), "at most -23");
  EXPECT_EQ(end_text({0, true, 1999}), "at least 1900");
}

TEST(OpenEnd, HoldsTheTruth) {
  RandomNumbers random(3);
  int open = 0, covered = 0;
  for (int set = 0; set < 60; ++set) {
    VectorXd x = VectorXd::LinSpaced(10, 1, 10), y(10);
    const double place = 4.2 + 0.8 * random.uniform();
    for (Eigen::Index i = 0; i < 10; ++i) y[i] = 1 / (1 + std::exp(-8 * (x[i] - place))) + 0.01 * random.normal();
    const Fit made = fit(shape_model("logistic"), Observations::of(x, y));
    EXPECT_TRUE(made.solver().converged) << set;
    if (!made.estimate().open_end()) continue;
    ++open;
    covered += made.estimate().open_end()->bound <= 8;
  }
  EXPECT_GE(open, 10);
  EXPECT_GE(covered, open - 2);  // 95 %
}

TEST(OpenEnd, IsToldByEveryPage) {
  const std::string table =
      "x,y\n0.2,0\n0.5,0.001\n0.8,-0.001\n1.0,0.4\n1.2,1.001\n1.5,0.999\n2,1.000\n3,1.001\n4,0.998\n";
  test::TemporaryFolder folder;
  const std::string record = (folder / "fit.json").string();
  const auto page = run_command({"fit", "-", "hill", "--x", "x", "--y", "y", "--output", record}, table);
  EXPECT_EQ(page.code, 0);
  EXPECT_TRUE(has(page.out, "n is at least 36 and k is"));
  EXPECT_TRUE(has(page.out, "held: it is at least 36"));
  EXPECT_TRUE(has(page.out, "These data only show that n is at least 36 (95 %)"));
  EXPECT_TRUE(has(page.out, "The correlation between m and k is 0.17"));
  EXPECT_FALSE(has(page.out, "nan"));
  for (const std::vector<std::string>& command : std::vector<std::vector<std::string>>{
           {"predict", record, "--at", "x=1.05"}, {"solve", record, "--for", "y=0.5"}, {"derive", record, "m/2"}}) {
    const std::string caution = "n is at least 36 and held at 58.6: ";
    EXPECT_TRUE(has(run_command(command).out, caution)) << command[0];
    std::vector<std::string> as_json = command;
    as_json.insert(as_json.end(), {"--format", "json"});
    const auto json = test::json_of(run_command(as_json));
    EXPECT_EQ(json["remarks"][0].get<std::string>().substr(0, caution.size()), caution) << command[0];
  }
  std::string spoilt = test::file_text(record);
  const auto at = spoilt.find("\"at_least\": ");
  spoilt.replace(at, spoilt.find('\n', at) - at, "\"at_least\": 0");
  const Error refused = test::caught([&] { (void)read_fit_record(spoilt, "spoilt.json"); });
  EXPECT_TRUE(has(refused.message(), "is not 0"));
  // The report of a study, with a quotient that has no bounded interval beside it.
  std::ofstream(folder / "edge.csv") << table;
  std::ofstream(folder / "flat.csv") << "x,y\n1,3.15\n2,3.0\n3,3.13\n4,3.26\n5,2.97\n6,3.23\n7,3.17\n8,3.04\n";
  std::ofstream(folder / "study.toml")
      << "[study]\ntitle = \"Ends\"\n[data.e]\nfile = \"edge.csv\"\nx = \"x\"\ny = \"y\"\n"
         "[data.f]\nfile = \"flat.csv\"\nx = \"x\"\ny = \"y\"\n"
         "[[task]]\nname = \"edge\"\ncommand = \"fit\"\ndata = \"e\"\nmodel = \"hill\"\n"
         "[[task]]\nname = \"flat\"\ncommand = \"fit\"\ndata = \"f\"\nmodel = \"line\"\nderive = [\"r = 2/b\", \"s = 1 "
         "+ a/b\"]\n";
  const std::string out = (folder / "out").string();
  const auto ran = run_command({"run", (folder / "study.toml").string(), "--into", out});
  ASSERT_EQ(ran.code, 0) << ran.error;
  const std::string report = test::file_text(folder / "out" / "report.html");
  EXPECT_TRUE(has(report, "held: it is at least 36"));
  EXPECT_TRUE(has(report, "no bounded interval of r holds"));
  EXPECT_TRUE(has(report, ">below "));
  EXPECT_TRUE(has(report, ">no bounded interval<"));
  // Of candidates that are averaged, with their names.
  const std::string comparison = (folder / "comparison.json").string();
  ASSERT_EQ(run_command({"compare", "-", "hill", "line", "--x", "x", "--y", "y", "--output", comparison}, table).code,
            0);
  EXPECT_TRUE(has(run_command({"predict", comparison, "--at", "x=1.05"}).out, "hill: n is at least 36"));
}

// The search along a parameter has a limit of its own, of rows times evaluations: over more rows it is given up, and
// what was found before is not called converged.
TEST(OpenEnd, IsNotSoughtForMinutes) {
  const Observations once = step();
  const std::vector<double> places{0.2, 0.5, 0.8, 1.2, 1.5, 2, 3, 4};
  for (const int times : {1, 1000, 5000}) {
    std::vector<double> x, y;
    for (int k = 0; k < times; ++k) {
      x.insert(x.end(), places.begin(), places.end());
      y.insert(y.end(), once.responses().begin(), once.responses().end());
    }
    int first = 0;
    const auto note = [&](const FitProgress& progress) {
      if (progress.stage == FitStage::checking && first == 0) first = progress.evaluations;
    };
    const Observations rows = Observations::of(x, y);
    const FitOptions options{.starts = {{"k", 1.05}, {"n", 40}}, .progress = note};
    const Fit made = fit(shape_model("hill"), rows, options);
    const bool is_sought = times < 5000;
    EXPECT_EQ(made.estimate().open_end().has_value(), is_sought) << times;
    EXPECT_EQ(made.solver().converged, is_sought) << times;
    EXPECT_EQ(made.solver().stop, is_sought ? StopReason::relative_offset : StopReason::step_vanished) << times;
    if (times == 1) continue;
    // 1e7, and the descent that was under way: fewer are not enough, more are not used.
    const auto size = static_cast<int>(rows.size());
    for (const auto& [evaluations, is_enough] :
         {std::pair{7'000'000 / size - 100, false}, {13'000'000 / size + 100, true}}) {
      FitOptions limited = options;
      limited.most_evaluations = first + evaluations;
      const Fit ended = fit(shape_model("hill"), rows, limited);
      EXPECT_EQ(ended.solver().stop == StopReason::evaluations, !is_enough) << times << " " << evaluations;
    }
  }
}

// A minimum by chance, with a profile that stays flat until numbers overflow: no limit, whatever the simulated level.
TEST(OpenEnd, OfAProfileIsNotWhereNumbersEnd) {
  VectorXd x = VectorXd::LinSpaced(10, 1, 10), y(10);
  y << -0.0136, 0.0026, -0.0175, 0.0103, 9.9799, 10.0087, 9.9948, 10.0159, 9.9916, 10.0052;
  const Fit made = fit(shape_model("hill"), Observations::of(x, y));
  EXPECT_FALSE(made.estimate().open_end());
  const ProfileInterval n = profile_interval(made, "n", 0.95);
  EXPECT_TRUE(std::isinf(n.interval.high));
  EXPECT_GT(n.interval.low, 40);
}

}  // namespace
}  // namespace truecurve
