// Limits among the responses through the command: cells, words, pages, records, figures, refusals.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

using nlohmann::json;
using test::run_command;
using test::run_typed;

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
        "share above", "Other distributions about the same curve", "taken as measured", "A_half", "Both are biased"})
    EXPECT_TRUE(has(made.out, words));
  const std::string drawing = test::file_text(figure);
  for (const char* words : {"limit, the response beyond", "5 limits", "middle 80 % of responses", "10⁷"})
    EXPECT_TRUE(has(drawing, words));
  EXPECT_TRUE(has(test::file_text(plot), "in units of the scatter"));
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
  const std::string how = "fit - 'ln(N) = a + b*ln(S)' --distribution weibull --format csv";
  const auto cells = run_typed(how, lives);
  const auto words = run_typed(how + " --censored end", worded);
  ASSERT_EQ(cells.code, 0) << cells.error;
  EXPECT_EQ(cells.out, words.out);
  EXPECT_TRUE(cells.out.starts_with("name,value,standard_uncertainty,low,high,unit\na,")) << cells.out;
  EXPECT_TRUE(has(cells.out, "\nk,"));
  // A parameter of the curve keeps its name, and the scatter takes another.
  const auto taken = run_typed("fit - 'N = k' --distribution weibull", lives);
  EXPECT_TRUE(has(taken.out, "shape_k")) << taken.error;
  EXPECT_TRUE(has(taken.out, "The measured rows reach from the share"));
  EXPECT_TRUE(has(taken.out, "Only 7 rows are measured"));
  const auto held = run_typed("fit - 'ln(N) = a + b*ln(S)' --distribution lognormal --fix b=-4", lives);
  EXPECT_TRUE(has(held.out, "held")) << held.error;
}

// Whole numbers may be counts; with a unit, a fraction or round numbers only they are not said to be.
TEST(CensoredCommand, LookTellsWhatMayBeCounts) {
  const auto says = [](const std::string& table) {
    return run_typed("look - --x t --y N", table).out.find("holds whole numbers only") != std::string::npos;
  };
  EXPECT_TRUE(says("t,N\n0,31\n1,22\n2,17\n3,9\n4,0\n"));
  EXPECT_FALSE(says("t,N (V)\n0,31\n1,22\n2,17\n3,9\n4,0\n"));
  EXPECT_FALSE(says("t,N\n0,31\n1,22.5\n2,17\n3,9\n4,0\n"));
  EXPECT_FALSE(says("t,N\n0,310\n1,220\n2,170\n3,90\n4,0\n"));
  EXPECT_FALSE(says("t,N\n0,-1\n1,22\n2,17\n3,9\n4,0\n"));
}

TEST(CensoredCommand, RefusesWhatDoesNotGoTogether) {
  const auto refused = [](const std::string& more, const char* model = "N = A") {
    const auto result = test::run_typed(fmt::format("fit - '{}' {}", model, more), lives);
    EXPECT_NE(result.code, 0);
    return result.error;
  };
  EXPECT_TRUE(has(refused(""), "--distribution normal, lognormal or weibull"));
  EXPECT_TRUE(has(refused("--censored S"), "how the responses scatter"));
  for (const std::string more :
       {"--u N=1", "--spread proportional", "--within A=0..", "--counts", "--leave-out invalid", "--penalised",
        "--figure-checks c.svg", "--interval symmetric", "--uncertainty scatter"})
    EXPECT_TRUE(has(refused("--distribution normal " + more), more.substr(0, more.find(' '))));
  EXPECT_TRUE(has(refused("--distribution normal --quantiles 0.1", "N = a + b*S"), "--quantiles-at S=VALUE"));
  EXPECT_TRUE(has(refused("--distribution normal --quantiles 1.5"), "no quantile of the share 1.5"));
  const auto stated = run_typed("fit - 'y = c' --distribution normal", "y,u(y)\n1,0.1\n2,0.1\n>3,0.1\n4,0.1\n");
  EXPECT_EQ(stated.code, 0);
  EXPECT_TRUE(has(stated.error, "the uncertainties in 'u(y)' are not used"));
  EXPECT_TRUE(has(run_typed("look -", lives).out, "limits are fitted as such"));
}

// Every candidate with every distribution, ranked; the numbers are those of the single fits.
TEST(CensoredCommand, ComparesCandidatesByAicc) {
  const std::string all =
      "compare demo/clappers.csv 'N = A*(S/100)^(-b)' 'N = A*exp(-b*S)' 'N = A*(S/100)^(-b); fix b=7; name held' ";
  const auto text = run_typed(all + "--distribution all");
  ASSERT_EQ(text.code, 0) << text.error;
  EXPECT_TRUE(has(text.out, "9 candidates for 30 rows"));
  EXPECT_TRUE(has(text.out, "N = A*exp(-b*S) (lognormal) has the smallest AICc. Within 2 of it"));
  const auto csv = run_typed(all + "--distribution weibull --format csv");
  std::istringstream lines(csv.out);
  std::string line;
  std::getline(lines, line);
  double weights = 0, before = -infinity;
  int count = 0;
  while (std::getline(lines, line)) {
    std::vector<std::string> cells;
    std::istringstream fields(line);
    for (std::string cell; std::getline(fields, cell, ',');) cells.push_back(cell);
    ASSERT_EQ(cells.size(), 8U) << line;
    EXPECT_EQ(cells[2], cells[0] == "held" ? "2" : "3");
    EXPECT_GE(test::number_of(cells[4]), before);
    before = test::number_of(cells[4]);
    weights += test::number_of(cells[6]);
    const double k = test::number_of(cells[2]);
    EXPECT_NEAR(test::number_of(cells[4]), 2 * k - 2 * test::number_of(cells[3]) + 2 * k * (k + 1) / (30 - k - 1),
                1e-9);
    ++count;
  }
  EXPECT_EQ(count, 3);
  EXPECT_NEAR(weights, 1, 1e-12);
  const auto one = run_typed("compare demo/rinse.csv 'c_Pb = c' --distribution all");
  EXPECT_TRUE(has(one.out, "Within 2 of it, and about equally")) << one.error;
  // What can't be fitted is named with its reason, and where nothing can, there is no page.
  const auto zero = run_typed("compare - 'y = c' --distribution all", "y\n0\n1\n2\n>3\n4\n");
  EXPECT_TRUE(has(zero.out, "y = c (weibull): row 1: y = 0 is not above 0")) << zero.out << zero.error;
  EXPECT_EQ(run_typed("compare - 'y = c' --distribution all", "y\n>3\n>4\n").code, 4);
  for (const std::string more : {"--censored S", "--distribution normal --folds 3",
                                 "--distribution normal --hold-out 'S > 150'", "--distribution normal --counts",
                                 "--distribution normal --format json", "--distribution normal --figure f.svg"})
    EXPECT_TRUE(has(run_typed(all + more).error, "--distribution")) << more;
  for (const std::string own : {"; spread proportional", "; within b=0..", "; uncertainty scatter"}) {
    const auto refused =
        run_typed("compare demo/clappers.csv 'N = A*exp(-b*S)' 'N = A*(S/100)^(-b)" + own + "' --distribution normal");
    EXPECT_EQ(refused.code, 2) << own << refused.out;
  }
}

}  // namespace
}  // namespace truecurve
