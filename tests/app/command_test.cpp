// The command as a user meets it: streams, exit codes, formats, records, figures.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

#include <csignal>
#include <fstream>
#include <iomanip>

#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace truecurve {
namespace {

using test::demo_file;
using test::run_command;
using test::run_typed;
using test::TemporaryFolder;

const std::vector<std::string> fit_line = {"fit", "-", "line", "--x", "x", "--y", "y"};
const char* const six_points = "x,y\n1,3.3\n2,5.6\n3,7.1\n4,9.3\n5,10.7\n6,12.1\n";

std::vector<std::string> with(std::vector<std::string> arguments, const std::vector<std::string>& more) {
  arguments.insert(arguments.end(), more.begin(), more.end());
  return arguments;
}

// The ISO/TS 28037 line through the whole path, from text to page: a = 1.867, b = 1.757, chi-squared 1.665.
TEST(FitCommand, PrintsAPageOfALaboratoryNotebook) {
  const auto result = run_command(with(fit_line, {"--u", "y=0.5"}), six_points);
  EXPECT_EQ(result.code, 0);
  EXPECT_EQ(result.error, "");
  for (const char* expected :
       {"1.87(47)", "1.76(12)", "stated uncertainties", "Chi-squared is 1.665 with 4 degrees of freedom",
        "The correlation between a and b is -0.899", "all 6 rows"}) {
    EXPECT_TRUE(has(result.out, expected));
  }
  const auto scatter = run_command(with(fit_line, {"--u", "y=0.5", "--uncertainty", "scatter"}), six_points);
  EXPECT_TRUE(has(scatter.out, "serve as relative weights"));
  EXPECT_TRUE(has(scatter.out, "Birge ratio 0.6451"));
}

TEST(FitCommand, WritesARecordThatReadsBackExactly) {
  const TemporaryFolder folder;
  const std::string file = folder / "line.json";
  const auto result = run_command(with(fit_line, {"--u", "y=5%", "--format", "json", "--output", file, "--level", "0.9",
                                                  "--leave-out", "2", "--leave-out", "x > 5"}),
                                  six_points);
  ASSERT_EQ(result.code, 0) << result.error;
  EXPECT_EQ(result.out, test::file_text(file));
  const auto record = nlohmann::json::parse(result.out);
  EXPECT_EQ(record["record"], "truecurve.fit/1");
  EXPECT_EQ(record["model"]["kind"], "line");
  EXPECT_EQ(record["data"]["rows_used"], 4);
  EXPECT_EQ(record["data"]["left_out"][1]["reason"], "x > 5");
  EXPECT_EQ(record["uncertainty"], "stated");
  EXPECT_EQ(record["parameters"][1]["interval"]["level"], 0.9);
  EXPECT_TRUE(record["chi_squared_p"].is_number());
  const Estimate restored = read_fit_record(result.out, file);
  EXPECT_EQ(restored.parameters()[0], record["parameters"][0]["value"].get<double>());
  EXPECT_EQ(restored.covariance()(0, 1), record["covariance"][0][1].get<double>());
  EXPECT_EQ(restored.new_observation().form, Scatter::Form::percent);
}

TEST(FitCommand, WritesNullForWhatDoesNotApply) {
  const auto result = run_command(with(fit_line, {"--format", "json"}), "x,y\n1,2\n3,8\n");
  EXPECT_EQ(result.code, 0);
  EXPECT_FALSE(has(result.out, "nan"));
  const auto record = nlohmann::json::parse(result.out);
  for (const char* field : {"chi_squared_p", "reduced_chi_squared", "residual_sd", "adjusted_r_squared", "aicc"})
    EXPECT_TRUE(record[field].is_null()) << field;
  EXPECT_TRUE(record["parameters"][0]["standard_uncertainty"].is_null());
  EXPECT_EQ(record["warnings"][0]["code"], "no_degrees_of_freedom");
  EXPECT_TRUE(has(run_command(fit_line, "x,y\n1,2\n3,8\n").out, "no uncertainties can be given"));
}

TEST(FitCommand, TakesAliasesAndHeadersThatAreNoNames) {
  const char* const table = "Time elapsed (s),T measured (°C)\n0,20.1\n1,22.2\n2,24.1\n3,26.0\n";
  const auto alias =
      run_typed("fit - 'T = a + b*t' --alias 't=Time elapsed' --alias 'T=T measured' --format csv", table);
  ASSERT_EQ(alias.code, 0) << alias.error;
  EXPECT_TRUE(has(alias.out, "°C/s"));
  const auto shape = run_typed("fit - line --x 'Time elapsed' --y 'T measured' --format csv", table);
  EXPECT_EQ(shape.out, alias.out);
  EXPECT_EQ(shape.error, "");
}

struct Mistake {
  std::string line, input;
  int code;
  const char* says;
};

TEST(Command, AnswersMistakesWithTheRightCodeAndARemedy) {
  const std::string nowhere = "/no/such/folder/out";
  for (const auto& [line, input, code, says] : std::vector<Mistake>{
           {"fti x.csv", "", 2, "did you mean 'fit'"},
           {"", "", 2, "truecurve help"},
           {"fit - line --levle 0.9", "", 2, "did you mean --level?"},
           {"fit - line --x x --y y --log-axis x", six_points, 2, "--log-axis requires --figure"},
           {"quantify --output=x.json --yy=I", "", 2, "has no option --yy"},
           {"fit -", "", 2, "MODEL"},
           {"fit - line", "x,y,z\n1,3,1\n2,5,1\n3,6,1\n", 2, "--x COLUMN --y COLUMN"},
           {"fit - lime --x x --y y", six_points, 2, "did you mean 'line'"},
           {"fit - 'y = a + 2x'", six_points, 2, "^"},
           {"fit - line --x x --y y --level 95", six_points, 2, "0.95"},
           {"fit - line --x x --y y --format xml", six_points, 2, "xml"},
           {"fit - line --x x --y y --figure line.gif", six_points, 2, ".png"},
           {"fit - line --x x --y y --u y", six_points, 2, "NAME=VALUE"},
           {"fit - line --x x --y y --u y=u(y)", six_points, 3, "no column 'u(y)'"},
           {"fit - line --x x --y y --u y=-1", six_points, 3, "greater than 0"},
           {"fit - line --x x --y y --leave-out 7", six_points, 3, "rows 1 to 6"},
           {"fit - line --x x --y y --leave-out 3..18446744073709551615", six_points, 3,
            "there is no row 7 to leave out"},
           {"fit - line --x x --y y --leave-out 34..134..15434344", six_points, 3, "there is no row 34 to leave out"},
           {"fit - line --x x --y y --uncertainty stated", six_points, 3, "none are given"},
           {"fit no-such.csv line --x x --y y", "", 3, "no such file"},
           {"fit - line --x z --y y", six_points, 3, "columns are: x, y"},
           {"look -", "", 3, "empty"},
           {"look - --x x", six_points, 2, "--y COLUMN"},
           {"fit - 'y = a + b*X'", six_points, 2, "did you mean 'x'"},
           {"fit - line --x x --y y --spread fan", six_points, 2, "power:p"},
           {"fit - line --x x --y y --spread counts --u y=1", six_points, 2, "one of the two"},
           {"fit - line --x x --y y --derive 'q = z'", six_points, 2, "a, b"},
           {"fit - line --x x --y y --hypothesis a", six_points, 2, "y = "},
           {"fit - 'ln(y) = a + b*x'", "x,y\n1,2\n2,0\n3,4\n", 3, "--leave-out invalid"},
           {"predict demo/density.json --at w=1", "", 2, "w_Sn"},
           {"predict demo/density.json --at w_Sn=1..x", "", 2, "not a number"},
           {"predict demo/density.json", "", 2, "--at w_Sn=VALUE"},
           {"predict demo/density.csv --at w_Sn=1", "", 3,
            "no JSON, and so no record: line 1 can't be read from column 1 on"},
           {"solve demo/density.json --for f=1", "", 2, "--for rho=VALUE"},
           {"solve demo/density.json --for rho=8 --between 5", "", 2, "--between 0..10"},
           {"fit - line --x x --y y", "x,y\n1,2\n1,3\n1,4\n", 4, "a + b"},
           {"fit - line --x x --y y", "x,y\n1,2\n", 4, "2 parameters"},
           {"fit - line --x x --y y --start z=1", six_points, 2, "not a parameter of"},
           {"fit - line --x x --y y --show-start", six_points, 2, "--figure FILE.png"},
           {"fit - line --x x --y y --route linearized", six_points, 2, "no linearized form"},
           {"fit - 'y = a*exp(b*x)' --route linearized", six_points, 2, "named shapes"},
           {"fit - line --x x --y y --within a=3", six_points, 2, "a=0..10"},
           {"fit - line --x x --y y --within a=3..1", six_points, 2, "lower end first"},
           {"fit - line --x x --y y --fix q=3", six_points, 2, "a, b"},
           {"fit - 'y = a*exp(b*x)' --start b=5 --within b=0..1", six_points, 2, "outside 0..1"},
           {"fit - 'y = a*exp(b*x)' --start b=1e9", six_points, 4, "row 1"},
           {"fit - 'y = cases(x < 4: a*exp(b*x), otherwise: a*ln(x - 9)/0)'", six_points, 4, "row 4 it never is"},
           {"fit - 'y = a*exp(b*x)*c'", six_points, 4, "only through a*c"},
           {"fit - 'y = a*exp(-x/s)'", "x,y\n1,0\n2,0\n3,0\n", 4, "'s' does not matter"},
           {"preview - 'y = a*ln(x - s)' --start s=3 --start a=1", six_points, 4, "row 1"},
           {"compare - line --x x --y y", six_points, 2, "polynomial(1..5)"},
           {"compare - line polynomial(5..1) --x x --y y", six_points, 2, "lower degree first"},
           {"compare - 'line; sprad counts' logarithm --x x --y y", six_points, 2, "sprad counts"},
           {"compare - line lime --x x --y y", six_points, 2, "did you mean 'line'"},
           {"compare - line logarithm --x x --y y --hold-out 'x > 9'", six_points, 2, "no row"},
           {"compare - line logarithm --x x --y y --folds 9", six_points, 2, "between 2 and 6"},
           {"fit - line --x x --y y --output " + nowhere + ".json", six_points, 5, "no such folder"},
           {"fit - line --x x --y y --figure " + nowhere + ".png", six_points, 5, "no such folder"}}) {
    const auto result = run_typed(line, input);
    EXPECT_EQ(result.code, code) << result.error;
    EXPECT_EQ(result.out, "");
    EXPECT_TRUE(has(result.error, says));
  }
}

// A curve that is not defined on the whole axis is drawn as far as it goes.
TEST(Figures, EndWhereTheCurveEnds) {
  const TemporaryFolder folder;
  const char* const near_zero = "x,y\n0.2,1\n1,2\n3,2.9\n5,3.2\n10,3.8\n";
  for (const std::vector<std::string>& arguments : {std::vector<std::string>{"fit", "-", "logarithm"},
                                                    {"fit", "-", "reciprocal"},
                                                    {"compare", "-", "logarithm", "power"},
                                                    {"calibrate", "-", "--model", "logarithm"},
                                                    {"preview", "-", "y = a + b*ln(x)", "--start", "b=2"}}) {
    const bool written = arguments.back() == "b=2";
    const auto result = run_command(
        with(with(arguments, written ? std::vector<std::string>{} : std::vector<std::string>{"--x", "x", "--y", "y"}),
             {"--figure", folder / "end.svg"}),
        near_zero);
    EXPECT_EQ(result.code, 0) << result.error;
    EXPECT_TRUE(has(test::file_text(folder / "end.svg"), "</svg>"));
  }
}

// The table fits 100 columns, whatever the candidates are called, and the record goes on to predict.
TEST(CompareCommand, PutsCandidatesSideBySide) {
  const test::TemporaryFolder folder;
  const std::string record = folder / "young.json";
  const auto result = run_typed(fmt::format(
      "compare demo/patina.csv exponential 'exponential; linearized; spread counts' "
      "'logistic; name a rather long name for a curve' polynomial(1..2) "
      "'d = a*years^b; start a=0.1; start b=2; within b=0..5' --x years --y d --leave-out 'years > 14' "
      "--hold-out 'years > 11' --folds 4 --output {0}/young.json --figure {0}/c.svg --figure-residuals {0}/r.svg "
      "--figure-criterion {0}/k.svg",
      folder.path().string()));
  ASSERT_EQ(result.code, 0) << result.error;
  EXPECT_EQ(result.error, "");
  std::istringstream lines(result.out);
  for (std::string line; std::getline(lines, line);) {
    const auto shown = std::count_if(line.begin(), line.end(), [](char c) { return (c & 0xC0) != 0x80; });
    EXPECT_LE(shown, 100) << line;
  }
  for (const char* expected : {"6 candidates", "11 of 18 rows", "4-fold", "polynomial(1)",
                               "Hold-out data: 2 rows with years > 11", "root mean square"}) {
    EXPECT_TRUE(has(result.out, expected));
  }
  for (const char* figure : {"c.svg", "r.svg", "k.svg"}) EXPECT_TRUE(has(test::file_text(folder / figure), "</svg>"));
  const auto stored = nlohmann::json::parse(test::file_text(record));
  EXPECT_EQ(stored["candidates"].size(), 6u);
  EXPECT_EQ(stored["hold_out"][0]["rows"].size(), 2u);
  EXPECT_EQ(stored["candidates"][0]["fit"]["record"], "truecurve.fit/1");
  const auto points = test::json_of(run_command({"predict", record, "--at", "years=10,14", "--format", "json"}));
  EXPECT_EQ(points["averaged"].size(), 6u);
  EXPECT_GT(points["points"][1]["between"].get<double>(), 0);
  EXPECT_EQ(run_command({"solve", record, "--for", "d=5"}).code, 3);
  const auto csv = run_typed("compare demo/density.csv --all-shapes --x w_Sn --y rho --format csv");
  ASSERT_EQ(csv.code, 0) << csv.error;
  EXPECT_GT(std::count(csv.out.begin(), csv.out.end(), '\n'), 15);
  EXPECT_FALSE(has(csv.out, "nan"));
  // Row 1 has no logarithm: without --all-shapes all candidates lose it, and that is said.
  const auto common = run_typed("compare demo/density.csv line logarithm --x w_Sn --y rho");
  EXPECT_TRUE(has(common.out, "Rows 1, 2 were fitted by no candidate"));
}

TEST(FitCommand, TestsDerivesAndExplainsTheTransform) {
  const auto record = test::json_of(run_typed(
      "fit demo/tone.csv product-of-powers --route linearized --x t --x D --y f --hypothesis 'p1 + p2 = -1' --derive "
      "'q = p1/p2' --format json"));
  EXPECT_EQ(record["model"]["route"], "linearized");
  EXPECT_EQ(record["derived"][0]["name"], "a");
  EXPECT_EQ(record["derived"][1]["name"], "q");
  EXPECT_GT(record["hypotheses"][0]["p"].get<double>(), 0.05);
  EXPECT_EQ(record["variance"]["sequential"].size(), 2u);
  const auto text = run_typed("fit - 'ln(y) = c - k*x' --derive 't_half = ln(2)/k'",
                              "x,y\n0,9.2\n1,6.1\n2,4.3\n3,2.8\n4,1.9\n5,1.3\n")
                        .out;
  for (const char* expected : {"proportional", "t_half", "on the scale of ln(y)", "of the measured y"})
    EXPECT_TRUE(has(text, expected));
  EXPECT_EQ(test::json_of(run_typed("fit - 'ln(y) = c - k*x' --leave-out invalid --format json",
                                    "x,y\n0,9\n1,0\n2,4\n3,3\n4,2\n"))["data"]["left_out"][0]["row"],
            2);
  EXPECT_EQ(test::json_of(run_typed("fit - 'ln(y) = c - k*x' --spread power:0.5 --format json",
                                    "x,y\n0,9\n1,6\n2,4\n3,3\n4,2\n"))["spread"],
            0.5);
}

TEST(FitCommand, FindsItsOwnStartsAndSaysSo) {
  const auto record =
      test::json_of(run_typed("fit demo/viscosity.csv 'eta = a*exp(b/T)' --derive 'E = 8.314462618*b' --format json"));
  EXPECT_EQ(record["solver"]["method"], "variable projection");
  EXPECT_EQ(record["solver"]["stop"], "relative offset");
  EXPECT_GT(record["solver"]["met_best"].get<int>(), 15);
  // The linearized route with propagated weights gives nearly the same energy.
  const auto straight =
      test::json_of(run_typed("fit demo/viscosity.csv arrhenius --route linearized --x T --y eta --format json"));
  const auto energy = [](const nlohmann::json& r, const char* name) {
    for (const auto& q : r["derived"]) {
      if (q["name"] == name) return q["value"].get<double>();
    }
    return not_a_number;
  };
  EXPECT_NEAR(energy(record, "E") / energy(straight, "E_a"), 1, 0.005);
  const auto text = run_typed("fit demo/viscosity.csv 'eta = a*exp(b/T)' --start b=2000 --start a=1");
  EXPECT_TRUE(has(text.out, "variable projection"));
  EXPECT_EQ(run_typed("fit demo/viscosity.csv 'eta = a*exp(b/T)' --start q=1").code, 2);
}

TEST(PredictAndSolve, ReadARecord) {
  const auto record = test::json_of(run_typed("predict demo/density.json --at 'w_Sn=0..20 step 5' --format json"));
  ASSERT_EQ(record["points"].size(), 5u);
  EXPECT_EQ(record["points"][1]["at"]["w_Sn"], 5.0);
  EXPECT_LT(record["points"][0]["prediction"]["low"], record["points"][0]["confidence"]["low"]);
  EXPECT_TRUE(has(run_typed("predict demo/density.json --at w_Sn=30").out, "outside the data by 25 %"));
  const TemporaryFolder folder;
  std::ofstream(folder / "at.csv") << "w_Sn\n3\n7\n";
  EXPECT_TRUE(has(
      run_command({"predict", demo_file("density.json"), "--at-file", (folder / "at.csv").string(), "--format", "csv"})
          .out,
      "\n7,8.8"));
  EXPECT_NEAR(test::json_of(run_typed("solve demo/density.json --for rho=8.8 --format json"))["roots"][0]["value"]
                  .get<double>(),
              7.5, 0.2);
  EXPECT_TRUE(has(run_typed("solve demo/density.json --for rho=5").out, "not reached"));
  // The slope at 20 % from b1 + 40 b2, by the law of propagation with the record's own covariance.
  const auto derived = run_command({"derive", demo_file("density.json"), "slope = b1 + 40*b2", "--hypothesis", "b2 = 0",
                                    "--output", folder / "slope.json"});
  ASSERT_EQ(derived.code, 0) << derived.error;
  const auto fit = nlohmann::json::parse(test::file_text(demo_file("density.json")));
  const auto slope = nlohmann::json::parse(test::file_text(folder / "slope.json"))["derived"][0];
  const auto c = [&fit](int i, int j) { return fit["covariance"][i][j].get<double>(); };
  EXPECT_NEAR(slope["value"].get<double>(),
              fit["parameters"][1]["value"].get<double>() + 40 * fit["parameters"][2]["value"].get<double>(), 1e-12);
  EXPECT_NEAR(slope["standard_uncertainty"].get<double>() / std::sqrt(c(1, 1) + 80 * c(1, 2) + 1600 * c(2, 2)), 1,
              1e-6);
  EXPECT_TRUE(has(derived.out, "b2 = 0: the sides differ by 0.000206(18)"));
  EXPECT_EQ(run_typed("derive demo/density.json").code, 2);
  EXPECT_TRUE(has(run_typed("derive demo/density.json 'b3 + 1'").error, "b0, b1, b2"));
}

TEST(CalibrateCommand, GoesFromStandardsToUnknowns) {
  const TemporaryFolder folder;
  const std::string record = folder / "lead.json";
  const auto made = run_typed(fmt::format(
      "calibrate demo/lead_calibration.csv --x c_Pb --y I --blank subtract --spread both --leave-out 36 --day monday "
      "--simulations 20 --output {0}/lead.json --figure {0}/c.svg --figure-residuals {0}/r.svg",
      folder.path().string()));
  ASSERT_EQ(made.code, 0) << made.error;
  for (const char* expected : {"10 blanks", "7 fortified samples", "carried as covariance", "Left out: row 36",
                               "critical value and power", "the cautious choice", "Mandel", "Brown-Forsythe"})
    EXPECT_TRUE(has(made.out, expected));
  const auto quantities = test::json_of(
      run_command({"quantify", record, demo_file("lead_unknowns.csv"), "--day", "monday", "--format", "json",
                   "--dilution-uncertainty", "1", "--figure", folder / "q.svg", "--figure-sample", "gate"}));
  ASSERT_EQ(quantities["unknowns"].size(), 7u);
  EXPECT_EQ(quantities["unknowns"][3]["flag"], "not detected");
  EXPECT_EQ(quantities["unknowns"][5]["flag"], "above the range");
  EXPECT_TRUE(quantities["unknowns"][1]["nominal"].is_null());
  EXPECT_GT(quantities["unknowns"][4]["budget"]["dilution"].get<double>(), 0.2);
  for (const char* figure : {"c.svg", "r.svg", "q.svg"}) {
    const std::string svg = test::file_text(folder / figure);
    EXPECT_TRUE(has(svg, "</svg>"));
    EXPECT_FALSE(has(svg, "nan"));
  }
  EXPECT_TRUE(has(run_command({"quantify", record, demo_file("lead_unknowns.csv")}).out, "Controls"));
  // Wide tables, blanks in a file of their own, headers that are no names.
  std::ofstream(folder / "blanks.csv") << "s1,s2\n1.9,2.1\n2.0,1.8\n";
  const char* const wide = "Amount added,s1,s2\n1,8,8.2\n2,14.1,14.4\n4,26,26.3\n";
  EXPECT_EQ(test::json_of(run_command(
                {"calibrate", "-", "--x", "Amount added", "--replicates", "s1,s2", "--blanks", folder / "blanks.csv",
                 "--blank", "include", "--alias", "x=Amount added", "--format", "json", "--simulations", "0"},
                wide))["levels"]
                .size(),
            4u);
  const auto additions = run_typed("calibrate - --x added --y A --additions", "added,A\n0,2.1\n1,4\n2,6.1\n3,7.9\n");
  EXPECT_TRUE(has(additions.out, "The sample as measured holds 1.077"));
  const auto by_sample =
      run_typed("calibrate - --x added --y A --additions --format csv",
                "sample,added,A\nA,0,2.1\nA,1,4\nA,2,6.1\nA,3,7.9\nB,0,1.0\nB,1,2.1\nB,2,3.0\nB,3,4.05\n");
  EXPECT_TRUE(has(by_sample.out, "\nB,1,1.02")) << by_sample.out << by_sample.error;
}

TEST(CalibrateCommand, AnswersMistakes) {
  const char* const standards = "x,y\n1,3.1\n2,4.9\n3,7.2\n4,8.8\n";
  const std::string plain = "calibrate - --x x --y y";
  const TemporaryFolder folder;
  const std::string record = folder / "line.json";
  ASSERT_EQ(run_typed(plain + " --day monday --output " + record, standards).code, 0);
  std::string text = test::file_text(record);
  text.replace(text.find("\"level\": 0.95"), 13, "\"level\": 0.90");
  std::ofstream(folder / "changed.json") << text;
  const std::string changed = (folder.path() / "changed.json").string();
  const std::string figure = (folder.path() / "q.svg").string();
  for (const auto& [line, input, code, says] :
       std::vector<Mistake>{{"calibrate - --y y", "x,y,z\n1,3,1\n2,5,1\n", 2, "--x COLUMN"},
                            {plain + " --blank subtract", standards, 2, "measure two blanks"},
                            {plain + " --spread fan", standards, 2, "power:p or both"},
                            {plain + " --spread both", standards, 2, "replicates at three levels"},
                            {plain + " --spread proportional", "x,y\n0,0.1\n1,3.1\n2,4.9\n3,7.2\n", 2, "--spread both"},
                            {plain + " --spread both --u y=0.1", standards, 2, "one of the two"},
                            {plain + " --u x=0.1", standards, 4, "stated uncertainties of the signals"},
                            {plain + " --range 3", standards, 2, "0..10"},
                            {plain + " --range 9..", standards, 4, "widen the range"},
                            {plain + " --kind z", standards, 3, "columns are: x, y"},
                            {plain, "x,y\n1,3\n1,4\n", 4, "two levels"},
                            {plain, "x,y\n1,<0.5\n2,4\n3,6\n", 3, "--leave-out 1"},
                            {plain, "kind,x,y\nstandart,1,2\n", 2, "did you mean 'standard'"},
                            {plain + " --additions", "x,y\n0,9\n1,7\n2,5.1\n", 2, "more added must give more signal"},
                            {"quantify " + changed + " -", "y\n5\n", 3, "changed or damaged"},
                            {"quantify " + record + " - --day tuesday", "y\n5\n", 3, "'monday'"},
                            {"quantify " + record + " -", "z\n5\n", 3, "no column 'y'"},
                            {"quantify " + record + " -", "kind,y\nblank,5\n", 2, "no sample or control"},
                            {"quantify demo/density.json -", "y\n5\n", 3, "truecurve.calibration/1"},
                            {"quantify " + record + " - --figure " + figure + " --figure-sample B", "sample,y\nA,5\n",
                             2, "no sample 'B'"},
                            {"quantify " + record + " - --figure " + figure, "sample,y\nA,99\n", 2, "not reached"}}) {
    const auto result = run_typed(line, input);
    EXPECT_EQ(result.code, code) << result.error;
    EXPECT_EQ(result.out, "");
    EXPECT_TRUE(has(result.error, says));
  }
}

// Runs a command in a process of its own whose files may not grow beyond `bytes`, as on a disk that is full.
int code_on_full_disk(const std::vector<std::string>& arguments, std::size_t bytes) {
  const pid_t child = fork();
  if (child == 0) {
    const rlimit limit{bytes, bytes};
    std::signal(SIGXFSZ, SIG_IGN);
    setrlimit(RLIMIT_FSIZE, &limit);
    const auto result = run_command(arguments, six_points);
    // The drawing library has a file of its own in the temporary folder.
    const bool is_told = (result.error.find("the file can't be written") != std::string::npos ||
                          result.error.find("the figure can't be drawn") != std::string::npos) &&
                         result.out.empty();
    _exit(result.code == 5 && !is_told ? 1 : result.code);
  }
  int status = 0;
  waitpid(child, &status, 0);
  return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

// Every kind of file, at every output: on a full disk nothing is new, and what was there is there.
TEST(Command, LosesNothingOnAFullDisk) {
  const TemporaryFolder folder;
  const auto files = [&folder] {
    std::map<std::string, std::string> found;
    for (const auto& entry : std::filesystem::directory_iterator(folder.path()))
      found[entry.path().filename().string()] = test::file_text(entry.path());
    return found;
  };
  struct Output {
    std::vector<std::string> command;
    const char *option, *ending;
  };
  const std::vector<std::string> simulate = {"simulate", "y = a + b*x", "--at",    "x=0..9 step 0.001",
                                             "--truth",  "a=1",         "--truth", "b=2"};
  for (const auto& [command, option, ending] : std::vector<Output>{{fit_line, "--output", ".json"},
                                                                   {fit_line, "--figure", ".svg"},
                                                                   {fit_line, "--figure", ".png"},
                                                                   {fit_line, "--figure", ".pdf"},
                                                                   {simulate, "--output", ".csv"}}) {
    const std::string name = std::string("result") + ending;
    const auto arguments = with(command, {option, (folder / name).string()});
    ASSERT_EQ(code_on_full_disk(arguments, 10'000'000), 0) << ending;
    const auto whole = files();
    ASSERT_EQ(whole.size(), 1u);
    const std::size_t size = whole.at(name).size();
    for (const std::size_t bytes : {std::size_t{0}, std::min<std::size_t>(2000, size - 1), size - 1}) {
      EXPECT_EQ(code_on_full_disk(arguments, bytes), 5) << ending << " " << bytes;
      EXPECT_EQ(files(), whole) << ending << " " << bytes;
      // Together with another result, which would have had room.
      EXPECT_EQ(code_on_full_disk(
                    with(fit_line, {"--output", (folder / "x.json").string(), "--figure", (folder / "y.png").string()}),
                    8000),
                5);
      EXPECT_EQ(files(), whole);
    }
    std::filesystem::remove(folder / name);
    EXPECT_EQ(code_on_full_disk(arguments, size - 1), 5) << ending;
    EXPECT_TRUE(files().empty()) << ending;
  }
}

TEST(Command, WritesNoFileThatItReadsAndNoneTwice) {
  const TemporaryFolder folder;
  const std::string table = folder / "table.csv";
  std::ofstream(table) << six_points;
  const std::vector<std::string> fit = {"fit", table, "line", "--x", "x", "--y", "y"};
  const std::string record = folder / "line.json";
  ASSERT_EQ(run_command(with(fit, {"--output", record})).code, 0);
  const std::string before = test::file_text(record);
  std::filesystem::create_symlink("table.csv", folder / "link.csv");
  const std::vector<std::string> predict = {"predict", record, "--at-file", table};
  struct Refused {
    std::vector<std::string> arguments;
    const char* says;
  };
  for (const auto& [arguments, says] : std::vector<Refused>{
           {with(fit, {"--output", table}), "which is read"},
           {with(fit, {"--output", folder / "." / "table.csv"}), "which is read"},
           {with(fit, {"--output", folder / "link.csv"}), "which is read"},
           {with(predict, {"--output", record}), "which is read"},
           {with(predict, {"--output", table}), "which is read"},
           {with(fit, {"--output", folder / "a.svg", "--figure", folder / "a.svg"}), "both name"},
           {with(fit, {"--figure", folder / "a.svg", "--figure-checks", folder / "." / "a.svg"}), "both name"},
           {with(fit, {"--figure", folder / "a.png", "--figure", folder / "a.png"}), "twice"},
           {with(fit, {"--figure", folder / "a.png", "--figure-checks", folder / "a.png"}), "both name"},
           {with(fit, {"--figure", "/"}), "is a folder"},
           {with(fit, {"--figure="}), "--figure"},
           {with(fit, {"--output", folder.path().string()}), "is a folder"}}) {
    const auto result = run_command(arguments);
    EXPECT_EQ(result.code, 2) << result.error;
    EXPECT_TRUE(has(result.error, says));
    EXPECT_EQ(test::file_text(table), six_points);
    EXPECT_EQ(test::file_text(record), before);
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 3);
  }
  EXPECT_EQ(run_command(with(fit, {"--output", "/dev/null"})).code, 0);
  EXPECT_EQ(run_command(with(fit, {"--output", record})).code, 0) << "its own record of before may be replaced";
}

TEST(Command, LeavesNothingHalfWritten) {
  const TemporaryFolder folder;
  std::ofstream(folder / "old.json") << "old";
  std::filesystem::create_directory(folder / "taken.json");
  EXPECT_EQ(run_command(with(fit_line, {"--output", (folder / "old.json").string()}), "x,y\n1,2\n1,3\n").code, 4);
  EXPECT_EQ(test::file_text(folder / "old.json"), "old");
  EXPECT_EQ(run_command(with(fit_line, {"--output", (folder / "taken.json").string()}), six_points).code, 2);
  std::size_t entries = 0;
  for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(folder.path())) ++entries;
  EXPECT_EQ(entries, 2u);
}

