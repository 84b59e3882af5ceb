// Events and counts through the command: said in the options, shown on the page, kept in the record.
#include <truecurve/io/csv.hpp>
#include <truecurve/io/record.hpp>

#include "../support.hpp"
#include "truth.hpp"

#include <fstream>

namespace truecurve {
namespace {

using nlohmann::json;
using test::run_command;
using test::run_typed;

const char* const worded = "T,state\n1,no\n2,no\n3,yes\n4,no\n5,yes\n6,yes\n";
const char* const share_table = "d,there,found\n1,5,0\n2,6,2\n3,5,4\n4,6,5\n";
const char* const count_table = "t,dt,N\n0,2,30\n1,2,21\n2,2,13\n3,4,17\n4,4,9\n";

json record_of(const std::string& more, const std::string& table) {
  return test::json_of(run_typed("fit - " + more + " --format json", table));
}

// The word and the number say the same; trials of one are single events; an alias is a name for the probability.
TEST(CountedCommand, TakesEventsInEveryForm) {
  std::string numbers = worded, trials = worded;
  for (const auto& [word, number] : {std::pair{"yes", "1"}, {"no", "0"}}) {
    for (std::size_t at; (at = numbers.find(word)) != std::string::npos;)
      numbers.replace(at, std::string(word).size(), number);
  }
  const json a = record_of("share-logistic --x T --y state --event yes", worded);
  const json b = record_of("share-logistic --x T --y state --event 1", numbers);
  const json c = record_of("share-logistic --x T --y state --trials 1", numbers);
  const json d = record_of("'p = 1/(1 + exp(-(T - m)/w))' --y state --event yes", worded);
  const json none = record_of("share-logistic --x T --y state --event no", worded);
  EXPECT_EQ(a["response_kind"], "events");
  EXPECT_EQ(a["event"], "state = yes");
  EXPECT_EQ(b["event"], "state");
  for (const json& other : {b, c, d}) {
    for (std::size_t j = 0; j < 2; ++j)
      EXPECT_NEAR(other["parameters"][j]["value"].get<double>(), a["parameters"][j]["value"].get<double>(), 1e-6);
    EXPECT_NEAR(other["deviance"].get<double>(), a["deviance"].get<double>(), 1e-9);
  }
  EXPECT_NEAR(none["parameters"][1]["value"].get<double>(), -a["parameters"][1]["value"].get<double>(), 1e-6);
  EXPECT_TRUE(a["variance"].is_null());
  EXPECT_TRUE(a["r_squared"].is_null());
  EXPECT_TRUE(a["chi_squared"].is_null());
}

struct Refused {
  std::string table;
  std::string options;
  std::string names;  // what the message must hold
};

TEST(CountedCommand, RefusesWhatCannotHaveBeenCountedByRow) {
  const std::vector<Refused> all = {
      {worded, "", "--event"},
      {worded, "--event maybe", "'maybe'"},
      {"T,state\n1,no\n2,yes\n3,perhaps\n4,yes\n", "--event yes", "row 3"},
      {"T,state\n1,0\n2,1\n3,0.5\n4,1\n", "--event 1", "row 3"},
      {"T,state,n\n1,0,3\n2,4,3\n3,1,3\n", "--trials n", "row 2"},
      {"T,state,n\n1,0,3\n2,2,0\n3,1,3\n", "--trials n", "row 2"},
      {"T,state,n\n1,0,3\n2,2,2.5\n3,1,3\n", "--trials n", "row 2"},
      {"T,state,n\n1,0,3\n2,1.5,3\n3,1,3\n", "--trials n", "row 2"},
      {"T,state,n\n1,0,3\n2,1,x\n3,1,3\n", "--trials n", "'x' is not a number"},
      {"T,state\n1,4\n2,-1\n3,2\n", "--counts", "row 2"},
      {"T,state\n1,4\n2,1.5\n3,2\n", "--counts", "row 2"},
      {"T,state,s\n1,4,2\n2,1,0\n3,2,1\n", "--counts --exposure s", "row 2"},
      {"T,state\n1,4\n2,1\n3,2\n", "--counts --exposure dt", "dt"},
      {"T,state\n1,4\n2,1\n3,2\n", "--exposure 2", "--counts"},
      {"T,state\n1,1\n2,0\n3,1\n", "--event 1 --counts", "--event"},
      {"T,state\n1,1\n2,0\n3,1\n", "--event 1 --trials 2", "--trials"},
      {"T,state\n1,1\n2,0\n3,1\n4,1\n", "--event 1 --u state=0.1", "uncertainty"},
      {"T,state\n1,1\n2,0\n3,1\n4,1\n", "--event 1 --spread constant", "spread"},
      {"T,state\n1,1\n2,0\n3,1\n4,0\n5,1\n6,1\n", "", "--event 1"},
  };
  for (const Refused& r : all) {
    const auto result = run_typed("fit - share-logistic --x T --y state " + r.options, r.table);
    EXPECT_NE(result.code, 0) << r.table;
    EXPECT_TRUE(has(result.error, r.names));
    EXPECT_TRUE(result.out.empty());
  }
}

// A straight line for a probability meets 0 or 1, and is told with the row.
TEST(CountedCommand, TellsTheRowWhereACurveLeavesWhatAMeanMayBe) {
  const auto result =
      run_typed("fit - 'state = a + b*T' --event yes", "T,state\n1,no\n2,no\n3,no\n4,yes\n5,no\n6,yes\n7,yes\n8,yes\n");
  EXPECT_EQ(result.code, 4);
  EXPECT_TRUE(has(result.out, "(T = "));
  EXPECT_TRUE(has(result.out, "a probability can't"));
}

// A curve that could leave it, with its greatest likelihood inside, is found there whatever least squares says.
TEST(CountedCommand, IsNotStoppedAtAnEndItMayPassOnTheWay) {
  const Vector x = VectorXd::LinSpaced(60, 0, 16);
  const std::vector<Start> truth = {{"m", 0.93}, {"q", 8}, {"w", 1.2}};
  const Model model = Model::written("y = m/(1 + exp(-(x - q)/w))", {"x"});
  int found = 0;
  for (std::uint64_t seed = 1; seed <= 20; ++seed) {
    const SimulateOptions how{.observation_model = ObservationModel::events(), .size = 5, .seed = seed};
    const Simulation made = simulate(model, truth, std::span(&x, 1), how);
    const Fit fitted = fit(model, Observations::counted(x, (5 * as_eigen(made.responses)).array().round().matrix(),
                                                        VectorXd::Constant(60, 5), ResponseKind::events));
    found += fitted.solver().converged && fitted.parameter("m").value < 1;
  }
  EXPECT_GE(found, 19);
}

// A record restores the curve with its kind: the same bands and places as from the fit.
TEST(CountedCommand, KeepsItsKindInTheRecord) {
  for (const auto& [table, options, kind] :
       {std::tuple{share_table, "share-logistic --x d --y found --trials there", "events"},
        {count_table, "'N = a*exp(-t/tau)' --counts --exposure dt", "counts"}}) {
    const json record = record_of(options, table);
    EXPECT_EQ(record["response_kind"], kind);
    EXPECT_TRUE(record["dependence"]["p"].get<double>() < 0.05);
    const Estimate restored = read_fit_record(record.dump(), "record");
    EXPECT_TRUE(restored.is_counted());
    const BandPoint at = band_at(restored, VectorXd::Constant(1, 2.5), 0.95)[0];
    EXPECT_GT(at.confidence.low, 0);
    EXPECT_TRUE(std::isnan(at.prediction.low));
    const auto predicted =
        run_typed(std::string("predict - --format json --at ") + (std::string(kind) == "events" ? "d=2.5" : "t=2.5"),
                  record.dump());
    EXPECT_EQ(predicted.code, 0) << predicted.error;
    EXPECT_EQ(json::parse(predicted.out)["points"][0]["confidence"]["low"], at.confidence.low);
    EXPECT_EQ(record["parameters"][0]["interval"]["low"], record["profiles"][0]["interval"]["low"]);
    // With its rows the record gives places their profile; without them the band's crossing.
    const std::string wanted = std::string(kind) == "events" ? "found=0.5" : "N=6";
    json without = record;
    without["counted_rows"] = nullptr;
    for (const auto& [given, by_profile] : {std::pair{record, true}, {without, false}}) {
      const auto solved = run_command({"solve", "-", "--for", wanted, "--format", "json"}, given.dump());
      ASSERT_EQ(solved.code, 0) << solved.error;
      const json root = json::parse(solved.out)["roots"][0];
      EXPECT_EQ(root["by_profile"], by_profile);
      EXPECT_LT(root["interval"]["low"], root["value"]);
    }
  }
  json broken = record_of("'N = a*exp(-t/tau)' --counts", count_table);
  broken["response_kind"] = "guesses";
  EXPECT_EQ(test::caught([&] { (void)read_fit_record(broken.dump(), "record"); }).code(), ErrorCode::bad_record);
}

TEST(CountedCommand, SaysWhatItsPageSays) {
  const auto page = run_typed("fit - share-logistic --x d --y found --trials there", share_table);
  for (const char* part :
       {"'found' counts the events among the trials of its row (from column 'there')", "binomial",
        "95 % profile interval", "deviance", "with one probability for all", "dispersion", "events, trials", "scoring"})
    EXPECT_TRUE(has(page.out, part));
  for (const char* part : {"R²", "Variance table", "nan", "inf "}) EXPECT_FALSE(has(page.out, part));
  const auto rate = run_typed("fit - 'N = a*exp(-t/tau)' --counts --exposure dt", count_table);
  EXPECT_TRUE(has(rate.out, "the mean count for one unit of"));
  const auto look = run_typed("look -", worded);
  EXPECT_TRUE(has(look.out, "--event no"));
}

TEST(CountedCommand, FindsTheDemosTruth) {
  using Castings = demo::CastingsTruth;
  using Flaws = demo::FlawsTruth;
  using Decays = demo::DecaysTruth;
  const auto within = [](const json& record, std::size_t at, double truth) {
    const json& p = record["parameters"][at];
    EXPECT_NEAR(p["value"].get<double>(), truth, 3 * p["standard_uncertainty"].get<double>()) << p["name"];
  };
  const auto fitted = [](std::vector<std::string> arguments) {
    arguments.insert(arguments.begin(), "fit");
    arguments.insert(arguments.end(), {"--format", "json"});
    return json::parse(run_command(arguments).out);
  };
  const json castings = fitted(
      {test::demo_file("castings.csv"), "share-logistic", "--x", "T_pour", "--y", "state", "--event", "cracked"});
  within(castings, 0, Castings::middle);
  within(castings, 1, Castings::width);
  const json flaws =
      fitted({test::demo_file("flaws.csv"), "share-logistic-ln", "--x", "depth", "--y", "found", "--trials", "there"});
  within(flaws, 0, Flaws::middle);
  within(flaws, 1, Flaws::width);
  const json decays =
      fitted({test::demo_file("decays.csv"), "N = background + initial*exp(-t/tau)", "--counts", "--exposure", "dt"});
  within(decays, 0, Decays::background);
  within(decays, 1, Decays::initial);
  within(decays, 2, Decays::tau);
  const json trial = fitted(
      {test::demo_file("castings_trial.csv"), "share-logistic", "--x", "T_pour", "--y", "cracked", "--event", "1"});
  EXPECT_TRUE(trial["separation"]["complete"].get<bool>());
  EXPECT_EQ(trial["separation"]["below"].get<double>(),
            Castings::first_of_trial + (Castings::sound_in_trial - 1) * Castings::step_of_trial);
  EXPECT_TRUE(trial["parameters"][0]["standard_uncertainty"].is_null());
  EXPECT_TRUE(trial["parameters"][1]["within"].contains("at_most"));
}

// Simulated numbers have the mean and the variance of their kind; both ways of drawing them, few and many.
TEST(CountedSimulation, DrawsFromItsKind) {
  const Vector x = {1.0};
  for (const auto& [kind, mean, size] : {std::tuple{ResponseKind::events, 0.3, 1.0},
                                         {ResponseKind::events, 0.3, 20.0},
                                         {ResponseKind::events, 0.3, 500.0},
                                         {ResponseKind::counts, 2.5, 1.0},
                                         {ResponseKind::counts, 2.5, 40.0}}) {
    const SimulateOptions options{.observation_model = ObservationModel::of(kind), .size = size, .replicates = 20'000};
    const Simulation made = simulate(Model::written("y = a*x", {"x"}), {{"a", mean}}, std::span(&x, 1), options);
    const double variance = (kind == ResponseKind::events ? mean * (1 - mean) : mean) / size;
    const double n = options.replicates;
    EXPECT_NEAR(as_eigen(made.responses).mean(), mean, 4 * std::sqrt(variance / n));
    EXPECT_NEAR((as_eigen(made.responses).array() - mean).square().mean() / variance, 1, 4 * std::sqrt(3 / n) + 0.02);
    EXPECT_NEAR(made.uncertainties[0], std::sqrt(variance), 1e-12);
    for (const double y : as_eigen(made.responses).head(50)) EXPECT_NEAR(y * size, std::round(y * size), 1e-9);
  }
  EXPECT_EQ(test::caught([&] {
              (void)simulate(Model::written("y = a*x", {"x"}), {{"a", 2}}, std::span(&x, 1),
                             {.observation_model = ObservationModel::events()});
            }).code(),
            ErrorCode::bad_argument);
  for (const auto& [option, value] :
       {std::pair{"--trials", "0"}, {"--trials", "2.5"}, {"--trials", "-1"}, {"--exposure", "1"}}) {
    const auto refused = run_command({"simulate", "y = a*x", "--at", "x=1", "--truth", "a=0.5", option, value});
    EXPECT_NE(refused.code, 0) << option << value;
    EXPECT_TRUE(refused.out.empty());
  }
  const auto table = run_typed("simulate 'y = a*exp(-x)' --at x=0,1 --truth a=50 --counts --exposure 2 --seed 3");
  EXPECT_TRUE(table.out.starts_with("x,y,exposure\n0,")) << table.out;
}

class CountedCandidates : public ::testing::Test {
 protected:
  static Observations rows() {
    return Observations::counted(VectorXd::LinSpaced(10, 1, 10),
                                 Eigen::Vector<double, 10>(0, 1, 0, 2, 3, 2, 5, 4, 7, 7), VectorXd::Constant(10, 8),
                                 ResponseKind::events);
  }
  Fit constant = fit(Model::written("ln(y/(1 - y)) = a"), rows());
  Fit line = fit(Model::written("ln(y/(1 - y)) = a + b*x"), rows());
  Fit bend = fit(Model::written("ln(y/(1 - y)) = a + b*x + c*x^2"), rows());
};

TEST_F(CountedCandidates, AreTestedByLikelihoodRatiosAndLogScores) {
  const Fit constant_x = fit(Model::written("ln(y/(1 - y)) = a", {"x"}), rows());
  const Comparison made = compare(std::vector<Fit>{line, bend});
  ASSERT_EQ(made.nested_tests.size(), 1u);
  const double fallen = line.chi_squared() - bend.chi_squared();
  EXPECT_NEAR(made.nested_tests[0].test.statistic, fallen, 1e-9);
  EXPECT_NEAR(made.nested_tests[0].test.p, chi_squared_upper(fallen, 1), 1e-12);
  EXPECT_EQ(made.candidates[0].fit.model().text(), line.model().text());
  EXPECT_TRUE(std::isnan(made.candidates[0].r_squared));
  EXPECT_EQ(made.candidates[0].deviance, line.chi_squared());
  // The mean deviance of each row from the curve of the others, refitted by hand.
  const Observations all = rows();
  double sum = 0;
  for (std::size_t row = 1; row <= 10; ++row) {
    const Fit others = fit(Model::written("ln(y/(1 - y)) = a + b*x"), all.without(std::span(&row, 1), "out"));
    const double p = curve_at(others.estimate(), static_cast<double>(row)).value;
    sum += 8 * all.observation_model().kernel().unit_deviance(all.responses()[static_cast<Eigen::Index>(row) - 1], p);
  }
  EXPECT_NEAR(std::pow(made.candidates[0].leave_one_out.size.root_mean_square, 2), sum / 10, 1e-6);
  // Under an estimated dispersion the ratio is an F.
  const FitOptions scaled{.uncertainty = UncertaintyBasis::scatter};
  const NestedTest f = nested_test(fit(line.model(), rows(), scaled), fit(bend.model(), rows(), scaled));
  const double dispersion = std::pow(fit(bend.model(), rows(), scaled).estimate().scale(), 2);
  EXPECT_NEAR(f.statistic, fallen / dispersion, 1e-9);
  EXPECT_NEAR(f.p, f_upper(f.statistic, 1, 7), 1e-12);
  EXPECT_EQ(f.kind, NestedTest::Kind::f);
  EXPECT_EQ(f.added, 1);
  EXPECT_EQ(f.denominator, 7);
  const NestedTest of_two = nested_test(fit(constant.model(), rows(), scaled), fit(bend.model(), rows(), scaled));
  EXPECT_NEAR(of_two.statistic, (constant.chi_squared() - bend.chi_squared()) / dispersion / 2, 1e-9);
  EXPECT_NEAR(of_two.p, f_upper(of_two.statistic, 2, 7), 1e-12);
}

TEST_F(CountedCandidates, OfDifferentKindsAreNotMixed) {
  const Observations measured = Observations::of(as_eigen(rows().predictor(0)), as_eigen(rows().responses()));
  const Fit other = fit(Model::written("y = a + b*x"), measured);
  const Error error = test::caught([&] { (void)compare(std::vector<Fit>{line, other}); });
  EXPECT_TRUE(has(error.what(), "different distributions"));
}

TEST_F(CountedCandidates, AverageInsideTheirEnds) {
  const Fit one = fit(shape_model("share-logistic"), rows());
  const Fit other = fit(shape_model("share-normal"), rows());
  const std::vector<WeightedEstimate> curves = {{"one", 0.6, one.estimate()}, {"other", 0.4, other.estimate()}};
  const Vector x = VectorXd::LinSpaced(9, -10, 22);
  for (const AveragedPoint& at : averaged_band(curves, std::span(&x, 1), 0.95)) {
    EXPECT_GE(at.whole.confidence.low, 0);
    EXPECT_LE(at.whole.confidence.high, 1);
    EXPECT_LE(at.whole.confidence.low, at.whole.value);
    EXPECT_GE(at.whole.confidence.high, at.whole.value);
  }
  // A single curve of all the weight is itself.
  const auto alone = averaged_band(std::vector<WeightedEstimate>{{"one", 1, one.estimate()}}, std::span(&x, 1), 0.95);
  const auto band = band_at(one.estimate(), x, 0.95);
  for (std::size_t i = 0; i < band.size(); ++i) {
    EXPECT_NEAR(alone[i].whole.confidence.low, band[i].confidence.low, 1e-6);
    EXPECT_NEAR(alone[i].whole.confidence.high, band[i].confidence.high, 1e-6);
  }
}

// Checks by simulated numbers: clean ones are called at their level, a wrong curve and over-dispersion are found.
TEST(CountedChecks, CallCleanRowsAtTheirLevelAndFindWhatIsWrong) {
  const VectorXd x = VectorXd::LinSpaced(25, 0, 10);
  RandomNumbers random(5);
  const auto drawn = [&](auto mean, double extra) {
    VectorXd k(x.size());
    for (Eigen::Index i = 0; i < x.size(); ++i) {
      const double odds = mean(x[i]) + extra * random.normal();
      k[i] = std::round(30 * ObservationModel::events().kernel().draw(1 / (1 + std::exp(-odds)), 30, random));
    }
    return Observations::counted(x, k, VectorXd::Constant(25, 30), ResponseKind::events);
  };
  const Model line = Model::written("ln(y/(1 - y)) = a + b*x");
  const auto straight = [](double at) { return at / 2 - 2.5; };
  const int sets = test::simulated_sets(60, 400);
  int called = 0, bent = 0, scattered = 0;
  for (int set = 0; set < sets; ++set) {
    const auto any = [](const Fit& made) {
      const auto checks = residual_checks(made);
      return std::any_of(checks.begin(), checks.end(), [](const Check& c) { return c.is_significant(); });
    };
    called += any(fit(line, drawn(straight, 0)));
    const Fit curved = fit(line, drawn([](double at) { return 0.25 * (at - 5) * (at - 5) - 3; }, 0));
    bent += check(curved, CheckKind::curvature).is_significant();
    scattered += check(fit(line, drawn(straight, 0.8)), CheckKind::chi_squared).is_significant();
  }
  EXPECT_LE(called, 0.05 * sets + 4 * std::sqrt(0.05 * 0.95 * sets));
  EXPECT_GE(bent, 0.9 * sets);
  EXPECT_GE(scattered, 0.8 * sets);
}

// Standards and blanks that were counted, and samples for another time than they.
TEST(CountedCommand, CalibratesAndReadsCounts) {
  const test::TemporaryFolder folder;
  const std::string record = (folder.path() / "tracer.json").string();
  const std::string figure = (folder.path() / "tracer.svg").string();
  const auto made = test::run_typed(fmt::format(
      "calibrate demo/tracer_standards.csv --x A --y N --counts --exposure t --blank include --unknown-exposure 20 "
      "--simulations 40 --output {0}/tracer.json --figure {0}/tracer.svg --figure-residuals {0}/r.svg",
      folder.path().string()));
  ASSERT_EQ(made.code, 0) << made.error;
  for (const char* words :
       {"rate (1/min)", "No scatter beyond that of counts is detected", "counts, paired blank", "counts, known blank",
        "nominal probability of at most 0.05", "an exposure of 20 min", "31.6 (Currie's formulas: 12.5 and 27.6)"})
    EXPECT_TRUE(has(made.out, words));
  EXPECT_TRUE(has(test::file_text(figure), "of a new count in 20 min"));
  const json kept = json::parse(test::file_text(record));
  EXPECT_EQ(kept["columns"]["exposure"], "t");
  EXPECT_EQ(kept["treatment"]["scatter"], "counted");
  EXPECT_EQ(kept["limit_options"]["exposure"], 20);
  EXPECT_TRUE(kept["equal_scatter"]["cochran"].is_null());
  const json samples =
      test::json_of(run_typed("quantify " + record + " demo/tracer_samples.csv --format json"))["unknowns"];
  EXPECT_EQ(samples[0]["exposures"], json({10, 10}));
  // The same counts without a column of times, the exposure given as a number.
  const json ladle = test::json_of(
      run_typed("quantify " + record + " - --exposure 20 --format json", "sample,N\nladle,63\n"))["unknowns"][0];
  EXPECT_EQ(ladle["amount"], samples[1]["amount"]);
  EXPECT_EQ(ladle["interval"], samples[1]["interval"]);
  const auto measured = run_typed("quantify demo/lead_calibration.json demo/lead_unknowns.csv --exposure 5");
  EXPECT_EQ(measured.code, 2);
  EXPECT_TRUE(has(measured.error, "the calibration is not one of counts"));
  for (const auto& [more, words] : std::vector<std::pair<std::string, std::string>>{
           {"--counts --blank subtract", "can't be subtracted from counts"},
           {"--counts --spread both", "spread is given"},
           {"--counts --u N=1", "signals that were counted"},
           {"--counts --additions", "standard additions"},
           {"--counts --unknown-exposure 0", "is to be counted for 0"},
           {"--unknown-exposure 5", "the readings are not counts"},
           {"--exposure t", "belongs to counts"}}) {
    const auto refused = run_typed("calibrate demo/tracer_standards.csv --x A --y N " + more);
    EXPECT_EQ(refused.code, words.starts_with("standard") || words.starts_with("can") ? 4 : 2) << words;
    EXPECT_TRUE(has(refused.error, words));
  }
}

}  // namespace
}  // namespace truecurve
