// Whole studies: run, repeated byte for byte, and refused with line, column and remedy.
#include <truecurve/io/record.hpp>
#include <truecurve/io/study.hpp>

#include "../../demo/truth.hpp"
#include "../support.hpp"

#include <fstream>

namespace truecurve {
namespace {

using test::file_text;
using test::run_command;
using test::run_typed;
using test::TemporaryFolder;

std::string demo_study() { return (test::source_folder() / "demo/foundry.toml").string(); }

std::size_t files_in(const std::filesystem::path& folder) {
  return static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(folder), {}));
}

// What a record says of a quantity against its truth, in standard uncertainties.
double off(const nlohmann::json& quantity, double truth, const char* value = "value") {
  return std::abs(quantity[value].get<double>() - truth) / quantity["standard_uncertainty"].get<double>();
}

// Every parameter of a fit record, in its order.
void expect_truths(const nlohmann::json& fit, const std::vector<double>& truths) {
  ASSERT_EQ(fit["parameters"].size(), truths.size());
  for (std::size_t j = 0; j < truths.size(); ++j)
    EXPECT_LT(off(fit["parameters"][j], truths[j]), 3) << fit["model"]["text"] << fit["parameters"][j]["name"];
}

void expect_results_near_truth(const std::filesystem::path& results) {
  const auto record = [&results](const std::string& task) {
    return nlohmann::json::parse(file_text(results / (task + ".json")));
  };
  const auto candidate = [](const nlohmann::json& comparison, const std::string& name) {
    for (const auto& c : comparison["candidates"]) {
      if (c["name"] == name) return c["fit"];
    }
    return nlohmann::json();
  };
  const auto lead = record("lead")["reported"];
  using Lead = demo::LeadCalibrationTruth;
  const double truths[] = {0, Lead::sensitivity};  // the blank was taken off
  for (std::size_t j = 0; j < 2; ++j)
    EXPECT_LT(std::abs(lead["parameters"][j]["value"].get<double>() - truths[j]) /
                  std::sqrt(lead["covariance"][j][j].get<double>()),
              3);
  const auto castings = record("castings")["unknowns"];
  ASSERT_EQ(castings.size(), demo::LeadUnknownsTruth::samples.size());
  for (std::size_t i = 0; i < castings.size(); ++i)
    EXPECT_LT(off(castings[i], demo::LeadUnknownsTruth::samples[i].amount, "amount"), 3) << castings[i]["sample"];
  const auto dross = record("dross")["unknowns"];
  for (std::size_t i = 0; i + 1 < dross.size(); ++i)  // the last is above the range
    EXPECT_LT(off(dross[i], demo::TracerSamplesTruth::samples[i].activity, "amount"), 3) << dross[i]["sample"];
  const auto clappers = record("clappers");
  expect_truths(clappers, {demo::ClappersTruth::at_100, demo::ClappersTruth::exponent});
  EXPECT_LT(off(clappers["scatter"], demo::ClappersTruth::scatter), 3);
  expect_truths(record("rinse"), {demo::RinseTruth::median});
  EXPECT_LT(off(record("rinse")["scatter"], demo::RinseTruth::scatter), 3);
  expect_truths(record("thermometers"), {demo::ThermometerTruth::offset, demo::ThermometerTruth::slope});
  using Cooling = demo::CoolingTruth;
  expect_truths(record("cooling"), {Cooling::surroundings, Cooling::poured, Cooling::tau});
  EXPECT_LT(off(record("half_life")["derived"][0], Cooling::tau * std::log(2.0)), 3);
  const double cold =
      -Cooling::tau * std::log((100 - Cooling::surroundings) / (Cooling::poured - Cooling::surroundings));
  EXPECT_LT(off(record("cold_enough")["roots"][0], cold), 3);
  using Ring = demo::RingDownTruth;
  expect_truths(record("ring_down"), {Ring::offset, Ring::amplitude, Ring::tau, Ring::frequency, Ring::phase});
  using Resonance = demo::ResonanceTruth;
  expect_truths(record("resonance"),
                {Resonance::b0, Resonance::b1, Resonance::height, Resonance::f0, Resonance::width});
  constexpr double gas_constant = 8.31446261815324;
  const auto viscosity = record("viscosity");
  using Viscosity = demo::ViscosityTruth;
  expect_truths(candidate(viscosity, "arrhenius"), {Viscosity::a, Viscosity::energy / gas_constant});
  expect_truths(candidate(viscosity, "arrhenius, linearized"),
                {std::log(Viscosity::a), Viscosity::energy / gas_constant});
  using Density = demo::DensityTruth;
  EXPECT_EQ(record("density_ladder")["suggestion"]["name"], "polynomial(2)");
  expect_truths(record("density"), {Density::b0, Density::b1, Density::b2});
  const auto bell_bronze = record("bell_bronze");
  for (const auto& point : bell_bronze["points"]) {
    const double w = point["at"]["w_Sn"];
    EXPECT_LT(off(point, Density::b0 + Density::b1 * w + Density::b2 * w * w), 3) << w;
  }
  using Tone = demo::ToneTruth;
  expect_truths(record("tone"), {std::log(Tone::c), Tone::p, Tone::q});
  const auto patina = record("patina");
  using Patina = demo::PatinaTruth;
  EXPECT_EQ(patina["suggestion"]["name"], "logistic");
  expect_truths(candidate(patina, "logistic"), {Patina::limit, Patina::rate, Patina::middle});
  for (const auto& held : patina["hold_out"]) {
    if (held["name"] == "logistic") EXPECT_LT(std::abs(held["rows"][0]["in_uncertainties"].get<double>()), 3);
  }
}

