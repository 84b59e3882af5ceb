// Whole studies: run, repeated byte for byte, and refused with line, column and remedy.
#include <truecurve/io/study.hpp>

#include "../support.hpp"

#include <fstream>

namespace truecurve {
namespace {

using test::file_text;
using test::run_command;
using test::TemporaryFolder;

std::string demo_study() { return (test::source_folder() / "demo/foundry.toml").string(); }

std::size_t files_in(const std::filesystem::path& folder) {
  return static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(folder), {}));
}

TEST(Study, RunsTheFoundryTheSameTwice) {
  const TemporaryFolder folder;
  const auto before = std::filesystem::current_path();
  std::filesystem::current_path(folder.path());
  const auto first = run_command({"run", demo_study(), "--into", "results"});
  ASSERT_EQ(first.code, 0) << first.error;
  const std::string page = file_text("results/report.html");
  const std::string figure = file_text("results/lead-residuals.svg");
  std::ofstream("results/notes.txt") << "mine";
  const auto second = run_command({"run", demo_study(), "--into", "results"});
  EXPECT_TRUE(page == file_text("results/report.html"));
  EXPECT_TRUE(figure == file_text("results/lead-residuals.svg"));
  EXPECT_EQ(file_text("results/notes.txt"), "mine");
  EXPECT_EQ(first.out, second.out);
  EXPECT_EQ(files_in("."), 1u);  // nothing but the folder asked for
  std::filesystem::current_path(before);

  const Study study = read_study(demo_study());
  EXPECT_EQ(study.tasks.size(), 15u);
  for (const StudyTable& task : study.tasks)
    EXPECT_NE(page.find("<section id=\"" + task.name + "\">"), std::string::npos) << task.name;
  EXPECT_EQ(page.find("<script"), std::string::npos);
  for (const std::string& expected :
       {std::string("<svg"), std::string("<title>The bell foundry's"), std::string("below detection limit"),
        study.sha256, std::string("truecurve quantify results/lead.json"), std::string("class=\"fraction\">.961(53)")})
    EXPECT_NE(page.find(expected), std::string::npos) << expected;
  const auto lead = nlohmann::json::parse(file_text(folder / "results/lead.json"));
  EXPECT_EQ(lead["data"]["left_out"][0]["reason"], "mistyped, the notebook says 26.57");
  EXPECT_NE(page.find("--leave-out &quot;36: mistyped, the notebook says 26.57&quot;"), std::string::npos);
  const auto record = nlohmann::json::parse(file_text(folder / "results/castings.json"));
  EXPECT_EQ(record["unknowns"].size(), 7u);
  EXPECT_EQ(file_text(folder / "results/cooling.png").substr(1, 3), "PNG");
  EXPECT_EQ(run_command({"run", demo_study(), "--check"}).out.find("nothing to complain about") == std::string::npos,
            false);
}

TEST(Study, IsRefusedWithItsPlaceAndLeavesNothing) {
  struct Case {
    const char* text;
    int code;
    const char* place;
    const char* says;
  };
  const TemporaryFolder folder;
  std::ofstream(folder / "d.csv") << "x,y\n1,2\n2,3.9\n3,6.1\n";
  const std::string head = "[data.d]\nfile = 'd.csv'\nx = 'x'\ny = 'y'\n";  // four lines
  for (const auto& [text, code, place, says] :
       {Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\nmodle = 'line'\n", 2, ":9:1", "did you mean 'model'"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fti'\n", 2, ":7:1", "did you mean 'fit'"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'e'\nmodel = 'line'\n", 2, ":8:1", "no data 'e'"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\n", 2, ":5:1", "needs 'model'"},
        Case{"[[task]]\nname = 'a b'\ncommand = 'fit'\n", 2, ":5:1", "file names"},
        Case{"[[task]]\nname = 'a'\n", 2, ":5:1", "no command"},
        Case{"[[task]]\nname = 'a'\ncommand = 'solve'\nrecord = 'b'\nfor = 'y=3'\n", 2, ":8:1", "stands before"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\nmodel = 'line'\nfigure = 'x.png'\n", 2, ":10:1",
             "write true"},
        Case{"[[tsk]]\nname = 'a'\n", 2, ":5:3", "did you mean 'task'"}, Case{"[[task]\n", 2, ":5:", "no TOML"},
        Case{"[data.e]\nfile = 'none.csv'\n[[task]]\nname = 'a'\ncommand = 'look'\ndata = 'e'\n", 3, ":6:1",
             "relative to the study"},
        Case{"[[task]]\nname = 'a'\ncommand = 'fit'\ndata = 'd'\nmodel = 'line'\n[[task]]\nname = 'b'\ncommand = "
             "'fit'\ndata = "
             "'d'\nmodel = 'lime'\n",
             2, ":10:1", "did you mean 'line'"},
        Case{"", 2, "", "no task"}}) {
    std::ofstream(folder / "s.toml") << head << text;
    const auto result = run_command({"run", folder / "s.toml", "--into", folder / "out"});
    EXPECT_EQ(result.code, code) << result.error;
    EXPECT_EQ(result.out, "");
    EXPECT_NE(result.error.find(says), std::string::npos) << result.error;
    EXPECT_NE(result.error.find(std::string("s.toml") + place), std::string::npos) << place << result.error;
    EXPECT_EQ(files_in(folder.path()), 2u) << result.error;
  }
  EXPECT_EQ(run_command({"run", folder / "none.toml", "--into", "x"}).code, 3);
  EXPECT_EQ(run_command({"run", demo_study()}).code, 2);
  EXPECT_EQ(run_command({"run", demo_study(), "--into", "/proc/none/out"}).code, 5);
}

TEST(DemoCommand, MakesItsOwnDataAndReport) {
  const TemporaryFolder folder;
  const auto result = run_command({"demo", folder / "foundry"});
  ASSERT_EQ(result.code, 0) << result.error;
  EXPECT_EQ(file_text(folder / "foundry/lead_calibration.csv"),
            file_text(test::source_folder() / "demo/lead_calibration.csv"));
  EXPECT_EQ(file_text(folder / "foundry/foundry.toml"), file_text(demo_study()));
  EXPECT_TRUE(std::filesystem::exists(folder / "foundry/results/report.html"));
  EXPECT_EQ(run_command({"demo", "/proc/none"}).code, 5);
}

}  // namespace
}  // namespace truecurve