TEST(Record, RefusesWhatIsDamaged) {
  const auto record = run_command(with(fit_line, {"--format", "json"}), six_points).out;
  const auto changed = [&](const std::string& from, const std::string& to) {
    std::string text = record;
    text.replace(text.find(from), from.size(), to);
    return text;
  };
  for (const std::string& text :
       {std::string("{"), std::string("[]"), std::string("{\"record\": \"other/1\"}"),
        changed("\"name\": \"a\"", "\"name\": \"q\""), changed("\"covariance\"", "\"covariant\""),
        changed("\"value\": ", "\"value\": \"x\", \"v\": "),
        changed("\"text\": \"y = a + b*x\"", "\"text\": \"y = a + b*x + c\"")}) {
    try {
      (void)read_fit_record(text, "line.json");
      ADD_FAILURE() << text.substr(0, 200);
    } catch (const Error& error) {
      EXPECT_EQ(error.code(), ErrorCode::bad_record) << error.what();
      EXPECT_EQ(error.place().file, "line.json");
    }
  }
}

TEST(LookCommand, ShowsWhatIsInTheFile) {
  const auto result = run_typed("look demo/lead_standards.csv");
  EXPECT_EQ(result.code, 0);
  for (const char* expected :
       {"32 rows of 3 columns", "semicolon-separated, decimal comma", "I (kcps)", "'standard' is a text column"})
    EXPECT_TRUE(has(result.out, expected));
  const auto odd = run_typed("look -", "x,y\n1,2\n2,NA\n3,<1\n4,3\n5,2\n6,3\n7,99\n");
  for (const char* expected : {"missing in row 2", "row 3 ('<1')", "far from its other values in row 7"})
    EXPECT_TRUE(has(odd.out, expected));
  EXPECT_TRUE(has(run_typed("look - --format csv", six_points).out, "x,,6,0,0,3.5,"));
}