// The demo makes its own data and their study; run once more, the study makes the same bytes, and every result is near
// its truth.
TEST(Study, RunsTheFoundryTheSameTwiceAndNearTheTruth) {
  const TemporaryFolder folder;
  const auto before = std::filesystem::current_path();
  std::filesystem::current_path(folder.path());
  const auto first = run_typed("demo bells");
  ASSERT_EQ(first.code, 0) << first.error;
  EXPECT_EQ(files_in("."), 1u);  // nothing but the folder asked for
  const std::string page = file_text("bells/results/report.html");
  const std::string figure = file_text("bells/results/lead-residuals.svg");
  std::ofstream("bells/results/notes.txt") << "mine";
  const auto second = run_typed("run bells/foundry.toml --into bells/results");
  EXPECT_TRUE(page == file_text("bells/results/report.html"));
  EXPECT_TRUE(figure == file_text("bells/results/lead-residuals.svg"));
  EXPECT_EQ(file_text("bells/results/notes.txt"), "mine");
  EXPECT_EQ(first.out, second.out);
  // From another folder too; once more takes long where it is watched.
  if (!test::is_sanitized()) {
    std::map<std::string, std::string> made;
    for (const auto& file : std::filesystem::directory_iterator("bells/results")) made[file.path()] = file_text(file);
    std::filesystem::create_directory("bells/elsewhere");  // and the folder of results with a slash
    std::filesystem::current_path("bells/elsewhere");
    ASSERT_EQ(run_command({"run", "../foundry.toml", "--into", folder / "bells/results/"}).code, 0);
    std::filesystem::current_path(folder.path());
    for (const auto& [name, bytes] : made) {
      EXPECT_TRUE(file_text(name) == bytes) << name;
      if (name.ends_with(".json")) EXPECT_NO_THROW(require_record(bytes, name));
    }
    EXPECT_GT(made.size(), 60u);
    EXPECT_TRUE(has(made["bells/results/density.json"], "\"source\": \"density.csv\""));
  }
  std::filesystem::current_path(before);
  EXPECT_EQ(file_text(folder / "bells/lead_calibration.csv"),
            file_text(test::source_folder() / "demo/lead_calibration.csv"));
  EXPECT_EQ(file_text(folder / "bells/foundry.toml"), file_text(demo_study()));

  const Study study = read_study(demo_study());
  EXPECT_EQ(study.tasks.size(), 25u);
  for (const StudyTable& task : study.tasks) EXPECT_TRUE(has(page, "<section id=\"" + task.name + "\">")) << task.name;
  EXPECT_FALSE(has(page, "<script"));
  for (const std::string& expected :
       {std::string("<svg"), std::string("<title>The bell foundry's"), std::string("not detected (critical value"),
        study.sha256, std::string("truecurve quantify results/lead.json lead_unknowns.csv"),
        std::string("class=\"fraction\">.961(56)"), std::string("--leave-out '36: mistyped, the notebook says 26.57'")})
    EXPECT_TRUE(has(page, expected));
  const auto results = folder / "bells/results";
  EXPECT_EQ(nlohmann::json::parse(file_text(results / "lead.json"))["data"]["left_out"][0]["reason"],
            "mistyped, the notebook says 26.57");
  EXPECT_EQ(file_text(results / "cooling.png").substr(1, 3), "PNG");
  expect_results_near_truth(results);
  EXPECT_TRUE(has(run_command({"run", demo_study(), "--check"}).out, "no problems found"));
  EXPECT_EQ(run_typed("demo /proc/none").code, 5);
}

