// Limits among the responses through the command: cells, words, pages, records, figures, refusals.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

#include <cmath>

namespace truecurve {
namespace {

using nlohmann::json;
using test::run_command;

const char* const lives = "S,N\n100,210\n100,330\n100,>400\n80,380\n80,>400\n120,90\n120,130\n120,160\n100,280\n";

TEST(CensoredCommand, FitsRunOutsAndKeepsThem) {
  const test::TemporaryFolder folder;
  const std::string record = (folder.path() / "lives.json").string();
  const std::string figure = (folder.path() / "lives.svg").string();
  const std::string plot = (folder.path() / "plot.svg").string();
  const auto made = run_command({"fit", test::demo_file("clappers.csv"), "N = A*(S/100)^(-b)", "--distribution",
                                 "lognormal", "--quantiles-at", "S=90,100", "--quantiles", "0.01,0.5", "--derive",
                                 "A_half = A/2", "--output", record, "--figure", figure, "--figure-probability", plot});
  ASSERT_EQ(made.code, 0) << made.error;
  for (const char* words :
       {"23 measured, 7 known to lie above a limit", "A is 5.14(55)e6, b is 7.82(37) and s is 0.376(55).",
        "share above", "Other distributions about the same curve", "taken as measured", "A_half", 
        "Both are biased"})
    EXPECT_NE(made.out.find(words), std::string::npos) << words;
  const std::string drawing = test::file_text(figure);
  for (const char* words : {"limit, the response beyond", "5 limits", "middle 80 % of responses", "10⁷"})
    EXPECT_NE(drawing.find(words), std::string::npos) << words;
  EXPECT_NE(test::file_text(plot).find("in units of the scatter"), std::string::npos);
  const json kept = json::parse(test::file_text(record));
  EXPECT_EQ(kept["record"], "truecurve.censored/1");
  EXPECT_EQ(kept["above"], 7);
  EXPECT_EQ(kept["quantiles"].size(), 4U);
  EXPECT_EQ(kept["quantiles"][3]["at"]["S"], 100);
  EXPECT_NEAR(kept["quantiles"][3]["value"].get<double>(), kept["parameters"][0]["value"].get<double>(), 1e-3);
  EXPECT_EQ(kept["distributions"].size(), 3U);
  EXPECT_GT(kept["left_out_instead"]["A"], 4e6);
  // The curve of the record is read back.
  const auto predicted = run_command({"predict", record, "--at", "S=100", "--format", "json"});
  ASSERT_EQ(predicted.code, 0) << predicted.error;
  EXPECT_NEAR(json::parse(predicted.out)["points"][0]["value"].get<double>(),
              kept["quantiles"][3]["value"].get<double>(), 1e-3);
  EXPECT_EQ(run_command({"solve", record, "--for", "N=1e6"}).code, 0);
  EXPECT_EQ(run_command({"derive", record, "twice = 2*b"}).code, 0);
}

// Words beside the numbers say the same as signs in the cells, and so does CSV.
TEST(CensoredCommand, TakesWordsAndGivesTables) {
  const char* const worded =
      "S,N,end\n100,210,none\n100,330,none\n100,400,above\n80,380,none\n80,400,above\n120,90,none\n120,130,none\n"
      "120,160,none\n100,280,\n";
  const std::vector<std::string> how = {"fit",      "-",  "ln(N) = a + b*ln(S)", "--distribution", "weibull",
                                        "--format", "csv"};
  const auto cells = run_command(how, lives);
  std::vector<std::string> with_words = how;
  with_words.insert(with_words.end(), {"--censored", "end"});
  const auto words = run_command(with_words, worded);
  ASSERT_EQ(cells.code, 0) << cells.error;
  EXPECT_EQ(cells.out, words.out);
  EXPECT_TRUE(cells.out.starts_with("name,value,standard_uncertainty,low,high,unit\na,")) << cells.out;
  EXPECT_NE(cells.out.find("\nk,"), std::string::npos);
  // A parameter of the curve keeps its name, and the scatter takes another.
  const auto taken = run_command({"fit", "-", "N = k", "--distribution", "weibull"}, lives);
  EXPECT_NE(taken.out.find("shape_k"), std::string::npos) << taken.error;
  EXPECT_NE(taken.out.find("The measured rows reach from the share"), std::string::npos);
  EXPECT_NE(taken.out.find("Only 7 rows are measured"), std::string::npos);
  const auto held =
      run_command({"fit", "-", "ln(N) = a + b*ln(S)", "--distribution", "lognormal", "--fix", "b=-4"}, lives);
  EXPECT_NE(held.out.find("fixed"), std::string::npos) << held.error;
}

TEST(CensoredCommand, RefusesWhatDoesNotGoTogether) {
  const auto refused = [](std::vector<std::string> more, const char* model = "N = A") {
    std::vector<std::string> all = {"fit", "-", model};
    all.insert(all.end(), more.begin(), more.end());
    const auto result = run_command(all, lives);
    EXPECT_NE(result.code, 0);
    return result.error;
  };
  EXPECT_NE(refused({}).find("--distribution normal, lognormal or weibull"), std::string::npos);
  EXPECT_NE(refused({"--censored", "S"}).find("how the responses scatter"), std::string::npos);
  for (const std::vector<std::string>& more : {std::vector<std::string>{"--u", "N=1"},
                                               {"--spread", "proportional"},
                                               {"--within", "A=0.."},
                                               {"--counts"},
                                               {"--figure-checks", "c.svg"},
                                               {"--interval", "symmetric"},
                                               {"--uncertainty", "scatter"}}) {
    std::vector<std::string> all = {"--distribution", "normal"};
    all.insert(all.end(), more.begin(), more.end());
    EXPECT_NE(refused(all).find(more[0]), std::string::npos) << more[0];
  }
  EXPECT_NE(refused({"--distribution", "normal", "--quantiles", "0.1"}, "N = a + b*S").find("--quantiles-at S=VALUE"),
            std::string::npos);
  EXPECT_NE(refused({"--distribution", "normal", "--quantiles", "1.5"}).find("1.5 is no share"), std::string::npos);
  EXPECT_NE(run_command({"look", "-"}, lives).out.find("limits are fitted as such"),
            std::string::npos);
}

}  // namespace
}  // namespace truecurve