// One page in every form, a figure to several files, and a refusal of what a result has not.
// A name or a cell as long as a file is not printed whole, in pages and complaints.
TEST(Command, SaysLongNamesInShort) {
  const std::string name(100'000, 'n');
  const auto look = run_typed("look -", "x," + name + "\n1," + std::string(100'000, 'a') + "\n2,3\n3,4\n");
  EXPECT_EQ(look.code, 0);
  EXPECT_LT(look.out.size(), 4000U);
  const std::string shorter(3000, 'n');
  const auto line =
      run_command({"fit", "-", "line", "--x", "x", "--y", shorter}, "x," + shorter + "\n1,1\n2,3\n3,4\n4,6\n");
  EXPECT_EQ(line.code, 0) << line.error;
  EXPECT_LT(line.out.size() + line.error.size(), 20'000U) << line.out;
  const auto refused = run_typed("look -", "x,y\n1," + std::string(100'000, '7') + "\n");
  EXPECT_EQ(refused.code, 3);
  EXPECT_LT(refused.error.size(), 1500U);
  EXPECT_TRUE(has(refused.error, "is outside the range of a double"));
}

TEST(Command, PrintsItsPageInEveryForm) {
  const test::TemporaryFolder folder;
  const std::string line = "fit - line --x x --y y";
  const std::string text = run_typed(line, six_points).out;
  const std::string slope = text.substr(text.find("the slope b is ") + 15, 5);
  for (const auto& [form, mark] : {std::pair{"markdown", "### Parameters\n"}, {"latex", "\\subsection*{Parameters}"}}) {
    const auto printed = run_typed(line + " --format " + form, six_points);
    EXPECT_EQ(printed.code, 0);
    EXPECT_TRUE(has(printed.out, mark));
    EXPECT_TRUE(has(printed.out, "the slope b is " + slope));
  }
  const auto drawn =
      run_typed(fmt::format("{0} --figure {1}/a.svg --figure {1}/b.png", line, folder.path().string()), six_points);
  EXPECT_EQ(drawn.out, text);
  for (const char* file : {"a.svg", "b.png"}) EXPECT_GT(std::filesystem::file_size(folder / file), 1000u) << file;
  // What the laboratory called a sample is no formula; for a program it stays what it is.
  const std::string unknowns = "quantify demo/lead_calibration.json - --format csv";
  const std::string sample = "sample,I\n=1+1,10\n-5,12\n";
  EXPECT_TRUE(has(run_typed(unknowns + " --for-spreadsheet", sample).out, "\n'=1+1,"));
  EXPECT_TRUE(has(run_typed(unknowns, sample).out, "\n=1+1,"));
  const auto no_csv = run_typed(line + " --for-spreadsheet", six_points);
  EXPECT_EQ(no_csv.code, 2);
  EXPECT_TRUE(has(no_csv.error, "add --format csv"));
  const auto refused = run_typed("look - --format json", six_points);
  EXPECT_EQ(refused.code, 2);
  EXPECT_TRUE(has(refused.error, "text,csv,markdown,latex"));
}

TEST(Command, ExplainsItself) {
  std::istringstream overview(run_typed("help").out);
  std::string command;
  std::getline(overview, command);
  int commands = 0;
  for (std::string shown; std::getline(overview, shown) && !shown.empty();) {
    if (shown.starts_with("   ")) continue;  // more of the line before
    command = shown.substr(2, shown.find(' ', 2) - 2);
    ++commands;
    SCOPED_TRACE(command);
    const auto help = run_command({command, "--help"});
    EXPECT_EQ(help.code, 0);
    EXPECT_TRUE(has(help.out, "Example"));
    // The example must work from the source folder.
    const auto at = help.out.find("truecurve " + command, help.out.find("Example"));
    std::istringstream line(help.out.substr(at + 10, help.out.find('\n', at) - at - 10));
    std::vector<std::string> words;
    const TemporaryFolder folder;
    // Quotation marks hold the blanks of one argument.
    for (std::string word; line >> std::quoted(word);) {
      if (word.starts_with("demo/")) word = demo_file(word.substr(5));
      if (word.ends_with(".png") || word == "bells") word = folder / word;
      words.push_back(word);
    }
    if (command != "demo") EXPECT_EQ(run_command(words).code, 0) << help.out;  // which the tests of studies run
  }
  EXPECT_GE(commands, 14);
  EXPECT_EQ(run_typed("--version").out, std::string("truecurve ") + TRUECURVE_VERSION + "\n");
  EXPECT_TRUE(has(run_typed("shapes").out, "y = a + b*x"));
  const std::string named = run_typed("shapes cooling").out;
  EXPECT_TRUE(named.starts_with("newton-cooling\n")) << named;
  EXPECT_EQ(named.find("\n\n"), named.size() - 2) << "one shape";
  EXPECT_TRUE(run_typed("shapes polynomial(3)").out.starts_with("polynomial(k)\n"));
  const test::CommandResult unknown = run_typed("shapes line exponental");
  EXPECT_EQ(unknown.code, 2);
  EXPECT_TRUE(has(unknown.error, "did you mean 'exponential'"));
  EXPECT_EQ(unknown.out, "");
}

// A curve from preview to its figures: what was given, held, limited and searched comes back in the record.
TEST(Command, TakesACurveFromItsStartsToItsProfiles) {
  const test::TemporaryFolder folder;
  const std::vector<std::string> curve = {demo_file("pour_cooling.csv"), "T = T_s + (T_0 - T_s)*exp(-t/tau)"};
  auto preview = with({"preview"}, curve);
  const auto looked = test::json_of(
      run_command(with(preview, {"--start", "tau=20", "--format", "json", "--figure", (folder / "p.svg").string()})));
  EXPECT_EQ(looked["record"], "truecurve.preview/1");
  EXPECT_EQ(looked["parameters"][2]["origin"], "given");
  EXPECT_EQ(looked["parameters"][0]["origin"], "solved");
  EXPECT_GT(std::filesystem::file_size(folder / "p.svg"), 1000u);
  EXPECT_TRUE(has(run_command(preview).out, "proposed from the data"));
  EXPECT_EQ(run_command(with(preview, {"--format", "csv"})).out.substr(0, 18), "name,start,origin\n");
  const auto record = test::json_of(run_command(with(
      with({"fit"}, curve), {"--within", "tau=..60", "--fix", "T_s=24", "--interval", "profile", "--show-start",
                             "--figure", (folder / "f.svg").string(), "--figure-profiles", (folder / "c.svg").string(),
                             "--figure-regions", (folder / "r.svg").string(), "--format", "json"})));
  EXPECT_EQ(record["parameters"][0]["fixed"], true);
  EXPECT_EQ(record["parameters"][2]["within"]["high"], 60.0);
  EXPECT_TRUE(record["parameters"][2]["within"]["low"].is_null());
  EXPECT_EQ(record["profiles"].size(), 2u);
  EXPECT_EQ(record["profiles"][1]["symmetric_is_trusted"], true);
  EXPECT_LT(record["curvature"]["intrinsic"], 0.1);
  for (const char* name : {"f.svg", "c.svg", "r.svg"}) EXPECT_GT(std::filesystem::file_size(folder / name), 1000u);
}

// A search that gives up returns the best so far, marked, with exit code 4; null where nothing is known.
TEST(Command, MarksAFitThatDidNotConverge) {
  const auto stopped = run_typed("fit - 'y = a*exp(b*x)' --start b=-30 --most-evaluations 4 --format json", six_points);
  EXPECT_EQ(stopped.code, 4);
  const auto record = nlohmann::json::parse(stopped.out);
  EXPECT_EQ(record["solver"]["converged"], false);
  EXPECT_EQ(record["solver"]["stop"], "evaluations");
  EXPECT_EQ(record["warnings"][0]["code"], "not_converged");
  EXPECT_TRUE(record["parameters"][1]["value"].is_number());
  EXPECT_FALSE(has(stopped.out, "nan"));
  // What was not made is not claimed.
  const auto text =
      run_typed("fit - 'y = a*exp(b*x)' --start b=-30 --most-evaluations 4 --interval profile", six_points);
  EXPECT_FALSE(has(text.out, "profile interval"));
}

}  // namespace
}  // namespace truecurve