TEST(Study, TakesTitlesNotesUnitsAndKeepsATaskOffThePage) {
  const TemporaryFolder folder;
  std::ofstream(folder / "d.csv") << "x,y\n1,2\n2,3.9\n3,6.1\n4,8.1\n";
  std::ofstream(folder / "s.toml") << R"toml(
[study]
title = "Two lines"
note = "Made <for> a test."
[data.d]
file = "d.csv"
unit = ["x=min", "y=mm"]
x = "x"
y = "y"
[[task]]
name = "first"
title = "The first & best"
note = "Watch this."
command = "fit"
data = "d"
model = "line"
[[task]]
name = "hidden"
report = false
command = "fit"
data = "d"
model = "line-through-origin"
[[task]]
name = "slope"
command = "derive"
record = "first"
quantities = ["twice = 2*b", "half = b/2"]
hypothesis = "b = 2"
)toml";
  const auto result = run_command({"run", folder / "s.toml", "--into", folder / "out"});
  ASSERT_EQ(result.code, 0) << result.error;
  const std::string page = file_text(folder / "out/report.html");
  for (const char* expected : {"<h2>The first &amp; best</h2>", "<p>Watch this.</p>", "<p>Made &lt;for&gt; a test.</p>",
                               "mm/min", "Residual checks", "Hypotheses", "<td>twice</td>"})
    EXPECT_TRUE(has(page, expected));
  EXPECT_FALSE(has(page, "section id=\"hidden\""));
  EXPECT_TRUE(std::filesystem::exists(folder / "out/hidden.json"));
}

TEST(Study, IsRefusedWithItsPlaceAndLeavesNothing) {
  struct Case {
    const char* text;
    int code;
    const char *place, *says;
  };
  const TemporaryFolder folder;
  std::ofstream(folder / "d.csv") << "x,y\n1,2\n2,3.9\n3,6.1\n";
  const std::string head = "[data.d]\nfile = 'd.csv'\nx = 'x'\ny = 'y'\n";  // four lines
  for (const auto& [text, code, place, says] :
       {Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\nmodle = 'line'\n", 2, ":9:1", "did you mean 'model'"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fti'\n", 2, ":7:1", "did you mean 'fit'"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'e'\nmodel = 'line'\n", 2, ":8:1", "no data 'e'"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = []\nmodel = 'line'\n", 2, ":8:1", "there are no data ''"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\n", 2, ":5:1", "needs 'model'"},
        Case{"[[task]]\nname = 'a b'\ncommand = 'fit'\n", 2, ":5:1", "file names"},
        Case{"[[task]]\nname = 'a'\n", 2, ":5:1", "no command"},
        Case{"[[task]]\nname = 'a'\ncommand = 'solve'\nrecord = 'b'\nfor = 'y=3'\n", 2, ":8:1", "stands before"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\nmodel = 'line'\nfigure = 'x.png'\n", 2, ":10:1",
             "write true"},
        Case{"[[tsk]]\nname = 'a'\n", 2, ":5:3", "did you mean 'task'"}, Case{"[[task]\n", 2, ":5:", "not TOML"},
        Case{"[data.e]\nfile = 'none.csv'\n[[task]]\nname = 'a'\ncommand = 'look'\ndata = 'e'\n", 3, ":6:1",
             "relative to the study"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\nmodel = 'line'\n[[task]]\nname = 'b'\ncommand = "
             "'fit'\ndata = "
             "'d'\nmodel = 'lime'\n",
             2, ":10:1", "did you mean 'line'"},
        Case{"[[task]]\nname = 'a'\ncommand = 'calibrate'\ndata = 'd'\nblanks = 'none.csv'\n", 3, ":9:1",
             "relative to the study"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\nmodel = '--figure=e.svg'\n", 2, ":9:1",
             "begins as an option"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\nmodel = 'line'\norder = '--output=e.json'\n", 2,
             ":10:1", "begins as an option"},
        Case{"[[task]]\nname = 'a'\ncommand = 'compare'\ndata = 'd'\ncandidates = ['line', '-h']\n", 2, ":9:1",
             "begins as an option"},
        // What TOML's reader takes for granted.
        Case{"[[task]]\nname = 'a'\n[=]\ncommand = 'fit'\n", 2, ":7", "not TOML"},
        Case{"[\x03ta]\n", 2, ":5", "not TOML"}, Case{"[a]\n[[,]]", 2, ":6", "not TOML"}, Case{"", 2, "", "no task"}}) {
    std::ofstream(folder / "s.toml") << head << text;
    const auto result = run_command({"run", folder / "s.toml", "--into", folder / "out"});
    EXPECT_EQ(result.code, code) << result.error;
    EXPECT_EQ(result.out, "");
    EXPECT_TRUE(has(result.error, says));
    EXPECT_TRUE(has(result.error, std::string("s.toml") + place)) << place << result.error;
    EXPECT_EQ(files_in(folder.path()), 2u) << result.error;
  }
  EXPECT_EQ(run_command({"run", folder / "none.toml", "--into", "x"}).code, 3);
  // A table of blanks is that beside the study, wherever the command is run, and stands among the sources.
  std::ofstream(folder / "b.csv") << "y\n0.1\n0.12\n0.09\n";
  std::ofstream(folder / "s.toml") << head
                                   << "[[task]]\nname = 'a'\ncommand = 'calibrate'\ndata = 'd'\nblanks = 'b.csv'\n";
  const auto before = std::filesystem::current_path();
  const TemporaryFolder elsewhere;
  std::ofstream(elsewhere / "b.csv") << "y\n9\n9.1\n9.2\n";
  std::filesystem::current_path(elsewhere.path());
  const auto result = run_command({"run", folder / "s.toml", "--into", folder / "out"});
  std::filesystem::current_path(before);
  ASSERT_EQ(result.code, 0) << result.error;
  const auto record = nlohmann::json::parse(file_text(std::filesystem::path(folder / "out/a.json")));
  EXPECT_NEAR(record["blank"]["mean"].get<double>(), 0.31 / 3, 1e-12);
  EXPECT_TRUE(has(file_text(std::filesystem::path(folder / "out/report.html")), "b.csv</td><td><code>"));
  // No two results have one name, and none is a file that the study reads.
  const std::string fit = "command = 'fit'\ndata = 'd'\nmodel = 'line'\n";
  std::ofstream(folder / "s.toml") << head << "[[task]]\nname = 'a'\n"
                                   << fit << "figure-checks = true\n"
                                   << "[[task]]\nname = 'a-checks'\n"
                                   << fit << "figure = true\n";
  const auto twice = run_command({"run", folder / "s.toml", "--check"});
  EXPECT_EQ(twice.code, 2);
  EXPECT_TRUE(
      has(twice.error,
          "s.toml:11:1: a result of the task 'a-checks' would be named a-checks.svg, as one of the task 'a' is"));
  std::filesystem::create_directory(folder / "in");
  std::filesystem::rename(folder / "d.csv", folder / "in" / "a.txt");
  std::ofstream(folder / "s.toml") << "[data.d]\nfile = 'in/a.txt'\nx = 'x'\ny = 'y'\n[[task]]\nname = 'a'\n" << fit;
  const std::string rows = file_text(folder / "in" / "a.txt");
  const auto read = run_command({"run", folder / "s.toml", "--into", folder / "in/"});
  EXPECT_EQ(read.code, 2);
  EXPECT_TRUE(has(read.error, "which the study reads"));
  EXPECT_EQ(file_text(folder / "in" / "a.txt"), rows);
  EXPECT_EQ(files_in(folder / "in"), 1u);
  EXPECT_EQ(run_command({"run", folder / "s.toml", "--into", folder / "out"}).code, 0);
  EXPECT_EQ(run_command({"run", folder / "s.toml", "--into", folder / "b.csv"}).code, 5) << "that is a file";
  EXPECT_EQ(run_command({"run", demo_study()}).code, 2);
  EXPECT_EQ(run_command({"run", demo_study(), "--into", "/proc/none/out"}).code, 5);
}

}  // namespace
}  // namespace truecurve
